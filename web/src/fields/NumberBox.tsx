import { useState } from "react";
import { keepOnEnter } from "./enter";

/** A line to type in, within a row of text. */
export const line = {
  flex: 1,
  minWidth: 0,
  border: 0,
  borderBottom: "1px dotted var(--quiet)",
  font: "inherit",
  background: "none",
} as const;

/** A number as it was typed; not a number where it is none. */
export const typedNumber = (text: string) => Number(text.replace(/[\s,]/g, "").replace("−", "-"));

/** A number typed into a row of text, kept on leaving it; what is no number stays and is told. An empty one is null, where that says something. */
export function NumberBox({
  label,
  value,
  unit,
  empty,
  whole = false,
  width,
  onCommit,
}: {
  label: string;
  /** As it is written; "" for none. */
  value: string;
  unit?: string;
  /** What an empty one stands for; without it, it may not be empty. */
  empty?: string;
  whole?: boolean;
  width?: number;
  onCommit: (value: number | null) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const blank = text !== null && text.trim() === "";
  const number = typedNumber(text ?? "");
  const wrong =
    text !== null && (blank ? empty === undefined : !(whole ? Number.isInteger(number) : Number.isFinite(number)));
  return (
    <>
      <input
        aria-label={label}
        aria-invalid={wrong}
        placeholder={empty}
        value={text ?? value}
        style={{ ...line, textAlign: "right", ...(width ? { flex: `0 1 ${width}px` } : {}) }}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => {
          if (text === null || wrong) return;
          onCommit(blank ? null : number);
          setText(null);
        }}
        onKeyDown={keepOnEnter}
      />
      {unit !== undefined && (
        <span className="quiet" style={{ whiteSpace: "nowrap" }}>
          {unit}
        </span>
      )}
      {wrong && <span className="said">This is {whole ? "not a whole number" : "not a number"}.</span>}
    </>
  );
}
