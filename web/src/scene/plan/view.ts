import { type RefObject, useEffect, useRef, useState } from "react";
import type { Geometry, Scheme } from "../../api/client";
import type { Point } from "./drawing";
import { type Drawing, type Laid, toPlan } from "./Underlays";

/** What of the drawing is shown: its lower left corner and width, m. */
export interface PlanView {
  x: number;
  y: number;
  w: number;
}

/** The part of the drawing that is shown, fitted once to what there is; with its height and the size of a pixel, m. */
export function usePlanView(
  svg: RefObject<SVGSVGElement | null>,
  scheme: Scheme,
  geometry: Geometry | undefined,
  underlays: Laid[],
  drawings: Map<string, Drawing>,
) {
  const [view, setView] = useState<PlanView>({ x: -6, y: -14, w: 80 });
  const [size, setSize] = useState({ w: 850, h: 660 });

  useEffect(() => {
    if (!svg.current) return;
    const watch = new ResizeObserver(([entry]) => setSize({ w: entry.contentRect.width, h: entry.contentRect.height }));
    watch.observe(svg.current);
    return () => watch.disconnect();
  }, [svg]);

  const fitted = useRef("");
  useEffect(() => {
    if (!geometry) return;
    const traced = underlays.filter((u) => u.path.startsWith("schemes/"));
    const formed = traced.length + geometry.outlines.length + geometry.zones.length > 0;
    const under = (formed ? traced : underlays).filter((u) => drawings.has(u.drawing));
    const now = `${scheme.id} ${under.length}`;
    if (fitted.current === now) return;
    const drawn = endsOf(under, drawings);
    const all = [
      ...drawn,
      ...geometry.outlines.flatMap((o) => o.rings[0]),
      ...geometry.zones.flatMap((z) => z.plan.flat()),
    ];
    if (all.length === 0) return;
    fitted.current = now;
    setView(around(all, size, 30));
  }, [geometry, scheme.id, size, underlays, drawings]);

  const px = view.w / size.w;
  const h = view.w * (size.h / size.w);

  /** Where the pointer is in the drawing, m. */
  function raw(e: { clientX: number; clientY: number }): Point {
    const box = svg.current?.getBoundingClientRect() ?? { left: 0, top: 0 };
    return { x: view.x + (e.clientX - box.left) * px, y: view.y + h - (e.clientY - box.top) * px };
  }
  /** Shows so many times as much, about a point that stays where it is. */
  function zoom(by: number, about: Point = { x: view.x + view.w / 2, y: view.y + h / 2 }) {
    setView({ w: view.w * by, x: about.x - (about.x - view.x) * by, y: about.y - (about.y - view.y) * by });
  }
  /** Shows all that is drawn, or what is chosen of it. */
  function fit(chosen: string[]) {
    const zones = geometry?.zones ?? [];
    const faces = (geometry?.faces ?? []).filter((f) => chosen.includes(f.id)).map((f) => f.zone);
    const own = zones.filter((z) => chosen.includes(z.id) || chosen.includes(z.volume) || faces.includes(z.id));
    const formed = (own.length > 0 ? own : zones).flatMap((z) => z.plan.flat());
    const all = formed.length > 0 ? formed : endsOf(underlays, drawings);
    if (all.length > 0) setView(around(all, size, own.length > 0 ? 8 : 30));
  }
  return { view, setView, px, h, raw, zoom, fit };
}

/** The view that shows some points with room about them, at least so wide, m. */
function around(points: number[][], size: { w: number; h: number }, least: number): PlanView {
  const [x0, x1] = [Math.min(...points.map((p) => p[0])), Math.max(...points.map((p) => p[0]))];
  const [y0, y1] = [Math.min(...points.map((p) => p[1])), Math.max(...points.map((p) => p[1]))];
  const w = Math.max((x1 - x0) * 1.7, ((y1 - y0) * 2 * size.w) / size.h, least);
  return { x: (x0 + x1) / 2 - w / 2, y: (y0 + y1) / 2 - (w * size.h) / size.w / 2, w };
}

/** Two opposite corners of each drawing, in the plan. */
const endsOf = (underlays: Laid[], drawings: Map<string, Drawing>): number[][] =>
  underlays.flatMap((u) => {
    const b = drawings.get(u.drawing)?.bounds;
    return b ? [toPlan(u, b[0], b[1]), toPlan(u, b[2], b[3])].map((p) => [p.x, p.y]) : [];
  });
