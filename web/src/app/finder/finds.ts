/** Words of the trade that stand for what is called something. */
export type Alike = [RegExp, string][];

/** Words of the trade by which things are looked for besides their titles. */
export const tradeWords: Alike = [
  [/glazing ratio|ratio (north|east|south|west)/i, "glass window-to-wall wwr"],
  [/glaz|window/i, "glass pane"],
  [
    /infiltration|permeability/i,
    "airtightness air tightness tight joints leakage leaks air change airchange ach blower door",
  ],
  [/openable|open above|purge/i, "natural ventilation opening windows night cooling"],
  [/overhang|fin|louvre|blind/i, "shade shading sun protection screen brise-soleil awning"],
  [/roof share|share of roof|photovoltaic|array/i, "solar panels pv photovoltaics"],
  [/collector/i, "solar thermal"],
  [/battery/i, "storage accumulator"],
  [/setpoint/i, "thermostat temperature"],
  [/insulation|construction|wall\b|roof\b/i, "thickness u-value r-value envelope fabric build-up"],
  [/rooflight/i, "skylight"],
  [/turned|north/i, "orientation rotation rotate azimuth"],
  [/heat recovery/i, "mvhr hrv erv exchanger"],
  [/system/i, "plant hvac heat pump boiler chiller"],
  [/sill|head above/i, "window height lintel"],
  [/climate/i, "weather epw tmy"],
  [/calendar|hours of use/i, "schedule occupancy holidays timetable"],
  [/equipment|lighting power/i, "internal gains load"],
  [/daylight|light inside|lights follow/i, "lux illuminance dimming sensor"],
  [/thermal bridge|surcharge|rims|edges/i, "cold bridge psi linear"],
  [/duplicate/i, "copy clone variant"],
  [/rename/i, "name call"],
  [/remove/i, "delete"],
  [/pin/i, "compare keep side by side"],
  [/findings/i, "compare comparison results report side by side"],
  [/report/i, "pdf print html document"],
  [/study/i, "parametric variants optimise optimisation sensitivity sample what if"],
  [/assumed/i, "defaults unknown origin source"],
  [/readout/i, "results months peaks hours"],
  [/inch-pound|si units/i, "imperial metric feet"],
  [/save the project/i, "export download backup"],
  [/import/i, "ifc gbxml obj stl gltf bim model file"],
  [/lay a plan/i, "dxf drawing underlay trace picture"],
  [/volume/i, "mass massing block solid"],
  [/room/i, "space zone"],
  [/undo/i, "back revert"],
  [/cost|price/i, "money tariff bill payback"],
  [/carbon|emission/i, "co2 greenhouse"],
  [/too warm/i, "overheating summer comfort"],
  [/too cold/i, "underheating winter comfort"],
];

/** Whether all words that were typed are in a text, or in the words of the trade that stand for it. */
export function finds(typed: string, told: string, alike: Alike): boolean {
  const more = alike.map(([is, words]) => (is.test(told) ? words : "")).join(" ");
  const text = `${told} ${more}`.toLowerCase();
  return typed
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}

/** Entries that hold what was typed: those whose name begins with it first, then those whose name holds it, then the rest. */
export function ranked<T extends { name: string }>(
  entries: T[],
  typed: string,
  told: (entry: T) => string,
  alike: Alike,
): T[] {
  const wanted = typed.trim().toLowerCase();
  const found = entries.filter((e) => finds(wanted, told(e), alike));
  if (!wanted) return found;
  const place = (e: T) => {
    const name = e.name.toLowerCase();
    return name === wanted ? 0 : name.startsWith(wanted) ? 1 : name.includes(wanted) ? 2 : 3;
  };
  return found
    .map((e, i) => [place(e), i, e] as const)
    .sort((a, b) => a[0] - b[0] || a[1] - b[1])
    .map(([, , e]) => e);
}
