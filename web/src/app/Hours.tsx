import { Button, Checkbox, ListItemText, Menu, MenuItem, Select } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { client, got, type Outcome, type Schemas } from "../api/client";
import { useProject, useProjectId } from "../api/hooks";
import { Carpet } from "../charts/Carpet";
import { Chart } from "../charts/Chart";
import { category, textStyle, tooltip, value } from "../charts/style";
import { saveFrom } from "./files";
import { tell, useKept, useView } from "./state";
import { tone } from "./tokens";
import { dateOfHour, scale } from "./words";

type Series = Schemas["SeriesOut"];
type Ask = Schemas["HourlyAsk"];
// biome-ignore format: a table
const colours: Record<string, string> = {
  air_c: tone.ink, operative_c: tone.quiet, outdoor_c: "#7D9A93", heating_w: "#B04A32", cooling_w: "#2B5F8A", solar_w: "#B8931F",
  people_w: "#9C6B3F", lighting_w: "#C7A11A", equipment_w: "#7D6B9C", infiltration_w: "#3E8A94", ventilation_w: tone.tide,
  airing_w: "#5FA37A", lighting_asked_w: "#8F7A2A", daylight_lx: "#D9A441", beam_w_m2: "#C2682F", cloud_tenths: "#9AA3AB", humidity_pct: "#4F6F9F", outdoor_humidity_pct: "#93A9C4", global_w_m2: "#D0A93A", wind_m_s: "#8A8A86",
};
const others = [tone.tide, tone.fault, "#7D6B9C", "#5F8A3C", "#B8931F", "#2B5F8A"];
const dashes = ["solid", "dashed", "dotted", [8, 3, 2, 3], [2, 2], [12, 4]];
/** Powers are shown in kW. */
const shownUnit = (unit: string) => (unit === "W" ? "kW" : unit);

const usual = {
  heat: ["air_c", "outdoor_c", "heating_w", "cooling_w", "solar_w"],
  light: ["lighting_w", "lighting_asked_w", "daylight_lx", "beam_w_m2", "cloud_tenths"],
};

/** Any hours of the year: chosen lines of chosen zones and cases (a `given` one among them), the year as a carpet, what is shown as a file. */
export function Hours({ outcome, given }: { outcome: Outcome; given?: { name: string; ask: Ask["cases"][number] } }) {
  const units = useKept((s) => s.units);
  const project = useProjectId();
  const state = useProject().data;
  const revision = state?.revision;
  const selection = useView((s) => s.selection);
  const [zones, setZones] = useState<string[]>([selection?.kind === "zone" ? selection.id : ""]);
  const [lines, setLines] = useState(usual.heat);
  const [beside, setBeside] = useState<string[]>(given ? ["given"] : []);
  const [carpet, setCarpet] = useState("loads");
  const [span, setSpan] = useState({ day: 196, days: 7 });
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const catalogue = useQuery({
    queryKey: ["lines"],
    queryFn: () => got(client.GET("/api/projects/{project_id}/lines", { params: { path: { project_id: project } } })),
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
  const pins = useQuery({
    queryKey: ["pins", project],
    queryFn: () => got(client.GET("/api/projects/{project_id}/pins", { params: { path: { project_id: project } } })),
  }).data as { id: string; study: string | null; number: number | null }[] | undefined;

  const choices = [
    ...(given ? [{ id: "given", name: given.name }] : []),
    ...(state?.completed.schemes ?? [])
      .filter((s) => s.id !== outcome.scheme)
      .map((s) => ({ id: `scheme:${s.id}`, name: s.name })),
    ...(pins ?? []).filter((p) => p.study).map((p) => ({ id: `pin:${p.id}`, name: `pinned case ${p.number}` })),
  ];
  const cases: Ask["cases"] = [
    { scheme: outcome.scheme },
    ...beside
      .filter((id) => choices.some((c) => c.id === id))
      .map((id) =>
        given && id === "given" ? given.ask : id.startsWith("pin:") ? { pin: id.slice(4) } : { scheme: id.slice(7) },
      ),
  ];
  const known = new Set(outcome.zones.map((z) => z.id));
  const there = zones.filter((z) => z === "" || known.has(z));
  const body = { cases, zones: there.length ? there : [""], lines, start: 0, hours: 8760 };
  const year = useQuery({
    queryKey: ["hours", project, revision, JSON.stringify(body)],
    queryFn: () =>
      got(client.POST("/api/projects/{project_id}/hourly", { params: { path: { project_id: project } }, body })),
    placeholderData: keepPreviousData,
    enabled: lines.length > 0,
  });
  const loads = useQuery({
    queryKey: ["carpet", project, revision, outcome.scheme, carpet, body.zones[0]],
    queryFn: () =>
      got(
        client.POST("/api/projects/{project_id}/hourly", {
          params: { path: { project_id: project } },
          body: {
            cases: [{ scheme: outcome.scheme }],
            zones: [body.zones[0]],
            lines: carpet === "loads" ? ["heating_w", "cooling_w"] : [carpet],
            start: 0,
            hours: 8760,
          },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const start = span.day * 24;
  const hours = Math.min(span.days * 24, 8760 - start);
  const option = useMemo(
    () => (year.data?.series.length ? picture(year.data.series, start, hours, units) : null),
    [year.data, start, hours, units],
  );

  async function save(format: "csv" | "parquet") {
    setMenu(null);
    const ask = {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ ...body, start, hours, format }),
    };
    const name = `${outcome.scheme}-hours.${format}`;
    if (!(await saveFrom(`/api/projects/${project}/hourly/file`, ask, name))) return;
    tell(
      `${hours} hours of ${year.data?.series.length ?? 0} lines are saved as ${format === "csv" ? "CSV" : "Parquet"}.`,
    );
  }

  const zoneRows = [{ id: "", name: "Whole building" }, ...outcome.zones];
  const nameOf = (id: string) => zoneRows.find((z) => z.id === id)?.name ?? id;
  return (
    <div className="drawer-hours">
      <div className="hours-asks">
        <Many
          label="Zones"
          options={zoneRows}
          chosen={body.zones}
          onChoose={(v) => setZones(v.length ? v : [""])}
          least={1}
        />
        <Many
          label="Lines"
          options={(catalogue ?? []).map((l) => ({ id: l.name, name: l.title }))}
          chosen={lines}
          onChoose={(v) => v.length && setLines(v)}
          least={1}
        />
        <span className="switch" role="group" aria-label="Lines at once">
          {(Object.keys(usual) as (keyof typeof usual)[]).map((set) => (
            <button
              key={set}
              type="button"
              aria-pressed={lines.join() === usual[set].join()}
              onClick={() => setLines(usual[set])}
            >
              {set}
            </button>
          ))}
        </span>
        <Many
          label="Beside it"
          options={choices}
          chosen={beside}
          onChoose={(v) => setBeside(v.slice(0, 3))}
          none={choices.length ? "no other case" : "nothing pinned"}
        />
        <div>
          <div className="small quiet">Carpet</div>
          <Select
            value={carpet}
            fullWidth
            onChange={(e) => setCarpet(e.target.value)}
            inputProps={{ "aria-label": "Carpet" }}
          >
            <MenuItem value="loads">heating and cooling</MenuItem>
            {(catalogue ?? []).map((l) => (
              <MenuItem key={l.name} value={l.name}>
                {l.title}
              </MenuItem>
            ))}
          </Select>
        </div>
        <Button variant="outlined" onClick={(e) => setMenu(e.currentTarget)}>
          Save these hours
        </Button>
        <Menu anchorEl={menu} open={Boolean(menu)} onClose={() => setMenu(null)}>
          <MenuItem onClick={() => void save("csv")}>as CSV</MenuItem>
          <MenuItem onClick={() => void save("parquet")}>as Parquet</MenuItem>
        </Menu>
      </div>
      <div style={{ minWidth: 0 }}>
        {loads.data && (
          <Carpet
            series={loads.data.series}
            day={span.day}
            days={span.days}
            onPick={(day, days) => setSpan({ day, days })}
            what={`${nameOf(body.zones[0])}, ${carpet === "loads" ? "heating brown, cooling blue" : (loads.data.series[0]?.title ?? "")}`}
          />
        )}
        <div className="spread small quiet">
          <span>
            {dateOfHour(start)} to {dateOfHour(start + hours - 1)}
            {year.isFetching ? " · working" : ""}
          </span>
          <span>drag over the carpet for any days; a click takes a week</span>
        </div>
        {option && <Chart option={option} height={244} label="Hourly lines of the chosen days" />}
      </div>
    </div>
  );
}

/** Several of a list, in little room. */
function Many({
  label,
  options,
  chosen,
  onChoose,
  least = 0,
  none = "none",
}: {
  label: string;
  options: { id: string; name: string }[];
  chosen: string[];
  onChoose: (chosen: string[]) => void;
  least?: number;
  none?: string;
}) {
  const name = (id: string) => options.find((o) => o.id === id)?.name ?? id;
  return (
    <div>
      <div className="small quiet">{label}</div>
      <Select
        multiple
        fullWidth
        displayEmpty
        value={chosen}
        disabled={options.length === 0}
        onChange={(e) => {
          const next = e.target.value as string[];
          if (next.length >= least) onChoose(next);
        }}
        inputProps={{ "aria-label": label }}
        renderValue={(v) => (v.length === 0 ? none : v.length === 1 ? name(v[0]) : `${v.length} chosen`)}
      >
        {options.map((o) => (
          <MenuItem key={o.id || "whole"} value={o.id} dense>
            <Checkbox size="small" checked={chosen.includes(o.id)} sx={{ p: 0, mr: 1 }} />
            <ListItemText primary={o.name} />
          </MenuItem>
        ))}
      </Select>
    </div>
  );
}

function picture(series: Series[], start: number, hours: number, units: "SI" | "IP") {
  const kinds = [...new Set(series.map((s) => shownUnit(s.unit)))];
  const cases = [...new Set(series.map((s) => s.case))];
  const zones = [...new Set(series.filter((s) => s.zone !== "" || !isWeather(s)).map((s) => s.zone))];
  const hour = (i: number) => `${dateOfHour(i)} ${String(i % 24).padStart(2, "0")}:00`;
  // weather is the same for cases of one climate: shown once where it is
  const once = series.filter(
    (s, i) =>
      !isWeather(s) ||
      series.findIndex((o) => o.line === s.line && o.values[0] === s.values[0] && o.values[4000] === s.values[4000]) ===
        i,
  );
  const twelfth = Math.max(1, Math.floor(hours / 24 / 8)) * 24;
  return {
    grid: { left: 42, right: 46 + 40 * Math.max(0, kinds.length - 2), top: 46, bottom: 20 },
    legend: {
      top: 0,
      textStyle,
      itemWidth: 16,
      itemHeight: 8,
      type: "scroll",
      pageIconColor: tone.ink,
      pageTextStyle: textStyle,
    },
    tooltip: { ...tooltip, valueFormatter: (v: number) => v.toFixed(1) },
    xAxis: {
      ...category(Array.from({ length: hours }, (_, i) => hour(start + i))),
      axisLabel: {
        ...textStyle,
        interval: (i: number) => i % twelfth === 0,
        formatter: (t: string) => t.slice(0, -6),
      },
    },
    yAxis: kinds.map((unit, i) =>
      value(scale(unit, units).unit, {
        scale: unit === "°C",
        position: i === 0 ? "left" : "right",
        offset: i > 1 ? (i - 1) * 44 : 0,
        splitLine: { show: i === 0, lineStyle: { color: "#EBE6DB" } },
      }),
    ),
    series: once.map((s) => {
      const unit = shownUnit(s.unit);
      const { factor, offset } = scale(unit, units);
      const by = s.unit === "W" ? factor / 1000 : factor;
      const zone = zones.indexOf(s.zone);
      const which = cases.indexOf(s.case);
      const color =
        zones.length > 1 && !isWeather(s) && zone > 0
          ? others[(zone - 1 + 2 * kinds.indexOf(unit)) % others.length]
          : (colours[s.line] ?? tone.ink);
      const where = zones.length > 1 && !isWeather(s) ? `, ${s.zone_name || "building"}` : "";
      return {
        type: "line",
        name: `${s.title}${where}${cases.length > 1 && !(isWeather(s) && which === 0) ? ` · ${s.case}` : ""}`,
        data: s.values.slice(start, start + hours).map((v) => v * by + offset),
        yAxisIndex: kinds.indexOf(unit),
        showSymbol: false,
        lineStyle: {
          color,
          width: which === 0 ? 1.6 : 1.3,
          type: isWeather(s) ? "dashed" : dashes[which % dashes.length],
        },
        itemStyle: { color },
      };
    }),
  };
}

function isWeather(s: Series): boolean {
  return s.line.startsWith("outdoor_") || ["global_w_m2", "wind_m_s", "beam_w_m2", "cloud_tenths"].includes(s.line);
}
