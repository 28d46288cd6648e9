import { MenuItem, Select } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { client, got, type Schemas } from "../../api/client";
import { useProject, useProjectId, useScheme } from "../../api/hooks";
import { tone } from "../../app/tokens";
import { both, hourText, months, scale } from "../../app/words";
import { Chart } from "../../charts/Chart";
import { category, grid, textStyle, tooltip, value } from "../../charts/style";
import { AirView, accountOf, GivesView, HoursView, SidesView, WindView } from "./ClimateViews";

type Units = "SI" | "IP";
const views = [
  ["months", "Months"],
  ["temperature", "Temperature by hour"],
  ["humidity", "Humidity by hour"],
  ["sides", "Sun by side"],
  ["air", "Water in the air"],
  ["wind", "Wind"],
  ["gives", "What it gives"],
] as const;

type Sheet = Schemas["ClimateSheet"];

/** Temperature band and radiation by month, degree days, design hours. */
function MonthsView({ sheet, units, narrow }: { sheet: Sheet; units: Units; narrow: boolean }) {
  const temperature = useMemo(() => {
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
          lineStyle: { color: tone.ink, width: 2 },
        },
      ],
    };
  }, [sheet, units]);

  const radiation = useMemo(() => {
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

  const d = sheet.degree_days;
  return (
    <div
      style={{
        display: "grid",
        gridTemplateColumns: narrow ? "minmax(0, 1fr)" : "minmax(0, 1fr) minmax(0, 1fr) 190px",
        gap: 14,
      }}
    >
      <div>
        <div className="small quiet">Outdoor temperature by month</div>
        <Chart option={temperature} height={188} label="Outdoor temperature by month" />
      </div>
      <div hidden={narrow}>
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
  );
}

function useClimate(standIn: string | null, wanted: boolean) {
  const project = useProjectId();
  const { scheme, state } = useScheme();
  const climate = useProject().data?.completed.place?.climate?.id;
  const query = standIn ? { stand_in: standIn } : {};
  return useQuery({
    queryKey: [
      "climate",
      project,
      scheme.id,
      standIn ?? climate,
      scheme.use?.profile,
      JSON.stringify(state.completed.library?.profiles ?? []),
    ],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/climate", {
          params: { path: { project_id: project, scheme_id: scheme.id }, query },
        }),
      ),
    enabled: wanted,
  }).data;
}

/** The climate in pictures: by month, by hour, by side, the air's own diagram, wind, and what it gives; another climate beside it if wished. */
export function ClimateSheet({ units, others }: { units: Units; others: { id: string; name: string }[] }) {
  const [view, setView] = useState<(typeof views)[number][0]>("months");
  const [beside, setBeside] = useState("");
  const [season, setSeason] = useState("year");
  const climate = useClimate(null, true);
  const other = useClimate(beside || null, beside !== "");
  const project = useProjectId();
  const chosen = useProject().data?.completed.place?.climate?.id;
  const remarks = useQuery({
    queryKey: ["climate-sheet", project, chosen],
    queryFn: () =>
      got(client.GET("/api/projects/{project_id}/climate-sheet", { params: { path: { project_id: project } } })),
  }).data?.remarks.map((r) => r.sentence);
  if (!climate) return null;
  const shown = other && beside ? [climate, other] : [climate];
  const all = (of: "temperature_by_hour" | "humidity_by_hour") => shown.flatMap((c) => accountOf(c)[of].flat());
  const range = (of: "temperature_by_hour" | "humidity_by_hour"): [number, number] => [
    Math.min(...all(of)),
    Math.max(...all(of)),
  ];
  const cells = shown.flatMap((c) => accountOf(c).psychrometric);
  const air = {
    low: Math.min(...cells.map((c) => c[0])) - 2,
    high: Math.max(...cells.map((c) => c[0])) + 2,
    water: Math.max(...cells.map((c) => c[1])) + 1.5,
  };
  const most = Math.max(...shown.flatMap((c) => Object.values(c.on_planes_kwh_m2).flat()));
  return (
    <section className="climate-sheet" aria-label="Climate sheet">
      <div className="row" style={{ flexWrap: "wrap", marginBottom: 6 }}>
        <span className="switch" role="group" aria-label="What the sheet shows">
          {views.map(([id, name]) => (
            <button key={id} type="button" aria-pressed={view === id} onClick={() => setView(id)}>
              {name}
            </button>
          ))}
        </span>
        {view === "wind" && (
          <Select value={season} inputProps={{ "aria-label": "Season" }} onChange={(e) => setSeason(e.target.value)}>
            {["year", "winter", "spring", "summer", "autumn"].map((s) => (
              <MenuItem key={s} value={s}>
                {s}
              </MenuItem>
            ))}
          </Select>
        )}
        <Select
          value={beside}
          displayEmpty
          inputProps={{ "aria-label": "Another climate beside it" }}
          onChange={(e) => setBeside(e.target.value)}
          renderValue={(v) => (v ? `beside: ${others.find((o) => o.id === v)?.name}` : "beside: none")}
        >
          <MenuItem value="">none</MenuItem>
          {others.map((o) => (
            <MenuItem key={o.id} value={o.id}>
              {o.name}
            </MenuItem>
          ))}
        </Select>
      </div>
      <div style={{ display: "grid", gridTemplateColumns: `repeat(${shown.length}, minmax(0, 1fr))`, gap: 18 }}>
        {shown.map((c) => {
          const sheet = c.sheet;
          return (
            <div key={c.id}>
              <div className="spread">
                <h2>{sheet.location.city}</h2>
                {shown.length === 1 && (
                  <span className="small quiet">
                    {sheet.location.latitude_deg.toFixed(1)}°, {sheet.location.longitude_deg.toFixed(1)}°,{" "}
                    {both(sheet.location.altitude_m, "m", units, 0)} · {sheet.location.source}
                  </span>
                )}
              </div>
              {view === "months" && <MonthsView sheet={sheet} units={units} narrow={shown.length > 1} />}
              {view === "temperature" && (
                <HoursView climate={c} units={units} of="temperature" range={range("temperature_by_hour")} />
              )}
              {view === "humidity" && (
                <HoursView climate={c} units={units} of="humidity" range={range("humidity_by_hour")} />
              )}
              {view === "sides" && <SidesView climate={c} units={units} most={most} />}
              {view === "air" && <AirView climate={c} units={units} range={air} />}
              {view === "wind" && <WindView climate={c} units={units} season={season} />}
              {view === "gives" && <GivesView climate={c} />}
            </div>
          );
        })}
      </div>
      {view === "gives" && (
        <div className="quiet small">
          Adaptive comfort of ANSI/ASHRAE 55 at 80% acceptance. The room is our own: 5 by 4 by 3 m, one outside wall to
          the south, used as the scheme is, neither heated nor cooled, its fresh air as it comes from outdoors.
        </div>
      )}
      {[...(remarks ?? []), ...accountOf(climate).doubts].map((sentence) => (
        <div className="remark" key={sentence}>
          {sentence}
        </div>
      ))}
    </section>
  );
}
