import type { Geometry } from "../api/client";
import { useKept } from "../app/state";
import { tone } from "../app/tokens";
import { both, figure } from "../app/words";

type Zone = Geometry["zones"][number];

export interface Rung {
  level: number;
  height: number;
  volumes: string[];
}

/** All storeys by their level, lowest first, with what stands on them. */
export function rungsOf(zones: Zone[]): Rung[] {
  const rungs = new Map<string, Rung>();
  for (const z of zones) {
    const key = z.level.toFixed(2);
    const rung = rungs.get(key) ?? { level: z.level, height: z.height, volumes: [] };
    if (!rung.volumes.includes(z.volume)) rung.volumes.push(z.volume);
    rung.height = Math.min(rung.height, z.height);
    rungs.set(key, rung);
  }
  return [...rungs.values()].sort((a, b) => a.level - b.level);
}

/** The building's section drawn small, one rung a storey; a click works on that storey, another lets go; the tick beside it draws it or not. */
export function StoreyLadder({
  zones,
  level,
  unseen,
  onLevel,
  onUnseen,
}: {
  zones: Zone[];
  level: number | null;
  /** Zones that are not drawn. */
  unseen: Set<string>;
  onLevel: (level: number | null) => void;
  onUnseen: (zones: string[]) => void;
}) {
  const units = useKept((s) => s.units);
  const rungs = rungsOf(zones);
  if (rungs.length === 0) return null;
  const fold = rungs.length > 12;
  const shown = fold
    ? rungs.filter((_, i) => i < 3 || i >= rungs.length - 3 || i % Math.ceil(rungs.length / 6) === 0)
    : rungs;
  const tall = Math.min(30, 260 / shown.length);
  const most = Math.max(...shown.map((r) => r.volumes.length));
  const height = shown.length * tall;
  return (
    <svg className="ladder" width={126} height={height + 12} aria-label="Storeys">
      {shown.map((r, i) => {
        const y = height - (i + 1) * tall + 6;
        const wide = 24 + (30 * r.volumes.length) / most;
        const here = zones.filter((z) => Math.abs(z.level - r.level) < 0.005).map((z) => z.id);
        const off = here.length > 0 && here.every((z) => unseen.has(z));
        const flip = () => {
          const others = [...unseen].filter((z) => !here.includes(z));
          onUnseen(off ? others : [...others, ...here]);
        };
        const on = level !== null && Math.abs(level - r.level) < 0.01;
        return (
          <g key={r.level} opacity={off ? 0.45 : 1}>
            <g
              role="checkbox"
              tabIndex={0}
              aria-checked={!off}
              aria-label={`Draw the storey at ${r.level.toFixed(1)} m`}
              style={{ cursor: "pointer" }}
              onClick={flip}
              onKeyDown={(e) => (e.key === "Enter" || e.key === " ") && flip()}
            >
              <title>{off ? "Not drawn; click to draw this storey" : "Drawn; click to leave this storey out"}</title>
              <rect x={0} y={y} width={17} height={tall} fill="transparent" />
              <rect
                x={4}
                y={y + tall / 2 - 4.5}
                width={9}
                height={9}
                rx={2}
                fill={off ? tone.bright : tone.tide}
                stroke={tone.ink}
                strokeWidth={0.8}
              />
            </g>
            <g
              role="button"
              tabIndex={0}
              aria-pressed={on}
              style={{ cursor: "pointer" }}
              onClick={() => onLevel(on ? null : r.level)}
              onKeyDown={(e) => e.key === "Enter" && onLevel(on ? null : r.level)}
            >
              <title>{`Storey at ${both(r.level, "m", units, 1)}`}</title>
              <rect
                x={18}
                y={y}
                width={wide}
                height={tall}
                fill={on ? tone.chosen : tone.bright}
                stroke={tone.ink}
                strokeWidth={on ? 1.8 : 1}
              />
              <text x={25} y={y + tall / 2 + 4} fontSize={11.5} fill={tone.ink}>
                {rungs.indexOf(r)}
              </text>
              <text x={wide + 24} y={y + tall - 4} fontSize={11.5} fill={tone.quiet}>
                {figure(r.level, "m", units, 1).text}
              </text>
            </g>
          </g>
        );
      })}
      <line x1={0} x2={86} y1={height + 6} y2={height + 6} stroke={tone.ink} strokeWidth={1.6} />
    </svg>
  );
}
