import type { ThreeEvent } from "@react-three/fiber";
import { useMemo, useRef } from "react";
import * as THREE from "three";
import type { Geometry } from "../../../api/client";
import { passed } from "../../../app/stable";
import { tone } from "../../../app/tokens";
import { boundaryColours } from "../../../scene/colours";
import { HoverName, useHoverName } from "../../../scene/HoverName";
import { outlines, segments, triangulate } from "../../../scene/mesh";
import { View3D } from "../../../scene/View3D";
import type { Thing } from "./imports";

export type Look = "received" | "calculated" | "both";
const SHARP = 25;
const GLASS = /Window|Curtain|Opening/;

const shade = (n: THREE.Vector3) => (n.z > 0.5 ? 1 : n.z < -0.5 ? 0.7 : 0.78 + 0.1 * Math.max(-n.x, 0));

/** The model as received, as calculated, or one laid over the other. */
export function Received3D({
  things,
  geometry,
  look,
  north,
  selected,
  shows,
  holes,
  hole,
  onPick,
}: {
  things: Thing[];
  geometry: Geometry | null;
  look: Look;
  north: number;
  selected: string[];
  shows: (thing: Thing) => boolean;
  /** Holes that the checks found, drawn as lines. */
  holes: number[][][];
  /** Those of what is selected, drawn as sheets too. */
  hole: number[][][];
  onPick: (id: string | null, add: boolean) => void;
}) {
  const hover = useHoverName();
  const shown = useMemo(
    () =>
      look === "calculated"
        ? []
        : things.filter((t) => t.triangles.length > 0 && shows(t) && (look !== "both" || t.keep)),
    [things, shows, look],
  );
  const panes = useMemo(() => shown.filter((t) => GLASS.test(t.class_name)), [shown]);
  const solids = useMemo(() => shown.filter((t) => !GLASS.test(t.class_name)), [shown]);
  const frame = useMemo(() => {
    const box = new THREE.Box3();
    for (const t of things.filter((t) => t.keep))
      for (let i = 0; i + 2 < t.points.length; i += 3)
        box.expandByPoint(new THREE.Vector3(t.points[i], t.points[i + 1], t.points[i + 2]));
    if (box.isEmpty()) box.set(new THREE.Vector3(0, 0, 0), new THREE.Vector3(20, 20, 6));
    return box;
  }, [things]);
  const framed = useRef<THREE.Box3 | null>(null);
  if (!framed.current && things.length > 0) framed.current = frame;
  const picked = useMemo(() => new Set(selected), [selected]);
  const closer = useMemo(() => {
    const box = new THREE.Box3();
    for (const t of things.filter((t) => picked.has(t.id)))
      for (let i = 0; i + 2 < t.points.length; i += 3)
        box.expandByPoint(new THREE.Vector3(t.points[i], t.points[i + 1], t.points[i + 2]));
    return box;
  }, [things, picked]);
  return (
    <View3D
      frame={framed.current ?? frame}
      name={String(Boolean(framed.current))}
      ground={0}
      north={north}
      closer={closer}
      onMissed={() => onPick(null, false)}
      over={<HoverName show={hover} />}
    >
      {[false, true].map((glass) => (
        <Things
          key={String(glass)}
          things={glass ? panes : solids}
          glass={glass}
          picked={picked}
          faint={look === "both"}
          onPick={(t, e) => onPick(t.id, e.nativeEvent.shiftKey)}
          onHover={(t, e) =>
            hover.current(t && e ? { name: said(t), x: e.nativeEvent.offsetX, y: e.nativeEvent.offsetY } : null)
          }
        />
      ))}
      {geometry && look !== "received" && <Calculated geometry={geometry} over={look === "both"} />}
      {holes.length > 0 && (
        <lineSegments geometry={segments(holes)} renderOrder={5}>
          <lineBasicMaterial color={tone.fault} depthTest={false} linewidth={2} />
        </lineSegments>
      )}
      {hole.length > 0 && (
        <mesh geometry={sheets(hole)} renderOrder={4} raycast={passed}>
          <meshBasicMaterial color={tone.fault} transparent opacity={0.45} side={THREE.DoubleSide} depthTest={false} />
        </mesh>
      )}
    </View3D>
  );
}

/** Flat loops as filled sheets. */
function sheets(loops: number[][][]): THREE.BufferGeometry {
  const at = loops.flatMap((loop) => {
    const { points, triangles } = triangulate([loop]);
    return triangles.flatMap((t) => t.flatMap((i) => [points[i].x, points[i].y, points[i].z]));
  });
  return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
}

function said(t: Thing): string {
  const name = [t.number, t.name].filter(Boolean).join(" ") || t.class_name;
  return `${name}${t.keep ? "" : `, left out (${t.reason})`}`;
}

/** Panes are drawn half a metre nearer than they are: they lie within walls, whose openings are not cut. */
function Things({
  things,
  glass,
  picked,
  faint,
  onPick,
  onHover,
}: {
  things: Thing[];
  glass: boolean;
  picked: Set<string>;
  faint: boolean;
  onPick: (t: Thing, e: ThreeEvent<MouseEvent>) => void;
  onHover: (t: Thing | null, e?: ThreeEvent<PointerEvent>) => void;
}) {
  const moved = useRef({ x: 0, y: 0 });
  const { mesh, edges, owner } = useMemo(() => {
    const at: number[] = [];
    const colour: number[] = [];
    const line: number[] = [];
    const owner: Thing[] = [];
    for (const t of things) {
      const p = (i: number) => new THREE.Vector3(t.points[3 * i], t.points[3 * i + 1], t.points[3 * i + 2]);
      const base = new THREE.Color(t.keep ? (glass ? "#A9C9C8" : tone.bright) : "#DCD8CF");
      if (picked.has(t.id)) base.lerp(new THREE.Color("#7FB9B3"), 0.8);
      for (let k = 0; k + 2 < t.triangles.length; k += 3) {
        const [a, b, c] = [p(t.triangles[k]), p(t.triangles[k + 1]), p(t.triangles[k + 2])];
        const n = new THREE.Vector3().crossVectors(b.clone().sub(a), c.clone().sub(a)).normalize();
        const lit = base.clone().multiplyScalar(shade(n));
        for (const v of [a, b, c]) {
          at.push(v.x, v.y, v.z);
          colour.push(lit.r, lit.g, lit.b);
        }
        owner.push(t);
      }
    }
    const mesh = new THREE.BufferGeometry();
    mesh.setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
    mesh.setAttribute("color", new THREE.Float32BufferAttribute(colour, 3));
    for (const t of things) {
      const own = new THREE.BufferGeometry();
      own.setAttribute("position", new THREE.Float32BufferAttribute(t.points, 3));
      own.setIndex(t.triangles);
      for (const v of new THREE.EdgesGeometry(own, SHARP).getAttribute("position").array) line.push(v);
    }
    const edges = new THREE.BufferGeometry();
    edges.setAttribute("position", new THREE.Float32BufferAttribute(line, 3));
    return { mesh, edges, owner };
  }, [things, picked, glass]);
  return (
    <>
      <mesh
        geometry={mesh}
        onPointerDown={(e) => {
          moved.current = { x: e.clientX, y: e.clientY };
        }}
        onClick={(e) => {
          if (Math.hypot(e.clientX - moved.current.x, e.clientY - moved.current.y) > 4 || e.faceIndex == null) return;
          e.stopPropagation();
          onPick(owner[e.faceIndex], e);
        }}
        onPointerMove={(e) => e.faceIndex != null && onHover(owner[e.faceIndex], e)}
        onPointerOut={() => onHover(null)}
      >
        <meshBasicMaterial
          vertexColors
          side={THREE.DoubleSide}
          transparent={faint}
          opacity={faint ? 0.35 : 1}
          depthWrite={!faint}
          polygonOffset
          polygonOffsetFactor={glass ? 0 : 1}
          polygonOffsetUnits={glass ? -1600 : 1}
        />
      </mesh>
      <lineSegments geometry={edges} raycast={passed}>
        <lineBasicMaterial color={tone.ink} transparent opacity={faint ? 0.18 : 0.55} />
      </lineSegments>
    </>
  );
}

/** The zones as they will be calculated; laid over the model they are drawn in tide lines. */
function Calculated({ geometry, over }: { geometry: Geometry; over: boolean }) {
  const mesh = useMemo(() => {
    const at: number[] = [];
    const colour: number[] = [];
    for (const f of geometry.faces) {
      if (f.boundary === "zone" && !over) continue;
      const { points, normal, triangles } = triangulate(f.loops);
      const base = new THREE.Color(boundaryColours[f.boundary]).multiplyScalar(over ? 1 : shade(normal));
      for (const t of triangles)
        for (const i of t) {
          at.push(points[i].x, points[i].y, points[i].z);
          colour.push(base.r, base.g, base.b);
        }
    }
    const made = new THREE.BufferGeometry();
    made.setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
    made.setAttribute("color", new THREE.Float32BufferAttribute(colour, 3));
    return made;
  }, [geometry, over]);
  const lines = useMemo(() => outlines(geometry.faces, false), [geometry]);
  const panes = useMemo(() => segments(geometry.faces.flatMap((f) => f.windows)), [geometry]);
  return (
    <>
      {!over && (
        <mesh geometry={mesh} raycast={passed}>
          <meshBasicMaterial vertexColors side={THREE.DoubleSide} polygonOffset polygonOffsetFactor={1} />
        </mesh>
      )}
      <lineSegments geometry={lines} raycast={passed}>
        <lineBasicMaterial color={tone.tide} transparent opacity={0.9} />
      </lineSegments>
      <lineSegments geometry={panes} raycast={passed}>
        <lineBasicMaterial color={tone.brass} />
      </lineSegments>
    </>
  );
}
