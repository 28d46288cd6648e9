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
