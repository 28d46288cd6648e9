import type { Face, Geometry, Outcome, Schemas, Scheme } from "../api/client";
import { amountOf, type Figure, figureBy, figures } from "../api/figures";
import type { Colouring } from "../app/state";
import { categories } from "../app/theme";
import { tone } from "../app/tokens";
import { both, round } from "../app/words";

/** The questions that the model can be coloured by. */
export const colourings: { id: Colouring; name: string }[] = [
  { id: "nothing", name: "nothing" },
  { id: "boundary", name: "boundary" },
  { id: "zone", name: "zone" },
  { id: "use", name: "use" },
  { id: "construction", name: "construction" },
  { id: "origin", name: "origin of construction" },
  { id: "u_value", name: "U-value" },
  { id: "glass", name: "glazing ratio" },
  { id: "system", name: "system" },
  { id: "lights", name: "lights after daylight" },
  { id: "daylight", name: "daylight factor" },
  ...figures.filter((f) => f.painted).map((f) => ({ id: `figure ${f.id}` as const, name: f.title.toLowerCase() })),
];

/** The figure of zones that a question asks for. */
const figureOf = (colouring: Colouring): Figure | null =>
  colouring.startsWith("figure ") ? figureBy(colouring.slice("figure ".length)) : null;

/** Whether a question tells zones apart. */
export const tellsZones = (colouring: Colouring) =>
  ["zone", "use", "system", "lights", "daylight"].includes(colouring) || figureOf(colouring) !== null;

/** Whether a question is answered by the year's result. */
export const asksYear = (colouring: Colouring) =>
  ["u_value", "system", "lights"].includes(colouring) || figureOf(colouring) !== null;

/** What colours are told from, as far as it is there. */
export interface Known {
  scheme?: Scheme;
  outcome?: Outcome;
  shelf?: Schemas["ShelfOut"];
  daylight?: Schemas["SensorsOut"];
}

/** How lights follow daylight, in the words that the fields have. */
export const lightWords: Record<string, string> = {
  none: "do not follow it",
  switched: "switched",
  stepped: "in steps",
  dimmed: "dimmed",
};

export interface LegendEntry {
  colour: string;
  name: string;
  pattern?: string;
  /** What the colour stands for, where it can be changed. */
  key?: string;
}

export interface Legend {
  title: string;
  entries: LegendEntry[];
  /** How many entries are not listed. */
  more?: number;
}

export interface Painted {
  colour: (face: Face) => string | null;
  legend: Legend | null;
}

const ramp = ["#F6EBC2", "#C9D3B4", "#8FB5AC", "#4F8F93", tone.tide, tone.ink];

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
  outdoors: tone.bright,
  ground: "#C9C2B4",
  zone: tone.chosen,
  adiabatic: "#E3E0DB",
  fixed: "#E0D3B8",
};

const boundaryWords: [string, string, string | undefined][] = [
  ["outdoors", "outdoors, blank", undefined],
  ["ground", "ground, hatched", "hatch"],
  ["zone", "another zone, dotted", "dots"],
  ["adiabatic", "adiabatic, crossed", "cross"],
  ["fixed", "a stated temperature, barred", "bars"],
];

export const originColours: Record<Face["origin"], string> = {
  given: tone.chosen,
  imported: "#D8D3E8",
  assumed: "#F2DFB4",
};
const originWords: [Face["origin"], string][] = [
  ["given", "given by hand"],
  ["imported", "read from the file"],
  ["assumed", "assumed"],
];

/** Things in a fixed order, each with a colour of its own: the user's where it was changed. */
function told(
  question: Colouring,
  title: string,
  things: { id: string; name: string; colour: string; pattern?: string }[],
  own: Record<string, string>,
  of: (f: Face) => string | null,
  most = 14,
): Painted {
  const entries = things.map((t) => {
    const key = `${question}:${t.id}`;
    return { id: t.id, key, name: t.name, colour: own[key] ?? t.colour, pattern: t.pattern };
  });
  const byId = new Map(entries.map((e) => [e.id, e.colour]));
  return {
    colour: (f) => byId.get(of(f) ?? "") ?? null,
    legend: { title, entries: entries.slice(0, most), more: Math.max(entries.length - most, 0) },
  };
}

const inTurn = (ids: string[], name: (id: string) => string = (id) => id) =>
  ids.map((id, i) => ({ id, name: name(id), colour: categories[i % categories.length] }));

/** Which colour each face takes for the question that is asked, and the legend for it; `own` are colours that were changed. */
export function paint(
  colouring: Colouring,
  geometry: Geometry,
  { scheme, outcome, shelf, daylight }: Known,
  units: "SI" | "IP",
  own: Record<string, string> = {},
): Painted {
  if (colouring === "boundary") {
    const things = boundaryWords.map(([id, name, pattern]) => ({ id, name, pattern, colour: boundaryColours[id] }));
    return told("boundary", "Boundary", things, own, (f) => f.boundary);
  }
  if (colouring === "origin") {
    const things = originWords.map(([id, name]) => ({ id, name, colour: originColours[id] }));
    return told("origin", "Construction", things, own, (f) => f.origin);
  }
  if (colouring === "construction") {
    const shown = geometry.faces.filter((f) => f.boundary !== "zone");
    const ids = [...new Set(shown.map((f) => f.construction))].sort();
    const names = new Map(shelf?.constructions.map((c) => [c.id, c.name]));
    const things = inTurn(ids, (id) => names.get(id) ?? id);
    return told("construction", "Construction", things, own, (f) => f.construction);
  }
  if (colouring === "zone") {
    const names = new Map(geometry.zones.map((z) => [z.id, z.name]));
    const things = inTurn([...names.keys()], (id) => names.get(id) ?? id);
    return told("zone", "Zones", things, own, (f) => f.zone);
  }
  const rows = outcome?.zones ?? [];
  if (colouring === "use") {
    const profiles = [...new Set(geometry.zones.map((z) => z.profile))].sort();
    const of = new Map(geometry.zones.map((z) => [z.id, z.profile]));
    const names = new Map(shelf?.profiles.map((p) => [p.id, p.name]));
    const things = inTurn(profiles, (id) => names.get(id) ?? id);
    return told("use", "Use", things, own, (f) => of.get(f.zone) ?? null);
  }
  if (colouring === "system" && rows.length > 0) {
    const of = new Map(rows.map((r) => [r.id, String(r.system)]));
    const single = scheme?.plant?.systems ?? [];
    const nameOf = (id: string) =>
      id === "0" ? "the scheme's system" : single[Number(id) - 1]?.name || `system ${Number(id) + 1}`;
    return told(
      "system",
      "System",
      inTurn([...new Set(of.values())].sort(), nameOf),
      own,
      (f) => of.get(f.zone) ?? null,
    );
  }
  if (colouring === "lights" && rows.length > 0) {
    const of = new Map(rows.map((r) => [r.id, r.lights as string]));
    const kinds = Object.keys(lightWords).filter((k) => [...of.values()].includes(k));
    const things = inTurn(kinds, (id) => lightWords[id]);
    return told("lights", "Lights after daylight", things, own, (f) => of.get(f.zone) ?? null);
  }
  if (colouring === "daylight" && daylight) {
    const of = new Map<string, number>();
    for (const { zone } of daylight.sensors) {
      const found = daylight.sensors.filter((s) => s.zone === zone).map((s) => s.daylight_factor);
      of.set(zone, found.reduce((a, b) => a + b, 0) / found.length);
    }
    const most = Math.max(...of.values(), 0.01);
    return ranged(
      "Daylight factor, mean of sensors",
      (f) => of.get(f.zone) ?? null,
      0,
      most,
      (v) => `${round(v * 100, 1)}%`,
    );
  }
  if (colouring === "u_value" && shelf) {
    const u = uOf(scheme, outcome, shelf);
    const found = geometry.faces.flatMap((f) => (f.boundary === "zone" ? [] : (u(f) ?? [])));
    const spell = (v: number) => both(v, "W/m²K", units, 2);
    const low = Math.min(...found, 10);
    return ranged("U-value of the opaque part", u, low, Math.max(...found, low + 0.01), spell);
  }
  if (colouring === "glass")
    return ranged(
      "Glazing ratio",
      (f) => (f.kind === "wall" && f.boundary === "outdoors" ? f.window_area / f.area : null),
      0,
      0.8,
      (v) => `${Math.round(v * 100)}%`,
    );
  const asked = figureOf(colouring);
  if (asked && rows.length) {
    const values = new Map(rows.map((r) => [r.id, amountOf(asked, r)]));
    const found = [...values.values()];
    const low = asked.unit === "°C" ? Math.min(...found) : 0;
    const spell = (v: number) => both(v, asked.unit, units, asked.digits);
    return ranged(asked.title, (f) => values.get(f.zone) ?? null, low, Math.max(...found, low + 1e-6), spell);
  }
  return { colour: () => null, legend: null };
}

/** The U-value of a face's construction; with the insulation that the scheme says where the scheme's own construction stands. */
function uOf(
  scheme: Scheme | undefined,
  outcome: Outcome | undefined,
  shelf: Schemas["ShelfOut"],
): (f: Face) => number | null {
  const own = scheme?.skin as Record<string, unknown> | undefined;
  const facts = outcome?.elements as Record<string, { u_value: number }> | undefined;
  const of = new Map(shelf.constructions.map((c) => [c.id, c.u]));
  return (f) =>
    (own?.[f.element] === f.construction ? facts?.[f.element]?.u_value : undefined) ?? of.get(f.construction) ?? null;
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
      return v === null ? tone.bright : amount((v - low) / (high - low));
    },
    legend: {
      title,
      entries: [0, 0.25, 0.5, 0.75, 1].map((s) => ({ colour: amount(s), name: spell(low + s * (high - low)) })),
    },
  };
}
