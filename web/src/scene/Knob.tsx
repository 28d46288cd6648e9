import { Html } from "@react-three/drei";
import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useState } from "react";
import type * as THREE from "three";
import { tone } from "../app/tokens";

/** Takes the camera's controls away while something is held, and gives them back. */
export function useControls(): (free: boolean) => void {
  const { controls, invalidate } = useThree();
  return (free) => {
    if (controls && "enabled" in controls) controls.enabled = free;
    invalidate();
  };
}

/** A knob in the model that can be held: always in front, as large on the page however near it is, with its words while it is. */
export function Knob({
  at,
  turn,
  shape,
  told,
  held,
  onHold,
}: {
  at: THREE.Vector3;
  turn?: THREE.Quaternion;
  /** A cone is pulled along its axis, a ball moves, a cube sizes. */
  shape: "cone" | "ball" | "cube";
  told: string;
  held: boolean;
  onHold: (e: ThreeEvent<PointerEvent>) => void;
}) {
  const camera = useThree((s) => s.camera);
  const [over, setOver] = useState(false);
  const px = 1 / ((camera as THREE.OrthographicCamera).zoom || 1);
  return (
    <group position={at} quaternion={turn}>
      <mesh
        position={shape === "cone" ? [0, 9 * px, 0] : [0, 0, 0]}
        renderOrder={5}
        onPointerOver={() => setOver(true)}
        onPointerOut={() => setOver(false)}
        onPointerMove={(e) => e.stopPropagation()}
        onPointerDown={(e) => {
          e.stopPropagation();
          onHold(e);
        }}
        onClick={(e) => e.stopPropagation()}
      >
        {shape === "cone" && <coneGeometry args={[6 * px, 16 * px, 20]} />}
        {shape === "ball" && <sphereGeometry args={[7 * px, 20, 14]} />}
        {shape === "cube" && <boxGeometry args={[11 * px, 11 * px, 11 * px]} />}
        <meshBasicMaterial color={held || over ? tone.ink : tone.tide} depthTest={false} transparent />
      </mesh>
      {(held || over) && (
        <Html
          position={shape === "cone" ? [0, 24 * px, 0] : [0, 0, 16 * px]}
          style={{ pointerEvents: "none", whiteSpace: "nowrap" }}
        >
          <span className="hover-name" style={{ position: "static" }} data-pulled>
            {told}
          </span>
        </Html>
      )}
    </group>
  );
}
