import { MenuItem, Select } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { client, got, type Outcome } from "../api/client";
import { useProject, useProjectId } from "../api/hooks";
import { Chart } from "../charts/Chart";
import { category, grid, textStyle, tooltip, value } from "../charts/style";
import { useKept } from "./state";
import { endUses } from "./theme";
import { both, dateOfHour, hourText, months, scale } from "./words";

type Month = { energy_kwh: Record<string, number> };

/** What opens above the readout: months, peaks, the year as a carpet, hourly lines. */
export default function Drawer({ outcome }: { outcome: Outcome }) {
  const units = useKept((s) => s.units);
  const project = useProjectId();
  const revision = useProject().data?.revision;
  const [zone, setZone] = useState("");
  const [start, setStart] = useState(24 * 196);
  const year = useQuery({
    queryKey: ["hourly", project, outcome.scheme, revision, zone],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/hourly", {
          params: { path: { project_id: project, scheme_id: outcome.scheme }, query: { zone, start: 0, hours: 8760 } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const peaks = outcome.peaks as {
    heating_w: number;
    cooling_w: number;
    heating_at: string;
    cooling_at: string;
    substeps: number;
  };

  const monthly = useMemo(() => {
    const { factor, unit } = scale("kWh", units);
    const list = outcome.monthly as unknown as Month[];
    return {
      grid: { ...grid, left: 52, right: 4 },
      tooltip: { ...tooltip, valueFormatter: (v: number) => `${v.toFixed(0)} ${unit}` },
      xAxis: category(months),
      yAxis: value(unit),
      series: endUses.map((use) => ({
        type: "bar",
        name: use.name,
        stack: "all",
        itemStyle: { color: use.colour, borderColor: "#FBF9F5", borderWidth: 0.5 },
        data: list.map((m) => {
          const e = m.energy_kwh;
          return factor * (use.id === "fans_pumps" ? (e.fans ?? 0) + (e.pumps ?? 0) : (e[use.id] ?? 0));
        }),
      })),
    };
  }, [outcome, units]);

  const week = useMemo(() => {
    if (!year.data) return null;
    const span = (series: number[]) => series.slice(start, start + 168);
    const warm = scale("°C", units);
    const power = scale("kW", units);
    const degrees = (s: number[]) => span(s).map((v) => v * warm.factor + warm.offset);
    const kilo = (s: number[]) => span(s).map((v) => (v / 1000) * power.factor);
    const hours = Array.from(
      { length: 168 },
      (_, i) => `${dateOfHour(start + i)} ${String((start + i) % 24).padStart(2, "0")}:00`,
    );
    const line = (name: string, data: number[], color: string, axis: number, more = {}) => ({
      type: "line",
      name,
      data,
      yAxisIndex: axis,
      showSymbol: false,
      lineStyle: { color, width: 1.6, ...more },
      itemStyle: { color },
    });
    return {
      grid: { left: 40, right: 44, top: 40, bottom: 22 },
      legend: { top: 0, textStyle, itemWidth: 14, itemHeight: 8 },
      tooltip: { ...tooltip, valueFormatter: (v: number) => v.toFixed(1) },
      xAxis: {
        ...category(hours),
        axisLabel: { ...textStyle, interval: 23, formatter: (t: string) => t.slice(0, -6) },
      },
      yAxis: [value(warm.unit, { scale: true }), value(power.unit, { splitLine: { show: false } })],
      series: [
        line("indoor air", degrees(year.data.air_c), "#22303A", 0),
        line("outdoor air", degrees(year.data.outdoor_c), "#8FA6A0", 0, { type: "dashed" }),
        line("heating", kilo(year.data.heating_w), "#B04A32", 1),
        line("cooling", kilo(year.data.cooling_w), "#2B5F8A", 1),
        line("sun through glass", kilo(year.data.solar_w), "#B8931F", 1),
      ],
    };
  }, [year.data, start, units]);

  const zones = outcome.zones as unknown as { id: string; name: string }[];
  return (
    <div className="drawer">
      <div>
        <div className="spread">
          <h3>By month</h3>
          <span className="small quiet">
            Peaks, {peaks.substeps === 1 ? "hourly steps" : `${peaks.substeps} steps an hour`}: heating{" "}
            {both(peaks.heating_w / 1000, "kW", units, 1)} on {hourText(peaks.heating_at)}, cooling{" "}
            {both(peaks.cooling_w / 1000, "kW", units, 1)} on {hourText(peaks.cooling_at)}
          </span>
        </div>
        <Chart option={monthly} height={168} label="Energy by month and end use" />
        <div className="spread">
          <h3>The year, hour by hour</h3>
          <span className="small quiet">brown heating, blue cooling; midnight at the top; click for a week</span>
        </div>
        {year.data && (
          <Carpet heating={year.data.heating_w} cooling={year.data.cooling_w} start={start} onPick={setStart} />
        )}
      </div>
      <div>
        <div className="spread">
          <h3>Week from {dateOfHour(start)}</h3>
          <Select
            value={zone}
            displayEmpty
            onChange={(e) => setZone(e.target.value)}
            inputProps={{ "aria-label": "Zone" }}
            sx={{ maxWidth: 260 }}
          >
            <MenuItem value="">Whole building</MenuItem>
            {zones.map((z) => (
              <MenuItem key={z.id} value={z.id}>
                {z.name}
              </MenuItem>
            ))}
          </Select>
        </div>
        {week && <Chart option={week} height={300} label="Hourly temperatures and loads of a week" />}
        <input
          type="range"
          aria-label="Week"
          style={{ width: "100%", accentColor: "var(--tide)" }}
          min={0}
          max={8760 - 168}
          step={24}
          value={start}
          onChange={(e) => setStart(Number(e.target.value))}
        />
      </div>
    </div>
  );
}

/** Heating and cooling of every hour as a carpet, days across and hours down. */
function Carpet({
  heating,
  cooling,
  start,
  onPick,
}: {
  heating: number[];
  cooling: number[];
  start: number;
  onPick: (hour: number) => void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen) return;
    const most = Math.max(...heating, ...cooling, 1);
    const picture = pen.createImageData(365, 24);
    for (let i = 0; i < 8760; i++) {
      const warm = heating[i] > 0;
      const share = Math.sqrt(Math.max(heating[i], cooling[i]) / most);
      const to = warm ? [138, 84, 20] : [31, 72, 110];
      const at = ((i % 24) * 365 + Math.floor(i / 24)) * 4;
      const from = [240, 236, 226];
      for (let c = 0; c < 3; c++) picture.data[at + c] = from[c] + (to[c] - from[c]) * share;
      picture.data[at + 3] = 255;
    }
    pen.putImageData(picture, 0, 0);
  }, [heating, cooling]);
  return (
    <div style={{ position: "relative" }}>
      <canvas
        ref={canvas}
        width={365}
        height={24}
        aria-label="Heating and cooling of every hour of the year"
        style={{ width: "100%", height: 108, imageRendering: "pixelated", cursor: "crosshair", display: "block" }}
        onClick={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          const day = Math.floor(((e.clientX - box.left) / box.width) * 365);
          onPick(Math.min(Math.max(day - 3, 0), 358) * 24);
        }}
      />
      <span
        style={{
          position: "absolute",
          top: 0,
          height: 108,
          left: `${(start / 8760) * 100}%`,
          width: `${(168 / 8760) * 100}%`,
          border: "1px solid var(--ink)",
          pointerEvents: "none",
        }}
      />
    </div>
  );
}
