import table from "./readers.json";

/** What comes of a file: a scheme's shape, neighbours, a climate year, or lines or a picture to draw over. */
export type Brings = "model" | "surroundings" | "weather" | "drawing";

const bringing = (what: Brings) => table.filter((r) => r.brings === what);

/** The reader that a file's name asks for. */
export const readerOf = (file: File) => table.find((r) => r.endings.some((e) => file.name.toLowerCase().endsWith(e)));

/** What a chooser of such files accepts. */
export const endingsOf = (what: Brings) =>
  bringing(what)
    .flatMap((r) => r.endings)
    .join(",");

/** The names of the formats, as a sentence lists them. */
export const namesOf = (what: Brings) =>
  bringing(what)
    .map((r) => r.name)
    .join(", ");
