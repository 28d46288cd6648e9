import { useEffect, useRef, useState } from "react";

/** Something held by the pointer: how it follows, and what letting it go does. */
export interface Holding<T> {
  follow: (held: T, e: PointerEvent) => T;
  drop: (held: T, e: PointerEvent) => void;
  /** Escape was pressed, or the pointer was taken away. */
  leave?: () => void;
}

/**
 * Dragging with the pointer, from any element. The window is listened to, so the pointer may leave the element; what is held is
 * kept beside the drawn state, so that a release right after a move counts where the pointer was let go and not what was drawn last.
 * Escape lets go and changes nothing.
 */
export function useDrag<T>(holding: Holding<T>): [T | null, (first: T) => void] {
  const held = useRef<T | null>(null);
  const [shown, setShown] = useState<T | null>(null);
  const latest = useRef(holding);
  latest.current = holding;
  const end = useRef<() => void>(() => {});
  useEffect(() => () => end.current(), []);

  function hold(first: T) {
    end.current();
    held.current = first;
    setShown(first);
    const move = (e: PointerEvent) => {
      if (held.current === null) return;
      held.current = latest.current.follow(held.current, e);
      setShown(held.current);
    };
    const up = (e: PointerEvent) => {
      move(e);
      const last = held.current;
      end.current();
      if (last !== null) latest.current.drop(last, e);
    };
    const leave = () => {
      end.current();
      latest.current.leave?.();
    };
    const key = (e: KeyboardEvent) => e.key === "Escape" && leave();
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
    window.addEventListener("pointercancel", leave);
    window.addEventListener("keydown", key);
    end.current = () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      window.removeEventListener("pointercancel", leave);
      window.removeEventListener("keydown", key);
      end.current = () => {};
      held.current = null;
      setShown(null);
    };
  }
  return [shown, hold];
}
