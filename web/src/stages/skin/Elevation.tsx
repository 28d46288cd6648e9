import { Button, MenuItem, Select } from "@mui/material";
import { useRef, useState } from "react";
import type { Face } from "../../api/client";
import type { Different, Placed } from "../../app/overrides";
import { tell, useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { freshId, scale } from "../../app/words";
import { useDrag } from "../../scene/drag";
import { Cell } from "./builder/Layers";

const STEP = 0.05;
const LEAST = 0.2;
/** No smaller than this, so that a window of a long wall can be held; the wall scrolls then. */
const PX_PER_M = 18;

/** The size of an upright wall and how it lies: along its foot from its lower left corner, seen from outside. */
function sizeOf(face: Face): { width: number; height: number } {
  const loop = face.loops[0];
  const height = Math.max(...loop.map((p) => p[2])) - Math.min(...loop.map((p) => p[2]));
  let width = 0;
  for (const p of loop) for (const q of loop) width = Math.max(width, Math.hypot(p[0] - q[0], p[1] - q[1]));
  return { width, height };
}

interface Held {
  index: number;
  sizing: boolean;
  from: { x: number; y: number };
  first: Placed;
  now: Placed;
}

/** A wall seen from outside: its windows are dragged, sized by their upper right corner, typed, added and removed one by one. */
export function Elevation({ face, own, put }: { face: Face; own: Different | null; put: (part: Different) => void }) {
  const units = useKept((s) => s.units);
  const to = scale("m", units);
  const svg = useRef<SVGSVGElement>(null);
  const [picked, setPicked] = useState(0);
  const { width, height } = sizeOf(face);
  const byHand = (own?.windows ?? []).length > 0;
  const windows: Placed[] = byHand
    ? (own?.windows ?? [])
    : face.placed.map(([x, z, w, h], k) => ({ id: `w${k + 1}`, x, z, width: w, height: h }));

  const metres = () => width / (svg.current?.getBoundingClientRect().width || 1);
  const kept = (w: Placed, sizing: boolean): Placed => {
    const on = (v: number) => Number((Math.round(v / STEP) * STEP).toFixed(2));
    const between = (v: number, low: number, high: number) => Math.min(Math.max(v, low), Math.max(low, high));
    if (sizing)
      return {
        ...w,
        width: Number(between(on(w.width), LEAST, width - w.x).toFixed(3)),
        height: Number(between(on(w.height), LEAST, height - w.z).toFixed(3)),
      };
    return {
      ...w,
      x: Number(between(on(w.x), 0, width - w.width).toFixed(3)),
      z: Number(between(on(w.z), 0, height - w.height).toFixed(3)),
    };
  };
  const change = (index: number, made: Placed | null) => {
    const next = windows.flatMap((w, k) => (k === index ? (made ? [made] : []) : [w]));
    put({
      windows: next.map((w) => ({
        ...w,
        x: round(w.x),
        z: round(w.z),
        width: round(w.width),
        height: round(w.height),
      })),
    });
  };
  const [drag, hold] = useDrag<Held>({
    follow: (held, e) => {
      const m = metres();
      const [dx, dz] = [(e.clientX - held.from.x) * m, -(e.clientY - held.from.y) * m];
      const f = held.first;
      const moved = held.sizing
        ? { ...f, width: f.width + dx, height: f.height + dz }
        : { ...f, x: f.x + dx, z: f.z + dz };
      return { ...held, now: kept(moved, held.sizing) };
    },
    drop: ({ index, first, now }) => {
      if (JSON.stringify(first) !== JSON.stringify(now)) change(index, now);
    },
  });
  const grab = (index: number, sizing: boolean) => (e: React.PointerEvent) => {
    e.stopPropagation();
    setPicked(index);
    hold({ index, sizing, from: { x: e.clientX, y: e.clientY }, first: windows[index], now: windows[index] });
  };
  const shown = windows.map((w, k) => (drag?.index === k ? drag.now : w));
  const one = shown[picked];
  const drawn = Math.max(300, width * PX_PER_M);
  const px = width / drawn;

  function add() {
    const like = windows[windows.length - 1] ?? { width: 1.2, height: 1.4, z: 0.9, x: 0 };
    const [wide, tall] = [Math.min(like.width, width), Math.min(like.height, height)];
    const clear = (x: number) =>
      x + wide <= width + 1e-6 && windows.every((w) => x + wide <= w.x || x >= w.x + w.width);
    const free = [0.1, 0, ...windows.map((w) => w.x + w.width + 0.1)].find(clear);
    if (free === undefined)
      return tell("There is no room beside the windows of this wall; make one of them smaller first.");
    const made = {
      id: freshId(
        "w",
        windows.map((w) => w.id ?? ""),
      ),
      x: free,
      z: Math.min(like.z, height - tall),
      width: wide,
      height: tall,
    };
    put({ windows: [...windows.map((w) => ({ ...w })), made] });
    setPicked(windows.length);
  }
  const cell = (key: "x" | "z" | "width" | "height", label: string) =>
    one && (
      <div className="field">
        <span className="name">{label}</span>
        <span />
        <Cell
          label={label}
          value={String(Number((one[key] * to.factor).toFixed(2)))}
          onCommit={(t) => {
            const typed = Number(t.replace(",", "."));
            if (t.trim() && Number.isFinite(typed)) change(picked, { ...one, [key]: typed / to.factor });
          }}
        />
        <span className="unit">{to.unit}</span>
      </div>
    );
  return (
    <div data-elevation>
      <div className="small quiet">
        {byHand ? "Windows placed one by one" : "As the pattern; drag one to place them by hand"}, seen from outside
      </div>
      <div style={{ overflowX: "auto" }}>
        <svg
          ref={svg}
          aria-label="Wall seen from outside"
          role="img"
          viewBox={`0 ${-height} ${width} ${height}`}
          style={{
            width: drawn,
            minWidth: "100%",
            display: "block",
            background: "#F4F0E6",
            border: "1px solid #DDD6C6",
            touchAction: "none",
          }}
        >
          {shown.map((w, k) => (
            <g key={w.id ?? k}>
              <rect
                data-window={k}
                x={w.x}
                y={-w.z - w.height}
                width={w.width}
                height={w.height}
                fill={w.kind === "door" ? "#B7A98C" : "#8FBDBF"}
                stroke={k === picked ? tone.ink : "#4E8688"}
                strokeWidth={(k === picked ? 2 : 1) * px}
                style={{ cursor: "move" }}
                onPointerDown={grab(k, false)}
              />
              {k === picked && (
                <circle
                  data-size={k}
                  cx={w.x + w.width}
                  cy={-w.z - w.height}
                  r={5 * px}
                  fill={tone.bright}
                  stroke={tone.ink}
                  strokeWidth={1.5 * px}
                  style={{ cursor: "nesw-resize" }}
                  onPointerDown={grab(k, true)}
                />
              )}
            </g>
          ))}
        </svg>
      </div>
      {one && (
        <>
          {cell("x", "From the left")}
          {cell("z", "Above the foot")}
          {cell("width", "Width")}
          {cell("height", "Height")}
          <div className="field wide">
            <span className="name">Opening</span>
            <span />
            <Select
              fullWidth
              value={one.kind ?? "window"}
              inputProps={{ "aria-label": "Kind of opening" }}
              onChange={(e) => change(picked, { ...one, kind: e.target.value as "window" | "door" })}
            >
              <MenuItem value="window">window</MenuItem>
              <MenuItem value="door">door</MenuItem>
            </Select>
          </div>
        </>
      )}
      <div className="row" style={{ flexWrap: "wrap", gap: 6, margin: "6px 0" }}>
        <Button variant="outlined" onClick={add}>
          Add a window
        </Button>
        {one && windows.length > 1 && (
          <Button variant="outlined" onClick={() => change(picked, null)}>
            Remove it
          </Button>
        )}
        {byHand && (
          <Button variant="outlined" onClick={() => put({ windows: null })}>
            As the pattern again
          </Button>
        )}
      </div>
    </div>
  );
}

const round = (v: number) => Number(v.toFixed(4));
