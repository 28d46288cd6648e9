import { Button, Menu, MenuItem, Select } from "@mui/material";
import { useState } from "react";
import { client, got, type LeverOffer } from "../../api/client";
import { useProject, useProjectId, useScheme } from "../../api/hooks";
import { type Measure, measureOf, sameLever, titleOf } from "../../app/draft";
import { tell, useKept } from "../../app/state";
import { freshId, scale } from "../../app/words";
import { line, NumberBox } from "../../fields/NumberBox";
import { LeverFinder } from "./LeverFinder";

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
    ).catch((fault: Error) => tell(fault.message, true));
    if (!found) return;
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
            <span className="row" style={{ flex: "1 1 100%" }}>
              <NumberBox
                label={`Cost of measure ${i + 1}`}
                empty="by the cost table"
                value={m.cost == null ? "" : String(m.cost)}
                unit="€"
                onCommit={(cost) => put(i, { cost })}
              />
            </span>
            <NumberBox
              label={`Life of measure ${i + 1}`}
              empty="30"
              whole
              value={m.life_years == null ? "" : String(m.life_years)}
              unit="years"
              onCommit={(v) => put(i, { life_years: v ?? undefined })}
            />
            <NumberBox
              label={`Upkeep of measure ${i + 1}`}
              empty="0"
              value={m.upkeep == null ? "" : String(m.upkeep)}
              unit="€ a year"
              onCommit={(v) => put(i, { upkeep: v ?? undefined })}
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
  const title = offer ? titleOf(offer) : (change.path ?? change.kind);
  const number = typeof change.step === "number" ? change.step : null;
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
        <NumberBox
          label={`${title} becomes`}
          value={number === null ? String(change.step) : String(Number((number * factor + offset).toFixed(3)))}
          unit={offer?.share ? "%" : own.unit}
          width={56}
          onCommit={(v) => onStep(Number((((v ?? 0) - offset) / factor).toFixed(6)))}
        />
      )}
      {onRemove && (
        <button type="button" className="plain quiet" aria-label={`Remove ${title}`} onClick={onRemove}>
          ×
        </button>
      )}
    </div>
  );
}
