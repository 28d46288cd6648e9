import type { Case } from "../../api/client";
import { figures } from "../../api/figures";

/** A figure by which cases are compared, as the server describes it. */
export interface FigureOf {
  id: string;
  name: string;
  unit: string;
  digits: number;
  per: number;
  of: (figures: Case["figures"]) => number;
}

/** The figures by which cases are compared. */
export const figuresOf: FigureOf[] = figures
  .filter((f) => f.compared)
  .map((f) => ({
    id: f.id,
    name: f.title,
    unit: f.unit,
    digits: f.digits,
    per: f.per,
    of: (kept) => (kept[f.id] ?? Number.NaN) / f.per,
  }));

export const shownFirst = figures.filter((f) => f.first).map((f) => f.id);

/** What is kept: steps dropped by lever, ranges by figure as it is shown, and only cases without remarks. */
export interface Kept {
  sound?: boolean;
  dropped: Record<string, number[]>;
  ranges: Record<string, [number, number]>;
}

export const ALL: Kept = { dropped: {}, ranges: {} };
