import type { Outcome } from "../../api/client";
import { figureBy } from "../../api/figures";
import { useOutcome, useScheme } from "../../api/hooks";
import { Workbench } from "../../app/Sheet";
import { useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { both } from "../../app/words";
import { ChoiceField, NumberField, YesNoField } from "../../fields/Field";
import { Scene } from "../../scene/Scene";

const carriers = [
  { id: "electricity", name: "electricity" },
  { id: "gas", name: "gas" },
  { id: "district_heat", name: "district heat" },
  { id: "biomass", name: "biomass" },
] as const;

/** What meets the demand, the panels on the roof, prices and emission factors. */
export default function Plant() {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const outcome = useOutcome(scheme.id).data;
  const totals = outcome?.totals;
  const path = `schemes/${scheme.id}/plant`;
  return (
    <Workbench canvas={<Scene />}>
      <h2>Plant</h2>
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
        <ChoiceField path={`${path}/heating/carrier`} note="HeatSource.carrier" label="Carrier" options={carriers} />
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
        <ChoiceField path={`${path}/hot_water/carrier`} note="HotWater.carrier" label="Carrier" options={carriers} />
        <NumberField path={`${path}/hot_water/efficiency`} note="HotWater.efficiency" />
        <NumberField path={`${path}/hot_water/rise_k`} note="HotWater.rise_k" />
      </details>
      <details>
        <summary>Ventilation</summary>
        <NumberField path={`${path}/ventilation/heat_recovery`} note="Ventilation.heat_recovery" vary />
        <YesNoField path={`${path}/ventilation/follows_people`} note="Ventilation.follows_people" vary />
        <NumberField path={`${path}/ventilation/economiser`} note="Ventilation.economiser" vary />
        <NumberField path={`${path}/ventilation/fan_w_ls`} note="Ventilation.fan_w_ls" />
        <NumberField path={`${path}/ventilation/pump_share`} note="Ventilation.pump_share" />
      </details>
      <details open>
        <summary>Photovoltaics</summary>
        <NumberField path={`${path}/photovoltaics/roof_share`} note="Photovoltaics.roof_share" vary slider />
        <NumberField path={`${path}/photovoltaics/tilt_deg`} note="Photovoltaics.tilt_deg" vary />
        <NumberField path={`${path}/photovoltaics/azimuth_deg`} note="Photovoltaics.azimuth_deg" vary />
        <NumberField path={`${path}/photovoltaics/module_efficiency`} note="Photovoltaics.module_efficiency" />
        <NumberField path={`${path}/photovoltaics/losses`} note="Photovoltaics.losses" />
        <NumberField path={`${path}/photovoltaics/inverter_efficiency`} note="Photovoltaics.inverter_efficiency" />
        {totals && totals.module_area_m2 > 0 && (
          <div className="small quiet">
            {both(totals.module_area_m2, "m²", units, 0)} of modules make{" "}
            {both(totals.generation_kwh.used + totals.generation_kwh.exported, "kWh", units, 0)} a year;{" "}
            {both(totals.generation_kwh.used, "kWh", units, 0)} is used here, the rest exported.
          </div>
        )}
      </details>
      {outcome && <Bought outcome={outcome} units={units} />}
      <details>
        <summary>Prices and emission factors</summary>
        <div className="small quiet">Of the project: the same for all schemes, so that comparisons are fair.</div>
        {carriers.map((c) => (
          <div key={c.id}>
            <NumberField path={`factors/${c.id}/price`} note={`${classOf[c.id]}.price`} label={`Price, ${c.name}`} />
            <NumberField path={`factors/${c.id}/carbon`} note={`${classOf[c.id]}.carbon`} label={`Carbon, ${c.name}`} />
          </div>
        ))}
        <NumberField path="factors/export_price" note="Factors.export_price" />
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

const classOf = {
  electricity: "CarrierFactors",
  gas: "GasFactors",
  district_heat: "DistrictHeatFactors",
  biomass: "BiomassFactors",
} as const;

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
