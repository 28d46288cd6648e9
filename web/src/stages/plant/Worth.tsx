import { Button } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, got, type Outcome, type Schemas } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useProject, useProjectId, useScheme } from "../../api/hooks";
import { useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { both, round, scale } from "../../app/words";
import { NumberField } from "../../fields/Field";
import { at } from "../../fields/paths";
import { Cell } from "../skin/builder/Layers";

type Entry = Outcome["worth"]["parts"][number];
type Row = Schemas["CostRowOut"];
const groups: [string, string][] = [
  ["fabric", "Enclosure and inner walls"],
  ["glass", "Windows and shades"],
  ["plant", "Plant"],
  ["sun", "Panels"],
];
const euro = (value: number) => `${round(value, 0)} €`;
const tonnes = (kg: number, units: "SI" | "IP") =>
  units === "IP" ? `${round(kg / 907.18474, 1)} short t` : `${round(kg / 1000, 1)} t`;

/** A scheme against the reference over the years, as the server says it. */
export function useHeld() {
  const project = useProjectId();
  const { scheme, state } = useScheme();
  return useQuery({
    queryKey: ["held", project, scheme.id, state.revision],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/held", {
          params: { path: { project_id: project, scheme_id: scheme.id } },
        }),
      ),
    placeholderData: keepPreviousData,
    enabled: scheme.id !== state.completed.reference,
    retry: false,
  }).data;
}

/** What the scheme costs and emits over the years, opened to its parts, and the cost table behind it. */
export function WorthBench({ outcome, onClose }: { outcome: Outcome; onClose: () => void }) {
  const units = useKept((s) => s.units);
  const { scheme, state } = useScheme();
  const held = useHeld();
  const w = outcome.worth;
  const money = [
    { name: "investment", value: w.investment, colour: "#A9B4C2" },
    { name: "replacements", value: w.replacements, colour: "#C8BBD0" },
    { name: "upkeep", value: w.upkeep, colour: "#D9C6A5" },
    { name: "energy", value: w.energy, colour: "#E8C04A" },
  ];
  const carbon = [
    { name: "products", value: w.embodied_kg, colour: "#A9B4C2" },
    { name: "replacements", value: w.replacement_kg, colour: "#C8BBD0" },
    { name: "operation", value: w.operation_kg, colour: "#E8C04A" },
  ];
  return (
    <div className="builder" role="region" aria-label="Costs and carbon over the years">
      <div className="spread" style={{ alignItems: "baseline" }}>
        <h2>
          {scheme.name} over {w.horizon_years} years
        </h2>
        <Button variant="contained" onClick={onClose}>
          Back to the model
        </Button>
      </div>
      <div className="worth">
        <section>
          <h3>
            {euro(w.global_cost)} <span className="quiet">global cost, present value</span>
          </h3>
          <Stack items={money} say={euro} />
          <div className="small quiet">
            {euro(w.residual)} of this is left at the end and taken off.
            {w.without_cost.length > 0 && ` Without the cost of ${listed(w.without_cost)}.`}
          </div>
        </section>
        <section>
          <h3>
            {tonnes(w.whole_life_kg, units)} <span className="quiet">whole-life carbon</span>
          </h3>
          <Stack items={carbon} say={(kg) => tonnes(kg, units)} />
          <div className="small quiet">
            {w.stored_kg > 0 && `Wood holds ${tonnes(w.stored_kg, units)} besides, not taken off. `}
            {w.without_carbon.length > 0 && `Without the carbon of ${listed(w.without_carbon)}.`}
          </div>
        </section>
      </div>
      {scheme.id === state.completed.reference ? (
        <p className="small quiet">This is the reference: the other schemes are held against it.</p>
      ) : (
        held && (
          <section data-held={scheme.id}>
            <h3>Against {held.than}</h3>
            <p>{held.sentence}</p>
            <table className="plain-table">
              <tbody>
                {[
                  ["more to invest", euro(held.extra)],
                  ["saved in the first year", euro(held.saving)],
                  ["simple payback", years(held.payback_years, w.horizon_years)],
                  ["discounted payback", years(held.discounted_payback_years, w.horizon_years)],
                  ["net present value", euro(held.net_present_value)],
                  [
                    "internal rate",
                    held.internal_rate === null ? "has no answer" : `${round(held.internal_rate * 100, 1)}%`,
                  ],
                  [
                    "cost of a tonne avoided",
                    held.cost_per_tonne === null ? "nothing is avoided" : `${round(held.cost_per_tonne, 0)} €/t`,
                  ],
                ].map(([name, value]) => (
                  <tr key={name}>
                    <td>{name}</td>
                    <td style={{ textAlign: "right" }}>{value}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        )
      )}
      <Parts parts={w.parts} units={units} />
      <CostTable />
    </div>
  );
}

const years = (value: number | null, horizon: number) =>
  value === null ? `never within ${horizon} years` : value <= 0 ? "at once" : `${round(value, 1)} years`;

const listed = (names: string[]) =>
  names.length <= 3 ? names.join(", ") : `${names.slice(0, 2).join(", ")} and ${names.length - 2} more`;

/** Amounts as one bar, with what each is. */
function Stack({
  items,
  say,
}: {
  items: { name: string; value: number; colour: string }[];
  say: (v: number) => string;
}) {
  const whole = Math.max(
    items.reduce((sum, i) => sum + Math.max(i.value, 0), 0),
    1,
  );
  return (
    <>
      <div className="stack" role="img" aria-label={items.map((i) => `${i.name} ${say(i.value)}`).join(", ")}>
        {items.map((i) => (
          <span key={i.name} style={{ width: `${(Math.max(i.value, 0) / whole) * 100}%`, background: i.colour }} />
        ))}
      </div>
      <div className="small stack-key">
        {items.map((i) => (
          <span key={i.name}>
            <span className="dot" style={{ background: i.colour }} /> {i.name}{" "}
            <span className="quiet">{say(i.value)}</span>
          </span>
        ))}
      </div>
    </>
  );
}

/** Everything that the scheme is made of. */
function Parts({ parts, units }: { parts: Entry[]; units: "SI" | "IP" }) {
  return (
    <section>
      <h3>What it is made of</h3>
      <table className="plain-table numbers">
        <thead>
          <tr>
            <th>part</th>
            <th>amount</th>
            <th>cost</th>
            <th>upkeep a year</th>
            <th>lives</th>
            <th>carbon</th>
          </tr>
        </thead>
        {groups.map(([id, title]) => {
          const own = parts.filter((p) => p.group === id);
          if (own.length === 0) return null;
          return (
            <tbody key={id}>
              <tr>
                <th colSpan={6} style={{ textAlign: "left" }}>
                  {title}
                </th>
              </tr>
              {own.map((p) => (
                <tr key={p.name} data-part={p.cost_id}>
                  <td>{p.name}</td>
                  <td>
                    {p.unit === "kWp"
                      ? `${round(p.amount, 1)} kWp`
                      : both(p.amount, p.unit, units, p.unit === "kW" ? 1 : 0)}
                  </td>
                  <td>{p.cost === null ? "not known" : euro(p.cost)}</td>
                  <td>{p.cost === null ? "" : euro(p.upkeep)}</td>
                  <td>{p.life_years} a</td>
                  <td>{p.carbon_kg === null ? "not known" : tonnes(p.carbon_kg, units)}</td>
                </tr>
              ))}
            </tbody>
          );
        })}
      </table>
    </section>
  );
}

/** The cost table: what a unit costs, lives, takes of upkeep and embodies; assumed until it is given. */
function CostTable() {
  const project = useProjectId();
  const { state } = useScheme();
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const rows = useQuery({
    queryKey: ["costs", project, state.revision],
    queryFn: () => got(client.GET("/api/projects/{project_id}/costs", { params: { path: { project_id: project } } })),
    placeholderData: keepPreviousData,
  }).data;
  /** Gives one value of an entry, or takes it away where nothing is typed. */
  const give = (id: string, field: string, value: number | string | null) =>
    edit((now) => {
      const path = "factors/costs";
      const own = ((at(now.given, path) ?? []) as Record<string, unknown>[]).find((c) => c.id === id);
      const { [field]: _, ...rest } = own ?? { id };
      const item: Record<string, unknown> = value === null ? rest : { ...rest, id, [field]: value };
      return Object.keys(item).length > 1 ? make.put(path, item) : own ? make.remove(`${path}/${id}`) : null;
    });
  const number = (text: string, by = 1) => {
    if (!text.trim()) return null;
    const found = Number(text.trim().replace(",", ".").replace("%", ""));
    return Number.isNaN(found) ? text : found / by;
  };
  return (
    <section>
      <h3>Cost table</h3>
      <div className="small quiet">
        Of the project, the same for all schemes. Values in italics are assumed, orders of size of our own; type over
        them, or empty a field to have the assumed value again.
      </div>
      <table className="plain-table numbers cost-table">
        <thead>
          <tr>
            <th>entry</th>
            <th>€ a unit</th>
            <th>lives, a</th>
            <th>upkeep, % a year</th>
            <th>carbon, {units === "IP" ? "lb" : "kg"} a unit</th>
          </tr>
        </thead>
        <tbody>
          {(rows ?? []).map((r) => {
            const per = perUnit(r, units);
            const mass = scale("kg", units).factor;
            const cell = (field: keyof Row, label: string, value: string, by: number) => (
              <td className={r.given.includes(field) ? "" : "assumed-cell"}>
                <Cell
                  label={`${r.title}, ${label}`}
                  value={value}
                  onCommit={(text) => give(r.id, field, number(text, by))}
                />
              </td>
            );
            return (
              <tr key={r.id} data-cost={r.id}>
                <td>
                  {r.title} <span className="quiet">a {per.unit}</span>
                </td>
                {cell("cost", "cost", String(Number((r.cost / per.factor).toFixed(2))), 1 / per.factor)}
                {cell("life_years", "life", String(r.life_years), 1)}
                {cell("upkeep_share", "upkeep", String(Number((r.upkeep_share * 100).toFixed(2))), 100)}
                {r.carbon_kg === null ? (
                  <td className="quiet">by its layers</td>
                ) : (
                  cell(
                    "carbon_kg",
                    "carbon",
                    String(Number(((r.carbon_kg * mass) / per.factor).toFixed(2))),
                    mass / per.factor,
                  )
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

/** The unit of an entry, and how many of it are one SI unit. */
function perUnit(row: Row, units: "SI" | "IP"): { unit: string; factor: number } {
  if (row.unit === "kW" || row.unit === "kWp") return { unit: row.unit, factor: 1 };
  const to = scale(row.unit, units);
  return { unit: to.unit, factor: to.factor };
}

/** What it comes to, in the sheet, and the way to its parts. */
export function WorthSummary({ outcome, onOpen }: { outcome: Outcome; onOpen: () => void }) {
  const held = useHeld();
  const units = useKept((s) => s.units);
  const money = useProject().data?.completed.factors.money;
  const w = outcome.worth;
  return (
    <details open>
      <summary>Costs and carbon over {money?.horizon_years ?? 30} years</summary>
      <div className="spread small">
        <span>to build</span>
        <span style={{ color: tone.ink }}>{euro(w.investment)}</span>
      </div>
      <div className="spread small">
        <span>global cost</span>
        <span>{euro(w.global_cost)}</span>
      </div>
      <div className="spread small">
        <span>whole-life carbon</span>
        <span>{tonnes(w.whole_life_kg, units)}</span>
      </div>
      {held && (
        <p className="small quiet" style={{ margin: "4px 0" }} data-held-in-sheet>
          {held.sentence}
        </p>
      )}
      {w.without_cost.length > 0 && <div className="small quiet">Without the cost of {listed(w.without_cost)}.</div>}
      <Button variant="outlined" size="small" sx={{ mt: 0.5 }} onClick={onOpen}>
        Parts and cost table
      </Button>
      <NumberField path="factors/money/horizon_years" note="Money.horizon_years" />
      <NumberField path="factors/money/discount_rate" note="Money.discount_rate" />
    </details>
  );
}
