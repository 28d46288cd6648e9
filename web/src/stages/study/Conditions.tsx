import { MenuItem, Select } from "@mui/material";
import type { LeverOffer, LeverSpec } from "../../api/client";
import { keyOf, type LeftOut } from "../../app/draft";
import { useKept } from "../../app/state";
import { scale } from "../../app/words";

/** Combinations that are not run: those that meet every condition of a line. */
export function Conditions({
  levers,
  titleOf,
  offerOf,
  leftOut,
  onChange,
}: {
  levers: LeverSpec[];
  titleOf: (lever: LeverSpec) => string;
  offerOf: (lever: LeverSpec) => LeverOffer | undefined;
  leftOut: LeftOut[];
  onChange: (leftOut: LeftOut[]) => void;
}) {
  const units = useKept((s) => s.units);
  const stepped = levers.filter((l) => l.low == null && l.steps.length > 0);
  if (stepped.length < 2) return null;
  const set = (i: number, j: number, condition: LeftOut["when"][number]) =>
    onChange(leftOut.map((one, k) => (k === i ? { when: one.when.map((c, m) => (m === j ? condition : c)) } : one)));
  function label(lever: LeverSpec, step: unknown): string {
    const offer = offerOf(lever);
    const named = offer?.choices?.find((c) => c.id === step)?.name;
    if (named) return named;
    if (typeof step !== "number") return String(step);
    if (offer?.share) return `${Number((step * 100).toFixed(1))}%`;
    const to = scale(offer?.unit ?? "", units);
    return `${Number((step * to.factor + to.offset).toFixed(2))}${to.unit === "°" ? "" : " "}${to.unit}`.trim();
  }
  return (
    <div style={{ marginTop: 8 }}>
      {leftOut.map((one, i) => (
        <div className="lever" key={i} data-left-out-line={i}>
          <div className="spread">
            <b>Left out where</b>
            <button
              type="button"
              className="plain quiet"
              aria-label={`Remove condition ${i + 1}`}
              onClick={() => onChange(leftOut.filter((_, k) => k !== i))}
            >
              ×
            </button>
          </div>
          {one.when.map((c, j) => {
            const lever = stepped.find((l) => keyOf(l) === c.lever);
            return (
              <div key={j} className="small" style={{ marginBottom: 3 }}>
                {j > 0 && <span className="quiet">and </span>}
                <Select
                  variant="standard"
                  value={lever ? c.lever : ""}
                  displayEmpty
                  inputProps={{ "aria-label": `Condition ${i + 1}, lever ${j + 1}` }}
                  sx={{ fontSize: 12.5, maxWidth: "100%" }}
                  onChange={(e) => set(i, j, { lever: e.target.value, steps: [] })}
                >
                  {!lever && <MenuItem value="">a lever that is no longer there</MenuItem>}
                  {stepped.map((l) => (
                    <MenuItem key={keyOf(l)} value={keyOf(l)}>
                      {titleOf(l)}
                    </MenuItem>
                  ))}
                </Select>{" "}
                {lever && (
                  <Select
                    variant="standard"
                    multiple
                    displayEmpty
                    value={c.steps.map((s) => JSON.stringify(s))}
                    inputProps={{ "aria-label": `Condition ${i + 1}, steps ${j + 1}` }}
                    sx={{ fontSize: 12.5, maxWidth: "100%" }}
                    renderValue={(chosen) =>
                      chosen.length ? `is ${chosen.map((s) => label(lever, JSON.parse(s))).join(" or ")}` : "is …"
                    }
                    onChange={(e) =>
                      set(i, j, {
                        lever: c.lever,
                        steps: ([] as string[]).concat(e.target.value).map((s) => JSON.parse(s)),
                      })
                    }
                  >
                    {lever.steps.map((s) => (
                      <MenuItem key={JSON.stringify(s)} value={JSON.stringify(s)}>
                        {label(lever, s)}
                      </MenuItem>
                    ))}
                  </Select>
                )}
              </div>
            );
          })}
          {one.when.length < stepped.length && (
            <button
              type="button"
              className="plain assumed small"
              onClick={() => {
                const next = stepped.find((l) => !one.when.some((c) => c.lever === keyOf(l))) ?? stepped[0];
                onChange(
                  leftOut.map((x, k) => (k === i ? { when: [...x.when, { lever: keyOf(next), steps: [] }] } : x)),
                );
              }}
            >
              and …
            </button>
          )}
        </div>
      ))}
      <button
        type="button"
        className="plain assumed small"
        onClick={() =>
          onChange([...leftOut, { when: stepped.slice(0, 2).map((l) => ({ lever: keyOf(l), steps: [] })) }])
        }
      >
        + leave combinations out
      </button>
    </div>
  );
}
