import { at } from "../fields/paths";
import type { Edit, ProjectState } from "./client";
import type { EditStep } from "./edits";

type Plain = Record<string, unknown>;

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
const isPlain = (v: unknown): v is Plain => typeof v === "object" && v !== null && !Array.isArray(v);

/** Paths at which two documents differ; in lists whose things bear ids, by these. */
export function differences(before: unknown, after: unknown, path = ""): string[] {
  if (same(before, after)) return [];
  const below = (key: string) => (path ? `${path}/${key}` : key);
  if (isPlain(before) && isPlain(after))
    return [...new Set([...Object.keys(before), ...Object.keys(after)])].flatMap((k) =>
      differences(before[k], after[k], below(k)),
    );
  if (Array.isArray(before) && Array.isArray(after)) {
    const ids = [...before, ...after].map((v) => (isPlain(v) ? v.id : undefined));
    if (ids.every((id) => typeof id === "string"))
      return [...new Set(ids as string[])].flatMap((id) => differences(at(before, id), at(after, id), below(id)));
    if (before.length === after.length) return before.flatMap((v, k) => differences(v, after[k], below(String(k))));
  }
  return [path];
}

/** Paths that an edit changes in the documents that it was made on. */
export function touchedBy(edit: Edit, state: ProjectState): string[] {
  if (edit.op === "together") return edit.edits.flatMap((step) => touchedBy(step, state));
  if (edit.op === "duplicate_scheme") return [];
  if (edit.op !== "put") return [edit.path];
  const path = `${edit.path}/${edit.item.id}`;
  return differences(at(state.given, path), edit.item, path);
}

/** Those of `mine` that somebody else touched as well: the same place, one within it, or one that it lies in. */
export function clashing(mine: string[], theirs: string[]): string[] {
  const meets = (a: string, b: string) => a === b || a.startsWith(`${b}/`) || b.startsWith(`${a}/`);
  return mine.filter((m) => theirs.some((t) => meets(m, t)));
}

/** The same edit on what stands now: of a thing that is put as a whole, only what this edit changed in it is taken. */
export function onto(edit: Edit, before: ProjectState, now: ProjectState): Edit {
  const one = (step: EditStep): EditStep => {
    if (step.op !== "put") return step;
    const path = `${step.path}/${step.item.id}`;
    const item = merged(at(before.given, path), step.item, at(now.given, path));
    return isPlain(item) ? { ...step, item } : step;
  };
  if (edit.op === "together") return { ...edit, edits: edit.edits.map(one) };
  return edit.op === "duplicate_scheme" ? edit : one(edit);
}

function merged(before: unknown, mine: unknown, theirs: unknown): unknown {
  if (same(before, mine)) return theirs;
  if (same(before, theirs)) return mine;
  if (isPlain(before) && isPlain(mine) && isPlain(theirs)) {
    const keys = [...new Set([...Object.keys(mine), ...Object.keys(theirs)])];
    const all = keys.map((k) => [k, merged(before[k], mine[k], theirs[k])] as const);
    return Object.fromEntries(all.filter(([, v]) => v !== undefined));
  }
  if (Array.isArray(before) && Array.isArray(mine) && Array.isArray(theirs) && mine.length === theirs.length)
    return mine.map((v, k) => merged(before[k], v, theirs[k]));
  return mine;
}
