import { MenuItem, Select } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useCallback, useMemo } from "react";
import { daylightOf, useGeometry, useOutcome, useScheme, useShelf } from "../api/hooks";
import { useStable } from "../app/stable";
import { type Colouring, useChosen, useKeptOf, useViewed } from "../app/state";
import { said } from "../app/words";
import { useChanged } from "./changed";
import { asksYear, colourings, paint, tellsZones } from "./colours";
import { FloorScale } from "./FloorScale";
import { LegendCard } from "./LegendCard";
import { Model3D } from "./Model3D";
import { Plan } from "./plan/Plan";
import { StoreyLadder } from "./StoreyLadder";
import { neighboursOf, type SiteBox, type SiteFootprint, type SiteTree } from "./site";
import { useWorkingOf } from "./storeys";

/** The canvas that the stages share: the card model or the plan, the storey ladder, colouring and its legend. */
export function Scene({
  tools,
  empty,
  adds = false,
}: {
  tools?: ReactNode;
  empty?: ReactNode;
  /** Whether things are drawn here, so that a storey above can be begun. */
  adds?: boolean;
}) {
  const { scheme, state } = useScheme();
  const view = useViewed(
    "colouring",
    "drawing",
    "faultAt",
    "level",
    "plan",
    "selection",
    "set",
    "sun",
    "floors",
    "tried",
    "unseen",
  );
  const { units, colours } = useKeptOf("units", "colours");
  const selected = useChosen();
  const kept = useGeometry(scheme.id);
  const result = useOutcome(scheme.id).data;
  const shown = view.tried?.scheme === scheme.id && view.tried.on === state.revision ? view.tried : null;
  const tried = shown && !(shown.stays && !kept.isPlaceholderData) ? shown.geometry : null;
  const geometry = tried ?? kept.data;
  const place = state.completed.place;
  const bodies = useMemo(
    () => neighboursOf((place?.boxes ?? []) as SiteBox[], (place?.footprints ?? []) as SiteFootprint[]),
    [place?.boxes, place?.footprints],
  );
  const trees = useMemo(() => (place?.trees ?? []) as SiteTree[], [place?.trees]);
  const ground = place?.ground_level_m ?? 0;
  const north = place?.north_deg ?? 0;
  const working = useWorkingOf(scheme, kept.data?.zones, view.level, ground);
  // one thing is told by colour at a time: what the sun brings stands before any other, and so does its scale
  const floors = view.floors?.scheme === scheme.id ? view.floors : null;
  const colouring = floors || (view.sun && !view.plan) ? "nothing" : view.colouring;
  const outcome = asksYear(colouring) ? result : undefined; // else a new result changes nothing that is drawn
  const asked = asksYear(colouring) ? scheme : undefined;
  const shelf = useShelf().data;
  const lit = colouring === "daylight";
  const light = useQuery({ ...daylightOf(state.id, scheme.id, state.revision), enabled: lit }).data;
  const daylight = lit ? light : undefined; // a sheet may have asked for it, which changes nothing that is drawn
  const painted = useMemo(
    () =>
      geometry
        ? paint(colouring, geometry, { scheme: asked, outcome, shelf, daylight }, units, colours)
        : { colour: () => null, legend: null },
    [geometry, colouring, asked, outcome, shelf, daylight, units, colours],
  );
  const changed = useChanged(scheme.id, kept.isPlaceholderData ? undefined : kept.data);
  const volumes = scheme.volumes ?? [];
  const unseen = useMemo(() => new Set(view.unseen), [view.unseen]);
  const seen = useCallback((zone: string) => !unseen.has(zone), [unseen]);
  const onFaces = useMemo(() => {
    const faces = view.selection?.kind === "face" ? (geometry?.faces ?? []).filter((f) => selected.includes(f.id)) : [];
    return new Set(faces.map((f) => f.zone));
  }, [geometry, view.selection, selected]);
  const chosen = (geometry?.zones ?? [])
    .filter((z) => onFaces.has(z.id) || selected.includes(z.id) || selected.includes(z.volume))
    .map((z) => z.id);
  const byZone = useMemo(() => {
    const first = new Map<string, string | null>();
    if (tellsZones(view.colouring))
      for (const f of geometry?.faces ?? []) if (!first.has(f.zone)) first.set(f.zone, painted.colour(f));
    return (zone: string) => first.get(zone) ?? null;
  }, [geometry, painted, view.colouring]);
  const onSelect = useStable((selection: typeof view.selection) => view.set({ selection }));
  const shared = {
    seen,
    geometry,
    settled: kept.data,
    bodies,
    trees,
    ground,
    north,
    chosen: selected,
    changed,
    onSelect,
  };
  return (
    <div className="canvas" data-changed={changed.length || undefined}>
      <div className="canvas-tools">
        {tools}
        <span style={{ flex: 1 }} />
        <span className="switch">
          <button
            type="button"
            aria-pressed={view.drawing === "frame"}
            title="Draw a frame around what to select: the faces that are seen, with Alt those behind too (in the plan also Shift with drag)"
            onClick={() => view.set({ drawing: view.drawing === "frame" ? null : "frame" })}
          >
            frame
          </button>
        </span>
        <span className="switch" role="group" aria-label="Canvas">
          <button type="button" aria-pressed={!view.plan} onClick={() => view.set({ plan: false })}>
            3D
          </button>
          <button type="button" aria-pressed={view.plan} onClick={() => view.set({ plan: true })}>
            Plan
          </button>
        </span>
      </div>
      <div className="canvas-asks">
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
        <Select
          value={colouring}
          onChange={(e) =>
            view.set({ colouring: e.target.value as Colouring, sun: null, sunScale: null, floors: null })
          }
          renderValue={(v) => `Colour by: ${colourings.find((q) => q.id === v)?.name}`}
          inputProps={{ "aria-label": "Colour by" }}
        >
          {colourings.map((q) => (
            <MenuItem key={q.id} value={q.id}>
              {q.name}
            </MenuItem>
          ))}
        </Select>
      </div>
      {view.plan ? (
        <Plan
          scheme={scheme}
          working={working}
          byBoundary={view.colouring === "boundary"}
          colour={byZone}
          {...shared}
        />
      ) : (
        <Model3D
          key={scheme.id}
          scheme={scheme}
          level={view.level}
          painted={painted}
          patterned={colouring === "boundary"}
          {...shared}
        />
      )}
      <StoreyLadder
        working={working}
        unseen={unseen}
        adds={adds}
        onLevel={(level) => view.set({ level })}
        onUnseen={(zones) => view.set({ unseen: zones })}
      />
      {floors && <FloorScale floors={floors} />}
      {painted.legend && <LegendCard legend={painted.legend} />}
      {volumes.length + (scheme.zones ?? []).length + (scheme.underlays ?? []).length === 0 && !view.drawing && empty}
      {view.faultAt && (
        <div className="overlay remark fault" role="alert" style={{ left: 14, top: 98, maxWidth: 460 }}>
          {said(view.faultAt.message, units)}
        </div>
      )}
      {kept.isError && !view.faultAt && (volumes.length > 0 || (scheme.zones ?? []).length > 0) && (
        <div className="overlay remark fault" style={{ left: 14, top: 98, maxWidth: 460 }}>
          {said(kept.error.message, units)}
        </div>
      )}
    </div>
  );
}
