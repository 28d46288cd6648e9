import { useState } from "react";
import { keepOnEnter } from "./enter";

/** A value that is typed and stands for several of the document's. */
export function Typed({
  label,
  value,
  unit = "",
  name,
  placeholder,
  onCommit,
}: {
  label: string;
  value: string;
  unit?: string;
  name: string;
  placeholder?: string;
  onCommit: (text: string) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  return (
    <div className="field">
      <label htmlFor={name}>{label}</label>
      <span />
      <input
        id={name}
        name={name}
        value={text ?? value}
        placeholder={placeholder}
        inputMode="decimal"
        onChange={(e) => setText(e.target.value)}
        onFocus={(e) => e.target.select()}
        onBlur={() => {
          if (text !== null && text !== value && text.trim()) onCommit(text);
          setText(null);
        }}
        onKeyDown={keepOnEnter}
      />
      <span className="unit">{unit}</span>
    </div>
  );
}
