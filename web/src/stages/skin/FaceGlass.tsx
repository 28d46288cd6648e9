import { MenuItem, Select } from "@mui/material";
import type { ReactNode } from "react";
import type { Face } from "../../api/client";
import { useGeometry, useScheme, useShelf } from "../../api/hooks";
import type { Different } from "../../app/overrides";
import { useKept } from "../../app/state";
import { both, scale } from "../../app/words";
import { Vary } from "../../fields/Field";
import { Cell } from "./builder/Layers";
import { drawnBand } from "./drawn";
import { Elevation } from "./Elevation";

const patterns = [
  ["repeated", "repeated"],
  ["ribbon", "ribbon"],
  ["storey_high", "storey-high"],
] as const;

export const louvreKinds = [
  ["level", "level"],
  ["crossed", "crossed, an egg-crate"],
] as const;

const blinds = [
  ["none", "none"],
  ["inside", "inside"],
  ["outside", "outside"],
] as const;

/** Glass and shade of one wall: what it has as the scheme says, and what it does differently, which can be put back one by one. */
export function FaceGlass({
  face,
  own,
  put,
}: {
  face: Face;
  own: Different | null;
  put: (part: Different) => unknown;
}) {
  const { scheme } = useScheme();
  const shelf = useShelf().data;
  const units = useKept((s) => s.units);
  const skin = scheme.skin;
  const side = face.skin_side as "north" | "east" | "south" | "west";
  const to = scale("m", units);
  const drawn = drawnBand([face], useGeometry(scheme.id).data);
  const [sill, head] = [own?.sill_m ?? skin?.sill_m ?? 0, own?.head_m ?? skin?.head_m ?? 0];
  const beyond = drawn !== null && !own?.windows?.length && (drawn.head > head + 0.01 || drawn.sill < sill - 0.01);

  const [volume, , edge] = (face.edge ?? "").split("/");
  /** What is varied is the whole side of the volume, on all its storeys. */
  const vary = (key: string) => (edge ? <Vary kind="facade" path={`${volume}/*/${edge}/${key}`} /> : null);

  const length = (
    key: "sill_m" | "head_m" | "overhang_m" | "fin_m" | "louvre_m" | "window_width_m" | "module_m",
    label: string,
    usual: number | null | undefined,
  ) => {
    const value = own?.[key] ?? usual;
    return (
      <div className="field">
        <span className="name">{label}</span>
        <Own given={own?.[key] != null} label={label} onReset={() => put({ [key]: null })}>
          {vary(key)}
        </Own>
        <Cell
          label={label}
          value={value == null ? "" : String(Number((value * to.factor).toFixed(2)))}
          onCommit={(t) => {
            const typed = Number(t.replace(",", "."));
            if (!t.trim() || !Number.isFinite(typed)) return null;
            return put({ [key]: Number((typed / to.factor).toFixed(4)) });
          }}
        />
        <span className="unit">{to.unit}</span>
      </div>
    );
  };
  const choice = (
    key: "pattern" | "glazing" | "louvre_kind" | "blinds",
    label: string,
    now: string,
    options: readonly (readonly [string, string])[],
  ) => (
    <div className="field wide">
      <span className="name">{label}</span>
      <Own given={own?.[key] != null} label={label} onReset={() => put({ [key]: null })}>
        {key === "glazing" && vary(key)}
      </Own>
      <Select
        fullWidth
        value={now}
        inputProps={{ "aria-label": label }}
        onChange={(e) => put({ [key]: e.target.value })}
      >
        {options.map(([id, name]) => (
          <MenuItem key={id} value={id}>
            {name}
          </MenuItem>
        ))}
      </Select>
    </div>
  );
  return (
    <details open>
      <summary>Glass and shade here</summary>
      {choice(
        "glazing",
        "Window of this face",
        own?.glazing ?? face.glazing,
        (shelf?.glazings ?? []).map((g) => [g.id, g.name]),
      )}
      {choice("pattern", "Windows as", own?.pattern ?? skin?.window_pattern ?? "repeated", patterns)}
      {length("sill_m", "Sill", skin?.sill_m)}
      {length("head_m", "Head", skin?.head_m)}
      {beyond && drawn && (
        <div className="small quiet" data-drawn>
          Drawn from {both(drawn.sill, "m", units, 2)} to {both(drawn.head, "m", units, 2)}: the ratio asks for it.
        </div>
      )}
      {length("module_m", "Spacing", skin?.window_module_m)}
      {length("window_width_m", "Width of each", skin?.window_width_m)}
      {length("overhang_m", "Overhang here", skin?.overhang_depth_m?.[side])}
      {length("fin_m", "Side fins here", skin?.fin_depth_m?.[side])}
      {length("louvre_m", "Louvres here", skin?.louvre_depth_m?.[side])}
      {face.louvre_m > 0 &&
        choice("louvre_kind", "Louvres as", own?.louvre_kind ?? skin?.louvre_kind ?? "level", louvreKinds)}
      {choice("blinds", "Blinds here", own?.blinds ?? skin?.blinds?.place ?? "none", blinds)}
      <Elevation face={face} own={own} put={put} />
    </details>
  );
}

function Own({
  given,
  label,
  onReset,
  children,
}: {
  given: boolean;
  label: string;
  onReset: () => void;
  children: ReactNode;
}) {
  return (
    <span className="tags">
      {children}
      {given && (
        <button
          type="button"
          className="plain assumed"
          aria-label={`${label}: as the scheme again`}
          title="Its own value; press to put it back as the scheme"
          onClick={onReset}
        >
          own
        </button>
      )}
    </span>
  );
}
