import { Button, Menu, MenuItem, Tooltip } from "@mui/material";
import { useRef, useState } from "react";
import { client, got, ServerFault } from "../../../api/client";
import { make } from "../../../api/edits";
import { type ShelfProfile, useEdit, useProjectId, useScheme, useShelf, useTry } from "../../../api/hooks";
import { saveFrom } from "../../../app/files";
import { tell, useKept } from "../../../app/state";
import { freshId } from "../../../app/words";
import { keepOnEnter } from "../../../fields/enter";
import { type FieldName, notes, ownName } from "../../../fields/notes";
import { read, show, shownAs } from "../../../fields/paths";
import { Cell } from "../../skin/builder/Layers";
import { KeepButton } from "../../skin/OwnLibrary";
import { shares, temperatures } from "./kinds";
import { changed, copied, keptIn, lean, oneDay, type Schedule, type ScheduleName, schedules } from "./profile";
import { ScheduleEditor } from "./ScheduleEditor";

// biome-ignore format: a table
const numbers: Record<ScheduleName, FieldName[]> = {
  occupancy: ["Profile.person_area", "Profile.person_w", "Profile.person_moisture_g_h", "Profile.comfort_low_c", "Profile.comfort_high_c"],
  lighting: ["Profile.lighting_w_m2"],
  equipment: ["Profile.equipment_w_m2"],
  heating: ["Profile.heating_c", "Profile.heating_setback_c", "Profile.starts_before_h"],
  cooling: ["Profile.cooling_c", "Profile.cooling_setback_c", "Profile.starts_before_h"],
  fresh_air: ["Profile.fresh_air_ls_person", "Profile.fresh_air_ls_m2"],
  hot_water: ["Profile.hot_water_l_person_day"],
  airing: [],
};

/** A use profile on the bench: its hours, drawn day by day, and its densities. A shipped one becomes the project's own when it is changed. */
export function ProfileBench({
  id,
  onOpen,
  onClose,
}: {
  id: string;
  onOpen: (id: string) => void;
  onClose: () => void;
}) {
  const shelf = useShelf().data;
  const profile = shelf?.profiles.find((p) => p.id === id);
  if (!shelf || !profile) return <div className="builder quiet">This use profile is no longer in the library.</div>;
  return <Bench key={id} {...{ profile, onOpen, onClose }} taken={shelf.profiles.map((p) => p.id)} />;
}

function Bench({
  profile,
  taken,
  onOpen,
  onClose,
}: {
  profile: ShelfProfile;
  taken: string[];
  onOpen: (id: string) => void;
  onClose: () => void;
}) {
  const { scheme, state } = useScheme();
  const edit = useEdit();
  const attempt = useTry(scheme.id);
  const units = useKept((s) => s.units);
  const [which, setWhich] = useState<ScheduleName>("occupancy");
  const kind = schedules.find((s) => s.id === which) ?? schedules[0];
  const schedule = profile[which] as Schedule | null;
  const put = (part: Record<string, unknown>) => edit(changed(profile, () => part));
  const users = state.completed.schemes.filter((s) =>
    JSON.stringify([s.use?.profile, s.use?.zones, s.zones]).includes(`"${profile.id}"`),
  );

  async function duplicate() {
    const made = freshId(profile.id.replace(/-\d+$/, ""), taken);
    const item = { ...(keptIn(state.given, profile.id) ?? copied(profile)), id: made, name: `${profile.name}, own` };
    if (await edit(make.put("library/profiles", item))) onOpen(made);
  }
  /** The schedule after a change, as it stands when the edit's turn comes. */
  const withSchedule = (change: (now: Schedule) => Schedule) =>
    changed(profile, (now) => ({
      [which]: lean(change(full((now[which] as Schedule | undefined) ?? schedule ?? oneDay(1)))),
    }));

  const beside = (
    <div>
      <h4>{kind.name}</h4>
      {numbers[which].map((note) => (
        <Valued key={note} note={note} profile={profile} onPut={put} />
      ))}
      {which === "lighting" && <Control profile={profile} onPut={put} />}
      {(which === "heating" || which === "cooling") && (
        <label className="row small" style={{ marginTop: 8 }}>
          <input
            type="checkbox"
            checked={profile.conditioned}
            onChange={(e) => void put({ conditioned: e.target.checked })}
          />
          {notes["Profile.conditioned"].title}
        </label>
      )}
      {schedule && kind.none && (
        <p className="small">
          <button type="button" className="plain assumed" onClick={() => void put({ [which]: null })}>
            Without hours of its own
          </button>
          <span className="quiet">: {kind.none}</span>
        </p>
      )}
    </div>
  );

  return (
    <div className="builder" role="region" aria-label="Use profile">
      <div className="row" style={{ alignItems: "baseline", flexWrap: "wrap" }}>
        <input
          key={profile.name}
          className="title-input"
          aria-label="Name of the use profile"
          defaultValue={profile.name}
          maxLength={400}
          onBlur={(e) =>
            e.target.value.trim() && e.target.value !== profile.name && void put({ name: e.target.value.trim() })
          }
          onKeyDown={keepOnEnter}
        />
        <Button variant="outlined" onClick={() => void duplicate()}>
          Duplicate
        </Button>
        {profile.own && <KeepButton group="profiles" id={profile.id} />}
        {profile.own && profile.shipped && (
          <Button variant="outlined" onClick={() => void edit(make.remove(`library/profiles/${profile.id}`))}>
            As shipped again
          </Button>
        )}
        {profile.own && !profile.shipped && users.length === 0 && (
          <Button
            variant="outlined"
            onClick={async () => {
              if (await edit(make.remove(`library/profiles/${profile.id}`))) onClose();
            }}
          >
            Remove
          </Button>
        )}
        <Button variant="contained" onClick={onClose}>
          Back to the model
        </Button>
      </div>
      <div className="small quiet">
        {[
          profile.own
            ? profile.shipped
              ? "shipped, changed in this project"
              : "the project’s own"
            : "shipped; a change makes it this project’s own",
          profile.source,
          users.length ? `used in ${users.map((s) => s.name).join(", ")}` : "not used yet",
        ].join(" · ")}
      </div>
      <div className="row" style={{ margin: "10px 0 6px", flexWrap: "wrap", gap: 8 }}>
        <span className="switch" role="group" aria-label="Schedules">
          {schedules.map((s) => (
            <button
              key={s.id}
              type="button"
              aria-pressed={which === s.id}
              onClick={() => setWhich(s.id)}
              className={profile[s.id] ? "" : "unsaid"}
            >
              {s.name}
            </button>
          ))}
        </span>
        <Tables
          celsius={kind.celsius}
          saved={`profiles/${profile.id}/hours`}
          onRead={(hourly) => put({ [which]: { hourly } })}
        />
      </div>
      {schedule ? (
        <ScheduleEditor
          key={which}
          schedule={schedule}
          kind={kind.celsius ? temperatures(units) : shares}
          name={kind.name}
          others={schedules.filter((o) => o.id !== which && o.celsius === kind.celsius)}
          aside={beside}
          onDraw={(change) => attempt(withSchedule(change))}
          onChange={(change) => edit(withSchedule(change))}
          onCopyTo={(other) => put({ [other]: lean(schedule) })}
        />
      ) : (
        <div className="bench">
          <div className="unsaid-schedule">
            <p>
              No hours of its own: <span className="quiet">{kind.none}.</span>
            </p>
            <Button variant="contained" onClick={() => void put({ [which]: begun(profile, which) })}>
              Draw its hours
            </Button>
          </div>
          {beside}
        </div>
      )}
    </div>
  );
}

/** A schedule as it was given, with what it leaves out. */
export function full(schedule: Partial<Schedule>): Schedule {
  const rules = (schedule.rules ?? []).map((r) => ({ ...blank, ...r }));
  return { days: schedule.days ?? [], rules, hourly: schedule.hourly ?? null };
}
const blank = { weekdays: [], on: "any" as const, first: null, last: null };

/** The hours with which a schedule begins that had none: temperatures by the setpoints, shares by the days of people. */
function begun(profile: ShelfProfile, which: ScheduleName): Record<string, unknown> {
  const people = profile.occupancy as Schedule;
  const by = (value: (share: number) => number): Schedule =>
    people.hourly
      ? oneDay(value(1))
      : { ...people, days: people.days.map((d) => ({ ...d, values: d.values.map(value) })) };
  if (which === "heating") return lean(by((v) => (v > 0 ? profile.heating_c : profile.heating_setback_c)));
  if (which === "cooling") return lean(by((v) => (v > 0 ? profile.cooling_c : profile.cooling_setback_c)));
  return lean(by((v) => (which === "hot_water" ? v : v > 0 ? 1 : 0)));
}

/** A number of the profile. */
function Valued({
  note: name,
  profile,
  onPut,
}: {
  note: FieldName;
  profile: ShelfProfile;
  onPut: (part: Record<string, unknown>) => Promise<boolean>;
}) {
  const units = useKept((s) => s.units);
  const { state } = useScheme();
  const note = notes[name];
  const field = ownName(name);
  const shown = shownAs(note, units);
  const value = (profile as Record<string, unknown>)[field] as number | null;
  const kept = keptIn(state.given, profile.id);
  const given = kept !== undefined && field in kept && !(kept.assumed ?? []).includes(field);
  const odd = value !== null && note.usual && (value < note.usual[0] || value > note.usual[1]);
  return (
    <>
      <div className="field bench-field">
        <Tooltip title={note.help ?? ""} placement="left">
          <span className="name">{note.title}</span>
        </Tooltip>
        <span className="tags">
          {!given && value !== null && (
            <Tooltip title={`Assumed: ${profile.source || note.source}. Click to confirm it.`}>
              <button type="button" className="plain assumed" onClick={() => void onPut({ [field]: value })}>
                assumed
              </button>
            </Tooltip>
          )}
        </span>
        <Cell
          wide
          label={note.title}
          empty={value === null ? "as project" : undefined}
          value={value === null ? "" : show(value, shown)}
          onCommit={(text) => {
            if (!text.trim()) return value === null || note.assumed !== null ? undefined : onPut({ [field]: null });
            const number = read(text, shown);
            // what is no number goes out as it is, so that the answer says so
            return onPut({ [field]: Number.isNaN(number) ? text : number });
          }}
        />
        <span className="unit">{shown.unit}</span>
      </div>
      {odd && note.usual && (
        <div className="odd small">
          Unusual: {show(note.usual[0], shown)} to {show(note.usual[1], shown)} {shown.unit} is common.
        </div>
      )}
    </>
  );
}

const controls = [
  ["none", "do not follow daylight"],
  ["dimmed", "are dimmed"],
  ["switched", "are switched off"],
  ["stepped", "are switched off in steps"],
] as const;

/** How lights of the profile follow daylight, where the scheme leaves it to profiles. */
function Control({
  profile,
  onPut,
}: {
  profile: ShelfProfile;
  onPut: (part: Record<string, unknown>) => Promise<boolean>;
}) {
  const units = useKept((s) => s.units);
  const shown = shownAs(
    notes["LightFigures.enough_lx" as FieldName] ?? notes["LightControl.enough_lx" as FieldName],
    units,
  );
  return (
    <div style={{ marginTop: 10 }}>
      <div className="small quiet">Where a scheme leaves it to profiles, its lights</div>
      <select
        className="cell wide"
        aria-label="Lights of the profile"
        value={profile.lights.kind}
        onChange={(e) => void onPut({ lights: { ...profile.lights, kind: e.target.value } })}
      >
        {controls.map(([id, name]) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
      {profile.lights.kind !== "none" && (
        <div className="field bench-field">
          <span className="name">Enough daylight</span>
          <span />
          <Cell
            wide
            label="Enough daylight"
            value={show(profile.lights.enough_lx, shown)}
            onCommit={(t) => onPut({ lights: { ...profile.lights, enough_lx: read(t, shown) } })}
          />
          <span className="unit">{shown.unit}</span>
        </div>
      )}
    </div>
  );
}

/** Tables of 8,760 values, in and out. */
export function Tables({
  celsius = false,
  saved,
  onRead,
}: {
  celsius?: boolean;
  /** Where below the project all schedules are got as a table. */
  saved?: string;
  onRead: (values: number[]) => Promise<boolean>;
}) {
  const project = useProjectId();
  const units = useKept((s) => s.units);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [found, setFound] = useState<{ head: string; values: number[] }[]>([]);
  const [from, setFrom] = useState<HTMLElement | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const button = useRef<HTMLButtonElement>(null);

  async function take(one: File) {
    const body = new FormData();
    body.append("file", one);
    try {
      const columns = await got(
        client.POST("/api/projects/{project_id}/schedules/table", {
          params: { path: { project_id: project }, query: { fahrenheit: celsius && units === "IP" } },
          body: body as unknown as { file: string },
          bodySerializer: (b) => b as unknown as FormData,
        }),
      );
      if (columns.length > 1) {
        setFound(columns);
        setFrom(button.current);
      } else if (await onRead(columns[0].values)) tell(`8,760 values of “${columns[0].head}” are taken.`);
    } catch (fault) {
      tell(fault instanceof ServerFault ? fault.message : String(fault), true);
    }
  }
  const save = (ending: "csv" | "xlsx") => {
    setMenu(null);
    void saveFrom(`/api/projects/${project}/${saved}.${ending}?units=${units}`);
  };
  return (
    <>
      <input
        ref={file}
        type="file"
        accept=".csv,.txt,.xlsx"
        hidden
        aria-label="Table of 8,760 values"
        onChange={(e) => {
          const one = e.target.files?.[0];
          e.target.value = "";
          if (one) void take(one);
        }}
      />
      <Button ref={button} variant="outlined" size="small" onClick={(e) => setMenu(e.currentTarget)}>
        8,760 values
      </Button>
      <Menu anchorEl={menu} open={Boolean(menu)} onClose={() => setMenu(null)}>
        <MenuItem
          onClick={() => {
            setMenu(null);
            file.current?.click();
          }}
        >
          take from a table (CSV, XLSX)
        </MenuItem>
        {saved && <MenuItem onClick={() => save("csv")}>save all schedules as CSV</MenuItem>}
        {saved && <MenuItem onClick={() => save("xlsx")}>save all schedules as XLSX</MenuItem>}
      </Menu>
      <Menu anchorEl={from} open={Boolean(from)} onClose={() => setFrom(null)}>
        <MenuItem disabled>Which column?</MenuItem>
        {found.map((c) => (
          <MenuItem
            key={c.head}
            onClick={() => {
              setFrom(null);
              void onRead(c.values);
            }}
          >
            {c.head}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
