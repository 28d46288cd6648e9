import table from "./systems.json";

export const parts = ["air", "emission", "heat", "peak", "cold", "water"] as const;
export type Part = (typeof parts)[number];
type Figures = Record<string, number | string | null>;

/** A ready combination of air side, emission, sources and hot water. */
export interface Ready {
  id: string;
  name: string;
  about: string;
  kinds: Record<Part, string>;
  more: Partial<Record<Part, Figures>>;
}

/** Kinds of photovoltaic modules, with their efficiency and what a kelvin takes of it. */
export const modules = table.modules.map((m) => ({ ...m, name: `${m.name}, ${Math.round(m.efficiency * 100)}%` }));

export const ready = table.ready as unknown as Ready[];
const figures = table.figures as unknown as Record<Part, Record<string, Figures>>;

/** What a system has been given otherwise than its ready combination says. */
export type Given = { ready?: string } & Partial<Record<Part, Record<string, unknown>>>;

/** The kinds that a part may be of. */
export const kindsOf = (part: Part): string[] => Object.keys(figures[part]);

/** What a part is, and its figures where nothing is given. */
export function usualOf(system: Given, part: Part): { kind: string; usual: Figures } {
  const of = ready.find((r) => r.id === system.ready) ?? ready[0];
  const kind = String(system[part]?.kind ?? of.kinds[part]);
  return { kind, usual: { ...figures[part][kind], ...(kind === of.kinds[part] ? of.more[part] : {}) } };
}

/** Which given figures mean nothing in a system, by part and name. */
export function idleIn(system: Given): [Part, string][] {
  return parts.flatMap((part) => {
    const known =
      system.ready === "seasonal"
        ? new Set()
        : new Set([...Object.keys(usualOf(system, part).usual), "kind", "power_kw"]);
    return Object.entries(system[part] ?? {})
      .filter(([name, value]) => value !== null && !known.has(name))
      .map(([name]): [Part, string] => [part, name]);
  });
}

export const partNames: Record<Part, string> = {
  air: "Air side",
  emission: "Emission and distribution",
  heat: "Heat source",
  peak: "Peak source",
  cold: "Cold source",
  water: "Hot water",
};
export const models = {
  air: "AirFigures",
  emission: "EmissionFigures",
  heat: "HeatFigures",
  peak: "HeatFigures",
  cold: "ColdFigures",
  water: "WaterFigures",
} as const;

/** Kinds and words of lists as people say them. */
export const kindNames: Record<string, string> = {
  windows: "windows",
  extract: "extract fans",
  balanced: "balanced ventilation",
  unit: "one air unit a room",
  all_air: "all-air, variable flow",
  radiators: "radiators",
  floor: "floor heating",
  ceiling: "ceilings",
  fan_coils: "fan coils",
  air: "air",
  none: "none",
  air_heat_pump: "air heat pump",
  ground_heat_pump: "ground heat pump",
  water_heat_pump: "groundwater heat pump",
  boiler: "boiler",
  district_heat: "district heat",
  direct_electric: "direct electric",
  air_chiller: "air-cooled chiller",
  tower_chiller: "chiller with tower",
  ground: "ground, by pumps alone",
  district_cold: "district cold",
  heating: "the heating’s source",
  electric: "electric heater",
  heat_pump: "heat pump of its own",
  gas: "gas",
  biomass: "pellets or chips",
  electricity: "electricity",
  fixed: "fixed",
  outdoor: "by outdoor temperature",
  need: "by the neediest room",
  dry_bulb: "by temperature",
  enthalpy: "by heat content",
};
