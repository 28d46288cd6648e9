import { useMemo } from "react";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { useShallow } from "zustand/react/shallow";
import type { Geometry, LeverSpec, Outcome, Schemas } from "../api/client";

export type Units = "SI" | "IP";
export type Colouring =
  | "nothing"
  | "boundary"
  | "zone"
  | "use"
  | "construction"
  | "origin"
  | "glass"
  | "u_value"
  | "system"
  | "lights"
  | "daylight"
  | `figure ${string}`;

/** A study that is being put together: of whichever kind, with what was chosen for the other kinds kept beside. */
export type Draft = { name: string; levers: LeverSpec[] } & Omit<
  Partial<Schemas["StudySpec-Input"]>,
  "name" | "levers"
>;

interface Kept {
  units: Units;
  sheetWidth: number;
  drafts: Record<string, Draft>;
  setUnits: (units: Units) => void;
  setSheetWidth: (width: number) => void;
  setDraft: (key: string, draft: Draft) => void;
  /** Figures chosen as columns of a study's table, by study. */
  columns: Record<string, string[]>;
  setColumns: (study: string, columns: string[]) => void;
  /** Whether the first steps of a project that began empty are shown or were put away, by project. */
  firstSteps: Record<string, "open" | "away">;
  setFirstSteps: (project: string, shown: "open" | "away") => void;
  /** Colours of legend entries that were changed, by what they stand for. */
  colours: Record<string, string>;
  setColour: (key: string, colour: string | null) => void;
}

/** What stays between visits: the unit system, the sheet's width, colours of the legend, and studies that were begun but not run. */
export const useKept = create<Kept>()(
  persist(
    (set) => ({
      units: "SI",
      sheetWidth: 340,
      drafts: {},
      setUnits: (units) => set({ units }),
      setSheetWidth: (sheetWidth) => set({ sheetWidth }),
      setDraft: (key, draft) => set((now) => ({ drafts: { ...now.drafts, [key]: draft } })),
      columns: {},
      setColumns: (study, columns) => set((now) => ({ columns: { ...now.columns, [study]: columns } })),
      firstSteps: {},
      setFirstSteps: (project, shown) => set((now) => ({ firstSteps: { ...now.firstSteps, [project]: shown } })),
      colours: {},
      setColour: (key, colour) =>
        set((now) => {
          const { [key]: _, ...rest } = now.colours;
          return { colours: colour ? { ...rest, [key]: colour } : rest };
        }),
    }),
    { name: "eurythm" },
  ),
);

/** What is tried but not kept, on which revision; once it was kept it stays until its result is there. */
export interface Tried {
  scheme: string;
  outcome: Outcome | null;
  geometry: Geometry | null;
  on: number;
  stays: boolean;
}

export interface Selection {
  kind: "volume" | "zone" | "face" | "box" | "footprint" | "tree" | "sensor" | "array";
  id: string;
}

interface View {
  selection: Selection | null;
  /** Others of the same kind that are selected besides. */
  also: string[];
  level: number | null;
  plan: boolean;
  colouring: Colouring;
  /** Zones that are not drawn. */
  unseen: string[];
  drawing: string | null;
  /** The plan under the storey that a tool works on. */
  underlay: string | null;
  drawer: boolean;
  finder: boolean;
  help: boolean;
  notice: { text: string; bad: boolean } | null;
  tried: Tried | null;
  faultAt: { path: string; message: string } | null;
  /** How many edits are on their way to the server. */
  underway: number;
  /** What falls on faces, as it is drawn over them, and the ends of its scale where they were typed. */
  /** The day and hour whose sun and shadows are drawn; with `range`, the shadows of the whole day. */
  sunDay: { day: number; hour: number; range: boolean } | null;
  sun: Schemas["IrradiationOut"] | null;
  sunScale: { low: number; high: number } | null;
  /** Light on floors, as it is drawn in plan and model, and the light sensors. */
  floors: Schemas["FloorsOut"] | null;
  sensors: Schemas["SensorsOut"] | null;
  set: (part: Partial<Omit<View, "set">>) => void;
}

/** What is being looked at now. */
export const useView = create<View>()((set) => ({
  selection: null,
  also: [],
  level: null,
  plan: false,
  colouring: "nothing",
  unseen: [],
  drawing: null,
  underlay: null,
  drawer: false,
  finder: false,
  help: false,
  notice: null,
  tried: null,
  faultAt: null,
  underway: 0,
  sunDay: null,
  sun: null,
  sunScale: null,
  floors: null,
  sensors: null,
  // what was selected besides goes with the selection that it stood beside
  set: (part) => set("selection" in part && !("also" in part) ? { ...part, also: [] } : part),
}));

const some =
  <T extends object, K extends keyof T>(names: K[]) =>
  (state: T) =>
    Object.fromEntries(names.map((name) => [name, state[name]])) as Pick<T, K>;

/** Some fields of what is being looked at; a change of another one draws nothing anew. */
export const useViewed = <K extends keyof View>(...names: K[]) => useView(useShallow(some<View, K>(names)));

/** Some fields of what stays between visits, likewise. */
export const useKeptOf = <K extends keyof Kept>(...names: K[]) => useKept(useShallow(some<Kept, K>(names)));

/** Selects one thing, or adds it to (takes it from) what is selected where that is of the same kind. */
export function pick(thing: Selection | null, add = false): void {
  const { selection, also, set } = useView.getState();
  if (!add || !thing || selection?.kind !== thing.kind) {
    set({ selection: thing });
    return;
  }
  const ids = [selection.id, ...also];
  selectAll(thing.kind, ids.includes(thing.id) ? ids.filter((id) => id !== thing.id) : [...ids, thing.id]);
}

/** Selects several things of a kind. */
export function selectAll(kind: Selection["kind"], ids: string[]): void {
  const [first, ...also] = ids;
  useView.getState().set({ selection: first ? { kind, id: first } : null, also });
}

/** Ids of all that is selected. */
export function useChosen(): string[] {
  const { selection, also } = useViewed("selection", "also");
  return useMemo(() => (selection ? [selection.id, ...also] : []), [selection, also]);
}

/** Tells something in passing; a fault stays until it is closed. */
export function tell(text: string, bad = false): void {
  useView.getState().set({ notice: { text, bad } });
}
