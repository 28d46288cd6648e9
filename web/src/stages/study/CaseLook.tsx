import { Dialog } from "@mui/material";
import { useState } from "react";
import type { Study } from "../../api/client";
import { useOutcome } from "../../api/hooks";
import { Hours } from "../../app/Hours";
import { Shares } from "../findings/Shares";
import { PartByPart } from "../findings/Why";

const pages = [
  ["why", "Why it differs"],
  ["hours", "Hour by hour"],
] as const;

/** A case of a study beside the scheme that the study was asked of: what the difference comes from, its loads part by part, its hours. */
export function CaseLook({ study, number, onClose }: { study: Study; number: number; onClose: () => void }) {
  const [page, setPage] = useState<"why" | "hours">("why");
  const outcome = useOutcome(study.scheme).data;
  const of = { study: study.id, number };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="lg" aria-label={`Case ${number} of ${study.name}`}>
      <div style={{ padding: "14px 20px", minHeight: 520 }}>
        <div className="spread">
          <h2>
            Case {number} of {study.name}
          </h2>
          <button type="button" className="plain quiet" aria-label="Close" onClick={onClose}>
            ×
          </button>
        </div>
        <div className="drawer-pages" role="tablist" aria-label="What to look at">
          {pages.map(([id, name]) => (
            <button
              key={id}
              type="button"
              role="tab"
              aria-selected={page === id}
              className={`plain ${page === id ? "chosen" : "quiet"}`}
              onClick={() => setPage(id)}
            >
              {name}
            </button>
          ))}
        </div>
        {page === "why" ? (
          <div className="why">
            <Shares of={of} />
            <PartByPart of={of} base="the scheme" />
          </div>
        ) : (
          outcome && <Hours outcome={outcome} given={{ name: `case ${number}`, ask: of }} />
        )}
      </div>
    </Dialog>
  );
}
