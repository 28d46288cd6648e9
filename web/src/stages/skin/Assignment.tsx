import { Button, MenuItem, Select } from "@mui/material";
import { make } from "../../api/edits";
import { useEdit, useGeometry, useScheme, useShelf } from "../../api/hooks";
import { selectAll } from "../../app/state";
import { freshId } from "../../app/words";
import { at } from "../../fields/paths";
import { Cell } from "./builder/Layers";
import { elements, fitsElement } from "./elements";

interface Rule {
  id: string;
  name?: string;
  element?: string | null;
  orientation?: string | null;
  storey?: string;
  matching?: string;
  construction?: string | null;
  glazing?: string | null;
}
const sides = ["north", "east", "south", "west"];

/** Which faces have which construction: by rules, the first that fits counts; what is set on a face by hand stands before them. */
export function Assignment() {
  const { scheme } = useScheme();
  const edit = useEdit();
  const shelf = useShelf().data;
  const geometry = useGeometry(scheme.id).data;
  const faces = geometry?.faces ?? [];
  const rules = (scheme.skin?.rules ?? []) as Rule[];
  const path = `schemes/${scheme.id}/skin/rules`;
  /** Changes the rules as they stand when the edit's turn comes. */
  const keep = (next: (now: Rule[]) => Rule[]) =>
    edit((state) => {
      const now = (at(state.given, path) ?? []) as Rule[];
      return make.set(path, next(now).map(clean));
    });
  const change = (id: string, part: Partial<Rule>) =>
    keep((now) => now.map((r) => (r.id === id ? { ...r, ...part } : r)));
  const by = (n: number) => faces.filter((f) => f.clad_by.startsWith(`by rule ${n}:`));
  const hand = faces.filter((f) => f.clad_by === "by hand");

  function add() {
    const construction = shelf?.constructions.find((c) => c.element === "wall")?.id;
    void keep((now) => {
      const taken = now.map((r) => r.id);
      return [...now, { id: freshId("rule", taken), element: "wall", orientation: "north", construction }];
    });
  }
  function move(id: string, by: number) {
    void keep((now) => {
      const next = [...now];
      const i = next.findIndex((r) => r.id === id);
      const [one] = next.splice(i, 1);
      next.splice(Math.max(0, i + by), 0, one);
      return next;
    });
  }
  return (
    <details open={rules.length > 0}>
      <summary>
        Rules <span className="quiet">{rules.length || "none"}</span>
      </summary>
      <div className="small quiet" style={{ marginBottom: 6 }}>
        What is set on a face by hand counts first
        {hand.length > 0 && (
          <>
            {" ("}
            <button
              type="button"
              className="plain assumed"
              onClick={() =>
                selectAll(
                  "face",
                  hand.map((f) => f.id),
                )
              }
            >
              {hand.length} {hand.length === 1 ? "face" : "faces"}
            </button>
            )
          </>
        )}
        , then the first rule that fits, then the reference in the drawing, then the kind of element.
      </div>
      {/* above the list: it stays under the pointer while rules are added */}
      <Button variant="outlined" disabled={!shelf} onClick={add}>
        Add rule
      </Button>
      {rules.map((r, i) => {
        const fits = by(i + 1);
        const known = r.glazing ? "glazing" : "construction";
        return (
          <fieldset key={r.id} className="rule" data-rule={r.id}>
            <legend className="spread">
              <span>
                {i + 1}. {r.name || "Faces that are"}
              </span>
              <span className="row" style={{ gap: 6 }}>
                <button
                  type="button"
                  className="plain small assumed"
                  onClick={() =>
                    selectAll(
                      "face",
                      fits.map((f) => f.id),
                    )
                  }
                >
                  {geometry ? `${fits.length} ${fits.length === 1 ? "face" : "faces"}` : "…"}
                </button>
                <button
                  type="button"
                  className="plain"
                  aria-label={`Rule ${i + 1} earlier`}
                  disabled={i === 0}
                  onClick={() => move(r.id, -1)}
                >
                  ↑
                </button>
                <button
                  type="button"
                  className="plain"
                  aria-label={`Rule ${i + 1} later`}
                  disabled={i === rules.length - 1}
                  onClick={() => move(r.id, 1)}
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
            </legend>
            <div className="pair">
              <Choice
                label={`Rule ${i + 1}, kind`}
                value={r.element ?? ""}
                none="any kind"
                options={elements.map(([id, name]) => [id, name])}
                onPick={(v) => change(r.id, { element: v || null })}
              />
              <Choice
                label={`Rule ${i + 1}, orientation`}
                value={r.orientation ?? ""}
                none="any side"
                options={sides.map((s) => [s, s])}
                onPick={(v) => change(r.id, { orientation: v || null })}
              />
            </div>
            <div className="pair">
              <label className="small">
                storey
                <Cell
                  wide
                  label={`Rule ${i + 1}, storey`}
                  value={r.storey ?? ""}
                  onCommit={(t) => change(r.id, { storey: t.trim() })}
                />
              </label>
              <label className="small">
                name or reference
                <Cell
                  wide
                  label={`Rule ${i + 1}, name`}
                  value={r.matching ?? ""}
                  onCommit={(t) => change(r.id, { matching: t.trim() })}
                />
              </label>
            </div>
            <div className="pair">
              <Choice
                label={`Rule ${i + 1}, gives`}
                value={known}
                options={[
                  ["construction", "have the construction"],
                  ["glazing", "have windows of"],
                ]}
                onPick={(v) =>
                  change(
                    r.id,
                    v === "glazing"
                      ? { construction: null, glazing: shelf?.glazings[0]?.id }
                      : { glazing: null, construction: shelf?.constructions[0]?.id },
                  )
                }
              />
              <Choice
                label={`Rule ${i + 1}, ${known}`}
                value={r[known] ?? ""}
                options={(known === "glazing"
                  ? (shelf?.glazings ?? [])
                  : (shelf?.constructions ?? []).filter((c) => !r.element || fitsElement(c.element, r.element))
                ).map((c) => [c.id, c.name])}
                onPick={(v) => change(r.id, { [known]: v })}
              />
            </div>
          </fieldset>
        );
      })}
    </details>
  );
}

const clean = (rule: Rule) =>
  Object.fromEntries(Object.entries(rule).filter(([, v]) => v !== null && v !== "" && v !== undefined));

function Choice({
  label,
  value,
  options,
  none,
  onPick,
}: {
  label: string;
  value: string;
  options: (readonly [string, string])[];
  none?: string;
  onPick: (value: string) => void;
}) {
  return (
    <Select
      fullWidth
      displayEmpty
      value={value}
      inputProps={{ "aria-label": label }}
      onChange={(e) => onPick(e.target.value)}
      renderValue={(v) => options.find(([id]) => id === v)?.[1] ?? none ?? v}
    >
      {none && <MenuItem value="">{none}</MenuItem>}
      {options.map(([id, name]) => (
        <MenuItem key={id} value={id}>
          {name}
        </MenuItem>
      ))}
    </Select>
  );
}
