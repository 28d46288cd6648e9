import { Button, MenuItem, Select } from "@mui/material";
import { useMemo, useState } from "react";
import { make } from "../../api/edits";
import { type ShelfProfile, useEdit, useGeometry, useOutcome, useScheme, useShelf } from "../../api/hooks";
import { ActsOn, Workbench } from "../../app/Sheet";
import { useKept, useViewed } from "../../app/state";
import { tone } from "../../app/tokens";
import { both, freshId } from "../../app/words";
import { ChoiceField, NumberField, YesNoField } from "../../fields/Field";
import { at } from "../../fields/paths";
import { Scene } from "../../scene/Scene";
import { AirPaths } from "./AirPaths";
import { DaylightSection } from "./DaylightSection";
import { MergeBar, type Merged } from "./MergeBar";
import { CalendarSection } from "./schedule/CalendarSection";
import { ProfileBench } from "./schedule/ProfileBench";
import type { Schedule } from "./schedule/profile";
import { UseRules, type ZoneUse } from "./UseRules";

const controls = [
  { id: "air", name: "the air" },
  { id: "operative", name: "air and surfaces" },
];
const openHours = [
  { id: "occupied", name: "someone is there" },
  { id: "always", name: "always" },
];

/** Who is inside, when, and what they need. */
export default function Use() {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const shelf = useShelf().data;
  const profile = shelf?.profiles.find((p) => p.id === scheme.use?.profile);
  const path = `schemes/${scheme.id}/use`;
  const [bench, setBench] = useState<string | null>(null);
  return (
    <Workbench
      canvas={bench ? <ProfileBench id={bench} onOpen={setBench} onClose={() => setBench(null)} /> : <Scene />}
    >
      <ActsOn what="Whole scheme" more={scheme.name} />
      <section>
        <ChoiceField path={`${path}/profile`} note="Use.profile" label="Profile" vary options={shelf?.profiles ?? []} />
        {profile && <Profile profile={profile} units={units} onOpen={() => setBench(profile.id)} />}
      </section>
      <section>
        <h3>Instead of the profile</h3>
        <NumberField path={`${path}/heating_c`} note="Use.heating_c" slider vary placeholder={profile?.heating_c} />
        <NumberField path={`${path}/cooling_c`} note="Use.cooling_c" slider vary placeholder={profile?.cooling_c} />
        <NumberField
          path={`${path}/lighting_w_m2`}
          note="Use.lighting_w_m2"
          slider
          vary
          placeholder={profile?.lighting_w_m2}
        />
        <NumberField
          path={`${path}/equipment_w_m2`}
          note="Use.equipment_w_m2"
          vary
          placeholder={profile?.equipment_w_m2}
        />
        <ChoiceField path={`${path}/control`} note="Use.control" options={controls} />
      </section>
      <details open>
        <summary>Outdoor air</summary>
        <NumberField path={`${path}/infiltration_ach`} note="Use.infiltration_ach" slider vary />
        <NumberField path={`${path}/permeability_m3_hm2`} note="Use.permeability_m3_hm2" vary />
        <NumberField path={`${path}/airing/openable_share`} note="Airing.openable_share" slider vary />
        {(scheme.use?.airing?.openable_share ?? 0) > 0 && (
          <>
            <NumberField path={`${path}/airing/opens_above_c`} note="Airing.opens_above_c" slider vary />
            <ChoiceField path={`${path}/airing/hours`} note="Airing.hours" options={openHours} />
            <YesNoField path={`${path}/airing/night_purge`} note="Airing.night_purge" vary />
            {scheme.use?.airing?.night_purge && (
              <NumberField path={`${path}/airing/night_down_to_c`} note="Airing.night_down_to_c" />
            )}
            <YesNoField path={`${path}/airing/two_sided`} note="Airing.two_sided" />
            <YesNoField path={`${path}/airing/beside_cooling`} note="Airing.beside_cooling" />
          </>
        )}
      </details>
      <DaylightSection />
      <details>
        <summary>Humidity</summary>
        <NumberField path={`${path}/humidity_least_pct`} note="Use.humidity_least_pct" />
        <NumberField path={`${path}/humidity_most_pct`} note="Use.humidity_most_pct" />
      </details>
      <CalendarSection />
      <UseRules profiles={shelf?.profiles ?? []} />
      <Zones profiles={shelf?.profiles ?? []} onOpen={setBench} />
      <AirPaths />
      {profile && (
        <p className="small quiet">
          Fresh air {both(profile.fresh_air_ls_person, "l/s", units, 1)} a person and{" "}
          {both(profile.fresh_air_ls_m2, "l/s·m²", units, 2)}. Source: {profile.source}.
        </p>
      )}
    </Workbench>
  );
}

function Profile({ profile, units, onOpen }: { profile: ShelfProfile; units: "SI" | "IP"; onOpen: () => void }) {
  const people = profile.occupancy as Schedule;
  const strips: [string, readonly number[]][] = [
    ...people.days.slice(0, 4).map((d): [string, number[]] => [d.name || d.id, d.values]),
    ...(["lighting", "equipment"] as const).map((k): [string, number[]] => [
      k === "lighting" ? "light" : k,
      (profile[k] as Schedule).days[0]?.values ?? [],
    ]),
  ];
  return (
    <div style={{ marginTop: 6 }}>
      {strips.map(([name, hours]) => (
        <div key={name} className="row" style={{ gap: 6 }}>
          <span className="small quiet named" style={{ width: 78 }} title={name}>
            {name}
          </span>
          <Strip hours={hours} name={name} />
        </div>
      ))}
      {people.hourly && <div className="small quiet">People by 8,760 values from a table.</div>}
      <div className="spread" style={{ marginTop: 4 }}>
        <span className="small quiet">
          {both(profile.person_area, "m²", units, 0)} a person · set back to{" "}
          {both(profile.heating_setback_c, "°C", units, 0)}
        </span>
        <Button variant="outlined" size="small" onClick={onOpen}>
          Open its hours
        </Button>
      </div>
    </div>
  );
}

/** A day painted as a strip: the darker, the more. */
function Strip({ hours, name }: { hours: readonly number[]; name: string }) {
  return (
    <svg viewBox="0 0 240 12" width="100%" height={13} aria-label={`${name} over the day`}>
      {hours.map((v, h) => (
        <rect
          key={h}
          x={h * 10}
          y={0}
          width={9.4}
          height={12}
          fill={tone.tide}
          fillOpacity={0.08 + 0.85 * Math.min(v, 1)}
        />
      ))}
    </svg>
  );
}

/** All zones in one table; a profile of their own where they have one. */
function Zones({ profiles, onOpen }: { profiles: ShelfProfile[]; onOpen: (profile: string) => void }) {
  const { scheme } = useScheme();
  const edit = useEdit();
  const { selection, set } = useViewed("selection", "set");
  const answer = useOutcome(scheme.id);
  const outcome = answer.data;
  const rows = outcome?.zones ?? [];
  const geometry = useGeometry(scheme.id).data;
  const reasons = useMemo(() => new Map((geometry?.zones ?? []).map((z) => [z.id, z.profile_by])), [geometry]);
  const rules = (scheme.use?.zones ?? []) as ZoneUse[];
  /** Why a zone has its profile, in words. */
  const why = (id: string) => {
    const by = reasons.get(id) ?? "";
    const rule = rules.find((r) => `by rule ${r.id}` === by);
    return rule ? `by the rule for ${geometry?.rules[rule.id]}` : by;
  };
  const [ticked, setTicked] = useState<string[]>([]);
  const there = ticked.filter((id) => rows.some((r) => r.id === id));
  const groups = (scheme.merged ?? []) as Merged[];

  function choose(zone: string, part: Partial<ZoneUse>) {
    const path = `schemes/${scheme.id}/use/zones`;
    void edit((state) => {
      const now = (at(state.given, path) ?? []) as ZoneUse[];
      const own = now.find((z) => z.zone === zone);
      const taken = now.map((z) => z.id);
      return make.put(path, { ...clean(own), id: own?.id ?? freshId("zone", taken), zone, ...part });
    });
  }
  /** Takes what was chosen at a zone away again; what else was said of it stays. */
  function letGo(zone: string) {
    const path = `schemes/${scheme.id}/use/zones`;
    void edit((state) => {
      const now = (at(state.given, path) ?? []) as ZoneUse[];
      const left = now.flatMap((z) => {
        if (z.zone !== zone || !z.profile) return [z];
        const { profile: _, ...rest } = z;
        return Object.keys(rest).length > 2 ? [rest] : [];
      });
      return make.set(path, left);
    });
  }
  return (
    <section>
      <ActsOn what="Single zones" />
      <table className="plain-table">
        <tbody>
          {rows.map((r) => (
            <tr key={r.id} style={{ background: selection?.id === r.id ? "#E3EEEC" : undefined }}>
              <td style={{ width: 22 }}>
                <input
                  type="checkbox"
                  aria-label={`Choose ${r.name}`}
                  checked={there.includes(r.id)}
                  onChange={(e) => setTicked(e.target.checked ? [...there, r.id] : there.filter((id) => id !== r.id))}
                />
              </td>
              <td>
                <button type="button" className="plain" onClick={() => set({ selection: { kind: "zone", id: r.id } })}>
                  {r.name}
                </button>
                <div className="small quiet">
                  {why(r.id)}
                  {" · "}
                  <button
                    type="button"
                    className="plain assumed"
                    aria-label={`Hours of ${r.name}`}
                    onClick={() => onOpen(r.profile)}
                  >
                    hours
                  </button>
                  {why(r.id) === "by hand" && (
                    <>
                      {" · "}
                      <button type="button" className="plain assumed" onClick={() => letGo(r.id)}>
                        let go
                      </button>
                    </>
                  )}
                </div>
              </td>
              <td style={{ width: 132 }}>
                <Select
                  value={r.profile}
                  fullWidth
                  onChange={(e) => choose(r.id, { profile: e.target.value })}
                  inputProps={{ "aria-label": `Profile of ${r.name}` }}
                >
                  {profiles.map((p) => (
                    <MenuItem key={p.id} value={p.id}>
                      {p.name}
                    </MenuItem>
                  ))}
                </Select>
              </td>
              <td style={{ width: 58 }}>
                <button
                  type="button"
                  className="plain small"
                  aria-pressed={!r.conditioned}
                  aria-label={`${r.name}: ${r.conditioned ? "held, heated and cooled" : "floats"}; change it`}
                  title={
                    r.conditioned ? "Heated and cooled; click to let it float" : "Floats; click to heat and cool it"
                  }
                  onClick={() => choose(r.id, { conditioned: !r.conditioned })}
                >
                  {r.conditioned ? "held" : "floats"}
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <MergeBar chosen={there} groups={groups} onDone={() => setTicked([])} />
      {rows.length === 0 && (
        <p className="quiet small">
          {answer.isPending ? "working" : "Zones appear when there is a form and a climate."}
        </p>
      )}
    </section>
  );
}

function clean(item: ZoneUse | undefined): Record<string, unknown> {
  return Object.fromEntries(Object.entries(item ?? {}).filter(([k, v]) => v !== null && k !== "gains_radiant_share"));
}
