import { Button } from "@mui/material";
import { useState } from "react";
import { useKept } from "../../app/state";
import { formBetween, type Made, type Point } from "./drawing";
import { PlacePanel } from "./PlacePanel";
import { ScalePanel } from "./ScalePanel";
import type { Measures } from "./trace";

/** Typed lengths while drawing; what is not typed follows the pointer. */
export function DrawingPanel({
  drawing,
  corners,
  pointer,
  onPlace,
  onCorner,
  onClose,
  onStop,
  measures,
  onMeasures,
}: {
  drawing: string;
  corners: Point[];
  pointer: Point | null;
  onPlace: (made: Made) => void;
  onCorner: (p: Point) => void;
  onClose: () => void;
  onStop: () => void;
  measures: Measures;
  onMeasures: (measures: Measures) => void;
}) {
  const units = useKept((s) => s.units);
  const factor = units === "IP" ? 0.3048 : 1;
  const unit = units === "IP" ? "ft" : "m";
  const [typed, setTyped] = useState({ a: "", b: "" });
  const last = corners[corners.length - 1] ?? { x: 0, y: 0 };
  const by = pointer && corners.length ? { x: pointer.x - last.x, y: pointer.y - last.y } : { x: 0, y: 0 };
  const polygon = drawing === "polygon" || drawing === "room" || drawing === "neighbour";
  const opening = drawing === "window" || drawing === "door";
  const typedToo = !opening && drawing !== "cut";
  const live = polygon
    ? [Math.hypot(by.x, by.y), (Math.atan2(by.x, by.y) * 180) / Math.PI]
    : [Math.abs(by.x), Math.abs(by.y)];
  const typedNumber = (text: string) => Number(text.trim().replace(",", "."));
  const number = (text: string, otherwise: number) => (text.trim() === "" ? otherwise : typedNumber(text));
  const wrong = Number.isNaN(typedNumber(typed.a)) || Number.isNaN(typedNumber(typed.b));

  function accept() {
    if (wrong) return;
    const a = number(typed.a, live[0] / factor) * factor;
    if (polygon) {
      const angle = (number(typed.b, live[1]) * Math.PI) / 180;
      if (corners.length === 0) return;
      onCorner({
        x: Number((last.x + Math.sin(angle) * a).toFixed(3)),
        y: Number((last.y + Math.cos(angle) * a).toFixed(3)),
      });
    } else {
      const b = number(typed.b, live[1] / factor) * factor;
      const start = corners[0] ?? { x: 0, y: 0 };
      const made = formBetween(drawing, start, { x: start.x + (by.x < 0 ? -a : a), y: start.y + (by.y < 0 ? -b : b) });
      if (made) onPlace(made);
    }
    setTyped({ a: "", b: "" });
  }

  const box = (key: "a" | "b", label: string, shown: number, suffix: string) => (
    <label className="row" style={{ gap: 4 }}>
      {label}
      <input
        style={{
          width: 62,
          textAlign: "right",
          font: "inherit",
          border: "1px solid var(--line)",
          borderRadius: 5,
          padding: "2px 5px",
        }}
        value={typed[key]}
        placeholder={shown.toFixed(1)}
        aria-invalid={Number.isNaN(typedNumber(typed[key]))}
        inputMode="decimal"
        onChange={(e) => setTyped({ ...typed, [key]: e.target.value })}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") accept();
          if (e.key === "Escape") onStop();
        }}
      />
      {suffix}
    </label>
  );
  if (drawing === "place") return <PlacePanel corners={corners} onStop={onStop} />;
  if (drawing === "scale") return <ScalePanel corners={corners} onStop={onStop} />;
  const measure = (key: "height" | "sill" | "head", label: string) => (
    <label className="row" style={{ gap: 4 }}>
      {label}
      <MeasureInput
        key={`${key}${units}`}
        value={measures[key] / factor}
        onCommit={(value) => onMeasures({ ...measures, [key]: value * factor, typed: [...measures.typed, key] })}
      />
      {unit}
    </label>
  );
  return (
    <div
      className="overlay row drawing-panel"
      style={{ left: 150, bottom: 14, flexWrap: "wrap", maxWidth: "70%" }}
      role="group"
      aria-label="Drawing"
    >
      <span className="quiet">
        {drawing === "cut"
          ? corners.length === 0
            ? "Click where the cut begins"
            : "Click where it ends; it goes all the way through"
          : opening
            ? corners.length === 0
              ? `Click one end of the ${drawing} on a room's wall`
              : "Click its other end"
            : polygon
              ? corners.length === 0
                ? `Click the first corner of the ${drawing === "room" ? "room" : "outline"}`
                : "Click the next corner, or type length and bearing"
              : corners.length === 0
                ? "Click a corner, or type both lengths"
                : "Click the opposite corner, or type"}
      </span>
      {drawing === "room" && measure("height", "Storey height")}
      {drawing === "window" && measure("sill", "Sill")}
      {opening && measure("head", "Head")}
      {typedToo && box("a", "Length", live[0] / factor, unit)}
      {typedToo && box("b", polygon ? "Bearing" : "Depth", polygon ? live[1] : live[1] / factor, polygon ? "°" : unit)}
      {typedToo && (
        <Button variant="outlined" onClick={accept} disabled={wrong || (polygon && corners.length === 0)}>
          {polygon ? "Place corner" : "Place"}
        </Button>
      )}
      {polygon && corners.length >= 3 && (
        <Button variant="outlined" onClick={onClose}>
          Close outline
        </Button>
      )}
      <Button variant="outlined" onClick={onStop}>
        Stop drawing
      </Button>
    </div>
  );
}

function MeasureInput({ value, onCommit }: { value: number; onCommit: (value: number) => void }) {
  const [text, setText] = useState<string | null>(null);
  const shown = String(Number(value.toFixed(2)));
  return (
    <input
      className="text-box"
      style={{ width: 58, textAlign: "right" }}
      value={text ?? shown}
      inputMode="decimal"
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        const typed = Number((text ?? "").replace(",", "."));
        if (Number.isFinite(typed) && typed > 0) onCommit(typed);
        setText(null);
      }}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
      }}
    />
  );
}
