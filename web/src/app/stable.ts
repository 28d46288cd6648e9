import { useCallback, useRef } from "react";

/**
 * A function that stays the same object while what it does may change. What is drawn by the scene compares handlers by object:
 * a new one counts as a change and costs a frame.
 */
export function useStable<A extends unknown[], R>(latest: (...given: A) => R): (...given: A) => R {
  const now = useRef(latest);
  now.current = latest;
  return useCallback((...given: A) => now.current(...given), []);
}

/** For things that the pointer passes through. */
export const passed = () => null;

/** Whether properties of a component are the same, lists of options by what stands in them: who lists them anew each time asks for no new picture. */
export function alike<P extends object>(before: P, after: P): boolean {
  const names = new Set([...Object.keys(before), ...Object.keys(after)]) as Set<keyof P>;
  return [...names].every((name) => {
    const [a, b] = [before[name], after[name]];
    if (Object.is(a, b)) return true;
    return (
      Array.isArray(a) && Array.isArray(b) && a.length === b.length && a.every((option, k) => flatly(option, b[k]))
    );
  });
}

function flatly(a: object, b: object): boolean {
  if (Object.is(a, b)) return true;
  const keys = Object.keys(a);
  return (
    keys.length === Object.keys(b).length &&
    keys.every((key) => Object.is((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key]))
  );
}
