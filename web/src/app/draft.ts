import type { LeverOffer, LeverSpec, Schemas } from "../api/client";
import { useScheme } from "../api/hooks";
import { type Draft, useKept, useKeptOf } from "./state";
import { freshId } from "./words";

export type Kind = NonNullable<Schemas["StudySpec-Input"]["kind"]>;
export type Measure = Schemas["MeasureSpec-Input"];
export type Goal = Schemas["Goal-Input"];
export type Limit = Schemas["Limit-Input"];
export type LeftOut = Schemas["LeftOut-Input"];

/** The kinds of study, each with the question that it answers. */
export const kinds: { id: Kind; name: string; question: string }[] = [
  { id: "every", name: "Every combination", question: "What does each mix give?" },
  { id: "measures", name: "Measures", question: "What does each bring, alone and on top of the others?" },
  { id: "sample", name: "Sample", question: "Where do many levers matter?" },
  { id: "sensitivity", name: "Sensitivity", question: "Which levers drive the outcome?" },
  { id: "search", name: "Search", question: "What are the best trade-offs within limits?" },
];

export const kindName = (kind: Kind) => kinds.find((k) => k.id === kind)?.name ?? kind;

export const NEW: Draft = { name: "", levers: [] };

/** The study that is being put together for the scheme at hand, and how to change it. */
export function useDraft(): { draft: Draft; change: (part: Partial<Draft>) => void } {
  const { scheme, state } = useScheme();
  const key = `${state.id}/${scheme.id}`;
  const { drafts, setDraft } = useKeptOf("drafts", "setDraft");
  return {
    draft: drafts[key] ?? NEW,
    change: (part) => setDraft(key, { ...(useKept.getState().drafts[key] ?? NEW), ...part }),
  };
}

export const sameLever = (o: { kind: string; path?: string | null }, l: { kind: string; path?: string | null }) =>
  o.kind === l.kind && (o.path ?? null) === (l.path ?? null);

/** What an offered lever belongs to, where its title alone does not say so. */
export function ownerOf(offer: LeverOffer): string {
  const parts = offer.kind === "field" ? (offer.path ?? "").split("/") : [];
  const between = parts
    .slice(1, -1)
    .filter((part) => !["form", "storeys", "zoning", "zones", "rules", "overrides"].includes(part));
  const listed = parts[0] === "volumes" || parts[0] === "plant" || ["zones", "rules", "overrides"].includes(parts[1]);
  return listed ? between.join(" ").replaceAll("_", " ") : "";
}

export const titleOf = (offer: LeverOffer) => [offer.title, ownerOf(offer)].filter(Boolean).join(", ");

/** A new measure out of one offered lever: the last of its steps. */
export function measureOf(offer: LeverOffer, taken: string[]): Measure {
  const choice = offer.choices?.at(-1);
  return {
    id: freshId("measure", taken),
    name: choice ? `${titleOf(offer)}: ${choice.name}` : titleOf(offer),
    changes: [{ kind: offer.kind, path: offer.path, step: choice ? choice.id : offer.steps.at(-1) }],
  } as Measure;
}

/** Whether the study that is put together varies something: as a lever, or by one of its measures. */
export function varies(draft: Draft, what: { kind: string; path?: string | null }): boolean {
  return draft.kind === "measures"
    ? (draft.measures ?? []).some((m) => m.changes.some((c) => sameLever(c, what)))
    : draft.levers.some((l) => sameLever(l, what));
}

/** The study with something varied that was not, or the other way round: as a lever, or, of measures, as one of them. */
export function varied(draft: Draft, offer: LeverOffer): Draft {
  const on = varies(draft, offer);
  if (draft.kind === "measures") {
    const measures = draft.measures ?? [];
    const left = measures
      .map((m) => ({ ...m, changes: m.changes.filter((c) => !sameLever(c, offer)) }))
      .filter((m) => m.changes.length > 0);
    return {
      ...draft,
      measures: on
        ? left
        : [
            ...measures,
            measureOf(
              offer,
              measures.map((m) => m.id),
            ),
          ],
    };
  }
  const rest = draft.levers.filter((l) => !sameLever(l, offer));
  return { ...draft, levers: on ? rest : [...rest, { kind: offer.kind, path: offer.path, steps: offer.steps }] };
}

/** The key by which tables and conditions know a lever. */
export const keyOf = (l: { kind: string; path?: string | null }) =>
  (l.kind === "field" || l.kind === "factor") && l.path ? l.path : l.path ? `${l.kind}/${l.path}` : l.kind;

/** Whether a lever can go through a range: it is a number. */
export const isNumber = (offer?: LeverOffer) => (offer?.choices ?? []).length === 0 && !offer?.whole;

/** The draft as a study of its kind: what belongs to other kinds is left out, and kept in the draft. */
export function specOf(draft: Draft, scheme: string): Schemas["StudySpec-Input"] & { levers: LeverSpec[] } {
  const kind = draft.kind ?? "every";
  const levers = draft.levers
    .filter((l) => l.steps.length > 0 || l.low != null)
    .map((l) => (kind === "every" && l.low != null ? { ...l, steps: [] } : l));
  const keys = levers.map(keyOf);
  const own: Partial<Schemas["StudySpec-Input"]> =
    kind === "measures"
      ? { measures: (draft.measures ?? []).filter((m) => m.changes.length > 0) }
      : kind === "sensitivity"
        ? { size: draft.size, method: draft.method === "variance" ? "variance" : "elementary" }
        : kind === "sample"
          ? { size: draft.size, method: draft.method === "halton" ? "halton" : "sobol" }
          : kind === "search"
            ? { size: draft.size, goals: draft.goals ?? [], limits: draft.limits ?? [] }
            : {};
  const conditions = (draft.left_out ?? [])
    .map((one) => ({ when: one.when.filter((c) => keys.includes(c.lever) && c.steps.length > 0) }))
    .filter((one) => one.when.length > 0);
  return {
    name: draft.name || kindName(kind),
    kind,
    scheme,
    levers: kind === "measures" ? [] : levers,
    ...((draft.outcomes ?? []).length > 0 ? { outcomes: draft.outcomes } : {}),
    ...(kind === "measures" || kind === "sensitivity" || conditions.length === 0 ? {} : { left_out: conditions }),
    ...own,
  } as Schemas["StudySpec-Input"] & { levers: LeverSpec[] };
}

/** Numbers typed as a list or as "0 to 60 by 15"; the word that is no number, where there is one. */
export function readSteps(text: string): { steps: number[]; wrong: string | null } {
  const number = (t: string) => Number(t.replace("−", "-"));
  const series = /^\s*(\S+)\s+(?:to|\.\.)\s+(\S+)\s+by\s+(\S+)\s*$/i.exec(text);
  if (series) {
    const [from, to, by] = series.slice(1).map(number);
    const wrong = series.slice(1).find((t) => !Number.isFinite(number(t)));
    if (wrong) return { steps: [], wrong };
    const count = Math.floor((to - from) / by + 1e-9);
    if (!(count >= 0 && count < 200)) return { steps: [], wrong: text.trim() };
    return { steps: Array.from({ length: count + 1 }, (_, k) => from + k * by), wrong: null };
  }
  const parts = text.split(/[,;]\s*|\s+/).filter((t) => t.trim() !== "");
  const wrong = parts.find((t) => !Number.isFinite(number(t))) ?? null;
  return { steps: wrong === null ? parts.map(number) : [], wrong };
}
