import { Button, MenuItem, Select } from "@mui/material";
import { freshId } from "../../../app/words";
import { Cell } from "../../skin/builder/Layers";
import { readDate, sayDate, type Weekday, weekdays } from "./dates";
import type { Rule, Schedule } from "./profile";

const on = [
  ["any", "any day"],
  ["holidays", "holidays"],
  ["closures", "closures"],
] as const;

/** Which day holds when: the first one unless a rule says otherwise; of the rules that fit, the last one counts. */
export function Rules({
  schedule,
  counts,
  onChange,
}: {
  schedule: Schedule;
  /** On how many days each rule decides. */
  counts: number[];
  onChange: (change: (now: Schedule) => Schedule) => unknown;
}) {
  const names = schedule.days.map((d) => [d.id, d.name || d.id]);
  const keep = (change: (now: Rule[]) => Rule[]) => onChange((now) => ({ ...now, rules: change(now.rules) }));
  const change = (id: string, part: Partial<Rule>) =>
    keep((now) => now.map((r) => (r.id === id ? { ...r, ...part } : r)));
  const move = (i: number, by: number) =>
    keep((now) => {
      const next = [...now];
      const [one] = next.splice(i, 1);
      next.splice(i + by, 0, one);
      return next;
    });
  const add = () =>
    keep((now) => {
      const id = freshId(
        "rule",
        now.map((r) => r.id),
      );
      const day = schedule.days.at(-1)?.id ?? "";
      return [...now, { id, day, weekdays: ["saturday", "sunday"], on: "any", first: null, last: null }];
    });
  return (
    <div className="day-rules">
      <div className="spread">
        <h4>Which day holds when</h4>
        <Button variant="outlined" size="small" onClick={() => void add()}>
          Add rule
        </Button>
      </div>
      <div className="small quiet">
        “{names[0]?.[1]}” holds unless a rule says otherwise; of the rules that fit, the last one counts.
      </div>
      {schedule.rules.map((r, i) => (
        <div key={r.id} className="day-rule" role="group" aria-label={`Rule ${i + 1}`}>
          <span className="quiet">{i + 1}</span>
          <Select
            value={r.day}
            inputProps={{ "aria-label": `Rule ${i + 1}, day` }}
            onChange={(e) => void change(r.id, { day: e.target.value })}
          >
            {names.map(([id, name]) => (
              <MenuItem key={id} value={id}>
                {name}
              </MenuItem>
            ))}
          </Select>
          <span className="week" role="group" aria-label={`Rule ${i + 1}, weekdays`}>
            {weekdays.map((w) => (
              <button
                key={w}
                type="button"
                aria-label={w}
                aria-pressed={r.weekdays.includes(w)}
                onClick={() => void change(r.id, { weekdays: toggled(r.weekdays, w) })}
              >
                {w[0].toUpperCase()}
              </button>
            ))}
          </span>
          <Select
            value={r.on}
            inputProps={{ "aria-label": `Rule ${i + 1}, on` }}
            onChange={(e) => void change(r.id, { on: e.target.value as Rule["on"] })}
          >
            {on.map(([id, name]) => (
              <MenuItem key={id} value={id}>
                {name}
              </MenuItem>
            ))}
          </Select>
          <DateCell
            label={`Rule ${i + 1}, from`}
            empty="from"
            date={r.first}
            onCommit={(d) => change(r.id, { first: d })}
          />
          <DateCell label={`Rule ${i + 1}, to`} empty="to" date={r.last} onCommit={(d) => change(r.id, { last: d })} />
          <span className="small quiet">{counts[i] === undefined ? "" : `${counts[i]} d`}</span>
          <span className="row" style={{ gap: 4 }}>
            <button
              type="button"
              className="plain"
              aria-label={`Rule ${i + 1} earlier`}
              disabled={i === 0}
              onClick={() => void move(i, -1)}
            >
              ↑
            </button>
            <button
              type="button"
              className="plain"
              aria-label={`Rule ${i + 1} later`}
              disabled={i === schedule.rules.length - 1}
              onClick={() => void move(i, 1)}
            >
              ↓
            </button>
            <button
              type="button"
              className="plain"
              aria-label={`Remove rule ${i + 1}`}
              onClick={() => void keep((now) => now.filter((o) => o.id !== r.id))}
            >
              ×
            </button>
          </span>
        </div>
      ))}
    </div>
  );
}

const toggled = (chosen: Weekday[], one: Weekday): Weekday[] =>
  weekdays.filter((w) => (w === one ? !chosen.includes(w) : chosen.includes(w)));

/** A date as people write it; empty takes it away. */
export function DateCell({
  label,
  date,
  empty,
  onCommit,
}: {
  label: string;
  date: string | null;
  empty?: string;
  onCommit: (date: string | null) => unknown;
}) {
  return (
    <span className="date-cell" data-empty={date ? undefined : empty}>
      <Cell
        wide
        label={label}
        value={sayDate(date)}
        onCommit={(text) => {
          if (!text.trim()) return empty === undefined ? undefined : onCommit(null);
          // what cannot be read goes out as it is, so that the answer says what is wrong with it
          return onCommit(readDate(text) ?? text.trim());
        }}
      />
    </span>
  );
}
