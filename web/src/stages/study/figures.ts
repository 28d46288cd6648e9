import { useCallback } from "react";
import type { Case, Lever, Schemas, Study } from "../../api/client";
import { type Figure, figures } from "../../api/figures";
import { useGeometry, useScheme } from "../../api/hooks";
import type { Units } from "../../app/state";
import { scale } from "../../app/words";

/** A figure by which cases are compared, as the server describes it. */
export interface FigureOf {
  id: string;
  name: string;
  group: string;
  unit: string;
  digits: number;
  per: number;
  sense: string;
  of: (figures: Case["figures"]) => number;
}

const told = (f: Figure, id: string, name: string, group: string): FigureOf => ({
  id,
  name,
  group,
  unit: f.unit,
  digits: f.digits,
  per: f.per,
  sense: f.sense,
  of: (kept) => (kept[id] ?? Number.NaN) / f.per,
});

const groups: Record<string, string> = {
  building: "Building",
  use: "Energy by use and carrier",
  array: "Own generation",
};

/** Every figure that a case of any study has. */
export const everyFigure: FigureOf[] = figures
  .filter((f) => f.scope in groups)
  .map((f) => told(f, f.id, f.title, groups[f.scope]));

/** A zone as it is named. */
export interface Zone {
  id: string;
  name: string;
}

/** In place of a zone: the one where a figure is highest. */
const WORST = "*";
const ofZones = figures.filter((f) => f.scope === "zone");

/** The figures of one zone, or of the worst, which a study has where it names them. */
export function figuresOfZone(zone: Zone | null): FigureOf[] {
  return ofZones.map((f) => {
    const where = zone ? zone.name : f.sense ? "worst zone" : "highest zone";
    const title = f.title.replace(/ by zone$/, "");
    return told(f, `${f.id}@${zone?.id ?? WORST}`, `${title}, ${where}`, zone ? zone.name : "Worst zone");
  });
}

/** The zones of the scheme at hand. */
export function useZones(): Zone[] | undefined {
  return useGeometry(useScheme().scheme.id).data?.zones;
}

/** What returns a figure by its id; zones are called by their names. */
export function useFigureOf(): (id: string) => FigureOf {
  const zones = useZones();
  return useCallback((id) => figureOf(id, zones), [zones]);
}

const compared = new Set(figures.filter((f) => f.compared).map((f) => f.id));

/** The figures by which cases are compared unless others are chosen. */
export const figuresOf: FigureOf[] = everyFigure.filter((f) => compared.has(f.id));

/** A figure by its id, a zone called by its name where that is known; the first one where there is none of that id. */
export function figureOf(id: string, zones: Zone[] = []): FigureOf {
  const zone = id.split("@")[1];
  const named = zone === WORST ? null : (zones.find((z) => z.id === zone) ?? { id: zone, name: zone });
  return (zone ? figuresOfZone(named) : everyFigure).find((f) => f.id === id) ?? figuresOf[0];
}

/** The outcomes that a study names: of its table, its goals and its limits. */
export function namedBy({ spec }: Study): string[] {
  const aims = [...spec.goals, ...spec.limits].map((aim) => aim.outcome);
  return [...new Set([...spec.outcomes, ...aims])];
}

export const shownFirst = figures.filter((f) => f.first).map((f) => f.id);

/** Which cases are shown: all that worked out, those without or with remarks, or in their place those that failed. */
export type Which = Schemas["SieveIn"]["which"];

/** What is kept: steps dropped by lever, ranges by figure as it is shown, which cases, and words of their remarks. */
export interface Kept {
  which?: Which;
  says?: string;
  dropped: Record<string, number[]>;
  ranges: Record<string, [number, number]>;
}

export const ALL: Kept = { dropped: {}, ranges: {} };

/** How a lever's values are turned for an axis or a cell: percent, or the unit of the chosen system. */
export function leverScale(lever: Lever, units: Units): { factor: number; offset: number; unit: string } {
  return lever.labels[0]?.includes("%") ? { factor: 100, offset: 0, unit: "%" } : scale(lever.unit, units);
}
