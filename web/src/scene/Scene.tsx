import { MenuItem, Select } from "@mui/material";
import { type ReactNode, useCallback, useMemo } from "react";
import { useGeometry, useOutcome, useScheme } from "../api/hooks";
import { type Colouring, useKept, useView } from "../app/state";
import { paint } from "./colours";
import { Model3D } from "./Model3D";
import { Plan } from "./plan/Plan";
import { StoreyLadder } from "./StoreyLadder";
import type { SiteBox, SiteTree } from "./site";

const questions: { id: Colouring; name: string }[] = [
  { id: "nothing", name: "nothing" },
  { id: "boundary", name: "boundary" },
  { id: "zone", name: "zone" },
  { id: "use", name: "use" },
  { id: "construction", name: "construction" },
  { id: "glass", name: "glazing ratio" },
  { id: "heating", name: "heating by zone" },
  { id: "cooling", name: "cooling by zone" },
  { id: "warm", name: "hours too warm" },
];

/** The canvas that the stages share: the card model or the plan, the storey ladder, colouring and its legend. */
export function Scene({ tools, empty }: { tools?: ReactNode; empty?: ReactNode }) {
  const { scheme, state } = useScheme();
  const view = useView();
  const units = useKept((s) => s.units);
  const kept = useGeometry(scheme.id);
  const outcome = useOutcome(scheme.id).data;
  const tried = view.tried?.scheme === scheme.id ? view.tried.geometry : null;
  const geometry = tried ?? kept.data;
  const place = state.completed.place;
  const boxes = (place?.boxes ?? []) as SiteBox[];
  const trees = (place?.trees ?? []) as SiteTree[];
  const ground = place?.ground_level_m ?? 0;
  const north = place?.north_deg ?? 0;
  const painted = useMemo(
    () => (geometry ? paint(view.colouring, geometry, outcome, units) : { colour: () => null, legend: null }),
    [geometry, view.colouring, outcome, units],
  );
  const volumes = scheme.volumes ?? [];
  const unseen = useMemo(() => new Set(view.unseen), [view.unseen]);
  const seen = useCallback((zone: string) => !unseen.has(zone), [unseen]);
  const chosen = (geometry?.zones ?? [])
    .filter((z) => {
      const face = view.selection?.kind === "face" && geometry?.faces.find((f) => f.id === view.selection?.id);
      return face ? face.zone === z.id : z.id === view.selection?.id || z.volume === view.selection?.id;
    })
    .map((z) => z.id);
  const shared = {
    seen,
    geometry,
    boxes,
    trees,
    ground,
    north,
    selection: view.selection,
    level: view.level,
    onSelect: (selection: typeof view.selection) => view.set({ selection }),
  };
  return (
    <div className="canvas">
      <div className="canvas-tools">
        {tools}
        <span style={{ flex: 1 }} />
        {(chosen.length > 0 || unseen.size > 0) && (
          <span className="switch" role="group" aria-label="What is drawn">
            {chosen.length > 0 && (
              <>
                <button type="button" onClick={() => view.set({ unseen: [...unseen, ...chosen], selection: null })}>
                  hide
                </button>
                <button
                  type="button"
                  onClick={() =>
                    view.set({ unseen: (geometry?.zones ?? []).map((z) => z.id).filter((z) => !chosen.includes(z)) })
                  }
                >
                  only this
                </button>
              </>
            )}
            {unseen.size > 0 && (
              <button type="button" onClick={() => view.set({ unseen: [] })}>
                show all
              </button>
            )}
          </span>
        )}
        <span className="switch" role="group" aria-label="Canvas">
          <button type="button" aria-pressed={!view.plan} onClick={() => view.set({ plan: false })}>
            3D
          </button>
          <button type="button" aria-pressed={view.plan} onClick={() => view.set({ plan: true })}>
            Plan
          </button>
        </span>
        <Select
          value={view.colouring}
          onChange={(e) => view.set({ colouring: e.target.value as Colouring })}
          renderValue={(v) => `Colour by: ${questions.find((q) => q.id === v)?.name}`}
          inputProps={{ "aria-label": "Colour by" }}
        >
          {questions.map((q) => (
            <MenuItem key={q.id} value={q.id}>
              {q.name}
            </MenuItem>
          ))}
        </Select>
      </div>
      {view.plan ? (
        <Plan scheme={scheme} byBoundary={view.colouring === "boundary"} {...shared} />
      ) : (
        <Model3D
          key={scheme.id}
          painted={painted}
          patterned={view.colouring === "boundary"}
          photovoltaics={scheme.plant?.photovoltaics ?? {}}
          {...shared}
        />
      )}
      <StoreyLadder zones={kept.data?.zones ?? []} level={view.level} onLevel={(level) => view.set({ level })} />
      {painted.legend && (
        <div className="overlay" style={{ right: 14, top: 56 }}>
          <div className="quiet">{painted.legend.title}</div>
          {painted.legend.entries.map((e) => (
            <div key={e.name} className="row" style={{ gap: 6 }}>
              <svg width={18} height={12} aria-hidden="true">
                <rect width={18} height={12} fill={e.colour} stroke="#8A8A86" strokeWidth={0.7} />
                {e.pattern === "hatch" && <path d="M0 12L12 0M6 12L18 0" stroke="#22303A" />}
                {e.pattern === "dots" && (
                  <path d="M4 4h1M9 4h1M14 4h1M4 8h1M9 8h1M14 8h1" stroke="#1F6F78" strokeWidth={1.6} />
                )}
                {e.pattern === "bars" && <path d="M3 0v12M9 0v12M15 0v12" stroke="#8A7B5C" />}
                {e.pattern === "cross" && <path d="M0 0l18 12M18 0L0 12" stroke="#8A8A86" />}
              </svg>
              {e.name}
            </div>
          ))}
        </div>
      )}
      {volumes.length + (scheme.zones ?? []).length + (scheme.underlays ?? []).length === 0 && !view.drawing && empty}
      {view.faultAt && (
        <div className="overlay remark fault" role="alert" style={{ left: 14, top: 58, maxWidth: 460 }}>
          {view.faultAt.message}
        </div>
      )}
      {kept.isError && !view.faultAt && (volumes.length > 0 || (scheme.zones ?? []).length > 0) && (
        <div className="overlay remark fault" style={{ left: 14, top: 58, maxWidth: 460 }}>
          {kept.error.message}
        </div>
      )}
    </div>
  );
}
