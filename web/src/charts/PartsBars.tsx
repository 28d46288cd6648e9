import { useKept } from "../app/state";
import { tone } from "../app/tokens";
import { figure } from "../app/words";

export interface PartsRow {
  id: string;
  name: string;
  values: (number | null)[];
}

/** Parts as bars from a common zero, negative ones to its left; the largest first. Of two cases, the first is the outline. */
export function PartsBars({
  rows,
  unit,
  digits,
  colour,
  label,
  least = 0.004,
  rowHeight = 18,
}: {
  rows: PartsRow[];
  unit: string;
  digits: number;
  colour: string;
  label: string;
  least?: number;
  rowHeight?: number;
}) {
  const units = useKept((s) => s.units);
  const size = (r: PartsRow) => Math.max(...r.values.map((v) => Math.abs(v ?? 0)));
  const most = Math.max(...rows.map(size), 1e-9);
  const shown = rows.filter((r) => size(r) > least * most).sort((a, b) => size(b) - size(a));
  const all = shown.flatMap((r) => r.values.map((v) => v ?? 0));
  const low = Math.min(0, ...all);
  const high = Math.max(0, ...all);
  const names = 112;
  const numbers = rows[0]?.values.length === 2 ? 104 : 56;
  const wide = 420 - names - numbers;
  const at = (v: number) => names + ((v - low) / (high - low || 1)) * wide;
  const left = rows.length - shown.length;
  return (
    <figure style={{ margin: 0 }}>
      <svg viewBox={`0 0 420 ${shown.length * rowHeight + 4}`} width="100%" role="img" aria-label={label}>
        <line x1={at(0)} x2={at(0)} y1={0} y2={shown.length * rowHeight + 2} stroke={tone.ink} strokeWidth={0.8} />
        {shown.map((r, i) => {
          const y = i * rowHeight + 3;
          const now = r.values[r.values.length - 1] ?? 0;
          const before = r.values.length === 2 ? r.values[0] : null;
          const changed = before !== null && Math.abs(now - before) > 0.01 * most;
          return (
            <g key={r.id} data-part={r.id} data-value={now}>
              <text x={0} y={y + rowHeight - 8} fontSize={11.5} fill={tone.ink}>
                {r.name}
              </text>
              <rect
                x={Math.min(at(0), at(now))}
                y={y + 1}
                width={Math.max(Math.abs(at(now) - at(0)), 0.5)}
                height={rowHeight - 7}
                fill={colour}
                fillOpacity={now < 0 ? 0.45 : 0.95}
              />
              {before !== null && (
                <rect
                  x={Math.min(at(0), at(before))}
                  y={y - 0.5}
                  width={Math.max(Math.abs(at(before) - at(0)), 0.5)}
                  height={rowHeight - 4}
                  fill="none"
                  stroke={tone.ink}
                  strokeWidth={0.9}
                />
              )}
              {before !== null && (
                <text
                  x={368}
                  y={y + rowHeight - 8}
                  fontSize={11.5}
                  textAnchor="end"
                  fill={tone.quiet}
                  className="figures"
                >
                  {minus(figure(before, unit, units, digits).text)}
                </text>
              )}
              <text
                x={420}
                y={y + rowHeight - 8}
                fontSize={11.5}
                textAnchor="end"
                fill={tone.ink}
                className="figures"
                textDecoration={changed ? "underline" : undefined}
              >
                {minus(figure(now, unit, units, digits).text)}
              </text>
            </g>
          );
        })}
      </svg>
      {left > 0 && shown.length > 0 && (
        <figcaption className="small quiet">
          {left} {left === 1 ? "source gives" : "sources give"} next to nothing and {left === 1 ? "is" : "are"} left
          out.
        </figcaption>
      )}
      {shown.length === 0 && <figcaption className="small quiet">Nothing to take apart: there is no load.</figcaption>}
    </figure>
  );
}

const minus = (text: string) => text.replace("-", "−");
