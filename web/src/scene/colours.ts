import type { Face, Geometry, Outcome } from "../api/client";
import type { Colouring } from "../app/state";
import { categories } from "../app/theme";
import { figure } from "../app/words";

export interface Legend {
  title: string;
  entries: { colour: string; name: string; pattern?: string }[];
}

export interface Painted {
  colour: (face: Face) => string | null;
  legend: Legend | null;
}

const ramp = ["#F6EBC2", "#C9D3B4", "#8FB5AC", "#4F8F93", "#1F6F78", "#22303A"];

/** One ramp from pale paper-yellow through tide to ink, perceptually even. */
export function amount(share: number): string {
  const at = Math.min(Math.max(share, 0), 1) * (ramp.length - 1);
  const low = Math.floor(at);
  const high = Math.min(low + 1, ramp.length - 1);
  const mix = (i: number) => {
    const a = Number.parseInt(ramp[low].slice(1 + 2 * i, 3 + 2 * i), 16);
    const b = Number.parseInt(ramp[high].slice(1 + 2 * i, 3 + 2 * i), 16);
    return Math.round(a + (b - a) * (at - low));
  };
  return `rgb(${mix(0)},${mix(1)},${mix(2)})`;
}

export const boundaryColours: Record<string, string> = {
  outdoors: "#FFFEFB",
  ground: "#C9C2B4",
  zone: "#CFE3E0",
  adiabatic: "#E3E0DB",
  fixed: "#E0D3B8",
};

/** Which colour each face takes for the question that is asked, and the legend for it. */
export function paint(
  colouring: Colouring,
  geometry: Geometry,
  outcome: Outcome | undefined,
  units: "SI" | "IP",
): Painted {
  if (colouring === "boundary")
    return {
      colour: (f) => boundaryColours[f.boundary],
      legend: {
        title: "Boundary",
        entries: [
          { colour: boundaryColours.outdoors, name: "outdoors, blank" },
          { colour: boundaryColours.ground, name: "ground, hatched", pattern: "hatch" },
          { colour: boundaryColours.zone, name: "another zone, dotted", pattern: "dots" },
          { colour: boundaryColours.adiabatic, name: "adiabatic, crossed", pattern: "cross" },
          { colour: boundaryColours.fixed, name: "a stated temperature, barred", pattern: "bars" },
        ],
      },
    };
  if (colouring === "construction") {
    const shown = geometry.faces.filter((f) => f.boundary !== "zone");
    const ids = [...new Set(shown.map((f) => f.construction))].sort();
    return {
      colour: (f) => categories[Math.max(ids.indexOf(f.construction), 0) % categories.length],
      legend: {
        title: "Construction",
        entries: ids.slice(0, 12).map((id, i) => ({ colour: categories[i % categories.length], name: id })),
      },
    };
  }
  if (colouring === "zone") {
    const index = new Map(geometry.zones.map((z, i) => [z.id, i]));
    return {
      colour: (f) => categories[(index.get(f.zone) ?? 0) % categories.length],
      legend: { title: "Zones, each named when pointed at", entries: [] },
    };
  }
  const rows = (outcome?.zones ?? []) as unknown as {
    id: string;
    profile: string;
    floor_area_m2: number;
    heating_demand_kwh: number;
    cooling_demand_kwh: number;
    too_warm_h: number;
  }[];
  const byId = new Map(rows.map((r) => [r.id, r]));
  if (colouring === "use") {
    const profiles = [...new Set(rows.map((r) => r.profile))];
    return {
      colour: (f) => categories[Math.max(profiles.indexOf(byId.get(f.zone)?.profile ?? ""), 0) % categories.length],
      legend: {
        title: "Use",
        entries: profiles.map((p, i) => ({ colour: categories[i % categories.length], name: p })),
      },
    };
  }
  if (colouring === "glass")
    return ranged(
      "Glazing ratio",
      (f) => (f.kind === "wall" && f.boundary === "outdoors" ? f.window_area / f.area : null),
      0,
      0.8,
      (v) => `${Math.round(v * 100)}%`,
    );
  const key = { heating: "heating_demand_kwh", cooling: "cooling_demand_kwh", warm: "too_warm_h" } as const;
  if (colouring !== "nothing" && rows.length) {
    const name = key[colouring];
    const of = (id: string) => {
      const row = byId.get(id);
      if (!row) return null;
      return colouring === "warm" ? row.too_warm_h : row[name] / row.floor_area_m2;
    };
    const most = Math.max(...rows.map((r) => of(r.id) ?? 0), 1e-6);
    const titles = { heating: "Heating demand", cooling: "Cooling demand", warm: "Hours too warm" } as const;
    const spell = (v: number) =>
      colouring === "warm"
        ? `${Math.round(v)} h`
        : `${figure(v, "kWh/m²", units, 0).text} ${figure(v, "kWh/m²", units, 0).unit}`;
    return ranged(titles[colouring], (f) => of(f.zone), 0, most, spell);
  }
  return { colour: () => null, legend: null };
}

function ranged(
  title: string,
  of: (f: Face) => number | null,
  low: number,
  high: number,
  spell: (v: number) => string,
): Painted {
  return {
    colour: (f) => {
      const v = of(f);
      return v === null ? "#FFFEFB" : amount((v - low) / (high - low));
    },
    legend: {
      title,
      entries: [0, 0.25, 0.5, 0.75, 1].map((s) => ({ colour: amount(s), name: spell(low + s * (high - low)) })),
    },
  };
}
