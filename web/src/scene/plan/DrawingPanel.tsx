import { Button } from "@mui/material";
import { useState } from "react";
import { useKept } from "../../app/state";
import { scale } from "../../app/words";
import { keepOnEnter } from "../../fields/enter";
import type { Working } from "../storeys";
import { formBetween, type Made, type Point } from "./drawing";
import { PlacePanel } from "./PlacePanel";
import { ScalePanel } from "./ScalePanel";
import { isOutline } from "./tools";
import type { Measures } from "./trace";

/** What the bar asks for next, by the tool and how many corners there are. */
function asks(drawing: string, corners: number): string {
  if (drawing === "cut")
    return corners ? "Click where it ends; it goes all the way through" : "Click where the cut begins";
  if (drawing === "window" || drawing === "door")
    return corners ? "Click its other end" : `Click one end of the ${drawing} on a room's wall`;
  if (drawing === "tree") return "Click where a tree stands, or type it";
  if (isOutline(drawing)) {
    const what = drawing === "room" ? "room" : "outline";
    return corners
      ? "Click the next corner, or type length and bearing"
      : `Click or type the first corner of the ${what}`;
  }
  return corners ? "Click the opposite corner, or type" : "Click a corner, or type lengths and place";
}

const numberOf = (text: string) => Number(text.trim().replace(",", "."));
const EMPTY = { a: "", b: "", east: "", north: "" };
type Box = keyof typeof EMPTY;

/** Typed lengths and coordinates while drawing; what is not typed follows the pointer, or lies clear of what stands there. */
export function DrawingPanel({
  drawing,
  corners,
  pointer,
  working,
  clear,
  onLevel,
  onPlace,
  onCorner,
  onFirst,
  onClose,
  onStop,
  measures,
  onMeasures,
}: {
  drawing: string;
  corners: Point[];
  pointer: Point | null;
  working: Working;
  /** Where a box of so much length and depth stands clear of others on the storey worked on. */
  clear: (length: number, depth: number) => Point;
  onLevel: (level: number) => void;
  onPlace: (made: Made) => void;
  onCorner: (p: Point) => void;
  /** The first point of what is drawn, typed by its coordinates. */
  onFirst: (p: Point) => void;
  onClose: () => void;
  onStop: () => void;
  measures: Measures;
  onMeasures: (measures: Measures) => void;
}) {
  const units = useKept((s) => s.units);
  const { factor: per, unit } = scale("m", units);
  const metres = 1 / per;
  const [typed, setTyped] = useState(EMPTY);
  if (drawing === "place") return <PlacePanel corners={corners} onStop={onStop} />;
  if (drawing === "scale") return <ScalePanel corners={corners} onStop={onStop} />;

  const outline = isOutline(drawing);
  const opening = drawing === "window" || drawing === "door";
  const point = drawing === "tree";
  const boxed = !outline && !opening && !point && drawing !== "cut";
  const begun = corners.length > 0;
  const lands = boxed || drawing === "polygon" || drawing === "room"; // on the storey worked on
  const last = corners[corners.length - 1] ?? { x: 0, y: 0 };
  const by = pointer && begun ? { x: pointer.x - last.x, y: pointer.y - last.y } : { x: 0, y: 0 };
  const live = outline
    ? [Math.hypot(by.x, by.y) / metres, (Math.atan2(by.x, by.y) * 180) / Math.PI]
    : [Math.abs(by.x) / metres, Math.abs(by.y) / metres];
  const wrong = Object.values(typed).some((t) => Number.isNaN(numberOf(t)));
  const number = (key: Box, otherwise: number) => (typed[key].trim() === "" ? otherwise : numberOf(typed[key]));
  const [a, b] = [number("a", live[0]), number("b", live[1])];
  const spot = boxed ? clear(a * metres, b * metres) : { x: 0, y: 0 };
  const start = { x: number("east", spot.x / metres) * metres, y: number("north", spot.y / metres) * metres };
  const rounded = (p: Point) => ({ x: Number(p.x.toFixed(3)), y: Number(p.y.toFixed(3)) });

  function accept() {
    if (wrong) return;
    if (boxed) {
      const from = corners[0] ?? start;
      const [dx, dy] = [by.x < 0 ? -a : a, by.y < 0 ? -b : b].map((v) => v * metres);
      const made = formBetween(drawing, from, { x: from.x + dx, y: from.y + dy });
      if (!made) return;
      onPlace(made);
    } else if (begun) {
      const angle = (b * Math.PI) / 180;
      onCorner(rounded({ x: last.x + Math.sin(angle) * a * metres, y: last.y + Math.cos(angle) * a * metres }));
    } else onFirst(rounded(start));
    setTyped(EMPTY);
  }

  const box = (key: Box, label: string, shown: number, suffix: string) => (
    <label className="row" style={{ gap: 4 }}>
      {label}
      <input
        className="text-box"
        style={{ width: 62, textAlign: "right" }}
        value={typed[key]}
        placeholder={shown.toFixed(1)}
        aria-invalid={Number.isNaN(numberOf(typed[key]))}
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
  const measure = (key: "height" | "sill" | "head", label: string) => (
    <label className="row" style={{ gap: 4 }}>
      {label}
      <MeasureInput
        key={`${key}${units}`}
        value={measures[key] / metres}
        fits={(v) => v > 0}
        onCommit={(v) => onMeasures({ ...measures, [key]: v * metres, typed: [...measures.typed, key] })}
      />
      {unit}
    </label>
  );
  return (
    <div className="overlay drawing-panel" role="group" aria-label="Drawing">
      <span className="quiet">{asks(drawing, corners.length)}</span>
      {!begun && (boxed || outline || point) && box("east", "East", start.x / metres, unit)}
      {!begun && (boxed || outline || point) && box("north", "North", start.y / metres, unit)}
      {!begun && lands && (
        <label className="row" style={{ gap: 4 }}>
          Level
          <MeasureInput
            key={`level${units}`}
            value={working.level / metres}
            fits={(v) => v * metres >= -500 && v * metres <= 9000}
            onCommit={(v) => onLevel(Number((v * metres).toFixed(4)))}
          />
          {unit}
        </label>
      )}
      {drawing === "room" && measure("height", "Storey height")}
      {drawing === "window" && measure("sill", "Sill")}
      {opening && measure("head", "Head")}
      {(boxed || (outline && begun)) && box("a", "Length", live[0], unit)}
      {(boxed || (outline && begun)) && box("b", outline ? "Bearing" : "Depth", live[1], outline ? "°" : unit)}
      {(boxed || outline || point) && (
        <Button variant="outlined" onClick={accept} disabled={wrong}>
          {outline ? "Place corner" : "Place"}
        </Button>
      )}
      {outline && corners.length >= 3 && (
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

function MeasureInput({
  value,
  fits,
  onCommit,
}: {
  value: number;
  fits: (value: number) => boolean;
  onCommit: (value: number) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const shown = String(Number(value.toFixed(2)));
  const typed = text === null || text.trim() === "" ? Number.NaN : numberOf(text);
  return (
    <input
      className="text-box"
      style={{ width: 58, textAlign: "right" }}
      value={text ?? shown}
      inputMode="decimal"
      aria-invalid={text !== null && !fits(typed)}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        if (fits(typed)) onCommit(typed);
        setText(null);
      }}
      onKeyDown={(e) => {
        e.stopPropagation();
        keepOnEnter(e);
      }}
    />
  );
}
