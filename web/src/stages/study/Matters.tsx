import { MenuItem, Select } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { client, got, type Study } from "../../api/client";
import { useProjectId } from "../../api/hooks";
import { useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { figure, said, scale } from "../../app/words";
import { Chart } from "../../charts/Chart";
import { grid, textStyle, value } from "../../charts/style";
import { Effects, ways } from "./Effects";
import { figuresOf, type Kept, namedBy, useFigureOf } from "./figures";
import { usePoints } from "./table";

/** What matters most, and the best trade-offs between two figures. */
export function Matters({ study, kept }: { study: Study; kept: Kept }) {
  const project = useProjectId();
  const units = useKept((s) => s.units);
  const [mine, setMine] = useState("eui_kwh_per_m2");
  const [other, setOther] = useState("peak_cooling_w");
  const goals = study.spec.goals;
  useEffect(() => {
    if (goals.length > 0) setMine(goals[0].outcome);
    if (goals.length > 1) setOther(goals[1].outcome);
  }, [goals]);
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
  const figureOf = useFigureOf();
  const [f, g] = useMemo(() => [figureOf(mine), figureOf(other)], [figureOf, mine, other]);
  const choices = useMemo(() => {
    const named = [...namedBy(study), mine, other].filter((id) => !figuresOf.some((x) => x.id === id));
    return [...figuresOf, ...[...new Set(named)].map(figureOf)];
  }, [study, figureOf, mine, other]);
  const points = usePoints(study, kept, other, mine).data;
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
          {choices.map((x) => (
            <MenuItem key={x.id} value={x.id}>
              {x.name.toLowerCase()}
            </MenuItem>
          ))}
        </Select>{" "}
        in {unit} {ways[answer?.method ?? ""]?.told ?? ""}
      </div>
      {answer && <Effects study={study} answer={answer} f={f} />}
      <div className="spread" style={{ marginTop: 18, flexWrap: "wrap" }}>
        <h3 style={{ whiteSpace: "nowrap" }}>Best trade-offs</h3>
        <Select
          variant="standard"
          value={other}
          onChange={(e) => setOther(e.target.value)}
          inputProps={{ "aria-label": "Against" }}
          sx={{ fontSize: 12 }}
        >
          {choices.map((x) => (
            <MenuItem key={x.id} value={x.id}>
              against {x.name.toLowerCase()}
            </MenuItem>
          ))}
        </Select>
      </div>
      <Chart option={option} height={260} label={`${f.name} against ${g.name} of all cases`} />
      <div className="small quiet">
        {study.spec.kind === "search" ? (
          <>Joined: the cases within all limits that no other betters in all goals. </>
        ) : (
          <>Joined: the cases that no other betters in both. </>
        )}
        {answer ? `There are ${answer.best.length}.` : ""}
        {Object.keys(points?.said ?? {}).length > 0 && " ▲ with remarks."}
      </div>
    </>
  );
}
