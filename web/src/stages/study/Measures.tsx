import { Button, Menu, MenuItem, Select } from "@mui/material";
import { useState } from "react";
import { client, got, type LeverOffer } from "../../api/client";
import { useProject, useProjectId, useScheme } from "../../api/hooks";
import { tell, useKept } from "../../app/state";
import { freshId, scale } from "../../app/words";
import { type Measure, sameLever } from "./draft";
import { LeverFinder, ownerOf } from "./LeverFinder";

const line = {
  flex: 1,
  minWidth: 0,
  border: 0,
  borderBottom: "1px dotted var(--quiet)",
  font: "inherit",
  background: "none",
} as const;

/** A new measure out of one offered lever: the step that is furthest from where the scheme stands. */
export function measureOf(offer: LeverOffer, taken: string[]): Measure {
  const choice = offer.choices?.at(-1);
  const step = choice ? choice.id : offer.steps.at(-1);
  const title = [offer.title, ownerOf(offer)].filter(Boolean).join(", ");
  return {
    id: freshId("measure", taken),
    name: choice ? `${title}: ${choice.name}` : title,
    changes: [{ kind: offer.kind, path: offer.path, step }],
  } as Measure;
}

/** The measures of a study: what each changes, what it costs, how long it lasts. */
export function Measures({
  measures,
  offers,
  onChange,
}: {
  measures: Measure[];
  offers: LeverOffer[];
  onChange: (measures: Measure[]) => void;
}) {
  const { scheme } = useScheme();
  const project = useProjectId();
  const schemes = useProject((state) => state.completed.schemes).data ?? [];
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const put = (i: number, part: Partial<Measure>) =>
    onChange(measures.map((m, k) => (k === i ? { ...m, ...part } : m)));

  async function fromScheme(other: { id: string; name: string }) {
    setMenu(null);
    const found = await got(
      client.GET("/api/projects/{project_id}/schemes/{scheme_id}/changes", {
        params: { path: { project_id: project, scheme_id: scheme.id }, query: { to: other.id } },
      }),
    );
    if (found.length === 0) return tell(`${other.name} differs from ${scheme.name} in nothing that can be varied.`);
    const made = {
      id: freshId(
        "measure",
        measures.map((m) => m.id),
      ),
      name: `As in ${other.name}`,
      changes: found,
    };
    onChange([...measures, made as Measure]);
  }

  return (
    <>
      {measures.map((m, i) => (
        <div className="lever" key={m.id} data-measure={m.id}>
          <div className="row">
            <input
              aria-label={`Name of measure ${i + 1}`}
              value={m.name}
              maxLength={120}
              style={{ ...line, fontWeight: 650 }}
              onChange={(e) => put(i, { name: e.target.value })}
            />
            <button
              type="button"
              className="plain quiet"
              aria-label={`Remove measure ${i + 1}`}
              onClick={() => onChange(measures.filter((_, k) => k !== i))}
            >
              ×
            </button>
          </div>
          {m.changes.map((c, j) => (
            <ChangeRow
              key={`${c.kind} ${c.path}`}
              change={c}
              offer={offers.find((o) => sameLever(o, c))}
              onStep={(step) => put(i, { changes: m.changes.map((x, k) => (k === j ? { ...x, step } : x)) })}
              onRemove={
                m.changes.length > 1 ? () => put(i, { changes: m.changes.filter((_, k) => k !== j) }) : undefined
              }
            />
          ))}
          <LeverFinder
            offers={offers.filter((o) => !m.changes.some((c) => sameLever(o, c)))}
            label="and change …"
            onPick={(o) => put(i, { changes: [...m.changes, ...measureOf(o, []).changes] })}
          />
          <div className="row small" style={{ marginTop: 4, flexWrap: "wrap" }}>
            <Money
              label={`Cost of measure ${i + 1}`}
              empty="by the cost table"
              value={m.cost ?? null}
              unit="€"
              onChange={(cost) => put(i, { cost })}
            />
            <Money
              label={`Life of measure ${i + 1}`}
              empty="30"
              value={m.life_years ?? null}
              unit="years"
              onChange={(v) => put(i, { life_years: v === null ? 30 : Math.max(1, Math.round(v)) })}
            />
            <Money
              label={`Upkeep of measure ${i + 1}`}
              empty="0"
              value={m.upkeep ?? null}
              unit="€ a year"
              onChange={(v) => put(i, { upkeep: v ?? 0 })}
            />
          </div>
        </div>
      ))}
      {measures.length < 12 && (
        <>
          <LeverFinder
            offers={offers}
            label="+ measure: find what it changes"
            onPick={(o) =>
              onChange([
                ...measures,
                measureOf(
                  o,
                  measures.map((m) => m.id),
                ),
              ])
            }
          />
          {schemes.length > 1 && (
            <>
              <Button size="small" onClick={(e) => setMenu(e.currentTarget)}>
                + what another scheme has
              </Button>
              <Menu anchorEl={menu} open={Boolean(menu)} onClose={() => setMenu(null)}>
                {schemes
                  .filter((s) => s.id !== scheme.id)
                  .map((s) => (
                    <MenuItem key={s.id} onClick={() => void fromScheme(s)}>
                      {s.name}
                    </MenuItem>
                  ))}
              </Menu>
            </>
          )}
        </>
      )}
    </>
  );
}

function ChangeRow({
  change,
  offer,
  onStep,
  onRemove,
}: {
  change: Measure["changes"][number];
  offer?: LeverOffer;
  onStep: (step: unknown) => void;
  onRemove?: () => void;
}) {
  const units = useKept((s) => s.units);
  const own = scale(offer?.unit ?? "", units);
  const [factor, offset] = offer?.share ? [100, 0] : [own.factor, own.offset];
  const [text, setText] = useState<string | null>(null);
  const title = offer ? [offer.title, ownerOf(offer)].filter(Boolean).join(", ") : (change.path ?? change.kind);
  const number = typeof change.step === "number" ? change.step : null;
  const written = number === null ? String(change.step) : String(Number((number * factor + offset).toFixed(3)));
  const wrong = text !== null && (text.trim() === "" || !Number.isFinite(Number(text.replace("−", "-"))));
  const choices = offer?.choices ?? [];
  return (
    <div className="row small" style={{ flexWrap: "wrap" }}>
      <span style={{ flex: "1 1 40%", minWidth: 0 }}>{title}</span>
      {choices.length > 0 ? (
        <Select
          variant="standard"
          value={choices.some((c) => c.id === change.step) ? String(change.step) : ""}
          inputProps={{ "aria-label": `${title} becomes` }}
          sx={{ fontSize: 12, flex: "1 1 40%", minWidth: 0 }}
          onChange={(e) => onStep(e.target.value)}
        >
          {choices.map((c) => (
            <MenuItem key={c.id} value={c.id}>
              {c.name}
            </MenuItem>
          ))}
        </Select>
      ) : (
        <>
          <input
            aria-label={`${title} becomes`}
            aria-invalid={wrong}
            value={text ?? written}
            style={{ ...line, flex: "0 1 56px", textAlign: "right" }}
            onChange={(e) => setText(e.target.value)}
            onBlur={() => {
              if (text === null || wrong) return;
              onStep(Number(((Number(text.replace("−", "-")) - offset) / factor).toFixed(6)));
              setText(null);
            }}
            onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
          />
          <span className="quiet">{offer?.share ? "%" : own.unit}</span>
        </>
      )}
      {onRemove && (
        <button type="button" className="plain quiet" aria-label={`Remove ${title}`} onClick={onRemove}>
          ×
        </button>
      )}
      {wrong && <span className="said">This is not a number.</span>}
    </div>
  );
}

function Money({
  label,
  empty,
  value,
  unit,
  onChange,
}: {
  label: string;
  empty: string;
  value: number | null;
  unit: string;
  onChange: (value: number | null) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const number = Number((text ?? "").replace(/[\s,]/g, "").replace("−", "-"));
  const wrong = text !== null && !Number.isFinite(number);
  return (
    <label className="row" style={{ flex: empty.length > 6 ? "1 1 100%" : "1 1 60px", minWidth: 0 }}>
      <input
        aria-label={label}
        aria-invalid={wrong}
        placeholder={empty}
        value={text ?? (value === null ? "" : String(value))}
        style={{ ...line, textAlign: "right" }}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => {
          if (text === null || wrong) return;
          onChange(text.trim() === "" ? null : number);
          setText(null);
        }}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      <span className="quiet" style={{ whiteSpace: "nowrap" }}>
        {unit}
      </span>
    </label>
  );
}
