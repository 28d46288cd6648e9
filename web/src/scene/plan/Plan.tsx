import { useEffect, useMemo, useRef, useState } from "react";
import type { Edit, Face, Geometry, Scheme } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useTry } from "../../api/hooks";
import { useStable } from "../../app/stable";
import { type Selection, selectAll, useViewed } from "../../app/state";
import { tone } from "../../app/tokens";
import { Compass } from "../Compass";
import { useDrag } from "../drag";
import type { Neighbour, SiteTree } from "../site";
import type { Working } from "../storeys";
import { DrawingPanel } from "./DrawingPanel";
import { Drawn } from "./Drawn";
import { clearSpot, formBetween, type Point } from "./drawing";
import { FloorLight } from "./FloorLight";
import { Frame, type FrameBox, framed } from "./Frame";
import { Grid } from "./Grid";
import { Handles } from "./Handles";
import { heldOf, lieOf } from "./held";
import { LightSensors } from "./LightSensors";
import { Patterns } from "./Patterns";
import { SitePlan } from "./SitePlan";
import { Storey, zonesAt } from "./Storey";
import { caughtBy, type Snap, SnapIndex, snap } from "./snap";
import { isOutline, NEAR_PX, useTools } from "./tools";
import { UNTYPED } from "./trace";
import { Underlays, useDrawings, useLaid, useUnderlayIndex } from "./Underlays";
import { usePlanView } from "./view";
import { ZoneNames } from "./ZoneNames";

const SNAP = 0.5;

/** Whether what a tool draws belongs to the scheme, whose axes may be turned in the drawing. */
const lands = (tool: string) => tool === "polygon" || tool === "room";

/** The plan of one storey: zones, surroundings, drawing of new volumes, moving of those that are there. */
export function Plan({
  scheme,
  geometry,
  settled,
  bodies,
  trees,
  north,
  chosen,
  changed,
  working,
  byBoundary,
  colour,
  seen,
  onSelect,
}: {
  scheme: Scheme;
  geometry: Geometry | undefined;
  /** The form as it is kept, while another is tried: what is caught and held goes by it. */
  settled: Geometry | undefined;
  bodies: Neighbour[];
  trees: SiteTree[];
  north: number;
  /** Ids of all that is selected. */
  chosen: string[];
  /** Faces that the last edit changed, for a moment. */
  changed: Face[];
  working: Working;
  byBoundary: boolean;
  /** The colour of a zone where the model is coloured by zones, use or results. */
  colour: (zone: string) => string | null;
  seen: (zone: string) => boolean;
  onSelect: (selection: Selection | null) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const { drawing, selection, floors, sensors, set } = useViewed("drawing", "selection", "floors", "sensors", "set");
  const edit = useEdit();
  const attempt = useTry(scheme.id);
  const [corners, setCorners] = useState<Point[]>([]);
  const [caught, setCaught] = useState<Snap | null>(null);
  const pointer = caught?.point ?? null;
  const [measures, setMeasures] = useState(UNTYPED);
  const lie = lieOf(scheme, settled);
  const shownLevel = working.level;
  const underlays = useLaid(scheme);
  const drawings = useDrawings(underlays);
  const under = useUnderlayIndex(underlays, drawings, shownLevel);
  const { view, setView, px, h, raw, zoom, fit } = usePlanView(svg, scheme, geometry, underlays, drawings);
  const traced = (scheme.underlays ?? []).length > 0;
  const rounded = traced ? 0.01 : SNAP;

  const fitNow = useStable(() => fit(chosen));
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLElement && e.target.matches("input, textarea, select");
      if (e.key === "f" && !e.ctrlKey && !e.metaKey && !typing) fitNow();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [fitNow]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: another tool begins anew
  useEffect(() => setCorners([]), [drawing]);

  const own = useMemo(() => {
    const flat: number[] = [];
    const ring = (points: number[][]) => {
      for (let i = 0; i < points.length; i++) {
        const [p, q] = [points[i], points[(i + 1) % points.length]];
        flat.push(p[0], p[1], q[0], q[1]);
      }
    };
    const pulled = drawing ? [] : chosen; // a thing is not caught by itself
    for (const o of settled?.outlines ?? []) if (!pulled.includes(o.volume)) o.rings.forEach(ring);
    for (const z of settled?.zones ?? []) if (z.given && !pulled.includes(z.id)) z.plan.forEach(ring);
    return new SnapIndex(flat);
  }, [settled, drawing, chosen]);

  /** Where the pointer is in the drawing, caught by what is drawn near it; Alt lets it go free. */
  function catching(e: { clientX: number; clientY: number; altKey?: boolean }): Snap {
    const p = raw(e);
    if (e.altKey) return { point: p, kind: "grid" };
    return snap(p, NEAR_PX * px, [own, under], isOutline(drawing) ? corners : [], rounded, lie.turn);
  }

  const [pan, holdPan] = useDrag<{ x: number; y: number; view: typeof view }>({
    follow: (from, e) => {
      const by = { x: (e.clientX - from.x) * px, y: (e.clientY - from.y) * px };
      setView({ ...from.view, x: from.view.x - by.x, y: from.view.y + by.y });
      return from;
    },
    drop: () => {},
  });
  const [, holdThings] = useDrag<{ ids: string[]; from: Point; by: Point }>({
    follow: (now, e) => {
      const to = raw(e);
      const by = {
        x: Math.round((to.x - now.from.x) / SNAP) * SNAP,
        y: Math.round((to.y - now.from.y) / SNAP) * SNAP,
      };
      if (by.x !== now.by.x || by.y !== now.by.y) attempt(moving(scheme, settled, now.ids, by), true);
      return { ...now, by };
    },
    drop: ({ ids, by }) => {
      if (by.x !== 0 || by.y !== 0) void edit(moving(scheme, settled, ids, by));
    },
    leave: () => set({ tried: null }),
  });
  const [frame, holdFrame] = useDrag<FrameBox>({
    follow: (now, e) => ({ ...now, to: raw(e) }),
    drop: (box) => {
      const inside = zones.filter((z) => framed(box, z.plan[0]));
      const whole = selection?.kind === "volume";
      const ids = whole ? [...new Set(inside.map((z) => z.volume))] : inside.map((z) => z.id);
      selectAll(whole ? "volume" : "zone", ids);
      if (drawing === "frame") set({ drawing: null });
    },
  });

  const ghost = drawing && corners.length === 1 && pointer ? formBetween(drawing, corners[0], pointer) : null;
  // until its height is typed, a room reaches to the next storey
  const measured = measures.typed.includes("height")
    ? measures
    : { ...measures, height: working.storeyAt(shownLevel).height };
  const tools = useTools({
    scheme,
    geometry,
    settled,
    bodies,
    trees,
    working,
    px,
    corners,
    setCorners,
    measures: measured,
  });

  const zones = zonesAt(geometry, shownLevel, seen);
  const held = chosen.length === 1 ? heldOf(scheme, settled, chosen[0]) : null;
  return (
    <>
      <svg
        ref={svg}
        aria-label="Plan"
        style={{
          width: "100%",
          height: "100%",
          display: "block",
          cursor: drawing ? "crosshair" : pan ? "grabbing" : "default",
          touchAction: "none",
          userSelect: "none",
        }}
        viewBox={`${view.x} ${-view.y - h} ${view.w} ${h}`}
        onClick={(e) => {
          if (drawing && drawing !== "frame") tools.click(catching(e).point);
        }}
        onPointerDown={(e) => {
          if (drawing === "frame" || (!drawing && e.shiftKey && e.target === svg.current)) {
            holdFrame({ from: raw(e), to: raw(e) });
          } else if (!drawing && e.target === svg.current) {
            holdPan({ x: e.clientX, y: e.clientY, view });
            onSelect(null);
          }
        }}
        onPointerMove={(e) => drawing && drawing !== "frame" && setCaught(catching(e))}
        onWheel={(e) => zoom(e.deltaY > 0 ? 1.15 : 1 / 1.15, raw(e))}
      >
        <Patterns px={px} />
        <g transform="scale(1,-1)">
          <Grid view={view} h={h} px={px} />
          <Underlays underlays={underlays} drawings={drawings} level={shownLevel} />
          <SitePlan
            bodies={bodies}
            trees={trees}
            chosen={chosen}
            px={px}
            idle={Boolean(drawing)}
            raw={raw}
            onSelect={onSelect}
          />
          <Storey
            scheme={scheme}
            geometry={geometry}
            level={shownLevel}
            chosen={chosen}
            changed={changed}
            byBoundary={byBoundary}
            pale={traced}
            colour={colour}
            seen={seen}
            px={px}
            onSelect={onSelect}
            onHold={(ids, e) => holdThings({ ids: movable(scheme, ids), from: raw(e), by: { x: 0, y: 0 } })}
          />
          {floors?.scheme === scheme.id && !drawing && (
            <FloorLight floors={floors} level={shownLevel} zones={zones} px={px} raw={raw} />
          )}
          {sensors?.scheme === scheme.id && (
            <LightSensors
              scheme={scheme.id}
              sensors={sensors}
              level={shownLevel}
              chosen={chosen}
              px={px}
              idle={Boolean(drawing)}
              raw={raw}
              into={lie.into}
              onSelect={onSelect}
            />
          )}
          {!drawing && held && <Handles scheme={scheme.id} held={held} px={px} snapTo={catching} raw={raw} />}
          {frame && <Frame box={frame} px={px} />}
          {drawing && <Drawn drawing={drawing} corners={corners} pointer={pointer} ghost={ghost?.outline} px={px} />}
        </g>
        {caught && drawing && caughtBy[caught.kind] && (
          <text x={caught.point.x + 9 * px} y={-caught.point.y - 8 * px} fontSize={11 * px} fill={tone.tide}>
            {caughtBy[caught.kind]}
          </text>
        )}
        {floors?.scheme !== scheme.id && <ZoneNames zones={zones} px={px} />}
      </svg>
      {drawing && drawing !== "frame" && (
        <DrawingPanel
          drawing={drawing}
          corners={corners}
          pointer={pointer}
          working={working}
          clear={(length, depth) => clearSpot(length, depth, shownLevel, settled, lie.into)}
          onLevel={(level) => set({ level })}
          onPlace={tools.place}
          onCorner={(p) => setCorners([...corners, p])}
          onFirst={(p) => tools.click(lands(drawing) ? lie.out(p) : p)}
          onClose={tools.close}
          measures={measured}
          onMeasures={setMeasures}
          onStop={() => {
            set({ drawing: null });
            setCorners([]);
          }}
        />
      )}
      <div className="switch view-tools" role="group" aria-label="View">
        <button type="button" title="Show everything, or what is selected (F)" onClick={fitNow}>
          fit
        </button>
        <button type="button" aria-label="Nearer" onClick={() => zoom(0.8)}>
          +
        </button>
        <button type="button" aria-label="Further" onClick={() => zoom(1.25)}>
          −
        </button>
      </div>
      <Compass drawing={0} north={north} />
    </>
  );
}

/** Of the selected ids, those that stand for something that can be moved: volumes and rooms with an outline. */
function movable(scheme: Scheme, ids: string[]): string[] {
  return [...new Set(ids.map((id) => id.split("/")[0]))].filter(
    (id) =>
      (scheme.volumes ?? []).some((v) => v.id === id) || (scheme.zones ?? []).some((z) => z.id === id && z.outline),
  );
}

function moving(scheme: Scheme, geometry: Geometry | undefined, ids: string[], by: Point): Edit {
  const edits = ids.flatMap((id) => heldOf(scheme, geometry, id)?.moving(by) ?? []);
  return lieOf(scheme, geometry).kept(make.together(edits));
}
