import type { Schemas } from "../../../api/client";
import { make } from "../../../api/edits";
import type { Made, ShelfProfile } from "../../../api/hooks";

export type Schedule = Schemas["Schedule-Output"];
export type Rule = Schedule["rules"][number];
export type Day = Schedule["days"][number];
export type Kept = Record<string, unknown> & { id: string; assumed?: string[] };

/** The schedules of a profile: what they are called, whether they tell temperatures, and what holds where there is none. */
export const schedules = [
  { id: "occupancy", name: "People", celsius: false, none: "" },
  { id: "lighting", name: "Lighting", celsius: false, none: "" },
  { id: "equipment", name: "Equipment", celsius: false, none: "" },
  { id: "heating", name: "Heating", celsius: true, none: "the setpoint while people are there, the setback else" },
  { id: "cooling", name: "Cooling", celsius: true, none: "the setpoint while people are there, the setback else" },
  { id: "fresh_air", name: "Outdoor air", celsius: false, none: "all of it while people are there" },
  { id: "hot_water", name: "Hot water", celsius: false, none: "spread as people are there" },
  { id: "airing", name: "Windows", celsius: false, none: "may be open while people are there" },
] as const;
export type ScheduleName = (typeof schedules)[number]["id"];

const told = new Set(["own", "shipped"]);
const names = new Set(["id", "name", "source", "assumed"]);

/** A profile of the shelf as the library keeps it; what it holds was given by nobody in this project yet. */
export function copied(profile: ShelfProfile): Kept {
  const kept = Object.fromEntries(Object.entries(profile).filter(([k, v]) => !told.has(k) && v !== null)) as Kept;
  return { ...kept, assumed: Object.keys(kept).filter((k) => !names.has(k)) };
}

/** The project's own profile as it was given, if it has one under an id. */
export function keptIn(given: Record<string, unknown>, id: string): Kept | undefined {
  return ((given.library as { profiles?: Kept[] } | undefined)?.profiles ?? []).find((p) => p.id === id);
}

/** Changes a profile as it stands when the edit's turn comes; a shipped one becomes the project's own by it. A null takes a value away. */
export function changed(profile: ShelfProfile, change: (now: Kept) => Record<string, unknown>): Made {
  return (state) => {
    const now = keptIn(state.given, profile.id) ?? copied(profile);
    const part = change(now);
    const item = Object.fromEntries(Object.entries({ ...now, ...part }).filter(([, v]) => v !== null)) as Kept;
    const assumed = (now.assumed ?? []).filter((name) => !(name in part));
    const { assumed: _, ...rest } = item;
    return make.put("library/profiles", assumed.length > 0 ? { ...rest, assumed } : rest);
  };
}

/** A schedule of one day, to begin with. */
export function oneDay(value: number): Schedule {
  return { days: [{ id: "day", name: "Every day", values: Array(24).fill(value) }], rules: [], hourly: null };
}

/** A schedule without what holds nothing, as documents keep it. */
export function lean(schedule: Schedule): Record<string, unknown> {
  if (schedule.hourly) return { hourly: schedule.hourly };
  const rules = schedule.rules.map((r) =>
    Object.fromEntries(
      Object.entries(r).filter(([, v]) => v !== null && v !== "any" && !(Array.isArray(v) && v.length === 0)),
    ),
  );
  return { days: schedule.days, rules };
}
