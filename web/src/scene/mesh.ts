import * as THREE from "three";
import type { Face } from "../api/client";

/** Triangles of a flat polygon with holes in space. */
export function triangulate(loops: number[][][]): {
  points: THREE.Vector3[];
  normal: THREE.Vector3;
  triangles: number[][];
} {
  const all = loops.map((l) => l.map(([x, y, z]) => new THREE.Vector3(x, y, z)));
  const normal = new THREE.Vector3();
  const outer = all[0];
  outer.forEach((p, i) => {
    const q = outer[(i + 1) % outer.length];
    normal.x += (p.y - q.y) * (p.z + q.z);
    normal.y += (p.z - q.z) * (p.x + q.x);
    normal.z += (p.x - q.x) * (p.y + q.y);
  });
  normal.normalize();
  const u =
    Math.abs(normal.z) > 0.9 ? new THREE.Vector3(1, 0, 0) : new THREE.Vector3(-normal.y, normal.x, 0).normalize();
  const v = new THREE.Vector3().crossVectors(normal, u);
  const flat = all.map((l) => l.map((p) => new THREE.Vector2(p.dot(u), p.dot(v))));
  return { points: all.flat(), normal, triangles: THREE.ShapeUtils.triangulateShape(flat[0], flat.slice(1)) };
}

/** Edges of all faces; those of floors and roofs only where no other of them goes on in the same plane, if `whole` is asked. */
export function outlines(faces: Face[], whole: boolean): THREE.BufferGeometry {
  if (!whole) return segments(faces.flatMap((f) => f.loops));
  const sheets = faces.filter((f) => f.kind !== "wall").flatMap((f) => f.loops.flatMap(sidesOf));
  const runs = new Map<string, { forth: Span[]; back: Span[] }>();
  for (const side of sheets) {
    const run = runs.get(side.line) ?? { forth: [], back: [] };
    run[side.forth ? "forth" : "back"].push([side.from, side.to]);
    runs.set(side.line, run);
  }
  const at: number[] = [];
  for (const { line, forth, from, to, along, foot } of sheets) {
    const run = runs.get(line);
    for (const [s, t] of uncovered([from, to], (forth ? run?.back : run?.forth) ?? []))
      at.push(...[s, t].flatMap((d) => [0, 1, 2].map((k) => foot[k] + along[k] * d)));
  }
  for (const f of faces.filter((face) => face.kind === "wall"))
    for (const l of f.loops) for (let i = 0; i < l.length; i++) at.push(...l[i], ...l[(i + 1) % l.length]);
  return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
}

type Span = [number, number];
/** A side of a loop on its line in space: which line, which way it runs, and from where to where. */
interface Side {
  line: string;
  forth: boolean;
  from: number;
  to: number;
  along: number[];
  foot: number[];
}

function sidesOf(loop: number[][]): Side[] {
  return loop.flatMap((p, i) => {
    const q = loop[(i + 1) % loop.length];
    const way = q.map((v, k) => v - p[k]);
    const long = Math.hypot(...way);
    if (long < 1e-4) return [];
    const lead = way.find((v) => Math.abs(v) > 1e-4 * long) ?? 1;
    const along = way.map((v) => ((v / long) * Math.sign(lead)) as number);
    const [s, t] = [p, q].map((point) => point.reduce((sum, v, k) => sum + v * along[k], 0));
    const foot = p.map((v, k) => v - along[k] * s);
    // off the round figures that drawings are full of, so that a hair's breadth does not fall on either side of a step
    const line = [...along.map((v) => (v + 0.00037).toFixed(3)), ...foot.map((v) => (v + 0.0037).toFixed(2))].join(" ");
    return [{ line, forth: s < t, from: Math.min(s, t), to: Math.max(s, t), along, foot }];
  });
}

/** What is left of a span where others do not lie over it. */
function uncovered(whole: Span, others: Span[]): Span[] {
  const left: Span[] = [];
  let from = whole[0];
  for (const [s, t] of [...others].sort((a, b) => a[0] - b[0])) {
    if (s > from) left.push([from, Math.min(s, whole[1])]);
    from = Math.max(from, t);
    if (from >= whole[1]) break;
  }
  if (from < whole[1]) left.push([from, whole[1]]);
  return left.filter(([s, t]) => t - s > 0.02);
}

/** Closed loops as line segments. */
export function segments(loops: number[][][]): THREE.BufferGeometry {
  const at: number[] = [];
  for (const loop of loops) for (let i = 0; i < loop.length; i++) at.push(...loop[i], ...loop[(i + 1) % loop.length]);
  return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
}

/** Four-cornered loops as triangles. */
export function quads(loops: number[][][]): THREE.BufferGeometry {
  const at: number[] = [];
  for (const [a, b, c, d] of loops) at.push(...a, ...b, ...c, ...a, ...c, ...d);
  return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
}

const DOT = 0.07;
const WAYS: Record<string, { angles: number[]; step: number }> = {
  ground: { angles: [45], step: 0.5 },
  adiabatic: { angles: [45, -45], step: 0.9 },
  fixed: { angles: [90], step: 0.45 },
  zone: { angles: [0], step: 0.4 },
};

/** The patterns that tell boundaries apart, drawn on the faces: hatched, crossed, barred, dotted; outdoors is blank. */
export function patterns(faces: Face[]): THREE.BufferGeometry {
  const at: number[] = [];
  for (const f of faces) {
    const way = WAYS[f.boundary];
    if (!way) continue;
    const { normal } = triangulate(f.loops);
    const u =
      Math.abs(normal.z) > 0.9 ? new THREE.Vector3(1, 0, 0) : new THREE.Vector3(-normal.y, normal.x, 0).normalize();
    const v = new THREE.Vector3().crossVectors(normal, u);
    const base = new THREE.Vector3(...(f.loops[0][0] as [number, number, number])).addScaledVector(normal, 0.02);
    const flat = f.loops.map((l) =>
      l.map(([x, y, z]) => {
        const p = new THREE.Vector3(x, y, z).sub(base);
        return [p.dot(u), p.dot(v)];
      }),
    );
    for (const angle of way.angles) {
      const [c, s] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
      const turned = flat.map((l) => l.map(([x, y]) => [c * x + s * y, -s * x + c * y]));
      const heights = turned[0].map((p) => p[1]);
      const first = Math.ceil(Math.min(...heights) / way.step) * way.step;
      for (let y = first; y < Math.max(...heights); y += way.step) {
        const cuts: number[] = [];
        for (const l of turned)
          for (let i = 0; i < l.length; i++) {
            const [p, q] = [l[i], l[(i + 1) % l.length]];
            if (p[1] <= y !== q[1] <= y) cuts.push(p[0] + ((y - p[1]) / (q[1] - p[1])) * (q[0] - p[0]));
          }
        cuts.sort((a, b) => a - b);
        const ends: number[] = [];
        for (let k = 0; k + 1 < cuts.length; k += 2)
          if (f.boundary === "zone") {
            for (let x = Math.ceil(cuts[k] / way.step) * way.step; x < cuts[k + 1] - DOT; x += way.step)
              ends.push(x, x + DOT);
          } else ends.push(cuts[k], cuts[k + 1]);
        for (const x of ends) {
          const along = c * x - s * y;
          const up = s * x + c * y;
          at.push(base.x + u.x * along + v.x * up, base.y + u.y * along + v.y * up, base.z + u.z * along + v.z * up);
        }
      }
    }
  }
  return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
}

/** The cells of a grid as a picture, one dot a cell; what has no colour is not drawn. */
export function cellTexture(
  cells: { columns: number; rows: number; values: (number | null)[] },
  colour: (value: number | null) => string | null,
): THREE.DataTexture {
  const data = new Uint8Array(cells.columns * cells.rows * 4);
  cells.values.forEach((v, i) => {
    const parts = colour(v)?.match(/\d+/g)?.map(Number);
    if (parts) data.set([...parts.slice(0, 3), 255], i * 4);
  });
  const made = new THREE.DataTexture(data, cells.columns, cells.rows);
  made.colorSpace = THREE.SRGBColorSpace;
  made.magFilter = THREE.NearestFilter;
  made.minFilter = THREE.NearestFilter;
  made.needsUpdate = true;
  return made;
}
