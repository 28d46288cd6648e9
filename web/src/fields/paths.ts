import type { FieldNote } from "./notes";

/** Looks a path up in plain documents, with ids in place of list positions. Undefined where nothing is. */
export function at(document: unknown, path: string): unknown {
  let here: unknown = document;
  for (const step of path.split("/")) {
    if (Array.isArray(here)) here = here.find((item) => (item as { id?: string }).id === step);
    else if (here !== null && typeof here === "object") here = (here as Record<string, unknown>)[step];
    else return undefined;
  }
  return here;
}

/** Whether someone gave the value at a path: it stands in what was given, and is not one that the program chose. */
export function isGiven(given: unknown, path: string): boolean {
  if (at(given, path) === undefined) return false;
  const cut = path.lastIndexOf("/");
  const part = at(given, path.slice(0, cut)) as { assumed?: string[] } | undefined;
  return !(part?.assumed ?? []).includes(path.slice(cut + 1));
}

export interface Shown {
  factor: number;
  offset: number;
  unit: string;
  digits: number;
}

/** How a field's SI value is shown: percent for shares, millimetres for thin layers, inch-pound where it is chosen. */
export function shownAs(note: FieldNote, units: "SI" | "IP", as?: "mm"): Shown {
  if (note.share) return { factor: 100, offset: 0, unit: "%", digits: 0 };
  if (as === "mm" && units === "SI") return { factor: 1000, offset: 0, unit: "mm", digits: 0 };
  if (as === "mm") return { factor: 1 / 0.0254, offset: 0, unit: "in", digits: 2 };
  if (units === "IP" && note.ip) return { ...note.ip, digits: Math.max(0, (note.digits ?? 2) + note.ip.digits) };
  return { factor: 1, offset: 0, unit: note.unit ?? "", digits: note.digits ?? 2 };
}

export function show(value: number, shown: Shown): string {
  const number = value * shown.factor + shown.offset;
  return String(Number(number.toFixed(shown.digits)));
}

/** Reads what was typed; a comma is taken as a decimal point. NaN where it is no number. */
export function read(text: string, shown: Shown): number {
  const number = Number(text.trim().replace(",", ".").replace("−", "-"));
  if (text.trim() === "" || Number.isNaN(number)) return Number.NaN;
  return Number(((number - shown.offset) / shown.factor).toFixed(9));
}
