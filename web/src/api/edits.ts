import type { Schemas } from "./client";

/** A step that can stand beside others in one edit. */
export type EditStep = Schemas["Set"] | Schemas["Reset"] | Schemas["Put"] | Schemas["Remove"];

/** An edit of what documents hold: one step, or several as one. */
export type Change = EditStep | Schemas["Together"];

/** Makes edits of the project's documents. */
export const make = {
  /** Gives a value. */
  set: (path: string, value: unknown): EditStep => ({ op: "set", path, value }),
  /** Takes a given value away, so that the assumed one holds again. */
  reset: (path: string): EditStep => ({ op: "reset", path }),
  /** Adds an item to a list, or replaces the one with its id. */
  put: (path: string, item: object): EditStep => ({ op: "put", path, item: { ...item } }),
  /** Takes an item out of a list. */
  remove: (path: string): EditStep => ({ op: "remove", path }),
  /** Several steps as one of undo. */
  together: (edits: EditStep[]): Schemas["Together"] => ({ op: "together", edits }),
};
