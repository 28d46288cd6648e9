import { Button, Checkbox, Menu, MenuItem, Select } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type LeverOffer, type LeverSpec, type Study } from "../../api/client";
import { useLevers, useProjectId, useScheme } from "../../api/hooks";
import { tell, useKept, useKeptOf } from "../../app/state";
import { Told } from "../../app/Told";
import { round, scale } from "../../app/words";
import { TurnWithLine } from "../skin/TurnWith";

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
  const key = `${state.id}/${scheme.id}`;
  const { drafts, setDraft } = useKeptOf("drafts", "setDraft");
  const draft = drafts[key] ?? { name: "", levers: [] };
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [busy, setBusy] = useState(false);
  const levers = draft.levers.filter((l) => l.steps.length > 0);
  const spec = { name: draft.name || "Study", scheme: scheme.id, levers };
  // the count at once, the time when some of its cases have been tried
  const asked = (timed: boolean) => ({
    queryKey: ["plan", project, state.revision, JSON.stringify({ ...spec, name: "" }), timed],
    queryFn: async ({ signal }: { signal: AbortSignal }) => {
      if (timed) await standing(signal);
      return got(
        client.POST("/api/projects/{project_id}/studies/plan", {
          params: { path: { project_id: project }, query: { timed } },
          body: { revision: state.revision, study: { ...spec, name: "Study" } },
          signal,
        }),
      );
    },
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const plan = useQuery({ ...asked(false), enabled: levers.length > 0 });
  const going = studies.some((s) => s.status === "running" || s.status === "waiting");
  const time = useQuery({
    ...asked(true),
    enabled: levers.length > 0 && plan.isSuccess && !going && !busy,
    staleTime: (query) => (query.state.data?.seconds == null ? 0 : Number.POSITIVE_INFINITY),
    refetchInterval: (query) => (query.state.data?.seconds === null ? ASK_AGAIN_MS : false),
  });
  const counted = levers.length > 0 ? plan.data : undefined;

  function set(levers: LeverSpec[]) {
    setDraft(key, { ...draft, levers });
  }

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
          body: { revision: state.revision, study: spec },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["studies", project] });
      onChoose(made.id);
    } catch (fault) {
      tell((fault as Error).message, true);
    }
    setBusy(false);
  }

  const same = (o: LeverOffer, l: LeverSpec) => o.kind === l.kind && (o.path ?? null) === (l.path ?? null);
  const stages = [...new Set(offers.map((o) => o.stage))];
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
                {s.name}, {round(s.total, 0)} cases
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
        onChange={(e) => setDraft(key, { ...draft, name: e.target.value })}
        style={{
          width: "100%",
          font: "inherit",
          border: "1px solid var(--line)",
          borderRadius: 6,
          padding: "4px 8px",
          marginBottom: 8,
        }}
      />
      {draft.levers.map((l, i) => {
        const offer = offers.find((o) => same(o, l));
        return (
          <div className="lever" key={`${l.kind}${l.path}`}>
            <div className="spread">
              <b>{offer?.title ?? l.path ?? l.kind}</b>
              <button
                type="button"
                className="plain quiet"
                aria-label={`Remove ${offer?.title}`}
                onClick={() => set(draft.levers.filter((_, k) => k !== i))}
              >
                ×
              </button>
            </div>
            <Steps
              lever={l}
              offer={offer}
              onSteps={(steps) => set(draft.levers.map((d, k) => (k === i ? { ...d, steps } : d)))}
            />
            {l.kind === "turn" && <TurnWithLine />}
          </div>
        );
      })}
      <Button variant="outlined" fullWidth onClick={(e) => setMenu(e.currentTarget)}>
        + lever
      </Button>
      <Menu
        anchorEl={menu}
        open={Boolean(menu)}
        onClose={() => setMenu(null)}
        slotProps={{ paper: { sx: { maxHeight: 460 } } }}
      >
        {stages.flatMap((stage) => [
          <MenuItem key={stage} disabled sx={{ fontWeight: 650 }}>
            {stage[0].toUpperCase() + stage.slice(1)}
          </MenuItem>,
          ...offers
            .filter((o) => o.stage === stage && !draft.levers.some((l) => same(o, l)))
            .map((o) => (
              <MenuItem
                key={o.kind + o.path}
                onClick={() => {
                  setMenu(null);
                  set([...draft.levers, { kind: o.kind, path: o.path, steps: o.steps }]);
                }}
              >
                {o.title}
                {o.path?.startsWith("volumes") ? `, ${o.path.split("/")[1]}` : ""}
              </MenuItem>
            )),
        ])}
      </Menu>
      <hr style={{ border: 0, borderTop: "1px solid var(--line)", margin: "14px 0 8px" }} />
      <div className="spread">
        <span>Every combination</span>
        <b data-cases={counted?.cases}>
          {levers.length === 0
            ? "no case"
            : counted
              ? `${round(counted.cases, 0)} ${counted.cases === 1 ? "case" : "cases"}`
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
        {levers.length === 0
          ? "Add a lever to begin."
          : plan.isError
            ? ""
            : time.data?.seconds != null
              ? `about ${seconds(time.data.seconds)} on this computer`
              : going || time.data
                ? "how long it takes is told when the study under way is done"
                : "finding out how long it takes …"}
      </div>
      {plan.isError && levers.length > 0 && (
        <div className="remark fault">
          <Told text={plan.error.message} />
        </div>
      )}
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

function seconds(s: number): string {
  const whole = Math.max(1, Math.round(s));
  return s < 90 ? `${whole} ${whole === 1 ? "second" : "seconds"}` : `${Math.round(s / 60)} minutes`;
}

/** The steps of a lever: names to tick, or numbers typed with commas between them. */
function Steps({
  lever,
  offer,
  onSteps,
}: {
  lever: LeverSpec;
  offer?: LeverOffer;
  onSteps: (steps: unknown[]) => void;
}) {
  const units = useKept((s) => s.units);
  const percent = offer?.share ?? false;
  const own = scale(offer?.unit ?? "", units);
  const factor = percent ? 100 : own.factor;
  const offset = percent ? 0 : own.offset;
  const written = lever.steps
    .map((s) => (typeof s === "number" ? String(Number((s * factor + offset).toFixed(2))) : String(s)))
    .join(", ");
  const [text, setText] = useState<string | null>(null);
  const parts = (text ?? "").split(/[,;]\s*|\s+/).filter((t) => t.trim() !== "");
  const number = (t: string) => Number(t.replace("−", "-"));
  const wrong = parts.find((t) => !Number.isFinite(number(t)));
  const choices = offer?.choices ?? [];
  if (choices.length > 0)
    return (
      <div>
        {choices.map((c) => {
          const on = lever.steps.includes(c.id);
          return (
            <label key={c.id} className="row small" style={{ gap: 0 }}>
              <Checkbox
                size="small"
                sx={{ p: "1px 5px 1px 0" }}
                checked={on}
                onChange={() => onSteps(on ? lever.steps.filter((s) => s !== c.id) : [...lever.steps, c.id])}
              />
              {c.name}
            </label>
          );
        })}
      </div>
    );
  return (
    <div className="row small" style={{ flexWrap: "wrap" }}>
      <input
        aria-label={`Steps of ${offer?.title ?? lever.path}`}
        value={text ?? written}
        style={{
          flex: 1,
          minWidth: 0,
          border: 0,
          borderBottom: "1px dotted var(--quiet)",
          font: "inherit",
          background: "none",
        }}
        onChange={(e) => setText(e.target.value)}
        aria-invalid={wrong !== undefined}
        onBlur={() => {
          if (text === null || wrong !== undefined) return;
          onSteps([...new Set(parts.map((t) => Number(((number(t) - offset) / factor).toFixed(6))))]);
          setText(null);
        }}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      <span className="quiet">{percent ? "%" : own.unit}</span>
      {wrong !== undefined && <span className="said">“{wrong}” is not a number.</span>}
    </div>
  );
}
