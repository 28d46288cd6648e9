import { Button } from "@mui/material";
import type { Outcome } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useProject, useScheme, useTry } from "../../api/hooks";
import { useKept } from "../../app/state";
import { both, round } from "../../app/words";
import { NumberField } from "../../fields/Field";
import type { FieldName } from "../../fields/notes";
import { at } from "../../fields/paths";
import { perKwh } from "../use/schedule/kinds";
import { full, Tables } from "../use/schedule/ProfileBench";
import { lean, oneDay, type Schedule } from "../use/schedule/profile";
import { ScheduleEditor } from "../use/schedule/ScheduleEditor";

export const carriers = [
  { id: "electricity", name: "electricity", model: "CarrierFactors" },
  { id: "gas", name: "gas", model: "GasFactors" },
  { id: "district_heat", name: "district heat", model: "DistrictHeatFactors" },
  { id: "district_cold", name: "district cold", model: "DistrictColdFactors" },
  { id: "biomass", name: "biomass", model: "BiomassFactors" },
] as const;
export type CarrierId = (typeof carriers)[number]["id"];
export interface Hours {
  carrier: CarrierId;
  what: "price" | "carbon";
}

/** What is paid for each carrier, what it emits and takes of primary energy: of the project, the same for all schemes. */
export function Carriers({ outcome, onOpen }: { outcome?: Outcome; onOpen: (hours: Hours) => void }) {
  const units = useKept((s) => s.units);
  const totals = outcome?.totals;
  const kwh: Record<string, number> = totals?.carrier_kwh ?? {};
  const cost: Record<string, number> = totals?.carrier_cost ?? {};
  const peak: Record<string, number> = totals?.carrier_peak_kw ?? {};
  return (
    <details open>
      <summary>Carriers</summary>
      <div className="small quiet">Of the project: the same for all schemes, so that comparisons are fair.</div>
      {carriers.map((c) => (
        <details key={c.id} open={c.id === "electricity"} data-carrier={c.id}>
          <summary>
            {c.name}{" "}
            <span className="quiet">
              {(kwh[c.id] ?? 0) >= 0.5
                ? `${both(kwh[c.id], "kWh", units, 0)}, ${round(cost[c.id] ?? 0, 0)} €`
                : "none bought here"}
            </span>
          </summary>
          <Hourly carrier={c.id} what="price" onOpen={onOpen} />
          <NumberField
            path={`factors/${c.id}/price`}
            note={`${c.model}.price` as FieldName}
            label={`Price, ${c.name}`}
          />
          <NumberField path={`factors/${c.id}/standing_charge`} note={`${c.model}.standing_charge` as FieldName} />
          <NumberField path={`factors/${c.id}/demand_charge`} note={`${c.model}.demand_charge` as FieldName} />
          <Hourly carrier={c.id} what="carbon" onOpen={onOpen} />
          <NumberField
            path={`factors/${c.id}/carbon`}
            note={`${c.model}.carbon` as FieldName}
            label={`Carbon, ${c.name}`}
          />
          <NumberField path={`factors/${c.id}/primary`} note={`${c.model}.primary` as FieldName} />
          <NumberField
            path={`factors/${c.id}/primary_nonrenewable`}
            note={`${c.model}.primary_nonrenewable` as FieldName}
          />
          {(peak[c.id] ?? 0) > 0 && <div className="small quiet">Highest hour {both(peak[c.id], "kW", units, 1)}.</div>}
        </details>
      ))}
      <NumberField path="factors/export_price" note="Factors.export_price" />
    </details>
  );
}

const field = (what: Hours["what"]) => (what === "price" ? "price_hours" : "carbon_hours");

/** Whether a price or factor has bands, and the way to them. */
function Hourly({ carrier, what, onOpen }: Hours & { onOpen: (hours: Hours) => void }) {
  const factors = useProject().data?.completed.factors;
  const schedule = at(factors, `${carrier}/${field(what)}`) as Schedule | null | undefined;
  return (
    <div className="spread small" style={{ margin: "4px 0" }}>
      <span className="quiet">
        {schedule
          ? schedule.hourly
            ? `${what} by 8,760 values; the one below does not count`
            : `${what} in bands; the one below does not count`
          : `one ${what} at all hours`}
      </span>
      <button
        type="button"
        className="plain assumed"
        aria-label={`Bands of the ${what} of ${carrier.replace("_", " ")}`}
        onClick={() => onOpen({ carrier, what })}
      >
        bands
      </button>
    </div>
  );
}

/** Bands of a price or a carbon factor by hour and season, drawn as hours of use are. */
export function CarrierBench({ carrier, what, onClose }: Hours & { onClose: () => void }) {
  const { state, scheme } = useScheme();
  const edit = useEdit();
  const attempt = useTry(scheme.id);
  const units = useKept((s) => s.units);
  const path = `factors/${carrier}/${field(what)}`;
  const schedule = (at(state.completed, path) as Schedule | null) ?? null;
  const one = Number(at(state.completed, `factors/${carrier}/${what}`) ?? 0);
  const name = `${what === "price" ? "Price" : "Carbon"} of ${carriers.find((c) => c.id === carrier)?.name}`;
  const with_ = (change: (now: Schedule) => Schedule) => (now: { given: Record<string, unknown> }) =>
    make.set(path, lean(change(full((at(now.given, path) as Schedule | undefined) ?? schedule ?? oneDay(one)))));
  return (
    <div className="builder" role="region" aria-label={name}>
      <div className="row" style={{ alignItems: "baseline", flexWrap: "wrap" }}>
        <h2 style={{ flex: 1 }}>{name}, by hour and season</h2>
        <Tables onRead={(hourly) => edit(make.set(path, { hourly }))} />
        {schedule && (
          <Button variant="outlined" onClick={() => void edit(make.reset(path))}>
            One {what} at all hours
          </Button>
        )}
        <Button variant="contained" onClick={onClose}>
          Back to the model
        </Button>
      </div>
      <div className="small quiet" style={{ marginBottom: 8 }}>
        A day is a band of 24 values, and rules say on which days of the year it holds. Holidays and closures are those
        of the calendar in Use.
      </div>
      {schedule ? (
        <ScheduleEditor
          schedule={schedule}
          kind={perKwh(what, units)}
          name={name}
          others={[]}
          aside={null}
          onDraw={(change) => attempt(with_(change))}
          onChange={(change) => edit(with_(change))}
          onCopyTo={() => undefined}
        />
      ) : (
        <div className="unsaid-schedule">
          <p>One {what} at all hours.</p>
          <Button variant="contained" onClick={() => void edit(make.set(path, lean(oneDay(one))))}>
            Draw bands
          </Button>
        </div>
      )}
    </div>
  );
}
