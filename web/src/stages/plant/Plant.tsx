import { Button } from "@mui/material";
import { useState } from "react";
import type { Outcome } from "../../api/client";
import { make } from "../../api/edits";
import { figureBy } from "../../api/figures";
import { useEdit, useGeometry, useOutcome, useScheme } from "../../api/hooks";
import { kindNames } from "../../api/systems";
import { ActsOn, Workbench } from "../../app/Sheet";
import { useChosen, useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { both, freshId } from "../../app/words";
import { ChoiceField, NumberField, TextField, YesNoField } from "../../fields/Field";
import { Scene } from "../../scene/Scene";
import { Cell } from "../skin/builder/Layers";
import { CarrierBench, Carriers, carriers, type Hours } from "./Carriers";
import { EnergyFlow } from "./EnergyFlow";
import { SystemSheet } from "./SystemSheet";
import { FromSun } from "./sun/FromSun";
import { SunBench } from "./sun/SunBench";
import { WorthBench, WorthSummary } from "./Worth";

/** What meets the demand, what the sun gives, prices and emission factors. */
export default function Plant() {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const outcome = useOutcome(scheme.id).data;
  const totals = outcome?.totals;
  const path = `schemes/${scheme.id}/plant`;
  const [bench, show] = useState<"flow" | "sun" | "worth" | null>(null);
  const [hours, setHours] = useState<Hours | null>(null);
  const staged = outcome?.systems ?? [];
  const simple =
    ["seasonal", undefined].includes(scheme.plant?.main?.ready) ||
    (scheme.plant?.systems ?? []).some((s) => s.ready === "seasonal");
  return (
    <Workbench
      canvas={
        hours ? (
          <CarrierBench {...hours} onClose={() => setHours(null)} />
        ) : bench === "worth" && outcome ? (
          <WorthBench outcome={outcome} onClose={() => show(null)} />
        ) : bench === "sun" && outcome ? (
          <SunBench outcome={outcome} onClose={() => show(null)} />
        ) : bench === "flow" && outcome && staged.length > 0 ? (
          <EnergyFlow outcome={outcome} onClose={() => show(null)} />
        ) : (
          <Scene />
        )
      }
    >
      <ActsOn what="Whole scheme" more={scheme.name} />
      <SystemSheet path={`${path}/main`} label="System" />
      {staged.map((s) => (
        <Sources key={s.id} system={s} units={units} />
      ))}
      {staged.length > 0 && (
        <Button
          variant="outlined"
          size="small"
          sx={{ mt: 0.5, mb: 1 }}
          onClick={() => show(bench === "flow" ? null : "flow")}
        >
          {bench === "flow" ? "Back to the model" : "See where the energy goes"}
        </Button>
      )}
      <ZoneSystems path={`${path}/systems`} />
      {simple && (
        <>
          <details open>
            <summary>Heat</summary>
            {totals && (
              <Way
                from={totals.heating_demand_kwh}
                to={totals.energy_kwh.heating ?? 0}
                name={scheme.plant?.heating?.carrier ?? "electricity"}
                units={units}
              />
            )}
            <ChoiceField
              path={`${path}/heating/carrier`}
              note="HeatSource.carrier"
              label="Carrier"
              options={carriers.filter((c) => c.id !== "district_cold")}
            />
            <NumberField path={`${path}/heating/efficiency`} note="HeatSource.efficiency" vary slider />
            <NumberField path={`${path}/heating/most_w_m2`} note="HeatSource.most_w_m2" vary />
          </details>
          <details open>
            <summary>Cold</summary>
            {totals && (
              <Way
                from={totals.cooling_demand_kwh + totals.latent_demand_kwh}
                to={totals.energy_kwh.cooling ?? 0}
                name="electricity"
                units={units}
              />
            )}
            <NumberField path={`${path}/cooling/efficiency`} note="CoolSource.efficiency" vary slider />
            <NumberField path={`${path}/cooling/most_w_m2`} note="CoolSource.most_w_m2" vary />
            <NumberField path={`${path}/cooling/coil_c`} note="CoolSource.coil_c" />
            {totals && totals.latent_demand_kwh >= 0.5 && (
              <div className="small quiet">
                {both(totals.latent_demand_kwh, "kWh", units, 0)} a year of this dries the air that is cooled.
              </div>
            )}
          </details>
          <details>
            <summary>Hot water</summary>
            <ChoiceField
              path={`${path}/hot_water/carrier`}
              note="HotWater.carrier"
              label="Carrier"
              options={carriers.filter((c) => c.id !== "district_cold")}
            />
            <NumberField path={`${path}/hot_water/efficiency`} note="HotWater.efficiency" />
            <NumberField path={`${path}/hot_water/rise_k`} note="HotWater.rise_k" />
          </details>
        </>
      )}
      <details>
        <summary>Ventilation</summary>
        {simple && <NumberField path={`${path}/ventilation/heat_recovery`} note="Ventilation.heat_recovery" vary />}
        <YesNoField path={`${path}/ventilation/follows_people`} note="Ventilation.follows_people" vary />
        {!simple && <NumberField path={`${path}/hot_water/rise_k`} note="HotWater.rise_k" />}
        {simple && (
          <>
            <NumberField path={`${path}/ventilation/economiser`} note="Ventilation.economiser" vary />
            <NumberField path={`${path}/ventilation/fan_w_ls`} note="Ventilation.fan_w_ls" />
            <NumberField path={`${path}/ventilation/pump_share`} note="Ventilation.pump_share" />
          </>
        )}
      </details>
      <FromSun outcome={outcome} onOpen={() => show("sun")} />
      {outcome && <Bought outcome={outcome} units={units} />}
      {outcome && <WorthSummary outcome={outcome} onOpen={() => show("worth")} />}
      <ActsOn what="Whole project" more="all schemes" />
      <Carriers outcome={outcome} onOpen={setHours} />
      <details>
        <summary>Comfort limits</summary>
        <NumberField path="factors/too_warm_c" note="Factors.too_warm_c" />
        <NumberField path="factors/too_cold_c" note="Factors.too_cold_c" />
      </details>
    </Workbench>
  );
}

/** What is bought a year of each carrier that there is. */
function Bought({ outcome, units }: { outcome: Outcome; units: "SI" | "IP" }) {
  const of = figureBy("carrier_kwh");
  const kwh: Record<string, number> = outcome.totals.carrier_kwh;
  const some = carriers.filter((c) => (kwh[c.id] ?? 0) >= 0.5);
  return (
    <div className="small quiet" title={of.how}>
      {of.title} a year:{" "}
      {some.length > 0
        ? some.map((c) => `${both(kwh[c.id], of.unit, units, of.digits)} of ${c.name}`).join(", ")
        : "nothing"}
      .
    </div>
  );
}

/** What the sources of a system give a year for what is bought, and hours in which they fall short. */
function Sources({ system, units }: { system: Outcome["systems"][number]; units: "SI" | "IP" }) {
  const all = [
    ...system.heat.map((one) => ({ ...one, what: "" })),
    ...system.water.map((one) => ({ ...one, what: "hot water, " })),
    ...system.cold.map((one) => ({ ...one, what: "" })),
  ].filter((one) => one.given_kwh >= 0.5);
  return (
    <div className="small" style={{ margin: "4px 0" }} data-system={system.id}>
      {all.map((one, k) => (
        <div key={k} className="spread" style={{ gap: 8 }}>
          <span>
            {one.what}
            {kindNames[one.kind] ?? one.kind}
          </span>
          <span className="quiet" title="rated power, what it gives a year, and that per energy bought">
            {both(one.rated_kw, "kW", units, 0)} · {both(one.given_kwh, "kWh", units, 0)} ·{" "}
            {one.seasonal_factor === null ? "–" : one.seasonal_factor.toFixed(2)}
          </span>
        </div>
      ))}
      {system.short_heat_h + system.short_cold_h > 0 && (
        <div className="quiet">
          Not met: heat in {system.short_heat_h} h, cold in {system.short_cold_h} h.
        </div>
      )}
    </div>
  );
}

/** Systems that some zones have of their own. */
function ZoneSystems({ path }: { path: string }) {
  const { scheme } = useScheme();
  const edit = useEdit();
  const chosen = useChosen();
  const geometry = useGeometry(scheme.id).data;
  const systems = scheme.plant?.systems ?? [];
  const zones = chosen.filter((id) => geometry?.zones.some((z) => z.id === id));
  return (
    <details open={systems.length > 0}>
      <summary>
        Systems of single zones <span className="quiet">{systems.length || "none"}</span>
      </summary>
      {systems.map((s) => (
        <fieldset key={s.id} className="rule" data-zone-system={s.id}>
          <legend className="spread">
            <span>{s.name || s.id}</span>
            <button
              type="button"
              className="plain"
              aria-label={`Remove the system ${s.name || s.id}`}
              onClick={() => void edit(make.remove(`${path}/${s.id}`))}
            >
              ×
            </button>
          </legend>
          <TextField path={`${path}/${s.id}/name`} label="Name" />
          <label className="small">
            zones, * stands for anything
            <Cell
              wide
              label={`Zones of ${s.name || s.id}`}
              value={(s.zones ?? []).join(", ")}
              onCommit={(text) => {
                const list = text
                  .split(",")
                  .map((t) => t.trim())
                  .filter(Boolean);
                return list.length > 0 ? edit(make.set(`${path}/${s.id}/zones`, list)) : undefined;
              }}
            />
          </label>
          <SystemSheet path={`${path}/${s.id}`} label={`System of ${s.name || s.id}`} />
        </fieldset>
      ))}
      <Button
        variant="outlined"
        size="small"
        onClick={() => {
          const id = freshId(
            "system",
            systems.map((s) => s.id),
          );
          const item = {
            id,
            name: `System ${systems.length + 2}`,
            ready: "district-radiators",
            zones: zones.length > 0 ? zones : ["*"],
          };
          void edit(make.put(path, item));
        }}
      >
        {zones.length > 0
          ? `Another system for ${zones.length === 1 ? "the chosen zone" : `${zones.length} chosen zones`}`
          : "Another system for some zones"}
      </Button>
    </details>
  );
}

/** From demand to carrier, as a small diagram. */
function Way({ from, to, name, units }: { from: number; to: number; name: string; units: "SI" | "IP" }) {
  const most = Math.max(from, to, 1);
  const tall = (v: number) => Math.max((v / most) * 34, 1.5);
  const middle = 24;
  return (
    <svg viewBox="0 0 300 52" width="100%" aria-label={`Demand ${from.toFixed(0)} kWh, bought ${to.toFixed(0)} kWh`}>
      <path
        d={`M70 ${middle - tall(from) / 2}C150 ${middle - tall(from) / 2} 150 ${middle - tall(to) / 2} 228 ${middle - tall(to) / 2}V${middle + tall(to) / 2}C150 ${middle + tall(to) / 2} 150 ${middle + tall(from) / 2} 70 ${middle + tall(from) / 2}Z`}
        fill="#BFDAD6"
      />
      <text x={0} y={middle} fontSize={11} fill={tone.ink}>
        demand
      </text>
      <text x={0} y={middle + 13} fontSize={11} fill={tone.quiet}>
        {both(from, "kWh", units, 0)}
      </text>
      <text x={234} y={middle} fontSize={11} fill={tone.ink}>
        {name.replace("_", " ")}
      </text>
      <text x={234} y={middle + 13} fontSize={11} fill={tone.quiet}>
        {both(to, "kWh", units, 0)}
      </text>
    </svg>
  );
}
