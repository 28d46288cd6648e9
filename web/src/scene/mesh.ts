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
