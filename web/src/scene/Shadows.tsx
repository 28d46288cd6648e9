import { useMemo } from "react";
import * as THREE from "three";
import { triangulate } from "./mesh";

/** How far a metre of height throws its shadow: a drawing's convention, light from the left, not the sun of an hour. */
const THROW = [0.5, 0.32];

/** A soft shade on the ground; where shadows overlap the ground is shaded once. */
export function Shadows({ loops, ground }: { loops: number[][][]; ground: number }) {
  const geometry = useMemo(() => {
    const at: number[] = [];
    for (const loop of loops) {
      const thrown = loop.map(([x, y, z]) => {
        const up = Math.max(z - ground, 0);
        return [x + THROW[0] * up, y + THROW[1] * up, ground];
      });
      const { points, triangles } = triangulate([thrown]);
      for (const t of triangles) for (const i of t) at.push(points[i].x, points[i].y, points[i].z);
    }
    return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
  }, [loops, ground]);
  return (
    <mesh geometry={geometry} raycast={() => null}>
      <meshBasicMaterial
        color="#22303A"
        transparent
        opacity={0.1}
        side={THREE.DoubleSide}
        depthWrite={false}
        polygonOffset
        polygonOffsetFactor={-1}
        polygonOffsetUnits={-1}
        stencilWrite
        stencilRef={1}
        stencilFunc={THREE.NotEqualStencilFunc}
        stencilZPass={THREE.ReplaceStencilOp}
      />
    </mesh>
  );
}
