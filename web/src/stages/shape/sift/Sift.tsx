import { Button, LinearProgress, Menu, MenuItem } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { client, got, ServerFault } from "../../../api/client";
import { useProjectId, useScheme } from "../../../api/hooks";
import { tell, useKept } from "../../../app/state";
import { Told } from "../../../app/Told";
import { both, round, said } from "../../../app/words";
import { Classes, ruleId } from "./Classes";
import { Decisions } from "./Decisions";
import { Differences, Found } from "./Found";
import {
  type Mend,
  oneOf,
  type Rule,
  type Settled,
  type Sift as SiftDocument,
  type Thing,
  useDecide,
  useHeld,
  useImport,
  useSettled,
  useThings,
} from "./imports";
import { type Look, Received3D } from "./Received3D";
import { Requirements } from "./Requirements";
import { Rooms } from "./Rooms";

const FORMATS: Record<string, string> = { ifc: "IFC", gbxml: "gbXML", obj: "OBJ", stl: "STL", gltf: "glTF" };
/** Units of length as gbXML spells them. */
const LENGTHS: Record<string, string> = {
  Kilometers: "km",
  Meters: "m",
  Centimeters: "cm",
  Millimeters: "mm",
  Miles: "miles",
  Yards: "yd",
  Feet: "ft",
  Inches: "in",
};

interface Named {
  one: string;
  many: string;
  title: string;
}
const ROOM: Named = { one: "room", many: "rooms", title: "Rooms" };
const MASS: Named = { one: "mass", many: "masses", title: "Masses" };

/** A file on its way to an energy model: what counts, what was found and mended, what it comes to. */
export default function Sift() {
  const { import: id = "" } = useParams();
  const state = useImport(id);
  const read = state.data?.status === "read";
  const held = useHeld(id, read);
  const units = useKept((s) => s.units);
  if (state.error)
    return (
      <Waiting title="This import cannot be opened">
        <Told text={state.error.message} />
      </Waiting>
    );
  if (!state.data) return null;
  if (state.data.status === "reading") return <Reading id={id} share={state.data.share} what={state.data.what} />;
  if (!read)
    return (
      <Waiting title={`“${state.data.file}” was not read`}>
        {said(state.data.fault?.message ?? "Reading was called off.", units)} Nothing of the project has changed.
      </Waiting>
    );
  return held.data ? <Sifting id={id} /> : null;
}

function Waiting({ title, children }: { title: string; children: React.ReactNode }) {
  const { state, scheme } = useScheme();
  return (
    <main className="work whole">
      <div style={{ maxWidth: 560, margin: "90px auto" }}>
        <h2>{title}</h2>
        <p>{children}</p>
        <a href={`/p/${state.id}/shape/${scheme.id}`}>Back to the shape</a>
      </div>
    </main>
  );
}

function Reading({ id, share, what }: { id: string; share: number; what: string }) {
  const project = useProjectId();
  const queries = useQueryClient();
  async function stop() {
    await got(
      client.POST("/api/projects/{project_id}/imports/{import_id}/cancel", {
        params: { path: { project_id: project, import_id: id } },
      }),
    );
    await queries.invalidateQueries({ queryKey: ["import", project, id] });
  }
  return (
    <main className="work whole">
      <div style={{ maxWidth: 460, margin: "110px auto" }}>
        <h2>Reading the file</h2>
        <LinearProgress variant="determinate" value={share * 100} aria-label="How far the file is read" />
        <p className="quiet" aria-live="polite">
          {what || "waiting"}, {Math.round(share * 100)}%
        </p>
        <Button variant="outlined" onClick={() => void stop()}>
          Stop reading
        </Button>
      </div>
    </main>
  );
}

/** Whether a room lies outdoors: as was decided, else as the file says. */
function liesOutdoors(sift: SiftDocument, thing: Thing): boolean {
  const mend = (sift.mends ?? []).find((m) => m.object === thing.id && m.field === "external");
  return mend ? mend.value === true : thing.external === true;
}

function Sifting({ id }: { id: string }) {
  const project = useProjectId();
  const units = useKept((s) => s.units);
  const { state: current, scheme } = useScheme();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const from = useImport(id).data;
  const held = useHeld(id, true).data;
  const sift = (held?.sift ?? {}) as SiftDocument;
  const decisions = JSON.stringify(sift);
  const things = useThings(id, decisions, true).data ?? [];
  const settled = useSettled(id, decisions, true);
  const decide = useDecide(id);
  /** What was decided, also while the server has not answered yet. */
  const meant = (decide.isPending && decide.variables) || sift;
  const [past, setPast] = useState<SiftDocument[]>([]);
  const [look, setLook] = useState<Look>("received");
  const [selected, setSelected] = useState<string[]>([]);
  const [alone, setAlone] = useState<string | null>(null);
  const [unseen, setUnseen] = useState<Set<string>>(new Set(["IfcSpace"]));
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [busy, setBusy] = useState(false);

  // what was decided last, also while the server has not answered yet
  const latest = useRef(sift);
  if (!decide.isPending) latest.current = sift;
  const change = useCallback(
    (next: (now: SiftDocument) => SiftDocument) => {
      const before = latest.current;
      setPast((p) => [...p, before]);
      latest.current = next(before);
      decide.mutate(latest.current);
    },
    [decide],
  );
  function rule(by: Rule["by"], value: string, keep: boolean) {
    change((now) => {
      const rules = (now.rules ?? []).filter((r) => !(r.by === by && r.value === value));
      return { ...now, rules: [...rules, { id: ruleId(now.rules ?? []), by, value, keep }] };
    });
  }
  function mend(values: { object: string; field: Mend["field"]; value: string | boolean }[]) {
    const keys = new Set(values.map((v) => `${v.object} ${v.field}`));
    change((now) => {
      const kept = (now.mends ?? []).filter((m) => !keys.has(`${m.object} ${m.field}`));
      const made = values.map((v, i) => ({ id: `mend-${kept.length + i + 1}-${Date.now() % 1e7}`, ...v }));
      return { ...now, mends: [...kept, ...made] };
    });
  }
  function undo() {
    const before = past[past.length - 1];
    if (!before) return;
    setPast(past.slice(0, -1));
    latest.current = before;
    decide.mutate(before);
  }
  const pick = useCallback((thing: string | null, add: boolean) => {
    setSelected((now) => (thing === null ? [] : add ? [...now.filter((t) => t !== thing), thing] : [thing]));
  }, []);
  const shows = useMemo(() => {
    return (t: Thing) => (alone ? t.class_name === alone : !unseen.has(t.class_name));
  }, [alone, unseen]);

  useEffect(() => {
    function press(e: KeyboardEvent) {
      if (e.target instanceof HTMLElement && e.target.matches("input, textarea, select")) return;
      if (e.key === "o") setLook((l) => (l === "received" ? "calculated" : l === "calculated" ? "both" : "received"));
    }
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);

  async function accept(as: "scheme" | "shape" | "project") {
    setMenu(null);
    setBusy(true);
    try {
      const went = await got(
        client.POST("/api/projects/{project_id}/imports/{import_id}/accept", {
          params: { path: { project_id: project, import_id: id } },
          body: {
            revision: current.revision,
            as,
            scheme: scheme.id,
            name: as === "shape" ? "" : (held?.project ?? ""),
          },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["project", went.project] });
      await queries.invalidateQueries({ queryKey: ["imports", project] });
      tell(
        [as === "project" ? "A new project was made of it." : "Taken over. Undo takes it back.", ...went.told].join(
          " ",
        ),
      );
      navigate(`/p/${went.project}/shape/${went.scheme}`);
    } catch (fault) {
      tell(fault instanceof ServerFault ? fault.message : String(fault), true);
    } finally {
      setBusy(false);
    }
  }

  if (!held || !from) return null;
  const answer = settled.data;
  const rooms = things.filter((t) => /Space|Solid/.test(t.class_name));
  const north = held.place.true_north_deg ?? 0;
  const mine = (current.given.place as { north_deg?: number } | undefined)?.north_deg;
  const apart = Math.abs(((north - (mine ?? north) + 540) % 360) - 180);
  const twoNorths = mine !== undefined && typeof held.place.true_north_deg === "number" && apart > 0.5;
  const verdicts = (answer?.verdicts ?? {}) as Record<string, [boolean, string]>;
  const judged = things.map((t) => (verdicts[t.id] ? { ...t, keep: verdicts[t.id][0], reason: verdicts[t.id][1] } : t));
  const chosen = judged.find((t) => t.id === selected[selected.length - 1]);
  const finding = answer?.findings.find((f) => f.object !== "" && f.object === chosen?.id && f.loops.length > 0);
  const holes = (answer?.findings ?? []).flatMap((f) => f.loops);
  const one = rooms.length > 0 && rooms.every((t) => t.class_name === "Solid") ? MASS : ROOM;
  const again = from.follows !== null && from.follows !== undefined;
  return (
    <main className="work sifting">
      <aside className="sheet classes" aria-label="Classes">
        <h2 title={held.file}>{held.file}</h2>
        <p className="quiet small">
          {FORMATS[held.format] ?? held.format}, lengths in {LENGTHS[held.length_unit] ?? held.length_unit}. Areas lie
          on {held.reference_plane}.
        </p>
        <Classes
          held={held}
          chosen={alone}
          unseen={unseen}
          onChoose={setAlone}
          onUnseen={(name) =>
            setUnseen((now) => {
              const next = new Set(now);
              if (!next.delete(name)) next.add(name);
              return next;
            })
          }
          onRule={rule}
        />
        <Decisions
          sift={sift}
          meets={held.meets}
          lost={answer?.lost_mends.length ?? 0}
          address={`/api/projects/${project}/imports/${id}/sift.json`}
          storeys={held.storeys as { id: string; name: string }[]}
          things={things}
          onChange={change}
        />
      </aside>
      <div className="canvas" data-look={look}>
        <div className="canvas-tools">
          <Button variant="outlined" disabled={past.length === 0} onClick={undo}>
            Undo decision
          </Button>
          {alone && (
            <Button variant="outlined" onClick={() => setAlone(null)}>
              Show all classes
            </Button>
          )}
          <span style={{ flex: 1 }} />
          <span className="switch" role="group" aria-label="What is drawn (O)">
            {(
              [
                ["received", "received"],
                ["calculated", "calculated"],
                ["both", "both"],
              ] as const
            ).map(([key, name]) => (
              <button key={key} type="button" aria-pressed={look === key} onClick={() => setLook(key)}>
                {name}
              </button>
            ))}
          </span>
          <Button
            variant="contained"
            disabled={!answer || answer.fault !== null || busy || settled.isFetching}
            onClick={(e) => (again ? void accept("shape") : setMenu(e.currentTarget))}
          >
            {again ? "Take over the changes" : "Take over"}
          </Button>
          <Menu anchorEl={menu} open={Boolean(menu)} onClose={() => setMenu(null)}>
            <MenuItem onClick={() => void accept("scheme")}>As a further scheme of this project</MenuItem>
            <MenuItem onClick={() => void accept("shape")}>In place of the shape of {scheme.name}</MenuItem>
            <MenuItem onClick={() => void accept("project")}>As a project of its own</MenuItem>
          </Menu>
        </div>
        <Received3D
          things={judged}
          geometry={answer?.geometry ?? null}
          look={look}
          north={north}
          selected={selected}
          shows={shows}
          holes={holes}
          hole={finding?.loops ?? []}
          onPick={pick}
        />
        {answer?.fault && (
          <div className="overlay remark fault" role="alert" style={{ left: 14, top: 58, maxWidth: 460 }}>
            {said(answer.fault.message, units)}
          </div>
        )}
      </div>
      <aside className="sheet" aria-label="Sheet">
        {answer?.report && <Sum answer={answer} units={units} one={one} />}
        {answer && (answer.told.length > 0 || twoNorths) && (
          <section data-section="told">
            <h3>In this project</h3>
            {twoNorths && (
              <fieldset className="rule small" data-ask="north">
                <legend>Which north counts?</legend>
                {(
                  [
                    ["project", `The project's, ${mine}°: what is imported is turned`],
                    ["file", `The file's, ${round(north, 1)}°: for all schemes of the project`],
                  ] as const
                ).map(([key, words]) => (
                  <label key={key} className="row" style={{ gap: 6 }}>
                    <input
                      type="radio"
                      name="north"
                      checked={(meant.north ?? "project") === key}
                      onChange={() => change((now) => ({ ...now, north: key }))}
                    />
                    {words}
                  </label>
                ))}
              </fieldset>
            )}
            {answer.told.map((sentence) => (
              <p key={sentence} className="small">
                {said(sentence, units)}
              </p>
            ))}
          </section>
        )}
        {chosen && (
          <section>
            <div className="spread">
              <h3>{[chosen.number, chosen.name].filter(Boolean).join(" ") || oneOf(chosen.class_name)}</h3>
              <span className="quiet small">{oneOf(chosen.class_name)}</span>
            </div>
            <p className="small">{chosen.keep ? "Counts for energy." : `Left out: ${chosen.reason}.`}</p>
            {!chosen.keep && /Space/.test(chosen.class_name) && (
              <label className="row small" style={{ gap: 6 }}>
                <input
                  type="checkbox"
                  checked={liesOutdoors(meant, chosen)}
                  onChange={(e) => mend([{ object: chosen.id, field: "external", value: e.target.checked }])}
                />
                It lies outdoors: walls towards it are outside walls
              </label>
            )}
            <Button variant="outlined" onClick={() => rule("object", chosen.id, !chosen.keep)}>
              {chosen.keep ? "Leave this out" : "Keep this"}
            </Button>
            <details>
              <summary>Properties in the file</summary>
              {Object.entries(chosen.properties).map(([name, value]) => (
                <div key={name} className="spread small">
                  <span className="quiet">{name}</span>
                  <span>{String(value)}</span>
                </div>
              ))}
              {Object.keys(chosen.properties).length === 0 && <p className="quiet small">None.</p>}
            </details>
          </section>
        )}
        {again && answer && <Differences answer={answer} onPick={(object) => pick(object, false)} />}
        <Found findings={answer?.findings} selected={selected} onPick={(object) => pick(object, false)} />
        {held.format === "ifc" && <Requirements id={id} onPick={(object) => pick(object, false)} />}
        <section>
          <h3>{one.title} in the file</h3>
          <Rooms
            rooms={judged.filter((t) => rooms.some((r) => r.id === t.id))}
            mends={(sift.mends ?? []) as Mend[]}
            selected={selected}
            onPick={pick}
            onMend={mend}
          />
          <p className="quiet small">Shift chooses several. What is written here stays when a newer file comes.</p>
        </section>
      </aside>
    </main>
  );
}

function Sum({ answer, units, one }: { answer: Settled; units: "SI" | "IP"; one: Named }) {
  const report = answer.report;
  if (!report) return null;
  const kept = report.spaces.filter((s) => s.kept);
  const area = kept.reduce((sum, s) => sum + s.floor_area_m2, 0);
  const walls = Object.values(report.orientation).reduce((s, o) => s + o.wall_gross_m2, 0);
  const windows = Object.values(report.orientation).reduce((s, o) => s + o.window_m2, 0);
  return (
    <section>
      <h2>
        {kept.length} {kept.length === 1 ? one.one : one.many}, {both(area, "m²", units, 0)}
      </h2>
      <p className="small">
        Outside walls {both(walls, "m²", units, 0)}, windows {both(windows, "m²", units, 0)} of them.
      </p>
      <details>
        <summary>What is taken from the file, what stays assumed</summary>
        <p className="small">Taken: {report.taken_from_file.join(", ")}.</p>
        <p className="small">Still assumed: {report.still_assumed.join(", ")}.</p>
      </details>
    </section>
  );
}
