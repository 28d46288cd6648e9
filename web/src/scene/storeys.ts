import { useMemo } from "react";
import type { Geometry, Scheme } from "../api/client";
import { useGeometry, useScheme } from "../api/hooks";
import { useView } from "../app/state";

type Zone = Geometry["zones"][number];

/** How high a storey is taken to be where nothing tells, m. */
export const STOREY_M = 3;

/** Levels that differ by less are one storey, m. */
const SAME_M = 0.01;

/** One storey: where it lies and what stands on it; a storey that is only worked on stands for itself. */
export interface Rung {
  level: number;
  height: number;
  /** Counted from the lowest storey at or above the ground. */
  number: number;
  volumes: string[];
  zones: string[];
}

export const sameLevel = (a: number, b: number) => Math.abs(a - b) < SAME_M;

/** All storeys by their level, lowest first: those that zones stand on, those that plans lie under, and the one worked on. */
export function rungsOf(zones: Zone[], besides: number[], ground: number): Rung[] {
  const rungs: Rung[] = [];
  for (const z of zones) {
    let rung = rungs.find((r) => sameLevel(r.level, z.level));
    if (!rung) {
      rung = { level: z.level, height: z.height, number: 0, volumes: [], zones: [] };
      rungs.push(rung);
    }
    if (!rung.volumes.includes(z.volume)) rung.volumes.push(z.volume);
    rung.zones.push(z.id);
    rung.height = Math.min(rung.height, z.height);
  }
  for (const level of besides)
    if (!rungs.some((r) => sameLevel(r.level, level)))
      rungs.push({ level, height: 0, number: 0, volumes: [], zones: [] });
  rungs.sort((a, b) => a.level - b.level);
  const first = Math.max(
    rungs.findIndex((r) => r.level >= ground - 0.5),
    0,
  );
  for (const [i, rung] of rungs.entries()) {
    rung.number = i - first;
    if (rung.height === 0) rung.height = (rungs[i + 1]?.level ?? rung.level + STOREY_M) - rung.level;
  }
  return rungs;
}

/** The storeys of a scheme and the one that is worked on: where rooms, plans, volumes and typed coordinates land, and what the plan shows. */
export interface Working {
  rungs: Rung[];
  /** The level worked on; the lowest one above the ground where none is picked. */
  level: number;
  /** Whether it was picked. */
  picked: boolean;
  /** The floor of the storey that would come next. */
  above: number;
  /** The storey at a level; one that does not stand yet ends where the next one up begins. */
  storeyAt: (level: number) => { number: number; height: number };
}

/** Works out which storeys there are, and which one is worked on. */
export function workingOf(
  zones: Zone[],
  plans: (number | null | undefined)[],
  picked: number | null,
  ground: number,
): Working {
  const laid = plans.filter((l) => l !== null && l !== undefined);
  const rungs = rungsOf(zones, picked === null ? laid : [...laid, picked], ground);
  const top = rungs[rungs.length - 1];
  const levels = rungs.map((r) => r.level);
  return {
    rungs,
    level: picked ?? rungs.find((r) => r.number === 0)?.level ?? ground,
    picked: picked !== null,
    above: top ? Number((top.zones.length > 0 ? top.level + top.height : top.level + STOREY_M).toFixed(3)) : ground,
    storeyAt: (level) => {
      const all = rungsOf(zones, [...levels, level], ground);
      const { number, height } = all.find((r) => sameLevel(r.level, level)) ?? { number: 0, height: STOREY_M };
      return { number, height };
    },
  };
}

/** The storeys of the scheme in view and the one that is worked on. */
export function useWorking(): Working {
  const { scheme, state } = useScheme();
  const zones = useGeometry(scheme.id).data?.zones;
  const level = useView((s) => s.level);
  return useWorkingOf(scheme, zones, level, state.completed.place?.ground_level_m ?? 0);
}

export function useWorkingOf(scheme: Scheme, zones: Zone[] | undefined, level: number | null, ground: number): Working {
  return useMemo(
    () =>
      workingOf(
        zones ?? [],
        (scheme.underlays ?? []).map((u) => u.level_m),
        level,
        ground,
      ),
    [zones, scheme.underlays, level, ground],
  );
}
