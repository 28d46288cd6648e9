import { tone } from "../../../app/tokens";
import { months } from "../../../app/words";
import { monthStarts, sayDay, weekdays } from "./dates";

export interface YearDays {
  holds: number[];
  by: number[];
  weekdays: number[];
  holidays: boolean[];
  closed: boolean[];
}
const cell = 13;

/** The year, a column a week and a row a weekday: which day holds when, with holidays dotted and closures struck through. */
export function YearStrip({
  days,
  year,
  colours,
  chosen,
  onChoose,
}: {
  days: { id: string; name: string }[];
  year: YearDays;
  colours: string[];
  chosen: string;
  onChoose: (day: string) => void;
}) {
  const first = year.weekdays[0] ?? 0;
  const column = (day: number) => Math.floor((day + first) / 7);
  const columns = column(364) + 1;
  const nameOf = (k: number) => days[k]?.name || days[k]?.id || "";
  return (
    <div className="year-strip">
      <div className="months" aria-hidden="true">
        {months.map((m, k) => (
          <span key={m} style={{ left: `${(column(monthStarts[k]) / columns) * 100}%` }}>
            {m}
          </span>
        ))}
      </div>
      <div className="week-names" aria-hidden="true">
        {["Mon", "Wed", "Fri", "Sun"].map((w) => (
          <span key={w}>{w}</span>
        ))}
      </div>
      <svg
        viewBox={`0 0 ${columns * cell} ${7 * cell}`}
        role="img"
        aria-label={`The year: ${days.map((d, k) => `${d.name || d.id} ${year.holds.filter((h) => h === k).length} days`).join(", ")}`}
      >
        {year.holds.map((k, day) => {
          const [x, y] = [column(day) * cell, ((day + first) % 7) * cell];
          const marks = [year.holidays[day] && "holiday", year.closed[day] && "closure"].filter(Boolean).join(", ");
          const why = year.by[day] < 0 ? "no rule" : `rule ${year.by[day] + 1}`;
          const chosenToo = days[k]?.id === chosen;
          return (
            <g key={sayDay(day)} data-day={day} onClick={() => onChoose(days[k]?.id ?? "")}>
              <title>{`${weekdays[year.weekdays[day]].slice(0, 3)} ${sayDay(day)}${marks ? ` (${marks})` : ""}: ${nameOf(k)}, by ${why}`}</title>
              <rect
                x={x + 0.75}
                y={y + 0.75}
                width={cell - 1.5}
                height={cell - 1.5}
                fill={colours[k % colours.length]}
                stroke={chosenToo ? tone.ink : "none"}
                strokeOpacity={0.55}
                strokeWidth={0.8}
              />
              {year.closed[day] && (
                <path
                  d={`M${x + 2.5} ${y + cell - 2.5}L${x + cell - 2.5} ${y + 2.5}`}
                  stroke={tone.ink}
                  strokeWidth={0.7}
                />
              )}
              {year.holidays[day] && <circle cx={x + cell / 2} cy={y + cell / 2} r={1.9} fill={tone.ink} />}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
