import { Button, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import type { Edit, Volume } from "../../api/client";
import { useEdit, useGeometry, useScheme } from "../../api/hooks";
import { Crumbs, ObjectList, Workbench } from "../../app/Sheet";
import { tell, useKept, useView } from "../../app/state";
import { both, figure, freshId } from "../../app/words";
import { ChoiceField, NumberField, TextField } from "../../fields/Field";
import { at } from "../../fields/paths";
import { Scene } from "../../scene/Scene";
import { FaceSheet } from "../skin/FaceSheet";
import { ExportButton, ImportButton, ImportList } from "./Imports";
import { Plans, RepeatRooms } from "./Plans";
import { AloneButton, OneRoom, ReshapeSection } from "./Reshape";
import { RoomList } from "./RoomList";
import { RoomSheet } from "./RoomSheet";

const forms = [
  ["rectangle", "Rectangle"],
  ["l", "L"],
  ["t", "T"],
  ["u", "U"],
  ["courtyard", "Courtyard"],
  ["polygon", "Free outline"],
] as const;

const classes: Record<string, string> = {
  rectangle: "Rectangle",
  l: "LForm",
  t: "TForm",
  u: "UForm",
  courtyard: "CourtForm",
};
const parts: Record<string, string[]> = {
  rectangle: ["length", "depth"],
  l: ["length", "depth", "wing_length", "wing_depth"],
  t: ["length", "depth", "bar_depth", "stem_length"],
  u: ["length", "depth", "wing_length", "base_depth"],
  courtyard: ["length", "depth", "court_length", "court_depth"],
};

/** Draw volumes, stack them, divide them into zones. */
export default function Shape() {
  const { scheme } = useScheme();
  const { selection, drawing, set } = useView();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [oneRoom, setOneRoom] = useState(false);
  const volumes = scheme.volumes ?? [];
  const geometry = useGeometry(scheme.id).data;
  const face = selection?.kind === "face" ? geometry?.faces.find((f) => f.id === selection.id) : undefined;
  const zone = selection?.kind === "zone" ? geometry?.zones.find((z) => z.id === selection.id) : undefined;
  const given = (scheme.zones ?? []).find((z) => z.id === (zone?.id ?? face?.zone));
  const volumeId = selection?.kind === "volume" ? selection.id : (face?.zone.split("/")[0] ?? zone?.volume);
  const volume = volumes.find((v) => v.id === volumeId) ?? (selection ? undefined : volumes[0]);

  function draw(kind: string) {
    setMenu(null);
    set({ drawing: kind, plan: true, selection: null });
  }

  const tools = (
    <>
      <Button variant="outlined" aria-pressed={!drawing} onClick={() => set({ drawing: null })}>
        Select
      </Button>
      <Button
        variant={drawing && forms.some(([k]) => k === drawing) ? "contained" : "outlined"}
        onClick={(e) => setMenu(e.currentTarget)}
      >
        {drawing && forms.some(([k]) => k === drawing)
          ? `Drawing: ${forms.find(([k]) => k === drawing)?.[1]}`
          : "Add volume"}
      </Button>
      <span className="switch" role="group" aria-label="Trace">
        {(["room", "window", "door"] as const).map((kind) => (
          <button
            key={kind}
            type="button"
            aria-pressed={drawing === kind}
            onClick={() => (drawing === kind ? set({ drawing: null }) : draw(kind))}
          >
            {kind}
          </button>
        ))}
      </span>
      <Menu anchorEl={menu} open={Boolean(menu)} onClose={() => setMenu(null)}>
        {forms.map(([kind, name]) => (
          <MenuItem key={kind} onClick={() => draw(kind)}>
            {name}
          </MenuItem>
        ))}
        <MenuItem
          onClick={() => {
            setMenu(null);
            setOneRoom(true);
          }}
        >
          One room, typed
        </MenuItem>
      </Menu>
      <OneRoom open={oneRoom} onClose={() => setOneRoom(false)} />
      <ImportButton />
      <ExportButton />
    </>
  );
  const empty = (
    <div
      className="overlay"
      style={{ left: "50%", top: "40%", transform: "translate(-50%,-50%)", padding: 20, textAlign: "center" }}
    >
      <h2>Nothing is drawn yet</h2>
      <p className="quiet">Draw the first volume in plan, type its lengths, or import one.</p>
      <div className="row" style={{ justifyContent: "center", flexWrap: "wrap" }}>
        {forms.map(([kind, name]) => (
          <Button key={kind} variant="outlined" onClick={() => draw(kind)}>
            {name}
          </Button>
        ))}
        <ImportButton />
      </div>
    </div>
  );
  return (
    <Workbench canvas={<Scene tools={tools} empty={empty} />}>
      <Crumbs />
      {face && <FaceSheet face={face} />}
      {zone && (
        <>
          <h2>{zone.name}</h2>
          <ZoneFigures id={zone.id} />
          {given && <RoomSheet room={given} key={given.id} />}
          <section>
            <AloneButton zone={zone.id} name={zone.name} />
          </section>
        </>
      )}
      {volume && !zone && !face && <VolumeSheet volume={volume} key={volume.id} />}
      <section>
        <NumberField
          path={`schemes/${scheme.id}/turn_deg`}
          note="Scheme.turn_deg"
          slider
          form
          vary
          label="Whole scheme turned"
        />
      </section>
      <Plans />
      <RepeatRooms />
      <ImportList />
      <RoomList />
      <ObjectList />
    </Workbench>
  );
}

/** A volume as it was given, without assumed values. */
interface GivenVolume {
  storeys: { id: string; name?: string; height_m?: number; zoning?: unknown }[];
  zoning?: unknown;
}

function VolumeSheet({ volume }: { volume: Volume }) {
  const { scheme, given } = useScheme();
  const own = at(given, `volumes/${volume.id}`) as GivenVolume;
  const edit = useEdit();
  const set = useView((s) => s.set);
  const units = useKept((s) => s.units);
  const geometry = useGeometry(scheme.id).data;
  const path = `schemes/${scheme.id}/volumes/${volume.id}`;
  const volumes = scheme.volumes ?? [];
  const index = volumes.findIndex((v) => v.id === volume.id);
  const heights = volume.storeys.map((s) => s.height_m ?? 3.5);
  const same = heights.every((h) => h === heights[0]);
  const zones = geometry?.zones.filter((z) => z.volume === volume.id) ?? [];
  const floor = zones.reduce((sum, z) => sum + z.gross_floor_m2, 0);
  const kind = volume.form.kind ?? "rectangle";
  const top = (volume.base_level_m ?? 0) + heights.reduce((a, b) => a + b, 0);

  async function storeys(count: number) {
    if (!Number.isInteger(count) || count < 1 || count > 200) return tell("A volume has 1 to 200 storeys.", true);
    const list = own.storeys.slice(0, count);
    const last = own.storeys[own.storeys.length - 1];
    while (list.length < count)
      list.push({
        ...last,
        id: freshId(
          "s",
          list.map((s) => String(s.id)),
        ),
        name: undefined,
      });
    await edit({ op: "set", path: `${path}/storeys`, value: list } as Edit);
  }

  function every(height: string) {
    const factor = units === "IP" ? 0.3048 : 1;
    const value = Number((Number(height.replace(",", ".")) * factor).toFixed(4));
    if (!(value > 0.3 && value <= 100)) return tell("A storey is 0.3 to 100 m high.", true);
    const edits = volume.storeys.map((s) => ({ op: "set", path: `${path}/storeys/${s.id}/height_m`, value }));
    void edit({ op: "together", edits } as Edit);
  }

  /** A smaller volume on the roof of this one, in its south-west corner. */
  async function stack() {
    const id = freshId(
      "volume",
      volumes.map((v) => v.id),
    );
    const rings = geometry?.outlines.find((o) => o.volume === volume.id)?.rings[0] ?? [];
    const inner = innerBox(kind, volume);
    const made = {
      id,
      name: `Volume ${volumes.length + 1}`,
      form: { kind: "rectangle", length: inner.length, depth: inner.depth },
      x: volume.x ?? rings[0]?.[0] ?? 0,
      y: volume.y ?? rings[0]?.[1] ?? 0,
      turn_deg: volume.turn_deg ?? 0,
      base_level_m: Number(top.toFixed(3)),
      storeys: [{ id: "s0", height_m: own.storeys[0].height_m }],
      zoning: own.zoning,
    };
    if (await edit({ op: "put", path: `schemes/${scheme.id}/volumes`, item: made } as unknown as Edit))
      set({ selection: { kind: "volume", id } });
  }

  return (
    <>
      <h2>{volume.name || volume.id}</h2>
      <div className="small quiet">
        Volume {index + 1} of {volumes.length} ·{" "}
        {volume.storeys.length === 1 ? "1 storey" : `${volume.storeys.length} storeys`} · {both(floor, "m²", units, 0)}{" "}
        gross floor
      </div>
      <section>
        <TextField path={`${path}/name`} label="Name" />
        {(parts[kind] ?? []).map((p) => (
          <NumberField
            key={p}
            path={`${path}/form/${p}`}
            note={`${classes[kind]}.${p}`}
            vary
            slider={p === "length" || p === "depth"}
            form
          />
        ))}
        {kind === "polygon" && (
          <p className="quiet small">
            Free outline with {"points" in volume.form ? volume.form.points.length : 0} corners.
          </p>
        )}
        <NumberField path={`${path}/x`} note="Volume.x" />
        <NumberField path={`${path}/y`} note="Volume.y" />
        <NumberField path={`${path}/turn_deg`} note="Volume.turn_deg" />
        <NumberField path={`${path}/base_level_m`} note="Volume.base_level_m" />
      </section>
      <section>
        <h3>Storeys</h3>
        <Typed
          label="Count"
          value={String(volume.storeys.length)}
          name="storey-count"
          onCommit={(t) => void storeys(Number(t))}
        />
        <Typed
          label="Height each"
          value={same ? String(Number(figure(heights[0], "m", units, 2).text)) : ""}
          placeholder="various"
          name="storey-height"
          unit={figure(1, "m", units, 1).unit}
          onCommit={every}
        />
        {!same &&
          volume.storeys.map((s, i) => (
            <NumberField
              key={s.id}
              path={`${path}/storeys/${s.id}/height_m`}
              note="Storey.height_m"
              label={`Storey ${i}`}
            />
          ))}
        <div className="row" style={{ marginTop: 8, flexWrap: "wrap" }}>
          <Button variant="outlined" onClick={() => void storeys(volume.storeys.length + 1)}>
            Repeat upward
          </Button>
          <Button variant="outlined" onClick={() => void stack()}>
            Stack a volume on it
          </Button>
          <Button
            variant="outlined"
            onClick={() => {
              set({ selection: null });
              void edit({ op: "remove", path } as Edit).then(
                (ok) => ok && tell("Volume removed. Undo brings it back."),
              );
            }}
          >
            Remove
          </Button>
        </div>
      </section>
      <ReshapeSection volume={volume} />
      <section>
        <div className="spread">
          <h3>Zones</h3>
          <span className="quiet small">{zones.length === 1 ? "1 zone" : `${zones.length} zones`}</span>
        </div>
        <ChoiceField
          path={`${path}/zoning/kind`}
          note="Zoning.kind"
          options={[
            { id: "one", name: "one per storey" },
            { id: "perimeter_core", name: "perimeter and core" },
          ]}
        />
        {volume.zoning?.kind === "perimeter_core" && (
          <NumberField path={`${path}/zoning/depth_m`} note="Zoning.depth_m" slider form />
        )}
      </section>
      <section>
        <div className="spread">
          <h3>Contact</h3>
          <span className="quiet small">worked out</span>
        </div>
        {(geometry?.contact as { volume: string; what: string; other: string; area_m2: number }[] | undefined)
          ?.filter((c) => c.volume === volume.id)
          .map((c) => (
            <div className="spread small" key={`${c.what}${c.other}`} data-contact={c.what}>
              <span>
                {words[c.what] ?? c.what} {c.other && <b>{volumes.find((v) => v.id === c.other)?.name || c.other}</b>}
              </span>
              <span>{both(c.area_m2, "m²", units, 0)}</span>
            </div>
          ))}
      </section>
    </>
  );
}

const words: Record<string, string> = {
  "ceiling outdoors": "Roof under the sky",
  "ceiling against": "Carries",
  "floor against": "Stands on",
  "floor ground": "Floor on ground",
  "floor outdoors": "Floor over outdoors",
  "wall outdoors": "Outside wall",
  "wall ground": "Wall against ground",
  "wall against": "Wall against",
  "ceiling ground": "Roof under ground",
};

function innerBox(kind: string, volume: Volume): { length: number; depth: number } {
  const form = volume.form as unknown as Record<string, number>;
  if (kind === "l")
    return { length: form.wing_length ?? 12, depth: Math.min(form.depth, (form.wing_depth ?? 12) * 1.25) };
  if (kind === "polygon") return { length: 6, depth: 6 };
  const part = (n: number) => Number((n / 2).toFixed(1));
  return { length: part(form.length), depth: part(form.depth) };
}

function Typed({
  label,
  value,
  unit = "",
  name,
  placeholder,
  onCommit,
}: {
  label: string;
  value: string;
  unit?: string;
  name: string;
  placeholder?: string;
  onCommit: (text: string) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  return (
    <div className="field">
      <label htmlFor={name}>{label}</label>
      <span />
      <input
        id={name}
        name={name}
        value={text ?? value}
        placeholder={placeholder}
        inputMode="decimal"
        onChange={(e) => setText(e.target.value)}
        onFocus={(e) => e.target.select()}
        onBlur={() => {
          if (text !== null && text !== value && text.trim()) onCommit(text);
          setText(null);
        }}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      <span className="unit">{unit}</span>
    </div>
  );
}

export function ZoneFigures({ id }: { id: string }) {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const zone = useGeometry(scheme.id).data?.zones.find((z) => z.id === id);
  if (!zone) return null;
  return (
    <section>
      <div className="spread">
        <span>Gross floor area</span>
        <span>{both(zone.gross_floor_m2, "m²", units, 1)}</span>
      </div>
      <div className="spread">
        <span>Level</span>
        <span>{both(zone.level, "m", units, 2)}</span>
      </div>
      <div className="spread">
        <span>Height, floor to floor</span>
        <span>{both(zone.height, "m", units, 2)}</span>
      </div>
    </section>
  );
}
