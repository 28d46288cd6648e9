import { useState } from "react";
import { useKept } from "../../../app/state";
import { Told } from "../../../app/Told";
import { said } from "../../../app/words";
import type { Finding, Settled } from "./imports";

/** Everything that was mended or is doubtful; each leads to its object. */
export function Found({
  findings: told,
  selected,
  onPick,
}: {
  /** Nothing while it is not known yet. */
  findings: Finding[] | undefined;
  selected: string[];
  onPick: (object: string) => void;
}) {
  const units = useKept((s) => s.units);
  const [shown, setShown] = useState(false);
  const findings = told ?? [];
  const open = findings.filter((f) => !f.mended);
  const list = (some: Finding[]) =>
    some.map((f, i) => (
      <button
        key={`${f.code}${f.object}${i}`}
        type="button"
        className={`plain remark finding ${f.mended ? "mended" : ""}`}
        data-finding={f.code}
        aria-pressed={f.object !== "" && selected.includes(f.object)}
        onClick={() => f.object && onPick(f.object)}
      >
        {said(f.sentence, units)}
      </button>
    ));
  return (
    <section>
      <div className="spread">
        <h3>What was found</h3>
        <span className="quiet small">
          {told ? `${open.length} doubtful, ${findings.length - open.length} mended` : "looking …"}
        </span>
      </div>
      {list(open)}
      {findings.length > open.length && (
        <details open={shown}>
          <summary
            onClick={(e) => {
              e.preventDefault();
              setShown(!shown);
            }}
          >
            Mended: {findings.length - open.length}
          </summary>
          {list(findings.filter((f) => f.mended))}
        </details>
      )}
      {told?.length === 0 && <p className="quiet small">Nothing doubtful, nothing mended.</p>}
    </section>
  );
}

/** What a newer file of the same model has otherwise. */
export function Differences({ answer, onPick }: { answer: Settled; onPick: (object: string) => void }) {
  const kinds = ["added", "changed", "gone"] as const;
  return (
    <section data-section="differences">
      <h3>Against the file before</h3>
      {kinds.map((kind) => {
        const some = answer.differences.filter((d) => d.kind === kind);
        return (
          <details key={kind}>
            <summary>
              {some.length} {kind}
            </summary>
            {some.map((d) => (
              <button key={d.object} type="button" className="plain small" onClick={() => onPick(d.object)}>
                {d.called}{" "}
                <span className="quiet">
                  <Told text={d.what.join("; ")} />
                </span>
              </button>
            ))}
          </details>
        );
      })}
      {answer.clashes.map((c) => (
        <div key={c.path} className="remark">
          {c.path}: changed by hand and in the file; yours stays ({String(c.by_hand)}, the file says {String(c.by_file)}
          ).
        </div>
      ))}
      {answer.lost.map((path) => (
        <div key={path} className="remark">
          {path} is gone from the file; what was changed there by hand goes with it.
        </div>
      ))}
    </section>
  );
}
