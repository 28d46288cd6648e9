import { useMemo, useRef } from "react";
import type { Study } from "../../api/client";
import { useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { scale } from "../../app/words";
import { Chart } from "../../charts/Chart";
import { textStyle } from "../../charts/style";
import { type Kept, leverScale, useFigureOf } from "./figures";
import { useColumns } from "./table";

/** More figures would stand too close to each other. */
const MOST_FIGURES = 6;

/** Every case as a line across levers and figures; a stretch drawn along an axis keeps what passes through it. */
export function ParallelAxes({
  study,
  kept,
  onKept,
  names,
}: {
  study: Study;
  kept: Kept;
  onKept: (kept: Kept) => void;
  names: string[];
}) {
  const units = useKept((s) => s.units);
  const figureOf = useFigureOf();
  const asked = useMemo(() => [...study.levers.map((l) => l.key), ...names], [study.levers, names]);
  // what was drawn on the axes fades the rest by itself; only what else is kept out is asked for
  const told = useColumns(study, { ...kept, dropped: {}, ranges: {} }, asked).data;
  const axes = useMemo(() => {
    const differs = (name: string) => {
      const values = (told?.columns[name] ?? []).filter((v): v is number => v != null);
      const [low, high] = values.reduce(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [Infinity, -Infinity]);
      return high - low > 1e-6 * Math.max(Math.abs(low), Math.abs(high));
    };
    const shown = told ? names.filter(differs) : names; // what is the same in all cases says nothing here
    return [...study.levers.map((l) => l.key), ...shown.slice(0, MOST_FIGURES)];
  }, [study.levers, names, told]);
  const now = useRef(kept);
  now.current = kept;
  const option = useMemo(() => {
    const parallelAxis = axes.map((name, k) => {
      const lever = study.levers[k];
      const label = { ...textStyle, fontSize: 10.5 };
      if (k < study.levers.length && lever.low == null)
        return {
          dim: k,
          id: name,
          name: lever.title,
          type: "category",
          data: lever.labels,
          axisLabel: { ...label, width: 70, overflow: "truncate" },
        };
      const f = k < study.levers.length ? null : figureOf(name);
      const to = f ? scale(f.unit, units) : leverScale(lever, units);
      const title = [f ? f.name : lever.title, to.unit].filter(Boolean).join(", ");
      return { dim: k, id: name, name: title, scale: true, axisLabel: label };
    });
    const factors = axes.map((name, k) => {
      const f = k < study.levers.length ? null : figureOf(name);
      const to = f ? scale(f.unit, units) : leverScale(study.levers[k], units);
      const plain = k < study.levers.length && study.levers[k].low == null;
      return plain ? { factor: 1, offset: 0 } : { factor: to.factor / (f?.per ?? 1), offset: to.offset };
    });
    const row = (i: number) =>
      axes.map((name, k) => {
        const v = told?.columns[name]?.[i];
        return v == null ? "-" : v * factors[k].factor + factors[k].offset;
      });
    const numbers = told?.numbers ?? [];
    const lines = (remarked: boolean) =>
      numbers.flatMap((number, i) =>
        told?.running[i] && told.remarked[i] === remarked ? [{ name: `case ${number}`, value: row(i) }] : [],
      );
    const style = (color: string) => ({
      type: "parallel",
      lineStyle: { width: 1, opacity: numbers.length > 1000 ? 0.12 : 0.35, color },
      inactiveOpacity: 0.02,
      progressive: 500,
      smooth: false,
    });
    return {
      parallel: {
        left: 30,
        right: 104,
        top: 92,
        bottom: 20,
        parallelAxisDefault: {
          nameLocation: "end",
          nameGap: 14,
          nameTruncate: { maxWidth: 118, ellipsis: "…" },
          nameRotate: 30,
          nameTextStyle: { ...textStyle, align: "left" },
          axisLine: { lineStyle: { color: tone.quiet } },
          areaSelectStyle: { width: 16, color: tone.tide, opacity: 0.25, borderWidth: 1, borderColor: tone.tide },
        },
      },
      parallelAxis,
      series: [
        { ...style(tone.tide), data: lines(false) },
        { ...style("#B5651D"), data: lines(true) },
      ],
    };
  }, [axes, study.levers, told, units, figureOf]);

  const remarked = told?.numbers.filter((_, i) => told.running[i] && told.remarked[i]).length ?? 0;

  /** A stretch on an axis becomes a range of the figure, or the steps of the lever that lie in it. */
  function brushed(name: string, intervals: [number, number][]) {
    const k = study.levers.findIndex((l) => l.key === name);
    const before = now.current;
    if (k >= 0) {
      const lever = study.levers[k];
      const { low, high } = lever;
      const size = lever.labels.length;
      const to = leverScale(lever, units);
      const inside = (s: number) =>
        intervals.length === 0 ||
        intervals.some(([a, b]) => {
          if (low == null || high == null) return s >= a - 0.5 && s <= b + 0.5;
          const middle = (low + ((s + 0.5) / size) * (high - low)) * to.factor + to.offset;
          return middle >= a && middle <= b;
        });
      const out = [...Array(size).keys()].filter((s) => !inside(s));
      onKept({ ...before, dropped: { ...before.dropped, [name]: out } });
      return;
    }
    const f = figureOf(name);
    const to = scale(f.unit, units);
    const { [name]: _, ...rest } = before.ranges;
    const ends = intervals.flat().map((v) => (v - to.offset) / to.factor);
    onKept({ ...before, ranges: ends.length ? { ...rest, [name]: [Math.min(...ends), Math.max(...ends)] } : rest });
  }

  return (
    <>
      <Chart
        key={axes.join()}
        option={option}
        height="100%"
        label={`${told?.numbers.length ?? 0} cases as lines across ${axes.length} axes${remarked > 0 ? `; brown: ${remarked} with remarks` : ""}`}
        merge
        onBrush={brushed}
      />
      {remarked > 0 && (
        <div className="small">
          <span style={{ color: "#B5651D" }}>▬</span> with remarks
        </div>
      )}
      {told && told.of > told.numbers.length && (
        <div className="small quiet">
          {told.numbers.length.toLocaleString("en-GB")} of {told.of.toLocaleString("en-GB")} cases are drawn, taken
          evenly; ranges count for all.
        </div>
      )}
    </>
  );
}
