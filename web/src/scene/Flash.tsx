import { useMemo } from "react";
import * as THREE from "three";
import type { Face } from "../api/client";
import { passed } from "../app/stable";
import { tone } from "../app/tokens";
import { triangulate } from "./mesh";

/** Faces that an edit just changed, marked over the model for a moment. */
export function Flash({ faces }: { faces: Face[] }) {
  const sheet = useMemo(() => {
    const position = faces.flatMap((f) => {
      const { points, triangles } = triangulate(f.loops);
      return triangles.flatMap((t) => t.flatMap((i) => [points[i].x, points[i].y, points[i].z]));
    });
    const made = new THREE.BufferGeometry();
    made.setAttribute("position", new THREE.Float32BufferAttribute(position, 3));
    return made;
  }, [faces]);
  if (faces.length === 0) return null;
  return (
    <mesh geometry={sheet} raycast={passed}>
      <meshBasicMaterial
        color={tone.warning}
        transparent
        opacity={0.8}
        side={THREE.DoubleSide}
        depthWrite={false}
        polygonOffset
        polygonOffsetFactor={-1}
        polygonOffsetUnits={-1}
      />
    </mesh>
  );
}
