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

/** What decides whether fields count, by a description or a single field: its stage, and the paths to try, the nearest first. */
const deciders: Record<string, [string, ...string[]]> = {
  Blinds: ["skin", "schemes/*/skin/blinds/place"],
  "Skin.turn_with": ["shape", "schemes/*/turn_deg"],
  Airing: ["use", "schemes/*/use/airing/openable_share"],
  "Airing.night_down_to_c": ["use", "schemes/*/use/airing/night_purge", "schemes/*/use/airing/openable_share"],
  Lights: ["use", "schemes/*/use/lights/kind"],
  "Lights.bright_lx": ["use", "schemes/*/use/lights/floors"],
  HeatSource: ["plant", "schemes/*/plant/main/ready"],
  CoolSource: ["plant", "schemes/*/plant/main/ready"],
  HotWater: ["plant", "schemes/*/plant/main/ready"],
  Ventilation: ["plant", "schemes/*/plant/main/ready"],
};

/** What fields of a description are called before their own title, where that alone says too little. */
const called: Record<string, string> = { Blinds: "Blinds, " };

export interface FoundField {
  name: string;
  stage: string;
  path: string;
  /** What decides whether it counts, where something does. */
  decider?: { stage: string; paths: string[] };
}

/** Every field that a sheet shows, by its title, with its stage and path. */
export function fieldsOf(state: ProjectState, scheme: string): FoundField[] {
  return Object.entries(notes).flatMap(([key, note]) => {
    const owner = key.split(".")[0];
    const [stage, base] = owners[owner] ?? [];
    if (!stage || !base || unseen.includes(key as FieldName)) return [];
    const own = base.replace("*", scheme);
    if (at(state.completed, own) == null) return [];
    const title = called[owner] && note.title !== owner ? called[owner] + note.title.toLowerCase() : note.title;
    const [where, ...paths] = deciders[key] ?? deciders[owner] ?? [];
    const decider = where ? { stage: where, paths: paths.map((p) => p.replace("*", scheme)) } : undefined;
    return [{ name: title, stage, path: `${own}/${ownName(key as FieldName)}`, decider }];
  });
}
