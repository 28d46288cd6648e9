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

/** Edges of all faces; between two level faces of one height only where `whole` does not join them. */
export function outlines(faces: Face[], whole: boolean): THREE.BufferGeometry {
  if (!whole) return segments(faces.flatMap((f) => f.loops));
  const key = (p: number[], q: number[]) => [...p, ...q].map((n) => n.toFixed(2)).join(" ");
  const level = faces.filter((f) => f.kind !== "wall");
  const seen = new Set<string>();
  for (const f of level)
    for (const l of f.loops) for (let i = 0; i < l.length; i++) seen.add(key(l[i], l[(i + 1) % l.length]));
  const at: number[] = [];
  for (const f of faces)
    for (const l of f.loops)
      for (let i = 0; i < l.length; i++) {
        const [p, q] = [l[i], l[(i + 1) % l.length]];
        if (f.kind === "wall" || !seen.has(key(q, p))) at.push(...p, ...q);
      }
  return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
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
