import { useEdit, useTry } from "../../api/hooks";
import { useView } from "../../app/state";
import { tone } from "../../app/tokens";
import { useDrag } from "../drag";
import type { Point } from "./drawing";
import { type Corner, type Held, middleOf, pull, squared, withCorner } from "./held";
import type { Snap } from "./snap";

interface Pulled {
  kind: "corner" | "side";
  index: number;
  points: Corner[];
}

/** Corners and sides of what is selected: a corner is dragged to a new place, a side moves square to itself, its middle adds a corner; a knob turns the whole. */
export function Handles({
  scheme,
  held,
  px,
  snapTo,
  raw,
}: {
  scheme: string;
  held: Held;
  px: number;
  snapTo: (e: PointerEvent) => Snap;
  raw: (e: PointerEvent) => Point;
}) {
  const edit = useEdit();
  const attempt = useTry(scheme);
  const set = useView((v) => v.set);
  const leave = () => set({ tried: null });
  const [drag, hold] = useDrag<Pulled>({
    follow: (now, e) => {
      const points = pull(held, now.kind, now.index, held.into(snapTo(e).point));
      if (!same(points, now.points)) attempt(held.setting(points), true);
      return { ...now, points };
    },
    drop: (last) => {
      if (!same(last.points, held.points)) void edit(held.setting(last.points));
    },
    leave,
  });
  const middle = held.out(middleOf(held.points));
  const [turned, holdTurn] = useDrag<{ from: number; by: number }>({
    follow: (now, e) => {
      const step = e.altKey ? 0.1 : 5;
      const wanted = held.turn + bearing(middle, raw(e)) - now.from;
      const by = within(Number((Math.round(wanted / step) * step).toFixed(1))) - held.turn;
      if (by !== now.by) attempt(held.turning(held.turn + by), true);
      return { ...now, by };
    },
    drop: ({ by }) => {
      if (by !== 0) void edit(held.turning(held.turn + by));
    },
    leave,
  });
  const points = drag?.points ?? held.points;
  const placed = points.map(held.out).map((p) => turn(middle, p, turned?.by ?? 0));
  const reach = Math.max(...held.points.map(held.out).map((p) => p.y - middle.y));
  const [foot, knob] = [reach, reach + 26 * px].map((up) =>
    turn(middle, { x: middle.x, y: middle.y + up }, turned?.by ?? 0),
  );
  const grab = (kind: Pulled["kind"], index: number) => (e: React.PointerEvent) => {
    e.stopPropagation();
    hold({ kind, index, points: held.points });
  };
  return (
    <g>
      <line
        x1={foot.x}
        y1={foot.y}
        x2={knob.x}
        y2={knob.y}
        stroke={tone.tide}
        strokeWidth={px}
        strokeDasharray={`${2 * px} ${3 * px}`}
        pointerEvents="none"
      />
      <circle
        data-turn
        cx={knob.x}
        cy={knob.y}
        r={6 * px}
        fill={tone.chosen}
        stroke={tone.tide}
        strokeWidth={1.6 * px}
        style={{ cursor: "grab" }}
        onPointerDown={(e) => {
          e.stopPropagation();
          holdTurn({ from: bearing(middle, raw(e.nativeEvent)), by: 0 });
        }}
      >
        <title>Drag to turn by steps of 5°; Alt turns freely</title>
      </circle>
      {turned && (
        <text
          transform="scale(1,-1)"
          x={knob.x + 10 * px}
          y={-knob.y}
          fontSize={12 * px}
          fill={tone.tide}
          pointerEvents="none"
        >
          {within(held.turn + turned.by)}°
        </text>
      )}
      {placed.map((p, i) => {
        const q = placed[(i + 1) % placed.length];
        return (
          <line
            key={`s${points[i].id}`}
            data-side={points[i].id}
            x1={p.x}
            y1={p.y}
            x2={q.x}
            y2={q.y}
            stroke={tone.tide}
            strokeOpacity={0.001}
            strokeWidth={9 * px}
            style={{ cursor: "move" }}
            onPointerDown={grab("side", i)}
            onDoubleClick={(e) => {
              e.stopPropagation();
              if (!held.boxed) void edit(held.setting(withCorner(held.points, i)));
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
          fill={tone.bright}
          stroke={tone.tide}
          strokeWidth={1.6 * px}
          style={{ cursor: "grab" }}
          onPointerDown={(e) => {
            if (held.boxed || !(e.shiftKey || e.altKey)) return grab("corner", i)(e);
            e.stopPropagation();
            if (e.shiftKey) void edit(held.setting(squared(held.points, i)));
            else if (points.length > 3) void edit(held.setting(held.points.filter((_, k) => k !== i)));
          }}
        >
          <title>{held.boxed ? "Drag the corner" : "Drag the corner; Shift squares it, Alt removes it"}</title>
        </circle>
      ))}
    </g>
  );
}

const same = (a: Corner[], b: Corner[]) => JSON.stringify(a) === JSON.stringify(b);

/** Clockwise from the drawing's up, degrees. */
const bearing = (from: Point, to: Point) => (Math.atan2(to.x - from.x, to.y - from.y) * 180) / Math.PI;

/** The same angle between -180 and 180 degrees. */
const within = (angle: number) => Number((((((angle + 180) % 360) + 360) % 360) - 180).toFixed(1));

/** A point turned clockwise about another. */
function turn(about: Point, p: Point, angle: number): Point {
  const [c, s] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
  const [x, y] = [p.x - about.x, p.y - about.y];
  return { x: about.x + c * x + s * y, y: about.y - s * x + c * y };
}
