import type { Schemas } from "../../api/client";
import { tone } from "../../app/tokens";
import { months, scale } from "../../app/words";
import { Chart } from "../../charts/Chart";
import { category, grid, textStyle, tooltip, value } from "../../charts/style";
import { amount } from "../../scene/colours";

export type Climate = Schemas["ClimateOut"];
type Units = "SI" | "IP";

export const accountOf = (climate: Climate) => climate.account;
const hours = Array.from({ length: 24 }, (_, h) => String(h));
const sideColours: Record<string, string> = {
  north: "#A9B4C2",
  east: "#E0C79A",
  south: "#C79A2B",
  west: "#CDB4B0",
  level: tone.quiet,
};

/** Means by month and hour as a field of colour: temperature, or humidity. */
export function HoursView({
  climate,
  units,
  of,
  range,
}: {
  climate: Climate;
  units: Units;
  of: "temperature" | "humidity";
  range: [number, number];
}) {
  const to = scale(of === "temperature" ? "°C" : "%", units);
  const table = accountOf(climate)[of === "temperature" ? "temperature_by_hour" : "humidity_by_hour"];
  const show = (v: number) => v * to.factor + to.offset;
  const [W, H, L, B] = [420, 190, 34, 18];
  const [w, h] = [(W - L) / 24, (H - B) / 12];
  return (
    <svg
      viewBox={`0 0 ${W} ${H + 16}`}
      width="100%"
      height={206}
      role="img"
      aria-label={`Mean ${of} by month and hour`}
    >
      {table.map((row, m) =>
        row.map((v, hour) => (
          <rect
            key={`${months[m]}${hours[hour]}`}
            x={L + hour * w}
            y={m * h}
            width={w + 0.3}
            height={h + 0.3}
            fill={amount((v - range[0]) / (range[1] - range[0]))}
          >
            <title>{`${months[m]} ${hour}:00, ${show(v).toFixed(1)} ${to.unit}`}</title>
          </rect>
        )),
      )}
      {months.map((m, i) => (
        <text key={m} x={L - 5} y={i * h + h * 0.75} fontSize={10} textAnchor="end" fill={tone.quiet}>
          {m}
        </text>
      ))}
      {[0, 6, 12, 18].map((x) => (
        <text key={x} x={L + x * w} y={H - B + 13} fontSize={10} fill={tone.quiet}>
          {x}:00
        </text>
      ))}
      <text x={L} y={H + 12} fontSize={10} fill={tone.quiet}>
        {show(range[0]).toFixed(0)} {to.unit} pale, {show(range[1]).toFixed(0)} {to.unit} dark
      </text>
    </svg>
  );
}

/** Radiation by month on open planes to each side, and how clouded the months are. */
export function SidesView({ climate, units, most }: { climate: Climate; units: Units; most: number }) {
  const e = scale("kWh/m²", units);
  return (
    <Chart
      height={206}
      label="Radiation by month and side"
      option={{
        grid: { ...grid, top: 30, right: 34 },
        legend: { top: 0, textStyle, itemWidth: 12, itemHeight: 8 },
        tooltip: { ...tooltip, trigger: "axis", valueFormatter: (v: number) => v.toFixed(1) },
        xAxis: category(months),
        yAxis: [
          { ...value(e.unit), max: Math.ceil((most * e.factor) / 10) * 10 },
          {
            type: "value",
            max: 10,
            splitNumber: 2,
            axisLabel: { fontSize: 11, color: tone.quiet },
            splitLine: { show: false },
            name: "cloud",
            nameTextStyle: { fontSize: 11, color: tone.quiet },
          },
        ],
        series: [
          ...Object.entries(climate.on_planes_kwh_m2).map(([name, data]) => ({
            type: "line",
            name,
            data: data.map((v) => v * e.factor),
            symbol: "none",
            lineStyle: { width: name === "level" ? 1.5 : 2.4, type: name === "level" ? "dashed" : "solid" },
            color: sideColours[name],
          })),
          {
            type: "bar",
            name: "cloud, tenths",
            yAxisIndex: 1,
            data: accountOf(climate).cloud_tenths,
            barWidth: 5,
            color: tone.line,
          },
        ],
      }}
    />
  );
}

/** The air's own diagram: hours by temperature and water in the air, with lines of even humidity. */
export function AirView({
  climate,
  units,
  range,
}: {
  climate: Climate;
  units: Units;
  range: { low: number; high: number; water: number };
}) {
  const t = scale("°C", units);
  const { psychrometric: cells, pressure_pa } = accountOf(climate);
  const [W, H, L, B] = [420, 206, 30, 30];
  const most = Math.max(...cells.map((c) => c[2]));
  const sx = (v: number) => L + ((v - range.low) / (range.high - range.low)) * (W - L - 48);
  const sy = (v: number) => H - B - (v / range.water) * (H - B - 8);
  const water = (celsius: number, share: number) => {
    const p =
      share *
      610.5 *
      Math.exp((celsius >= 0 ? 17.269 * celsius : 21.875 * celsius) / ((celsius >= 0 ? 237.3 : 265.5) + celsius));
    return (622 * p) / (pressure_pa - p);
  };
  const line = (share: number) => {
    const points: string[] = [];
    for (let c = range.low; c <= range.high; c += 1) {
      const g = water(c, share);
      if (g > range.water) break;
      points.push(`${sx(c).toFixed(1)},${sy(g).toFixed(1)}`);
    }
    return points.join(" ");
  };
  const marks: number[] = [];
  for (let c = Math.ceil(range.low / 10) * 10; c <= range.high; c += 10) marks.push(c);
  const cell = { w: sx(range.low + 1) - sx(range.low), h: sy(0) - sy(0.5) };
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      width="100%"
      height={206}
      role="img"
      aria-label="Hours by temperature and water in the air"
    >
      {cells.map(([c, g, n]) => (
        <rect
          key={`${c} ${g}`}
          x={sx(c) - cell.w / 2}
          y={sy(g) - cell.h / 2}
          width={cell.w}
          height={cell.h}
          fill={amount(0.1 + 0.9 * Math.sqrt(n / most))}
        >
          <title>{`${(c * t.factor + t.offset).toFixed(0)} ${t.unit}, ${g.toFixed(1)} g/kg: ${n} h`}</title>
        </rect>
      ))}
      {[1, 0.8, 0.6, 0.4, 0.2].map((share) => (
        <polyline
          key={share}
          points={line(share)}
          fill="none"
          stroke={tone.ink}
          strokeWidth={share === 1 ? 1.4 : 0.6}
          opacity={share === 1 ? 0.9 : 0.45}
        />
      ))}
      {marks.map((c) => (
        <text key={c} x={sx(c)} y={H - B + 14} fontSize={10} textAnchor="middle" fill={tone.quiet}>
          {(c * t.factor + t.offset).toFixed(0)}
        </text>
      ))}
      {[0, 5, 10, 15, 20, 25]
        .filter((g) => g <= range.water)
        .map((g) => (
          <text key={g} x={W - 44} y={sy(g) + 3} fontSize={10} fill={tone.quiet}>
            {g} g/kg
          </text>
        ))}
      <text x={L} y={H - 3} fontSize={10} fill={tone.quiet}>
        {t.unit}, dry bulb; lines of 20 to 100% humidity
      </text>
    </svg>
  );
}

/** Whence the wind blows, by class of speed, in one season. */
export function WindView({ climate, units, season }: { climate: Climate; units: Units; season: string }) {
  const { speeds_m_s: speeds, roses } = accountOf(climate).wind;
  const rose = roses[season];
  const v = scale("m/s", units);
  const most = Math.max(...Object.values(roses).flatMap((r) => r.shares.map((s) => s.reduce((a, b) => a + b, 0))));
  const [C, R] = [100, 84];
  const at = (angle: number, r: number) => `${C + r * Math.sin(angle)},${C - r * Math.cos(angle)}`;
  return (
    <div style={{ display: "flex", gap: 10, alignItems: "center" }}>
      <svg viewBox="0 0 200 200" height={206} role="img" aria-label={`Wind rose, ${season}`}>
        {[0.5, 1].map((share) => (
          <circle key={share} cx={C} cy={C} r={R * share} fill="none" stroke={tone.line} />
        ))}
        {rose.shares.map((classes, i) => {
          let from = 0;
          const turn = (i * Math.PI) / 8;
          return classes.map((share, k) => {
            const [a, b] = [(from / most) * R, ((from + share) / most) * R];
            from += share;
            const half = Math.PI / 20;
            return (
              <polygon
                key={`${i} ${k}`}
                points={`${at(turn - half, a)} ${at(turn - half, b)} ${at(turn + half, b)} ${at(turn + half, a)}`}
                fill={amount(0.15 + 0.2 * k)}
              />
            );
          });
        })}
        {["N", "E", "S", "W"].map((n, i) => (
          <text
            key={n}
            x={C + (R + 9) * Math.sin((i * Math.PI) / 2)}
            y={C - (R + 9) * Math.cos((i * Math.PI) / 2) + 4}
            fontSize={11}
            textAnchor="middle"
          >
            {n}
          </text>
        ))}
      </svg>
      <div className="small">
        {speeds.map((s, k) => (
          <div key={s} className="row" style={{ gap: 6 }}>
            <span style={{ width: 12, height: 10, background: amount(0.15 + 0.2 * k) }} />
            {(s * v.factor).toFixed(1)}
            {k < speeds.length - 1 ? ` to ${(speeds[k + 1] * v.factor).toFixed(1)}` : " and more"} {v.unit}
          </div>
        ))}
        <div className="quiet">
          calm {(rose.calm * 100).toFixed(0)}%; outer ring {(most * 100).toFixed(0)}% of hours
        </div>
      </div>
    </div>
  );
}

/** What the climate gives for nothing: a strip a way, a box a month, filled by its share of hours that are comfortable. */
export function GivesView({ climate }: { climate: Climate }) {
  const days = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
  return (
    <table className="plain-table small" style={{ width: "100%" }}>
      <thead>
        <tr>
          <th>Hours that are comfortable</th>
          {months.map((m) => (
            <th key={m} style={{ textAlign: "center", padding: "2px 1px" }}>
              {m[0]}
            </th>
          ))}
          <th className="num">year</th>
        </tr>
      </thead>
      <tbody>
        {climate.gives.map((g) => (
          <tr key={g.id} data-gives={g.id}>
            <td>{g.name}</td>
            {g.months.map((n, m) => {
              const share = n / (days[m] * 24);
              return (
                <td
                  key={months[m]}
                  style={{ padding: "2px 1px" }}
                  title={`${months[m]}: ${n} h, ${Math.round(share * 100)}%`}
                >
                  <svg width="100%" height={20} viewBox="0 0 20 20" preserveAspectRatio="none" aria-hidden="true">
                    <rect width={20} height={20} fill={tone.bright} stroke={tone.line} />
                    <rect y={20 * (1 - share)} width={20} height={20 * share} fill={tone.tide} />
                  </svg>
                </td>
              );
            })}
            <td className="num" style={{ whiteSpace: "nowrap" }}>
              {g.hours.toLocaleString("en-GB")} h
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
