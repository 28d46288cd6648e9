import type { Geometry } from "../../api/client";
import { useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { both } from "../../app/words";
import { roomiest } from "./roomiest";

/** Names and areas of zones where they have room for them. */
export function ZoneNames({ zones, px }: { zones: Geometry["zones"]; px: number }) {
  const units = useKept((s) => s.units);
  return (
    <>
      {zones.map((z) => {
        const spot = roomiest(z.plan);
        if (!spot) return null;
        const parts = z.name.split(", ");
        const name = parts.length > 2 ? parts[parts.length - 1] : parts[0];
        const area = both(z.gross_floor_m2, "m²", units, 0);
        const room = spot.wide / px / 6.4;
        const lines =
          name.length + area.length + 3 < room
            ? [`${name} · ${area}`]
            : name.length < room
              ? [name, area]
              : [name.split(" ")[0]];
        return Math.max(...lines.map((l) => l.length)) < room && spot.high / px > 16 * lines.length ? (
          <text
            key={z.id}
            x={spot.x}
            y={-spot.y - (lines.length - 1) * 7 * px}
            fontSize={11.5 * px}
            textAnchor="middle"
            fill={tone.ink}
            pointerEvents="none"
          >
            {lines.map((l, i) => (
              <tspan key={l} x={spot.x} dy={i === 0 ? 0 : 15 * px}>
                {l}
              </tspan>
            ))}
          </text>
        ) : null;
      })}
    </>
  );
}
