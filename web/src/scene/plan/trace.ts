import type { Geometry, Scheme } from "../../api/client";
import { type Change, make } from "../../api/edits";
import { freshId } from "../../app/words";
import { STOREY_M } from "../storeys";
import type { Point } from "./drawing";
import { foot } from "./snap";

export type Room = NonNullable<Scheme["zones"]>[number];
export const GAP_M = 0.5;

/** What rooms and openings get while tracing: the storey's height, sill and head, m; which of them were typed. */
export interface Measures {
  height: number;
  sill: number;
  head: number;
  typed: ("height" | "sill" | "head")[];
}

/** The next number of a storey that no room bears: 0.01, 0.02, and so on. */
export function nextNumber(taken: string[], storey: number): string {
  for (let k = 1; ; k++) {
    const number = `${storey}.${String(k).padStart(2, "0")}`;
    if (!taken.includes(number)) return number;
  }
}

export interface Traced {
  points: Point[];
  number?: string;
  name?: string;
}

/** What counts until something is typed. */
export const UNTYPED: Measures = { height: STOREY_M, sill: 0.9, head: 2.5, typed: [] };

/** Names the values that come from measures which nobody typed, for the part that holds them. */
function notTyped(measures: Measures, from: Record<string, "height" | "sill" | "head">): { assumed?: string[] } {
  const assumed = Object.keys(from).filter((name) => !measures.typed.includes(from[name]));
  return assumed.length ? { assumed } : {};
}

const round = (v: number) => Number(v.toFixed(4));

/** Edits that add rooms on a storey; where they stand apart by walls, contact is to bridge those. */
export function roomEdits(
  scheme: Scheme,
  rooms: Traced[],
  level: number,
  storey: number,
  measures: Measures,
  apart: boolean,
): { edit: Change; ids: string[] } {
  const numbers = (scheme.zones ?? []).map((z) => z.number ?? "").filter(Boolean);
  const taken = [...(scheme.zones ?? []).map((z) => z.id), ...(scheme.volumes ?? []).map((v) => v.id)];
  const ids: string[] = [];
  const items = rooms.map((room) => {
    const number = room.number && !numbers.includes(room.number) ? room.number : nextNumber(numbers, storey);
    numbers.push(number);
    const plain = number.replace(/[^A-Za-z0-9_.-]/g, "-");
    const id = taken.includes(plain) ? freshId(plain, taken) : plain;
    taken.push(id);
    ids.push(id);
    const points = room.points.map((p, i) => ({ id: `e${i + 1}`, x: round(p.x), y: round(p.y) }));
    return {
      id,
      number,
      name: room.name || "Room",
      storey: `Storey ${storey}`,
      outline: { points, z: level, height: measures.height, ...notTyped(measures, { height: "height" }) },
      by_ratio: true,
    };
  });
  const edits = items.map((item) => make.put(`schemes/${scheme.id}/zones`, item));
  if (apart && (scheme.contact_gap_m ?? 0) < GAP_M)
    edits.push(
      make.set(`schemes/${scheme.id}/contact_gap_m`, GAP_M),
      make.set(`schemes/${scheme.id}/assumed`, [...(scheme.assumed ?? []), "contact_gap_m"]),
    );
  return { edit: make.together(edits), ids };
}

/** The side of a room on a storey that lies nearest to a point, within a reach. */
export function nearestSide(geometry: Geometry | undefined, level: number, p: Point, reach: number) {
  let best: { zone: string; side: string; a: Point; b: Point; far: number } | null = null;
  for (const zone of geometry?.zones ?? []) {
    if (Math.abs(zone.level - level) > 0.01) continue;
    for (const s of zone.sides) {
      const [a, b] = [
        { x: s.a[0], y: s.a[1] },
        { x: s.b[0], y: s.b[1] },
      ];
      const on = foot(p, a, b);
      if (on.at < -0.02 || on.at > 1.02) continue;
      const far = Math.hypot(on.point.x - p.x, on.point.y - p.y);
      if (far <= reach && (!best || far < best.far)) best = { zone: zone.id, side: s.side, a, b, far };
    }
  }
  return best;
}

/** An edit that puts a window or door on a room's side between two points; the room's other sides keep what they have. */
export function openingEdit(
  scheme: Scheme,
  side: { zone: string; side: string; a: Point; b: Point },
  from: Point,
  to: Point,
  kind: "window" | "door",
  measures: Measures,
): Change | null {
  const room = (scheme.zones ?? []).find((z) => z.id === side.zone);
  const long = Math.hypot(side.b.x - side.a.x, side.b.y - side.a.y);
  const [s, t] = [foot(from, side.a, side.b).at * long, foot(to, side.a, side.b).at * long];
  const x = Math.max(Math.min(s, t), 0);
  const width = Math.min(Math.max(s, t), long) - x;
  const sill = kind === "door" ? 0 : measures.sill;
  const head = Math.min(measures.head, room?.outline?.height ?? measures.head);
  if (!room || width < 0.1 || head - sill < 0.1) return null;
  const face = (room.faces ?? []).find((f) => f.side === side.side);
  const ids = (face?.windows ?? []).map((w) => w.id ?? "");
  const window = {
    id: freshId(kind === "door" ? "d" : "w", ids),
    kind,
    x: round(x),
    z: round(sill),
    width: round(width),
    height: round(head - sill),
    ...notTyped(measures, kind === "door" ? { height: "head" } : { z: "sill", height: "head" }),
  };
  const path = `schemes/${scheme.id}/zones/${room.id}`;
  return face
    ? make.put(`${path}/faces/${face.id}/windows`, window)
    : make.put(`${path}/faces`, { id: side.side, side: side.side, windows: [window] });
}

/** Copies of all rooms of a storey on the next one, with its numbers; and where that lies. */
export function repeatUpward(
  scheme: Scheme,
  given: Record<string, unknown>,
  level: number,
  now: number,
): { edit: Change; level: number } | null {
  const rooms = (scheme.zones ?? []).filter((z) => z.outline && Math.abs((z.outline.z ?? 0) - level) < 0.01);
  const own = new Map(((given.zones ?? []) as Room[]).map((z) => [z.id, z]));
  if (rooms.length === 0) return null;
  const up = Math.max(...rooms.map((r) => r.outline?.height ?? STOREY_M));
  const numbers = (scheme.zones ?? []).map((z) => z.number ?? "").filter(Boolean);
  const taken = (scheme.zones ?? []).map((z) => z.id);
  const edits = rooms.map((r) => {
    const wanted = (r.number ?? "").startsWith(`${now}.`)
      ? `${now + 1}${(r.number ?? "").slice(String(now).length)}`
      : "";
    const number = wanted && !numbers.includes(wanted) ? wanted : nextNumber(numbers, now + 1);
    numbers.push(number);
    const id = taken.includes(number) ? freshId(number, taken) : number;
    taken.push(id);
    const was = own.get(r.id);
    const item = {
      ...was,
      id,
      number,
      storey: `Storey ${now + 1}`,
      source: undefined,
      outline: { ...was?.outline, z: round(level + up) },
    };
    return make.put(`schemes/${scheme.id}/zones`, JSON.parse(JSON.stringify(item)));
  });
  return { edit: make.together(edits), level: round(level + up) };
}
