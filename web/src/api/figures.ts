import table from "./figures.json";

/** A figure of an outcome, as the server describes it. */
export type Figure = (typeof table)[number];

export const figures: Figure[] = table;

export function figureBy(id: string): Figure {
  const found = table.find((f) => f.id === id);
  if (!found) throw new Error(`there is no figure “${id}”`);
  return found;
}

function at(told: unknown, path: string[]): unknown {
  return path.reduce<unknown>(
    (value, step) => (typeof value === "object" && value !== null ? Reflect.get(value, step) : undefined),
    told,
  );
}

/** The figure in the unit that is shown, of an outcome or, of a zone's figure, of what is told of a zone. */
export function amountOf(figure: Figure, told: object): number {
  const value = Number(at(told, figure.path) ?? Number.NaN) / figure.per;
  return figure.per_area ? value / Number(at(told, ["floor_area_m2"])) : value;
}

/** The hour on which a figure falls; null where it has none. */
export function hourOf(figure: Figure, told: object): string | null {
  const found = figure.hour.length > 0 ? at(told, figure.hour) : null;
  return typeof found === "string" ? found : null;
}
