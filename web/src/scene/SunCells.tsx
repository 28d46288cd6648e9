import type { ThreeEvent } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import type { Face, Schemas } from "../api/client";
import { tone } from "../app/tokens";
import { amount } from "./colours";
import { cellTexture, segments, triangulate } from "./mesh";

export type Sun = Schemas["IrradiationOut"];
export type SunFace = Sun["faces"][number];

/** How far before the faces the cells are drawn, so that windows and lines of the faces do not shine through. */
const LIFT_M = 0.12;

/** What falls on faces, cell by cell, laid over them; the pointer reads one cell. */
export function SunCells({
  sun,
  faces,
  low,
  high,
  hidden,
  onHover,
}: {
  sun: Sun;
  faces: Face[];
  low: number;
  high: number;
  hidden: (f: Face) => boolean;
  onHover: (told: { face: SunFace; value: number } | null, e?: ThreeEvent<PointerEvent>) => void;
}) {
  const byId = useMemo(() => new Map(faces.map((f) => [f.id, f])), [faces]);
  return (
    <>
      {sun.faces.map((s) => {
        const face = byId.get(s.id);
        return face && !hidden(face) && <Cells key={s.id} {...{ s, face, low, high, onHover }} />;
      })}
    </>
  );
}

function Cells({
  s,
  face,
  low,
  high,
  onHover,
}: {
  s: SunFace;
  face: Face;
  low: number;
  high: number;
  onHover: (told: { face: SunFace; value: number } | null, e?: ThreeEvent<PointerEvent>) => void;
}) {
  const geometry = useMemo(() => {
    const { points, normal, triangles } = triangulate(face.loops);
    const [corner, along, upward] = [s.corner, s.along, s.upward].map(([x, y, z]) => new THREE.Vector3(x, y, z));
    const made = new THREE.BufferGeometry();
    const lifted = points.map((p) => p.clone().addScaledVector(normal, LIFT_M));
    made.setAttribute(
      "position",
      new THREE.Float32BufferAttribute(
        lifted.flatMap((p) => [p.x, p.y, p.z]),
        3,
      ),
    );
    const uv = points.flatMap((p) => {
      const from = p.clone().sub(corner);
      return [from.dot(along) / along.lengthSq(), from.dot(upward) / upward.lengthSq()];
    });
    made.setAttribute("uv", new THREE.Float32BufferAttribute(uv, 2));
    made.setIndex(triangles.flat());
    return made;
  }, [face, s]);
  const texture = useMemo(() => {
    const colour = (v: number | null) => amount(((v ?? s.mean) - low) / Math.max(high - low, 1e-9));
    return cellTexture(s, colour);
  }, [s, low, high]);
  const rim = useMemo(() => {
    const normal = triangulate(face.loops).normal.multiplyScalar(LIFT_M);
    return segments(face.loops.map((l) => l.map(([x, y, z]) => [x + normal.x, y + normal.y, z + normal.z])));
  }, [face]);
  useEffect(() => () => rim.dispose(), [rim]);
  useEffect(() => () => texture.dispose(), [texture]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return (
    <mesh
      geometry={geometry}
      onPointerMove={(e) => {
        if (!e.uv) return;
        const i = Math.min(Math.floor(e.uv.x * s.columns), s.columns - 1);
        const j = Math.min(Math.floor(e.uv.y * s.rows), s.rows - 1);
        const value = s.values[j * s.columns + i];
        if (value === null || value === undefined) return;
        e.stopPropagation();
        onHover({ face: s, value }, e);
      }}
      onPointerOut={() => onHover(null)}
    >
      <meshBasicMaterial
        map={texture}
        side={THREE.DoubleSide}
        polygonOffset
        polygonOffsetFactor={1}
        polygonOffsetUnits={1}
      />
      <lineSegments geometry={rim}>
        <lineBasicMaterial color={tone.ink} transparent opacity={0.6} />
      </lineSegments>
    </mesh>
  );
}

/** The scale of the picture: what its colours stand for. */
export function SunScale({
  low,
  high,
  unit,
  what = "sun on faces",
}: {
  low: string;
  high: string;
  unit: string;
  what?: string;
}) {
  const stops = Array.from({ length: 11 }, (_, i) => amount(i / 10)).join(",");
  return (
    <div className="overlay" style={{ right: 14, top: 92 }} data-sun-scale>
      <div className="quiet">
        {what}, {unit}
      </div>
      <div
        style={{
          width: 150,
          height: 10,
          background: `linear-gradient(to right,${stops})`,
          border: "1px solid #8A8A86",
        }}
      />
      <div className="spread">
        <span>{low}</span>
        <span>{high}</span>
      </div>
    </div>
  );
}
