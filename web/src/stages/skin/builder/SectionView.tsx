import type { ShelfLayer } from "../../../api/hooks";
import { useKept } from "../../../app/state";
import { categories } from "../../../app/theme";
import { tone } from "../../../app/tokens";
import { figure, months } from "../../../app/words";
import type { Account } from "./examine";

const [W, H, TOP, LEFT, FOOT] = [820, 250, 14, 64, 34];

/** The section to scale, outside at the left, with the lines of the coldest month: temperature, and the dew point of the vapour. */
export function SectionView({ layers, account }: { layers: ShelfLayer[]; account: Account | undefined }) {
  const units = useKept((s) => s.units);
  const whole = layers.reduce((sum, l) => sum + l.thickness_m, 0);
  if (whole <= 0) return null;
  const [inner, high] = [W - LEFT - 70, H - TOP - FOOT];
  const wet = account?.moisture;
  const dew = wet?.coldest.vapour_pa.map(dewPoint) ?? [];
  const all = wet ? [...wet.coldest.temperature_c, ...dew, 20] : [0, 20];
  const [low, top] = [Math.floor(Math.min(...all) / 5) * 5, Math.ceil(Math.max(...all) / 5) * 5];
  const sx = (m: number) => LEFT + (m / whole) * inner;
  const sy = (c: number) => TOP + high - ((c - low) / Math.max(top - low, 1)) * high;
  const path = (values: number[]) =>
    values.map((v, i) => `${i ? "L" : "M"}${sx(wet?.coldest.x[i] ?? 0).toFixed(1)} ${sy(v).toFixed(1)}`).join("");
  let left = 0;
  const marks = Array.from({ length: (top - low) / 5 + 1 }, (_, i) => low + i * 5);
  return (
    <svg viewBox={`0 0 ${W} ${H}`} width="100%" role="img" aria-label="Section to scale, outside at the left">
      <defs>
        <pattern id="soft" width="14" height="10" patternUnits="userSpaceOnUse">
          <path d="M0 10C4 10 3 0 7 0S10 10 14 10" fill="none" stroke={tone.ink} strokeWidth="0.6" opacity="0.55" />
        </pattern>
        <pattern id="fluid" width="10" height="10" patternUnits="userSpaceOnUse">
          <circle cx="2" cy="2" r="0.9" fill={tone.ink} opacity="0.35" />
        </pattern>
      </defs>
      {layers.map((l, i) => {
        const [x, w] = [sx(left), (l.thickness_m / whole) * inner];
        left += l.thickness_m;
        const counts = account?.layers[i]?.counts ?? true;
        const fill = l.air !== "none" && l.air ? tone.bright : categories[i % categories.length];
        return (
          <g key={`${l.name}-${i}`} opacity={counts ? 1 : 0.45}>
            <title>{`${l.name}, ${figure(l.thickness_m * 1000, "mm", units, 0).text} ${figure(1, "mm", units, 0).unit}`}</title>
            <rect x={x} y={TOP} width={w} height={high} fill={fill} />
            {l.insulation && <rect x={x} y={TOP} width={w} height={high} fill="url(#soft)" />}
            {l.air && l.air !== "none" && <rect x={x} y={TOP} width={w} height={high} fill="url(#fluid)" />}
            {l.inlay && <Studs x={x} w={w} high={high} share={l.inlay.share} />}
            <rect x={x} y={TOP} width={w} height={high} fill="none" stroke={tone.ink} strokeWidth={0.9} />
            <text x={x + w / 2} y={H - FOOT + 14} fontSize={11} textAnchor="middle" fill={tone.quiet}>
              {i + 1}
            </text>
          </g>
        );
      })}
      {wet?.places.map(([at]) => (
        <rect key={at} x={sx(at) - 2.5} y={TOP} width={5} height={high} fill={tone.fault} opacity={0.55}>
          <title>condensate here in some month</title>
        </rect>
      ))}
      {wet && (
        <>
          {marks.map((c) => (
            <g key={c}>
              <line x1={LEFT - 5} x2={LEFT} y1={sy(c)} y2={sy(c)} stroke={tone.quiet} />
              <text x={LEFT - 8} y={sy(c) + 4} fontSize={11} textAnchor="end" fill={tone.quiet}>
                {figure(c, "°C", units, 0).text}
              </text>
            </g>
          ))}
          <path d={path(wet.coldest.temperature_c)} fill="none" stroke={tone.ink} strokeWidth={2.2} />
          <path d={path(dew)} fill="none" stroke={tone.tide} strokeWidth={2} strokeDasharray="6 4" />
          <text
            x={W - 66}
            y={Math.max(sy(wet.coldest.temperature_c.at(-1) ?? 20), TOP + 8) + 4}
            fontSize={11}
            fill={tone.ink}
          >
            temperature
          </text>
          <text x={W - 66} y={sy(dew.at(-1) ?? 10) + 4} fontSize={11} fill={tone.tide}>
            dew point
          </text>
          <text x={10} y={TOP + 10} fontSize={11} fill={tone.quiet}>
            {figure(0, "°C", units, 0).unit}
          </text>
        </>
      )}
      <text x={LEFT} y={H - 4} fontSize={11} fill={tone.quiet}>
        outside
        {wet
          ? `, mean of ${months[wet.coldest_month]} ${figure(wet.outside_c[wet.coldest_month], "°C", units, 1).text} ${figure(0, "°C", units, 1).unit}`
          : ""}
      </text>
      <text x={LEFT + inner} y={H - 4} fontSize={11} fill={tone.quiet} textAnchor="end">
        inside
      </text>
    </svg>
  );
}

/** What interrupts a layer, drawn across it: as much of its height as its share. */
function Studs({ x, w, high, share }: { x: number; w: number; high: number; share: number }) {
  const count = 3;
  const each = (high * share) / count;
  return (
    <>
      {Array.from({ length: count }, (_, k) => TOP + (high * (k + 0.5)) / count - each / 2).map((y) => (
        <g key={y}>
          <rect x={x} y={y} width={w} height={each} fill="#E0C79A" stroke={tone.ink} strokeWidth={0.8} />
          <path
            d={`M${x} ${y}L${x + w} ${y + each}M${x + w} ${y}L${x} ${y + each}`}
            stroke={tone.ink}
            strokeWidth={0.5}
          />
        </g>
      ))}
    </>
  );
}

/** Temperature at which vapour of this pressure saturates (ISO 13788, as the core works it out). */
function dewPoint(pascal: number): number {
  const r = Math.log(Math.max(pascal, 1) / 610.5);
  return pascal >= 610.5 ? (237.3 * r) / (17.269 - r) : (265.5 * r) / (21.875 - r);
}
