import { MenuItem, Select } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got } from "../../api/client";
import { useProject, useProjectId } from "../../api/hooks";
import { useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { tone } from "../../app/tokens";
import { figure } from "../../app/words";

const figures = [
  ["energy", "Energy", 1],
  ["net_energy", "Energy net of own sun", 1],
  ["carbon", "Carbon", 1],
  ["cost", "Running cost", 2],
  ["peak_heating", "Peak heating", 1],
  ["peak_cooling", "Peak cooling", 1],
] as const;

/** A case that is explained: a pin, against the reference; or one of a study, against what the study was asked of. */
export type Explained = { pin: string } | { study: string; number: number };

/** The difference of two cases shared out over what was changed: bars that lead from one value to the other. */
export function Shares({ of, base = "reference" }: { of: Explained; base?: string }) {
  const units = useKept((s) => s.units);
  const project = useProjectId();
  const revision = useProject().data?.revision;
  const [which, setWhich] = useState<string>("energy");
  const shares = useQuery({
    queryKey: ["shares", project, revision, of],
    queryFn: () =>
      got(
        "pin" in of
          ? client.GET("/api/projects/{project_id}/pins/{pin_id}/shares", {
              params: { path: { project_id: project, pin_id: of.pin } },
            })
          : client.GET("/api/projects/{project_id}/studies/{study_id}/cases/{number}/shares", {
              params: { path: { project_id: project, study_id: of.study, number: of.number } },
            }),
      ),
    retry: false,
  });
  if (!shares.data)
    return (
      <p className="quiet">
        {shares.error ? <Told text={shares.error.message} /> : "Trying every combination of what changed."}
      </p>
    );
  const { groups, figures: all, joined, runs } = shares.data;
  if (groups.length === 0) return <p className="quiet">Nothing differs between the two.</p>;
  const [, , digits] = figures.find(([id]) => id === which) ?? figures[0];
  const one = all[which];
  const power = one.unit === "W";
  const by = power ? 0.001 : 1;
  const unit = power ? "kW" : one.unit;
  const shown = (v: number, more = 0) => figure(v * by, unit, units, digits + more).text;
  const change = (v: number) =>
    Math.abs(v * by) < 0.5 * 10 ** -(digits + 1)
      ? "next to nothing"
      : `${shown(Math.abs(v), 1)} ${v > 0 ? "more" : "less"}`;
  let running = one.base;
  const rows = groups.map((g) => {
    const from = running;
    running += one.shares[g.id];
    return { ...g, from, to: running, share: one.shares[g.id] };
  });
  const low = Math.min(one.base, one.other, ...rows.map((r) => r.to));
  const high = Math.max(one.base, one.other, ...rows.map((r) => r.to));
  // the bars start above zero, so that shares can be seen; the whole values are written out
  const floor = Math.max(0, low - (high - low) * 0.35);
  const at = (v: number) => 176 + ((v - floor) / (high - floor || 1)) * 470;
  const tall = 24;
  return (
    <div>
      <div className="row" style={{ alignItems: "center", gap: 10, marginTop: 10 }}>
        <h3 style={{ margin: 0 }}>What the difference comes from</h3>
        <Select
          value={which}
          onChange={(e) => setWhich(e.target.value)}
          inputProps={{ "aria-label": "Figure to share out" }}
        >
          {figures.map(([id, name]) => (
            <MenuItem key={id} value={id}>
              {name}
            </MenuItem>
          ))}
        </Select>
        <span className="small quiet">
          {figure(0, unit, units, digits).unit} · {runs} combinations, each group its mean over all orders of change
        </span>
      </div>
      <svg
        viewBox={`0 0 760 ${(rows.length + 2) * tall + 4}`}
        width="100%"
        style={{ maxWidth: 800 }}
        role="img"
        aria-label="Shares of the difference"
      >
        {[
          { id: "base", name: base, from: floor, to: one.base, text: shown(one.base), whole: true, share: 0 },
          ...rows.map((r) => ({ ...r, text: change(r.share), whole: false })),
          { id: "other", name: "this case", from: floor, to: one.other, text: shown(one.other), whole: true, share: 0 },
        ].map((r, i) => (
          <g key={r.id} data-share={r.id} data-value={r.whole ? r.to : r.share}>
            <text
              x={168}
              y={i * tall + 16}
              fontSize={12.5}
              textAnchor="end"
              fill={tone.ink}
              fontWeight={r.whole ? 650 : 400}
            >
              {r.name}
            </text>
            <rect
              x={Math.min(at(r.from), at(r.to))}
              y={i * tall + 4}
              width={Math.max(Math.abs(at(r.to) - at(r.from)), 1)}
              height={tall - 9}
              fill={r.whole ? tone.line : r.share > 0 ? "#B7904A" : tone.tide}
            />
            {i <= rows.length && (
              <line
                x1={at(r.to)}
                x2={at(r.to)}
                y1={i * tall + 4}
                y2={(i + 1) * tall + 19}
                stroke={tone.ink}
                strokeWidth={0.6}
                strokeDasharray="2 2"
              />
            )}
            <text
              x={Math.max(at(r.from), at(r.to)) + 6}
              y={i * tall + 16}
              fontSize={12.5}
              fill={tone.ink}
              className="figures"
            >
              {r.text}
            </text>
          </g>
        ))}
      </svg>
      {joined.map((j) => (
        <div key={j} className="small quiet">
          {j}
        </div>
      ))}
    </div>
  );
}
