import { memo, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { tone } from "../../app/tokens";
import { figure } from "../../app/words";
import type { FigureOf, Kept } from "./figures";

/** All cases as ticks along a figure; dragging the ends keeps a range. */
export function Range({
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
