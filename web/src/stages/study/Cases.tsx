import { DataGrid, type GridColDef, type GridSortModel } from "@mui/x-data-grid";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { memo, useEffect, useMemo, useRef, useState } from "react";
import { type Case, client, got, type Schemas, type Study } from "../../api/client";
import { useProjectId } from "../../api/hooks";
import { tell, useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { tone } from "../../app/tokens";
import { figure, inWords, round, said, scale } from "../../app/words";
import { type FigureOf, figuresOf, type Kept, shownFirst } from "./figures";
import { type Order, PAGE, useBaseline, useShown } from "./table";

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
  const units = useKept((s) => s.units);
  const [order, setOrder] = useState(LEAST);
  const [page, setPage] = useState(0);
  // the same list as long as it says the same: the table takes another one for a wish to begin at the first page
  const sorted = useMemo<GridSortModel>(() => [{ field: order.by, sort: order.down ? "desc" : "asc" }], [order]);
  const answer = useShown(study, kept, order, page, live).data;
  const baseline = useBaseline(study).data;
  const pins = usePins().data ?? [];
  const pinned = new Map(pins.filter((p) => p.study === study.id).map((p) => [p.number, p.id]));
  const base = baseline?.figures.eui_kwh_per_m2 ?? null;

  // biome-ignore lint/correctness/useExhaustiveDependencies: another study or another sieve begins at its first page
  useEffect(() => setPage(0), [study.id, kept]);

  async function pin(c: Case) {
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
      field: "remarks",
      headerName: "▲",
      description: "Remarks",
      width: 40,
      minWidth: 40,
      valueGetter: (_, row) => row.remarks.length,
      renderCell: ({ row }) =>
        row.remarks.length > 0 && (
          <span className="doubt" title={row.remarks.map((r) => said(r, units)).join("\n")} data-remarks={row.number}>
            ▲ {row.remarks.length}
          </span>
        ),
    },
    ...study.levers.map(
      (l, i): GridColDef<Case> => ({
        field: l.key,
        headerName: l.title,
        flex: typeof l.steps[0] === "string" ? 2 : 1,
        minWidth: typeof l.steps[0] === "string" ? 120 : 70,
        valueGetter: (_, row) => row.steps[i],
        renderCell: ({ row }) => shownStep(l.labels[row.steps[i]], l.steps[row.steps[i]], l.unit, units),
      }),
    ),
    number("eui_kwh_per_m2", units),
    {
      field: "than",
      headerName: baseline ? `than ${baseline.name}` : "",
      width: 88,
      align: "right",
      headerAlign: "right",
      valueGetter: (_, row) => row.figures.eui_kwh_per_m2,
      renderCell: ({ row }) =>
        base && row.figures.eui_kwh_per_m2 != null ? inWords(row.figures.eui_kwh_per_m2, base) : "",
    },
    ...figuresOf
      .slice(1)
      .filter((f) => f.id !== "eui_net_kwh_per_m2" || answer?.net)
      .map((f) => number(f.id, units)),
  ];
  const doubtful = answer?.remarked ?? 0;

  return (
    <>
      <div className="spread" style={{ flexWrap: "wrap" }}>
        <h2>{study.name}</h2>
        <span className="small quiet" data-study-status={study.status}>
          {round(study.total, 0)} cases · {answer ? round(answer.running, 0) : "…"} in the running · {pinned.size}{" "}
          pinned · {study.failed} failed
          {doubtful > 0 && (
            <>
              {" "}
              · {round(doubtful, 0)} with remarks{" "}
              <label style={{ whiteSpace: "nowrap" }}>
                <input
                  type="checkbox"
                  checked={kept.sound ?? false}
                  onChange={(e) => onKept({ ...kept, sound: e.target.checked })}
                />{" "}
                only those without
              </label>
            </>
          )}
          {study.status === "done" ? ` · took ${study.seconds.toFixed(1)} s` : ` · ${study.status}`} ·{" "}
          <a href={`/api/projects/${project}/studies/${study.id}/cases.csv`}>CSV</a>
        </span>
      </div>
      {study.outdated && study.status === "done" && (
        <div className="remark">
          The project has changed since this study ran; its cases are of the documents as they were then.
        </div>
      )}
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
                    title={on ? `${still} of ${all} in the running; click to drop` : "Dropped; click to keep"}
                    onClick={() => toggle(l.key, s)}
                  >
                    {on && all > 0 && <span className="fill" style={{ width: `${(still / all) * 100}%` }} />}
                    <span className="label">{shownStep(l.labels[s], step, l.unit, units)}</span>
                  </button>
                );
              })}
            </div>
          </div>
        ))}
        {figuresOf
          .filter((f) => shownFirst.includes(f.id) && answer?.spreads[f.id])
          .map((f) => (
            <Range
              key={f.id}
              f={f}
              spread={answer?.spreads[f.id] as Schemas["SpreadOut"]}
              kept={kept}
              onKept={onKept}
              units={units}
            />
          ))}
      </div>
      <div style={{ flex: "1 1 0", minHeight: 240 }}>
        <DataGrid
          rows={answer?.cases ?? []}
          rowCount={answer?.running ?? 0}
          paginationMode="server"
          sortingMode="server"
          sortModel={sorted}
          onSortModelChange={([by]) => {
            setOrder(by ? { by: by.field === "than" ? LEAST.by : by.field, down: by.sort === "desc" } : LEAST);
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
            "& .MuiDataGrid-columnHeaderTitle": { fontWeight: 500, whiteSpace: "normal", lineHeight: 1.2 },
            "& .MuiDataGrid-iconButtonContainer": { width: 0, overflow: "visible", position: "relative", left: 2 },
            "& .MuiDataGrid-columnHeader--sorted .MuiDataGrid-columnHeaderTitle": { textDecoration: "underline" },
            "& .MuiDataGrid-sortButton": { display: "none" },
          }}
        />
      </div>
      {study.failed > 0 && (
        <details>
          <summary>{study.failed} failed cases</summary>
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

/** A step's label; lengths and temperatures follow the unit system. */
export function shownStep(label: string, step: unknown, unit: string, units: "SI" | "IP"): string {
  if (units === "SI" || typeof step !== "number" || label.endsWith("%") || label === "none") return label;
  const s = scale(unit, units);
  return s.unit === unit ? label : `${Number((step * s.factor + s.offset).toFixed(2))} ${s.unit}`;
}

function number(id: string, units: "SI" | "IP"): GridColDef<Case> {
  const f = figuresOf.find((x) => x.id === id) as FigureOf;
  return {
    field: id,
    headerName: `${f.name}, ${figure(1, f.unit, units, 0).unit || f.unit}`,
    width: 70,
    type: "number",
    valueGetter: (_, row) => f.of(row.figures),
    renderCell: ({ value }) => figure(Number(value), f.unit, units, f.digits).text,
  };
}

/** All cases as ticks along a figure; dragging the ends keeps a range. */
function Range({
  f,
  spread,
  kept,
  onKept,
  units,
}: {
  f: FigureOf;
  spread: Schemas["SpreadOut"];
  kept: Kept;
  onKept: (kept: Kept) => void;
  units: "SI" | "IP";
}) {
  const [drag, setDrag] = useState<"low" | "high" | null>(null);
  const [dragged, setDragged] = useState<[number, number] | null>(null);
  const waits = useRef<number | null>(null);
  const [low, high] = [spread.low / f.per, spread.high / f.per];
  const span = high - low || 1;
  const range = dragged ?? kept.ranges[f.id] ?? [low, high];
  const at = (v: number) => ((v - low) / span) * 100;

  /** The range at once under the pointer, and kept a little later: not every step of the pointer is asked for. */
  function keep(next: [number, number], now: boolean) {
    if (waits.current !== null) window.clearTimeout(waits.current);
    const tellIt = () => onKept({ ...kept, ranges: { ...kept.ranges, [f.id]: next } });
    setDragged(now ? null : next);
    waits.current = null;
    if (now) tellIt();
    else waits.current = window.setTimeout(tellIt, 80);
  }
  function move(e: React.PointerEvent<SVGSVGElement>) {
    if (!drag) return;
    const box = e.currentTarget.getBoundingClientRect();
    const v = low + Math.min(Math.max((e.clientX - box.left) / box.width, 0), 1) * span;
    keep(drag === "low" ? [Math.min(v, range[1]), range[1]] : [range[0], Math.max(v, range[0])], false);
  }
  function release() {
    if (drag && dragged) keep(dragged, true);
    setDrag(null);
  }
  function nudge(end: "low" | "high", by: number) {
    const next: [number, number] = [...range];
    next[end === "low" ? 0 : 1] = Math.min(Math.max(next[end === "low" ? 0 : 1] + by * span * 0.02, low), high);
    keep(next, true);
  }
  return (
    <div className="strip">
      <span>{f.name}</span>
      <div className="row">
        <svg
          className="range"
          width="100%"
          height={24}
          preserveAspectRatio="none"
          aria-label={`${f.name} of all cases`}
          onPointerMove={move}
          onPointerUp={release}
          onLostPointerCapture={release}
          style={{ overflow: "visible" }} // half of each end lies beyond the range
        >
          <rect x="0" y={9} width="100%" height={6} fill="#E7E0D0" rx={3} />
          <Ticks spread={spread} />
          <rect
            x={`${at(range[0])}%`}
            y={1}
            width={`${Math.max(at(range[1]) - at(range[0]), 0)}%`}
            height={22}
            fill="none"
            stroke={tone.tide}
            strokeWidth={1.5}
            rx={4}
            pointerEvents="none"
          />
          {(["low", "high"] as const).map((end) => (
            <rect
              key={end}
              x={`${at(range[end === "low" ? 0 : 1])}%`}
              style={{ transform: "translateX(-4px)", cursor: "ew-resize" }}
              y={0}
              width={9}
              height={24}
              fill={tone.tide}
              fillOpacity={drag === end ? 0.5 : 0.12}
              role="slider"
              tabIndex={0}
              aria-label={`${f.name}, ${end === "low" ? "from" : "to"}`}
              aria-valuenow={range[end === "low" ? 0 : 1]}
              onPointerDown={(e) => {
                e.currentTarget.setPointerCapture(e.pointerId);
                setDrag(end);
              }}
              onKeyDown={(e) => {
                if (e.key === "ArrowLeft") nudge(end, -1);
                if (e.key === "ArrowRight") nudge(end, 1);
              }}
            />
          ))}
        </svg>
        <span className="small quiet" style={{ width: 136, flex: "none", textAlign: "right", whiteSpace: "nowrap" }}>
          {figure(range[0], f.unit, units, f.digits).text} to {figure(range[1], f.unit, units, f.digits).text}{" "}
          {figure(1, f.unit, units, 0).unit}
        </span>
      </div>
    </div>
  );
}

/** How cases stand along a figure, those in the running over all. */
const Ticks = memo(function Ticks({ spread }: { spread: Schemas["SpreadOut"] }) {
  const parts = spread.every.length;
  return spread.every.map((count, k) => {
    if (count === 0) return null;
    const x = `${parts > 1 ? (k / (parts - 1)) * 100 : 0}%`;
    const still = spread.running[k];
    return (
      <line
        key={k}
        x1={x}
        x2={x}
        y1={4}
        y2={20}
        stroke={still > 0 ? tone.tide : "#CFC6B4"}
        strokeOpacity={1 - (still > 0 ? 0.5 : 0.65) ** Math.min(still || count, 6)}
      />
    );
  });
});
