import { MenuItem, Select } from "@mui/material";
import { make } from "../../api/edits";
import { useEdit, useScheme } from "../../api/hooks";
import {
  type Given,
  idleIn,
  kindNames,
  kindsOf,
  models,
  type Part,
  partNames,
  parts,
  ready,
  usualOf,
} from "../../api/systems";
import { tell } from "../../app/state";
import { ChoiceField, NumberField, Vary } from "../../fields/Field";
import { type FieldName, notes } from "../../fields/notes";
import { at } from "../../fields/paths";

const seasonal = { id: "seasonal", name: "a seasonal figure for each" };

/** A system: which ready combination it is, and each of its parts with what is otherwise. */
export function SystemSheet({ path, label }: { path: string; label: string }) {
  const { state } = useScheme();
  const edit = useEdit();
  const system = (at(state.completed, path) ?? {}) as Given;
  const of = ready.find((r) => r.id === system.ready);
  const given = (at(state.given, path) ?? {}) as Given;

  /** Takes another system; says what of the given values is kept, and what means nothing there. */
  async function choose(id: string) {
    const next = { ...given, ready: id };
    if (!(await edit(make.set(`${path}/ready`, id)))) return;
    const idle = idleIn(next);
    const all = parts.reduce((n, p) => n + Object.keys(given[p] ?? {}).length, 0);
    const said = [
      id === "seasonal"
        ? "Seasonal figures count again; what was given for the system is kept."
        : system.ready === "seasonal"
          ? "All figures of the system are assumed until they are given; the seasonal figures are kept, but do not count."
          : "",
      all > idle.length
        ? `${all - idle.length} given ${all - idle.length === 1 ? "value holds" : "values hold"} here as well.`
        : "",
      idle.length > 0 && id !== "seasonal"
        ? `Without meaning here, and kept: ${idle.map(([p, name]) => titleOf(p, name)).join(", ")}.`
        : "",
    ].filter(Boolean);
    if (said.length > 0) tell(said.join(" "));
  }
  return (
    <div className="system">
      <div className="field system-choice" data-field={`${path}/ready`}>
        <span className="name">{label}</span>
        <span className="tags">
          <Vary path={`${path}/ready`} />
        </span>
        <Select
          value={system.ready ?? "seasonal"}
          fullWidth
          inputProps={{ "aria-label": label }}
          onChange={(e) => void choose(e.target.value)}
          renderValue={(v) => ready.find((r) => r.id === v)?.name ?? seasonal.name}
        >
          {[seasonal, ...ready].map((r) => (
            <MenuItem key={r.id} value={r.id}>
              {r.name}
            </MenuItem>
          ))}
        </Select>
      </div>
      {of ? (
        <>
          <p className="small quiet" style={{ margin: "4px 0 6px" }}>
            {of.about}
          </p>
          {parts.map((part) => (
            <PartFields key={part} path={path} system={system} part={part} />
          ))}
          <NumberField path={`${path}/margin`} note="SystemFigures.margin" vary />
        </>
      ) : null}
    </div>
  );
}

const titleOf = (part: Part, name: string) =>
  `${partNames[part].toLowerCase()}: ${(notes[`${models[part]}.${name}` as FieldName]?.title ?? name).toLowerCase()}`;

/** One part of a system: its kind, and its figures, each as the system has it until it is given. */
function PartFields({ path, system, part }: { path: string; system: Given; part: Part }) {
  const { kind, usual } = usualOf(system, part);
  const model = models[part];
  const names = Object.keys(usual);
  const rated = (part === "heat" || part === "peak" || part === "cold") && kind !== "none";
  const kinds = kindsOf(part).map((id) => ({ id, name: kindNames[id] ?? id }));
  return (
    <details>
      <summary>
        {partNames[part]} <span className="quiet">{kindNames[kind] ?? kind}</span>
      </summary>
      <ChoiceField
        path={`${path}/${part}/kind`}
        note={`${model}.kind` as FieldName}
        label={partNames[part]}
        options={kinds}
        empty={kindNames[kind] ?? kind}
      />
      {names.map((name) => {
        const note = `${model}.${name}` as FieldName;
        const value = usual[name];
        if (typeof value === "string")
          return (
            <ChoiceField
              key={name}
              path={`${path}/${part}/${name}`}
              note={note}
              options={(notes[note].choices ?? []).map((id) => ({ id, name: kindNames[id] ?? id }))}
              empty={kindNames[value] ?? value}
            />
          );
        return (
          <NumberField
            key={name}
            path={`${path}/${part}/${name}`}
            note={note}
            vary
            placeholder={value === null ? undefined : Number(value)}
          />
        );
      })}
      {rated && <NumberField path={`${path}/${part}/power_kw`} note={`${model}.power_kw` as FieldName} vary />}
    </details>
  );
}
