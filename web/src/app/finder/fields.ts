import type { ProjectState } from "../../api/client";
import { type FieldName, notes, ownName } from "../../fields/notes";
import { at } from "../../fields/paths";

/** Where the fields of a description stand: the stage, and the path to them; * is the scheme in view. */
const owners: Record<string, [string, string]> = {
  Place: ["place", "place"],
  Scheme: ["shape", "schemes/*"],
  Aims: ["shape", "schemes/*/aims"],
  Skin: ["skin", "schemes/*/skin"],
  GlazingRatio: ["skin", "schemes/*/skin/glazing_ratio"],
  OverhangDepth: ["skin", "schemes/*/skin/overhang_depth_m"],
  FinDepth: ["skin", "schemes/*/skin/fin_depth_m"],
  LouvreDepth: ["skin", "schemes/*/skin/louvre_depth_m"],
  Blinds: ["skin", "schemes/*/skin/blinds"],
  ThermalBridges: ["skin", "schemes/*/skin/thermal_bridges"],
  Use: ["use", "schemes/*/use"],
  Airing: ["use", "schemes/*/use/airing"],
  Lights: ["use", "schemes/*/use/lights"],
  HeatSource: ["plant", "schemes/*/plant/heating"],
  CoolSource: ["plant", "schemes/*/plant/cooling"],
  HotWater: ["plant", "schemes/*/plant/hot_water"],
  Ventilation: ["plant", "schemes/*/plant/ventilation"],
  Factors: ["plant", "factors"],
};

/** Fields that no sheet shows: they are set by doing something. */
const unseen: FieldName[] = [
  "Place.name",
  "Place.climate",
  "Place.ground_by_month",
  "Scheme.name",
  "Scheme.contact_gap_m",
  "Scheme.imported_from",
  "Scheme.turned_about",
];

export interface FoundField {
  name: string;
  stage: string;
  path: string;
}

/** Every field that a sheet shows, by its title, with its stage and path. */
export function fieldsOf(state: ProjectState, scheme: string): FoundField[] {
  return Object.entries(notes).flatMap(([key, note]) => {
    const [stage, base] = owners[key.split(".")[0]] ?? [];
    if (!stage || !base || unseen.includes(key as FieldName)) return [];
    const own = base.replace("*", scheme);
    if (at(state.completed, own) == null) return [];
    return [{ name: note.title, stage, path: `${own}/${ownName(key as FieldName)}` }];
  });
}
