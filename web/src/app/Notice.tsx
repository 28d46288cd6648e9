import { useEffect } from "react";
import { useKept, useViewed } from "./state";
import { said } from "./words";

/** How long a notice stays, ms, and for each letter that is to be read. */
const SHORTEST = 5000;
const LETTER = 70;

/** What has just happened, at the foot of the screen; a fault stays until it is closed. */
export function Notice() {
  const { notice, set } = useViewed("notice", "set");
  const units = useKept((s) => s.units);
  useEffect(() => {
    if (!notice || notice.bad) return;
    const timer = setTimeout(() => set({ notice: null }), Math.max(SHORTEST, notice.text.length * LETTER));
    return () => clearTimeout(timer);
  }, [notice, set]);
  if (!notice) return null;
  return (
    <div role={notice.bad ? "alert" : "status"} className={`remark notice ${notice.bad ? "fault" : ""}`}>
      <span>{said(notice.text, units)}</span>
      <button type="button" className="plain" aria-label="Close" onClick={() => set({ notice: null })}>
        ×
      </button>
    </div>
  );
}
