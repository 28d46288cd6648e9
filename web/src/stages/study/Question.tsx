import { Button, MenuItem, Select } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type LeverSpec, type Schemas, type Study } from "../../api/client";
import { useLevers, useProjectId, useScheme } from "../../api/hooks";
import { type Kind, keyOf, kindName, kinds, sameLever, specOf, useDraft } from "../../app/draft";
import { type Draft, tell, useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { both, count, round } from "../../app/words";
import { NumberBox } from "../../fields/NumberBox";
import { Aims } from "./Aims";
import { Conditions } from "./Conditions";
import { useFigureOf } from "./figures";
import { LeverCard } from "./LeverCard";
import { LeverFinder } from "./LeverFinder";
import { Measures } from "./Measures";
import { OutcomePick } from "./OutcomePick";

/** A question that stands still so long is tried: not each of many that are put in a hurry, nor what is run at once. */
const STANDS_MS = 800;
/** While another window's study runs, no time is told: asked again so often. */
const ASK_AGAIN_MS = 3000;

/** The question: levers and their steps, how many cases, how long, and the start. */
export function Question({
  studies,
  study,
  onChoose,
  live,
}: {
  studies: Study[];
  study: Study | undefined;
  onChoose: (id: string) => void;
  live: { done: number; failed: number; total: number } | null;
}) {
  const { scheme, state } = useScheme();
  const project = useProjectId();
  const queries = useQueryClient();
  const offers = useLevers(scheme.id).data ?? [];
  const { draft, change } = useDraft();
  const kind = draft.kind ?? "every";
  const [busy, setBusy] = useState(false);
  const [processes, setProcesses] = useState<number | null>(null);
  const spec = specOf(draft, scheme.id);
  const aimed = kind !== "search" || (spec.goals ?? []).length > 0;
  const begun = kind === "measures" ? (spec.measures ?? []).length > 0 : spec.levers.length > 0 && aimed;
  // the count at once, the time when some of its cases have been tried
  const asked = (timed: boolean) => ({
    queryKey: ["plan", project, state.revision, JSON.stringify({ ...spec, name: "" }), timed, timed && processes],
    queryFn: async ({ signal }: { signal: AbortSignal }) => {
      if (timed) await standing(signal);
      return got(
        client.POST("/api/projects/{project_id}/studies/plan", {
          params: { path: { project_id: project }, query: { timed } },
          body: { revision: state.revision, study: { ...spec, name: "Study" }, processes },
          signal,
        }),
      );
    },
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const plan = useQuery({ ...asked(false), enabled: begun });
  const going = studies.some((s) => s.status === "running" || s.status === "waiting");
  const time = useQuery({
    ...asked(true),
    enabled: begun && plan.isSuccess && !going && !busy,
    staleTime: (query) => (query.state.data?.seconds == null ? 0 : Number.POSITIVE_INFINITY),
    refetchInterval: (query) => (query.state.data?.seconds === null ? ASK_AGAIN_MS : false),
  });
  const counted = begun ? plan.data : undefined;

  const offerOf = (l: LeverSpec) => offers.find((o) => sameLever(o, l));
  const titleOf = (l: LeverSpec) => offerOf(l)?.title ?? l.path ?? l.kind;
  const set = (levers: LeverSpec[]) => change({ levers });

  async function goOn() {
    if (!study) return;
    await got(
      client.POST("/api/projects/{project_id}/studies/{study_id}/go-on", {
        params: { path: { project_id: project, study_id: study.id } },
      }),
    );
    await queries.invalidateQueries({ queryKey: ["studies", project] });
  }

  async function run() {
    setBusy(true);
    try {
      const made = await got(
        client.POST("/api/projects/{project_id}/studies", {
          params: { path: { project_id: project } },
          body: { revision: state.revision, study: spec, processes },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["studies", project] });
      onChoose(made.id);
    } catch (fault) {
      tell((fault as Error).message, true);
    }
    setBusy(false);
  }

  return (
    <div>
      {studies.length > 0 && (
        <>
          <div className="small quiet">Studies</div>
          <Select
            fullWidth
            value={study?.id ?? ""}
            onChange={(e) => onChoose(e.target.value)}
            inputProps={{ "aria-label": "Study" }}
            sx={{ mb: 1 }}
          >
            {studies.map((s) => (
              <MenuItem key={s.id} value={s.id}>
                {s.name}, {count(s.total, "case")}
              </MenuItem>
            ))}
          </Select>
          {live && (
            <div style={{ marginBottom: 10 }}>
              <progress
                value={live.done + live.failed}
                max={live.total}
                style={{ width: "100%", accentColor: "var(--tide)" }}
              />
              <div className="spread small">
                <span data-progress={live.done}>
                  {live.done + live.failed} of {live.total}
                </span>
                <button
                  type="button"
                  className="plain assumed"
                  onClick={() =>
                    study &&
                    void got(
                      client.POST("/api/projects/{project_id}/studies/{study_id}/cancel", {
                        params: { path: { project_id: project, study_id: study.id } },
                      }),
                    )
                  }
                >
                  Cancel
                </button>
              </div>
            </div>
          )}
          {study &&
            (study.status === "cancelled" || study.status === "broken") &&
            study.done + study.failed < study.total && (
              <div className="spread small" style={{ marginBottom: 10 }}>
                <span>
                  {study.status === "broken" ? "Broke off" : "Stopped"} after {round(study.done + study.failed, 0)} of{" "}
                  {round(study.total, 0)}
                </span>
                <Button size="small" onClick={() => void goOn()}>
                  Go on
                </Button>
              </div>
            )}
          {study?.spec.kind === "sample" && study.status === "done" && <Extend key={study.id} study={study} />}
          <hr style={{ border: 0, borderTop: "1px solid var(--line)" }} />
        </>
      )}
      <h2>New study</h2>
      <div className="small quiet" style={{ marginBottom: 6 }}>
        On {scheme.name}
      </div>
      <input
        aria-label="Name of the study"
        placeholder="What is the question?"
        value={draft.name}
        maxLength={120}
        onChange={(e) => change({ name: e.target.value })}
        style={{
          width: "100%",
          font: "inherit",
          border: "1px solid var(--line)",
          borderRadius: 6,
          padding: "4px 8px",
          marginBottom: 8,
        }}
      />
      <Select
        fullWidth
        value={kind}
        onChange={(e) => change({ kind: e.target.value as Kind })}
        inputProps={{ "aria-label": "Kind of study" }}
        renderValue={(id) => kindName(id)}
        sx={{ mb: 0.5 }}
      >
        {kinds.map((k) => (
          <MenuItem key={k.id} value={k.id} sx={{ display: "block" }}>
            <div>{k.name}</div>
            <div className="small quiet">{k.question}</div>
          </MenuItem>
        ))}
      </Select>
      <div className="small quiet" style={{ marginBottom: 8 }}>
        {kinds.find((k) => k.id === kind)?.question}
      </div>
      {kind === "measures" ? (
        <Measures measures={draft.measures ?? []} offers={offers} onChange={(measures) => change({ measures })} />
      ) : (
        <>
          {draft.levers.map((l, i) => (
            <LeverCard
              key={`${l.kind}${l.path}`}
              lever={l}
              offer={offerOf(l)}
              kind={kind}
              others={draft.levers
                .filter((o) => o !== l && (o.low == null) === (l.low == null))
                .map((o) => ({ key: keyOf(o), title: titleOf(o), tied: o.tied }))}
              onChange={(next) =>
                set(
                  draft.levers.map((d, k) =>
                    k === i ? next : next.tied && next.tied === keyOf(d).slice(-40) ? { ...d, tied: next.tied } : d,
                  ),
                )
              }
              onRemove={() => set(draft.levers.filter((_, k) => k !== i))}
            />
          ))}
          <LeverFinder
            offers={offers.filter((o) => !draft.levers.some((l) => sameLever(o, l)))}
            label="+ lever"
            onPick={(o) => set([...draft.levers, { kind: o.kind, path: o.path, steps: o.steps }])}
          />
          {kind === "search" && (
            <div style={{ marginTop: 8 }}>
              <Aims
                goals={draft.goals ?? []}
                limits={draft.limits ?? []}
                onGoals={(goals) => change({ goals })}
                onLimits={(limits) => change({ limits })}
              />
            </div>
          )}
          {kind !== "sensitivity" && (
            <Conditions
              levers={draft.levers}
              titleOf={titleOf}
              offerOf={offerOf}
              leftOut={draft.left_out ?? []}
              onChange={(left_out) => change({ left_out })}
            />
          )}
        </>
      )}
      <Outcomes chosen={draft.outcomes ?? []} onChange={(outcomes) => change({ outcomes })} />
      {(kind === "sample" || kind === "sensitivity" || kind === "search") && (
        <Drawn key={kind} kind={kind} draft={draft} onChange={change} />
      )}
      <hr style={{ border: 0, borderTop: "1px solid var(--line)", margin: "14px 0 8px" }} />
      <div className="spread">
        <span>{kindName(kind)}</span>
        <b data-cases={counted?.cases}>
          {!begun
            ? "no case"
            : counted
              ? `${kind === "search" ? "up to " : ""}${round(counted.cases, 0)} ${counted.cases === 1 ? "case" : "cases"}`
              : "…"}
        </b>
      </div>
      {counted !== undefined && counted.same > 0 && (
        <div className="small" data-same={counted.same} style={{ marginBottom: 4 }}>
          {round(counted.same, 0)} of them {counted.same === 1 ? "comes" : "come"} to the same as another one: worked
          out once.
        </div>
      )}
      <div className="small quiet" style={{ marginBottom: 8 }} aria-live="polite">
        {!begun
          ? kind === "measures"
            ? "Add a measure to begin."
            : spec.levers.length > 0
              ? "Add a goal to begin."
              : "Add a lever to begin."
          : plan.isError
            ? ""
            : time.data?.seconds != null
              ? `about ${seconds(time.data.seconds)} on this computer${room(time.data.bytes)}`
              : going || time.data
                ? "how long it takes is told when the study under way is done"
                : "finding out how long it takes …"}
      </div>
      {counted && counted.processes > 1 && (
        <div className="row small" style={{ marginBottom: 8 }}>
          <span>Workers</span>
          <Select
            variant="standard"
            value={Math.min(processes ?? counted.processes, counted.processes)}
            onChange={(e) => setProcesses(e.target.value === counted.processes ? null : Number(e.target.value))}
            inputProps={{ "aria-label": "Workers" }}
            sx={{ fontSize: 12.5 }}
          >
            {workers(counted.processes).map((n) => (
              <MenuItem key={n} value={n}>
                {n === counted.processes ? `all ${n}` : n}
              </MenuItem>
            ))}
          </Select>
        </div>
      )}
      {plan.isError && begun && (
        <div className="remark fault">
          <Told text={plan.error.message} />
        </div>
      )}
      {counted && !plan.isError && <TryOne key={JSON.stringify(spec)} spec={spec} levers={counted.levers} />}
      <Button variant="contained" fullWidth disabled={!counted || plan.isError || busy} onClick={() => void run()}>
        {counted ? `Run ${round(counted.cases, 0)} ${counted.cases === 1 ? "case" : "cases"}` : "Run"}
      </Button>
    </div>
  );
}

/** Wait for a question to stand still; another one calls this off. */
function standing(signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(resolve, STANDS_MS);
    signal.addEventListener("abort", () => {
      clearTimeout(timer);
      reject(signal.reason);
    });
  });
}

/** How many workers may be chosen: each number of a few, doubling of many. */
function workers(all: number): number[] {
  const some = all <= 8 ? Array.from({ length: all - 1 }, (_, k) => k + 1) : [1, 2, 4, 8, 16, 32, 64, 128];
  return [...some.filter((n) => n < all), all];
}

/** What cases take on the disk, where that is worth a word. */
function room(bytes: number): string {
  return bytes < 5e6 ? "" : `, ${round(bytes / 1e6, 0)} MB on the disk`;
}

function seconds(s: number): string {
  const whole = Math.max(1, Math.round(s));
  return s < 90 ? `${whole} ${whole === 1 ? "second" : "seconds"}` : `${Math.round(s / 60)} minutes`;
}

/** Gives a finished sample more cases; those that ran stay. */
function Extend({ study }: { study: Study }) {
  const project = useProjectId();
  const queries = useQueryClient();
  async function extend() {
    try {
      await got(
        client.POST("/api/projects/{project_id}/studies/{study_id}/extend", {
          params: { path: { project_id: project, study_id: study.id } },
          body: { size: study.total * 2 },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["studies", project] });
    } catch (fault) {
      tell((fault as Error).message, true);
    }
  }
  return (
    <Button size="small" sx={{ mb: 1 }} onClick={() => void extend()}>
      {round(study.total, 0)} more cases
    </Button>
  );
}

/** One case worked out before the study runs: what it comes to, and its remarks. */
function TryOne({ spec, levers }: { spec: ReturnType<typeof specOf>; levers: Study["levers"] }) {
  const project = useProjectId();
  const { state } = useScheme();
  const units = useKept((s) => s.units);
  const [tried, setTried] = useState<Schemas["TriedOut"] | null>(null);
  const [busy, setBusy] = useState(false);
  async function attempt() {
    setBusy(true);
    try {
      const number = tried ? Math.floor(Math.random() * tried.of) : null;
      setTried(
        await got(
          client.POST("/api/projects/{project_id}/studies/try", {
            params: { path: { project_id: project } },
            body: { revision: state.revision, study: spec, number },
          }),
        ),
      );
    } catch (fault) {
      tell((fault as Error).message, true);
    }
    setBusy(false);
  }
  const figureOf = useFigureOf();
  const own = [...(spec.outcomes ?? []), ...(spec.goals ?? []).map((g) => g.outcome)];
  const shown = (own.length > 0 ? [...new Set(own)] : ["eui_kwh_per_m2", "peak_cooling_w", "cost_per_m2"]).map(
    figureOf,
  );
  return (
    <div style={{ marginBottom: 8 }}>
      <Button size="small" disabled={busy} onClick={() => void attempt()}>
        {busy ? "Working it out …" : tried ? "Try another one" : "Try one case"}
      </Button>
      {tried && (
        <div className="small" data-tried={tried.number} aria-live="polite">
          <div className="quiet">
            {spec.kind === "measures"
              ? tried.labels.join(", ")
              : tried.labels.map((label, i) => `${levers[i]?.title ?? ""} ${label}`).join(", ")}
          </div>
          {tried.reason ? (
            <div className="remark fault">
              <Told text={tried.reason} />
            </div>
          ) : (
            shown.map((f) => (
              <div key={f.id} className="spread">
                <span>{f.name}</span>
                <span>{both(f.of(tried.figures), f.unit, units, f.digits)}</span>
              </div>
            ))
          )}
          {tried.remarks.map((r) => (
            <div key={r} className="doubt">
              ▲ <Told text={r} />
            </div>
          ))}
        </div>
      )}
    </div>
  );
}

/** What the table shows first, and what cases are to tell of single zones. */
function Outcomes({ chosen, onChange }: { chosen: string[]; onChange: (chosen: string[]) => void }) {
  const figureOf = useFigureOf();
  return (
    <div className="lever" style={{ marginTop: 8 }} data-outcomes={chosen.length}>
      <div className="spread">
        <b>Outcomes</b>
        <span className="small quiet">{chosen.length === 0 ? "the usual ones" : `${chosen.length} chosen`}</span>
      </div>
      {chosen.map((id) => (
        <div key={id} className="row small">
          <span style={{ flex: 1, minWidth: 0 }}>{figureOf(id).name}</span>
          <button
            type="button"
            className="plain quiet"
            aria-label={`Remove ${figureOf(id).name}`}
            onClick={() => onChange(chosen.filter((x) => x !== id))}
          >
            ×
          </button>
        </div>
      ))}
      {chosen.length < 40 && (
        <OutcomePick value={null} label="+ outcome" without={chosen} onPick={(id) => onChange([...chosen, id])} />
      )}
    </div>
  );
}

const sizes = {
  sample: { label: "Cases", usual: 128 },
  sensitivity: { label: "Trajectories", usual: 10 },
  search: { label: "Cases at most", usual: 600 },
} as const;

/** How many cases are drawn, and how. */
function Drawn({
  kind,
  draft,
  onChange,
}: {
  kind: "sample" | "sensitivity" | "search";
  draft: Draft;
  onChange: (part: Partial<Draft>) => void;
}) {
  const variance = kind === "sensitivity" && draft.method === "variance";
  const { label, usual } = variance ? { label: "Base points", usual: 64 } : sizes[kind];
  return (
    <div className="lever" style={{ marginTop: 8 }}>
      {kind === "sensitivity" && (
        <Select
          variant="standard"
          fullWidth
          value={variance ? "variance" : "elementary"}
          inputProps={{ "aria-label": "How levers are told apart" }}
          sx={{ fontSize: 12.5, mb: 0.5 }}
          onChange={(e) => onChange({ method: e.target.value as "variance" | "elementary", size: undefined })}
        >
          <MenuItem value="elementary">elementary effects: few cases</MenuItem>
          <MenuItem value="variance">shares of the variance: many cases</MenuItem>
        </Select>
      )}
      <div className="row small">
        <span>{label}</span>
        <NumberBox
          key={label}
          label={label}
          empty={String(usual)}
          whole
          value={draft.size == null ? "" : String(draft.size)}
          onCommit={(size) => onChange({ size: size ?? undefined })}
        />
      </div>
    </div>
  );
}
