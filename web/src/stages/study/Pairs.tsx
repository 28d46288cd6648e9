import { useMemo } from "react";
import type { Study } from "../../api/client";
import { useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { scale } from "../../app/words";
import { Chart } from "../../charts/Chart";
import { textStyle } from "../../charts/style";
import { type Kept, useFigureOf } from "./figures";
import { useColumns } from "./table";

/** More of them would be too small to read. */
export const MOST_PAIRED = 5;

/** Each figure against each other one, case by case. */
export function Pairs({ study, kept, names }: { study: Study; kept: Kept; names: string[] }) {
  const units = useKept((s) => s.units);
  const figureOf = useFigureOf();
  const told = useColumns(study, kept, names).data;
  const known = useMemo(() => names.filter((n) => told?.columns[n]?.some((v) => v != null) ?? true), [names, told]);
  const shown = useMemo(() => known.slice(0, MOST_PAIRED), [known]);
  const option = useMemo(() => {
    const n = shown.length;
    const cell = 92 / n;
    const values = shown.map((name) => {
      const f = figureOf(name);
      const to = scale(f.unit, units);
      return (told?.columns[name] ?? []).map((v) => (v == null ? Number.NaN : (v / f.per) * to.factor + to.offset));
    });
    const title = (name: string) => `${figureOf(name).name}\n${scale(figureOf(name).unit, units).unit}`;
    const places = shown.flatMap((_, i) => shown.map((_, j) => ({ i, j }))).filter(({ i, j }) => i !== j);
    const running = told?.running ?? [];
    const label = { ...textStyle, fontSize: 9.5 };
    return {
      grid: places.map(({ i, j }) => ({
        left: `${6 + j * cell}%`,
        top: `${3 + i * cell}%`,
        width: `${cell - 3}%`,
        height: `${cell - 4}%`,
      })),
      xAxis: places.map(({ i }, k) => ({
        gridIndex: k,
        type: "value",
        scale: true,
        splitNumber: 3,
        axisLabel: { ...label, show: i === n - 1, hideOverlap: true },
        splitLine: { lineStyle: { color: "#EBE6DB" } },
      })),
      yAxis: places.map(({ j }, k) => ({
        gridIndex: k,
        type: "value",
        scale: true,
        splitNumber: 3,
        axisLabel: { ...label, show: j === 0 },
        splitLine: { lineStyle: { color: "#EBE6DB" } },
      })),
      graphic: shown.map((name, i) => ({
        type: "text",
        left: `${6 + i * cell + 1}%`,
        top: `${3 + i * cell + cell * 0.25}%`,
        style: {
          text: title(name),
          font: "600 11.5px Instrument Sans Variable",
          lineHeight: 15,
          fill: "#1E2B33",
          width: 96,
          overflow: "break",
        },
      })),
      series: places.flatMap(({ i, j }, k) =>
        [false, true].map((on) => ({
          type: "scatter",
          xAxisIndex: k,
          yAxisIndex: k,
          symbolSize: 3,
          large: running.length > 2000,
          itemStyle: { color: on ? tone.tide : "#D5CCBB", opacity: on ? 0.7 : 0.5 },
          data: running.flatMap((r, m) => (r === on ? [[values[j][m], values[i][m]]] : [])),
        })),
      ),
    };
  }, [shown, told, units, figureOf]);
  return (
    <>
      <Chart option={option} height="100%" label={`${shown.length} figures against each other`} />
      {known.length > MOST_PAIRED && (
        <div className="small quiet">The first {MOST_PAIRED} columns are drawn; choose others under “columns”.</div>
      )}
    </>
  );
}
