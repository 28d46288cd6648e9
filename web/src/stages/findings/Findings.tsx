import { Button } from "@mui/material";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Schemas } from "../../api/client";
import { useProject, useProjectId, useScheme } from "../../api/hooks";
import { limitsIn } from "../../app/comfort";
import { tell, useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { endUses } from "../../app/theme";
import { tone } from "../../app/tokens";
import { both, figure, hourText, said, scale } from "../../app/words";
import { EndUseBar } from "../../charts/EndUseBar";
import { MiniForm } from "../../scene/MiniForm";
import { Why } from "./Why";

type Column = Schemas["ColumnOut"];
type Fact = Column["facts"][number];

/** Pinned cases in columns, only what differs, and the differences in words. */
export default function Findings() {
  const project = useProjectId();
  const { scheme, state } = useScheme();
  const revision = useProject().data?.revision;
  const units = useKept((s) => s.units);
  const queries = useQueryClient();
  const findings = useQuery({
    queryKey: ["findings", project, revision, units],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/findings", {
          params: { path: { project_id: project }, query: { units } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const columns = findings.data?.columns ?? [];
  const most = Math.max(...columns.map((c) => (c.outcome ? c.outcome.totals.eui_kwh_per_m2 : 0)), 1);
  const differing = whatDiffers(columns);
  const wide = columns.length > 3 ? 258 : 300;

  async function refresh() {
    await queries.invalidateQueries({ queryKey: ["findings", project] });
    await queries.invalidateQueries({ queryKey: ["pins", project] });
  }
  async function pinScheme() {
    await got(
      client.POST("/api/projects/{project_id}/pins", {
        params: { path: { project_id: project } },
        body: { scheme: scheme.id },
      }),
    );
    await refresh();
    tell(`${scheme.name} is pinned as it stands.`);
  }
  async function unpin(id: string) {
    await got(
      client.DELETE("/api/projects/{project_id}/pins/{pin_id}", {
        params: { path: { project_id: project, pin_id: id } },
      }),
    );
    await refresh();
  }

  if (!findings.data)
    return (
      <main className="work whole">
        <div className="findings">
          <h2>Findings</h2>
          <p className="quiet">
            {findings.error ? (
              <Told text={findings.error.message} />
            ) : (
              "Working out the pinned cases with four steps an hour."
            )}
          </p>
        </div>
      </main>
    );

  const row = (name: string, cell: (c: Column) => React.ReactNode) => (
    <tr>
      <th scope="row">{name}</th>
      {columns.map((c, i) => (
        <td key={c.pin ?? c.scheme} className={i === 0 ? "reference" : ""}>
          {cell(c)}
        </td>
      ))}
    </tr>
  );
  const than = (c: Column, key: string) =>
    c.differences[key] ? <span className="quiet"> {arrow(c.differences[key])}</span> : null;

  return (
    <main className="work whole">
      <div className="findings">
        <div className="spread" style={{ marginBottom: 10 }}>
          <div className="row" style={{ alignItems: "baseline" }}>
            <h2>Findings</h2>
            <span className="small quiet">
              {columns.length - 1} beside the reference · only what differs is shown · peaks from four steps an hour
              {findings.isFetching ? " · working" : ""}
            </span>
          </div>
          <div className="row">
            {scheme.id !== state.completed.reference && (
              <Button variant="outlined" onClick={() => void pinScheme()}>
                Pin {scheme.name} as it stands
              </Button>
            )}
            <Button variant="outlined" href={`/api/projects/${project}/file`}>
              Save the project as a file
            </Button>
          </div>
        </div>
        {columns.length <= 1 && (
          <p className="quiet">
            Pin cases with ◇ in Study, or pin a scheme as it stands, to see them side by side here.
          </p>
        )}
        <table style={{ width: 112 + wide * columns.length }}>
          <colgroup>
            <col style={{ width: 112 }} />
            {columns.map((c) => (
              <col key={c.pin ?? c.scheme} style={{ width: wide }} />
            ))}
          </colgroup>
          <tbody>
            {row("", (c) => (
              <div>
                {c.geometry && <MiniForm geometry={c.geometry} />}
                <div className="spread">
                  <h2 style={{ fontSize: 17 }}>{c.title}</h2>
                  {c.pin && !c.is_reference && (
                    <button type="button" className="plain quiet small" onClick={() => void unpin(c.pin ?? "")}>
                      unpin
                    </button>
                  )}
                </div>
                <div className="small quiet">{c.subtitle}</div>
                {c.fault && <div className="remark fault">{said(c.fault, units)}</div>}
                {(c.outcome?.remarks.length ?? 0) > 0 && (
                  <div
                    className="small doubt"
                    data-remarks={c.title}
                    title={c.outcome?.remarks.map((r) => said(r.sentence, units)).join("\n")}
                  >
                    ▲ {c.outcome?.remarks.length} {c.outcome?.remarks.length === 1 ? "remark" : "remarks"}
                  </div>
                )}
              </div>
            ))}
            {row("Energy", (c) =>
              c.outcome ? (
                <span data-column={c.title}>
                  <span className="big" style={{ fontSize: 30 }}>
                    {figure(c.outcome.totals.eui_kwh_per_m2, "kWh/m²", units, 1).text}
                  </span>{" "}
                  {figure(1, "kWh/m²", units, 1).unit}
                  {than(c, "eui_kwh_per_m2")}
                </span>
              ) : null,
            )}
            {row("By end use", (c) =>
              c.outcome ? (
                <EndUseBar totals={c.outcome.totals} most={most} factor={scale("kWh/m²", units).factor} named={false} />
              ) : null,
            )}
            {columns.some((c) => (c.outcome?.totals.generation_kwh.used ?? 0) > 1) &&
              row("Net of own sun", (c) =>
                c.outcome ? (
                  <>
                    {both(c.outcome.totals.eui_net_kwh_per_m2, "kWh/m²", units, 1)}
                    {than(c, "eui_net_kwh_per_m2")}
                  </>
                ) : null,
              )}
            {row("What differs", (c) => (
              <div>
                {differing.map((title) => {
                  const fact = c.facts.find((f) => f.title === title);
                  const first = columns[0].facts.find((f) => f.title === title);
                  const changed = spell(fact, units) !== spell(first, units);
                  return (
                    <div key={title}>
                      <span className="quiet">{title}</span>{" "}
                      <span className={changed && !c.is_reference ? "differs" : ""}>{spell(fact, units)}</span>
                    </div>
                  );
                })}
              </div>
            ))}
            {(["heating", "cooling"] as const).map((kind) => (
              <PeakRow key={kind} kind={kind} columns={columns} row={row} than={than} />
            ))}
            {row("Comfort", (c) => {
              if (!c.outcome) return null;
              const k = c.outcome.comfort;
              return (
                <>
                  {k.too_warm_h.toFixed(0)} h above {limitsIn(k.limits, "too_warm_c", units)}
                  {than(c, "too_warm_h")}
                  <br />
                  {k.too_cold_h.toFixed(0)} h below {limitsIn(k.limits, "too_cold_c", units)}
                  {than(c, "too_cold_h")}
                  <br />
                  <span className="quiet small">of {k.occupied_h.toFixed(0)} occupied</span>
                </>
              );
            })}
            {row("Carbon", (c) =>
              c.outcome ? (
                <>
                  {both(c.outcome.totals.carbon_kg_per_m2, "kg/m²", units, 1)}
                  {than(c, "carbon_kg_per_m2")}
                </>
              ) : null,
            )}
            {row("Running cost", (c) =>
              c.outcome ? (
                <>
                  {both(c.outcome.totals.cost_per_m2, "€/m²", units, 2)}
                  {than(c, "cost_per_m2")}
                </>
              ) : null,
            )}
            {row("In a sentence", (c) =>
              c.is_reference ? <span className="quiet">the reference</span> : c.sentences.join(" "),
            )}
            {row("Note", (c) =>
              c.pin ? <Note pin={c.pin} note={c.note} project={project} onDone={() => void refresh()} /> : null,
            )}
          </tbody>
        </table>
        <div className="row small quiet" style={{ marginTop: 10, flexWrap: "wrap" }}>
          {endUses.map((u) => (
            <span key={u.id} className="row" style={{ gap: 4 }}>
              <span style={{ width: 12, height: 12, background: u.colour, display: "inline-block" }} />{" "}
              {u.name.toLowerCase()}
            </span>
          ))}
          <span>hatched: covered by own generation</span>
        </div>
        <Why columns={columns} />
        <p className="small quiet">
          A design-stage comparison of delivered energy per conditioned internal floor area; it is no compliance
          calculation.
        </p>
      </div>
    </main>
  );
}

function arrow(text: string): string {
  return text.endsWith("more") || text.includes("times") ? `↑ ${text}` : text.endsWith("less") ? `↓ ${text}` : text;
}

function spell(fact: Fact | undefined, units: "SI" | "IP"): string {
  if (!fact) return "";
  if (fact.value === null) return fact.text;
  if (fact.unit === "m" && fact.value === 0) return "none";
  return both(fact.value, fact.unit, units, fact.unit === "W/m²K" ? 2 : 1);
}

/** Titles of the facts in which not all columns are alike. */
function whatDiffers(columns: Column[]): string[] {
  return columns.find((c) => c.facts.length > 0)?.facts.map((f) => f.title) ?? [];
}

function PeakRow({
  kind,
  columns,
  row,
  than,
}: {
  kind: "heating" | "cooling";
  columns: Column[];
  row: (name: string, cell: (c: Column) => React.ReactNode) => React.ReactNode;
  than: (c: Column, key: string) => React.ReactNode;
}) {
  const units = useKept((s) => s.units);
  const peak = (c: Column) => c.outcome?.peaks;
  const most = Math.max(...columns.map((c) => peak(c)?.[`${kind}_w`] ?? 0), 1);
  return row(`Peak ${kind}`, (c) => {
    const p = peak(c);
    if (!p) return null;
    return (
      <>
        <b>{both(p[`${kind}_w`] / 1000, "kW", units, 1)}</b>{" "}
        <span className="small">on {hourText(p[`${kind}_at`])}</span>
        {than(c, `peak_${kind}_w`)}
        <span
          style={{
            display: "block",
            height: 8,
            marginTop: 4,
            width: `${(p[`${kind}_w`] / most) * 92}%`,
            background: kind === "heating" ? "#B04A32" : "#2B5F8A",
          }}
        />
      </>
    );
  });
}

function Note({ pin, note, project, onDone }: { pin: string; note: string; project: string; onDone: () => void }) {
  const [text, setText] = useState(note);
  return (
    <textarea
      aria-label="Note"
      placeholder="Note"
      value={text}
      maxLength={2000}
      rows={2}
      style={{
        width: "94%",
        font: "inherit",
        border: "1px solid var(--line)",
        borderRadius: 6,
        background: tone.bright,
        padding: 6,
      }}
      onChange={(e) => setText(e.target.value)}
      onBlur={() =>
        text !== note &&
        void got(
          client.PUT("/api/projects/{project_id}/pins/{pin_id}/note", {
            params: { path: { project_id: project, pin_id: pin } },
            body: { note: text },
          }),
        ).then(onDone)
      }
    />
  );
}
