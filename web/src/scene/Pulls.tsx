import { useMemo } from "react";
import { useLocation } from "react-router";
import * as THREE from "three";
import type { Face, Geometry, Scheme } from "../api/client";
import { make } from "../api/edits";
import { type Made, useEdit, useScheme, useTry } from "../api/hooks";
import { differEdit, differing } from "../app/overrides";
import { useKept, useView } from "../app/state";
import { figure } from "../app/words";
import { useDrag } from "./drag";
import { Knob, useControls } from "./Knob";
import { heldOf, pull } from "./plan/held";
import { useProjector } from "./View3D";

/** Something that can be pulled along an axis: where its knob stands, what it measures, and the edit for a new measure. */
interface Pullable {
  id: string;
  at: THREE.Vector3;
  axis: THREE.Vector3;
  value: number;
  least: number;
  name: string;
  setting: (value: number) => Made;
}

/** Knobs on what is selected: a roof is pulled up or down and sets a height, a wall moves square to itself. */
export function Pulls({ scheme, geometry, chosen }: { scheme: Scheme; geometry: Geometry; chosen: string[] }) {
  const kind = useView((s) => s.selection?.kind);
  const tools = useView((s) => s.drawing);
  const { given } = useScheme();
  const stage = useLocation().pathname.split("/")[3];
  const found = useMemo(
    () => (chosen.length === 1 && kind ? pullables(scheme, given, stage ?? "", geometry, kind, chosen[0]) : []),
    [scheme, given, stage, geometry, kind, chosen],
  );
  if (tools) return null;
  return (
    <>
      {found.map((p) => (
        <Pull key={p.id} scheme={scheme.id} pullable={p} />
      ))}
    </>
  );
}

function Pull({ scheme, pullable }: { scheme: string; pullable: Pullable }) {
  const free = useControls();
  const units = useKept((s) => s.units);
  const set = useView((s) => s.set);
  const edit = useEdit();
  const attempt = useTry(scheme);
  const project = useProjector();
  const [drag, hold] = useDrag<{ from: { x: number; y: number }; held: Pullable; value: number }>({
    follow: (now, e) => {
      const { at, axis, value, least } = now.held;
      const [p, q] = [project(at.x, at.y, at.z), project(at.x + axis.x, at.y + axis.y, at.z + axis.z)];
      const [dx, dy] = [q.x - p.x, q.y - p.y];
      const long2 = dx * dx + dy * dy;
      if (long2 < 1) return now; // seen along the axis
      const by = ((e.clientX - now.from.x) * dx + (e.clientY - now.from.y) * dy) / long2;
      const step = e.altKey ? 0.01 : 0.1;
      const next = Math.max(Number((Math.round((value + by) / step) * step).toFixed(2)), least);
      if (next !== now.value) attempt(now.held.setting(next), true);
      return { ...now, value: next };
    },
    drop: ({ held, value }) => {
      free(true);
      if (value !== held.value) void edit(held.setting(value));
    },
    leave: () => {
      free(true);
      set({ tried: null });
    },
  });
  const by = drag ? drag.value - drag.held.value : 0;
  const shown = figure(drag?.value ?? pullable.value, "m", units, 2);
  return (
    <Knob
      at={(drag?.held.at ?? pullable.at).clone().addScaledVector(pullable.axis, by)}
      turn={new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 1, 0), pullable.axis)}
      shape="cone"
      told={`${pullable.name} ${shown.text} ${shown.unit}`}
      held={drag !== null}
      onHold={(e) => {
        free(false);
        hold({ from: { x: e.clientX, y: e.clientY }, held: pullable, value: pullable.value });
      }}
    />
  );
}

const UP = new THREE.Vector3(0, 0, 1);

function pullables(
  scheme: Scheme,
  given: unknown,
  stage: string,
  geometry: Geometry,
  kind: string,
  id: string,
): Pullable[] {
  if (kind === "face") {
    const face = geometry.faces.find((f) => f.id === id);
    if (!face) return [];
    const zone = geometry.zones.find((z) => z.id === face.zone);
    if (face.kind === "ceiling" && face.boundary !== "zone" && zone)
      return heights(scheme, zone.volume, zone.storey, middle(face)).slice(0, 1);
    if (face.kind === "wall" && stage === "skin") return shade(scheme, given, face);
    if (face.kind === "wall" && face.boundary !== "zone") return sides(scheme, geometry, face);
    return [];
  }
  const zones = geometry.zones.filter((z) => (kind === "volume" ? z.volume === id : z.id === id));
  if (zones.length === 0) return [];
  const top = zones.reduce((a, b) => (b.level > a.level ? b : a));
  const roof = geometry.faces.filter((f) => f.zone === top.id && f.kind === "ceiling");
  if (roof.length === 0) return [];
  return heights(scheme, top.volume, top.storey, middle(roof.reduce((a, b) => (b.area > a.area ? b : a))));
}

/** The height of a room, or of a volume's storey. */
function heights(scheme: Scheme, owner: string, storey: string, at: THREE.Vector3): Pullable[] {
  const room = (scheme.zones ?? []).find((z) => z.id === owner);
  const path = `schemes/${scheme.id}`;
  if (room?.outline) {
    const setting = (value: number) => make.set(`${path}/zones/${owner}/outline/height`, value);
    return [{ id: "height", at, axis: UP, value: room.outline.height, least: 0.5, name: "Room", setting }];
  }
  const volume = (scheme.volumes ?? []).find((v) => v.id === owner);
  const index = volume?.storeys.findIndex((s) => s.id === storey) ?? -1;
  if (!volume || index < 0) return [];
  const setting = (value: number) => make.set(`${path}/volumes/${owner}/storeys/${storey}/height_m`, value);
  const value = volume.storeys[index].height_m ?? 3.5;
  return [{ id: "height", at, axis: UP, value, least: 0.5, name: `Storey ${index}`, setting }];
}

/** The overhang of one wall, pulled outward from its head. */
function shade(scheme: Scheme, given: unknown, face: Face): Pullable[] {
  if (face.boundary !== "outdoors" || !face.edge || face.side || face.windows.length === 0) return [];
  const own = differing(given, scheme, face)?.own?.overhang_m;
  const side = face.skin_side as "north" | "east" | "south" | "west";
  const value = own ?? scheme.skin?.overhang_depth_m?.[side] ?? 0;
  const axis = outward(face);
  const at = middle(face);
  at.z = Math.max(...face.windows.flat().map((p) => p[2])) + 0.05;
  at.addScaledVector(axis, value);
  const setting = (depth: number) => differEdit(scheme, [face], { overhang_m: depth });
  return [{ id: "overhang", at, axis, value, least: 0, name: "Overhang", setting }];
}

/** The side of an outline on which a wall stands, pulled outward. */
function sides(scheme: Scheme, geometry: Geometry, face: Face): Pullable[] {
  const [owner, , edge] = face.edge ? face.edge.split("/") : [];
  const held = heldOf(scheme, geometry, owner);
  const index = held?.points.findIndex((p) => p.id === edge) ?? -1;
  if (!held || index < 0) return [];
  const [a, b] = [held.points[index], held.points[(index + 1) % held.points.length]];
  const [p, q] = [held.out(a), held.out(b)];
  const long = Math.hypot(q.x - p.x, q.y - p.y);
  const at = middle(face);
  const axis = outward(face);
  // a form that is typed by its lengths has sides elsewhere than its walls, where it is no rectangle
  const away = Math.abs(((at.x - p.x) * (q.y - p.y) - (at.y - p.y) * (q.x - p.x)) / long);
  if (!(long > 0) || away > 0.05) return [];
  const value = 0;
  const setting = (by: number) => {
    const [x, y] = [p.x + axis.x * by, p.y + axis.y * by];
    return held.setting(pull(held, "side", index, held.into({ x, y })));
  };
  return [{ id: "side", at, axis, value, least: -1000, name: "Moved by", setting }];
}

function middle(face: Face): THREE.Vector3 {
  const box = new THREE.Box3();
  for (const [x, y, z] of face.loops[0]) box.expandByPoint(new THREE.Vector3(x, y, z));
  return box.getCenter(new THREE.Vector3());
}

/** The outward direction of a face, whose outer loop runs counter-clockwise seen from outside. */
function outward(face: Face): THREE.Vector3 {
  const sum = new THREE.Vector3();
  const loop = face.loops[0].map(([x, y, z]) => new THREE.Vector3(x, y, z));
  for (let i = 0; i < loop.length; i++) sum.add(loop[i].clone().cross(loop[(i + 1) % loop.length]));
  return sum.normalize();
}
