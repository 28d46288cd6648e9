import { MenuItem, Select } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Outcome } from "../api/client";
import { useProject, useProjectId } from "../api/hooks";
import { PartsBars } from "../charts/PartsBars";
import { useKept, useView } from "./state";
import { Told } from "./Told";
import { both, hourText } from "./words";

export const useColours = { heating: "#B04A32", cooling: "#2B5F8A" } as const;
type When = "peak" | "year";

/** The year's peaks by steps an hour, and the loads on design days, to tell how far a peak hangs on the reckoning. */
export function OtherPeaks({ scheme }: { scheme: string }) {
  const units = useKept((s) => s.units);
  const project = useProjectId();
  const revision = useProject().data?.revision;
  const peaks = useQuery({
    queryKey: ["peaks", project, scheme, revision],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/peaks", {
          params: { path: { project_id: project, scheme_id: scheme } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  }).data;
  if (!peaks) return <p className="small quiet">Working out design days.</p>;
  const kw = (watts: unknown) => both(Number(watts) / 1000, "kW", units, 1);
  const rows = [
    ["hourly steps", peaks.by_substeps["1"]],
    ["four steps an hour", peaks.by_substeps["4"]],
  ] as const;
  return (
    <table className="plain-table" data-peaks="">
      <thead>
        <tr>
          <th>Peaks</th>
          <th className="num">heating</th>
          <th className="num">cooling</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([name, p]) => (
          <tr key={name}>
            <td>{name}</td>
            <td className="num">{kw(p.heating_w)}</td>
            <td className="num">{kw(p.cooling_w)}</td>
          </tr>
        ))}
        <tr>
          <td title={`${peaks.heating.day}. ${peaks.cooling.day}.`}>design days</td>
          <td className="num">{kw(peaks.heating.load_w)}</td>
          <td className="num">{kw(peaks.cooling.load_w)}</td>
        </tr>
      </tbody>
      <caption className="small quiet" style={{ captionSide: "bottom", textAlign: "left" }}>
        Design days: {both(peaks.heating.highest_c, "°C", units, 1)}, {peaks.heating.day}; up to{" "}
        {both(peaks.cooling.highest_c, "°C", units, 1)}, {peaks.cooling.day}.
      </caption>
    </table>
  );
}

/** What heating and cooling are made of, at their peaks or over the year, of the building or of one zone. */
export function Peaks({ outcome }: { outcome: Outcome }) {
  const units = useKept((s) => s.units);
  const project = useProjectId();
  const revision = useProject().data?.revision;
  const selection = useView((s) => s.selection);
  const [zone, setZone] = useState(selection?.kind === "zone" ? selection.id : "");
  const [when, setWhen] = useState<When>("peak");
  const why = useQuery({
    queryKey: ["why", project, outcome.scheme, revision],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/why", {
          params: { path: { project_id: project, scheme_id: outcome.scheme } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
  if (!why.data)
    return <p className="quiet">{why.error ? <Told text={why.error.message} /> : "Taking the loads apart."}</p>;
  const of = why.data.zones.find((z) => z.id === zone) ?? why.data.building;
  const substeps = why.data.substeps;
  return (
    <>
      <div style={{ gridColumn: "2 / 4" }} className="spread">
        <div className="row" role="radiogroup" aria-label="When">
          {(["peak", "year"] as const).map((w) => (
            <button
              key={w}
              type="button"
              role="radio"
              aria-checked={when === w}
              className={`plain ${when === w ? "chosen" : "quiet"}`}
              onClick={() => setWhen(w)}
            >
              {w === "peak" ? "At the peak" : "Over the year"}
            </button>
          ))}
          <span className="small quiet">
            {substeps === 1 ? "hourly steps" : `${substeps} steps an hour`} · what lowers the load stands left of zero
          </span>
        </div>
        <Select
          value={zone}
          displayEmpty
          onChange={(e) => setZone(e.target.value)}
          inputProps={{ "aria-label": "Parts of" }}
          sx={{ maxWidth: 240 }}
        >
          <MenuItem value="">Whole building</MenuItem>
          {why.data.zones.map((z) => (
            <MenuItem key={z.id} value={z.id}>
              {z.name}
            </MenuItem>
          ))}
        </Select>
      </div>
      {(["heating", "cooling"] as const).map((use) => {
        const part = of[use];
        const peak = when === "peak";
        const load = peak ? part.peak.load_w / 1000 : part.load_kwh;
        const parts = peak ? part.peak.parts_w : part.parts_kwh;
        return (
          <div key={use} data-parts={use}>
            <h3>
              {use === "heating" ? "Heating" : "Cooling"} {both(load, peak ? "kW" : "kWh", units, peak ? 1 : 0)}
              <span className="small quiet" style={{ fontWeight: 400 }}>
                {peak ? ` on ${hourText(part.peak.at)}` : " a year"}
              </span>
            </h3>
            <PartsBars
              rows={why.data.sources.map((s) => ({
                id: s.id,
                name: s.name,
                values: [parts[s.id] / (peak ? 1000 : 1)],
              }))}
              unit={peak ? "kW" : "kWh"}
              digits={peak ? 2 : 0}
              colour={useColours[use]}
              label={`What ${use} is made of ${peak ? "at its peak" : "over the year"}`}
            />
          </div>
        );
      })}
    </>
  );
}
