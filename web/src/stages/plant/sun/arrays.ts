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
      const over = geometry?.carriers.some((c) => c.target === (f.edge || f.id));
      if (over) found.push({ on: "shade", target: f.edge || f.id, name: "its overhang" });
    }
  }
  return found.filter((p, i) => found.findIndex((q) => q.on === p.on && q.target === p.target) === i);
}

const roofOf = (face: Face) => face.zone.split("/")[0];

const WIDE = 6;
const DEEP = 3;

/** The edit that adds an array or collectors at a place; one that stands by itself comes before the form, to be moved. */
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
  if (place.on !== "free") item.target = place.target;
  if (kind === "collectors" && place.on !== "free") Object.assign(item, { share: 0.05, assumed: ["share"] });
  if (kind === "collectors" && place.on !== "wall" && place.on !== "shade") item.tilt_deg = 40;
  if (place.on === "free") {
    const points = (geometry?.faces ?? []).flatMap((f) => f.loops[0]);
    const [x, y] = points.length > 0 ? [0, 1].map((k) => points.map((p) => p[k])) : [[0], [0]];
    Object.assign(item, {
      x: Math.round((Math.min(...x) + Math.max(...x)) / 2),
      y: Math.round(Math.min(...y) - 6),
      width_m: WIDE,
      depth_m: DEEP,
      tilt_deg: 30,
      assumed: ["x", "y", "width_m", "depth_m", "tilt_deg"],
    });
  }
  return { id, edit: make.put(`schemes/${scheme.id}/plant/${kind}`, item) };
}
