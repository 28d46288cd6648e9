import { Dialog } from "@mui/material";
import { useState } from "react";
import type { Study } from "../../api/client";
import { useOutcome } from "../../api/hooks";
import { Hours } from "../../app/Hours";
import { Tabs } from "../../app/Tabs";
import { Told } from "../../app/Told";
import { Shares } from "../findings/Shares";
import { PartByPart } from "../findings/Why";

const pages = [
  ["why", "Why it differs"],
  ["hours", "Hour by hour"],
] as const;

/** A case of a study beside the scheme that the study was asked of: what the difference comes from, its loads part by part, its hours. */
export function CaseLook({ study, number, onClose }: { study: Study; number: number; onClose: () => void }) {
  const [page, setPage] = useState<"why" | "hours">("why");
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
        <Tabs label="What to look at" pages={pages} page={page} onPage={setPage} />
        {page === "why" ? (
          <div className="why">
            <Shares of={of} base="the scheme" />
            <PartByPart of={of} base="the scheme" />
          </div>
        ) : (
          <HoursBeside study={study} of={of} />
        )}
      </div>
    </Dialog>
  );
}

function HoursBeside({ study, of }: { study: Study; of: { study: string; number: number } }) {
  const { data: outcome, error } = useOutcome(study.scheme);
  if (!outcome) return <p className="quiet">{error ? <Told text={error.message} /> : "Working out its hours."}</p>;
  return <Hours outcome={outcome} given={{ name: `case ${of.number}`, ask: of }} />;
}
