import table from "../api/fields.json";

/** How a field is described where it is defined; it ships with the page, so that no field is ever without its name and unit. */
export interface FieldNote {
  title: string;
  unit?: string;
  digits?: number;
  help?: string;
  source?: string;
  usual?: number[];
  lever?: boolean;
  share?: boolean;
  ge?: number;
  gt?: number;
  le?: number;
  lt?: number;
  assumed?: unknown;
  choices?: string[];
  ip?: { unit: string; factor: number; offset: number; digits: number };
}

/** Model and field, such as `Skin.sill_m`. */
export type FieldName = keyof typeof table;

/** The field's own name, as paths have it: `sill_m` of `Skin.sill_m`. */
export const ownName = (name: FieldName): string => name.split(".")[1];

export const notes: Record<FieldName, FieldNote> = table;

/** The title of the field that a path leads to, told by the last step that a field is called. */
export function titleAt(path: string): string | undefined {
  for (const step of path.split("/").reverse()) {
    const found = Object.entries(notes).find(([name]) => name.endsWith(`.${step}`));
    if (found) return found[1].title;
  }
}
