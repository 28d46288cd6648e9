import { Button, MenuItem, Select } from "@mui/material";
import type { Outcome } from "../../../api/client";
import { make } from "../../../api/edits";
import { useEdit, useGeometry, useScheme } from "../../../api/hooks";
import { modules } from "../../../api/systems";
import { useChosen, useKept, useView } from "../../../app/state";
import { both, count, freshId, round } from "../../../app/words";
import { ChoiceField, NumberField, TextField } from "../../../fields/Field";
import { type FieldName, notes } from "../../../fields/notes";
import { at } from "../../../fields/paths";
import { adding, type Held, holders, type Laid, measures, type On, placesOf, relaid } from "./arrays";

type Told = Outcome["renewables"]["arrays"][number];

/** What the sun gives: arrays, inverters, a battery, and collectors for hot water. */
export function FromSun({ outcome, onOpen }: { outcome: Outcome | undefined; onOpen: () => void }) {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const path = `schemes/${scheme.id}/plant`;
  const plant = scheme.plant;
  const sun = outcome?.renewables;
  const share = plant?.photovoltaics?.roof_share ?? 0;
  const any = share > 0 || (plant?.arrays ?? []).length + (plant?.collectors ?? []).length > 0;
  return (
    <>
      <h3>From the sun</h3>
      {outcome && any && <Covered outcome={outcome} />}
      {any && (
        <Button variant="outlined" size="small" sx={{ mt: 0.5, mb: 1 }} onClick={onOpen}>
          See what the sun gives
        </Button>
      )}
      <Things kind="arrays" outcome={outcome} />
      <Inverters outcome={outcome} />
      <details open={(plant?.battery?.usable_kwh ?? 0) > 0}>
        <summary>
          Battery{" "}
          <span className="quiet">{sun?.battery ? `${round(sun.battery.cycles, 0)} times filled a year` : "none"}</span>
        </summary>
        <NumberField path={`${path}/battery/usable_kwh`} note="Battery.usable_kwh" vary />
        <NumberField
          path={`${path}/battery/power_kw`}
          note="Battery.power_kw"
          placeholder={(plant?.battery?.usable_kwh ?? 0) / 2}
          vary
        />
        <NumberField path={`${path}/battery/efficiency`} note="Battery.efficiency" />
        <NumberField path={`${path}/battery/ageing`} note="Battery.ageing" />
      </details>
      <details open={share > 0 || (plant?.arrays ?? []).length === 0}>
        <summary>
          Panels on a share of all roofs <span className="quiet">{share > 0 ? "" : "none"}</span>
        </summary>
        <NumberField path={`${path}/photovoltaics/roof_share`} note="Photovoltaics.roof_share" vary slider />
        <NumberField path={`${path}/photovoltaics/tilt_deg`} note="Photovoltaics.tilt_deg" vary />
        <NumberField path={`${path}/photovoltaics/azimuth_deg`} note="Photovoltaics.azimuth_deg" vary />
        <NumberField path={`${path}/photovoltaics/module_efficiency`} note="Photovoltaics.module_efficiency" />
        <NumberField path={`${path}/photovoltaics/losses`} note="Photovoltaics.losses" />
        <NumberField path={`${path}/photovoltaics/inverter_efficiency`} note="Photovoltaics.inverter_efficiency" />
      </details>
      <Things kind="collectors" outcome={outcome} />
      {(plant?.collectors ?? []).length > 0 && (
        <details>
          <summary>
            Tank of the collectors{" "}
            {sun?.collectors && (
              <span className="quiet">{round(sun.collectors.share * 100, 0)}% of hot water from the sun</span>
            )}
          </summary>
          <NumberField
            path={`${path}/tank/litres`}
            note="Tank.litres"
            placeholder={sun?.collectors ? Math.round(sun.collectors.litres) : null}
            vary
          />
          <NumberField path={`${path}/tank/loss_w_k`} note="Tank.loss_w_k" />
          <NumberField path={`${path}/tank/hottest_c`} note="Tank.hottest_c" />
          <NumberField path={`${path}/tank/cold_c`} note="Tank.cold_c" />
        </details>
      )}
      {sun?.collectors && (
        <div className="small quiet">
          Collectors heat {round(sun.collectors.share * 100, 0)}% of the hot water,{" "}
          {both(sun.collectors.to_water_kwh, "kWh", units, 0)} a year.
        </div>
      )}
    </>
  );
}

/** How much of the electricity own generation covers, and how much of it is used here, in words. */
export function Covered({ outcome }: { outcome: Outcome }) {
  const t = outcome.totals;
  const made = t.generation_kwh.used + t.generation_kwh.exported + t.generation_kwh.lost;
  if (made < 0.5) return null;
  const percent = (v: number) => `${round(v * 100, 0)}%`;
  return (
    <p className="small" style={{ margin: "4px 0" }} data-covered={t.covered_power_share}>
      Own generation makes {round(made, 0)} kWh a year and covers{" "}
      <b>{percent(t.covered_power_share)} of the electricity</b> ({percent(t.covered_share)} of all energy);{" "}
      {percent(t.own_use_share)} of it is used here, the rest is sold.
    </p>
  );
}

/** Arrays or collectors: each with what it gives, its place and measures; and where another may lie. */
function Things({ kind, outcome }: { kind: Held; outcome: Outcome | undefined }) {
  const { scheme } = useScheme();
  const edit = useEdit();
  const chosen = useChosen();
  const set = useView((s) => s.set);
  const selection = useView((s) => s.selection);
  const geometry = useGeometry(scheme.id).data;
  const things = (kind === "arrays" ? scheme.plant?.arrays : scheme.plant?.collectors) ?? [];
  const places = placesOf(geometry, chosen);
  const word = kind === "arrays" ? "Another array" : "Collectors";
  async function add(place: { on: On; target: string }) {
    const { id, edit: made } = adding(scheme, geometry, kind, place);
    if (await edit(made)) set({ selection: { kind: "array", id }, also: [] });
  }
  const all: { on: On; target: string; name: string }[] = [
    ...places,
    ...(places.some((p) => p.on === "roof") ? [] : [{ on: "roof" as On, target: "*", name: "all roofs" }]),
    { on: "free", target: "", name: "its own feet" },
  ];
  return (
    <details open={things.length > 0 || kind === "arrays"} data-things={kind}>
      <summary>
        {kind === "arrays" ? "Arrays" : "Solar collectors for hot water"}{" "}
        <span className="quiet">{things.length || "none"}</span>
      </summary>
      {things.map((one) => (
        <Thing
          key={one.id}
          kind={kind}
          one={one as Laid}
          told={outcome?.renewables.arrays.find((a) => a.id === one.id)}
          on={selection?.kind === "array" && selection.id === one.id}
        />
      ))}
      <div className="small quiet" style={{ margin: "4px 0 2px" }}>
        {kind === "arrays" ? "Another array on" : "Collectors on"}
        {places.length === 0 && " (a roof or wall chosen in the model is offered here)"}
      </div>
      <div style={{ display: "flex", flexWrap: "wrap", gap: 6 }}>
        {all.map((p) => (
          <Button
            key={`${p.on} ${p.target}`}
            size="small"
            variant="outlined"
            aria-label={`${word} on ${p.name}`}
            onClick={() => void add(p)}
          >
            {p.name}
          </Button>
        ))}
      </div>
    </details>
  );
}

/** One array: what it gives beside its name, and its fields while it is selected. */
function Thing({ kind, one, told, on }: { kind: Held; one: Laid; told: Told | undefined; on: boolean }) {
  const { scheme, state } = useScheme();
  const edit = useEdit();
  const set = useView((s) => s.set);
  const path = `schemes/${scheme.id}/plant/${kind}/${one.id}`;
  const model = kind === "arrays" ? "Array" : "Collector";
  const usual = modules.find((m) => m.id === (one.module ?? "mono"));
  const note = (name: string) => `${model}.${name}` as FieldName;
  const lies = one.on ?? "roof";
  const given = (at(state.given, path) ?? { id: one.id }) as Record<string, unknown>;
  const geometry = useGeometry(scheme.id).data;
  const laid = geometry?.panels.find((p) => p.array === one.id)?.handle?.rectangle;
  const asLaid: Partial<Record<string, number>> = laid ? { width_m: laid[2], depth_m: laid[3] } : {};
  return (
    <fieldset className="rule" data-array={one.id}>
      <legend className="spread">
        <button
          type="button"
          className="plain"
          aria-pressed={on}
          title={on ? "Fold its fields away" : "Open its fields and show it in the model"}
          onClick={() => set({ selection: on ? null : { kind: "array", id: one.id }, also: [] })}
        >
          {on ? "▾" : "▸"} {one.name || one.id}
        </button>
        <button
          type="button"
          className="plain"
          aria-label={`Remove ${one.name || one.id}`}
          onClick={() => void edit(make.remove(path))}
        >
          ×
        </button>
      </legend>
      {told && (
        <div className="small quiet">
          {told.peak_kwp > 0
            ? `${round(told.peak_kwp, 1)} kWp, ${round(told.kwh, 0)} kWh a year: ${round(told.kwh_per_kwp, 0)} a kWp`
            : "finds no place and counts nothing"}
        </div>
      )}
      {on && (
        <>
          <TextField path={`${path}/name`} label="Name" />
          <div className="field wide">
            <span className="name">{notes[note("on")].title}</span>
            <span className="tags" />
            <Select
              value={lies}
              fullWidth
              inputProps={{ "aria-label": notes[note("on")].title }}
              onChange={(e) => void edit(relaid(scheme, geometry, kind, given, e.target.value as On))}
            >
              {holders.map((h) => (
                <MenuItem key={h.id} value={h.id}>
                  {h.name}
                </MenuItem>
              ))}
            </Select>
          </div>
          {lies !== "free" && <TextField path={`${path}/target`} label="Which, * is any" />}
          {kind === "arrays" && (
            <ChoiceField
              path={`${path}/inverter`}
              note="Array.inverter"
              options={(scheme.plant?.inverters ?? []).map((i) => ({ id: i.id, name: i.name || i.id }))}
              empty="one of its own"
            />
          )}
          {measures[lies].map((m) => (
            <NumberField
              key={m}
              path={`${path}/${m}`}
              note={note(m)}
              placeholder={asLaid[m] ?? null}
              vary={m === "tilt_deg" || m === "azimuth_deg" || m === "pitch_m" || m === "share"}
            />
          ))}
          {kind === "arrays" ? (
            <details>
              <summary>
                Modules and losses <span className="quiet">{usual?.name}</span>
              </summary>
              <ChoiceField path={`${path}/module`} note="Array.module" options={modules} vary />
              <NumberField
                path={`${path}/efficiency`}
                note="Array.efficiency"
                placeholder={usual?.efficiency ?? null}
                vary
              />
              <NumberField
                path={`${path}/loss_per_k`}
                note="Array.loss_per_k"
                placeholder={usual?.loss_per_k ?? null}
              />
              <NumberField path={`${path}/soiling`} note="Array.soiling" />
              <NumberField path={`${path}/wiring`} note="Array.wiring" />
              <NumberField path={`${path}/mismatch`} note="Array.mismatch" />
              <NumberField path={`${path}/ageing`} note="Array.ageing" />
            </details>
          ) : (
            <>
              <NumberField path={`${path}/zero_loss`} note="Collector.zero_loss" vary />
              <NumberField path={`${path}/loss_w_m2k`} note="Collector.loss_w_m2k" />
              <NumberField path={`${path}/loss_w_m2k2`} note="Collector.loss_w_m2k2" />
            </>
          )}
        </>
      )}
    </fieldset>
  );
}

/** Inverters that arrays share. */
function Inverters({ outcome }: { outcome: Outcome | undefined }) {
  const { scheme } = useScheme();
  const edit = useEdit();
  const path = `schemes/${scheme.id}/plant/inverters`;
  const inverters = scheme.plant?.inverters ?? [];
  const arrays = scheme.plant?.arrays ?? [];
  const told = outcome?.renewables.inverters ?? [];
  const alone = (outcome?.renewables.arrays ?? []).filter((a) => a.id !== "" && !a.inverter);
  if (arrays.length === 0 && inverters.length === 0) return null;
  return (
    <details open>
      <summary>
        Inverters <span className="quiet">{inverters.length || "each array has one of its own"}</span>
      </summary>
      {inverters.map((one) => {
        const year = told.find((t) => t.id === one.id);
        const own = arrays.filter((a) => a.inverter === one.id);
        return (
          <fieldset key={one.id} className="rule" data-inverter={one.id}>
            <legend className="spread">
              <span>{one.name || one.id}</span>
              <button
                type="button"
                className="plain"
                aria-label={`Remove ${one.name || one.id}`}
                onClick={() =>
                  void edit(
                    make.together([
                      ...own.map((a) => make.reset(`schemes/${scheme.id}/plant/arrays/${a.id}/inverter`)),
                      make.remove(`${path}/${one.id}`),
                    ]),
                  )
                }
              >
                ×
              </button>
            </legend>
            <div className="small quiet">
              {own.length === 0
                ? "No array feeds it: choose it at an array."
                : `${own.map((a) => a.name || a.id).join(", ")}: ${round(year?.peak_kwp ?? 0, 1)} kWp; ${
                    (year?.clipped_kwh ?? 0) >= 0.5
                      ? `clips ${round(year?.clipped_kwh ?? 0, 0)} kWh in ${count(year?.clipped_h ?? 0, "hour")}`
                      : "never clips"
                  }`}
            </div>
            <NumberField path={`${path}/${one.id}/rated_kw`} note="Inverter.rated_kw" vary />
            <NumberField path={`${path}/${one.id}/efficiency`} note="Inverter.efficiency" />
          </fieldset>
        );
      })}
      <Button
        variant="outlined"
        size="small"
        onClick={() => {
          const id = freshId(
            "inverter",
            inverters.map((i) => i.id),
          );
          const peak = alone.reduce((sum, a) => sum + a.peak_kwp, 0);
          const rated_kw = Math.max(Math.round((peak / 1.1) * 10) / 10, 1);
          const item = { id, name: `Inverter ${inverters.length + 1}`, rated_kw, assumed: ["rated_kw"] };
          void edit(
            make.together([
              make.put(path, item),
              ...alone.map((a) => make.set(`schemes/${scheme.id}/plant/arrays/${a.id}/inverter`, id)),
            ]),
          );
        }}
      >
        {alone.length > 0 ? `An inverter for ${alone.map((a) => a.name).join(", ")}` : "Another inverter"}
      </Button>
    </details>
  );
}
