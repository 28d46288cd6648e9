import type { Geometry, Scheme, Volume } from "../../api/client";
import { type Change, type EditStep, make } from "../../api/edits";
import type { Point } from "./drawing";

export interface Corner {
  id: string;
  x: number;
  y: number;
}

/** What is selected and has corners that the pointer can hold: a room, a free outline, or the box that a form fills. */
export interface Held {
  /** Corners in the thing's own axes. */
  points: Corner[];
  /** Where they lie in the drawing. */
  out: (p: Point) => Point;
  into: (p: Point) => Point;
  /** The form is typed by its lengths: its corners stay square to each other and none is added. */
  boxed: boolean;
  /** How it is turned now, degrees clockwise. */
  turn: number;
  setting: (points: Corner[]) => Change;
  /** Turned about its middle to an angle. */
  turning: (angle: number) => Change;
  /** Moved in the drawing. */
  moving: (by: Point) => EditStep[];
}

const round = (v: number) => Number(v.toFixed(4));

/** Axes at a place, turned clockwise. */
function axes(x: number, y: number, turn: number): Pick<Held, "out" | "into"> {
  const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  return {
    out: (p) => ({ x: x + c * p.x + s * p.y, y: y - s * p.x + c * p.y }),
    into: (p) => ({ x: c * (p.x - x) - s * (p.y - y), y: s * (p.x - x) + c * (p.y - y) }),
  };
}

export function middleOf(points: Point[]): Point {
  const [xs, ys] = [points.map((p) => p.x), points.map((p) => p.y)];
  return { x: (Math.min(...xs) + Math.max(...xs)) / 2, y: (Math.min(...ys) + Math.max(...ys)) / 2 };
}

const { set, together } = make;

/** How the whole scheme lies in the plan: turned about a point. */
export interface Lie {
  turn: number;
  out: (p: Point) => Point;
  into: (p: Point) => Point;
  /** An edit of the form, with which the point of turning stays, so that nothing else moves. */
  kept: (edit: Change) => Change;
}

export function lieOf(scheme: Scheme, geometry: Geometry | undefined): Lie {
  const turn = scheme.turn_deg ?? 0;
  const [x, y] = geometry?.turned_about ?? [0, 0];
  const whole = axes(x, y, turn);
  const loose = turn !== 0 && !scheme.turned_about;
  const keeping = set(`schemes/${scheme.id}/turned_about`, { x: round(x), y: round(y) });
  return {
    turn,
    out: (p) => whole.out({ x: p.x - x, y: p.y - y }),
    into: (p) => {
      const own = whole.into(p);
      return { x: own.x + x, y: own.y + y };
    },
    kept: (edit) => (loose ? together([keeping, ...("edits" in edit ? edit.edits : [edit])]) : edit),
  };
}

/** A room or volume by its id, as something to hold; null where it has no corners in the plan. */
export function heldOf(scheme: Scheme, geometry: Geometry | undefined, id: string | undefined): Held | null {
  const held = id ? flatOf(scheme, id) : null;
  const lie = lieOf(scheme, geometry);
  if (!held || lie.turn === 0) return held;
  return {
    ...held,
    out: (p) => lie.out(held.out(p)),
    into: (p) => held.into(lie.into(p)),
    setting: (points) => lie.kept(held.setting(points)),
    turning: (angle) => lie.kept(held.turning(angle)),
    moving: (by) => {
      const [from, to] = [lie.into({ x: 0, y: 0 }), lie.into(by)];
      return held.moving({ x: to.x - from.x, y: to.y - from.y });
    },
  };
}

/** The same while the whole scheme is not turned. */
function flatOf(scheme: Scheme, id: string): Held | null {
  const room = (scheme.zones ?? []).find((z) => z.id === id);
  if (room?.outline) return ofRoom(`schemes/${scheme.id}/zones/${id}/outline`, room.outline);
  const volume = (scheme.volumes ?? []).find((v) => v.id === id);
  return volume ? ofVolume(`schemes/${scheme.id}/volumes/${id}`, volume) : null;
}

type Outline = NonNullable<NonNullable<Scheme["zones"]>[number]["outline"]>;

function ofRoom(path: string, outline: Outline): Held {
  const points = outline.points as Corner[];
  const courts = (outline.courts ?? []) as Corner[][];
  const each = (place: (p: Point) => Point) => {
    const moved = (ring: Corner[]) => ring.map((p) => ({ ...p, x: round(place(p).x), y: round(place(p).y) }));
    return [set(`${path}/points`, moved(points)), set(`${path}/courts`, courts.map(moved))];
  };
  const about = middleOf(points);
  return {
    points,
    ...axes(0, 0, 0),
    boxed: false,
    turn: 0,
    setting: (value) => set(`${path}/points`, value),
    turning: (angle) => {
      const turned = axes(about.x, about.y, angle);
      return together(each((p) => turned.out({ x: p.x - about.x, y: p.y - about.y })));
    },
    moving: (by) => each((p) => ({ x: p.x + by.x, y: p.y + by.y })),
  };
}

function ofVolume(path: string, volume: Volume): Held {
  const [x, y, turn] = [volume.x ?? 0, volume.y ?? 0, volume.turn_deg ?? 0];
  const own = axes(x, y, turn);
  const form = volume.form;
  const free = "points" in form;
  const points = free ? (form.points as Corner[]) : box(0, 0, form.length, form.depth);
  const placed = (p: Point) => [set(`${path}/x`, round(p.x)), set(`${path}/y`, round(p.y))];
  return {
    points,
    ...own,
    boxed: !free,
    turn,
    setting: (value) => {
      if (free) return set(`${path}/form/points`, value);
      const [low, high] = [value[0], value[2]];
      const sizes = [
        set(`${path}/form/length`, round(high.x - low.x)),
        set(`${path}/form/depth`, round(high.y - low.y)),
      ];
      return together([...sizes, ...placed(own.out(low))]);
    },
    turning: (angle) => {
      const middle = middleOf(points);
      const [stays, turned] = [own.out(middle), axes(0, 0, angle).out(middle)];
      const origin = { x: stays.x - turned.x, y: stays.y - turned.y };
      return together([set(`${path}/turn_deg`, angle), ...placed(origin)]);
    },
    moving: (by) => placed({ x: x + by.x, y: y + by.y }),
  };
}

function box(x0: number, y0: number, x1: number, y1: number): Corner[] {
  return [
    { id: "e1", x: x0, y: y0 },
    { id: "e2", x: x1, y: y0 },
    { id: "e3", x: x1, y: y1 },
    { id: "e4", x: x0, y: y1 },
  ];
}

/** The corners after one of them, or one side, was pulled to a point in the thing's own axes. */
export function pull(held: Held, kind: "corner" | "side", index: number, to: Point): Corner[] {
  const n = held.points.length;
  const next = held.points.map((p) => ({ ...p }));
  if (kind === "corner") {
    const p = held.points[index];
    next[index] = { ...p, x: round(to.x), y: round(to.y) };
    if (held.boxed)
      for (const q of next) {
        if (q.x === p.x) q.x = round(to.x);
        if (q.y === p.y) q.y = round(to.y);
      }
    return next;
  }
  const [i, j] = [index, (index + 1) % n];
  const [a, b] = [held.points[i], held.points[j]];
  const long = Math.hypot(b.x - a.x, b.y - a.y) || 1;
  const normal = { x: -(b.y - a.y) / long, y: (b.x - a.x) / long };
  const by = (to.x - a.x) * normal.x + (to.y - a.y) * normal.y;
  for (const k of [i, j])
    next[k] = { ...next[k], x: round(held.points[k].x + normal.x * by), y: round(held.points[k].y + normal.y * by) };
  return next;
}

/** The corner moved to where its neighbours meet square. */
export function squared(points: Corner[], index: number): Corner[] {
  const n = points.length;
  const [a, p, b] = [points[(index + n - 1) % n], points[index], points[(index + 1) % n]];
  const [best] = [
    { x: a.x, y: b.y },
    { x: b.x, y: a.y },
  ].sort((q, r) => Math.hypot(q.x - p.x, q.y - p.y) - Math.hypot(r.x - p.x, r.y - p.y));
  return points.map((o, k) => (k === index ? { ...o, ...best } : o));
}

/** A corner added in the middle of a side; the side's id stays with its first half. */
export function withCorner(points: Corner[], index: number): Corner[] {
  const [a, b] = [points[index], points[(index + 1) % points.length]];
  const ids = points.map((p) => p.id);
  let k = 1;
  while (ids.includes(`e${k}`)) k++;
  const made = { id: `e${k}`, x: round((a.x + b.x) / 2), y: round((a.y + b.y) / 2) };
  return [...points.slice(0, index + 1), made, ...points.slice(index + 1)];
}
