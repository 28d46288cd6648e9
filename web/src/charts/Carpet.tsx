import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { useKept } from "../app/state";
import { dateOfHour, figure } from "../app/words";

type Series = Schemas["SeriesOut"];
const pale = [240, 236, 226];
const ramp = [
  [246, 235, 194],
  [143, 181, 172],
  [31, 111, 120],
  [34, 48, 58],
];

/**
 * The year as a carpet, days across and hours down. A drag chooses days where these are asked for; else the pointer reads an hour.
 * Loads as brown and blue, anything else on the one ramp.
 */
export function Carpet({
  series,
  day = 0,
  days = 0,
  onPick,
  most = Number.POSITIVE_INFINITY,
  what,
}: {
  series: Series[];
  day?: number;
  days?: number;
  onPick?: (day: number, days: number) => void;
  /** Values from here on look the same. */
  most?: number;
  what: string;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const from = useRef<number | null>(null);
  const [drag, setDrag] = useState<{ day: number; days: number } | null>(null);
  const [read, setRead] = useState<number | null>(null);
  const units = useKept((s) => s.units);
  const first = series[0];
  const low = first ? Math.min(...first.values) : 0;
  const top = Math.max(...series.flatMap((s) => [s.values.reduce((a, b) => Math.max(a, b), -1e9)]), low + 1e-9);
  const high = Math.min(top, most);
  const loads = series.length === 2;

  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen || !first) return;
    const picture = pen.createImageData(365, 24);
    for (let i = 0; i < 8760; i++) {
      const at = ((i % 24) * 365 + Math.floor(i / 24)) * 4;
      const colour = loads
        ? between(
            pale,
            series[0].values[i] > 0 ? [138, 84, 20] : [31, 72, 110],
            Math.sqrt(Math.max(series[0].values[i], series[1].values[i]) / high),
          )
        : onRamp(Math.min((first.values[i] - low) / (high - low), 1));
      for (let c = 0; c < 3; c++) picture.data[at + c] = colour[c];
      picture.data[at + 3] = 255;
    }
    pen.putImageData(picture, 0, 0);
  }, [series, first, loads, low, high]);

  const dayAt = (e: React.PointerEvent<HTMLCanvasElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    return Math.min(Math.max(Math.floor(((e.clientX - box.left) / box.width) * 365), 0), 364);
  };
  const hourAt = (e: React.PointerEvent<HTMLCanvasElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    return Math.min(Math.max(Math.floor(((e.clientY - box.top) / box.height) * 24), 0), 23);
  };
  const spanOf = (a: number, b: number) => ({ day: Math.min(a, b), days: Math.abs(b - a) + 1 });
  const now = drag ?? { day, days };
  const unit = first?.unit === "W" ? "kW" : (first?.unit ?? "");
  const by = first?.unit === "W" ? 0.001 : 1;
  const text = (v: number) => figure(v * by, unit, units, unit === "lx" ? 0 : 1);
  const hour = read === null || !first ? null : { at: read, value: text(first.values[read]) };
  return (
    <div>
      <div className="spread small quiet">
        <span>{what}; midnight at the top</span>
        <span>
          {hour
            ? `${dateOfHour(hour.at)} ${String(hour.at % 24).padStart(2, "0")}:00: ${hour.value.text} ${hour.value.unit}`
            : `${loads ? "0" : text(low).text} to ${text(high).text} ${text(high).unit}${top > high ? " and more" : ""}`}
        </span>
      </div>
      <div style={{ position: "relative" }}>
        <canvas
          ref={canvas}
          width={365}
          height={24}
          tabIndex={0}
          aria-label={
            onPick
              ? `${what}, every hour of the year; ${dateOfHour(day * 24)} and ${days} days are shown below. Arrow keys move them.`
              : `${what}, every hour of the year`
          }
          style={{
            width: "100%",
            height: 92,
            imageRendering: "pixelated",
            cursor: onPick ? "ew-resize" : "crosshair",
            display: "block",
            touchAction: "none",
          }}
          onPointerDown={(e) => {
            if (!onPick) return;
            e.currentTarget.setPointerCapture(e.pointerId);
            from.current = dayAt(e);
          }}
          onPointerMove={(e) => {
            if (from.current !== null) setDrag(spanOf(from.current, dayAt(e)));
            if (!onPick) setRead(dayAt(e) * 24 + hourAt(e));
          }}
          onPointerLeave={() => setRead(null)}
          onPointerUp={(e) => {
            if (from.current === null || !onPick) return;
            const span = spanOf(from.current, dayAt(e));
            from.current = null;
            setDrag(null);
            if (span.days > 1) onPick(span.day, span.days);
            else onPick(Math.min(Math.max(span.day - 3, 0), 358), 7);
          }}
          onKeyDown={(e) => {
            const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -days, PageDown: days }[e.key];
            if (by === undefined || !onPick) return;
            e.preventDefault();
            onPick(Math.min(Math.max(day + by, 0), 365 - days), days);
          }}
        />
        <span
          hidden={!onPick}
          style={{
            position: "absolute",
            top: -1,
            height: 94,
            left: `${(now.day / 365) * 100}%`,
            width: `${(now.days / 365) * 100}%`,
            border: "1.5px solid var(--ink)",
            outline: "1.5px solid #FBF9F5",
            pointerEvents: "none",
          }}
        />
      </div>
    </div>
  );
}

function between(a: number[], b: number[], share: number): number[] {
  return a.map((v, c) => v + (b[c] - v) * share);
}

function onRamp(share: number): number[] {
  const at = Math.min(Math.max(share, 0), 1) * (ramp.length - 1);
  const low = Math.min(Math.floor(at), ramp.length - 2);
  return between(ramp[low], ramp[low + 1], at - low);
}
