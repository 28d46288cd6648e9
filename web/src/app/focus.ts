import { useEffect } from "react";

const REACHED = "a[href], button:not(:disabled), input:not(:disabled), select, textarea, summary, [tabindex='0']";

interface Place {
  element: Element;
  called: string;
  /** The parts it lies in, from the nearest outwards, and how many that can be reached stand before it in each. */
  within: { part: Element; before: number }[];
}

const reachedIn = (part: Element) =>
  [...part.querySelectorAll<HTMLElement>(REACHED)].filter((e) => e.tabIndex >= 0 && e.checkVisibility());
const calledBy = (e: Element) => e.getAttribute("name") || e.getAttribute("aria-label") || e.textContent || "";

function placeOf(element: Element): Place {
  const within: Place["within"] = [];
  for (let part = element.parentElement; part && part !== document.body; part = part.parentElement)
    within.push({ part, before: reachedIn(part).indexOf(element as HTMLElement) });
  return { element, called: calledBy(element), within };
}

/** What takes the place of something that is gone: what is called the same near by, or else what stands where it stood. */
function heir({ called, within }: Place): HTMLElement | undefined {
  for (const { part, before } of within) {
    if (!part.isConnected) continue;
    const there = reachedIn(part);
    if (there.length)
      return there.find((e) => calledBy(e) === called) ?? there[Math.min(Math.max(before, 0), there.length - 1)];
  }
}

/**
 * Keeps the keyboard near where it was when an edit takes away, replaces or disables what had the focus. Who pressed with
 * a pointer is left alone: a box that took the focus then would swallow the single keys of the page.
 */
export function useFocusKept() {
  useEffect(() => {
    let last: Place | null = null;
    let asked = 0;
    let byKey = false;
    const pressed = (e: Event) => {
      byKey = e.type === "keydown";
    };
    const entered = (e: FocusEvent) => {
      if (e.target instanceof Element && e.target.closest(".frame")) last = placeOf(e.target);
    };
    const lost = () => {
      asked ||= requestAnimationFrame(() => {
        asked = 0;
        if (!last || document.activeElement !== document.body) return;
        if (last.element.isConnected && !last.element.matches(":disabled"))
          last = null; // left by hand
        else if (byKey) heir(last)?.focus({ preventScroll: true });
      });
    };
    const changed = new MutationObserver(() => {
      if (last && document.activeElement === document.body) lost();
    });
    document.addEventListener("keydown", pressed, true);
    document.addEventListener("pointerdown", pressed, true);
    document.addEventListener("focusin", entered);
    document.addEventListener("focusout", lost);
    changed.observe(document.body, { childList: true, subtree: true, attributes: true, attributeFilter: ["disabled"] });
    return () => {
      document.removeEventListener("keydown", pressed, true);
      document.removeEventListener("pointerdown", pressed, true);
      document.removeEventListener("focusin", entered);
      document.removeEventListener("focusout", lost);
      changed.disconnect();
      cancelAnimationFrame(asked);
    };
  }, []);
}
