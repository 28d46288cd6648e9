import { MenuItem, Select } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Schemas } from "../../api/client";
import { useProject, useProjectId } from "../../api/hooks";
import { useColours } from "../../app/Peaks";
import { useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { both, hourText } from "../../app/words";
import { PartsBars } from "../../charts/PartsBars";
import { type Explained, Shares } from "./Shares";

type Column = Schemas["ColumnOut"];
type Beside = Schemas["BesideOut"];
const views = [
  ["own", "each at its own peak"],
  ["base", "both at the reference's hour"],
  ["other", "both at this case's hour"],
  ["year", "over the year"],
] as const;
type View = (typeof views)[number][0];

/** Why a pinned case differs from the reference: part by part, and what was changed by its share. */
export function Why({ columns }: { columns: Column[] }) {
  const pinned = columns.filter((c) => c.pin && !c.is_reference && c.outcome);
  const [chosen, setChosen] = useState("");
  const pin = (pinned.find((c) => c.pin === chosen) ?? pinned[0])?.pin ?? "";
  if (!pin) return null;
  return (
    <section className="why" aria-label="Why">
      <div className="row" style={{ alignItems: "center", gap: 12 }}>
        <h2>Why</h2>
        <Select
          value={pin}
          onChange={(e) => setChosen(e.target.value)}
          inputProps={{ "aria-label": "Case to explain" }}
        >
          {pinned.map((c) => (
            <MenuItem key={c.pin} value={c.pin ?? ""}>
              {c.title}
            </MenuItem>
          ))}
        </Select>
        <span className="quiet">against {columns[0].title}</span>
      </div>
      <Shares of={{ pin }} />
      <PartByPart of={{ pin }} base="the reference" />
    </section>
  );
}

/** The loads of a case and of what it is held against, part by part, at the hours of their peaks and over the year. */
export function PartByPart({ of, base }: { of: Explained; base: string }) {
  const project = useProjectId();
  const revision = useProject().data?.revision;
  const [view, setView] = useState<View>("own");
  const beside = useQuery({
    queryKey: ["beside", project, revision, of],
    queryFn: () =>
      got(
        "pin" in of
          ? client.GET("/api/projects/{project_id}/pins/{pin_id}/why", {
              params: { path: { project_id: project, pin_id: of.pin } },
            })
          : client.GET("/api/projects/{project_id}/studies/{study_id}/cases/{number}/why", {
              params: { path: { project_id: project, study_id: of.study, number: of.number } },
            }),
      ),
    retry: false,
  });
  if (!beside.data)
    return <p className="quiet">{beside.error ? <Told text={beside.error.message} /> : "Taking both cases apart."}</p>;
  return (
    <>
      <div className="row" role="radiogroup" aria-label="Parts at" style={{ gap: 14, marginTop: 18 }}>
        <h3 style={{ margin: 0 }}>Part by part</h3>
        {views.map(([id, name]) => (
          <button
            key={id}
            type="button"
            role="radio"
            aria-checked={view === id}
            className={`plain ${view === id ? "chosen" : "quiet"}`}
            onClick={() => setView(id)}
          >
            {name.replace("the reference", base)}
          </button>
        ))}
      </div>
      <div className="why-parts">
        {(["heating", "cooling"] as const).map((use) => (
          <Use key={use} use={use} beside={beside.data} view={view} />
        ))}
      </div>
      <div className="small quiet">
        Outlined: {beside.data.base_name}. Filled: {beside.data.other_name}. What lowers the load stands left of zero;
        four steps an hour.
      </div>
    </>
  );
}

function Use({ use, beside, view }: { use: "heating" | "cooling"; beside: Beside; view: View }) {
  const units = useKept((s) => s.units);
  const { base, other, sentence } = beside[use];
  const year = view === "year";
  const moments = {
    own: [base.own, other.own],
    base: [base.own, other.at_other],
    other: [base.at_other, other.own],
    year: [base.own, other.own],
  }[view];
  const loads = year ? [base.load_kwh, other.load_kwh] : moments.map((m) => m.load_w / 1000);
  const parts = year ? [base.parts_kwh, other.parts_kwh] : moments.map((m) => m.parts_w);
  const unit = year ? "kWh" : "kW";
  const digits = year ? 0 : 1;
  const hour = (m: Schemas["MomentOut"]) => (m.at ? hourText(m.at) : "no load");
  return (
    <div data-use={use}>
      <h3>
        {use === "heating" ? "Heating" : "Cooling"}: {both(loads[0], unit, units, digits)} to{" "}
        {both(loads[1], unit, units, digits)}
      </h3>
      <div className="small quiet">
        {year
          ? "demand of the year"
          : `${hour(moments[0])}, ${zonesOf(moments[0], use)}; and ${hour(moments[1])}, ${zonesOf(moments[1], use)}`}
      </div>
      <PartsBars
        rows={beside.sources.map((s) => ({
          id: s.id,
          name: s.name,
          values: parts.map((p) => p[s.id] / (year ? 1 : 1000)),
        }))}
        unit={unit}
        digits={year ? 0 : 2}
        colour={useColours[use]}
        label={`Parts of ${use} of both cases`}
        rowHeight={20}
      />
      <p data-sentence={use}>{sentence}</p>
    </div>
  );
}

function zonesOf(m: Schemas["MomentOut"], use: "heating" | "cooling"): string {
  return `${m.zones_loaded} ${m.zones_loaded === 1 ? "zone" : "zones"} ${use === "heating" ? "heated" : "cooled"}`;
}
