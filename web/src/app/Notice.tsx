import { useEffect } from "react";
import { useView } from "./state";

/** What has just happened, at the foot of the screen; a fault stays until it is closed. */
export function Notice() {
  const { notice, set } = useView();
  useEffect(() => {
    if (!notice || notice.bad) return;
    const timer = setTimeout(() => set({ notice: null }), 5000);
    return () => clearTimeout(timer);
  }, [notice, set]);
  if (!notice) return null;
  return (
    <div
      role={notice.bad ? "alert" : "status"}
      className={`remark ${notice.bad ? "fault" : ""}`}
      style={{
        position: "fixed",
        zIndex: 1400,
        left: "50%",
        top: 50,
        transform: "translateX(-50%)",
        maxWidth: 620,
        display: "flex",
        gap: 12,
        background: notice.bad ? "#F3DDD6" : "#22303A",
        color: notice.bad ? "#22303A" : "#FFFEFB",
        border: notice.bad ? "1px solid #A8442F" : 0,
      }}
    >
      <span>{notice.text}</span>
      <button type="button" className="plain" aria-label="Close" onClick={() => set({ notice: null })}>
        ×
      </button>
    </div>
  );
}
