import { Button } from "@mui/material";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { Fragment, useState } from "react";
import { client, got, type Schemas } from "../../api/client";
import { figures } from "../../api/figures";
import { useProject, useProjectId, useScheme } from "../../api/hooks";
import { tell, useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { endUses } from "../../app/theme";
import { tone } from "../../app/tokens";
import { both, said, scale } from "../../app/words";
import { EndUseBar } from "../../charts/EndUseBar";
import { MiniForm } from "../../scene/MiniForm";
import { FigureCell, isNews } from "./FigureCell";
import { ReportButton } from "./ReportButton";
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
            <ReportButton />
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
            {figures
              .filter((f) => f.findings && isNews(f, columns))
              .map((f, i) => (
                <Fragment key={f.id}>
                  {row(
                    f.title,
                    (c) =>
                      c.outcome && <FigureCell of={f} column={c} outcome={c.outcome} columns={columns} big={i === 0} />,
                  )}
                  {i === 0 &&
                    row("By end use", (c) =>
                      c.outcome ? (
                        <EndUseBar
                          totals={c.outcome.totals}
                          most={most}
                          factor={scale("kWh/m²", units).factor}
                          named={false}
                        />
                      ) : null,
                    )}
                  {i === 0 && row("What differs", (c) => <Differing column={c} columns={columns} />)}
                </Fragment>
              ))}
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

function spell(fact: Fact | undefined, units: "SI" | "IP"): string {
  if (!fact) return "";
  if (fact.value === null) return fact.text;
  if (fact.unit === "m" && fact.value === 0) return "none";
  return both(fact.value, fact.unit, units, fact.unit === "W/m²K" ? 2 : fact.unit === "lx" ? 0 : 1);
}

/** What of a column is otherwise than in others. */
function Differing({ column, columns }: { column: Column; columns: Column[] }) {
  const units = useKept((s) => s.units);
  return (
    <div>
      {whatDiffers(columns).map((title) => {
        const fact = column.facts.find((f) => f.title === title);
        const first = columns[0].facts.find((f) => f.title === title);
        const changed = spell(fact, units) !== spell(first, units);
        return (
          <div key={title}>
            <span className="quiet">{title}</span>{" "}
            <span className={changed && !column.is_reference ? "differs" : ""}>{spell(fact, units)}</span>
          </div>
        );
      })}
    </div>
  );
}

/** Titles of the facts in which not all columns are alike. */
function whatDiffers(columns: Column[]): string[] {
  return columns.find((c) => c.facts.length > 0)?.facts.map((f) => f.title) ?? [];
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
