import type { ShelfLayer } from "../../api/hooks";
import { categories } from "../../app/theme";

/** The section through a construction, to scale; outside at the left. */
export function Section({ layers }: { layers: ShelfLayer[] }) {
  const whole = layers.reduce((sum, l) => sum + l.thickness_m, 0);
  if (whole <= 0) return null;
  let left = 0;
  const width = 280;
  return (
    <svg viewBox={`0 0 ${width + 20} 74`} width="100%" aria-label="Section, outside at the left">
      {layers.map((l, i) => {
        const w = (l.thickness_m / whole) * width;
        const x = left + 10;
        left += w;
        return (
          <g key={`${l.name}-${i}`}>
            <rect
              x={x}
              y={8}
              width={w}
              height={52}
              fill={categories[i % categories.length]}
              stroke="#22303A"
              strokeWidth={0.8}
            />
            {l.insulation && <path d={zigzag(x, w)} stroke="#22303A" strokeWidth={0.7} fill="none" />}
          </g>
        );
      })}
      <text x={10} y={71} fontSize={10} fill="#5D6468">
        outside
      </text>
      <text x={width + 10} y={71} fontSize={10} fill="#5D6468" textAnchor="end">
        inside
      </text>
    </svg>
  );
}

function zigzag(x: number, w: number): string {
  const steps = 8;
  return Array.from(
    { length: steps + 1 },
    (_, i) => `${i === 0 ? "M" : "L"}${i % 2 ? x + w : x} ${8 + (52 * i) / steps}`,
  ).join("");
}
