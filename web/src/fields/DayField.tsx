import { useState } from "react";
import { dateOfHour, months } from "../app/words";
import { keepOnEnter } from "./enter";

/** A day of the year, typed as "21 Jun"; 0 is 1 January. */
export function DayField({ label, day, onDay }: { label: string; day: number; onDay: (day: number) => void }) {
  const [text, setText] = useState<string | null>(null);
  const bad = text !== null && dayOf(text) === null;
  return (
    <input
      className={`cell${bad ? " odd" : ""}`}
      style={{ width: 70 }}
      aria-label={label}
      aria-invalid={bad}
      title={bad ? "Type a day such as 21 Jun" : undefined}
      value={text ?? dateOfHour(day * 24)}
      onChange={(e) => setText(e.target.value)}
      onFocus={(e) => e.target.select()}
      onBlur={() => {
        const typed = text === null ? null : dayOf(text);
        if (typed !== null) onDay(typed);
        setText(null);
      }}
      onKeyDown={keepOnEnter}
    />
  );
}

const lengths = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

function dayOf(text: string): number | null {
  const found = text.trim().match(/^(\d{1,2})[.\s]*([A-Za-z]{3})/);
  const month = found ? months.findIndex((m) => m.toLowerCase() === found[2].toLowerCase()) : -1;
  const day = found ? Number(found[1]) : 0;
  if (month < 0 || day < 1 || day > lengths[month]) return null;
  return lengths.slice(0, month).reduce((a, b) => a + b, 0) + day - 1;
}
