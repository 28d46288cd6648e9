import type { ThreeEvent } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import { amount } from "./colours";
import { type FloorOf, type Floors, topOf } from "./floors";
import { cellTexture } from "./mesh";

/** Light on floors, cell by cell, on their working planes; the pointer reads one cell. */
export function FloorCells({
  floors,
  hidden,
  onHover,
}: {
  floors: Floors;
  hidden: (zone: string) => boolean;
  onHover: (told: { floor: FloorOf; value: number } | null, e?: ThreeEvent<PointerEvent>) => void;
}) {
  const top = topOf(floors);
  return (
    <>{floors.floors.map((f) => !hidden(f.zone) && <Cells key={f.zone} floor={f} top={top} onHover={onHover} />)}</>
  );
}

function Cells({
  floor,
  top,
  onHover,
}: {
  floor: FloorOf;
  top: number;
  onHover: (told: { floor: FloorOf; value: number } | null, e?: ThreeEvent<PointerEvent>) => void;
}) {
  const geometry = useMemo(() => {
    const [corner, along, upward] = [floor.corner, floor.along, floor.upward].map(
      ([x, y, z]) => new THREE.Vector3(x, y, z),
    );
    const at = [corner, corner.clone().add(along), corner.clone().add(along).add(upward), corner.clone().add(upward)];
    const made = new THREE.BufferGeometry();
    const flat = at.flatMap((p) => [p.x, p.y, p.z]);
    made.setAttribute("position", new THREE.Float32BufferAttribute(flat, 3));
    made.setAttribute("uv", new THREE.Float32BufferAttribute([0, 0, 1, 0, 1, 1, 0, 1], 2));
    made.setIndex([0, 1, 2, 0, 2, 3]);
    return made;
  }, [floor]);
  const texture = useMemo(() => {
    return cellTexture(floor, (v) => (v === null ? null : amount(v / top)));
  }, [floor, top]);
  useEffect(() => () => texture.dispose(), [texture]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return (
    <mesh
      geometry={geometry}
      onPointerMove={(e) => {
        if (!e.uv) return;
        const i = Math.min(Math.floor(e.uv.x * floor.columns), floor.columns - 1);
        const j = Math.min(Math.floor(e.uv.y * floor.rows), floor.rows - 1);
        const value = floor.values[j * floor.columns + i];
        if (value === null || value === undefined) return;
        e.stopPropagation();
        onHover({ floor, value }, e);
      }}
      onPointerOut={() => onHover(null)}
    >
      <meshBasicMaterial map={texture} side={THREE.DoubleSide} transparent alphaTest={0.5} />
    </mesh>
  );
}
