import { marked } from "marked";
import text from "../../../../docs/user-guide.md?raw";

/** A part of the guide, by its heading. */
export interface Part {
  id: string;
  title: string;
  /** 2 for a chapter, 3 for a part of one. */
  depth: number;
  /** What stands below the heading, as it was written. */
  text: string;
}

const idOf = (title: string) =>
  title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "");

/** Cuts the guide at its headings. */
function partsOf(written: string): Part[] {
  const parts: Part[] = [];
  for (const block of written.split(/^(?=#{1,3} )/m)) {
    const [head, ...rest] = block.split("\n");
    const found = /^(#{1,3}) (.*)$/.exec(head);
    if (!found) continue;
    const title = found[1].length === 1 ? "Getting about" : found[2].trim();
    parts.push({ id: idOf(title), title, depth: Math.max(found[1].length, 2), text: rest.join("\n").trim() });
  }
  return parts;
}

/** The user guide, the same text as docs/user-guide.md. */
export const guide: Part[] = partsOf(text);

const pictures = import.meta.glob<string>("../../../../docs/screenshots/*.png", {
  query: "?url",
  import: "default",
  eager: true,
});

/** A part as HTML: the text is ours and built in, so that nothing of a project's can be in it. */
export function asPage(part: Part): string {
  const written = part.text.replace(/\]\(screenshots\/([a-z-]+\.png)\)/g, (whole, name: string) => {
    const address = pictures[`../../../../docs/screenshots/${name}`];
    return address ? `](${address})` : whole;
  });
  return marked.parse(written, { async: false });
}
