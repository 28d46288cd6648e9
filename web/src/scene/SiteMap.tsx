import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useState } from "react";
import * as THREE from "three";
import type { Scheme } from "../api/client";
import { useProjectId } from "../api/hooks";
import { passed } from "../app/stable";
import { type Drawing, type Laid, pictureAddress, toPlan, useDrawings, useLaid } from "./plan/Underlays";

/** Just below the ground's shadows, just above its grid. */
const BELOW_M = 0.01;

/** What is laid under the site, on the ground in the model: pictures and lines. */
export function SiteMap({ scheme, ground }: { scheme: Scheme; ground: number }) {
  const laid = useLaid(scheme).filter((u) => u.path.startsWith("place/") && (u.shown ?? true));
  const drawings = useDrawings(laid);
  return (
    <>
      {laid.map((u) => {
        const drawing = drawings.get(u.drawing);
        if (!drawing) return null;
        return drawing.picture ? (
          <Picture key={u.path} laid={u} drawing={drawing} level={ground - BELOW_M} />
        ) : (
          <Lines key={u.path} laid={u} drawing={drawing} level={ground - BELOW_M} />
        );
      })}
    </>
  );
}

function Picture({ laid, drawing, level }: { laid: Laid; drawing: Drawing; level: number }) {
  const project = useProjectId();
  const invalidate = useThree((s) => s.invalidate);
  const [texture, setTexture] = useState<THREE.Texture | null>(null);
  useEffect(() => {
    let made: THREE.Texture | null = null;
    let left = false;
    new THREE.TextureLoader().load(pictureAddress(project, laid.drawing), (loaded) => {
      if (left) return loaded.dispose();
      loaded.colorSpace = THREE.SRGBColorSpace;
      loaded.anisotropy = 4;
      made = loaded;
      setTexture(loaded);
      invalidate();
    });
    return () => {
      left = true;
      made?.dispose();
    };
  }, [project, laid.drawing, invalidate]);
  const geometry = useMemo(() => {
    const [w, h] = [drawing.bounds[2], drawing.bounds[3]];
    const corners = [
      [0, 0],
      [w, 0],
      [w, h],
      [0, h],
    ].map(([x, y]) => toPlan(laid, x, y));
    const at = [0, 1, 2, 0, 2, 3].flatMap((i) => [corners[i].x, corners[i].y, level]);
    const made = new THREE.BufferGeometry();
    made.setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
    made.setAttribute("uv", new THREE.Float32BufferAttribute([0, 0, 1, 0, 1, 1, 0, 0, 1, 1, 0, 1], 2));
    return made;
  }, [laid, drawing, level]);
  if (!texture) return null;
  return (
    <mesh geometry={geometry} raycast={passed} renderOrder={-1}>
      <meshBasicMaterial
        map={texture}
        transparent
        opacity={laid.strength ?? 0.6}
        side={THREE.DoubleSide}
        depthWrite={false}
        toneMapped={false}
      />
    </mesh>
  );
}

function Lines({ laid, drawing, level }: { laid: Laid; drawing: Drawing; level: number }) {
  const geometry = useMemo(() => {
    const hidden = new Set(laid.hidden ?? []);
    const at: number[] = [];
    for (const layer of drawing.layers)
      if (!hidden.has(layer.name))
        for (let i = 0; i + 1 < layer.segments.length; i += 2) {
          const p = toPlan(laid, layer.segments[i], layer.segments[i + 1]);
          at.push(p.x, p.y, level);
        }
    return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
  }, [laid, drawing, level]);
  return (
    <lineSegments geometry={geometry} raycast={passed}>
      <lineBasicMaterial color="#7D8488" />
    </lineSegments>
  );
}
