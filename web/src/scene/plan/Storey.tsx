import type { Face, Geometry, Scheme } from "../../api/client";
import { pick, type Selection, useView } from "../../app/state";
import { categories } from "../../app/theme";
import { tone } from "../../app/tokens";
import { boundaryColours } from "../colours";

type Zone = Geometry["zones"][number];
const PATTERNS = { ground: "hatch", zone: "dots", adiabatic: "cross", fixed: "bars", outdoors: "" };

/** Rings of points as one path. */
export const pathOf = (rings: number[][][]) =>
  rings.map((r) => `M${r.map((p) => `${p[0]},${p[1]}`).join("L")}Z`).join("");

/** The zones of a storey that are seen. */
export const zonesAt = (geometry: Geometry | undefined, level: number, seen: (zone: string) => boolean): Zone[] =>
  (geometry?.zones ?? []).filter((z) => Math.abs(z.level - level) < 0.01 && seen(z.id));

/** One storey in plan: its zones over the outlines of those below, what is selected above it dashed, its walls by what they meet, its windows. */
export function Storey({
  scheme,
  geometry,
  level,
  chosen,
  changed,
  byBoundary,
  pale,
  colour,
  seen,
  px,
  onSelect,
  onHold,
}: {
  scheme: Scheme;
  geometry: Geometry | undefined;
  level: number;
  chosen: string[];
  changed: Face[];
  byBoundary: boolean;
  /** Whether a plan lies under it that is to shine through. */
  pale: boolean;
  colour: (zone: string) => string | null;
  seen: (zone: string) => boolean;
  px: number;
  onSelect: (selection: Selection | null) => void;
  /** Zones or volumes that were taken hold of, to be moved. */
  onHold: (ids: string[], e: React.PointerEvent) => void;
}) {
  const drawing = useView((s) => s.drawing);
  const selection = useView((s) => s.selection);
  const volumes = scheme.volumes ?? [];
  const zones = zonesAt(geometry, level, seen);
  const below = (geometry?.zones ?? []).filter((z) => z.level < level - 0.01);
  const over = (geometry?.zones ?? []).filter(
    (z) => z.level > level + 0.01 && chosen.some((id) => id === z.id || id === z.volume),
  );
  const walls = (geometry?.faces ?? []).filter((f) => f.kind === "wall" && zones.some((z) => z.id === f.zone));

  function hold(z: Zone, e: React.PointerEvent) {
    if (drawing) return;
    e.stopPropagation();
    // a click selects the volume; among zones that are selected already, the zone
    const whole = selection?.kind !== "zone" && volumes.some((v) => v.id === z.volume);
    const thing: Selection = whole ? { kind: "volume", id: z.volume } : { kind: "zone", id: z.id };
    if (e.shiftKey) return pick(thing, true);
    if (!chosen.includes(thing.id)) {
      const first = volumes.some((v) => v.id === z.volume);
      onSelect(first ? { kind: "volume", id: z.volume } : { kind: "zone", id: z.id });
    }
    onHold(chosen.includes(thing.id) ? chosen : [z.volume], e);
  }

  return (
    <>
      {below.map((z) => (
        <path key={z.id} d={pathOf(z.plan)} fill="none" stroke="#C4BCAB" strokeWidth={px} />
      ))}
      {zones.map((z, i) => {
        const on = chosen.includes(z.id) || (selection?.kind === "volume" && chosen.includes(z.volume));
        return (
          <path
            key={z.id}
            d={pathOf(z.plan)}
            fill={on ? tone.chosen : byBoundary ? tone.bright : (colour(z.id) ?? categories[i % categories.length])}
            fillOpacity={pale ? 0.35 : on || byBoundary || colour(z.id) ? 1 : 0.42}
            stroke={tone.ink}
            strokeWidth={(on ? 1.8 : 0.9) * px}
            data-zone={z.id}
            style={{ cursor: drawing ? "crosshair" : "move" }}
            onPointerDown={(e) => hold(z, e)}
            onDoubleClick={() => onSelect({ kind: "zone", id: z.id })}
          />
        );
      })}
      {over.map((z) => (
        <path
          key={`over ${z.id}`}
          d={pathOf(z.plan)}
          data-over={z.id}
          fill="none"
          stroke={tone.tide}
          strokeWidth={1.4 * px}
          strokeDasharray={`${6 * px} ${4 * px}`}
          pointerEvents="none"
        />
      ))}
      {byBoundary &&
        walls.map((f) => {
          const [[x1, y1], [x2, y2]] = f.loops[0];
          const along = { x1, y1, x2, y2 };
          const pattern = PATTERNS[f.boundary];
          return (
            <g key={f.id} data-boundary={f.boundary}>
              <line {...along} stroke={boundaryColours[f.boundary]} strokeWidth={7 * px} />
              {pattern && <line {...along} stroke={`url(#${pattern})`} strokeWidth={7 * px} />}
              <line {...along} stroke={tone.ink} strokeWidth={(f.boundary === "outdoors" ? 2 : 0.7) * px} />
            </g>
          );
        })}
      {changed
        .filter((f) => f.kind === "wall" && zones.some((z) => z.id === f.zone))
        .map((f) => {
          const [[x1, y1], [x2, y2]] = f.loops[0];
          return <line key={f.id} x1={x1} y1={y1} x2={x2} y2={y2} stroke={tone.warning} strokeWidth={9 * px} />;
        })}
      <Panes panes={walls.flatMap((f) => f.windows)} px={px} />
    </>
  );
}

/** Windows as they stand in their walls: a light line under a dark one. */
function Panes({ panes, px }: { panes: number[][][]; px: number }) {
  const along = (w: number[][]) => ({ x1: w[0][0], y1: w[0][1], x2: w[1][0], y2: w[1][1] });
  return (
    <g pointerEvents="none">
      {panes.map((w, i) => (
        <line key={i} {...along(w)} stroke={tone.bright} strokeWidth={3.4 * px} />
      ))}
      {panes.map((w, i) => (
        <line key={i} data-pane {...along(w)} stroke={tone.tide} strokeWidth={1.6 * px} />
      ))}
    </g>
  );
}
