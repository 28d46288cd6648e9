import { Button } from "@mui/material";
import { useMemo, useState } from "react";
import type { Face, Geometry, Scheme } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useGeometry, useScheme, useShelf } from "../../api/hooks";
import { asSchemeEdit, type Different, differEdit, differing } from "../../app/overrides";
import { type Selection, selectAll, tell, useChosen, useKept, useView, useViewed } from "../../app/state";
import { both, count, figure, freshId } from "../../app/words";
import { at } from "../../fields/paths";
import { Typed } from "../../fields/Typed";
import { heldOf, lieOf } from "../../scene/plan/held";
import { floorGone, mergeEdit } from "../use/merging";

/** Several things at once: what they are together, and what can be done to all of them. */
export function ChosenSheet() {
  const { scheme } = useScheme();
  const kind = useView((s) => s.selection?.kind);
  const chosen = useChosen();
  const geometry = useGeometry(scheme.id).data;
  if (!geometry || !kind) return null;
  const count = `${chosen.length} ${{ face: "faces", zone: "zones", volume: "volumes", box: "boxes", footprint: "neighbours", tree: "trees", sensor: "sensors", array: "arrays" }[kind]}`;
  return (
    <>
      <h2>{count} selected</h2>
      <Names kind={kind} ids={chosen} />
      {kind === "face" && <Faces faces={geometry.faces.filter((f) => chosen.includes(f.id))} />}
      {kind === "zone" && <Zones ids={chosen} geometry={geometry} />}
      {kind === "volume" && <Volumes ids={chosen} />}
    </>
  );
}

/** So many are named at once. */
const NAMED = 60;

/** What is selected, by name: pressed, it is selected alone; × takes it out. */
function Names({ kind, ids }: { kind: Selection["kind"]; ids: string[] }) {
  const { scheme } = useScheme();
  const geometry = useGeometry(scheme.id).data;
  const names = useMemo(() => namesOf(kind, ids, scheme, geometry), [kind, ids, scheme, geometry]);
  if (names.length === 0) return null;
  return (
    <details data-section="selected">
      <summary>What is selected</summary>
      {names.slice(0, NAMED).map(({ id, name }) => (
        <div key={id} className="spread small">
          <button type="button" className="plain named" title={name} onClick={() => selectAll(kind, [id])}>
            {name}
          </button>
          <button
            type="button"
            className="plain"
            aria-label={`Take ${name} out of the selection`}
            onClick={() =>
              selectAll(
                kind,
                ids.filter((other) => other !== id),
              )
            }
          >
            ×
          </button>
        </div>
      ))}
      {names.length > NAMED && <div className="small quiet">and {names.length - NAMED} more</div>}
    </details>
  );
}

function namesOf(kind: Selection["kind"], ids: string[], scheme: Scheme, geometry: Geometry | undefined) {
  const zones = new Map(geometry?.zones.map((z) => [z.id, z.name]));
  const volumes = new Map((scheme.volumes ?? []).map((v) => [v.id, v.name || v.id]));
  const faces = new Map(
    kind === "face"
      ? geometry?.faces.map((f) => [f.id, `${[f.kind, f.orientation].filter(Boolean).join(" ")}, ${zones.get(f.zone)}`])
      : [],
  );
  const known = kind === "zone" ? zones : kind === "volume" ? volumes : kind === "face" ? faces : undefined;
  return ids.flatMap((id) => {
    const name = known?.get(id);
    return name ? [{ id, name }] : [];
  });
}

function Sum({ name, value, unit }: { name: string; value: number; unit: "m²" | "m³" }) {
  const units = useKept((s) => s.units);
  return (
    <div className="spread">
      <span>{name}</span>
      <span>{both(value, unit, units, 1)}</span>
    </div>
  );
}

function Faces({ faces }: { faces: Face[] }) {
  const { scheme, given } = useScheme();
  const edit = useEdit();
  const shelf = useShelf().data;
  const sum = (of: (f: Face) => number) => faces.reduce((total, f) => total + of(f), 0);
  const able = faces.filter((f) => f.boundary !== "zone" && differing(given, scheme, f));
  const glazed = faces.filter((f) => f.edge && !f.side && f.boundary === "outdoors" && f.kind === "wall");
  const elements = new Set(faces.map((f) => f.element));
  const fitting = (shelf?.constructions ?? []).filter((c) => elements.has(c.element as Face["element"]));

  const put = (on: Face[], part: Different) => void edit(differEdit(scheme, on, part));
  const asScheme = () => void edit(asSchemeEdit(scheme, able));
  const glass = sum((f) => f.window_area);
  const wall = sum((f) => (f.kind === "wall" ? f.area : 0));
  return (
    <section>
      <Sum name="External area" value={sum((f) => f.area)} unit="m²" />
      <Sum name="Windows" value={glass} unit="m²" />
      {glazed.length > 0 && (
        <Typed
          label="Glazing ratio of all"
          name="chosen-ratio"
          value={wall > 0 ? ((glass / wall) * 100).toFixed(0) : ""}
          unit="%"
          onCommit={(text) => {
            const ratio = Number(text.replace(",", ".")) / 100;
            if (!(ratio >= 0 && ratio <= 0.95)) return tell("A glazing ratio is 0 to 95%.", true);
            put(glazed, { glazing_ratio: Number(ratio.toFixed(4)) });
          }}
        />
      )}
      {able.length > 0 && (
        <div className="row" style={{ gap: 6, flexWrap: "wrap", marginTop: 8 }}>
          <select
            className="text-box"
            aria-label="Beyond all of them"
            value=""
            onChange={(e) => put(able, { boundary: e.target.value === "found" ? null : e.target.value })}
          >
            <option value="" disabled>
              Beyond them
            </option>
            <option value="found">as found</option>
            <option value="outdoors">outdoors</option>
            <option value="adiabatic">adiabatic, a party wall</option>
            <option value="ground">ground</option>
          </select>
          <select
            className="text-box"
            aria-label="Construction of all"
            value=""
            style={{ maxWidth: 190 }}
            onChange={(e) => put(able, { construction: e.target.value })}
          >
            <option value="" disabled>
              Construction
            </option>
            {fitting.map((c) => (
              <option key={c.id} value={c.id}>
                {c.name}
              </option>
            ))}
          </select>
          <Button variant="outlined" onClick={asScheme}>
            As the scheme
          </Button>
        </div>
      )}
    </section>
  );
}

function Zones({ ids, geometry }: { ids: string[]; geometry: Geometry }) {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const profiles = useShelf().data?.profiles ?? [];
  const zones = geometry.zones.filter((z) => ids.includes(z.id));
  const rooms = (scheme.zones ?? []).filter((z) => ids.includes(z.id));

  function use(profile: string) {
    const path = `schemes/${scheme.id}/use/zones`;
    void edit((state) => {
      const now = (at(state.given, path) ?? []) as { id: string; zone: string }[];
      const taken = now.map((z) => z.id);
      const edits = ids.map((zone) => {
        const before = now.find((z) => z.zone === zone);
        const id = before?.id ?? freshId("zone", taken);
        taken.push(id);
        return make.put(path, { ...before, id, zone, profile });
      });
      return make.together(edits);
    });
  }
  async function join() {
    const made = mergeEdit(scheme, ids, zones);
    const gone = floorGone(geometry, ids);
    if (!(await edit(made.edit))) return;
    selectAll("zone", [made.id]);
    if (gone > 0.05) tell(`Open from storey to storey: ${both(gone, "m²", units, 1)} of floor between them go.`);
  }
  async function remove() {
    const edits = rooms.map((r) => make.remove(`schemes/${scheme.id}/zones/${r.id}`));
    selectAll("zone", []);
    if (await edit(make.together(edits))) tell(`${count(rooms.length, "room")} removed. Undo brings them back.`);
  }
  return (
    <section>
      <Sum name="Gross floor area" value={zones.reduce((s, z) => s + z.gross_floor_m2, 0)} unit="m²" />
      <Sum name="Gross volume" value={zones.reduce((s, z) => s + z.gross_volume_m3, 0)} unit="m³" />
      <div className="row" style={{ gap: 6, flexWrap: "wrap", marginTop: 8 }}>
        <select className="text-box" aria-label="Use of all" value="" onChange={(e) => use(e.target.value)}>
          <option value="" disabled>
            Use of all
          </option>
          {profiles.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </select>
        <Button variant="outlined" onClick={() => void join()}>
          Make them one zone
        </Button>
        {rooms.length === ids.length && (
          <Button variant="outlined" onClick={() => void remove()}>
            Remove the rooms
          </Button>
        )}
      </div>
    </section>
  );
}

function Volumes({ ids }: { ids: string[] }) {
  const { scheme } = useScheme();
  const geometry = useGeometry(scheme.id).data;
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const [by, setBy] = useState({ x: "0", y: "0" });
  const factor = units === "IP" ? 0.3048 : 1;
  const number = (text: string) => Number(text.replace(",", ".")) * factor;
  const volumes = (scheme.volumes ?? []).filter((v) => ids.includes(v.id));
  const heights = volumes.flatMap((v) => v.storeys.map((s) => s.height_m ?? 3.5));
  const same = heights.every((h) => h === heights[0]);

  function move() {
    const to = { x: number(by.x), y: number(by.y) };
    if (!Number.isFinite(to.x) || !Number.isFinite(to.y)) return tell("Type how far to move them, as numbers.", true);
    const edits = ids.flatMap((id) => heldOf(scheme, geometry, id)?.moving(to) ?? []);
    void edit(lieOf(scheme, geometry).kept(make.together(edits)));
    setBy({ x: "0", y: "0" });
  }
  function every(text: string) {
    const value = Number((Number(text.replace(",", ".")) * factor).toFixed(4));
    if (!(value > 0.3 && value <= 100)) return tell("A storey is 0.3 to 100 m high.", true);
    const edits = volumes.flatMap((v) =>
      v.storeys.map((s) => make.set(`schemes/${scheme.id}/volumes/${v.id}/storeys/${s.id}/height_m`, value)),
    );
    void edit(make.together(edits));
  }
  async function remove() {
    selectAll("volume", []);
    const edits = ids.map((id) => make.remove(`schemes/${scheme.id}/volumes/${id}`));
    if (await edit(make.together(edits))) tell(`${ids.length} volumes removed. Undo brings them back.`);
  }
  return (
    <section>
      <Typed
        label="Height of each storey"
        name="chosen-height"
        value={same ? String(Number(figure(heights[0], "m", units, 2).text)) : ""}
        placeholder="various"
        unit={figure(1, "m", units, 1).unit}
        onCommit={every}
      />
      <div className="row" style={{ gap: 6, marginTop: 8 }}>
        {(["x", "y"] as const).map((k) => (
          <input
            key={k}
            className="text-box"
            aria-label={k === "x" ? "Move east by" : "Move north by"}
            style={{ width: 64, textAlign: "right" }}
            value={by[k]}
            inputMode="decimal"
            onChange={(e) => setBy({ ...by, [k]: e.target.value })}
          />
        ))}
        {units === "IP" ? "ft" : "m"}
        <Button variant="outlined" onClick={move}>
          Move east, north
        </Button>
      </div>
      <div className="row" style={{ marginTop: 8 }}>
        <Button variant="outlined" onClick={() => void remove()}>
          Remove all
        </Button>
      </div>
    </section>
  );
}

/** Selects what is of the same kind as what is selected. */
export function SameSection() {
  const { scheme } = useScheme();
  const { selection } = useViewed("selection");
  const geometry = useGeometry(scheme.id).data;
  const offers = useMemo(() => (geometry && selection ? likes(geometry, selection) : []), [geometry, selection]);
  if (!selection || offers.length === 0) return null;
  return (
    <details data-section="same">
      <summary>Select the same</summary>
      <div className="row" style={{ gap: 6, flexWrap: "wrap" }}>
        {offers.map((o) => (
          <Button key={o.name} variant="outlined" onClick={() => selectAll(selection.kind, o.ids)}>
            {o.name} · {o.ids.length}
          </Button>
        ))}
      </div>
    </details>
  );
}

interface Offer {
  name: string;
  ids: string[];
}

function likes(geometry: Geometry, selection: { kind: string; id: string }): Offer[] {
  const offers: Offer[] = [];
  if (selection.kind === "face") {
    const own = geometry.faces.find((f) => f.id === selection.id);
    if (!own) return [];
    const alike = geometry.faces.filter((f) => f.kind === own.kind && f.boundary === own.boundary);
    const add = (name: string, of: (f: Face) => unknown) =>
      offers.push({
        name,
        ids: first(
          own.id,
          alike.filter((f) => of(f) === of(own)).map((f) => f.id),
        ),
      });
    add(`${own.kind}s, ${own.boundary === "zone" ? "between zones" : own.boundary}`, () => true);
    if (own.orientation) add(`facing ${own.orientation}`, (f) => f.orientation);
    add("same construction", (f) => f.construction);
    const level = new Map(geometry.zones.map((z) => [z.id, z.level]));
    add("same storey", (f) => level.get(f.zone));
    add("same zone", (f) => f.zone);
  }
  if (selection.kind === "zone") {
    const own = geometry.zones.find((z) => z.id === selection.id);
    if (!own) return [];
    const add = (name: string, of: (z: Geometry["zones"][number]) => unknown) =>
      offers.push({
        name,
        ids: first(
          own.id,
          geometry.zones.filter((z) => of(z) === of(own)).map((z) => z.id),
        ),
      });
    add("same use", (z) => z.profile);
    add("same storey", (z) => z.level);
    add("all zones", () => true);
  }
  if (selection.kind === "volume") {
    const ids = geometry.outlines.map((o) => o.volume);
    offers.push({ name: "all volumes", ids: first(selection.id, ids) });
  }
  return offers.filter((o) => o.ids.length > 1);
}

/** The same ids with one of them first. */
const first = (id: string, ids: string[]) => [id, ...ids.filter((other) => other !== id)];
