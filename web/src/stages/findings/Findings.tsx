import { Button } from "@mui/material";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { Fragment, useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import { client, got, type Schemas } from "../../api/client";
import { figures } from "../../api/figures";
import { useProject, useProjectId, useScheme } from "../../api/hooks";
import { useSchemes } from "../../app/schemes";
import { tell, useKept } from "../../app/state";
import { TickMenu } from "../../app/TickMenu";
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
  const { scheme } = useScheme();
  const schemes = useSchemes();
  const revision = useProject().data?.revision;
  const units = useKept((s) => s.units);
  const queries = useQueryClient();
  // what is looked at stands in the address, so that a link opens the same view
  const [view, setView] = useSearchParams();
  const against = view.get("against") ?? "";
  const without = useMemo(() => new Set((view.get("without") ?? "").split(",").filter(Boolean)), [view]);
  const [choosing, setChoosing] = useState<HTMLElement | null>(null);
  const key = ["findings", project, revision, units, against, scheme.id];
  const findings = useQuery({
    queryKey: key,
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/findings", {
          params: { path: { project_id: project }, query: { units, against, scheme: scheme.id } },
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
  function look(name: "against" | "without", value: string) {
    const next = new URLSearchParams(view);
    if (value) next.set(name, value);
    else next.delete(name);
    setView(next, { replace: true });
  }
  /** Shows at once what the server will say when it has worked it out. */
  function meanwhile(change: (now: Column[]) => Column[]) {
    queries.setQueryData<Schemas["FindingsOut"]>(key, (now) => now && { ...now, columns: change(now.columns) });
  }
  async function call(id: string, name: string) {
    meanwhile((now) => now.map((c) => (c.pin === id && name.trim() ? { ...c, title: name.trim() } : c)));
    await got(
      client.PUT("/api/projects/{project_id}/pins/{pin_id}/name", {
        params: { path: { project_id: project, pin_id: id } },
        body: { name },
      }),
    );
    await refresh();
  }
  async function move(id: string, by: number) {
    const pins = columns.filter((c) => c.pin && !c.is_reference).map((c) => c.pin as string);
    const at = pins.indexOf(id);
    const to = Math.min(Math.max(at + by, 0), pins.length - 1);
    pins.splice(to, 0, ...pins.splice(at, 1));
    await got(
      client.PUT("/api/projects/{project_id}/pins", { params: { path: { project_id: project } }, body: { pins } }),
    );
    await refresh();
  }
  async function unpin(id: string) {
    meanwhile((now) => now.filter((c) => c.pin !== id));
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

  const keyOf = (c: Column) => c.pin ?? c.scheme;
  const place = (i: number) => (i === 0 ? "reference" : "");
  const row = (name: string, cell: (c: Column) => React.ReactNode) => (
    <tr>
      <th scope="row">{name}</th>
      {columns.map((c, i) => (
        <td key={keyOf(c)} className={place(i)}>
          {cell(c)}
        </td>
      ))}
    </tr>
  );
  return (
    <main className="work whole">
      <div className="findings">
        <div className="spread" style={{ marginBottom: 10 }}>
          <div className="row" style={{ alignItems: "baseline", minWidth: 0 }}>
            <h2>Findings</h2>
            <span className="small quiet">
              {columns.length - 1} beside the reference · only what differs is shown · peaks from four steps an hour
              {findings.isFetching ? " · working" : ""}
            </span>
          </div>
          <div className="row" style={{ flexShrink: 0 }}>
            <Button variant="outlined" onClick={(e) => setChoosing(e.currentTarget)}>
              Rows
            </Button>
            <TickMenu
              at={choosing}
              onClose={() => setChoosing(null)}
              things={[
                { id: "differs", title: "What differs" },
                ...figures.filter((f) => f.findings && isNews(f, columns)),
              ].map((f) => ({ id: f.id, title: f.title, on: !without.has(f.id) }))}
              onTick={(id, on) =>
                look("without", (on ? [...without].filter((one) => one !== id) : [...without, id]).join(","))
              }
            />
            <Button
              variant="outlined"
              onClick={() =>
                void navigator.clipboard
                  ?.writeText(window.location.href)
                  .then(() => tell("The link to this view is copied."))
                  .catch(() => tell(`The link to this view is the page's address: ${window.location.href}`))
              }
            >
              Copy link
            </Button>
            <ReportButton />
            <Button variant="outlined" href={`/api/projects/${project}/file`}>
              Save the project as a file
            </Button>
          </div>
        </div>
        {columns.length <= 1 && (
          <p className="quiet">
            Pin cases with ◇ in Study, or go to another scheme at its tab above, to see them side by side here.
          </p>
        )}
        <table style={{ width: 112 + wide * columns.length }}>
          <colgroup>
            <col style={{ width: 112 }} />
            {columns.map((c) => (
              <col key={c.pin ?? c.scheme} style={{ width: wide }} />
            ))}
          </colgroup>
          <thead>
            <tr>
              <td className="corner" />
              {columns.map((c, i) => (
                <th key={keyOf(c)} scope="col" aria-label={c.title} className={place(i)}>
                  {c.geometry && <MiniForm geometry={c.geometry} />}
                  <div className="spread">
                    {c.pin ? (
                      <PinName key={c.title} title={c.title} onCall={(name) => void call(c.pin ?? "", name)} />
                    ) : (
                      <h2 style={{ fontSize: 17 }}>{c.title}</h2>
                    )}
                    {c.pin && !c.is_reference && (
                      <span className="row small" style={{ gap: 6 }}>
                        <button
                          type="button"
                          className="plain quiet"
                          aria-label={`Move ${c.title} to the left`}
                          onClick={() => void move(c.pin ?? "", -1)}
                        >
                          ←
                        </button>
                        <button
                          type="button"
                          className="plain quiet"
                          aria-label={`Move ${c.title} to the right`}
                          onClick={() => void move(c.pin ?? "", 1)}
                        >
                          →
                        </button>
                        <button type="button" className="plain quiet" onClick={() => void unpin(c.pin ?? "")}>
                          unpin
                        </button>
                      </span>
                    )}
                    {!c.pin && !c.is_reference && (
                      <button
                        type="button"
                        className="plain assumed small"
                        aria-label={`Pin ${c.title} as it stands`}
                        onClick={() => void schemes.pin(c.scheme)}
                      >
                        pin
                      </button>
                    )}
                  </div>
                  <div className="small quiet">
                    {c.pin || c.is_reference ? c.subtitle : "in view now; pinned, it stays beside the others"}
                  </div>
                  {columns.length > 1 &&
                    (c.is_base ? (
                      <div className="small" data-base={c.title}>
                        the others are held against this
                      </div>
                    ) : (
                      (c.pin || c.is_reference) && (
                        <button
                          type="button"
                          className="plain assumed small"
                          onClick={() => look("against", c.is_reference ? "" : (c.pin ?? ""))}
                        >
                          hold the others against this
                        </button>
                      )
                    ))}
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
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {figures
              .filter((f) => f.findings && isNews(f, columns) && !without.has(f.id))
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
                  {i === 0 &&
                    !without.has("differs") &&
                    row("What differs", (c) => <Differing column={c} columns={columns} />)}
                </Fragment>
              ))}
            {row("In a sentence", (c) =>
              c.is_base ? (
                <span className="quiet">{c.is_reference ? "the reference" : "held against"}</span>
              ) : (
                c.sentences.join(" ")
              ),
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

/** A pin's name, changed where it stands; an empty one goes back to what the case is. */
function PinName({ title, onCall }: { title: string; onCall: (name: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  if (text === null)
    return (
      <h2 style={{ fontSize: 17 }}>
        <button type="button" className="plain" title="Call it something else" onClick={() => setText(title)}>
          {title}
        </button>
      </h2>
    );
  return (
    <input
      // biome-ignore lint/a11y/noAutofocus: it takes the place of what was clicked
      autoFocus
      aria-label={`Name of ${title}`}
      value={text}
      maxLength={120}
      onFocus={(e) => e.target.select()}
      style={{ font: "inherit", fontSize: 15, width: 150 }}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        setText(null);
        if (text.trim() !== title) onCall(text);
      }}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setText(null);
      }}
    />
  );
}

/** What of a column is otherwise than in others. */
function Differing({ column, columns }: { column: Column; columns: Column[] }) {
  const units = useKept((s) => s.units);
  return (
    <div>
      {whatDiffers(columns).map((title) => {
        const fact = column.facts.find((f) => f.title === title);
        const first = (columns.find((c) => c.is_base) ?? columns[0]).facts.find((f) => f.title === title);
        const changed = spell(fact, units) !== spell(first, units);
        return (
          <div key={title}>
            <span className="quiet">{title}</span>{" "}
            <span className={changed && !column.is_base ? "differs" : ""}>{spell(fact, units)}</span>
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
