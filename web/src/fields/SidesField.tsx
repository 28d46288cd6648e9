import { useEffect, useId, useState } from "react";
import { make } from "../api/edits";
import { useEdit, useProject } from "../api/hooks";
import { useKept } from "../app/state";
import { keepOnEnter } from "./enter";
import { NumberField } from "./Field";
import { type FieldName, notes } from "./notes";
import { at, read, show, shownAs } from "./paths";

const sides = ["north", "east", "south", "west"] as const;

/** One value for all four sides, which opens to a field for each; where the sides differ they stand open. */
export function SidesField({
  path,
  group,
  label,
  short,
  slider,
  form,
}: {
  /** Path of the group, e.g. `schemes/quay/skin/glazing_ratio`. */
  path: string;
  /** Name of the group's description, e.g. `GlazingRatio`. */
  group: "GlazingRatio" | "OverhangDepth" | "FinDepth" | "LouvreDepth";
  label: string;
  /** What the field of one side is called before the side's name, unless as it is described. */
  short?: string;
  slider?: boolean;
  form?: boolean;
}) {
  const now = useProject((state) => at(state.completed, path) as Record<string, number> | undefined).data;
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const id = useId();
  const [text, setText] = useState<string | null>(null);
  const [refused, setRefused] = useState("");
  const nameOf = (side: string) => `${group}.${side}` as FieldName;
  const note = notes[nameOf("south")];
  const shown = shownAs(note, units);
  const values = sides.map((s) => now?.[s] ?? 0);
  const same = values.every((v) => v === values[0]);
  const [open, setOpen] = useState(!same);
  useEffect(() => {
    if (!same) setOpen(true);
  }, [same]);

  function commit() {
    const typed = text;
    setText(null);
    if (typed === null || typed.trim() === "" || (same && typed === show(values[0], shown))) return;
    const value = read(typed, shown);
    const [low, high] = [
      note.ge ?? note.gt ?? Number.NEGATIVE_INFINITY,
      note.le ?? note.lt ?? Number.POSITIVE_INFINITY,
    ];
    if (Number.isNaN(value)) return setRefused(`“${typed}” is not a number.`);
    if (value < low || value > high)
      return setRefused(`Allowed: ${show(low, shown)} to ${show(high, shown)} ${shown.unit}.`);
    setRefused("");
    void edit(make.together(sides.map((s) => make.set(`${path}/${s}`, value))));
  }

  return (
    <>
      <div className="field">
        <label htmlFor={id}>{label}, all sides</label>
        <span className="tags" />
        <input
          id={id}
          name={`${path}/all`}
          inputMode="decimal"
          value={text ?? (same ? show(values[0], shown) : "")}
          placeholder={same ? undefined : "various"}
          aria-invalid={refused !== ""}
          onFocus={(e) => e.target.select()}
          onChange={(e) => setText(e.target.value)}
          onBlur={commit}
          onKeyDown={(e) => {
            keepOnEnter(e);
            if (e.key === "Escape") setText(null);
          }}
        />
        <span className="unit">{shown.unit}</span>
        {refused && <span className="said">{refused}</span>}
      </div>
      <details className="each-side" open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
        <summary>{label} by side</summary>
        {sides.map((s) => (
          <NumberField
            key={s}
            path={`${path}/${s}`}
            note={nameOf(s)}
            label={short && `${short} ${s}`}
            slider={slider}
            form={form}
            vary
          />
        ))}
      </details>
    </>
  );
}
