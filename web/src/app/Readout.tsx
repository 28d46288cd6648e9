import { useIsFetching } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { type Outcome, ServerFault } from "../api/client";
import { amountOf, type Figure, figureBy, figures, hourOf } from "../api/figures";
import { useGeometry, useOutcome, useScheme } from "../api/hooks";
import { EndUseBar } from "../charts/EndUseBar";
import { limitsByUse } from "./comfort";
import { useKept, useViewed } from "./state";
import { both, figure, hourText, inWords, round, said, scale } from "./words";

const Drawer = lazy(() => import("./Drawer"));

/** The strip that always shows the current yearly result, in words against the reference. */
export function Readout({ folded }: { folded: boolean }) {
  const { state, scheme } = useScheme();
  const units = useKept((s) => s.units);
  const { drawer, tried, underway, set } = useViewed("drawer", "tried", "underway", "set");
  const own = useOutcome(scheme.id);
  const reference = useOutcome(state.completed.reference).data;
  const fetching = useIsFetching({ queryKey: ["outcome", state.id, scheme.id] }) > 0;
  const working = fetching || underway > 0;
  const shown = tried?.scheme === scheme.id && tried.on === state.revision ? tried : null;
  const there = own.isError || own.data?.revision === state.revision;
  const trying = shown?.outcome && !(shown.stays && there) ? shown.outcome : null;
  const outcome = trying ?? (own.isError ? undefined : own.data);
  const base = scheme.id === state.completed.reference ? (trying ? own.data : undefined) : reference;
  const baseName =
    scheme.id === state.completed.reference
      ? "as it stands"
      : (state.completed.schemes.find((s) => s.id === state.completed.reference)?.name ?? "");
  const settled = own.data?.revision === state.revision && !working && !trying;

  return (
    <section className={`readout ${folded ? "folded" : ""}`} aria-label="Readout">
      {drawer && outcome && (
        <Suspense fallback={<div className="drawer" />}>
          <Drawer outcome={outcome} />
        </Suspense>
      )}
      <div className="readout-strip" role="presentation" onClick={() => set({ drawer: !drawer })}>
        {outcome ? (
          <Figures outcome={outcome} base={base} baseName={baseName} units={units} folded={folded} />
        ) : (
          <>
            <Waiting fault={own.error} project={state.id} scheme={scheme.id} />
            {working && <TakesLong scheme={scheme.id} />}
          </>
        )}
        <div className="state" data-settled={settled} data-revision={own.data?.revision}>
          {trying && !shown?.stays ? "trying" : working || trying ? "working" : own.isError ? "" : <>● current</>}
          <br />
          {own.data && !working && !own.isError && !folded ? `${round((trying ?? own.data).seconds, 2)} s` : ""}
          {working && outcome && !folded && <TakesLong scheme={scheme.id} before={own.data?.seconds} />}
        </div>
        <button type="button" className="plain opener" aria-label="Open the readout" aria-expanded={drawer}>
          {drawer ? "▾" : "▴"}
        </button>
      </div>
      <Spoken outcome={settled ? own.data : undefined} baseName={baseName} base={base} />
    </section>
  );
}

/** From so many zones on a year takes seconds. */
const LARGE_ZONES = 100;
/** Of a year on two processors, more where light is cast anew. */
const SECONDS_A_ZONE = 0.015;
const SOON_MS = 600;

/** What a large form takes, once one waits for it. */
function TakesLong({ scheme, before = 0 }: { scheme: string; before?: number }) {
  const zones = useGeometry(scheme).data?.zones.length ?? 0;
  const [late, setLate] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLate(true), SOON_MS);
    return () => clearTimeout(timer);
  }, []);
  if (!late || zones < LARGE_ZONES) return null;
  return (
    <span data-takes={zones}>
      {` ${zones} zones: some ${Math.max(2, Math.round(Math.max(before, zones * SECONDS_A_ZONE)))} s`}
    </span>
  );
}

function Waiting({ fault, project, scheme }: { fault: Error | null; project: string; scheme: string }) {
  const units = useKept((s) => s.units);
  if (!(fault instanceof ServerFault)) return <span className="quiet">working</span>;
  const stage = fault.fault.code === "no-climate" ? "place" : (fault.fault.stage ?? "shape");
  const short = fault.fault.code === "no-climate" ? "weather" : fault.fault.code === "no-form" ? "a form" : "";
  return (
    <span>
      {short ? (
        <>
          waiting for:{" "}
          <Link to={`/p/${project}/${stage}/${scheme}`} onClick={(e) => e.stopPropagation()}>
            {short}
          </Link>
        </>
      ) : (
        <Link to={`/p/${project}/${stage}/${scheme}`} onClick={(e) => e.stopPropagation()}>
          {said(fault.message, units)}
        </Link>
      )}
    </span>
  );
}

function Figures({
  outcome,
  base,
  baseName,
  units,
  folded,
}: {
  outcome: Outcome;
  base?: Outcome;
  baseName: string;
  units: "SI" | "IP";
  folded: boolean;
}) {
  const totals = outcome.totals;
  const other = base?.totals;
  const energy = figure(totals.eui_kwh_per_m2, "kWh/m²", units, 1);
  const most = Math.max(totals.eui_kwh_per_m2, other?.eui_kwh_per_m2 ?? 0) * 1.02;
  const than = other ? inWords(totals.eui_kwh_per_m2, other.eui_kwh_per_m2) : "";
  if (folded)
    return (
      <span>
        <b>
          {energy.text} {energy.unit}
        </b>{" "}
        a year {than && `· ${than}${than === "the same" ? " as" : " than"} ${baseName}`}
      </span>
    );
  return (
    <>
      <div style={{ flex: "none" }}>
        <span className="big" data-figure="eui" data-exact={totals.eui_kwh_per_m2}>
          {energy.text}
        </span>{" "}
        <span>{energy.unit}</span>
        <div className="small quiet" data-figure="eui-than">
          a year{than && ` · ${than}${than === "the same" ? " as" : " than"} ${baseName}`}
        </div>
      </div>
      <div style={{ flex: "1 1 240px", minWidth: 170, maxWidth: 380 }}>
        <EndUseBar
          totals={totals}
          most={most}
          factor={scale("kWh/m²", units).factor}
          ghost={other?.eui_kwh_per_m2 ?? undefined}
          ghostName={baseName}
        />
      </div>
      {figures
        .filter((f) => f.readout && tells(f, outcome, base))
        .map((f) =>
          f.id === "too_warm_h" ? (
            <Comfort key={f.id} comfort={outcome.comfort} base={base?.comfort} units={units} />
          ) : f.id === "covered_power_share" ? (
            <Cell
              key={f.id}
              name={f.title}
              text={`${round(totals.covered_power_share * 100, 0)}%`}
              than={`${round(totals.own_use_share * 100, 0)}% of own used here`}
              hint={f.how}
              foldable
            />
          ) : (
            <One key={f.id} of={f} outcome={outcome} base={base} units={units} />
          ),
        )}
    </>
  );
}

/** Whether a figure says something here, or in what it is held against. */
const tells = (of: Figure, ...held: (Outcome | undefined)[]) =>
  !of.needs || held.some((o) => o && amountOf(figureBy(of.needs), o) > 1);

/** A figure of the readout, against the reference's or with what is said of it. */
function One({ of, outcome, base, units }: { of: Figure; outcome: Outcome; base?: Outcome; units: "SI" | "IP" }) {
  return (
    <Cell
      name={of.title}
      text={both(amountOf(of, outcome), of.unit, units, of.digits)}
      than={
        base
          ? inWords(amountOf(of, outcome), amountOf(of, base))
          : of.hour.length > 0
            ? hourText(hourOf(of, outcome))
            : "a year"
      }
      hint={of.hour.length > 0 ? hourText(hourOf(of, outcome)) : of.how}
      foldable={of.readout === "wide"}
    />
  );
}

/** Hours too warm and too cold as one. */
function Comfort({
  comfort,
  base,
  units,
}: {
  comfort: Outcome["comfort"];
  base?: Outcome["comfort"];
  units: "SI" | "IP";
}) {
  return (
    <Cell
      name="Too warm / cold"
      text={`${round(comfort.too_warm_h, 0)} / ${round(comfort.too_cold_h, 0)} h`}
      than={
        base ? `warm ${inWords(comfort.too_warm_h, base.too_warm_h)}` : `of ${round(comfort.occupied_h, 0)} occupied`
      }
      hint={`when occupied; ${limitsByUse(comfort.limits, units)}`}
      foldable
    />
  );
}

function Cell({
  name,
  text,
  than,
  hint,
  foldable,
}: {
  name: string;
  text: string;
  than: string;
  hint: string;
  foldable: boolean;
}) {
  return (
    <div className={`figure ${foldable ? "foldable" : ""}`} title={hint}>
      <div className="small quiet">{name}</div>
      <div className="value">{text}</div>
      <div className="than quiet">{than}</div>
    </div>
  );
}

/** Read out only when the result has settled. */
function Spoken({ outcome, base, baseName }: { outcome?: Outcome; base?: Outcome; baseName: string }) {
  const [said, setSaid] = useState("");
  const last = useRef(-1);
  useEffect(() => {
    if (!outcome || outcome.revision === last.current) return;
    last.current = outcome.revision;
    const eui = outcome.totals.eui_kwh_per_m2;
    const other = base?.totals.eui_kwh_per_m2;
    setSaid(
      `${eui.toFixed(1)} kilowatt hours per square metre and year${other ? `, ${inWords(eui, other)} than ${baseName}` : ""}`,
    );
  }, [outcome, base, baseName]);
  return (
    <span className="sr" aria-live="polite">
      {said}
    </span>
  );
}
