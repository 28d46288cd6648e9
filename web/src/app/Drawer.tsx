import { useMemo, useState } from "react";
import type { Outcome } from "../api/client";
import { Chart } from "../charts/Chart";
import { category, grid, tooltip, value } from "../charts/style";
import { Hours } from "./Hours";
import { OtherPeaks, Peaks } from "./Peaks";
import { useKept } from "./state";
import { Tabs } from "./Tabs";
import { endUses } from "./theme";
import { tone } from "./tokens";
import { months, scale } from "./words";

const pages = [
  ["peaks", "Months and peaks"],
  ["hours", "Hour by hour"],
] as const;

/** What opens above the readout: months and what the peaks are made of, or any hour of the year. */
export default function Drawer({ outcome }: { outcome: Outcome }) {
  const [page, setPage] = useState<"peaks" | "hours">("peaks");
  return (
    <div className="drawer">
      <Tabs label="Readout pages" pages={pages} page={page} onPage={setPage} />
      {page === "hours" ? (
        <Hours outcome={outcome} />
      ) : (
        <div className="drawer-peaks">
          <div>
            <h3>Energy by month</h3>
            <Months outcome={outcome} />
            <OtherPeaks scheme={outcome.scheme} />
          </div>
          <Peaks outcome={outcome} />
        </div>
      )}
    </div>
  );
}

function Months({ outcome }: { outcome: Outcome }) {
  const units = useKept((s) => s.units);
  const option = useMemo(() => {
    const { factor, unit } = scale("kWh", units);
    const list = outcome.monthly;
    return {
      grid: { ...grid, left: 52, right: 4 },
      tooltip: { ...tooltip, valueFormatter: (v: number) => `${v.toFixed(0)} ${unit}` },
      xAxis: category(months),
      yAxis: value(unit),
      series: endUses.map((use) => ({
        type: "bar",
        name: use.name,
        stack: "all",
        itemStyle: { color: use.colour, borderColor: tone.card, borderWidth: 0.5 },
        data: list.map((m) => {
          const e = m.energy_kwh;
          return factor * (use.id === "fans_pumps" ? (e.fans ?? 0) + (e.pumps ?? 0) : (e[use.id] ?? 0));
        }),
      })),
    };
  }, [outcome, units]);
  return <Chart option={option} height={190} label="Energy by month and end use" />;
}
