import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { client, got } from "../../api/client";
import { useProject, useProjectId } from "../../api/hooks";
import { both, hourText, months, scale } from "../../app/words";
import { Chart } from "../../charts/Chart";
import { category, grid, textStyle, tooltip, value } from "../../charts/style";

interface Sheet {
  location: { city: string; source: string; latitude_deg: number; longitude_deg: number; altitude_m: number };
  temperature_c: Record<"mean" | "low" | "high" | "daily_low" | "daily_high", number[]>;
  radiation_kwh_m2: Record<"global_horizontal" | "direct_normal" | "diffuse_horizontal", number[]>;
  year_mean_c: number;
  degree_days: { heating: number; heating_base_c: number; cooling: number; cooling_base_c: number };
  design_days: Record<"cold" | "warm", { what: string; hour: string; air_c: number }>;
  wind_m_s: number[];
  remarks: { sentence: string }[];
}

/** Temperature band and radiation by month, degree days, design hours. */
export function ClimateSheet({ units }: { units: "SI" | "IP" }) {
  const project = useProjectId();
  const climate = useProject().data?.completed.place?.climate?.id;
  const sheet = useQuery({
    queryKey: ["climate-sheet", project, climate],
    queryFn: async () =>
      (await got(
        client.GET("/api/projects/{project_id}/climate-sheet", { params: { path: { project_id: project } } }),
      )) as unknown as Sheet,
  }).data;

  const temperature = useMemo(() => {
    if (!sheet) return null;
    const t = scale("°C", units);
    const show = (list: number[]) => list.map((v) => v * t.factor + t.offset);
    const low = show(sheet.temperature_c.low);
    const band = show(sheet.temperature_c.high).map((v, i) => v - low[i]);
    const inner = show(sheet.temperature_c.daily_low);
    const innerBand = show(sheet.temperature_c.daily_high).map((v, i) => v - inner[i]);
    const area = (name: string, stack: string, data: number[], color: string | null) => ({
      type: "line",
      name,
      stack,
      data,
      symbol: "none",
      lineStyle: { opacity: 0 },
      stackStrategy: "all",
      areaStyle: color ? { color, opacity: 1 } : { opacity: 0 },
      tooltip: { show: false },
    });
    return {
      grid,
      tooltip: { ...tooltip, valueFormatter: (v: number) => `${v.toFixed(1)} ${t.unit}` },
      xAxis: { ...category(months), boundaryGap: false },
      yAxis: value(t.unit),
      series: [
        area("", "outer", low, null),
        area("98% of hours", "outer", band, "#E3EBE6"),
        area("", "inner", inner, null),
        area("mean daily range", "inner", innerBand, "#B9D3CF"),
        {
          type: "line",
          name: "mean",
          data: show(sheet.temperature_c.mean),
          symbol: "none",
          lineStyle: { color: "#22303A", width: 2 },
        },
      ],
    };
  }, [sheet, units]);

  const radiation = useMemo(() => {
    if (!sheet) return null;
    const e = scale("kWh/m²", units);
    const show = (list: number[]) => list.map((v) => v * e.factor);
    const diffuse = show(sheet.radiation_kwh_m2.diffuse_horizontal);
    const rest = show(sheet.radiation_kwh_m2.global_horizontal).map((v, i) => v - diffuse[i]);
    return {
      grid: { ...grid, top: 42 },
      legend: { top: 0, textStyle, itemWidth: 12, itemHeight: 8 },
      tooltip: { ...tooltip, valueFormatter: (v: number) => `${v.toFixed(0)} ${e.unit}` },
      xAxis: category(months),
      yAxis: value(e.unit),
      series: [
        { type: "bar", name: "diffuse", stack: "g", data: diffuse, itemStyle: { color: "#D9CFAE" } },
        { type: "bar", name: "direct, on the level", stack: "g", data: rest, itemStyle: { color: "#C79A2B" } },
      ],
    };
  }, [sheet, units]);

  if (!sheet || !temperature || !radiation) return null;
  const d = sheet.degree_days;
  return (
    <section className="climate-sheet" aria-label="Climate sheet">
      <div className="spread">
        <h2>{sheet.location.city}</h2>
        <span className="small quiet">
          {sheet.location.latitude_deg.toFixed(1)}°, {sheet.location.longitude_deg.toFixed(1)}°,{" "}
          {both(sheet.location.altitude_m, "m", units, 0)} · {sheet.location.source}
        </span>
      </div>
      <div style={{ display: "grid", gridTemplateColumns: "1fr 1fr 190px", gap: 14 }}>
        <div>
          <div className="small quiet">Outdoor temperature by month</div>
          <Chart option={temperature} height={188} label="Outdoor temperature by month" />
        </div>
        <div>
          <div className="small quiet">Radiation on the level by month</div>
          <Chart option={radiation} height={188} label="Radiation by month" />
        </div>
        <div className="small" style={{ display: "grid", gap: 6, alignContent: "start" }}>
          <div>
            <span className="quiet">Year's mean</span>
            <br />
            <b>{both(sheet.year_mean_c, "°C", units, 1)}</b>
          </div>
          <div>
            <span className="quiet">Heating degree days, below {both(d.heating_base_c, "°C", units, 1)}</span>
            <br />
            <b>{both(d.heating, "K·d", units, 0)}</b>
          </div>
          <div>
            <span className="quiet">Cooling degree days, above {both(d.cooling_base_c, "°C", units, 0)}</span>
            <br />
            <b>{both(d.cooling, "K·d", units, 0)}</b>
          </div>
          <div>
            <span className="quiet">{sheet.design_days.cold.what}</span>
            <br />
            <b>{both(sheet.design_days.cold.air_c, "°C", units, 1)}</b> {hourText(sheet.design_days.cold.hour)}
          </div>
          <div>
            <span className="quiet">{sheet.design_days.warm.what}</span>
            <br />
            <b>{both(sheet.design_days.warm.air_c, "°C", units, 1)}</b> {hourText(sheet.design_days.warm.hour)}
          </div>
        </div>
      </div>
      {sheet.remarks.map((r) => (
        <div className="remark" key={r.sentence}>
          {r.sentence}
        </div>
      ))}
    </section>
  );
}
