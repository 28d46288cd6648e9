import type { Outcome, Schemas } from "../../api/client";
import { amountOf, type Figure, figureBy, hourOf } from "../../api/figures";
import { limitsIn } from "../../app/comfort";
import { useKept } from "../../app/state";
import { endUses } from "../../app/theme";
import { both, figure, hourText } from "../../app/words";

type Column = Schemas["ColumnOut"];

const barOf: Record<string, string | undefined> = { peak_heating_w: "heating", peak_cooling_w: "cooling" };
const limitOf = { too_warm_h: ["above", "too_warm_c"], too_cold_h: ["below", "too_cold_c"] } as const;

/** Whether a figure says something that no other row says already. */
export function isNews(of: Figure, columns: Column[]): boolean {
  if (!of.needs) return true;
  const needed = figureBy(of.needs);
  return columns.some((c) => c.outcome && amountOf(needed, c.outcome) > 1);
}

/** A figure of one column, how it differs from the reference's, and what belongs to it. */
export function FigureCell({
  of,
  column,
  outcome,
  columns,
  big,
}: {
  of: Figure;
  column: Column;
  outcome: Outcome;
  columns: Column[];
  big: boolean;
}) {
  const units = useKept((s) => s.units);
  const value = amountOf(of, outcome);
  const shown = figure(value, of.unit, units, of.digits);
  const difference = column.differences[of.id];
  const than = difference ? <span className="quiet"> {arrow(difference)}</span> : null;
  if (big)
    return (
      <span data-column={column.title}>
        <span className="big" style={{ fontSize: 30 }}>
          {shown.text}
        </span>{" "}
        {shown.unit}
        {than}
      </span>
    );
  const bar = endUses.find((u) => u.id === barOf[of.id]);
  const limit = of.id === "too_warm_h" || of.id === "too_cold_h" ? limitOf[of.id] : null;
  return (
    <>
      {bar ? <b>{both(value, of.unit, units, of.digits)}</b> : both(value, of.unit, units, of.digits)}
      {of.hour.length > 0 && <span className="small"> on {hourText(hourOf(of, outcome))}</span>}
      {limit && ` ${limit[0]} ${limitsIn(outcome.comfort.limits, limit[1], units)}`}
      {than}
      {of.id === "too_warm_h" && (
        <span className="quiet small"> of {outcome.comfort.occupied_h.toFixed(0)} occupied</span>
      )}
      {bar && <Bar share={value / most(of, columns)} colour={bar.colour} />}
    </>
  );
}

const most = (of: Figure, columns: Column[]) =>
  Math.max(...columns.map((c) => (c.outcome ? amountOf(of, c.outcome) : 0)), 1e-3);

const Bar = ({ share, colour }: { share: number; colour: string }) => (
  <span style={{ display: "block", height: 8, marginTop: 4, width: `${share * 92}%`, background: colour }} />
);

function arrow(text: string): string {
  return text.endsWith("more") || text.includes("times") ? `↑ ${text}` : text.endsWith("less") ? `↓ ${text}` : text;
}
