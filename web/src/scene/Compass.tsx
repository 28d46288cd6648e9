import { useLocation } from "react-router";
import { make } from "../api/edits";
import { useEdit, useScheme, useTry } from "../api/hooks";
import { tone } from "../app/tokens";
import { useDrag } from "./drag";

/** The compass rose: the drawing's north dashed, true north as a needle; both turn with the view. In Place the needle is dragged to turn true north. */
export function Compass({ drawing, north }: { drawing: number; north: number }) {
  const { scheme } = useScheme();
  const inPlace = useLocation().pathname.split("/")[3] === "place";
  const edit = useEdit();
  const attempt = useTry(scheme.id);
  const setting = (value: number) => make.set("place/north_deg", value);
  const [held, hold] = useDrag<{ middle: { x: number; y: number }; north: number }>({
    follow: (now, e) => {
      const bearing = (Math.atan2(e.clientX - now.middle.x, now.middle.y - e.clientY) * 180) / Math.PI;
      const step = e.altKey ? 0.1 : 1;
      const turned = within(Number((Math.round((drawing - bearing) / step) * step).toFixed(1)));
      if (turned !== now.north) attempt(setting(turned));
      return { ...now, north: turned };
    },
    drop: (last) => {
      if (last.north !== north) void edit(setting(last.north));
    },
  });
  const shown = held?.north ?? north;
  return (
    <svg
      width={72}
      height={72}
      style={{
        pointerEvents: inPlace ? undefined : "none",
        cursor: inPlace ? "grab" : undefined,
      }}
      className="compass"
      aria-label={`True north ${-shown} degrees clockwise of the drawing's`}
      data-compass
      onPointerDown={(e) => {
        if (!inPlace) return;
        const box = e.currentTarget.getBoundingClientRect();
        hold({ middle: { x: box.left + 36, y: box.top + 36 }, north });
      }}
    >
      {inPlace && <title>Drag to turn true north by whole degrees; Alt turns it finely</title>}
      <circle cx={36} cy={36} r={27} fill="#FBF9F5EE" stroke={inPlace ? tone.tide : tone.line} />
      <g transform={`rotate(${drawing} 36 36)`}>
        <line x1={36} y1={58} x2={36} y2={14} stroke={tone.quiet} strokeDasharray="3 3" />
      </g>
      <g transform={`rotate(${drawing - shown} 36 36)`}>
        <path d="M36 15l6.5 21-6.5-4.5-6.5 4.5z" fill={tone.ink} />
        <path d="M36 57l-6.5-21 6.5 4.5 6.5-4.5z" fill="none" stroke={tone.ink} strokeWidth={0.8} />
      </g>
      <text
        x={36 + 33 * Math.sin(((drawing - shown) * Math.PI) / 180)}
        y={36 - 31 * Math.cos(((drawing - shown) * Math.PI) / 180) + 4}
        fontSize={12}
        fontWeight={650}
        textAnchor="middle"
        fill={tone.ink}
      >
        N
      </text>
    </svg>
  );
}

/** The same angle between -180 and 180 degrees. */
const within = (angle: number) => Number((((((angle + 180) % 360) + 360) % 360) - 180).toFixed(1));
