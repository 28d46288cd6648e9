import { MenuItem, Select } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { client, got, type Study } from "../../api/client";
import { useProjectId } from "../../api/hooks";
import { useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { figure, round, said, scale } from "../../app/words";
import { Chart } from "../../charts/Chart";
import { grid, textStyle, value } from "../../charts/style";
import { figuresOf, type Kept } from "./figures";
import { usePoints } from "./table";

/** What matters most, and the best trade-offs between two figures. */
export function Matters({ study, kept }: { study: Study; kept: Kept }) {
  const project = useProjectId();
  const units = useKept((s) => s.units);
  const [mine, setMine] = useState("eui_kwh_per_m2");
  const [other, setOther] = useState("peak_cooling_w");
  const answer = useQuery({
    queryKey: ["matters", study.id, study.done, mine, other],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/studies/{study_id}/matters", {
          params: { path: { project_id: project, study_id: study.id }, query: { figure: mine, against: other } },
        }),
      ),
    placeholderData: keepPreviousData,
  }).data;
  const f = figuresOf.find((x) => x.id === mine) ?? figuresOf[0];
  const g = figuresOf.find((x) => x.id === other) ?? figuresOf[1];
  const points = usePoints(study, kept, other, mine).data;
  const raw = mine.endsWith("_w") ? 1 / 1000 : 1;
  const most = Math.max(...(answer?.effects ?? []).map((e) => e.span), 1e-9);
  const leftOut = Math.max(0, ...(answer?.effects ?? []).map((e) => e.left_out));
  const unit = figure(1, f.unit, units, 0).unit;

  const option = useMemo(() => {
    const a = scale(f.unit, units);
    const b = scale(g.unit, units);
    const place = new Map(points?.numbers.map((number, k) => [number, k]));
    const at = (k: number) => [
      ((points?.x[k] ?? Number.NaN) / g.per) * b.factor,
      ((points?.y[k] ?? Number.NaN) / f.per) * a.factor,
      points?.numbers[k] ?? 0,
    ];
    const remarksOf = (number: number) => points?.said[number] ?? [];
    const which = (fits: (number: number, running: boolean) => boolean) =>
      (points?.numbers ?? []).flatMap((number, k) => (fits(number, points?.running[k] ?? false) ? [at(k)] : []));
    const safe = (text: string) => text.replace(/[&<>]/g, (c) => `&#${c.charCodeAt(0)};`);
    const front = (answer?.best ?? []).flatMap((number) => place.get(number) ?? []).map(at);
    front.sort((p, q) => p[0] - q[0]);
    return {
      grid: { ...grid, left: 46, bottom: 38, top: 24 },
      tooltip: {
        trigger: "item",
        formatter: (p: { data: number[] }) =>
          [
            `case ${p.data[2]}: ${p.data[1].toFixed(1)} ${a.unit}, ${p.data[0].toFixed(1)} ${b.unit}`,
            ...remarksOf(p.data[2]).map((r) => safe(said(r, units))),
          ].join("<br>"),
        textStyle: { fontSize: 12 },
      },
      xAxis: {
        ...value("", { scale: true }),
        name: `${g.name}, ${b.unit}`,
        nameLocation: "middle",
        nameGap: 24,
        nameTextStyle: textStyle,
      },
      yAxis: value(`${f.name}, ${a.unit}`, { scale: true }),
      series: [
        {
          type: "scatter",
          data: which((_, running) => !running),
          symbolSize: 4,
          itemStyle: { color: "#D5CCBB" },
        },
        {
          type: "scatter",
          data: which((number, running) => running && remarksOf(number).length === 0),
          symbolSize: 5,
          itemStyle: { color: "#7FA9A8" },
        },
        {
          name: "with remarks",
          type: "scatter",
          symbol: "triangle",
          data: which((number, running) => running && remarksOf(number).length > 0),
          symbolSize: 8,
          itemStyle: { color: "#B5651D" },
        },
        {
          type: "line",
          data: front,
          symbol: "circle",
          symbolSize: 8,
          lineStyle: { color: tone.tide, width: 2 },
          itemStyle: { color: tone.tide },
        },
      ],
    };
  }, [answer, points, f, g, units]);

  return (
    <>
      <h2>What matters most</h2>
      <div className="small quiet" style={{ margin: "2px 0 8px" }}>
        How far{" "}
        <Select
          variant="standard"
          value={mine}
          onChange={(e) => setMine(e.target.value)}
          inputProps={{ "aria-label": "Figure" }}
          sx={{ fontSize: 12 }}
        >
          {figuresOf.map((x) => (
            <MenuItem key={x.id} value={x.id}>
              {x.name.toLowerCase()}
            </MenuItem>
          ))}
        </Select>{" "}
        in {unit} moves as one lever goes through its steps, the mean over all others
      </div>
      {answer?.effects.map((e) => {
        const lever = study.levers.find((l) => l.key === e.lever);
        return (
          <div key={e.lever} className="row" style={{ marginBottom: 5 }} data-effect={e.lever}>
            <span style={{ width: 104 }}>{lever?.title ?? e.lever}</span>
            <span style={{ flex: 1 }}>
              <span
                style={{
                  display: "block",
                  height: 14,
                  width: `${(e.span / most) * 100}%`,
                  background: "var(--tide)",
                  borderRadius: 3,
                }}
              />
            </span>
            <span style={{ width: 44, textAlign: "right" }}>
              {e.means.some((m) => m === null) ? "–" : figure(e.span * raw, f.unit, units, f.digits).text}
            </span>
          </div>
        );
      })}
      {leftOut > 0 && (
        <div className="small quiet" data-left-out={leftOut}>
          {leftOut === 1 ? "1 case is" : `Up to ${round(leftOut, 0)} cases are`} left out: of those that differ from
          them by one lever alone, not all have come to an end.
        </div>
      )}
      <div className="spread" style={{ marginTop: 18, flexWrap: "wrap" }}>
        <h3 style={{ whiteSpace: "nowrap" }}>Best trade-offs</h3>
        <Select
          variant="standard"
          value={other}
          onChange={(e) => setOther(e.target.value)}
          inputProps={{ "aria-label": "Against" }}
          sx={{ fontSize: 12 }}
        >
          {figuresOf.map((x) => (
            <MenuItem key={x.id} value={x.id}>
              against {x.name.toLowerCase()}
            </MenuItem>
          ))}
        </Select>
      </div>
      <Chart option={option} height={260} label={`${f.name} against ${g.name} of all cases`} />
      <div className="small quiet">
        Joined: the cases that no other betters in both. {answer ? `There are ${answer.best.length}.` : ""}
        {Object.keys(points?.said ?? {}).length > 0 && " ▲ with remarks."}
      </div>
    </>
  );
}
