import { useMemo, useState } from "react";
import { useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { both } from "../../app/words";
import { amount } from "../colours";
import { type FloorOf, type Floors, lineOf, parting, topOf } from "../floors";
import type { Point } from "./drawing";
import { pathOf } from "./Storey";

/** Light on the floors of a storey, cell by cell, with the line where it is enough; the pointer reads one cell. */
export function FloorLight({
  floors,
  level,
  zones,
  px,
  raw,
}: {
  floors: Floors;
  level: number;
  zones: { id: string; plan: number[][][] }[];
  px: number;
  raw: (e: { clientX: number; clientY: number }) => Point;
}) {
  const units = useKept((s) => s.units);
  const [read, setRead] = useState<{ at: Point; value: number } | null>(null);
  const own = floors.floors.filter((f) => Math.abs(f.level - level) < 0.01 && zones.some((z) => z.id === f.zone));
  const digits = floors.measure === "factor" ? 1 : 0;
  return (
    <g data-floor-light={floors.measure}>
      {own.map((f) => (
        <g key={f.zone} pointerEvents="none" clipPath={`url(#floor-${f.zone.replace(/[^A-Za-z0-9]/g, "_")})`}>
          <clipPath id={`floor-${f.zone.replace(/[^A-Za-z0-9]/g, "_")}`}>
            <path d={pathOf(zones.find((z) => z.id === f.zone)?.plan ?? [])} clipRule="evenodd" />
          </clipPath>
          <Cells floor={f} floors={floors} px={px} />
        </g>
      ))}
      {own.map((f) => (
        <path
          key={f.zone}
          d={pathOf(zones.find((z) => z.id === f.zone)?.plan ?? [])}
          fillRule="evenodd"
          fill="transparent"
          stroke={tone.ink}
          strokeWidth={0.9 * px}
          onPointerMove={(e) => {
            const at = raw(e);
            const value = valueAt(f, at);
            setRead(value === null ? null : { at, value });
          }}
          onPointerLeave={() => setRead(null)}
          style={{ cursor: "crosshair" }}
        />
      ))}
      {read && (
        <g transform={`translate(${read.at.x},${read.at.y}) scale(1,-1)`} pointerEvents="none">
          <text
            x={14 * px}
            y={-12 * px}
            fontSize={12 * px}
            fill={tone.ink}
            stroke={tone.bright}
            strokeWidth={3 * px}
            style={{ paintOrder: "stroke" }}
            data-read
          >
            {both(read.value, floors.unit, units, digits)}
          </text>
        </g>
      )}
    </g>
  );
}

function Cells({ floor, floors, px }: { floor: FloorOf; floors: Floors; px: number }) {
  const top = topOf(floors);
  const line = lineOf(floors);
  const picture = useMemo(() => {
    const canvas = document.createElement("canvas");
    [canvas.width, canvas.height] = [floor.columns, floor.rows];
    const pen = canvas.getContext("2d");
    if (!pen) return "";
    const data = pen.createImageData(floor.columns, floor.rows);
    floor.values.forEach((v, i) => {
      const [r, g, b] = amount((v ?? floor.mean) / top)
        .match(/\d+/g)
        ?.map(Number) ?? [0, 0, 0];
      data.data.set([r, g, b, 255], i * 4);
    });
    pen.putImageData(data, 0, 0);
    return canvas.toDataURL();
  }, [floor, top]);
  const sides = useMemo(() => (line === null ? [] : parting(floor, line)), [floor, line]);
  const [a, b] = [floor.along.map((v) => v / floor.columns), floor.upward.map((v) => v / floor.rows)];
  return (
    <g transform={`matrix(${a[0]},${a[1]},${b[0]},${b[1]},${floor.corner[0]},${floor.corner[1]})`}>
      <image
        href={picture}
        x={0}
        y={0}
        width={floor.columns}
        height={floor.rows}
        preserveAspectRatio="none"
        style={{ imageRendering: "pixelated" }}
      />
      <path
        d={sides.map(([x1, y1, x2, y2]) => `M${x1},${y1}L${x2},${y2}`).join("")}
        stroke={tone.ink}
        strokeWidth={1.4 * px}
        vectorEffect="non-scaling-stroke"
        style={{ strokeWidth: 1.4 }}
        fill="none"
        data-contour={sides.length}
      />
    </g>
  );
}

/** The figure of the cell at a place; null beside the floor. */
function valueAt(floor: FloorOf, at: Point): number | null {
  const [dx, dy] = [at.x - floor.corner[0], at.y - floor.corner[1]];
  const share = (v: number[]) => (dx * v[0] + dy * v[1]) / (v[0] ** 2 + v[1] ** 2);
  const [i, j] = [Math.floor(share(floor.along) * floor.columns), Math.floor(share(floor.upward) * floor.rows)];
  if (i < 0 || j < 0 || i >= floor.columns || j >= floor.rows) return null;
  return floor.values[j * floor.columns + i] ?? null;
}
