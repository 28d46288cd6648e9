import { useMemo } from "react";
import * as THREE from "three";
import { passed } from "../app/stable";
import { tone } from "../app/tokens";
import { triangulate } from "./mesh";

/** How far a metre of height throws its shadow: a drawing's convention, light from the left, not the sun of an hour. */
const THROW = [0.5, 0.32];

/** A soft shade on the ground; where shadows overlap the ground is shaded once. */
export function Shadows({
  loops,
  ground,
  by = THROW,
  mark = 1,
  opacity = 0.1,
}: {
  loops: number[][][];
  ground: number;
  /** How far a metre of height throws its shadow. */
  by?: readonly number[];
  /** Shadows of one mark are not doubled where they overlap; those of another add to them. */
  mark?: number;
  opacity?: number;
}) {
  const geometry = useMemo(() => {
    const at: number[] = [];
    for (const loop of loops) {
      const thrown = loop.map(([x, y, z]) => {
        const up = Math.max(z - ground, 0);
        return [x + by[0] * up, y + by[1] * up, ground];
      });
      const { points, triangles } = triangulate([thrown]);
      for (const t of triangles) for (const i of t) at.push(points[i].x, points[i].y, points[i].z);
    }
    return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
  }, [loops, ground, by]);
  return (
    <mesh geometry={geometry} raycast={passed}>
      <meshBasicMaterial
        color={tone.ink}
        transparent
        opacity={opacity}
        side={THREE.DoubleSide}
        depthWrite={false}
        polygonOffset
        polygonOffsetFactor={-1}
        polygonOffsetUnits={-1}
        stencilWrite
        stencilRef={mark}
        stencilFunc={THREE.NotEqualStencilFunc}
        stencilZPass={THREE.ReplaceStencilOp}
      />
    </mesh>
  );
}
