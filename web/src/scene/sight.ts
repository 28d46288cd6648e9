import * as THREE from "three";
import type { Face } from "../api/client";
import { triangulate } from "./mesh";
import type { Projector } from "./View3D";

type Corner = [number, number, number];
/** A triangle in space and where its corners lie on the canvas. */
interface Sheet {
  face: Face;
  space: Corner[];
  canvas: { x: number; y: number }[];
  low: [number, number];
  high: [number, number];
}

/** How far something may lie before another and not count as hiding it, in depths of the view. */
const TOUCH = 1e-5;

/**
 * Those of some faces that are seen: no other drawn face lies before the middle of every triangle of theirs. What a cut has
 * taken away hides nothing and is not seen.
 */
export function inSight(some: Face[], drawn: Face[], project: Projector): Face[] {
  const sheets = drawn.flatMap((face) => sheetsOf(face, project));
  const wanted = new Set(some);
  const seen = new Set<Face>();
  for (const own of sheets) {
    if (!wanted.has(own.face) || seen.has(own.face)) continue;
    const at = project(...weighed(own.space, [1 / 3, 1 / 3, 1 / 3]));
    if (!at.cut && !sheets.some((other) => other.face !== own.face && hides(other, at, project))) seen.add(own.face);
  }
  return some.filter((face) => seen.has(face));
}

function sheetsOf(face: Face, project: Projector): Sheet[] {
  const { points, triangles } = triangulate(face.loops);
  return triangles.map((triangle) => {
    const space = triangle.map((i) => [points[i].x, points[i].y, points[i].z] as Corner);
    const canvas = space.map((p) => project(...p));
    const [xs, ys] = [canvas.map((p) => p.x), canvas.map((p) => p.y)];
    return {
      face,
      space,
      canvas,
      low: [Math.min(...xs), Math.min(...ys)],
      high: [Math.max(...xs), Math.max(...ys)],
    };
  });
}

function hides(sheet: Sheet, at: ReturnType<Projector>, project: Projector): boolean {
  if (at.x < sheet.low[0] || at.x > sheet.high[0] || at.y < sheet.low[1] || at.y > sheet.high[1]) return false;
  const [a, b, c] = sheet.canvas.map((p) => new THREE.Vector3(p.x, p.y, 0));
  const shares = THREE.Triangle.getBarycoord(new THREE.Vector3(at.x, at.y, 0), a, b, c, new THREE.Vector3());
  if (!shares || Math.min(shares.x, shares.y, shares.z) < 1e-6) return false;
  const before = project(...weighed(sheet.space, [shares.x, shares.y, shares.z]));
  return !before.cut && before.depth < at.depth - TOUCH;
}

function weighed(corners: Corner[], shares: number[]): Corner {
  return [0, 1, 2].map((axis) => corners.reduce((sum, p, i) => sum + p[axis] * shares[i], 0)) as Corner;
}
