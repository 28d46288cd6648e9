import type { Case } from "../../api/client";
import { figures } from "../../api/figures";

/** A figure by which cases are compared, as the server describes it. */
export interface FigureOf {
  id: string;
  name: string;
  unit: string;
  digits: number;
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
    of: (kept) => (kept[f.id] ?? Number.NaN) / f.per,
  }));

export const shownFirst = figures.filter((f) => f.first).map((f) => f.id);

/** What is kept: steps dropped by lever, ranges by figure, and only cases without remarks. */
export interface Kept {
  sound?: boolean;
  dropped: Record<string, number[]>;
  ranges: Record<string, [number, number]>;
}

export function running(c: Case, keys: string[], kept: Kept, except?: string): boolean {
  if (c.status !== "done") return false;
  if (kept.sound && c.remarks.length > 0) return false;
  for (let i = 0; i < keys.length; i++) {
    if (keys[i] === except) continue;
    if (kept.dropped[keys[i]]?.includes(c.steps[i])) return false;
  }
  for (const f of figuresOf) {
    const range = kept.ranges[f.id];
    if (range && f.id !== except) {
      const v = f.of(c.figures);
      if (v < range[0] - 1e-9 || v > range[1] + 1e-9) return false;
    }
  }
  return true;
}
