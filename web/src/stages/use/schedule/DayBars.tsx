import { useEffect, useRef, useState } from "react";
import { tone } from "../../../app/tokens";
import { keepOnEnter } from "../../../fields/enter";
import type { Kind } from "./kinds";

const tall = 150;
const hours = Array.from({ length: 24 }, (_, h) => h);

/** A day as 24 bars: drawn by dragging over them, with the arrow keys, or by typing below them. */
export function DayBars({
  values,
  kind,
  colour,
  name,
  onDraw,
  onKeep,
}: {
  values: readonly number[];
  kind: Kind;
  colour: string;
  name: string;
  /** While it is drawn. */
  onDraw: (values: number[]) => void;
  /** When it is drawn. */
  onKeep: (values: number[]) => unknown;
}) {
  const [drawn, setDrawn] = useState<number[] | null>(null);
  const shown = drawn ?? [...values];
  const box = useRef<SVGSVGElement>(null);
  const last = useRef<{ hour: number; value: number } | null>(null);
  const pending = useRef<ReturnType<typeof setTimeout>>(undefined);
  const stood = values.join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: what stands now is shown as soon as it differs
  useEffect(() => setDrawn(null), [stood, name]);
  useEffect(() => () => clearTimeout(pending.current), []);

  const [low, high] = kind.reach(values);
  const { step, say, read } = kind;
  const top = (v: number) => tall - (Math.min(Math.max(v - low, 0), high - low) / (high - low)) * tall;

  function under(e: React.PointerEvent): { hour: number; value: number } {
    const frame = box.current?.getBoundingClientRect();
    if (!frame) return { hour: 0, value: low };
    const hour = Math.min(23, Math.max(0, Math.floor(((e.clientX - frame.left) / frame.width) * 24)));
    const share = 1 - (e.clientY - frame.top - 4) / (frame.height - 8);
    const value = Math.round((low + Math.min(1, Math.max(0, share)) * (high - low)) / step) * step;
    return { hour, value: Number(value.toFixed(2)) };
  }
  /** Every hour between the last and this one takes the value, so that a fast stroke leaves no gaps. */
  function paint(e: React.PointerEvent) {
    const here = under(e);
    const from = last.current?.hour ?? here.hour;
    const next = [...shown];
    for (let h = Math.min(from, here.hour); h <= Math.max(from, here.hour); h++) next[h] = here.value;
    last.current = here;
    setDrawn(next);
    onDraw(next);
  }
  function nudge(hour: number, by: number) {
    const next = [...shown];
    next[hour] = Number(Math.min(Math.max(next[hour] + by, kind.low), kind.high).toFixed(2));
    setDrawn(next);
    onDraw(next);
    clearTimeout(pending.current);
    pending.current = setTimeout(() => onKeep(next), 500);
  }
  return (
    <div className="day-bars">
      <svg
        ref={box}
        viewBox={`0 -4 720 ${tall + 8}`}
        preserveAspectRatio="none"
        role="group"
        aria-label={`${name}, hour by hour`}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          last.current = null;
          paint(e);
        }}
        onPointerMove={(e) => e.buttons === 1 && last.current && paint(e)}
        onPointerUp={() => {
          if (last.current && drawn) void onKeep(drawn);
          last.current = null;
        }}
        onPointerCancel={() => {
          last.current = null;
          setDrawn(null);
        }}
      >
        {[0.25, 0.5, 0.75].map((s) => (
          <line key={s} x1={0} x2={720} y1={tall * s} y2={tall * s} stroke={tone.line} />
        ))}
        <line x1={0} x2={720} y1={tall} y2={tall} stroke={tone.ink} />
        {hours.map((h) => (
          <rect
            key={h}
            data-hour={h}
            x={h * 30 + 1.5}
            width={27}
            y={Math.min(top(shown[h]), tall - 1.5)}
            height={Math.max(tall - top(shown[h]), 1.5)}
            fill={colour}
            stroke={tone.ink}
            strokeOpacity={0.35}
            vectorEffect="non-scaling-stroke"
            tabIndex={0}
            role="slider"
            aria-label={`${name}, ${h}:00`}
            aria-valuenow={Number(say(shown[h]))}
            aria-valuetext={`${say(shown[h])} ${kind.unit}`}
            onKeyDown={(e) => {
              const by = { ArrowUp: step, ArrowDown: -step, PageUp: 4 * step, PageDown: -4 * step }[e.key];
              if (by !== undefined) {
                e.preventDefault();
                nudge(h, by);
              }
              const other = { ArrowLeft: h - 1, ArrowRight: h + 1 }[e.key];
              if (other !== undefined)
                box.current?.querySelector<SVGElement>(`[data-hour="${(other + 24) % 24}"]`)?.focus();
            }}
          />
        ))}
      </svg>
      <div className="day-hours" aria-hidden="true">
        {hours.map((h) => (
          <span key={h}>{h}</span>
        ))}
      </div>
      <div className="day-values">
        {hours.map((h) => (
          <Typed
            key={h}
            label={`${name}, ${h}:00, value`}
            value={say(shown[h])}
            onCommit={(text) => {
              const value = read(text);
              if (value === null) return;
              const next = [...shown];
              next[h] = value;
              setDrawn(next);
              void onKeep(next);
            }}
          />
        ))}
      </div>
      <div className="spread small quiet">
        <span>{kind.unit}</span>
        <span>drag over the bars, use the arrow keys, or type</span>
      </div>
    </div>
  );
}

function Typed({ label, value, onCommit }: { label: string; value: string; onCommit: (text: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <input
      aria-label={label}
      inputMode="decimal"
      value={text ?? value}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        if (text !== null && text !== value) onCommit(text);
        setText(null);
      }}
      onKeyDown={(e) => {
        keepOnEnter(e);
        if (e.key === "Escape") setText(null);
      }}
    />
  );
}
