import { MenuItem, Select } from "@mui/material";
import { useMemo, useState } from "react";
import type { Study } from "../../api/client";
import { useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { round, scale } from "../../app/words";
import { Chart } from "../../charts/Chart";
import { category, grid, value } from "../../charts/style";
import { type Kept, useFigureOf } from "./figures";
import { useColumns } from "./table";

/** A value below which a share of the others lie, by straight lines between neighbours. */
function quantile(sorted: number[], share: number): number {
  const at = (sorted.length - 1) * share;
  const low = Math.floor(at);
  return sorted[low] + (sorted[Math.min(low + 1, sorted.length - 1)] - sorted[low]) * (at - low);
}

/** How a figure spreads over the cases of each step of one lever: as boxes, and as a table. */
export function SpreadBy({ study, kept, names }: { study: Study; kept: Kept; names: string[] }) {
  const units = useKept((s) => s.units);
  const figureOf = useFigureOf();
  const [lever, setLever] = useState(study.levers[0]?.key ?? "");
  const [chosen, setFigure] = useState("");
  const of = names.includes(chosen) ? chosen : names[0];
  const asked = useMemo(() => [lever, of], [lever, of]);
  const told = useColumns(study, kept, asked).data;
  const l = study.levers.find((x) => x.key === lever);
  const f = figureOf(of);
  const to = scale(f.unit, units);
  const groups = useMemo(() => {
    const found: number[][] = (l?.labels ?? []).map(() => []);
    told?.numbers.forEach((_, i) => {
      const taken = told.columns[lever]?.[i];
      const v = told.columns[of]?.[i];
      if (!told.running[i] || taken == null || v == null || !l) return;
      const step =
        l.low == null || l.high == null
          ? taken
          : Math.min(Math.floor(((taken - l.low) / (l.high - l.low)) * found.length), found.length - 1);
      found[step]?.push((v / f.per) * to.factor + to.offset);
    });
    for (const group of found) group.sort((a, b) => a - b);
    return found;
  }, [told, l, lever, of, f, to]);
  const option = useMemo(
    () => ({
      grid: { ...grid, left: 56, bottom: 34 },
      tooltip: { trigger: "item", confine: true },
      xAxis: category(l?.labels ?? []),
      yAxis: value(`${f.name}, ${to.unit}`, { scale: true }),
      series: [
        {
          type: "boxplot",
          itemStyle: { color: "#CFE0DE", borderColor: tone.tide },
          data: groups.map((g) => (g.length ? [0, 0.25, 0.5, 0.75, 1].map((q) => quantile(g, q)) : [])),
        },
      ],
    }),
    [groups, l, f, to],
  );
  return (
    <div style={{ overflow: "auto", height: "100%" }}>
      <div className="row small" style={{ gap: 10 }}>
        <Select
          variant="standard"
          value={of}
          onChange={(e) => setFigure(e.target.value)}
          inputProps={{ "aria-label": "Spread of" }}
          sx={{ fontSize: 12.5 }}
        >
          {names.map((id) => (
            <MenuItem key={id} value={id}>
              {figureOf(id).name}
            </MenuItem>
          ))}
        </Select>
        by
        <Select
          variant="standard"
          value={lever}
          onChange={(e) => setLever(e.target.value)}
          inputProps={{ "aria-label": "Spread by" }}
          sx={{ fontSize: 12.5 }}
        >
          {study.levers.map((x) => (
            <MenuItem key={x.key} value={x.key}>
              {x.title}
            </MenuItem>
          ))}
        </Select>
        <span className="quiet">cases in the running; box: the middle half, line: the middle</span>
      </div>
      <Chart option={option} height={260} label={`${f.name} by ${l?.title ?? lever}`} />
      <table className="plainTable" style={{ width: "100%" }} data-spread-by={lever}>
        <thead>
          <tr>
            <th style={{ textAlign: "left" }}>{l?.title}</th>
            {["cases", "least", "mean", "largest"].map((h) => (
              <th key={h} style={{ textAlign: "right" }}>
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {groups.map((g, i) => (
            <tr key={l?.labels[i]}>
              <td>{l?.labels[i]}</td>
              <td style={{ textAlign: "right" }}>{g.length}</td>
              {(g.length ? [g[0], g.reduce((a, b) => a + b, 0) / g.length, g[g.length - 1]] : [null, null, null]).map(
                (v, k) => (
                  <td key={["least", "mean", "largest"][k]} style={{ textAlign: "right" }}>
                    {v === null ? "–" : round(v, f.digits)}
                  </td>
                ),
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
