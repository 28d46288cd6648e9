import { Menu, MenuItem, Select, Tooltip } from "@mui/material";
import { memo, useEffect, useId, useRef, useState } from "react";
import { useParams } from "react-router";
import { make } from "../api/edits";
import { useEdit, useLevers, useProject, useTry } from "../api/hooks";
import { NEW, sameLever, varied, varies } from "../app/draft";
import { alike } from "../app/stable";
import { tell, useKept, useKeptOf, useView } from "../app/state";
import { said } from "../app/words";
import { keepOnEnter } from "./enter";
import { type FieldName, notes } from "./notes";
import { at, isGiven, read, show, shownAs } from "./paths";

interface Common {
  /** Path from the project down, e.g. `schemes/quay/skin/sill_m`. */
  path: string;
  /** Name of the field's description, e.g. `Skin.sill_m`. */
  note: FieldName;
  label?: string;
}

function useField({ path, note }: Common) {
  const value = useProject((state) => at(state.completed, path) ?? null).data;
  const given = useProject((state) => isGiven(state.given, path)).data ?? false;
  return { value, given, note: notes[note] };
}

/** Says that a value is assumed; tells the source, and confirms or resets. */
function Origin({
  path,
  given,
  source,
  value,
  help,
}: {
  path: string;
  given: boolean;
  source?: string;
  value: unknown;
  help?: string;
}) {
  const edit = useEdit();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (given) return null;
  const open = Boolean(anchor);
  return (
    <>
      <Tooltip title={open ? "" : `Assumed: ${source ?? ""}`}>
        <button type="button" className="plain assumed" onClick={(e) => setAnchor(e.currentTarget)}>
          assumed
        </button>
      </Tooltip>
      <Menu anchorEl={anchor} open={open} onClose={() => setAnchor(null)}>
        <MenuItem disabled>Source: {source}</MenuItem>
        {help && <MenuItem disabled>{help}</MenuItem>}
        {value !== null && value !== undefined && (
          <MenuItem
            onClick={() => {
              setAnchor(null);
              void edit(make.set(path, value));
            }}
          >
            Confirm this value
          </MenuItem>
        )}
      </Menu>
    </>
  );
}

/** Makes a field, by its path, or another lever a part of the study that is being put together. */
export const Vary = memo(function Vary({ path, kind = "field" }: { path: string; kind?: string }) {
  const { project, scheme } = useParams();
  const key = `${project}/${scheme}`;
  const levers = useLevers(scheme ?? "", false);
  const { drafts, setDraft } = useKeptOf("drafts", "setDraft");
  const own = path.replace(/^schemes\/[^/]+\//, "");
  const what = own === "turn_deg" ? { kind: "turn", path: null } : { kind, path: own };
  const on = varies(drafts[key] ?? NEW, what);
  return (
    <button
      type="button"
      className="vary"
      aria-pressed={on}
      title={on ? "No longer vary this" : "Make this a part of the study that is put together"}
      onClick={async () => {
        const offer = (await levers.refetch()).data?.find((o) => sameLever(o, what));
        if (!offer) return tell("This cannot be varied.");
        const draft = useKept.getState().drafts[key] ?? NEW;
        setDraft(key, varied(draft, offer));
        const part = draft.kind === "measures" ? "measure" : "lever";
        tell(on ? `${offer.title} is no longer a ${part}.` : `${offer.title} is a ${part} of the study now.`);
      }}
    >
      ± vary
    </button>
  );
});

/** A number with its unit, origin, usual range and vary handle. */
export const NumberField = memo(function NumberField({
  as,
  slider,
  vary,
  form,
  placeholder,
  ...common
}: Common & { as?: "mm"; slider?: boolean; vary?: boolean; form?: boolean; placeholder?: number | null }) {
  const { value, given, note } = useField(common);
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const scheme = useParams().scheme ?? "";
  const attempt = useTry(scheme);
  const id = useId();
  const shown = shownAs(note, units, as);
  const known = typeof value === "number" ? value : (placeholder ?? null);
  const settled = known === null ? "" : show(known, shown);
  const [text, setText] = useState(settled);
  const [slid, setSlid] = useState<number | null>(null);
  /** Whether something is typed that is not kept yet; until then the field follows what stands. */
  const editing = useRef(false);
  /** Whether the slider is held; what it says after it was let go was kept already. */
  const held = useRef(false);
  const faultAt = useView((s) => s.faultAt);
  const [local, setLocal] = useState("");

  const settledNow = useRef(settled);
  settledNow.current = settled;

  useEffect(() => {
    if (!editing.current) setText(settled);
    if (!held.current) setSlid(null);
  }, [settled]);

  const refused = local || (faultAt?.path === common.path ? said(faultAt.message, units) : "");

  const spoken = {
    name: common.label ?? note.title,
    say: (v: unknown) => (typeof v === "number" ? `${show(v, shown)} ${shown.unit}`.trim() : "none"),
  };
  /** Keeps what the slider was let go at; where that is refused, it goes back. */
  async function letGo(at: string) {
    if (!held.current) return;
    held.current = false;
    const value = slidTo(at);
    if (value === known) return setSlid(null);
    setSlid(value);
    if (!(await edit(make.set(common.path, value), spoken))) setSlid(null);
  }
  const slidTo = (at: string) => Number(Number(at).toFixed((note.digits ?? 2) + 1));

  async function commit(next: string) {
    editing.current = false;
    setLocal("");
    if (next.trim() === settled) return setText(settled);
    if (next.trim() === "") {
      setText(settled);
      if (given) await edit(make.reset(common.path), spoken);
      return;
    }
    const number = read(next, shown);
    if (Number.isNaN(number)) return setLocal(`“${next}” is not a number.`);
    const low = note.ge ?? note.gt;
    const high = note.le ?? note.lt;
    if (
      (low !== undefined && number < low) ||
      (high !== undefined && number > high) ||
      number === note.gt ||
      number === note.lt
    ) {
      const from = low !== undefined ? show(low, shown) : "any";
      const to = high !== undefined ? show(high, shown) : "any";
      return setLocal(`Allowed: ${note.gt !== undefined ? "above " : ""}${from} to ${to} ${shown.unit}.`);
    }
    if (await edit(make.set(common.path, number), spoken)) return;
    // refused: what was typed stays to be mended; where another window was first, what stands there now is shown
    if (useView.getState().faultAt?.path === common.path) setText(next);
    else setText(settledNow.current);
  }

  const now = slid ?? known;
  const usual = note.usual;
  const odd = given && usual && known !== null && (known < usual[0] || known > usual[1]);
  const low = usual ? Math.min(usual[0] - (usual[1] - usual[0]) * 0.25, known ?? usual[0]) : 0;
  const high = usual ? Math.max(usual[1] + (usual[1] - usual[0]) * 0.25, known ?? usual[1]) : 1;
  const floor = Math.max(low, note.ge ?? note.gt ?? low);
  const roof = Math.min(high, note.le ?? note.lt ?? high);

  return (
    <>
      <div className="field" data-field={common.path}>
        <Tooltip title={note.help ?? ""} placement="left">
          <label htmlFor={id}>{common.label ?? note.title}</label>
        </Tooltip>
        <span className="tags">
          {vary && note.lever && <Vary path={common.path} />}
          <Origin path={common.path} given={given} source={note.source} value={value} help={note.help} />
        </span>
        <input
          id={id}
          name={common.path}
          value={slid !== null ? show(slid, shown) : text}
          inputMode="decimal"
          placeholder={known === null ? "none" : undefined}
          aria-invalid={Boolean(refused)}
          autoComplete="off"
          onFocus={(e) => e.target.select()}
          onChange={(e) => {
            editing.current = true;
            setText(e.target.value);
          }}
          onBlur={(e) => void commit(e.target.value)}
          onKeyDown={(e) => {
            keepOnEnter(e);
            if (e.key === "Escape") {
              editing.current = false;
              setText(settled);
              setLocal("");
            }
          }}
        />
        <span className="unit">{shown.unit}</span>
        {refused && <span className="said">{refused}</span>}
        {odd && usual && (
          <span className="odd">
            Unusual: {show(usual[0], shown)} to {show(usual[1], shown)} {shown.unit} is common.
          </span>
        )}
      </div>
      {slider && usual && now !== null && (
        <div className="slide">
          <span
            className="usual"
            style={{
              left: `${((usual[0] - floor) / (roof - floor)) * 100}%`,
              width: `${((Math.min(usual[1], roof) - Math.max(usual[0], floor)) / (roof - floor)) * 100}%`,
            }}
          />
          <input
            type="range"
            aria-label={`${common.label ?? note.title}, slider`}
            min={floor}
            max={roof}
            step={(roof - floor) / 100}
            value={now}
            onPointerDown={() => {
              held.current = true;
            }}
            onKeyDown={() => {
              held.current = true;
            }}
            onChange={(e) => {
              if (!held.current) return;
              const next = slidTo(e.target.value);
              setSlid(next);
              attempt(make.set(common.path, next), form);
            }}
            onPointerUp={(e) => void letGo(e.currentTarget.value)}
            onLostPointerCapture={(e) => void letGo(e.currentTarget.value)}
            onKeyUp={(e) => void letGo(e.currentTarget.value)}
            onBlur={(e) => void letGo(e.currentTarget.value)}
          />
        </div>
      )}
    </>
  );
});

/** A choice out of a list; an option without an id is what counts where nothing is given. */
export const ChoiceField = memo(function ChoiceField({
  options,
  vary,
  empty,
  ...common
}: Common & {
  options: readonly { id: string; name: string }[];
  vary?: boolean;
  /** What stands there while nothing is given; it can be chosen again. */
  empty?: string;
}) {
  const { value, given, note } = useField(common);
  const edit = useEdit();
  const title = common.label ?? note.title;
  return (
    <div className="field wide" data-field={common.path}>
      <span className="name">{title}</span>
      <span className="tags">
        {vary && note.lever && <Vary path={common.path} />}
        {!(empty && value == null) && (
          <Origin path={common.path} given={given} source={note.source} value={value} help={note.help} />
        )}
      </span>
      <Select
        value={value === null || value === undefined ? "" : String(value)}
        onChange={({ target: { value: chosen } }) =>
          void edit(chosen === "" ? make.reset(common.path) : make.set(common.path, chosen), {
            name: title,
            say: (v) => options.find((o) => o.id === String(v))?.name ?? String(v),
          })
        }
        inputProps={{ "aria-label": title }}
        fullWidth
        displayEmpty
        renderValue={(v) => options.find((o) => o.id === v)?.name ?? (v || (empty ?? "none"))}
      >
        {empty && <MenuItem value="">{empty}</MenuItem>}
        {options.map((o) => (
          <MenuItem key={o.id} value={o.id}>
            {o.name}
          </MenuItem>
        ))}
      </Select>
    </div>
  );
}, alike);

const yesNo = [
  { id: "true", name: "yes" },
  { id: "false", name: "no" },
];

/** A yes or a no. */
export function YesNoField(common: Common & { vary?: boolean }) {
  return <ChoiceField {...common} options={yesNo} />;
}

/** A name. */
export function TextField({ path, label }: { path: string; label: string }) {
  const edit = useEdit();
  const value = useProject((state) => String(at(state.completed, path) ?? "")).data ?? "";
  const [text, setText] = useState(value);
  const id = useId();
  const now = useRef(value);
  now.current = value;
  useEffect(() => setText(value), [value]);
  return (
    <div className="field wide">
      <label htmlFor={id}>{label}</label>
      <span />
      <input
        id={id}
        name={path}
        value={text}
        style={{ textAlign: "left" }}
        maxLength={120}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => {
          if (text === value || !text.trim()) return setText(value);
          void edit(make.set(path, text.trim()), { name: label, say: String }).then((kept) => {
            if (!kept) setText(now.current);
          });
        }}
        onKeyDown={keepOnEnter}
      />
    </div>
  );
}
