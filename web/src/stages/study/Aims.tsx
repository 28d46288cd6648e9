import { MenuItem, Select } from "@mui/material";
import type { Goal, Limit } from "../../app/draft";
import { useKept } from "../../app/state";
import { scale } from "../../app/words";
import { NumberBox } from "../../fields/NumberBox";
import { figuresOf, useFigureOf } from "./figures";
import { OutcomePick } from "./OutcomePick";

/** What a search makes as good as it can, and what it must keep to. */
export function Aims({
  goals,
  limits,
  onGoals,
  onLimits,
}: {
  goals: Goal[];
  limits: Limit[];
  onGoals: (goals: Goal[]) => void;
  onLimits: (limits: Limit[]) => void;
}) {
  const figureOf = useFigureOf();
  const senseOf = (id: string) => (figureOf(id).sense === "more" ? "more" : "less");
  const taken = goals.map((g) => g.outcome);
  const free = figuresOf.filter((f) => !taken.includes(f.id));
  return (
    <>
      <div className="lever" data-goals={goals.length}>
        <div>
          <b>As good as can be</b>
        </div>
        {goals.map((g, i) => (
          <div key={g.outcome} style={{ marginBottom: 4 }}>
            <div className="row">
              <OutcomePick
                value={g.outcome}
                label={`Goal ${i + 1}`}
                without={taken}
                onPick={(id) => onGoals(goals.map((x, k) => (k === i ? { outcome: id } : x)))}
              />
              <button
                type="button"
                className="plain quiet"
                aria-label={`Remove goal ${i + 1}`}
                onClick={() => onGoals(goals.filter((_, k) => k !== i))}
              >
                ×
              </button>
            </div>
            <Select
              variant="standard"
              value={g.sense ?? senseOf(g.outcome)}
              inputProps={{ "aria-label": `Goal ${i + 1}, less or more` }}
              sx={{ fontSize: 12.5 }}
              onChange={(e) =>
                onGoals(goals.map((x, k) => (k === i ? { ...x, sense: e.target.value as "less" | "more" } : x)))
              }
            >
              <MenuItem value="less">less</MenuItem>
              <MenuItem value="more">more</MenuItem>
            </Select>
          </div>
        ))}
        {goals.length < 4 && free.length > 0 && (
          <button type="button" className="plain assumed" onClick={() => onGoals([...goals, { outcome: free[0].id }])}>
            + goal
          </button>
        )}
      </div>
      <div className="lever" data-limits={limits.length}>
        <div>
          <b>Within limits</b>
        </div>
        {limits.map((l, i) => (
          <LimitRow
            key={i}
            limit={l}
            name={`Limit ${i + 1}`}
            onChange={(next) => onLimits(limits.map((x, k) => (k === i ? next : x)))}
            onRemove={() => onLimits(limits.filter((_, k) => k !== i))}
          />
        ))}
        {limits.length < 12 && (
          <button
            type="button"
            className="plain assumed"
            onClick={() => onLimits([...limits, { outcome: "cost_per_m2", at_most: 20 }])}
          >
            + limit
          </button>
        )}
      </div>
    </>
  );
}

function LimitRow({
  limit,
  name,
  onChange,
  onRemove,
}: {
  limit: Limit;
  name: string;
  onChange: (limit: Limit) => void;
  onRemove: () => void;
}) {
  const units = useKept((s) => s.units);
  const figureOf = useFigureOf();
  const f = figureOf(limit.outcome);
  const to = scale(f.unit, units);
  const bound = limit.at_most ?? limit.at_least ?? 0;
  const end = limit.at_most != null ? "at_most" : "at_least";
  return (
    <div style={{ marginBottom: 4 }}>
      <div className="row">
        <OutcomePick
          value={limit.outcome}
          label={name}
          onPick={(id) =>
            onChange({
              outcome: id,
              [figureOf(id).sense === "more" ? "at_least" : "at_most"]: (bound / f.per) * figureOf(id).per,
            })
          }
        />
        <button type="button" className="plain quiet" aria-label={`Remove ${name.toLowerCase()}`} onClick={onRemove}>
          ×
        </button>
      </div>
      <div className="row small">
        <Select
          variant="standard"
          value={end}
          inputProps={{ "aria-label": `${name}, at most or at least` }}
          sx={{ fontSize: 12.5 }}
          onChange={(e) => onChange({ outcome: limit.outcome, [e.target.value]: bound })}
        >
          <MenuItem value="at_most">at most</MenuItem>
          <MenuItem value="at_least">at least</MenuItem>
        </Select>
        <NumberBox
          label={`${name}, value`}
          value={String(Number(((bound / f.per) * to.factor + to.offset).toFixed(3)))}
          unit={to.unit}
          onCommit={(v) => {
            const value = (((v ?? 0) - to.offset) / to.factor) * f.per;
            onChange({ outcome: limit.outcome, [end]: Number(value.toFixed(6)) });
          }}
        />
      </div>
    </div>
  );
}
