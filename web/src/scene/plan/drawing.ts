import type { Geometry, Volume } from "../../api/client";
import { freshId } from "../../app/words";

export interface Point {
  x: number;
  y: number;
}

export interface Made {
  form: Record<string, unknown>;
  x: number;
  y: number;
  outline: Point[];
}

/** A form between two opposite corners; its wings take a third of it, twelve metres at most. */
export function formBetween(kind: string, a: Point, b: Point): Made | null {
  const [x, y] = [Math.min(a.x, b.x), Math.min(a.y, b.y)];
  const length = Number(Math.abs(a.x - b.x).toFixed(3));
  const depth = Number(Math.abs(a.y - b.y).toFixed(3));
  if (length < 1 || depth < 1) return null;
  const wing = (whole: number) => Number(Math.min(12, Math.round((whole / 3) * 10) / 10).toFixed(2));
  const [w, d] = [wing(length), wing(depth)];
  const parts: Record<string, Record<string, number>> = {
    rectangle: {},
    l: { wing_length: w, wing_depth: d },
    t: { bar_depth: d, stem_length: w },
    u: { wing_length: w, base_depth: d },
    courtyard: { court_length: w, court_depth: d },
  };
  const p = (px: number, py: number) => ({ x: x + px, y: y + py });
  const shapes: Record<string, Point[]> = {
    l: [p(0, 0), p(length, 0), p(length, d), p(w, d), p(w, depth), p(0, depth)],
    u: [
      p(0, 0),
      p(length, 0),
      p(length, depth),
      p(length - w, depth),
      p(length - w, d),
      p(w, d),
      p(w, depth),
      p(0, depth),
    ],
    t: [
      p((length - w) / 2, 0),
      p((length + w) / 2, 0),
      p((length + w) / 2, depth - d),
      p(length, depth - d),
      p(length, depth),
      p(0, depth),
      p(0, depth - d),
      p((length - w) / 2, depth - d),
    ],
  };
  const outline = shapes[kind] ?? [p(0, 0), p(length, 0), p(length, depth), p(0, depth)];
  const wings = parts[kind] ?? {};
  const assumed = Object.keys(wings);
  return {
    form: { kind, length, depth, ...wings, ...(assumed.length ? { assumed } : {}) },
    x,
    y,
    outline,
  };
}

/** A volume as it is added: what nobody gave yet is left out. */
export interface NewVolume {
  id: string;
  name: string;
  form: Record<string, unknown>;
  x: number;
  y: number;
  base_level_m?: number;
  turn_deg?: number;
  storeys: { id: string }[];
}

/** A volume of one storey that stands at a level. */
export function newVolume(made: Made, volumes: Volume[], level: number): NewVolume {
  const id = freshId(
    "volume",
    volumes.map((v) => v.id),
  );
  const storeys = [{ id: "s0" }];
  return {
    id,
    name: `Volume ${volumes.length + 1}`,
    form: made.form,
    x: made.x,
    y: made.y,
    ...(level === 0 ? {} : { base_level_m: level }),
    storeys,
  };
}

export function fromOutline(corners: Point[], volumes: Volume[], level: number): NewVolume {
  const [x, y] = [Math.min(...corners.map((c) => c.x)), Math.min(...corners.map((c) => c.y))];
  const points = corners.map((c, i) => ({
    id: `e${i + 1}`,
    x: Number((c.x - x).toFixed(3)),
    y: Number((c.y - y).toFixed(3)),
  }));
  return newVolume({ form: { kind: "polygon", points }, x, y, outline: [] }, volumes, level);
}

/** How high a new volume is taken to be where room is looked for, and how far it keeps from others, m. */
const HEIGHT_M = 3.5;
const APART_M = 5;

/** Where a box stands clear of what is there at a level: on what ends there, else beside what stands there, in the axes of `into`. */
export function clearSpot(
  length: number,
  depth: number,
  level: number,
  geometry: Geometry | undefined,
  into: (p: Point) => Point,
): Point {
  const boxes = (geometry?.zones ?? []).map((z) => {
    const at = z.plan[0].map(([x, y]) => into({ x, y }));
    const [xs, ys] = [at.map((p) => p.x), at.map((p) => p.y)];
    const [west, east, south, north] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    return { west, east, south, north, low: z.level, high: z.level + z.height };
  });
  const beside = boxes.filter((b) => b.low < level + HEIGHT_M - 0.01 && b.high > level + 0.01);
  const under = boxes.filter((b) => Math.abs(b.high - level) < 0.01);
  const least = (of: number[]) => Number(Math.min(...of).toFixed(3));
  if (under.length > 0) {
    const spot = { x: least(under.map((b) => b.west)), y: least(under.map((b) => b.south)) };
    const meets = (b: (typeof boxes)[number]) =>
      b.west < spot.x + length && b.east > spot.x && b.south < spot.y + depth && b.north > spot.y;
    if (!beside.some(meets)) return spot;
  }
  if (beside.length === 0) return { x: 0, y: 0 };
  const east = Math.max(...beside.map((b) => b.east));
  return { x: Math.ceil((east + APART_M) * 2) / 2, y: least(beside.map((b) => b.south)) };
}
