import { Button, MenuItem, Select } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Face, got } from "../../api/client";
import { useOutcome, useProjectId, useScheme } from "../../api/hooks";
import type { Different } from "../../app/overrides";
import { useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { tone } from "../../app/tokens";
import { both, figure, inWords, scale } from "../../app/words";
import { Chart } from "../../charts/Chart";
import { DayField } from "../../fields/DayField";

const kinds = [
  ["overhang", "overhang", "overhang_m"],
  ["fins", "side fins", "fin_m"],
  ["louvres", "louvres", "louvre_m"],
] as const;

/** How deep: the depth of a shade that keeps the sun out between two dates and hours, and lets it in else. */
export function HowDeep({ face, put }: { face: Face; put: (part: Different) => Promise<boolean> }) {
  const project = useProjectId();
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const outcome = useOutcome(scheme.id).data;
  const [kind, setKind] = useState<(typeof kinds)[number][0]>("overhang");
  const [span, setSpan] = useState({ first_day: 120, last_day: 272, first_hour: 9, last_hour: 17 });
  const [before, setBefore] = useState<{ revision: number; energy: number; heating: number; cooling: number } | null>(
    null,
  );
  const ask = useMutation({
    mutationFn: () =>
      got(
        client.POST("/api/projects/{project_id}/schemes/{scheme_id}/how-deep", {
          params: { path: { project_id: project, scheme_id: scheme.id } },
          body: { face: face.id, kind, span },
        }),
      ),
  });
  const told = ask.data?.kind === kind ? ask.data : undefined;
  const to = scale("m", units);
  const totals = outcome?.totals as Record<string, number> | undefined;
  const figures = totals && {
    energy: totals.eui_kwh_per_m2,
    heating: totals.heating_demand_kwh,
    cooling: totals.cooling_demand_kwh,
  };

  async function take(depth: number) {
    const key = kinds.find(([k]) => k === kind)?.[2] ?? "overhang_m";
    if (figures) setBefore({ revision: outcome?.revision ?? 0, ...figures });
    await put({ [key]: depth });
  }
  const hour = (key: "first_hour" | "last_hour", label: string) => (
    <Select
      value={span[key]}
      inputProps={{ "aria-label": label }}
      onChange={(e) => setSpan({ ...span, [key]: Number(e.target.value) })}
    >
      {Array.from({ length: 24 }, (_, h) => h).map((h) => (
        <MenuItem key={`h${h}`} value={h}>
          {String(h + (key === "last_hour" ? 1 : 0)).padStart(2, "0")}:00
        </MenuItem>
      ))}
    </Select>
  );
  const moved = before && figures && outcome && outcome.revision > before.revision;
  return (
    <details>
      <summary>How deep</summary>
      <div className="small quiet">Keep the sun out of these windows</div>
      <div className="row" style={{ flexWrap: "wrap", margin: "4px 0" }}>
        <DayField label="Sun out from" day={span.first_day} onDay={(first_day) => setSpan({ ...span, first_day })} />
        <span>to</span>
        <DayField label="Sun out until" day={span.last_day} onDay={(last_day) => setSpan({ ...span, last_day })} />
      </div>
      <div className="row" style={{ flexWrap: "wrap", margin: "4px 0 8px" }}>
        {hour("first_hour", "Sun out from hour")}
        <span>to</span>
        {hour("last_hour", "Sun out until hour")}
        <Select
          value={kind}
          inputProps={{ "aria-label": "Kind of shade" }}
          onChange={(e) => setKind(e.target.value as typeof kind)}
        >
          {kinds.map(([id, name]) => (
            <MenuItem key={id} value={id}>
              by {name}
            </MenuItem>
          ))}
        </Select>
        <Button variant="outlined" disabled={ask.isPending} onClick={() => ask.mutate()}>
          How deep?
        </Button>
      </div>
      {ask.isError && (
        <div className="remark fault">
          <Told text={ask.error.message} />
        </div>
      )}
      {told && (
        <div data-how-deep>
          <Chart
            height={170}
            label="Share of the sun kept out within the span and let in outside of it, by depth"
            option={{
              grid: { left: 34, right: 10, top: 26, bottom: 34 },
              legend: { top: 0, left: 0, itemHeight: 8, textStyle: { fontSize: 12 } },
              tooltip: { trigger: "axis", valueFormatter: (v: number) => `${v.toFixed(0)}%` },
              xAxis: {
                type: "value",
                name: to.unit,
                nameLocation: "middle",
                nameGap: 20,
                max: Number((told.depths[told.depths.length - 1].depth_m * to.factor).toFixed(1)),
              },
              yAxis: { type: "value", max: 100, splitNumber: 4, axisLabel: { formatter: "{value}%" } },
              series: [
                {
                  name: "kept out",
                  type: "line",
                  showSymbol: false,
                  color: tone.ink,
                  data: told.depths.map((d) => [d.depth_m * to.factor, d.kept_out * 100]),
                },
                {
                  name: "let in else",
                  type: "line",
                  showSymbol: false,
                  color: tone.brass,
                  lineStyle: { type: "dashed" },
                  data: told.depths.map((d) => [d.depth_m * to.factor, d.let_in * 100]),
                },
              ],
            }}
          />
          <div className="small">
            {told.least_m === null
              ? `No depth up to ${both(told.depths[told.depths.length - 1].depth_m, "m", units, 1)} keeps all of it out.`
              : `All of it is kept out from ${both(told.least_m, "m", units, 2)}.`}{" "}
            The best of both is {both(told.proposed_m, "m", units, 2)}: {share(told, told.proposed_m)}. Neighbours and
            trees are left out; the shade has no ends.
          </div>
          <div className="row" style={{ margin: "6px 0" }}>
            <Button variant="contained" onClick={() => void take(told.proposed_m)}>
              Take {both(told.proposed_m, "m", units, 2)}
            </Button>
            {told.least_m !== null && told.least_m !== told.proposed_m && (
              <Button variant="outlined" onClick={() => void take(told.least_m ?? 0)}>
                Take {both(told.least_m, "m", units, 2)}
              </Button>
            )}
          </div>
        </div>
      )}
      {moved && (
        <div className="small" data-before-after>
          The year with it: cooling {inWords(figures.cooling, before.cooling)}, heating{" "}
          {inWords(figures.heating, before.heating)}; energy {figure(before.energy, "kWh/m²", units, 1).text} →{" "}
          {both(figures.energy, "kWh/m²", units, 1)}.
        </div>
      )}
    </details>
  );
}

function share(told: { depths: { depth_m: number; kept_out: number; let_in: number }[] }, depth: number): string {
  const d = told.depths.find((o) => o.depth_m === depth);
  return d ? `${Math.round(d.kept_out * 100)}% kept out, ${Math.round(d.let_in * 100)}% let in else` : "";
}
