import type { Face } from "../api/client";

export interface Panels {
  roof_share?: number;
  tilt_deg?: number;
  azimuth_deg?: number;
}

const ROW = 1.1;
const CELL = 1.7;
const RIM = 0.7;

/** Rows of panels on the roofs, as many as the share of the roof asks for where they fit; a picture, not the reckoning. */
export function panelsOn(faces: Face[], pv: Panels, north: number): number[][][] {
  const share = pv.roof_share ?? 0;
  if (share <= 0) return [];
  const turn = (((pv.azimuth_deg ?? 180) - north) * Math.PI) / 180;
  const out = [Math.sin(turn), Math.cos(turn)];
  const along = [-out[1], out[0]];
  const tilt = ((pv.tilt_deg ?? 10) * Math.PI) / 180;
  const levels = new Map<string, Face[]>();
  for (const f of faces)
    if (f.kind === "ceiling" && f.boundary === "outdoors") {
      const key = f.loops[0][0][2].toFixed(2);
      levels.set(key, [...(levels.get(key) ?? []), f]);
    }
  return [...levels.values()].flatMap((roofs) => onOneLevel(roofs, share, out, along, tilt));
}

function onOneLevel(roofs: Face[], share: number, out: number[], along: number[], tilt: number): number[][][] {
  const corners = roofs.flatMap((f) => f.loops[0]);
  const dot = (p: number[], d: number[]) => p[0] * d[0] + p[1] * d[1];
  const [s0, s1] = range(corners.map((p) => dot(p, along)));
  const [t0, t1] = range(corners.map((p) => dot(p, out)));
  const z = corners[0][2];
  const at = (s: number, t: number) => [s * along[0] + t * out[0], s * along[1] + t * out[1]];
  const free = (s: number, t: number) => roofs.some((f) => inside(at(s, t), f.loops));
  const fits = (s: number, t: number) =>
    [-RIM, CELL + RIM].every((a) => [-RIM, ROW + RIM].every((b) => free(s + a, t + b)));
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
