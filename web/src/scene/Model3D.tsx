import { Line } from "@react-three/drei";
import type { ThreeEvent } from "@react-three/fiber";
import { memo, useMemo, useRef } from "react";
import * as THREE from "three";
import type { Face, Geometry, Scheme } from "../api/client";
import { passed, useStable } from "../app/stable";
import { pick, type Selection, selectAll, useKept, useView } from "../app/state";
import { tone } from "../app/tokens";
import { both, round, scale } from "../app/words";
import { ArrayKnobs } from "./ArrayKnobs";
import type { Painted } from "./colours";
import { Flash } from "./Flash";
import { FloorCells } from "./FloorCells";
import { FrameOver } from "./FrameOver";
import { HoverName, useHoverName } from "./HoverName";
import { outlines, patterns, quads, segments, triangulate } from "./mesh";
import { Pulls } from "./Pulls";
import { Shadows } from "./Shadows";
import { SiteMap } from "./SiteMap";
import { SunCells, SunScale } from "./SunCells";
import { SunPath3D, sunAt, throwOf, useSunDay } from "./SunLayer";
import { inSight } from "./sight";
import { bodyLoops, crownLoops, type Neighbour, type SiteTree } from "./site";
import { type Projector, View3D } from "./View3D";

const shade = (n: THREE.Vector3) =>
  n.z > 0.5 ? 1 : n.z < -0.5 ? 0.7 : n.x * 0.6 - n.y * 0.8 > 0.3 ? 0.84 - 0.12 * Math.max(n.x, 0) : 0.7;

/** A contact shows where only one of its two zones is drawn. */
const parting = (f: Face, seen: (zone: string) => boolean) => seen(f.zone) !== seen(f.other ?? f.zone);

const FacesMesh = memo(function FacesMesh({
  faces,
  painted,
  whole,
  selected,
  hidden,
  seen,
  onPick,
  onHover,
}: {
  faces: Face[];
  painted: Painted;
  /** Draw roofs as one sheet, without the lines between their zones. */
  whole: boolean;
  selected: (f: Face) => boolean;
  hidden: (f: Face) => boolean;
  seen: (zone: string) => boolean;
  onPick: (f: Face, e: ThreeEvent<MouseEvent>) => void;
  onHover: (f: Face | null, e?: ThreeEvent<PointerEvent>) => void;
}) {
  const shown = useMemo(
    () => faces.filter((f) => (f.boundary === "zone" ? parting(f, seen) : !hidden(f))),
    [faces, hidden, seen],
  );
  const parts = useMemo(() => shown.map((f) => ({ face: f, ...triangulate(f.loops) })), [shown]);
  const { geometry, table } = useMemo(() => {
    const position: number[] = [];
    const colour: number[] = [];
    const owner: Face[] = [];
    for (const { face, points, normal, triangles } of parts) {
      const base = new THREE.Color(painted.colour(face) ?? tone.bright);
      if (selected(face)) base.lerp(new THREE.Color("#9FCBC6"), 0.75);
      base.multiplyScalar(shade(normal));
      for (const triangle of triangles) {
        owner.push(face);
        for (const i of triangle) {
          position.push(points[i].x, points[i].y, points[i].z);
          colour.push(base.r, base.g, base.b);
        }
      }
    }
    const made = new THREE.BufferGeometry();
    made.setAttribute("position", new THREE.Float32BufferAttribute(position, 3));
    made.setAttribute("color", new THREE.Float32BufferAttribute(colour, 3));
    return { geometry: made, table: owner };
  }, [parts, painted, selected]);
  const edges = useMemo(() => outlines(shown, whole), [shown, whole]);
  const panes = useMemo(() => quads(shown.flatMap((f) => f.windows)), [shown]);
  const frames = useMemo(() => segments(shown.flatMap((f) => f.windows)), [shown]);
  const moved = useRef({ x: 0, y: 0 });
  const press = useStable((e: ThreeEvent<PointerEvent>) => {
    moved.current = { x: e.clientX, y: e.clientY };
  });
  const click = useStable((e: ThreeEvent<MouseEvent>) => {
    if (Math.hypot(e.clientX - moved.current.x, e.clientY - moved.current.y) > 4 || e.faceIndex == null) return;
    e.stopPropagation();
    onPick(table[e.faceIndex], e);
  });
  const over = useStable((e: ThreeEvent<PointerEvent>) => {
    if (e.faceIndex != null) onHover(table[e.faceIndex], e);
  });
  const out = useStable(() => onHover(null));
  return (
    <>
      <mesh geometry={geometry} onPointerDown={press} onClick={click} onPointerMove={over} onPointerOut={out}>
        <meshBasicMaterial
          vertexColors
          side={THREE.DoubleSide}
          polygonOffset
          polygonOffsetFactor={1}
          polygonOffsetUnits={1}
        />
      </mesh>
      <lineSegments geometry={edges}>
        <lineBasicMaterial color={tone.ink} transparent opacity={0.75} />
      </lineSegments>
      <mesh geometry={panes} raycast={passed}>
        <meshBasicMaterial color="#8FBDBF" transparent opacity={0.72} side={THREE.DoubleSide} depthWrite={false} />
      </mesh>
      <lineSegments geometry={frames}>
        <lineBasicMaterial color="#4E7478" transparent opacity={0.7} />
      </lineSegments>
    </>
  );
});

const NeighbourBody = memo(function NeighbourBody({
  body,
  ground,
  on,
  onPick,
}: {
  body: Neighbour;
  ground: number;
  on: boolean;
  onPick: (s: Selection) => void;
}) {
  const loops = useMemo(() => bodyLoops(body.plan, ground, body.height), [body, ground]);
  const picked = useStable(() => onPick({ kind: body.kind, id: body.id }));
  return (
    <Sheets loops={loops} fill={on ? "#BFD3CF" : body.counts ? "#E4E0D7" : "#F1EEE6"} line="#A8A192" onPick={picked} />
  );
});

/** Flat sheets with their rims: neighbours, which can be picked; overhangs, fins and panels, which the pointer passes through. */
const Sheets = memo(function Sheets({
  loops,
  fill,
  line,
  onPick,
}: {
  loops: number[][][];
  fill: string;
  line: string;
  onPick?: () => void;
}) {
  const [sheet, lines] = useMemo(() => [quads(loops), segments(loops)], [loops]);
  const click = useStable((e: ThreeEvent<MouseEvent>) => {
    e.stopPropagation();
    onPick?.();
  });
  return (
    <>
      <mesh geometry={sheet} raycast={onPick ? THREE.Mesh.prototype.raycast : passed} onClick={click}>
        <meshBasicMaterial
          color={fill}
          side={THREE.DoubleSide}
          polygonOffset
          polygonOffsetFactor={1}
          polygonOffsetUnits={1}
        />
      </mesh>
      <lineSegments geometry={lines} raycast={passed}>
        <lineBasicMaterial color={line} transparent opacity={onPick ? 1 : 0.6} />
      </lineSegments>
    </>
  );
});

/** Each boundary's pattern on the faces that are drawn. */
function Patterns({
  faces,
  seen,
  hidden,
}: {
  faces: Face[];
  seen: (zone: string) => boolean;
  hidden: (f: Face) => boolean;
}) {
  const lines = useMemo(
    () => patterns(faces.filter((f) => (f.boundary === "zone" ? parting(f, seen) : !hidden(f)))),
    [faces, seen, hidden],
  );
  return (
    <lineSegments geometry={lines} raycast={passed}>
      <lineBasicMaterial color={tone.ink} transparent opacity={0.75} />
    </lineSegments>
  );
}

const Surroundings = memo(function Surroundings({
  bodies,
  trees,
  ground,
  chosen,
  onPick,
}: {
  bodies: Neighbour[];
  trees: SiteTree[];
  ground: number;
  chosen: string[];
  onPick: (s: Selection) => void;
}) {
  return (
    <>
      {bodies.map((b) => (
        <NeighbourBody key={b.id} body={b} ground={ground} on={chosen.includes(b.id)} onPick={onPick} />
      ))}
      {trees.map((t) => (
        <group key={t.id} position={[t.x, t.y, ground]}>
          <mesh
            position={[0, 0, t.height * 0.6]}
            rotation={[t.form && t.form !== "round" ? Math.PI / 2 : 0, 0, 0]}
            scale={
              t.form && t.form !== "round"
                ? [t.crown / 2, t.height * 0.8, t.crown / 2]
                : [t.crown / 2, t.crown / 2, t.height * 0.4]
            }
            onClick={(e) => {
              e.stopPropagation();
              onPick({ kind: "tree", id: t.id });
            }}
          >
            {t.form === "column" ? (
              <cylinderGeometry args={[1, 1, 1, 16]} />
            ) : t.form === "cone" ? (
              <coneGeometry args={[1, 1, 16]} />
            ) : (
              <icosahedronGeometry args={[1, 2]} />
            )}
            <meshBasicMaterial
              color={chosen.includes(t.id) ? "#9FBF9A" : "#C9D1BC"}
              transparent
              opacity={(t.counts ?? true) ? 0.8 : 0.35}
            />
          </mesh>
          <Line
            points={[
              [0, 0, 0],
              [0, 0, t.height * 0.5],
            ]}
            color="#8A917E"
            lineWidth={1}
          />
        </group>
      ))}
    </>
  );
});

/** What of the wanted kind a face belongs to. */
function above(f: Face, kind: Selection["kind"]): Selection {
  return kind === "volume" ? { kind, id: f.zone.split("/")[0] } : { kind: "zone", id: f.zone };
}

/** The building as a card model. Drag turns, two fingers or the buttons zoom, Shift-drag moves. */
export function Model3D({
  scheme,
  geometry,
  settled,
  painted,
  bodies,
  trees,
  ground,
  north,
  chosen,
  changed,
  level,
  seen,
  patterned,
  onSelect,
}: {
  scheme: Scheme;
  geometry: Geometry | undefined;
  /** The form as it is kept, while another is tried. */
  settled: Geometry | undefined;
  painted: Painted;
  bodies: Neighbour[];
  trees: SiteTree[];
  ground: number;
  north: number;
  /** Ids of all that is selected. */
  chosen: string[];
  /** Faces that the last edit changed, for a moment. */
  changed: Face[];
  level: number | null;
  seen: (zone: string) => boolean;
  /** Draw each boundary's pattern on its faces. */
  patterned: boolean;
  onSelect: (selection: Selection | null) => void;
}) {
  const hover = useHoverName();
  const zones = useMemo(() => new Map((geometry?.zones ?? []).map((z) => [z.id, z])), [geometry]);
  const bounds = useMemo(() => {
    const box = new THREE.Box3();
    for (const f of geometry?.faces ?? [])
      for (const p of f.loops[0]) box.expandByPoint(new THREE.Vector3(p[0], p[1], p[2]));
    if (box.isEmpty()) box.set(new THREE.Vector3(0, 0, 0), new THREE.Vector3(40, 30, 8));
    return box;
  }, [geometry]);
  // the view is framed once, when the form is first there; edits do not move it
  const framed = useRef<THREE.Box3 | null>(null);
  if (!framed.current && geometry && geometry.faces.length > 0) framed.current = bounds;
  const frame = framed.current ?? bounds;
  const kind = useView((s) => s.selection?.kind);
  const shownSun = useView((s) => s.sun);
  const sun = shownSun?.scheme === scheme.id ? shownSun : null;
  const sunScale = useView((s) => s.sunScale);
  const shownFloors = useView((s) => s.floors);
  const floors = shownFloors?.scheme === scheme.id ? shownFloors : null;
  const units = useKept((s) => s.units);
  const framing = useView((s) => s.drawing === "frame");
  const projector = useRef<Projector | null>(null);
  const selected = useMemo(() => {
    const ids = new Set(chosen);
    return (f: Face) => {
      if (kind === "face") return ids.has(f.id);
      if (kind === "zone") return ids.has(f.zone);
      return kind === "volume" && ids.has(f.zone.split("/")[0]);
    };
  }, [chosen, kind]);
  const hidden = useMemo(
    () => (f: Face) => !seen(f.zone) || (level !== null && (zones.get(f.zone)?.level ?? 0) > level + 0.01),
    [level, zones, seen],
  );

  const marked = useMemo(() => changed.filter((f) => !hidden(f)), [changed, hidden]);
  const whole = level === null || !(geometry?.zones ?? []).some((z) => z.level > level + 0.01);

  const panels = useMemo(
    () => (geometry && whole && geometry.zones.every((z) => seen(z.id)) ? geometry.panels : []),
    [geometry, whole, seen],
  );

  const thrown = useMemo(
    () => [
      ...bodies.filter((b) => b.counts).flatMap((b) => bodyLoops(b.plan, ground, b.height)),
      ...(geometry?.faces ?? []).filter((f) => f.boundary === "outdoors" && !hidden(f)).map((f) => f.loops[0]),
    ],
    [bodies, geometry, hidden, ground],
  );
  const sunDay = useView((s) => s.sunDay);
  const sunOfDay = useSunDay(sunDay?.day ?? null);
  const cast = useMemo(
    () => [...thrown, ...trees.filter((t) => t.counts ?? true).flatMap((t) => crownLoops(t, ground))],
    [thrown, trees, ground],
  );
  const throws = useMemo(() => {
    if (!sunDay || !sunOfDay) return [];
    const hours = sunOfDay.hours;
    const [first, last] = [hours[0] + 2, hours[hours.length - 1] - 2];
    const wanted = sunDay.range
      ? Array.from({ length: 25 }, (_, h) => h).filter((h) => h >= first && h <= last)
      : [sunDay.hour];
    return wanted.flatMap((hour, i) => {
      const toward = sunAt(sunOfDay, hour);
      // a sun on the horizon throws shadows without end
      return toward && toward[2] > 0.03
        ? [{ by: throwOf(toward), mark: i + 1, opacity: sunDay.range ? 0.07 : 0.24 }]
        : [];
    });
  }, [sunDay, sunOfDay]);
  const centre = useMemo(() => frame.getCenter(new THREE.Vector3()), [frame]);
  const reach = useMemo(() => frame.getSize(new THREE.Vector3()).length() * 0.62, [frame]);
  const closer = useMemo(() => {
    const box = new THREE.Box3();
    for (const f of geometry?.faces ?? [])
      if (selected(f)) for (const p of f.loops[0]) box.expandByPoint(new THREE.Vector3(p[0], p[1], p[2]));
    return box;
  }, [geometry, selected]);

  const pickFace = useStable((f: Face, e: ThreeEvent<MouseEvent>) =>
    pick(kind && kind !== "face" && e.shiftKey ? above(f, kind) : { kind: "face", id: f.id }, e.shiftKey),
  );
  const hoverFace = useStable((f: Face | null, e?: ThreeEvent<PointerEvent>) =>
    hover.current(
      f && e
        ? {
            name: `${zones.get(f.zone)?.name ?? f.zone}: ${f.kind}${f.orientation ? ` ${f.orientation}` : ""}, ${f.boundary}`,
            x: e.nativeEvent.offsetX,
            y: e.nativeEvent.offsetY,
          }
        : null,
    ),
  );
  const missed = useStable(() => onSelect(null));

  /** Selects what lies in the frame: the faces that are seen, or zones or volumes, also behind, where such are selected already. */
  function selectIn(inside: (x: number, y: number, z: number) => boolean, project: Projector, through: boolean) {
    const drawn = (geometry?.faces ?? []).filter((f) => (f.boundary === "zone" ? parting(f, seen) : !hidden(f)));
    const within = drawn.filter((f) => f.loops[0].every(([x, y, z]) => inside(x, y, z)));
    if (kind === "zone") selectAll("zone", [...new Set(within.map((f) => f.zone))]);
    else if (kind === "volume") selectAll("volume", [...new Set(within.map((f) => f.zone.split("/")[0]))]);
    else
      selectAll(
        "face",
        (through ? within : inSight(within, drawn, project)).map((f) => f.id),
      );
  }

  return (
    <View3D
      projector={projector}
      frame={frame}
      name={String(Boolean(framed.current))}
      ground={ground}
      north={north}
      closer={closer}
      onMissed={missed}
      over={
        <>
          {framing && <FrameOver projector={projector} onFrame={selectIn} />}
          <HoverName show={hover} />
          {sun && (
            <SunScale
              low={round((sunScale?.low ?? sun.low) * scale(sun.unit, units).factor, sun.unit === "h" ? 1 : 0)}
              high={round((sunScale?.high ?? sun.high) * scale(sun.unit, units).factor, sun.unit === "h" ? 1 : 0)}
              unit={scale(sun.unit, units).unit}
            />
          )}
        </>
      }
    >
      {sunDay ? (
        <>
          {throws.map(({ by, mark, opacity }) => (
            <Shadows key={mark} loops={cast} ground={ground} by={by} mark={mark} opacity={opacity} />
          ))}
          <SunPath3D day={sunDay.day} hour={sunDay.hour} middle={[centre.x, centre.y, ground]} reach={reach} />
        </>
      ) : (
        <Shadows loops={thrown} ground={ground} />
      )}
      <SiteMap scheme={scheme} ground={ground} />
      <Surroundings bodies={bodies} trees={trees} ground={ground} chosen={chosen} onPick={onSelect} />
      {geometry && (
        <>
          <FacesMesh
            faces={geometry.faces}
            painted={painted}
            whole={!painted.legend}
            selected={selected}
            hidden={hidden}
            seen={seen}
            onPick={pickFace}
            onHover={hoverFace}
          />
          <Flash faces={marked} />
          {settled && <Pulls scheme={scheme} geometry={settled} chosen={chosen} />}
          {patterned && <Patterns faces={geometry.faces} seen={seen} hidden={hidden} />}
          {whole && <Sheets loops={geometry.shades} fill="#EFE9DA" line={tone.ink} />}
          {sun && (
            <SunCells
              sun={sun}
              faces={geometry.faces}
              low={sunScale?.low ?? sun.low}
              high={sunScale?.high ?? sun.high}
              hidden={hidden}
              onHover={(told, e) =>
                hover.current(
                  told && e
                    ? {
                        name: `${both(told.value, sun.unit, units, sun.unit === "h" ? 1 : 0)} here; the face ${both(told.face.mean, sun.unit, units, sun.unit === "h" ? 1 : 0)}`,
                        x: e.nativeEvent.offsetX,
                        y: e.nativeEvent.offsetY,
                      }
                    : null,
                )
              }
            />
          )}
          {floors && (
            <FloorCells
              floors={floors}
              hidden={(zone) => !seen(zone) || (level !== null && (zones.get(zone)?.level ?? 0) > level + 0.01)}
              onHover={(told, e) =>
                hover.current(
                  told && e
                    ? {
                        name: `${both(told.value, floors.unit, units, floors.measure === "factor" ? 1 : 0)} here; ${told.floor.name}`,
                        x: e.nativeEvent.offsetX,
                        y: e.nativeEvent.offsetY,
                      }
                    : null,
                )
              }
            />
          )}
          {panels.map((p) => (
            <Sheets
              key={`${p.collects} ${p.array}`}
              loops={p.loops}
              fill={kind === "array" && chosen.includes(p.array) ? tone.brass : p.collects ? "#8A6A5A" : "#5F7F86"}
              line="#34505A"
              onPick={p.array ? () => onSelect({ kind: "array", id: p.array }) : undefined}
            />
          ))}
          {settled && kind === "array" && <ArrayKnobs scheme={scheme} panels={settled.panels} chosen={chosen} />}
        </>
      )}
    </View3D>
  );
}
