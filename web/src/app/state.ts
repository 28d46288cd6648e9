import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { Geometry, LeverSpec, Outcome } from "../api/client";

export type Units = "SI" | "IP";
export type Colouring =
  | "nothing"
  | "boundary"
  | "zone"
  | "use"
  | "construction"
  | "glass"
  | "heating"
  | "cooling"
  | "warm";

interface Draft {
  name: string;
  levers: LeverSpec[];
}

interface Kept {
  units: Units;
  sheetWidth: number;
  drafts: Record<string, Draft>;
  setUnits: (units: Units) => void;
  setSheetWidth: (width: number) => void;
  setDraft: (key: string, draft: Draft) => void;
}

/** What stays between visits: the unit system, the sheet's width, and studies that were begun but not run. */
export const useKept = create<Kept>()(
  persist(
    (set) => ({
      units: "SI",
      sheetWidth: 340,
      drafts: {},
      setUnits: (units) => set({ units }),
      setSheetWidth: (sheetWidth) => set({ sheetWidth }),
      setDraft: (key, draft) => set((now) => ({ drafts: { ...now.drafts, [key]: draft } })),
    }),
    { name: "eurythm" },
  ),
);

export interface Selection {
  kind: "volume" | "zone" | "face" | "box" | "tree";
  id: string;
}

interface View {
  selection: Selection | null;
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
  tried: { scheme: string; outcome: Outcome | null; geometry: Geometry | null } | null;
  faultAt: { path: string; message: string } | null;
  set: (part: Partial<Omit<View, "set">>) => void;
}

/** What is being looked at now. */
export const useView = create<View>()((set) => ({
  selection: null,
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
  set: (part) => set(part),
}));

/** Tells something in passing; a fault stays until it is closed. */
export function tell(text: string, bad = false): void {
  useView.getState().set({ notice: { text, bad } });
}
