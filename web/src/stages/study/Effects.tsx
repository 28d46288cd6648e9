import type { Schemas, Study } from "../../api/client";
import { useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { figure, round } from "../../app/words";
import { type FigureOf, useFigureOf } from "./figures";

type Answer = Schemas["Answer"];

/** How each method tells what matters: in words, by which of its numbers bars are drawn, and which others stand beside. */
export const ways: Record<
  string,
  { told: string; bar: string; beside: { name: string; title: string; share?: boolean }[] }
> = {
  every: { told: "moves as one lever goes through its steps, the mean over all others", bar: "span", beside: [] },
  measures: {
    told: "moves by each measure: its share of what all bring together, the mean over all orders",
    bar: "share",
    beside: [
      { name: "alone", title: "alone" },
      { name: "last", title: "on top of the others" },
    ],
  },
  sample: {
    told: "moves from one end of a lever to the other, by regression",
    bar: "slope",
    beside: [
      { name: "rank", title: "by rank", share: true },
      { name: "distribution", title: "by spread", share: true },
    ],
  },
  elementary: {
    told: "moves from one end of a lever to the other, the mean of single moves",
    bar: "mean_size",
    beside: [
      { name: "unsure", title: "give or take" },
      { name: "spread", title: "differs by" },
    ],
  },
  variance: {
    told: "varies by a lever, as a share of all its variance, with all that it takes part in",
    bar: "total",
    beside: [
      { name: "first", title: "on its own", share: true },
      { name: "total_unsure", title: "give or take", share: true },
    ],
  },
};

/** Effects as bars, the strongest first; to the left of the middle where the outcome falls. */
export function Effects({ study, answer, f }: { study: Study; answer: Answer; f: FigureOf }) {
  const units = useKept((s) => s.units);
  const figureOf = useFigureOf();
  const way = ways[answer.method] ?? ways.every;
  const share = answer.method === "variance";
  const of = (e: Answer["effects"][number]) => e.figures[way.bar] ?? e.figures.alone ?? e.span;
  const most = Math.max(...answer.effects.map((e) => Math.abs(of(e))), 1e-9);
  const signed = answer.effects.some((e) => of(e) < 0) && answer.effects.some((e) => of(e) > 0);
  const leftOut = Math.max(0, ...answer.effects.map((e) => e.left_out));
  const amount = (v: number) => figure(v / f.per, f.unit, units, f.digits).text;
  const titleOf = (key: string) => study.levers.find((l) => l.key === key)?.title ?? key;
  return (
    <>
      {answer.why !== "" && (
        <div className="small quiet" data-why-not>
          <Told text={answer.why} />
        </div>
      )}
      {answer.effects.map((e) => {
        const value = of(e);
        const wide = (Math.abs(value) / most) * (signed ? 50 : 100);
        const unknown = answer.method === "every" && e.means.some((m) => m === null);
        return (
          <div key={e.lever} style={{ marginBottom: 6 }} data-effect={e.lever}>
            <div className="row">
              <span style={{ width: 104, overflowWrap: "anywhere" }}>
                {[e.lever, ...e.tied].map(titleOf).join(" with ")}
              </span>
              <span style={{ flex: 1, position: "relative", height: 14 }}>
                <span
                  style={{
                    position: "absolute",
                    height: 14,
                    left: `${signed ? (value < 0 ? 50 - wide : 50) : 0}%`,
                    width: `${wide}%`,
                    background: value < 0 ? "#7FA9A8" : "var(--tide)",
                    borderRadius: 3,
                  }}
                />
              </span>
              <span style={{ width: 48, textAlign: "right" }} data-amount={value}>
                {unknown ? "–" : share ? `${round(value * 100, 0)}%` : amount(value)}
              </span>
            </div>
            {way.beside.some((b) => e.figures[b.name] !== undefined) && (
              <div className="small quiet" style={{ textAlign: "right" }}>
                {way.beside
                  .filter((b) => e.figures[b.name] !== undefined)
                  .map((b) => `${b.title} ${b.share ? round(e.figures[b.name], 2) : amount(e.figures[b.name])}`)
                  .join(" · ")}
              </div>
            )}
          </div>
        );
      })}
      {answer.fit != null && (
        <div className="small quiet" data-fit={answer.fit}>
          Straight lines explain {round(Math.max(answer.fit, 0) * 100, 0)}% of how it varies
          {answer.fit < 0.7 ? "; by spread says more here" : ""}.
        </div>
      )}
      {leftOut > 0 && (
        <div className="small quiet" data-left-out={leftOut}>
          {leftOut === 1 ? "1 case is" : `Up to ${round(leftOut, 0)} cases are`} left out: of those that differ from
          them by one lever alone, not all have come to an end.
        </div>
      )}
      {answer.nearest != null && (
        <div className="remark" data-nearest={answer.nearest}>
          No case keeps all limits. The nearest is case {answer.nearest}:{" "}
          {answer.missed
            .map((m) => {
              const g = figureOf(m.outcome);
              const shown = figure(Math.abs(m.by) / g.per, g.unit, units, g.digits);
              return `${g.name.toLowerCase()} ${shown.text} ${shown.unit} too ${m.by > 0 ? "high" : "low"}`;
            })
            .join(", ")}
          .
        </div>
      )}
    </>
  );
}
