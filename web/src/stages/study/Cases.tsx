import { Menu, MenuItem, Select } from "@mui/material";
import { DataGrid, type GridColDef, type GridSortModel } from "@mui/x-data-grid";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { memo, useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { type Case, client, got, type Lever, type Schemas, type Study } from "../../api/client";
import { useProjectId } from "../../api/hooks";
import { tell, useKept, useKeptOf } from "../../app/state";
import { TickMenu } from "../../app/TickMenu";
import { Told } from "../../app/Told";
import { count, figure, inWords, round, said, scale } from "../../app/words";
import { line } from "../../fields/NumberBox";
import { Alternatives } from "./Alternatives";
import { CaseLook } from "./CaseLook";
import {
  everyFigure,
  type FigureOf,
  figuresOf,
  type Kept,
  leverScale,
  namedBy,
  shownFirst,
  useFigureOf,
  type Which,
} from "./figures";
import { Pairs } from "./Pairs";
import { ParallelAxes } from "./ParallelAxes";
import { Range } from "./Range";
import { SpreadBy } from "./SpreadBy";
import { type Order, PAGE, useBaseline, useShown } from "./table";

type View = "cases" | "alternatives" | "axes" | "pairs" | "spread";
const views: { id: View; name: string }[] = [
  { id: "alternatives", name: "Alternatives" },
  { id: "cases", name: "Cases" },
  { id: "axes", name: "Parallel axes" },
  { id: "pairs", name: "Pairs" },
  { id: "spread", name: "Spread" },
];

const LEAST: Order = { by: "eui_kwh_per_m2", down: false };

export function usePins() {
  const project = useProjectId();
  return useQuery({
    queryKey: ["pins", project],
    queryFn: () => got(client.GET("/api/projects/{project_id}/pins", { params: { path: { project_id: project } } })),
  });
}

/** Lever strips, result rows and the table; all say the same selection. */
export const Cases = memo(function Cases({
  study,
  live,
  kept,
  onKept,
}: {
  study: Study;
  live: boolean;
  kept: Kept;
  onKept: (kept: Kept) => void;
}) {
  const project = useProjectId();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const units = useKept((s) => s.units);
  const { columns: chosen, setColumns } = useKeptOf("columns", "setColumns");
  const [view, setView] = useState<View>(study.spec.kind === "measures" ? "alternatives" : "cases");
  const [more, setMore] = useState<{ at: HTMLElement; number: number } | null>(null);
  const [folded, setFolded] = useState(view !== "cases");
  const [choosing, setChoosing] = useState<HTMLElement | null>(null);
  const [ranging, setRanging] = useState<HTMLElement | null>(null);
  const [looked, setLooked] = useState<number | null>(null);
  const [order, setOrder] = useState(LEAST);
  const [page, setPage] = useState(0);
  // the same list as long as it says the same: the table takes another one for a wish to begin at the first page
  const sorted = useMemo<GridSortModel>(() => [{ field: order.by, sort: order.down ? "desc" : "asc" }], [order]);
  const [ranged, setRanged] = useState<string[]>([]);
  const figureOf = useFigureOf();
  const spread = useMemo(() => [...new Set([...shownFirst, ...ranged])], [ranged]);
  const answer = useShown(study, kept, order, page, live, spread).data;
  const baseline = useBaseline(study).data;
  const pins = usePins().data ?? [];
  const pinned = new Map(pins.filter((p) => p.study === study.id).map((p) => [p.number, p.id]));

  // biome-ignore lint/correctness/useExhaustiveDependencies: another study or another sieve begins at its first page
  useEffect(() => setPage(0), [study.id, kept]);

  async function pin(c: { number: number }) {
    const own = pinned.get(c.number);
    const params = { path: { project_id: project } };
    if (own)
      await got(
        client.DELETE("/api/projects/{project_id}/pins/{pin_id}", {
          params: { path: { project_id: project, pin_id: own } },
        }),
      );
    else
      await got(
        client.POST("/api/projects/{project_id}/pins", { params, body: { study: study.id, number: c.number } }),
      );
    await queries.invalidateQueries({ queryKey: ["pins", project] });
    await queries.invalidateQueries({ queryKey: ["findings", project] });
    tell(own ? `Case ${c.number} is no longer pinned.` : `Case ${c.number} is pinned; see Findings.`);
  }

  function toggle(lever: string, step: number) {
    const now = kept.dropped[lever] ?? [];
    const next = now.includes(step) ? now.filter((s) => s !== step) : [...now, step];
    onKept({ ...kept, dropped: { ...kept.dropped, [lever]: next } });
  }

  /** Another view; pictures take the room of the strips, which can be unfolded. */
  function look(next: View) {
    setView(next);
    setFolded(next !== "cases");
  }

  async function takeOver(number: number) {
    setMore(null);
    const made = await got(
      client.POST("/api/projects/{project_id}/studies/{study_id}/cases/{number}/take-over", {
        params: { path: { project_id: project, study_id: study.id, number } },
      }),
    ).catch((fault: Error) => tell(fault.message, true));
    if (!made) return;
    await queries.invalidateQueries({ queryKey: ["project", project] });
    navigate(`/p/${project}/shape/${made.scheme}`);
    tell(
      made.besides.length === 0
        ? `Case ${number} is a scheme of its own now.`
        : `Case ${number} is a scheme of its own now, but for what no scheme holds: ${made.besides.join(", ")}.`,
    );
  }

  const own = chosen[study.id] ?? [];
  const figuresShown = useMemo(() => {
    if (own.length > 0) return own.map(figureOf);
    const named = namedBy(study);
    const usual = figuresOf.filter((f) => !named.includes(f.id) && (f.id !== "eui_net_kwh_per_m2" || answer?.net));
    return [...named.map(figureOf), ...(study.spec.outcomes.length > 0 ? [] : usual)];
  }, [own, study, answer?.net, figureOf]);
  const names = useMemo(() => figuresShown.map((f) => f.id), [figuresShown]);
  const everyOne = useMemo(() => {
    const zonal = namedBy(study).filter((id) => id.includes("@"));
    return [...zonal.map(figureOf), ...everyFigure];
  }, [study, figureOf]);
  const columns: GridColDef<Case>[] = [
    {
      field: "pin",
      headerName: "",
      width: 30,
      minWidth: 30,
      sortable: false,
      renderCell: ({ row }) => (
        <button
          type="button"
          className="plain"
          aria-label={pinned.has(row.number) ? `Unpin case ${row.number}` : `Pin case ${row.number}`}
          aria-pressed={pinned.has(row.number)}
          onClick={() => void pin(row)}
        >
          {pinned.has(row.number) ? "◆" : "◇"}
        </button>
      ),
    },
    {
      field: "more",
      headerName: "",
      width: 28,
      minWidth: 28,
      sortable: false,
      renderCell: ({ row }) => (
        <button
          type="button"
          className="plain quiet"
          aria-label={`More of case ${row.number}`}
          onClick={(e) => setMore({ at: e.currentTarget, number: row.number })}
        >
          ⋯
        </button>
      ),
    },
    {
      field: "remarks",
      headerName: "▲",
      description: "Remarks",
      width: 40,
      minWidth: 40,
      valueGetter: (_, row) => row.remarks.length,
      renderCell: ({ row }) =>
        row.status === "failed" ? (
          <span className="fault" title={said(row.reason, units)} data-failed={row.number}>
            ✕
          </span>
        ) : (
          row.remarks.length > 0 && (
            <span className="doubt" title={row.remarks.map((r) => said(r, units)).join("\n")} data-remarks={row.number}>
              ▲ {row.remarks.length}
            </span>
          )
        ),
    },
    ...study.levers.map(
      (l, i): GridColDef<Case> => ({
        field: l.key,
        headerName: l.title,
        flex: typeof l.steps[0] === "string" ? 2 : 1,
        minWidth: Math.max(typeof l.steps[0] === "string" ? 140 : 76, widthOf(l.title)),
        valueGetter: (_, row) => row.values[i] ?? row.steps[i],
        renderCell: ({ row }) => shownTaken(l, row, i, units),
      }),
    ),
    ...figuresShown.slice(0, 1).map((f) => number(f, units)),
    {
      field: "than",
      headerName: baseline ? `than ${baseline.name}` : "",
      renderHeader: ({ colDef }) => (
        <span className="MuiDataGrid-columnHeaderTitle named lines" title={colDef.headerName}>
          {colDef.headerName}
        </span>
      ),
      width: Math.max(96, Math.min(widthOf(`than ${baseline?.name ?? ""}`), 160)),
      align: "right",
      headerAlign: "right",
      valueGetter: (_, row) => row.figures[names[0]],
      renderCell: ({ row }) => {
        const [mine, other] = [row.figures[names[0]], baseline?.figures[names[0]]];
        return mine != null && other != null ? inWords(mine, other) : "";
      },
    },
    ...figuresShown.slice(1).map((f) => number(f, units)),
  ];
  const doubtful = answer?.remarked ?? 0;

  return (
    <>
      <div className="spread" style={{ flexWrap: "wrap" }}>
        <h2>{study.name}</h2>
        <span className="small quiet" data-study-status={study.status}>
          {count(study.total, "case")} · {answer ? round(answer.running, 0) : "…"} in the running · {pinned.size} pinned
          · {study.failed} failed
          {doubtful > 0 && <> · {round(doubtful, 0)} with remarks</>}
          {(doubtful > 0 || study.failed > 0) && (
            <>
              {" · "}
              <Select
                variant="standard"
                value={kept.which ?? "all"}
                onChange={(e) => onKept({ ...kept, which: e.target.value as Which })}
                inputProps={{ "aria-label": "Which cases" }}
                sx={{ fontSize: 12 }}
              >
                <MenuItem value="all">all that worked out</MenuItem>
                <MenuItem value="sound">those without remarks</MenuItem>
                <MenuItem value="remarked">those with remarks</MenuItem>
                <MenuItem value="failed">those that failed</MenuItem>
              </Select>{" "}
              <Says key={kept.says ?? ""} says={kept.says ?? ""} onSays={(says) => onKept({ ...kept, says })} />
            </>
          )}
          {study.status === "done" ? ` · took ${study.seconds.toFixed(1)} s` : ` · ${study.status}`} ·{" "}
          <a href={`/api/projects/${project}/studies/${study.id}/cases.csv`}>CSV</a>{" "}
          {(["xlsx", "parquet"] as const).map((form) => (
            <a
              key={form}
              href={`/api/projects/${project}/studies/${study.id}/cases.${form}?figures=${names.join(",")}`}
              style={{ marginLeft: 4 }}
            >
              {form === "xlsx" ? "XLSX" : "Parquet"}
            </a>
          ))}
        </span>
      </div>
      {study.outdated && study.status === "done" && (
        <div className="remark">
          The project has changed since this study ran; its cases are of the documents as they were then.
        </div>
      )}
      {!folded && (
        <div style={{ margin: "10px 0 6px" }}>
          {study.levers.map((l, i) => (
            <div className="strip" key={l.key}>
              <span>{l.title}</span>
              <div className="boxes">
                {l.steps.map((step, s) => {
                  const [all, still] = answer?.strips[i]?.[s] ?? [0, 0];
                  const on = !kept.dropped[l.key]?.includes(s);
                  return (
                    <button
                      key={String(step)}
                      type="button"
                      className="box"
                      aria-pressed={on}
                      title={`${l.labels[s]}: ${on ? `${still} of ${all} in the running; click to drop` : "dropped; click to keep"}`}
                      onClick={() => toggle(l.key, s)}
                    >
                      {on && all > 0 && <span className="fill" style={{ width: `${(still / all) * 100}%` }} />}
                      <span className="label">
                        {l.low == null ? shownStep(l.labels[s], step, l.unit, units) : middleOf(l, s, units)}
                      </span>
                    </button>
                  );
                })}
              </div>
            </div>
          ))}
          {spread
            .filter((id) => answer?.spreads[id])
            .map((id) => (
              <Range
                key={id}
                f={figureOf(id)}
                spread={answer?.spreads[id] as Schemas["SpreadOut"]}
                kept={kept}
                onKept={onKept}
                units={units}
              />
            ))}
          <div className="strip">
            <span />
            <div>
              <button type="button" className="plain assumed small" onClick={(e) => setRanging(e.currentTarget)}>
                + range of another figure
              </button>
            </div>
          </div>
        </div>
      )}
      <div className="spread" style={{ margin: "6px 0 4px" }}>
        <span className="switch" role="group" aria-label="View of the cases">
          {views
            .filter((v) => v.id !== "alternatives" || study.spec.kind === "measures")
            .map((v) => (
              <button key={v.id} type="button" aria-pressed={view === v.id} onClick={() => look(v.id)}>
                {v.name}
              </button>
            ))}
        </span>
        <span className="row" style={{ gap: 12, whiteSpace: "nowrap" }}>
          <button type="button" className="plain assumed" aria-expanded={!folded} onClick={() => setFolded(!folded)}>
            {folded ? "show strips" : "fold strips"}
          </button>
          <button type="button" className="plain assumed" onClick={(e) => setChoosing(e.currentTarget)}>
            columns
          </button>
        </span>
        <TickMenu
          at={ranging}
          onClose={() => setRanging(null)}
          things={everyOne
            .filter((f) => !shownFirst.includes(f.id))
            .map((f) => ({ id: f.id, title: f.name, on: ranged.includes(f.id) }))}
          onTick={(id, on) => {
            setRanged(on ? [...ranged, id] : ranged.filter((n) => n !== id));
            const { [id]: _, ...ranges } = kept.ranges;
            if (!on) onKept({ ...kept, ranges });
          }}
        />
        <TickMenu
          at={choosing}
          onClose={() => setChoosing(null)}
          things={everyOne.map((f) => {
            const on = names.includes(f.id);
            return { id: f.id, title: f.name, on, held: on && names.length === 1 };
          })}
          onTick={(id, on) =>
            setColumns(study.id, on ? [names[0], id, ...names.slice(1)] : names.filter((n) => n !== id))
          }
        />
      </div>
      <div style={{ flex: "1 1 0", minHeight: 260, display: "flex", flexDirection: "column" }}>
        {view === "alternatives" && (
          <Alternatives
            study={study}
            pinned={new Set([...pinned.keys()].filter((n) => n !== null))}
            onPin={(n) => void pin({ number: n })}
          />
        )}
        {view === "axes" && <ParallelAxes study={study} kept={kept} onKept={onKept} names={names.slice(0, 6)} />}
        {view === "pairs" && <Pairs study={study} kept={kept} names={names} />}
        {view === "spread" && <SpreadBy study={study} kept={kept} names={names} />}
        {view === "cases" && (
          <DataGrid
            rows={answer?.cases ?? []}
            rowCount={answer?.running ?? 0}
            paginationMode="server"
            sortingMode="server"
            sortModel={sorted}
            onSortModelChange={([by]) => {
              setOrder(by ? { by: by.field === "than" ? names[0] : by.field, down: by.sort === "desc" } : LEAST);
              setPage(0);
            }}
            paginationModel={{ page, pageSize: PAGE }}
            onPaginationModelChange={(model) => setPage(model.page)}
            loading={!answer}
            localeText={{ noRowsLabel: live ? "The first cases are being worked out." : "No case is in the running." }}
            columns={columns}
            getRowId={(c) => c.number}
            density="compact"
            rowHeight={30}
            columnHeaderHeight={76}
            disableColumnMenu
            disableRowSelectionOnClick
            hideFooterSelectedRowCount
            pageSizeOptions={[PAGE]}
            sx={{
              border: 0,
              fontSize: 12.5,
              "& .MuiDataGrid-columnHeader": { background: "transparent" },
              "& .MuiDataGrid-columnHeader, & .MuiDataGrid-cell": { px: "6px" },
              "& .MuiDataGrid-columnHeaderTitle": { fontWeight: 500, whiteSpace: "normal", lineHeight: 1.2, pb: "2px" },
              "& .MuiDataGrid-iconButtonContainer": { width: 0, overflow: "visible", position: "relative", left: 2 },
              "& .MuiDataGrid-columnHeader--sorted .MuiDataGrid-columnHeaderTitle": { textDecoration: "underline" },
              "& .MuiDataGrid-sortButton": { display: "none" },
            }}
          />
        )}
      </div>
      <Menu anchorEl={more?.at} open={Boolean(more)} onClose={() => setMore(null)}>
        <MenuItem
          dense
          onClick={() => {
            setLooked(more?.number ?? null);
            setMore(null);
          }}
        >
          Look into case {more?.number}
        </MenuItem>
        <MenuItem dense onClick={() => more && void takeOver(more.number)}>
          Take case {more?.number} over as a scheme
        </MenuItem>
      </Menu>
      {looked !== null && <CaseLook study={study} number={looked} onClose={() => setLooked(null)} />}
      {study.failed > 0 && (
        <details>
          <summary>{count(study.failed, "failed case")}</summary>
          {answer?.failed.map((c) => (
            <div key={c.number} className="small">
              Case {c.number}: <Told text={c.reason} />
            </div>
          ))}
        </details>
      )}
    </>
  );
});

/** The middle of a part of a range, as short as can be. */
function middleOf(l: Lever, part: number, units: "SI" | "IP"): string {
  const to = leverScale(l, units);
  const of = (k: number) => Number(l.steps[k]) * to.factor + to.offset;
  const apart = Math.abs(of(1) - of(0));
  const digits = Math.min(Math.max(0, Math.ceil(-Math.log10(apart || 1))), 6); // as few as tell neighbours apart
  return `${of(part).toFixed(digits)}${to.unit === "%" ? "%" : ""}`;
}

/** What a case takes of a lever: the step, or its value in the lever's range. */
export function shownTaken(l: Lever, row: Case, i: number, units: "SI" | "IP"): string {
  const value = row.values[i];
  if (value == null) return shownStep(l.labels[row.steps[i]], l.steps[row.steps[i]], l.unit, units);
  const to = leverScale(l, units);
  return `${Number((value * to.factor + to.offset).toPrecision(3))}${to.unit === "%" ? "" : " "}${to.unit}`.trim();
}

/** A step's label; lengths and temperatures follow the unit system. */
export function shownStep(label: string, step: unknown, unit: string, units: "SI" | "IP"): string {
  if (units === "SI" || typeof step !== "number" || label.endsWith("%") || label === "none") return label;
  const s = scale(unit, units);
  return s.unit === unit ? label : `${Number((step * s.factor + s.offset).toFixed(2))} ${s.unit}`;
}

/** So many lines have room in the head of the table. */
const HEAD_LINES = 3;

/** How wide a column is whose head has room in its lines, none of its words cut, px. */
function widthOf(head: string): number {
  const words = head.split(/\s+/);
  let most = Math.max(...words.map((word) => word.length));
  while (linesOf(words, most) > HEAD_LINES) most++;
  return most * 7 + 16;
}

/** Over how many lines words run where so many letters have room in each. */
function linesOf(words: string[], most: number): number {
  let [lines, filled] = [1, 0];
  for (const word of words) {
    const next = filled === 0 ? word.length : filled + 1 + word.length;
    if (next > most) [lines, filled] = [lines + 1, word.length];
    else filled = next;
  }
  return lines;
}

function number(f: FigureOf, units: "SI" | "IP"): GridColDef<Case> {
  const headerName = [f.name, figure(1, f.unit, units, 0).unit || f.unit].filter(Boolean).join(", ");
  return {
    field: f.id,
    headerName,
    width: Math.max(70, widthOf(headerName)),
    type: "number",
    valueGetter: (_, row) => f.of(row.figures),
    renderCell: ({ value }) => figure(Number(value), f.unit, units, f.digits).text,
  };
}

/** Words that stand in a case's remarks or in the reason for which it failed. */
function Says({ says, onSays }: { says: string; onSays: (says: string) => void }) {
  const [typed, setTyped] = useState(says);
  return (
    <input
      aria-label="Words of remarks"
      placeholder="that say …"
      value={typed}
      maxLength={200}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={() => typed !== says && onSays(typed)}
      onKeyDown={(e) => e.key === "Enter" && onSays(typed)}
      style={{ ...line, width: 110 }}
    />
  );
}
