import { useEffect } from "react";
import { useKept, useView } from "./state";
import { said } from "./words";

/** What has just happened, at the foot of the screen; a fault stays until it is closed. */
export function Notice() {
  const { notice, set } = useView();
  const units = useKept((s) => s.units);
  useEffect(() => {
    if (!notice || notice.bad) return;
    const timer = setTimeout(() => set({ notice: null }), 5000);
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
