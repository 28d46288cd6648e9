import { useState } from "react";
import type { Edit, Scheme } from "../../api/client";
import { useEdit, useTry } from "../../api/hooks";
import type { Selection } from "../../app/state";
import type { Point } from "./drawing";
import type { Snap } from "./snap";

interface Corner {
  id: string;
  x: number;
  y: number;
}

/** What of the selection has corners that can be dragged: where the list lies, and how its own axes lie in the plan. */
function cornersOf(scheme: Scheme, selection: Selection | null) {
  if (!selection || (scheme.turn_deg ?? 0) !== 0) return null;
  const room = (scheme.zones ?? []).find((z) => z.id === selection.id);
  if (room?.outline)
    return {
      path: `schemes/${scheme.id}/zones/${room.id}/outline/points`,
      points: room.outline.points as Corner[],
      x: 0,
      y: 0,
      turn: 0,
    };
  const volume = (scheme.volumes ?? []).find((v) => v.id === selection.id);
  if (volume && "points" in volume.form)
    return {
      path: `schemes/${scheme.id}/volumes/${volume.id}/form/points`,
      points: volume.form.points as Corner[],
      x: volume.x ?? 0,
      y: volume.y ?? 0,
      turn: volume.turn_deg ?? 0,
    };
  return null;
}

/** Corners and sides of a selected outline: a corner is dragged to a new place, a side moves square to itself, its middle adds a corner. */
export function Handles({
  scheme,
  selection,
  px,
  snapTo,
}: {
  scheme: Scheme;
  selection: Selection | null;
  px: number;
  snapTo: (e: React.PointerEvent) => Snap;
}) {
  const edit = useEdit();
  const attempt = useTry(scheme.id);
  const held = cornersOf(scheme, selection);
  const [drag, setDrag] = useState<{ kind: "corner" | "side"; index: number; points: Corner[] } | null>(null);
  if (!held) return null;
  const turn = (-held.turn * Math.PI) / 180;
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const out = (p: Point): Point => ({ x: held.x + c * p.x - s * p.y, y: held.y + s * p.x + c * p.y });
  const into = (p: Point): Point => {
    const [dx, dy] = [p.x - held.x, p.y - held.y];
    return { x: c * dx + s * dy, y: -s * dx + c * dy };
  };
  const round = (v: number) => Number(v.toFixed(4));
  const points = drag?.points ?? held.points;
  const n = points.length;
  const setting = (value: Corner[]): Edit => ({ op: "set", path: held.path, value }) as unknown as Edit;

  function move(e: React.PointerEvent) {
    if (!drag || !held) return;
    e.stopPropagation();
    const to = into(snapTo(e).point);
    const next = held.points.map((p) => ({ ...p }));
    if (drag.kind === "corner") next[drag.index] = { ...next[drag.index], x: round(to.x), y: round(to.y) };
    else {
      const [i, j] = [drag.index, (drag.index + 1) % n];
      const [a, b] = [held.points[i], held.points[j]];
      const long = Math.hypot(b.x - a.x, b.y - a.y) || 1;
      const normal = { x: -(b.y - a.y) / long, y: (b.x - a.x) / long };
      const by = (to.x - a.x) * normal.x + (to.y - a.y) * normal.y;
      for (const k of [i, j])
        next[k] = {
          ...next[k],
          x: round(held.points[k].x + normal.x * by),
          y: round(held.points[k].y + normal.y * by),
        };
    }
    setDrag({ ...drag, points: next });
    attempt(setting(next), true);
  }
  function drop(e: React.PointerEvent) {
    if (!drag || !held) return;
    e.stopPropagation();
    if (JSON.stringify(drag.points) !== JSON.stringify(held.points)) void edit(setting(drag.points));
    setDrag(null);
  }
  const grab = (kind: "corner" | "side", index: number) => (e: React.PointerEvent) => {
    if (!held) return;
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    setDrag({ kind, index, points: held.points });
  };
  /** Makes the corner a right one, by moving it to where its neighbours meet square. */
  function square(index: number) {
    if (!held) return;
    const [a, p, b] = [held.points[(index + n - 1) % n], held.points[index], held.points[(index + 1) % n]];
    const options = [
      { x: a.x, y: b.y },
      { x: b.x, y: a.y },
    ].sort((q, r) => Math.hypot(q.x - p.x, q.y - p.y) - Math.hypot(r.x - p.x, r.y - p.y));
    void edit(setting(held.points.map((o, k) => (k === index ? { ...o, ...options[0] } : o))));
  }
  function addCorner(index: number) {
    if (!held) return;
    const [a, b] = [held.points[index], held.points[(index + 1) % n]];
    const ids = held.points.map((p) => p.id);
    let k = 1;
    while (ids.includes(`e${k}`)) k++;
    const made = { id: `e${k}`, x: round((a.x + b.x) / 2), y: round((a.y + b.y) / 2) };
    void edit(setting([...held.points.slice(0, index + 1), made, ...held.points.slice(index + 1)]));
  }
  function removeCorner(index: number) {
    if (!held || n <= 3) return;
    void edit(setting(held.points.filter((_, k) => k !== index)));
  }
  const placed = points.map(out);
  return (
    <g onPointerMove={move} onPointerUp={drop}>
      {placed.map((p, i) => {
        const q = placed[(i + 1) % n];
        return (
          <line
            key={`s${points[i].id}`}
            data-side={points[i].id}
            x1={p.x}
            y1={p.y}
            x2={q.x}
            y2={q.y}
            stroke="#1F6F78"
            strokeOpacity={0.001}
            strokeWidth={9 * px}
            style={{ cursor: "move" }}
            onPointerDown={grab("side", i)}
            onDoubleClick={(e) => {
              e.stopPropagation();
              addCorner(i);
            }}
          />
        );
      })}
      {placed.map((p, i) => (
        <circle
          key={points[i].id}
          data-corner={points[i].id}
          cx={p.x}
          cy={p.y}
          r={4.5 * px}
          fill="#FFFEFB"
          stroke="#1F6F78"
          strokeWidth={1.6 * px}
          style={{ cursor: "grab" }}
          onPointerDown={(e) => {
            if (e.shiftKey) {
              e.stopPropagation();
              square(i);
            } else if (e.altKey) {
              e.stopPropagation();
              removeCorner(i);
            } else grab("corner", i)(e);
          }}
        >
          <title>Drag the corner; Shift squares it, Alt removes it</title>
        </circle>
      ))}
    </g>
  );
}
