import type { Case, Lever } from "../../api/client";
import { figures } from "../../api/figures";
import type { Units } from "../../app/state";
import { scale } from "../../app/words";

/** A figure by which cases are compared, as the server describes it. */
export interface FigureOf {
  id: string;
  name: string;
  unit: string;
  digits: number;
  per: number;
  sense: string;
  of: (figures: Case["figures"]) => number;
}

/** Every figure that a case has. */
export const everyFigure: FigureOf[] = figures
  .filter((f) => ["building", "use", "array"].includes(f.scope))
  .map((f) => ({
    id: f.id,
    name: f.title,
    unit: f.unit,
    digits: f.digits,
    per: f.per,
    sense: f.sense,
    of: (kept) => (kept[f.id] ?? Number.NaN) / f.per,
  }));

const compared = new Set(figures.filter((f) => f.compared).map((f) => f.id));

/** The figures by which cases are compared unless others are chosen. */
export const figuresOf: FigureOf[] = everyFigure.filter((f) => compared.has(f.id));

/** A figure by its id; the first one where there is none of that name. */
export const figureOf = (id: string): FigureOf => everyFigure.find((f) => f.id === id) ?? figuresOf[0];

export const shownFirst = figures.filter((f) => f.first).map((f) => f.id);

/** What is kept: steps dropped by lever, ranges by figure as it is shown, and only cases without remarks. */
export interface Kept {
  sound?: boolean;
  dropped: Record<string, number[]>;
  ranges: Record<string, [number, number]>;
}

export const ALL: Kept = { dropped: {}, ranges: {} };

/** How a lever's values are turned for an axis or a cell: percent, or the unit of the chosen system. */
export function leverScale(lever: Lever, units: Units): { factor: number; offset: number; unit: string } {
  return lever.labels[0]?.includes("%") ? { factor: 100, offset: 0, unit: "%" } : scale(lever.unit, units);
}
