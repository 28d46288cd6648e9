import type { Edit, Geometry, Scheme } from "../../api/client";
import { make } from "../../api/edits";
import { freshId } from "../../app/words";

/** How many of its rooms a merged zone is called by. */
const NAMED = 3;

/** Makes one zone of several; a group among them gives its members and is replaced by the new one. */
export function mergeEdit(scheme: Scheme, chosen: string[], zonesThere: Geometry["zones"]): { edit: Edit; id: string } {
  const groups = scheme.merged ?? [];
  const path = `schemes/${scheme.id}/merged`;
  const taken = groups.filter((g) => chosen.includes(g.id));
  const zones = chosen.flatMap((id) => taken.find((g) => g.id === id)?.zones ?? [id]);
  const id = freshId(
    "room",
    groups.map((g) => g.id),
  );
  const edits = [
    ...taken.map((g) => make.remove(`${path}/${g.id}`)),
    make.put(path, { id, name: nameOf(chosen, zonesThere), zones }),
  ];
  return { edit: make.together(edits), id };
}

/** The names of those merged, each told once. */
function nameOf(chosen: string[], zones: Geometry["zones"]): string {
  const names = [...new Set(chosen.map((id) => zones.find((z) => z.id === id)?.name || id))];
  const more = names.length - NAMED;
  return names.slice(0, NAMED).join(" + ").slice(0, 100) + (more > 0 ? ` + ${more} more` : "");
}

/** What is told of zones that were made one: the floor between those above each other, m², that is floor no more. */
export function floorGone(geometry: Geometry | undefined, chosen: string[]): number {
  const of = (zone: string | null | undefined) => zone !== null && zone !== undefined && chosen.includes(zone);
  return (geometry?.faces ?? [])
    .filter((f) => f.kind !== "wall" && f.boundary === "zone" && of(f.zone) && of(f.other))
    .reduce((sum, f) => sum + f.area, 0);
}
