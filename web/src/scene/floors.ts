import type { Schemas } from "../api/client";

export type Floors = Schemas["FloorsOut"];
export type FloorOf = Floors["floors"][number];

/** What the colours of a picture of light reach to: the figure's own top, or where more makes no difference. */
export function topOf(floors: Floors): number {
  if (floors.measure === "factor") return Math.max(Math.min(floors.high, 10), 2);
  if (floors.measure === "hour" || floors.measure === "mean")
    return Math.max(Math.min(floors.high, 10 * floors.target_lx), 1);
  if (floors.measure === "beyond") return Math.max(floors.high, 1);
  return 100;
}

/** Where the line is drawn that parts enough from too little; null where the figure has none. */
export function lineOf(floors: Floors): number | null {
  if (floors.measure === "hour" || floors.measure === "mean") return floors.target_lx;
  if (floors.measure === "factor") return 2;
  return floors.measure === "beyond" ? null : 50;
}

/** Sides of cells that part those at or above a value from those below, each from and to as column and row. */
export function parting(floor: FloorOf, line: number): [number, number, number, number][] {
  const { columns, rows, values } = floor;
  const above = (i: number, j: number) => {
    const v = i >= 0 && j >= 0 && i < columns && j < rows ? values[j * columns + i] : null;
    return v === null || v === undefined ? null : v >= line;
  };
  const found: [number, number, number, number][] = [];
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const own = above(i, j);
      if (own === null) continue;
      const right = above(i + 1, j);
      const up = above(i, j + 1);
      if (right !== null && right !== own) found.push([i + 1, j, i + 1, j + 1]);
      if (up !== null && up !== own) found.push([i, j + 1, i + 1, j + 1]);
    }
  return found;
}
