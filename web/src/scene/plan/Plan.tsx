import { useEffect, useMemo, useRef, useState } from "react";
import type { Edit, Geometry, Scheme } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useReshape, useTry } from "../../api/hooks";
import { pick, type Selection, selectAll, tell, useKept, useView } from "../../app/state";
import { categories } from "../../app/theme";
import { both, freshId } from "../../app/words";
import { Compass } from "../Compass";
import { boundaryColours } from "../colours";
import { useDrag } from "../drag";
import type { Neighbour, SiteTree } from "../site";
import { DrawingPanel } from "./DrawingPanel";
import { formBetween, fromOutline, type NewVolume, newVolume, type Point } from "./drawing";
import { Frame, type FrameBox, framed } from "./Frame";
import { Handles } from "./Handles";
import { heldOf, lieOf } from "./held";
import { roomiest } from "./roomiest";
import { SitePlan } from "./SitePlan";
import { caughtBy, type Snap, SnapIndex, snap } from "./snap";
import { nearestSide, openingEdit, roomEdits, storeyNumber, UNTYPED } from "./trace";
import { toPlan, Underlays, useDrawings, useLaid, useUnderlayIndex } from "./Underlays";

const SNAP = 0.5;
const NEAR_PX = 9;
const REACH_M = 0.7;

/** The plan of one storey: zones, surroundings, drawing of new volumes, moving of those that are there. */
export function Plan({
  scheme,
  geometry,
  settled,
  bodies,
  trees,
  ground,
  north,
  chosen,
  level,
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
  ground: number;
  north: number;
  /** Ids of all that is selected. */
  chosen: string[];
  level: number | null;
  byBoundary: boolean;
  /** The colour of a zone where the model is coloured by zones, use or results. */
  colour: (zone: string) => string | null;
  seen: (zone: string) => boolean;
  onSelect: (selection: Selection | null) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const { drawing, selection, set } = useView();
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const attempt = useTry(scheme.id);
  const reshape = useReshape();
  const [view, setView] = useState({ x: -6, y: -14, w: 80 });
  const [size, setSize] = useState({ w: 850, h: 660 });
  const [corners, setCorners] = useState<Point[]>([]);
  const [caught, setCaught] = useState<Snap | null>(null);
  const pointer = caught?.point ?? null;
  const [measures, setMeasures] = useState(UNTYPED);
  const volumes = scheme.volumes ?? [];
  const lie = lieOf(scheme, settled);
  const low = lowest(geometry);
  const shownLevel = level ?? (Number.isFinite(low) ? low : ground);
  const underlays = useLaid(scheme);
  const drawings = useDrawings(underlays);
  const under = useUnderlayIndex(underlays, drawings, shownLevel);
  const outline = drawing === "polygon" || drawing === "room" || drawing === "neighbour";
  const opening = drawing === "window" || drawing === "door";
  const traced = (scheme.underlays ?? []).length > 0;
  const rounded = traced ? 0.01 : SNAP;

  useEffect(() => {
    if (!svg.current) return;
    const watch = new ResizeObserver(([entry]) => setSize({ w: entry.contentRect.width, h: entry.contentRect.height }));
    watch.observe(svg.current);
    return () => watch.disconnect();
  }, []);

  // biome-ignore lint/correctness/useExhaustiveDependencies: another tool begins anew
  useEffect(() => setCorners([]), [drawing]);

  const fitted = useRef("");
  useEffect(() => {
    if (!geometry) return;
    const traced = underlays.filter((u) => u.path.startsWith("schemes/"));
    const formed = traced.length + geometry.outlines.length + geometry.zones.length > 0;
    const under = (formed ? traced : underlays).filter((u) => drawings.has(u.drawing));
    const now = `${scheme.id} ${under.length}`;
    if (fitted.current === now) return;
    const drawn = under.flatMap((u) => {
      const b = drawings.get(u.drawing)?.bounds;
      return b ? [toPlan(u, b[0], b[1]), toPlan(u, b[2], b[3])].map((p) => [p.x, p.y]) : [];
    });
    const all = [
      ...drawn,
      ...geometry.outlines.flatMap((o) => o.rings[0]),
      ...geometry.zones.flatMap((z) => z.plan.flat()),
    ];
    if (all.length === 0) return;
    fitted.current = now;
    const [x0, x1] = [Math.min(...all.map((p) => p[0])), Math.max(...all.map((p) => p[0]))];
    const [y0, y1] = [Math.min(...all.map((p) => p[1])), Math.max(...all.map((p) => p[1]))];
    const w = Math.max((x1 - x0) * 1.7, ((y1 - y0) * 2 * size.w) / size.h, 30);
    setView({ x: (x0 + x1) / 2 - w / 2, y: (y0 + y1) / 2 - (w * size.h) / size.w / 2, w });
  }, [geometry, scheme.id, size, underlays, drawings]);

  const px = view.w / size.w;
  const h = view.w * (size.h / size.w);
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

  /** Where the pointer is in the drawing, m. */
  function raw(e: { clientX: number; clientY: number }): Point {
    const box = svg.current?.getBoundingClientRect() ?? { left: 0, top: 0 };
    return { x: view.x + (e.clientX - box.left) * px, y: view.y + h - (e.clientY - box.top) * px };
  }
  /** The same, caught by what is drawn near it; Alt lets it go free. */
  function catching(e: { clientX: number; clientY: number; altKey?: boolean }): Snap {
    const p = raw(e);
    if (e.altKey) return { point: p, kind: "grid" };
    return snap(p, NEAR_PX * px, [own, under], outline ? corners : [], rounded, lie.turn);
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

  async function add(volume: NewVolume) {
    const put = make.put(`schemes/${scheme.id}/volumes`, volume);
    const done = await edit(lie.kept(put));
    if (done) {
      set({ drawing: null, selection: { kind: "volume", id: volume.id } });
      setCorners([]);
    }
  }

  const ghost = drawing && corners.length === 1 && pointer ? formBetween(drawing, corners[0], pointer) : null;

  const levels = (geometry?.zones ?? []).map((z) => z.level);

  /** Adds the room whose corners were traced; the tool stays for the next one. */
  async function addRoom() {
    const storey = storeyNumber(levels, shownLevel, ground);
    const made = roomEdits(scheme, [{ points: corners.map(lie.into) }], shownLevel, storey, measures, false);
    if (await edit(lie.kept(made.edit))) {
      setCorners([]);
      set({ selection: { kind: "zone", id: made.ids[0] } });
    }
  }

  /** Adds the neighbour whose outline was drawn. */
  async function addNeighbour() {
    const taken = bodies.map((b) => b.id);
    const id = freshId("neighbour", taken);
    const points = corners.map((c) => ({ x: Number(c.x.toFixed(3)), y: Number(c.y.toFixed(3)) }));
    const item = { id, name: `Neighbour ${bodies.length + 1}`, points, height: 9, assumed: ["height"] };
    if (await edit(make.put("place/footprints", item))) {
      setCorners([]);
      set({ drawing: null, selection: { kind: "footprint", id } });
    }
  }

  /** Plants a tree like the last one; the tool stays for the next. */
  async function plant(p: Point) {
    const taken = trees.map((t) => t.id);
    const id = freshId("tree", taken);
    const like = trees[trees.length - 1];
    const { height, crown, form } = like ?? { height: 9, crown: 6, form: undefined };
    const item = {
      id,
      name: `Tree ${trees.length + 1}`,
      x: Number(p.x.toFixed(2)),
      y: Number(p.y.toFixed(2)),
      height,
      crown,
      assumed: ["height", "crown"],
      ...(form ? { form } : {}),
    };
    if (await edit(make.put("place/trees", item))) set({ selection: { kind: "tree", id } });
  }

  function close() {
    if (drawing === "room") void addRoom();
    else if (drawing === "neighbour") void addNeighbour();
    else void add(fromOutline(corners.map(lie.into), volumes));
  }

  function click(e: React.MouseEvent) {
    if (!drawing || drawing === "frame") return;
    const p = catching(e).point;
    if (drawing === "tree") return void plant(p);
    if (outline) {
      const first = corners[0];
      if (corners.length >= 3 && first && Math.hypot(first.x - p.x, first.y - p.y) < NEAR_PX * px * 1.4) return close();
      return setCorners([...corners, p]);
    }
    if (opening) {
      if (corners.length === 0) return setCorners([p]);
      const middle = { x: (corners[0].x + p.x) / 2, y: (corners[0].y + p.y) / 2 };
      const side = nearestSide(geometry, shownLevel, middle, Math.max(NEAR_PX * px * 2, REACH_M));
      const made = side && openingEdit(scheme, side, corners[0], p, drawing as "window" | "door", measures);
      setCorners([]);
      const room = side && (scheme.zones ?? []).find((z) => z.id === side.zone);
      const first = room?.by_ratio && !(room.faces ?? []).find((f) => f.side === side?.side)?.windows?.length;
      if (made)
        void edit(made).then((ok) => {
          if (!ok) return;
          set({ selection: { kind: "zone", id: side.zone } });
          if (first) tell("This side has what is drawn on it now; the room's other sides keep their glazing ratio.");
        });
      else tell("No room's wall is near; click both ends of the opening on one.", true);
      return;
    }
    if (drawing === "cut") {
      if (corners.length === 0) return setCorners([p]);
      const [a, b] = [corners[0], p].map(lie.into);
      setCorners([]);
      set({ drawing: null });
      if (selection) void reshape({ op: "cut", volume: selection.id, a: [a.x, a.y], b: [b.x, b.y] });
      return;
    }
    if (drawing === "scale" || drawing === "place") {
      if (corners.length < (drawing === "scale" ? 2 : 4)) setCorners([...corners, p]);
      return;
    }
    if (corners.length === 0) return setCorners([p]);
    const made = formBetween(drawing, corners[0], p);
    if (made) void add({ ...newVolume({ ...made, ...lie.into(made) }, volumes), turn_deg: -lie.turn });
  }

  const zones = (geometry?.zones ?? []).filter((z) => Math.abs(z.level - shownLevel) < 0.01 && seen(z.id));
  const below = (geometry?.zones ?? []).filter((z) => z.level < shownLevel - 0.01);
  const walls = (geometry?.faces ?? []).filter((f) => f.kind === "wall" && zones.some((z) => z.id === f.zone));
  const panes = (geometry?.faces ?? [])
    .filter((f) => f.kind === "wall" && zones.some((z) => z.id === f.zone))
    .flatMap((f) => f.windows);
  const d = (rings: number[][][]) => rings.map((r) => `M${r.map((p) => `${p[0]},${p[1]}`).join("L")}Z`).join("");

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
        onClick={click}
        onPointerDown={(e) => {
          if (drawing === "frame" || (!drawing && e.shiftKey && e.target === svg.current)) {
            holdFrame({ from: raw(e), to: raw(e) });
          } else if (!drawing && e.target === svg.current) {
            holdPan({ x: e.clientX, y: e.clientY, view });
            onSelect(null);
          }
        }}
        onPointerMove={(e) => drawing && drawing !== "frame" && setCaught(catching(e))}
        onWheel={(e) => {
          const p = raw(e);
          const by = e.deltaY > 0 ? 1.15 : 1 / 1.15;
          setView({ w: view.w * by, x: p.x - (p.x - view.x) * by, y: p.y - (p.y - view.y) * by });
        }}
      >
        <defs>
          <pattern
            id="hatch"
            width={8 * px}
            height={8 * px}
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <line x1={0} y1={0} x2={0} y2={8 * px} stroke="#22303A" strokeWidth={1.2 * px} />
          </pattern>
          <pattern id="dots" width={7 * px} height={7 * px} patternUnits="userSpaceOnUse">
            <circle cx={2 * px} cy={2 * px} r={1.3 * px} fill="#1F6F78" />
          </pattern>
          <pattern id="bars" width={6 * px} height={6 * px} patternUnits="userSpaceOnUse">
            <path d={`M${3 * px} 0v${6 * px}`} stroke="#8A7B5C" strokeWidth={px} />
          </pattern>
          <pattern id="cross" width={8 * px} height={8 * px} patternUnits="userSpaceOnUse">
            <path d={`M0 0L${8 * px} ${8 * px}M${8 * px} 0L0 ${8 * px}`} stroke="#8A8A86" strokeWidth={0.9 * px} />
          </pattern>
        </defs>
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
          {below.map((z) => (
            <path key={z.id} d={d(z.plan)} fill="none" stroke="#C4BCAB" strokeWidth={px} />
          ))}
          {zones.map((z, i) => {
            const on = chosen.includes(z.id) || (selection?.kind === "volume" && chosen.includes(z.volume));
            return (
              <path
                key={z.id}
                d={d(z.plan)}
                fill={on ? "#CFE3E0" : byBoundary ? "#FFFEFB" : (colour(z.id) ?? categories[i % categories.length])}
                fillOpacity={traced ? 0.35 : on || byBoundary || colour(z.id) ? 1 : 0.42}
                stroke="#22303A"
                strokeWidth={(on ? 1.8 : 0.9) * px}
                data-zone={z.id}
                style={{ cursor: drawing ? "crosshair" : "move" }}
                onPointerDown={(e) => {
                  if (drawing) return;
                  e.stopPropagation();
                  // a click selects the volume; among zones that are selected already, the zone
                  const whole = selection?.kind !== "zone" && volumes.some((v) => v.id === z.volume);
                  const thing: Selection = whole ? { kind: "volume", id: z.volume } : { kind: "zone", id: z.id };
                  if (e.shiftKey) return pick(thing, true);
                  if (!chosen.includes(thing.id)) {
                    const first = volumes.some((v) => v.id === z.volume);
                    onSelect(first ? { kind: "volume", id: z.volume } : { kind: "zone", id: z.id });
                  }
                  const ids = chosen.includes(thing.id) ? chosen : [z.volume];
                  holdThings({ ids: movable(scheme, ids), from: raw(e), by: { x: 0, y: 0 } });
                }}
                onDoubleClick={() => onSelect({ kind: "zone", id: z.id })}
              />
            );
          })}
          {byBoundary &&
            walls.map((f) => {
              const [a, b] = f.loops[0];
              const pattern = { ground: "hatch", zone: "dots", adiabatic: "cross", fixed: "bars", outdoors: "" }[
                f.boundary
              ];
              return (
                <g key={f.id} data-boundary={f.boundary}>
                  <line
                    x1={a[0]}
                    y1={a[1]}
                    x2={b[0]}
                    y2={b[1]}
                    stroke={boundaryColours[f.boundary]}
                    strokeWidth={7 * px}
                  />
                  {pattern && (
                    <line x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} stroke={`url(#${pattern})`} strokeWidth={7 * px} />
                  )}
                  <line
                    x1={a[0]}
                    y1={a[1]}
                    x2={b[0]}
                    y2={b[1]}
                    stroke="#22303A"
                    strokeWidth={(f.boundary === "outdoors" ? 2 : 0.7) * px}
                  />
                </g>
              );
            })}
          {panes.map((w, i) => (
            <line
              key={i}
              x1={w[0][0]}
              y1={w[0][1]}
              x2={w[1][0]}
              y2={w[1][1]}
              stroke="#FFFEFB"
              strokeWidth={3.4 * px}
              pointerEvents="none"
            />
          ))}
          {panes.map((w, i) => (
            <line
              key={i}
              data-pane
              x1={w[0][0]}
              y1={w[0][1]}
              x2={w[1][0]}
              y2={w[1][1]}
              stroke="#1F6F78"
              strokeWidth={1.6 * px}
              pointerEvents="none"
            />
          ))}
          {!drawing && held && <Handles scheme={scheme.id} held={held} px={px} snapTo={catching} raw={raw} />}
          {frame && <Frame box={frame} px={px} />}
          {ghost && (
            <path
              d={d([ghost.outline.map((p) => [p.x, p.y])])}
              fill="#1F6F7822"
              stroke="#1F6F78"
              strokeWidth={1.6 * px}
              strokeDasharray={`${5 * px} ${4 * px}`}
            />
          )}
          {drawing === "place" && <Ways corners={corners} pointer={pointer} px={px} />}
          {(outline || opening || drawing === "scale" || drawing === "cut") && corners.length > 0 && (
            <>
              <polyline
                points={[...corners, ...(pointer && !(drawing === "scale" && corners.length === 2) ? [pointer] : [])]
                  .map((p) => `${p.x},${p.y}`)
                  .join(" ")}
                fill={outline ? "#1F6F7822" : "none"}
                stroke="#1F6F78"
                strokeWidth={1.6 * px}
              />
              {corners.map((p, i) => (
                <circle
                  key={i}
                  cx={p.x}
                  cy={p.y}
                  r={4 * px}
                  fill={i === 0 ? "#1F6F78" : "#FFFEFB"}
                  stroke="#1F6F78"
                  strokeWidth={1.4 * px}
                />
              ))}
            </>
          )}
          {pointer && drawing && <circle cx={pointer.x} cy={pointer.y} r={3 * px} fill="#1F6F78" />}
        </g>
        {caught && drawing && caughtBy[caught.kind] && (
          <text x={caught.point.x + 9 * px} y={-caught.point.y - 8 * px} fontSize={11 * px} fill="#1F6F78">
            {caughtBy[caught.kind]}
          </text>
        )}
        {zones.map((z) => {
          const spot = roomiest(z.plan);
          if (!spot) return null;
          const parts = z.name.split(", ");
          const name = parts.length > 2 ? parts[parts.length - 1] : parts[0];
          const area = both(z.gross_floor_m2, "m²", units, 0);
          const room = spot.wide / px / 6.4;
          const lines =
            name.length + area.length + 3 < room
              ? [`${name} · ${area}`]
              : name.length < room
                ? [name, area]
                : [name.split(" ")[0]];
          return Math.max(...lines.map((l) => l.length)) < room && spot.high / px > 16 * lines.length ? (
            <text
              key={z.id}
              x={spot.x}
              y={-spot.y - (lines.length - 1) * 7 * px}
              fontSize={11.5 * px}
              textAnchor="middle"
              fill="#22303A"
              pointerEvents="none"
            >
              {lines.map((l, i) => (
                <tspan key={l} x={spot.x} dy={i === 0 ? 0 : 15 * px}>
                  {l}
                </tspan>
              ))}
            </text>
          ) : null;
        })}
      </svg>
      {drawing && drawing !== "frame" && (
        <DrawingPanel
          drawing={drawing}
          corners={corners}
          pointer={pointer}
          onPlace={(made) => void add(newVolume(made, volumes))}
          onCorner={(p) => setCorners([...corners, p])}
          onClose={close}
          measures={measures}
          onMeasures={setMeasures}
          onStop={() => {
            set({ drawing: null });
            setCorners([]);
          }}
        />
      )}
      <div
        className="switch"
        style={{ position: "absolute", right: 14, bottom: 14, zIndex: 3 }}
        role="group"
        aria-label="View"
      >
        <button
          type="button"
          aria-label="Nearer"
          onClick={() => setView({ ...view, x: view.x + view.w * 0.1, y: view.y + h * 0.1, w: view.w * 0.8 })}
        >
          +
        </button>
        <button
          type="button"
          aria-label="Further"
          onClick={() => setView({ ...view, x: view.x - view.w * 0.125, y: view.y - h * 0.125, w: view.w * 1.25 })}
        >
          −
        </button>
      </div>
      <Compass drawing={0} north={north} />
    </>
  );
}

/** From where to where the points of a plan go: pairs of corners, the last one to the pointer. */
function Ways({ corners, pointer, px }: { corners: Point[]; pointer: Point | null; px: number }) {
  const ends = pointer && corners.length < 4 ? [...corners, pointer] : corners;
  const pairs = [0, 2].flatMap((i) => (ends[i] && ends[i + 1] ? [[ends[i], ends[i + 1]]] : []));
  return (
    <g pointerEvents="none" stroke="#1F6F78" strokeWidth={1.6 * px}>
      {pairs.map(([p, q], i) => (
        <line key={i} x1={p.x} y1={p.y} x2={q.x} y2={q.y} strokeDasharray={`${5 * px} ${4 * px}`} />
      ))}
      {corners.map((p, i) => (
        <circle key={i} cx={p.x} cy={p.y} r={4 * px} fill={i % 2 === 0 ? "#FFFEFB" : "#1F6F78"} />
      ))}
    </g>
  );
}

function lowest(geometry: Geometry | undefined): number {
  return Math.min(...(geometry?.zones ?? []).map((z) => z.level), Number.POSITIVE_INFINITY);
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

function Grid({ view, h, px }: { view: { x: number; y: number; w: number }; h: number; px: number }) {
  const step = view.w > 240 ? 50 : view.w > 60 ? 10 : 5;
  const lines: string[] = [];
  for (let x = Math.ceil(view.x / step) * step; x < view.x + view.w; x += step)
    lines.push(`M${x} ${view.y}V${view.y + h}`);
  for (let y = Math.ceil(view.y / step) * step; y < view.y + h; y += step)
    lines.push(`M${view.x} ${y}H${view.x + view.w}`);
  return <path d={lines.join("")} stroke="#E6DFD0" strokeWidth={px} fill="none" pointerEvents="none" />;
}
