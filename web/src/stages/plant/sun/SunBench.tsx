import { Button } from "@mui/material";
import type { Outcome } from "../../../api/client";
import { useKept } from "../../../app/state";
import { tone } from "../../../app/tokens";
import { both, count, round } from "../../../app/words";
import { Covered } from "./FromSun";

type Told = Outcome["renewables"]["arrays"][number];

const steps = [
  { key: "shade_share", name: "shade", colour: "#8C8F94" },
  { key: "reflection_share", name: "reflected", colour: "#A9B4C2" },
  { key: "heat_share", name: "heat", colour: "#C98A5E" },
  { key: "losses_share", name: "soiling, wiring, mismatch", colour: "#C8BBD0" },
  { key: "inverter_share", name: "inverter", colour: "#D9C6A5" },
  { key: "clipped_share", name: "clipped", colour: "#B4645A" },
] as const;
const GIVEN = "#E8C04A";

/** What each array gives and loses on the way (electricity in kWh whatever the units), what is used here and sold by month, the battery and the collectors. */
export function SunBench({ outcome, onClose }: { outcome: Outcome; onClose: () => void }) {
  const units = useKept((s) => s.units);
  const sun = outcome.renewables;
  return (
    <div className="builder" role="region" aria-label="What the sun gives">
      <div className="spread" style={{ alignItems: "baseline" }}>
        <h2>What the sun gives</h2>
        <Button variant="contained" onClick={onClose}>
          Back to the model
        </Button>
      </div>
      <Covered outcome={outcome} />
      {sun.arrays.length > 0 && <Ways arrays={sun.arrays} units={units} />}
      {sun.arrays.length > 0 && <Year outcome={outcome} />}
      {(sun.inverters.length > 0 || sun.battery || sun.collectors) && (
        <table className="plain-table" style={{ marginTop: 14 }}>
          <tbody>
            {sun.inverters.map((i) => (
              <tr key={i.id}>
                <td>{i.name}</td>
                <td className="quiet">
                  {round(i.rated_kw, 1)} kW for {round(i.peak_kwp, 1)} kWp: {round(i.out_kwh, 0)} of{" "}
                  {round(i.in_kwh, 0)} kWh,{" "}
                  {i.clipped_kwh >= 0.5
                    ? `${round(i.clipped_kwh, 0)} kWh clipped in ${count(i.clipped_h, "hour")}`
                    : "nothing is clipped"}
                </td>
              </tr>
            ))}
            {sun.battery && (
              <tr>
                <td>Battery</td>
                <td className="quiet">
                  {round(sun.battery.usable_kwh, 0)} kWh, {round(sun.battery.power_kw, 1)} kW: takes{" "}
                  {round(sun.battery.charged_kwh, 0)} kWh, gives {round(sun.battery.discharged_kwh, 0)}, loses{" "}
                  {round(sun.battery.lost_kwh, 0)}; filled {round(sun.battery.cycles, 0)} times
                </td>
              </tr>
            )}
            {sun.collectors && (
              <tr>
                <td>Collectors</td>
                <td className="quiet">
                  {both(sun.collectors.area_m2, "m²", units, 1)}, tank {both(sun.collectors.litres, "l", units, 0)}:{" "}
                  {both(sun.collectors.light_kwh, "kWh", units, 0)} of light,{" "}
                  {both(sun.collectors.given_kwh, "kWh", units, 0)} to the tank,{" "}
                  {both(sun.collectors.tank_lost_kwh, "kWh", units, 0)} lost there,{" "}
                  {both(sun.collectors.to_water_kwh, "kWh", units, 0)} to the water:{" "}
                  {round(sun.collectors.share * 100, 0)}% of its heat
                </td>
              </tr>
            )}
          </tbody>
        </table>
      )}
    </div>
  );
}

/** Each array's way from the light in the open to what it hands on, as one bar of shares. */
function Ways({ arrays, units }: { arrays: Told[]; units: "SI" | "IP" }) {
  return (
    <section style={{ marginTop: 10 }}>
      <table className="plain-table" style={{ width: "100%" }} data-ways>
        <thead>
          <tr>
            <th style={{ textAlign: "left" }}>array</th>
            <th>area</th>
            <th>kWp</th>
            <th>kWh a year</th>
            <th>a kWp</th>
            <th style={{ textAlign: "left", width: "46%" }}>of the light in the open, on cool modules</th>
          </tr>
        </thead>
        <tbody>
          {arrays.map((a) => (
            <tr key={a.id} data-way={a.id}>
              <td>{a.name}</td>
              <td style={{ textAlign: "right" }}>{both(a.area_m2, "m²", units, 0)}</td>
              <td style={{ textAlign: "right" }}>{round(a.peak_kwp, 1)}</td>
              <td style={{ textAlign: "right" }}>{round(a.kwh, 0)}</td>
              <td style={{ textAlign: "right" }}>{round(a.kwh_per_kwp, 0)}</td>
              <td>{a.ideal_kwh > 0 ? <Bar of={a} /> : <span className="quiet">finds no place</span>}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="small quiet" style={{ display: "flex", flexWrap: "wrap", gap: 12, marginTop: 4 }}>
        <Key colour={GIVEN} name="handed on" />
        {steps.map((s) => (
          <Key key={s.key} colour={s.colour} name={s.name} />
        ))}
      </div>
    </section>
  );
}

function Key({ colour, name }: { colour: string; name: string }) {
  return (
    <span style={{ display: "inline-flex", alignItems: "center", gap: 5 }}>
      <span style={{ width: 10, height: 10, background: colour, display: "inline-block" }} />
      {name}
    </span>
  );
}

/** Shares of one array; what cold gains is told in its words and takes nothing from the bar. */
function Bar({ of }: { of: Told }) {
  const given = of.kwh / of.ideal_kwh;
  const parts = steps.map((s) => ({ ...s, share: of[s.key] }));
  const whole = given + parts.reduce((sum, p) => sum + Math.max(p.share, 0), 0);
  const percent = (v: number) => `${round(v * 100, v < 0.095 && v > -0.095 ? 1 : 0)}%`;
  const words = parts.map((p) =>
    p.key === "heat_share" && p.share < 0 ? `cold gains ${percent(-p.share)}` : `${p.name} ${percent(p.share)}`,
  );
  return (
    <div title={[`handed on ${percent(given)}`, ...words].join(" · ")}>
      <div style={{ display: "flex", height: 14, borderRadius: 2, overflow: "hidden" }}>
        <div style={{ width: `${(given / whole) * 100}%`, background: GIVEN }} />
        {parts
          .filter((p) => p.share > 0)
          .map((p) => (
            <div key={p.key} style={{ width: `${(p.share / whole) * 100}%`, background: p.colour }} />
          ))}
      </div>
      <div className="small quiet">
        {percent(given)} handed on; shade {percent(of.shade_share)},{" "}
        {of.heat_share < 0 ? `cold gains ${percent(-of.heat_share)}` : `heat ${percent(of.heat_share)}`}, clipped{" "}
        {percent(of.clipped_share)}
      </div>
    </div>
  );
}

const months = ["J", "F", "M", "A", "M", "J", "J", "A", "S", "O", "N", "D"];

/** Generation by month: what is used here, what is sold, and the share of the month's electricity that is covered. */
function Year({ outcome }: { outcome: Outcome }) {
  const rows = outcome.monthly;
  const most = Math.max(...rows.map((m) => m.generation_used_kwh + m.generation_exported_kwh), 1);
  const [wide, high, foot] = [600, 120, 30];
  const step = wide / 12;
  return (
    <section style={{ marginTop: 14 }}>
      <h3>By month</h3>
      <svg
        viewBox={`0 0 ${wide + 60} ${high + foot + 14}`}
        width="100%"
        style={{ maxWidth: 760 }}
        role="img"
        aria-label="Own generation by month"
      >
        <text x={0} y={22} fontSize={11} fill={tone.quiet}>
          {round(most, 0)}
        </text>
        <text x={0} y={35} fontSize={11} fill={tone.quiet}>
          kWh
        </text>
        <line x1={50} x2={wide + 50} y1={high + 14} y2={high + 14} stroke={tone.ink} />
        {rows.map((m, i) => {
          const used = (m.generation_used_kwh / most) * high;
          const sold = (m.generation_exported_kwh / most) * high;
          const x = 50 + i * step + 8;
          return (
            <g key={m.month}>
              <title>
                {`${round(m.generation_used_kwh, 0)} kWh used here, ${round(m.generation_exported_kwh, 0)} kWh sold; covers ${round(m.covered_power_share * 100, 0)}% of the electricity`}
              </title>
              <rect x={x} y={high + 14 - used} width={step - 16} height={used} fill={GIVEN} />
              <rect
                x={x}
                y={high + 14 - used - sold}
                width={step - 16}
                height={sold}
                fill="none"
                stroke="#B8912B"
                strokeDasharray="3,2"
              />
              <text x={x + (step - 16) / 2} y={high + 27} fontSize={11} textAnchor="middle" fill={tone.ink}>
                {months[i]}
              </text>
              <text x={x + (step - 16) / 2} y={high + 40} fontSize={10.5} textAnchor="middle" fill={tone.quiet}>
                {round(m.covered_power_share * 100, 0)}%
              </text>
            </g>
          );
        })}
      </svg>
      <div className="small quiet">
        Filled: used here; dashed: sold; percent: share of the month's electricity that is covered.
      </div>
    </section>
  );
}
