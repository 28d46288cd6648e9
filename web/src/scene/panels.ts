import type { Face } from "../api/client";

export interface Panels {
  roof_share?: number;
  tilt_deg?: number;
  azimuth_deg?: number;
}

const ROW = 1.1;
const CELL = 1.7;
const RIM = 0.7;

/** Rows of panels on the roofs, tilted on flat ones and lying in pitched ones, as many as the share of the roof asks for where they fit beside rooflights; a picture, not the reckoning. */
export function panelsOn(faces: Face[], pv: Panels, north: number): number[][][] {
  const share = pv.roof_share ?? 0;
  if (share <= 0) return [];
  const turn = (((pv.azimuth_deg ?? 180) - north) * Math.PI) / 180;
  const out = [Math.sin(turn), Math.cos(turn)];
  const along = [-out[1], out[0]];
  const tilt = ((pv.tilt_deg ?? 10) * Math.PI) / 180;
  const levels = new Map<string, Face[]>();
  const roofs = faces.filter((f) => f.kind === "ceiling" && f.boundary === "outdoors");
  const flat = (f: Face) => f.loops[0].every((p) => Math.abs(p[2] - f.loops[0][0][2]) < 0.05);
  for (const f of roofs)
    if (flat(f)) {
      const key = f.loops[0][0][2].toFixed(2);
      levels.set(key, [...(levels.get(key) ?? []), f]);
    }
  const sloped = roofs.filter((f) => !flat(f)).flatMap((f) => inSlope(f, share));
  return [...sloped, ...[...levels.values()].flatMap((held) => onOneLevel(held, share, out, along, tilt))];
}

/** Rows that lie in a pitched roof, level with its eaves. */
function inSlope(roof: Face, share: number): number[][][] {
  const loop = roof.loops[0];
  const normal = [0, 0, 0];
  for (let i = 0; i < loop.length; i++) {
    const [p, q] = [loop[i], loop[(i + 1) % loop.length]];
    for (const k of [0, 1, 2]) normal[k] += p[(k + 1) % 3] * q[(k + 2) % 3] - p[(k + 2) % 3] * q[(k + 1) % 3];
  }
  const n = normal.map((v) => v / Math.hypot(...normal));
  const long = Math.hypot(n[0], n[1]);
  const along = [-n[1] / long, n[0] / long, 0];
  const up = [-n[2] * along[1], n[2] * along[0], n[0] * along[1] - n[1] * along[0]];
  const dot = (p: number[], d: number[]) => p[0] * d[0] + p[1] * d[1] + p[2] * d[2];
  const flat = [...roof.loops, ...roof.windows].map((l) => l.map((p) => [dot(p, along), dot(p, up)]));
  const [s0, s1] = range(flat[0].map((p) => p[0]));
  const [t0, t1] = range(flat[0].map((p) => p[1]));
  const off = dot(loop[0], n) + 0.08;
  const at = (s: number, t: number) => [0, 1, 2].map((k) => along[k] * s + up[k] * t + n[k] * off);
  const fits = (s: number, t: number) =>
    [-RIM / 2, CELL / 2, CELL + RIM / 2].every((a) =>
      [-RIM / 2, ROW / 2, ROW + RIM / 2].every((b) => inside([s + a, t + b], flat)),
    );
  const made: number[][][] = [];
  for (let t = t0 + RIM / 2; t + ROW < t1; t += ROW * 1.03)
    for (let s = s0 + RIM / 2; s + CELL < s1; s += CELL * 1.02) {
      if (made.length * CELL * ROW >= share * roof.area) return made;
      if (fits(s, t)) made.push([at(s, t), at(s + CELL, t), at(s + CELL, t + ROW), at(s, t + ROW)]);
    }
  return made;
}

function onOneLevel(roofs: Face[], share: number, out: number[], along: number[], tilt: number): number[][][] {
  const corners = roofs.flatMap((f) => f.loops[0]);
  const dot = (p: number[], d: number[]) => p[0] * d[0] + p[1] * d[1];
  const [s0, s1] = range(corners.map((p) => dot(p, along)));
  const [t0, t1] = range(corners.map((p) => dot(p, out)));
  const z = corners[0][2];
  const at = (s: number, t: number) => [s * along[0] + t * out[0], s * along[1] + t * out[1]];
  const free = (s: number, t: number) => roofs.some((f) => inside(at(s, t), [...f.loops, ...f.windows]));
  const fits = (s: number, t: number) =>
    [-RIM, CELL / 2, CELL + RIM].every((a) => [-RIM, ROW / 2, ROW + RIM].every((b) => free(s + a, t + b)));
  const wanted = share * roofs.reduce((sum, f) => sum + f.area, 0);
  const pitch = Math.max(ROW * 1.04, Math.min((ROW / share) * 0.72, 6));
  const made: number[][][] = [];
  for (let t = t0 + RIM; t + ROW < t1; t += pitch)
    for (let s = s0 + RIM; s + CELL < s1; s += CELL * 1.02) {
      if (made.length * CELL * ROW >= wanted) return made;
      if (!fits(s, t)) continue;
      const low = z + 0.12;
      const high = low + ROW * Math.sin(tilt);
      made.push([
        [...at(s, t + ROW), low],
        [...at(s + CELL, t + ROW), low],
        [...at(s + CELL, t), high],
        [...at(s, t), high],
      ]);
    }
  return made;
}

function range(list: number[]): [number, number] {
  return [Math.min(...list), Math.max(...list)];
}

/** Whether a point in plan lies inside a polygon with holes: even number of crossings is outside. */
function inside([x, y]: number[], loops: number[][][]): boolean {
  let odd = false;
  for (const loop of loops)
    for (let i = 0, j = loop.length - 1; i < loop.length; j = i++) {
      const [xi, yi] = loop[i];
      const [xj, yj] = loop[j];
      if (yi > y !== yj > y && x < ((xj - xi) * (y - yi)) / (yj - yi) + xi) odd = !odd;
    }
  return odd;
}
