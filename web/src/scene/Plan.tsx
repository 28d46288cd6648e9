import { useEffect, useMemo, useRef, useState } from "react";
import type { Edit, Geometry, Scheme, Volume } from "../api/client";
import { useEdit, useTry } from "../api/hooks";
import { type Selection, useKept, useView } from "../app/state";
import { categories } from "../app/theme";
import { both } from "../app/words";
import { Compass } from "./Compass";
import { boundaryColours } from "./colours";
import { DrawingPanel } from "./DrawingPanel";
import { formBetween, fromOutline, newVolume, type Point } from "./drawing";
import { boxLoops, type SiteBox, type SiteTree } from "./site";

const SNAP = 0.5;
const NEAR_PX = 9;

/** The plan of one storey: zones, surroundings, drawing of new volumes, moving of those that are there. */
export function Plan({
  scheme,
  geometry,
  boxes,
  trees,
  ground,
  north,
  selection,
  level,
  byBoundary,
  onSelect,
}: {
  scheme: Scheme;
  geometry: Geometry | undefined;
  boxes: SiteBox[];
  trees: SiteTree[];
  ground: number;
  north: number;
  selection: Selection | null;
  level: number | null;
  byBoundary: boolean;
  onSelect: (selection: Selection | null) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const { drawing, set } = useView();
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const attempt = useTry(scheme.id);
  const [view, setView] = useState({ x: -6, y: -14, w: 80 });
  const [size, setSize] = useState({ w: 850, h: 660 });
  const [corners, setCorners] = useState<Point[]>([]);
  const [pointer, setPointer] = useState<Point | null>(null);
  const [drag, setDrag] = useState<{ id: string; from: Point; by: Point } | null>(null);
  const [pan, setPan] = useState<{ x: number; y: number; view: typeof view } | null>(null);
  const volumes = scheme.volumes ?? [];
  const shownLevel = level ?? lowest(geometry);

  useEffect(() => {
    if (!svg.current) return;
    const watch = new ResizeObserver(([entry]) => setSize({ w: entry.contentRect.width, h: entry.contentRect.height }));
    watch.observe(svg.current);
    return () => watch.disconnect();
  }, []);

  const fitted = useRef("");
  useEffect(() => {
    if (!geometry || fitted.current === scheme.id) return;
    fitted.current = scheme.id;
    const all = [...geometry.outlines.flatMap((o) => o.rings[0]), ...geometry.zones.flatMap((z) => z.plan.flat())];
    if (all.length === 0) return;
    const [x0, x1] = [Math.min(...all.map((p) => p[0])), Math.max(...all.map((p) => p[0]))];
    const [y0, y1] = [Math.min(...all.map((p) => p[1])), Math.max(...all.map((p) => p[1]))];
    const w = Math.max((x1 - x0) * 1.7, ((y1 - y0) * 2 * size.w) / size.h, 30);
    setView({ x: (x0 + x1) / 2 - w / 2, y: (y0 + y1) / 2 - (w * size.h) / size.w / 2, w });
  }, [geometry, scheme.id, size]);

  const px = view.w / size.w;
  const h = view.w * (size.h / size.w);
  const anchors = useMemo(
    () => (geometry?.outlines ?? []).flatMap((o) => o.rings.flat().map(([x, y]) => ({ x, y }))),
    [geometry],
  );

  /** Where the pointer is in the drawing, caught by corners that are near, else by the half-metre grid. */
  function place(e: { clientX: number; clientY: number }, catching = true): Point {
    const box = svg.current?.getBoundingClientRect() ?? { left: 0, top: 0 };
    const raw = { x: view.x + (e.clientX - box.left) * px, y: view.y + h - (e.clientY - box.top) * px };
    if (!catching) return raw;
    const near = anchors.find((a) => Math.hypot(a.x - raw.x, a.y - raw.y) < NEAR_PX * px);
    return near ?? { x: Math.round(raw.x / SNAP) * SNAP, y: Math.round(raw.y / SNAP) * SNAP };
  }

  async function add(volume: Volume) {
    const done = await edit({ op: "put", path: `schemes/${scheme.id}/volumes`, item: volume } as unknown as Edit);
    if (done) {
      set({ drawing: null, selection: { kind: "volume", id: volume.id } });
      setCorners([]);
    }
  }

  const ghost = drawing && corners.length === 1 && pointer ? formBetween(drawing, corners[0], pointer) : null;

  function click(e: React.MouseEvent) {
    if (!drawing) return;
    const p = place(e);
    if (drawing === "polygon") {
      const first = corners[0];
      if (corners.length >= 3 && first && Math.hypot(first.x - p.x, first.y - p.y) < NEAR_PX * px * 1.4)
        return void add(fromOutline(corners, volumes));
      return setCorners([...corners, p]);
    }
    if (corners.length === 0) return setCorners([p]);
    const made = formBetween(drawing, corners[0], p);
    if (made) void add(newVolume(made, volumes));
  }

  const zones = (geometry?.zones ?? []).filter((z) => Math.abs(z.level - shownLevel) < 0.01);
  const below = (geometry?.zones ?? []).filter((z) => z.level < shownLevel - 0.01);
  const walls = (geometry?.faces ?? []).filter((f) => f.kind === "wall" && zones.some((z) => z.id === f.zone));
  const d = (rings: number[][][]) => rings.map((r) => `M${r.map((p) => `${p[0]},${p[1]}`).join("L")}Z`).join("");

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
        }}
        viewBox={`${view.x} ${-view.y - h} ${view.w} ${h}`}
        onClick={click}
        onPointerDown={(e) => {
          if (!drawing && e.target === svg.current) {
            setPan({ x: e.clientX, y: e.clientY, view });
            onSelect(null);
          }
        }}
        onPointerMove={(e) => {
          if (drawing) setPointer(place(e));
          if (pan)
            setView({
              ...pan.view,
              x: pan.view.x - (e.clientX - pan.x) * px,
              y: pan.view.y + (e.clientY - pan.y) * px,
            });
          if (drag) {
            const to = place(e, false);
            const by = {
              x: Math.round((to.x - drag.from.x) / SNAP) * SNAP,
              y: Math.round((to.y - drag.from.y) / SNAP) * SNAP,
            };
            if (by.x !== drag.by.x || by.y !== drag.by.y) {
              setDrag({ ...drag, by });
              attempt(moving(scheme, drag.id, by), true);
            }
          }
        }}
        onPointerUp={() => {
          setPan(null);
          if (drag && (drag.by.x !== 0 || drag.by.y !== 0)) void edit(moving(scheme, drag.id, drag.by));
          setDrag(null);
        }}
        onWheel={(e) => {
          const p = place(e, false);
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
          {boxes.map((b) => (
            <path
              key={b.id}
              d={d([boxLoops(b, ground)[0]])}
              fill={selection?.id === b.id ? "#BFD3CF" : "#E4E0D7"}
              stroke="#A8A192"
              strokeWidth={px}
              onClick={(e) => {
                if (drawing) return;
                e.stopPropagation();
                onSelect({ kind: "box", id: b.id });
              }}
            />
          ))}
          {trees.map((t) => (
            <g key={t.id}>
              <circle
                cx={t.x}
                cy={t.y}
                r={t.crown / 2}
                fill="#C9D1BC"
                fillOpacity={0.6}
                stroke="#8A917E"
                strokeWidth={px}
              />
              <circle cx={t.x} cy={t.y} r={0.25} fill="#8A917E" />
            </g>
          ))}
          {below.map((z) => (
            <path key={z.id} d={d(z.plan)} fill="none" stroke="#C4BCAB" strokeWidth={px} />
          ))}
          {zones.map((z, i) => {
            const on = selection?.id === z.id || (selection?.kind === "volume" && z.volume === selection.id);
            return (
              <path
                key={z.id}
                d={d(z.plan)}
                fill={on ? "#CFE3E0" : byBoundary ? "#FFFEFB" : categories[i % categories.length]}
                fillOpacity={on || byBoundary ? 1 : 0.42}
                stroke="#22303A"
                strokeWidth={(on ? 1.8 : 0.9) * px}
                data-zone={z.id}
                style={{ cursor: drawing ? "crosshair" : "move" }}
                onPointerDown={(e) => {
                  if (drawing) return;
                  e.stopPropagation();
                  onSelect({ kind: volumes.some((v) => v.id === z.volume) ? "volume" : "zone", id: z.volume });
                  setDrag({ id: z.volume, from: place(e, false), by: { x: 0, y: 0 } });
                  svg.current?.setPointerCapture(e.pointerId);
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
          {ghost && (
            <path
              d={d([ghost.outline.map((p) => [p.x, p.y])])}
              fill="#1F6F7822"
              stroke="#1F6F78"
              strokeWidth={1.6 * px}
              strokeDasharray={`${5 * px} ${4 * px}`}
            />
          )}
          {drawing === "polygon" && corners.length > 0 && (
            <>
              <polyline
                points={[...corners, ...(pointer ? [pointer] : [])].map((p) => `${p.x},${p.y}`).join(" ")}
                fill="#1F6F7822"
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
        {zones.map((z) => {
          const [x0, x1] = [Math.min(...z.plan[0].map((p) => p[0])), Math.max(...z.plan[0].map((p) => p[0]))];
          const [y0, y1] = [Math.min(...z.plan[0].map((p) => p[1])), Math.max(...z.plan[0].map((p) => p[1]))];
          const parts = z.name.split(", ");
          const name = parts.length > 2 ? parts[parts.length - 1] : parts[0];
          return (x1 - x0) / px > 84 && (y1 - y0) / px > 16 ? (
            <text
              key={z.id}
              x={(x0 + x1) / 2}
              y={-(y0 + y1) / 2}
              fontSize={11.5 * px}
              textAnchor="middle"
              fill="#22303A"
              pointerEvents="none"
            >
              {name} · {both(z.gross_floor_m2, "m²", units, 0)}
            </text>
          ) : null;
        })}
      </svg>
      {drawing && (
        <DrawingPanel
          drawing={drawing}
          corners={corners}
          pointer={pointer}
          onPlace={(made) => void add(newVolume(made, volumes))}
          onCorner={(p) => setCorners([...corners, p])}
          onClose={() => void add(fromOutline(corners, volumes))}
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

function lowest(geometry: Geometry | undefined): number {
  return Math.min(...(geometry?.zones ?? []).map((z) => z.level), Number.POSITIVE_INFINITY);
}

function moving(scheme: Scheme, id: string, by: Point): Edit {
  const room = (scheme.zones ?? []).find((z) => z.id === id);
  if (room?.outline) {
    const moved = (points: { id: string; x: number; y: number }[]) =>
      points.map((p) => ({ ...p, x: Number((p.x + by.x).toFixed(4)), y: Number((p.y + by.y).toFixed(4)) }));
    const outline = `schemes/${scheme.id}/zones/${id}/outline`;
    return {
      op: "together",
      edits: [
        { op: "set", path: `${outline}/points`, value: moved(room.outline.points) },
        { op: "set", path: `${outline}/courts`, value: (room.outline.courts ?? []).map(moved) },
      ],
    } as unknown as Edit;
  }
  const volume = (scheme.volumes ?? []).find((v) => v.id === id);
  const path = `schemes/${scheme.id}/volumes/${id}`;
  return {
    op: "together",
    edits: [
      { op: "set", path: `${path}/x`, value: (volume?.x ?? 0) + by.x },
      { op: "set", path: `${path}/y`, value: (volume?.y ?? 0) + by.y },
    ],
  } as Edit;
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
