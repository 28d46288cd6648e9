import type { Point } from "./drawing";

export type Caught = "end" | "middle" | "edge" | "perpendicular" | "parallel" | "straight" | "grid";

export interface Snap {
  point: Point;
  kind: Caught;
}

/** A drawing of no more segments than this is searched as a whole for what to draw parallel to. */
const FEW = 400;

/** Line segments by where they lie, so that catching stays quick over a plan of fifty thousand. */
export class SnapIndex {
  private readonly cells = new Map<number, number[]>();
  private readonly size: number;

  /** `flat` holds x0, y0, x1, y1 of each segment, m. */
  constructor(readonly flat: ArrayLike<number>) {
    let [x0, x1] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    for (let i = 0; i < flat.length; i += 2) {
      x0 = Math.min(x0, flat[i]);
      x1 = Math.max(x1, flat[i]);
    }
    this.size = Math.max((x1 - x0) / 150, 0.5);
    for (let s = 0; s + 3 < flat.length; s += 4) {
      const [ax, ay, bx, by] = [flat[s], flat[s + 1], flat[s + 2], flat[s + 3]];
      const steps = Math.max(1, Math.ceil((Math.hypot(bx - ax, by - ay) / this.size) * 2));
      let before = Number.NaN;
      for (let k = 0; k <= steps; k++) {
        const key = this.key(ax + ((bx - ax) * k) / steps, ay + ((by - ay) * k) / steps);
        if (key === before) continue;
        before = key;
        const cell = this.cells.get(key);
        if (cell) cell.push(s);
        else this.cells.set(key, [s]);
      }
    }
  }

  private key(x: number, y: number): number {
    return Math.floor(x / this.size) * 1e6 + Math.floor(y / this.size);
  }

  /** Segments that may lie within a distance of a point. */
  near(p: Point, reach: number): Set<number> {
    const found = new Set<number>();
    const n = Math.min(Math.ceil(reach / this.size), 12);
    for (let i = -n; i <= n; i++)
      for (let j = -n; j <= n; j++)
        for (const s of this.cells.get(this.key(p.x + i * this.size, p.y + j * this.size)) ?? []) found.add(s);
    return found;
  }

  /** Segments round any of several points; all of them in a drawing of a few. */
  around(points: Point[], reach: number): Iterable<number> {
    const count = Math.floor(this.flat.length / 4);
    if (count <= FEW) return Array.from({ length: count }, (_, i) => i * 4);
    return new Set(points.flatMap((p) => [...this.near(p, reach)]));
  }
}

const gap = (a: Point, b: Point) => Math.hypot(a.x - b.x, a.y - b.y);

/** The foot of a point on a segment's line, and how far along the segment it lies (0 to 1). */
export function foot(p: Point, a: Point, b: Point): { point: Point; at: number } {
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const long = dx * dx + dy * dy;
  const at = long > 0 ? ((p.x - a.x) * dx + (p.y - a.y) * dy) / long : 0;
  return { point: { x: a.x + dx * at, y: a.y + dy * at }, at };
}

/** The directions of the lines near two points, to draw parallel to them; the longest forty, so that a dense plan does not stutter. */
function slants(last: Point, p: Point, indexes: SnapIndex[], reach: number): Point[] {
  const found: { long: number; way: Point }[] = [];
  for (const { flat: f, near } of indexes.map((i) => ({ flat: i.flat, near: i.around([last, p], reach) })))
    for (const s of near) {
      const [dx, dy] = [f[s + 2] - f[s], f[s + 3] - f[s + 1]];
      const long = Math.hypot(dx, dy);
      if (long > 0.3) found.push({ long, way: { x: dx / long, y: dy / long } });
    }
  found.sort((a, b) => b.long - a.long);
  return found.slice(0, 40).map((o) => o.way);
}

/**
 * What catches a point: ends before middles before edges, then what is straight on from the last corners
 * (along the axes, which a turned scheme turns, or along and square to the last side), then what runs parallel
 * to a line near it, then the grid.
 */
export function snap(p: Point, reach: number, indexes: SnapIndex[], corners: Point[], grid: number, turn = 0): Snap {
  const last = corners[corners.length - 1];
  let best: Snap | null = null;
  let rank = Number.POSITIVE_INFINITY;
  const offer = (point: Point, kind: Caught, order: number) => {
    const far = gap(point, p);
    if (far <= reach && order * reach + far < rank) {
      rank = order * reach + far;
      best = { point, kind };
    }
  };
  for (const index of indexes) {
    const f = index.flat;
    for (const s of index.near(p, reach)) {
      const a = { x: f[s], y: f[s + 1] };
      const b = { x: f[s + 2], y: f[s + 3] };
      offer(a, "end", 0);
      offer(b, "end", 0);
      offer({ x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 }, "middle", 1);
      if (last) {
        const right = foot(last, a, b);
        if (right.at >= 0 && right.at <= 1) offer(right.point, "perpendicular", 2);
      }
      const on = foot(p, a, b);
      if (on.at >= 0 && on.at <= 1) offer(on.point, "edge", 3);
    }
  }
  for (const c of corners.slice(0, 1)) offer(c, "end", 0);
  if (best) return best;
  if (last) {
    const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
    const ways: Point[] = [
      { x: c, y: -s },
      { x: s, y: c },
    ];
    const before = corners[corners.length - 2];
    if (before) {
      const long = gap(before, last) || 1;
      const along = { x: (last.x - before.x) / long, y: (last.y - before.y) / long };
      ways.push(along, { x: -along.y, y: along.x });
    }
    for (const way of ways) {
      const on = foot(p, last, { x: last.x + way.x, y: last.y + way.y });
      const step = grid > 0 ? Math.round(on.at / grid) * grid : on.at;
      offer({ x: last.x + way.x * step, y: last.y + way.y * step }, "straight", 4);
    }
    if (best) return best;
    for (const way of slants(last, p, indexes, reach * 12)) {
      const on = foot(p, last, { x: last.x + way.x, y: last.y + way.y });
      offer(on.point, "parallel", 5);
    }
    if (best) return best;
  }
  return {
    point: { x: Math.round(p.x / grid) * grid, y: Math.round(p.y / grid) * grid },
    kind: "grid",
  };
}

export const caughtBy: Record<Caught, string> = {
  end: "end",
  middle: "middle",
  edge: "on the line",
  perpendicular: "square to the line",
  parallel: "parallel to a line",
  straight: "straight on",
  grid: "",
};
