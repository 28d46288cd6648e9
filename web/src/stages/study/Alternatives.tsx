import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, got, type Study } from "../../api/client";
import { useProjectId } from "../../api/hooks";
import { useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { figure, round } from "../../app/words";
import { useFigureOf } from "./figures";

const SHOWN = ["eui_kwh_per_m2", "peak_cooling_w", "too_warm_h", "carbon_kg_per_m2"];

const money = (v: number) => `${v < 0 ? "−" : ""}${round(Math.abs(v), 0)}`;

/** The measures of a study on one page: each alone, all together, and every other mix on asking. */
export function Alternatives({
  study,
  pinned,
  onPin,
}: {
  study: Study;
  pinned: Set<number>;
  onPin: (number: number) => void;
}) {
  const project = useProjectId();
  const units = useKept((s) => s.units);
  const figureOf = useFigureOf();
  const answer = useQuery({
    queryKey: ["alternatives", study.id, study.done],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/studies/{study_id}/alternatives", {
          params: { path: { project_id: project, study_id: study.id } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const rows = answer.data?.rows ?? [];
  const base = rows[0];
  const all = study.levers.length;
  const nameOf = (id: string) => study.levers.find((l) => l.key === id)?.title ?? id;
  const main = rows.filter((r) => r.taken.length <= 1 || r.taken.length === all);
  const mixes = rows.filter((r) => !main.includes(r));
  if (answer.error) return <p className="quiet">{answer.error.message}</p>;
  if (!base) return <p className="quiet">The baseline is being worked out.</p>;

  const line = (r: (typeof rows)[number]) => {
    const title =
      r.taken.length === 0
        ? "Baseline"
        : r.taken.length === all && all > 1
          ? "All together"
          : r.taken.map(nameOf).join(", ");
    return (
      <tr key={r.number} data-alternative={r.number}>
        <td style={{ textAlign: "left" }}>
          <button
            type="button"
            className="plain"
            aria-label={`${pinned.has(r.number) ? "Unpin" : "Pin"} ${title}`}
            aria-pressed={pinned.has(r.number)}
            onClick={() => onPin(r.number)}
          >
            {pinned.has(r.number) ? "◆" : "◇"}
          </button>{" "}
          {title}
        </td>
        {SHOWN.map((id) => {
          const f = figureOf(id);
          const v = r.figures[id];
          return <td key={id}>{v == null ? "–" : figure(v / f.per, f.unit, units, f.digits).text}</td>;
        })}
        {r.held ? (
          <>
            <td>{money(r.held.extra)}</td>
            <td>{money(r.held.saving)}</td>
            <td>
              {r.held.discounted_payback_years == null
                ? "never"
                : r.held.discounted_payback_years === 0
                  ? "at once"
                  : round(r.held.discounted_payback_years, 1)}
            </td>
            <td>{money(r.held.net_present_value)}</td>
            <td>
              {r.held.cost_per_tonne == null
                ? "–"
                : r.held.cost_per_tonne <= 0
                  ? `gains ${money(-r.held.cost_per_tonne)}`
                  : money(r.held.cost_per_tonne)}
            </td>
          </>
        ) : (
          <td colSpan={5} className="quiet">
            {r.number === 0 ? "what the others are held against" : "no result"}
          </td>
        )}
      </tr>
    );
  };
  const together = rows.find((r) => r.taken.length === all && all > 1);
  const best = rows
    .filter((r) => r.held)
    .reduce<(typeof rows)[number] | null>(
      (a, b) => (a && (a.held?.net_present_value ?? 0) >= (b.held?.net_present_value ?? 0) ? a : b),
      null,
    );
  const lacking = [...new Set(rows.flatMap((r) => r.without_cost))];
  const energy = figureOf("eui_kwh_per_m2");
  return (
    <div style={{ overflow: "auto", height: "100%" }}>
      <table className="alternatives">
        <thead>
          <tr>
            <th style={{ textAlign: "left" }}>Measure</th>
            {SHOWN.map((id) => (
              <th key={id}>
                {figureOf(id).name}, {figure(1, figureOf(id).unit, units, 0).unit}
              </th>
            ))}
            <th>more to build, €</th>
            <th>saves a year, €</th>
            <th>paid back, years</th>
            <th>gain in {answer.data?.horizon_years} years, €</th>
            <th>€ a tonne</th>
          </tr>
        </thead>
        <tbody>{main.map(line)}</tbody>
      </table>
      {together?.held && (
        <p>
          Together: <Told text={together.sentence} />{" "}
          {energySaid(base.figures[energy.id] ?? null, together.figures[energy.id] ?? null)}
        </p>
      )}
      {best?.held && best !== together && best.held.net_present_value > 0 && (
        <p>
          The largest gain has {best.taken.map(nameOf).join(" with ")}: <Told text={best.sentence} />
        </p>
      )}
      <p className="small quiet">
        “Paid back” is discounted, with replacements and upkeep. A measure with a cost of its own is counted with that,
        the others by the cost table.
        {lacking.length > 0 &&
          ` Without the cost of ${lacking.slice(0, 4).join(", ")}${lacking.length > 4 ? " and others" : ""}.`}
      </p>
      {mixes.length > 0 && (
        <details>
          <summary>All {mixes.length} other mixes</summary>
          <table className="alternatives">
            <tbody>{mixes.map(line)}</tbody>
          </table>
        </details>
      )}
    </div>
  );
}

function energySaid(before: number | null, after: number | null): string {
  if (before == null || after == null || before === 0) return "";
  const change = 1 - after / before;
  return `Energy ${change >= 0 ? "falls" : "rises"} by ${round(Math.abs(change) * 100, 0)}%.`;
}
