import { Button } from "@mui/material";
import type { Outcome } from "../../api/client";
import { kindNames } from "../../api/systems";
import { useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { both, count } from "../../app/words";

type System = Outcome["systems"][number];

interface Bar {
  id: string;
  name: string;
  kwh: number;
  colour: string;
}
interface Link {
  from: string;
  to: string;
  /** Height where it leaves and where it arrives. */
  out: number;
  into: number;
}

const heat = "#B04A32";
const water = "#E3AC92";
const cold = "#2B5F8A";
const air = "#9CC0BC";
const lost = "#CFC8BA";
const around = tone.grown;
const carriers: Record<string, string> = {
  electricity: "#E8C04A",
  gas: "#A9B4C2",
  biomass: "#B9C29B",
  district_heat: "#CDB4B0",
  district_cold: "#B7C9C4",
  sun: "#F0D98C",
};
const carrierName = (id: string) => id.replace("_", " ");

/** What each system does with a year's energy: what rooms ask and what is lost, which source gives it, and what is bought or taken from around. */
export function EnergyFlow({ outcome, onClose }: { outcome: Outcome; onClose: () => void }) {
  return (
    <div className="builder" role="region" aria-label="Where the energy goes">
      <div className="spread" style={{ alignItems: "baseline" }}>
        <h2>Where the energy goes</h2>
        <Button variant="contained" onClick={onClose}>
          Back to the model
        </Button>
      </div>
      <div className="small quiet">
        A year, from what rooms ask on the left to what is bought on the right; a band is as high as its energy.
        {outcome.totals.covered_power_share > 0 &&
          ` Own generation covers ${Math.round(outcome.totals.covered_power_share * 100)}% of all electricity.`}
      </div>
      {outcome.systems.map((s) => (
        <Flow key={s.id} system={s} />
      ))}
    </div>
  );
}

/** What solar collectors give, as a source that takes it from the sun. */
function collectors(s: System): System["water"][number] {
  const kwh = s.water_sun_kwh;
  return {
    kind: "collectors",
    carrier: "sun" as System["water"][number]["carrier"],
    rated_kw: 0,
    given_kwh: kwh,
    bought_kwh: kwh,
    ambient_kwh: 0,
    hours: 0,
    seasonal_factor: null,
  };
}

/** Bars of the three columns, and the bands between them. */
function pictureOf(s: System): { columns: Bar[][]; links: Link[] } {
  const asked: Bar[] = [
    { id: "rooms", name: "rooms, heat", kwh: s.rooms_heat_kwh, colour: heat },
    { id: "preheat", name: "air warmed", kwh: s.preheat_kwh, colour: heat },
    { id: "reheat", name: "reheat", kwh: s.reheat_kwh, colour: heat },
    { id: "heat-lost", name: "lost on the way", kwh: s.heat_lost_kwh, colour: lost },
    { id: "drawn", name: "hot water", kwh: s.water_drawn_kwh, colour: water },
    { id: "water-lost", name: "store, circulation", kwh: s.water_lost_kwh, colour: lost },
    { id: "cold", name: "rooms, cold", kwh: s.rooms_cold_kwh, colour: cold },
    { id: "latent", name: "drying", kwh: s.latent_kwh, colour: cold },
    { id: "cold-lost", name: "cold lost", kwh: s.cold_lost_kwh, colour: lost },
    { id: "moved", name: "fans and pumps", kwh: s.fans_kwh + s.pumps_kwh, colour: air },
  ].filter((b) => b.kwh > 0.5);
  const groups = [
    { of: s.heat, items: ["rooms", "preheat", "reheat", "heat-lost"], what: "", colour: heat },
    { of: [...s.water, collectors(s)], items: ["drawn", "water-lost"], what: ", hot water", colour: water },
    { of: s.cold, items: ["cold", "latent", "cold-lost"], what: "", colour: cold },
  ];
  const sources: Bar[] = [];
  const links: Link[] = [];
  const bought = new Map<string, number>();
  const add = (id: string, kwh: number) => bought.set(id, (bought.get(id) ?? 0) + kwh);
  groups.forEach(({ of, items, what, colour }, g) => {
    const given = of.reduce((sum, one) => sum + one.given_kwh, 0);
    of.forEach((one, k) => {
      if (one.given_kwh < 0.5) return;
      const id = `source-${g}-${k}`;
      const factor = one.seasonal_factor ? ` ${one.seasonal_factor.toFixed(2)}` : "";
      sources.push({
        id,
        name: `${one.kind === "collectors" ? "collectors" : (kindNames[one.kind] ?? one.kind)}${what}${factor}`,
        kwh: one.given_kwh,
        colour,
      });
      const asks = asked.filter((b) => items.includes(b.id));
      const whole = asks.reduce((sum, b) => sum + b.kwh, 0);
      for (const b of asks) {
        const share = (b.kwh / whole) * one.given_kwh;
        links.push({ from: b.id, to: id, out: (b.kwh * one.given_kwh) / given, into: share });
      }
      links.push({
        from: id,
        to: one.carrier,
        out: one.ambient_kwh > 0 ? one.given_kwh - one.ambient_kwh : one.given_kwh,
        into: one.bought_kwh,
      });
      add(one.carrier, one.bought_kwh);
      if (one.ambient_kwh > 0.5) {
        links.push({ from: id, to: "around", out: one.ambient_kwh, into: one.ambient_kwh });
        add("around", one.ambient_kwh);
      }
    });
  });
  const moved = asked.find((b) => b.id === "moved");
  if (moved) {
    links.push({ from: "moved", to: "electricity", out: moved.kwh, into: moved.kwh });
    add("electricity", moved.kwh);
  }
  const last: Bar[] = [...bought].map(([id, kwh]) => ({
    id,
    name: id === "around" ? "air, ground, water" : carrierName(id),
    kwh,
    colour: id === "around" ? around : (carriers[id] ?? tone.quiet),
  }));
  return { columns: [asked, sources, last], links };
}

const wide = 800;
const thick = 12;
const at = [140, 380, 640];
const apart = 28;

function Flow({ system }: { system: System }) {
  const units = useKept((s) => s.units);
  const { columns, links } = pictureOf(system);
  const most = Math.max(...columns.map((c) => c.reduce((sum, b) => sum + b.kwh, 0)), 1);
  const scale = 210 / most;
  const tall = Math.max(...columns.map((c) => c.reduce((sum, b) => sum + b.kwh * scale, 0) + c.length * apart)) + 26;
  const place = new Map<string, { x: number; y: number; high: number }>();
  columns.forEach((column, k) => {
    let y = 26;
    for (const b of column) {
      place.set(b.id, { x: at[k], y, high: Math.max(b.kwh * scale, 1.5) });
      y += Math.max(b.kwh * scale, 1.5) + apart;
    }
  });
  const used = new Map<string, number>();
  const take = (key: string, size: number) => {
    const from = used.get(key) ?? 0;
    used.set(key, from + size);
    return from;
  };
  const short = [
    system.short_heat_h > 0 && `${count(system.short_heat_h, "hour")} in which heat falls short`,
    system.short_cold_h > 0 && `${count(system.short_cold_h, "hour")} in which cold falls short`,
  ].filter(Boolean);
  return (
    <section style={{ marginTop: 14 }} data-flow={system.id}>
      <h3>
        {system.name}{" "}
        <span className="quiet" style={{ fontWeight: 400 }}>
          {count(system.zones, "zone")}, {both(system.floor_area_m2, "m²", units, 0)}
        </span>
      </h3>
      <svg
        viewBox={`0 0 ${wide} ${tall}`}
        width="100%"
        style={{ maxWidth: 1000, display: "block" }}
        role="img"
        aria-label={`${system.name}: ${columns
          .flat()
          .map((b) => `${b.name} ${both(b.kwh, "kWh", units, 0)}`)
          .join(", ")}`}
      >
        {["what is asked", "what gives it", "bought, or from around"].map((t, k) => (
          <text
            key={t}
            x={k === 0 ? at[0] + thick : at[k]}
            y={14}
            textAnchor={k === 0 ? "end" : "start"}
            fontSize={13}
            fill={tone.quiet}
          >
            {t}
          </text>
        ))}
        {links.map((l) => {
          const [from, to] = [place.get(l.from), place.get(l.to)];
          if (!from || !to) return null;
          const [a, b] = [l.out * scale, l.into * scale];
          const y1 = from.y + take(`${l.from} out`, a);
          const y2 = to.y + take(`${l.to} in`, b);
          const [x1, x2] = [from.x + thick, to.x];
          const middle = (x1 + x2) / 2;
          const colour =
            columns.flat().find((c) => c.id === (l.to === "around" ? "around" : l.from))?.colour ?? tone.line;
          return (
            <path
              key={`${l.from} ${l.to}`}
              d={`M${x1} ${y1}C${middle} ${y1} ${middle} ${y2} ${x2} ${y2}V${y2 + b}C${middle} ${y2 + b} ${middle} ${y1 + a} ${x1} ${y1 + a}Z`}
              fill={colour}
              fillOpacity={0.32}
            />
          );
        })}
        {columns.map((column, k) =>
          column.map((b) => {
            const p = place.get(b.id);
            if (!p) return null;
            const left = k === 0;
            return (
              <g key={b.id} data-bar={b.id}>
                <rect x={p.x} y={p.y} width={thick} height={p.high} fill={b.colour} />
                <text
                  x={left ? p.x - 6 : p.x + thick + 6}
                  y={p.y + Math.min(p.high / 2, 40) + 1}
                  textAnchor={left ? "end" : "start"}
                  fontSize={13}
                  fill={tone.ink}
                  style={{ paintOrder: "stroke", stroke: tone.card, strokeWidth: 3 }}
                >
                  <tspan>{b.name}</tspan>
                  <tspan x={left ? p.x - 6 : p.x + thick + 6} dy={14} fill={tone.quiet}>
                    {both(b.kwh, "kWh", units, 0)}
                  </tspan>
                </text>
              </g>
            );
          }),
        )}
      </svg>
      <div className="small quiet">
        {[
          system.recovered_kwh > 0.5 && `Heat recovery gave ${both(system.recovered_kwh, "kWh", units, 0)} back.`,
          short.length > 0 && `There are ${short.join(" and ")}.`,
        ]
          .filter(Boolean)
          .join(" ")}
      </div>
    </section>
  );
}
