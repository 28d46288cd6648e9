import { Button, Checkbox } from "@mui/material";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { make } from "../../api/edits";
import table from "../../api/figures.json";
import { useEdit, useRanking, useRegister, useScheme } from "../../api/hooks";
import { tell, useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { tone } from "../../app/tokens";
import { both, count, figure, round } from "../../app/words";

type Value = Schemas["AssumedOut"];
type Ranked = Schemas["RankedOut"];
const measures = table.filter((f) => f.ranked).map((f) => ({ ...f, name: f.title.toLowerCase() }));
type Measure = (typeof measures)[number];
const stages: Record<string, string> = { place: "Place", shape: "Shape", skin: "Skin", use: "Use", plant: "Plant" };

/** What is still assumed: every value that nobody gave, its source, and how far the year moves with it. */
export default function Assumed() {
  const { scheme, state } = useScheme();
  const edit = useEdit();
  const navigate = useNavigate();
  const units = useKept((s) => s.units);
  const register = useRegister().data;
  const quick = useRanking(scheme.id, false, true);
  const slow = useRanking(scheme.id, true, Boolean(quick.data) && !quick.isPlaceholderData);
  const [by, setBy] = useState<Measure>(measures[0]);
  const [only, setOnly] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const ranked = new Map<string, Ranked>(
    [...(quick.data?.ranked ?? []), ...(slow.data?.ranked ?? [])].map((r) => [r.path, r]),
  );
  const base = quick.data?.base[by.id] ?? 0;
  const values = (register?.values ?? [])
    .filter((v) => !only || v.stage === only)
    .sort((a, b) => (ranked.get(b.path)?.span[by.id] ?? -1) - (ranked.get(a.path)?.span[by.id] ?? -1));
  const picked = values.filter((v) => chosen.includes(v.path));
  const most = Math.max(...[...ranked.values()].map((r) => r.span[by.id] ?? 0), 1e-9);
  const working = quick.isFetching || slow.isFetching;

  async function confirm(which: Value[]) {
    const edits = which.flatMap((v) => v.paths.map((path) => make.set(path, v.value)));
    if (await edit(make.together(edits))) {
      tell(`${which.length} ${which.length === 1 ? "value is" : "values are"} confirmed.`);
      setChosen([]);
    }
  }
  function lead(v: Value) {
    navigate(`/p/${state.id}/${v.stage}/${scheme.id}`);
    setTimeout(() => {
      const field = document.querySelector<HTMLElement>(`[name="${CSS.escape(v.path)}"]`);
      for (let fold = field?.closest("details"); fold; fold = fold.parentElement?.closest("details") ?? null)
        fold.open = true;
      field?.scrollIntoView({ block: "center" });
      field?.focus();
    }, 400);
  }

  return (
    <main className="work whole" style={{ display: "grid", gridTemplateRows: "auto minmax(0, 1fr)" }}>
      <header style={{ padding: "16px 22px 10px" }}>
        <div className="row" style={{ alignItems: "baseline", flexWrap: "wrap" }}>
          <h2 style={{ flex: 1 }}>What is still assumed in {scheme.name}</h2>
          <span className="switch" role="group" aria-label="Ranked by">
            {measures.map((m) => (
              <button key={m.id} type="button" aria-pressed={by.id === m.id} onClick={() => setBy(m)}>
                {m.name}
              </button>
            ))}
          </span>
          <span className="switch" role="group" aria-label="Stage">
            <button type="button" aria-pressed={only === ""} onClick={() => setOnly("")}>
              all
            </button>
            {Object.entries(stages).map(([id, name]) => (
              <button key={id} type="button" aria-pressed={only === id} onClick={() => setOnly(id)}>
                {name}
              </button>
            ))}
          </span>
          <Button variant="contained" disabled={picked.length === 0} onClick={() => void confirm(picked)}>
            {picked.length === 0 ? "Confirm" : `Confirm ${picked.length} as they are`}
          </Button>
        </div>
        <div className="quiet small" data-ranking={working ? "working" : "current"}>
          {register ? `${count(register.values.length, "value")}, ` : ""}
          {quick.isError ? (
            <Told text={quick.error.message} />
          ) : working ? (
            slow.isFetching && !quick.isFetching ? (
              "ranked; those that move windows or shades follow"
            ) : (
              "working out how far the year moves with each"
            )
          ) : (
            `${ranked.size} of them tried at the ends of their usual range in ${round((quick.data?.seconds ?? 0) + (slow.data?.seconds ?? 0), 1)} s; the rest have no range to try`
          )}
        </div>
      </header>
      <div style={{ overflow: "auto", padding: "0 22px 20px" }}>
        <table className="plain-table" style={{ width: "100%" }}>
          <thead>
            <tr>
              <th style={{ width: 34 }} />
              <th>Value</th>
              <th className="num">assumed</th>
              <th>usual, or else</th>
              <th style={{ width: 260 }}>
                {by.name} {quick.data ? `${both(base, by.unit, units, by.digits)} ` : ""}would be
              </th>
              <th className="num">moves by</th>
              <th>source</th>
            </tr>
          </thead>
          <tbody>
            {values.map((v) => (
              <tr key={v.path} data-assumed={v.path}>
                <td>
                  <Checkbox
                    size="small"
                    sx={{ p: 0 }}
                    checked={chosen.includes(v.path)}
                    slotProps={{ input: { "aria-label": `Choose ${v.title}${v.part ? `, ${v.part}` : ""}` } }}
                    onChange={(e) =>
                      setChosen(e.target.checked ? [...chosen, v.path] : chosen.filter((p) => p !== v.path))
                    }
                  />
                </td>
                <td>
                  <button type="button" className="plain assumed" onClick={() => lead(v)}>
                    {v.title}
                  </button>
                  <span className="quiet small">
                    {v.part ? ` · ${v.part}` : ""} · {stages[v.stage] ?? v.stage}
                  </span>
                </td>
                <td className="num">{shown(v, v.value, v.label)}</td>
                <td className="small">{v.ends.map((e) => shown(v, e.value, e.label)).join(" … ")}</td>
                <td>
                  <Span ranked={ranked.get(v.path)} by={by.id} base={base} most={most} />
                </td>
                <td className="num" style={{ whiteSpace: "nowrap" }}>
                  {moves(ranked.get(v.path), by)}
                </td>
                <td className="small quiet">{v.source}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </main>
  );

  function shown(v: Value, value: unknown, label: string): string {
    if (typeof value !== "number") return label || String(value);
    const told = figure(value, v.unit, units, v.digits);
    return `${told.text} ${told.unit}`.trim();
  }
  function moves(one: Ranked | undefined, m: Measure): string {
    if (!one) return "";
    const span = one.span[m.id] ?? 0;
    const told = figure(span, m.unit, units, m.digits);
    return `${told.text} ${told.unit}`;
  }
}

/** Where the year would come to lie at each end, against where it is: a line either side of a mark. */
function Span({ ranked, by, base, most }: { ranked: Ranked | undefined; by: string; base: number; most: number }) {
  const [W, H] = [250, 18];
  if (!ranked) return null;
  const fault = ranked.moves.find((m) => m.fault)?.fault;
  const at = (value: number) => W / 2 + ((value - base) / most) * (W / 2 - 6);
  const found = ranked.moves.flatMap((m) =>
    m.figures[by] === undefined ? [] : [{ label: m.label, value: m.figures[by] }],
  );
  const [low, high] = [Math.min(base, ...found.map((f) => f.value)), Math.max(base, ...found.map((f) => f.value))];
  return (
    <svg width={W} height={H} role="img" aria-label={found.map((f) => `${f.label}: ${f.value.toFixed(1)}`).join(", ")}>
      <line x1={W / 2} x2={W / 2} y1={1} y2={H - 1} stroke="#B9B2A4" />
      <rect x={at(low)} y={6} width={Math.max(at(base) - at(low), 0)} height={6} fill={tone.tide} />
      <rect x={at(base)} y={6} width={Math.max(at(high) - at(base), 0)} height={6} fill={tone.brass} />
      {found.map((f) => (
        <circle key={f.label} cx={at(f.value)} cy={9} r={3.6} fill={tone.bright} stroke={tone.ink}>
          <title>{`${f.label}: ${f.value.toFixed(1)}`}</title>
        </circle>
      ))}
      {fault && (
        <title>
          <Told text={fault} />
        </title>
      )}
    </svg>
  );
}
