import type { Volume } from "../../api/client";
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
  turn_deg?: number;
  storeys: { id: string }[];
}

export function newVolume(made: Made, volumes: Volume[]): NewVolume {
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
    storeys,
  };
}

export function fromOutline(corners: Point[], volumes: Volume[]): NewVolume {
  const [x, y] = [Math.min(...corners.map((c) => c.x)), Math.min(...corners.map((c) => c.y))];
  const points = corners.map((c, i) => ({
    id: `e${i + 1}`,
    x: Number((c.x - x).toFixed(3)),
    y: Number((c.y - y).toFixed(3)),
  }));
  return newVolume({ form: { kind: "polygon", points }, x, y, outline: [] }, volumes);
}
