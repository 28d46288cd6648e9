import type { Face, Geometry, Scheme } from "../../../api/client";
import { make } from "../../../api/edits";
import { freshId } from "../../../app/words";

export type Held = "arrays" | "collectors";
export type Laid = NonNullable<NonNullable<Scheme["plant"]>["arrays"]>[number];
export type On = NonNullable<Laid["on"]>;

export const holders: { id: On; name: string }[] = [
  { id: "roof", name: "roofs" },
  { id: "wall", name: "outside walls" },
  { id: "shade", name: "overhangs and shades" },
  { id: "free", name: "nothing: by itself" },
];

/** Which measures have a say where an array lies. */
export const measures: Record<On, readonly Measure[]> = {
  roof: ["share", "tilt_deg", "azimuth_deg", "pitch_m", "x", "y", "width_m", "depth_m", "clear_m"],
  wall: ["share", "x", "y", "width_m", "depth_m", "clear_m"],
  shade: ["share"],
  free: ["tilt_deg", "azimuth_deg", "x", "y", "level_m", "width_m", "depth_m"],
};
export type Measure =
  | "tilt_deg"
  | "azimuth_deg"
  | "pitch_m"
  | "share"
  | "x"
  | "y"
  | "level_m"
  | "width_m"
  | "depth_m"
  | "clear_m";

/** Places that what is selected in the model offers for an array, each with its name. */
export function placesOf(geometry: Geometry | undefined, chosen: string[]): { on: On; target: string; name: string }[] {
  const faces = (geometry?.faces ?? []).filter((f) => chosen.includes(f.id) && f.boundary === "outdoors");
  const found: { on: On; target: string; name: string }[] = [];
  for (const f of faces) {
    if (f.kind === "ceiling") found.push({ on: "roof", target: roofOf(f), name: "the chosen roof" });
    if (f.kind === "wall") {
      found.push({ on: "wall", target: f.edge || f.id, name: "the chosen wall" });
      const over = geometry?.carriers.includes(f.edge || f.id);
      if (over) found.push({ on: "shade", target: f.edge || f.id, name: "its overhang" });
    }
  }
  return found.filter((p, i) => found.findIndex((q) => q.on === p.on && q.target === p.target) === i);
}

const roofOf = (face: Face) => face.zone.split("/")[0];

const WIDE = 6;
const DEEP = 3;
const PLACE = ["on", "target", "x", "y", "level_m", "width_m", "depth_m"];

/** Where one that stands by itself comes to stand: before the form, to be moved. */
function beforeForm(geometry: Geometry | undefined): Record<string, number> {
  const points = (geometry?.faces ?? []).flatMap((f) => f.loops[0]);
  const [x, y] = points.length > 0 ? [0, 1].map((k) => points.map((p) => p[k])) : [[0], [0]];
  return {
    x: Math.round((Math.min(...x) + Math.max(...x)) / 2),
    y: Math.round(Math.min(...y) - 6),
    width_m: WIDE,
    depth_m: DEEP,
  };
}

/** The edit that adds an array or collectors at a place. */
export function adding(
  scheme: Scheme,
  geometry: Geometry | undefined,
  kind: Held,
  place: { on: On; target: string },
): { id: string; edit: ReturnType<typeof make.put> } {
  const all = [...(scheme.plant?.arrays ?? []), ...(scheme.plant?.collectors ?? [])];
  const stem = kind === "arrays" ? "array" : "collectors";
  const id = freshId(
    stem,
    all.map((a) => a.id),
  );
  const name = kind === "arrays" ? `Array ${(scheme.plant?.arrays ?? []).length + 1}` : "Collectors";
  const item: Record<string, unknown> = { id, name, on: place.on };
  const chosen: Record<string, number> = {};
  if (place.on !== "free") item.target = place.target;
  else Object.assign(chosen, beforeForm(geometry), { tilt_deg: 30 });
  if (kind === "collectors" && place.on !== "free") chosen.share = 0.05;
  if (kind === "collectors" && place.on !== "wall" && place.on !== "shade") chosen.tilt_deg = 40;
  const edit = make.put(`schemes/${scheme.id}/plant/${kind}`, { ...item, ...chosen, assumed: Object.keys(chosen) });
  return { id, edit };
}

/** The edit that lays an array on something else: what said where it lay means another thing there, and goes; all else is kept. */
export function relaid(
  scheme: Scheme,
  geometry: Geometry | undefined,
  kind: Held,
  given: { assumed?: string[] } & Record<string, unknown>,
  on: On,
): ReturnType<typeof make.put> {
  const kept = Object.fromEntries(Object.entries(given).filter(([name]) => !PLACE.includes(name)));
  const chosen = on === "free" ? beforeForm(geometry) : {};
  const assumed = [...(given.assumed ?? []).filter((name) => !PLACE.includes(name)), ...Object.keys(chosen)];
  return make.put(`schemes/${scheme.id}/plant/${kind}`, { ...kept, on, ...chosen, assumed });
}
