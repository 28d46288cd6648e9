import type { Case } from "../../api/client";

export interface FigureOf {
  id: string;
  name: string;
  unit: string;
  digits: number;
  of: (figures: Case["figures"]) => number;
}

const number = (figures: Case["figures"], name: string) => figures[name] ?? Number.NaN;

/** The figures by which cases are compared. */
export const figuresOf: FigureOf[] = [
  { id: "eui_kwh_per_m2", name: "Energy", unit: "kWh/m²", digits: 1, of: (f) => number(f, "eui_kwh_per_m2") },
  {
    id: "eui_net_kwh_per_m2",
    name: "Net energy",
    unit: "kWh/m²",
    digits: 1,
    of: (f) => number(f, "eui_net_kwh_per_m2"),
  },
  { id: "peak_heating_w", name: "Peak heating", unit: "kW", digits: 1, of: (f) => number(f, "peak_heating_w") / 1000 },
  { id: "peak_cooling_w", name: "Peak cooling", unit: "kW", digits: 1, of: (f) => number(f, "peak_cooling_w") / 1000 },
  { id: "cost_per_m2", name: "Running cost", unit: "€/m²", digits: 2, of: (f) => number(f, "cost_per_m2") },
  { id: "carbon_kg_per_m2", name: "Carbon", unit: "kg/m²", digits: 1, of: (f) => number(f, "carbon_kg_per_m2") },
  { id: "too_warm_h", name: "Too warm", unit: "h", digits: 0, of: (f) => number(f, "too_warm_h") },
];

export const shownFirst = ["eui_kwh_per_m2", "peak_cooling_w", "cost_per_m2"];

/** What is kept: steps dropped by lever, ranges by figure, and only cases without remarks. */
export interface Kept {
  sound?: boolean;
  dropped: Record<string, number[]>;
  ranges: Record<string, [number, number]>;
}

export function running(c: Case, keys: string[], kept: Kept, except?: string): boolean {
  if (c.status !== "done") return false;
  if (kept.sound && c.remarks.length > 0) return false;
  for (let i = 0; i < keys.length; i++) {
    if (keys[i] === except) continue;
    if (kept.dropped[keys[i]]?.includes(c.steps[i])) return false;
  }
  for (const f of figuresOf) {
    const range = kept.ranges[f.id];
    if (range && f.id !== except) {
      const v = f.of(c.figures);
      if (v < range[0] - 1e-9 || v > range[1] + 1e-9) return false;
    }
  }
  return true;
}
