import { Checkbox, MenuItem, Select } from "@mui/material";
import { useState } from "react";
import type { LeverOffer, LeverSpec } from "../../api/client";
import { isNumber, type Kind, keyOf, readSteps } from "../../app/draft";
import { useKept } from "../../app/state";
import { scale } from "../../app/words";
import { keepOnEnter } from "../../fields/enter";
import { line } from "../../fields/NumberBox";
import { TurnWithLine } from "../skin/TurnWith";

/** How a lever's numbers are written: percent, or the unit of the chosen system. */
function useWritten(offer?: LeverOffer) {
  const units = useKept((s) => s.units);
  const own = scale(offer?.unit ?? "", units);
  const [factor, offset] = offer?.share ? [100, 0] : [own.factor, own.offset];
  return {
    unit: offer?.share ? "%" : own.unit,
    out: (v: number) => String(Number((v * factor + offset).toFixed(3))),
    into: (v: number) => Number(((v - offset) / factor).toFixed(6)),
  };
}

/** A lever of the study that is put together: its steps or its range, and what it moves with. */
export function LeverCard({
  lever,
  offer,
  kind,
  others,
  onChange,
  onRemove,
}: {
  lever: LeverSpec;
  offer?: LeverOffer;
  kind: Kind;
  /** Levers that it can be tied to, by key and title. */
  others: { key: string; title: string; tied?: string | null }[];
  onChange: (lever: LeverSpec) => void;
  onRemove: () => void;
}) {
  const title = offer?.title ?? lever.path ?? lever.kind;
  const ranged = kind !== "every" && isNumber(offer);
  const range = ranged && lever.low != null && lever.high != null;
  const numbers = lever.steps.filter((s): s is number => typeof s === "number");
  const tiedTo = others.find((o) => lever.tied != null && o.tied === lever.tied);
  return (
    <div className="lever" data-lever={keyOf(lever)}>
      <div className="spread">
        <b>{title}</b>
        <button type="button" className="plain quiet" aria-label={`Remove ${title}`} onClick={onRemove}>
          ×
        </button>
      </div>
      {ranged && (
        <div className="row small" role="group" aria-label={`Steps or range of ${title}`} style={{ gap: 8 }}>
          <label>
            <input
              type="radio"
              checked={!range}
              onChange={() =>
                onChange({ ...lever, low: null, high: null, steps: numbers.length ? numbers : (offer?.steps ?? []) })
              }
            />{" "}
            steps
          </label>
          <label>
            <input
              type="radio"
              checked={range}
              onChange={() => {
                const known = numbers.length > 1 ? numbers : ((offer?.steps ?? []) as number[]);
                onChange({ ...lever, steps: [], low: Math.min(...known), high: Math.max(...known) });
              }}
            />{" "}
            range
          </label>
        </div>
      )}
      {range ? (
        <Range lever={lever} offer={offer} title={title} onChange={onChange} />
      ) : (
        <Steps lever={lever} offer={offer} onSteps={(steps) => onChange({ ...lever, steps, low: null, high: null })} />
      )}
      {kind !== "measures" && others.length > 0 && (
        <Select
          variant="standard"
          value={tiedTo?.key ?? ""}
          displayEmpty
          inputProps={{ "aria-label": `${title} moves with` }}
          sx={{ fontSize: 11.5, color: "var(--quiet)", maxWidth: "100%" }}
          onChange={(e) => {
            const other = others.find((o) => o.key === e.target.value);
            onChange({ ...lever, tied: other ? (other.tied ?? other.key.slice(-40)) : null });
          }}
        >
          <MenuItem value="">moves on its own</MenuItem>
          {others.map((o) => (
            <MenuItem key={o.key} value={o.key}>
              moves with {o.title}
            </MenuItem>
          ))}
        </Select>
      )}
      {lever.kind === "turn" && <TurnWithLine />}
    </div>
  );
}

function Range({
  lever,
  offer,
  title,
  onChange,
}: {
  lever: LeverSpec;
  offer?: LeverOffer;
  title: string;
  onChange: (lever: LeverSpec) => void;
}) {
  const { unit, out, into } = useWritten(offer);
  const [text, setText] = useState<{ low?: string; high?: string }>({});
  const value = (end: "low" | "high") => text[end] ?? out(lever[end] ?? 0);
  const wrong = (["low", "high"] as const).map(value).find((t) => !Number.isFinite(Number(t.replace("−", "-"))));
  const [low, high] = (["low", "high"] as const).map((end) => Number(value(end).replace("−", "-")));
  const down = wrong === undefined && low >= high;
  return (
    <div className="row small" style={{ flexWrap: "wrap" }}>
      {(["low", "high"] as const).map((end) => (
        <span key={end} className="row" style={{ flex: 1, minWidth: 0 }}>
          <span className="quiet">{end === "low" ? "from" : "to"}</span>
          <input
            aria-label={`${title} ${end === "low" ? "from" : "to"}`}
            aria-invalid={wrong !== undefined || down}
            value={value(end)}
            style={line}
            onChange={(e) => setText({ ...text, [end]: e.target.value })}
            onBlur={() => {
              if (wrong !== undefined || down) return;
              onChange({ ...lever, low: into(low), high: into(high) });
              setText({});
            }}
            onKeyDown={keepOnEnter}
          />
        </span>
      ))}
      <span className="quiet">{unit}</span>
      {wrong !== undefined && <span className="said">“{wrong}” is not a number.</span>}
      {down && <span className="said">It must end above where it begins.</span>}
    </div>
  );
}

/** The steps of a lever: names to tick, or numbers typed as a list or as a series. */
export function Steps({
  lever,
  offer,
  onSteps,
}: {
  lever: LeverSpec;
  offer?: LeverOffer;
  onSteps: (steps: unknown[]) => void;
}) {
  const { unit, out, into } = useWritten(offer);
  const written = lever.steps.map((s) => (typeof s === "number" ? out(s) : String(s))).join(", ");
  const [text, setText] = useState<string | null>(null);
  const read = readSteps(text ?? "");
  const choices = offer?.choices ?? [];
  if (choices.length > 0)
    return (
      <div>
        {choices.map((c) => {
          const on = lever.steps.includes(c.id);
          return (
            <label key={c.id} className="row small" style={{ gap: 0 }}>
              <Checkbox
                size="small"
                sx={{ p: "1px 5px 1px 0" }}
                checked={on}
                onChange={() => onSteps(on ? lever.steps.filter((s) => s !== c.id) : [...lever.steps, c.id])}
              />
              {c.name}
            </label>
          );
        })}
      </div>
    );
  return (
    <div className="row small" style={{ flexWrap: "wrap" }}>
      <input
        aria-label={`Steps of ${offer?.title ?? lever.path}`}
        title="A list, such as 0, 15, 30, or a series, such as 0 to 60 by 15"
        value={text ?? written}
        style={line}
        onChange={(e) => setText(e.target.value)}
        aria-invalid={text !== null && read.wrong !== null}
        onBlur={() => {
          if (text === null || read.wrong !== null) return;
          onSteps([...new Set(read.steps.map(into))]);
          setText(null);
        }}
        onKeyDown={keepOnEnter}
      />
      <span className="quiet">{unit}</span>
      {text !== null && read.wrong !== null && <span className="said">“{read.wrong}” is not a number.</span>}
    </div>
  );
}
