import { useEffect } from "react";
import { Link, useLocation } from "react-router";
import { useOutcome, useScheme } from "../api/hooks";
import { useKeptOf, useView } from "./state";

interface Step {
  name: string;
  how: string;
  done: boolean;
  stage?: string;
}

/** The way to a first comparison, on a project that began empty; it goes once it was walked or put away. */
export function FirstSteps() {
  const { state, scheme } = useScheme();
  const { firstSteps, setFirstSteps } = useKeptOf("firstSteps", "setFirstSteps");
  const set = useView((s) => s.set);
  const outcome = useOutcome(scheme.id).data;
  const here = useLocation().pathname.split("/")[3];
  const { schemes, place } = state.completed;
  const formed = schemes.some((s) => (s.volumes ?? []).length + (s.zones ?? []).length > 0);
  const told = firstSteps[state.id];
  const empty = !formed && !place?.climate && schemes.length === 1;
  useEffect(() => {
    if (empty && told === undefined) setFirstSteps(state.id, "open");
  }, [empty, told, setFirstSteps, state.id]);
  const given = (state.given.schemes as Record<string, Record<string, unknown> | undefined>[]) ?? [];
  const said = (part: string) => given.some((s) => Object.keys(s[part] ?? {}).length > 0);
  const steps: Step[] = [
    { name: "Choose a climate", how: "a stand-in, or your EPW file", done: Boolean(place?.climate), stage: "place" },
    { name: "Draw the form", how: "or trace a plan, or import a model", done: formed, stage: "shape" },
    { name: "Say how it is used", how: "a profile; hours and rooms later", done: said("use"), stage: "use" },
    { name: "Set glass and walls", how: "40% glass to the south, say", done: said("skin"), stage: "skin" },
    { name: "Read the year", how: "it stands at the bottom, always current", done: Boolean(outcome) },
    { name: "Duplicate the scheme", how: "▾ at its tab; change something", done: schemes.length > 1 },
    { name: "Compare them", how: "side by side, with the reasons", done: here === "findings", stage: "findings" },
  ];
  const next = steps.findIndex((s) => !s.done);
  if (told !== "open" || next < 0) return null;
  return (
    <section className="first-steps" aria-label="First steps">
      <div className="spread">
        <h3>First steps</h3>
        <button type="button" className="plain assumed small" onClick={() => setFirstSteps(state.id, "away")}>
          put away
        </button>
      </div>
      <ol>
        {steps.map((s, k) => (
          <li key={s.name} data-done={s.done || undefined} aria-current={k === next ? "step" : undefined}>
            {s.stage ? (
              <Link to={`/p/${state.id}/${s.stage}/${scheme.id}`}>{s.name}</Link>
            ) : s.name === "Read the year" ? (
              <button type="button" className="plain" onClick={() => set({ drawer: true })}>
                {s.name}
              </button>
            ) : (
              <span>{s.name}</span>
            )}
            {s.done ? <span className="sr">done</span> : k === next && <span className="quiet small"> {s.how}</span>}
          </li>
        ))}
      </ol>
    </section>
  );
}
