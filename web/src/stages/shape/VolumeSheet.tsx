import { Button } from "@mui/material";
import type { Volume } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useGeometry, useScheme } from "../../api/hooks";
import { ActsOn } from "../../app/Sheet";
import { tell, useKept, useView } from "../../app/state";
import { both, count, figure, freshId } from "../../app/words";
import { NumberField, TextField } from "../../fields/Field";
import { type FieldName, ownName } from "../../fields/notes";
import { at } from "../../fields/paths";
import { Typed } from "../../fields/Typed";
import { CornerTable } from "./CornerTable";
import { ReshapeSection } from "./Reshape";
import { RoofSection } from "./RoofSection";
import { ZoningSection } from "./ZoningSection";

/** The measures of each form. */
const parts: Partial<Record<Volume["form"]["kind"] & string, FieldName[]>> = {
  rectangle: ["Rectangle.length", "Rectangle.depth"],
  l: ["LForm.length", "LForm.depth", "LForm.wing_length", "LForm.wing_depth"],
  t: ["TForm.length", "TForm.depth", "TForm.bar_depth", "TForm.stem_length"],
  u: ["UForm.length", "UForm.depth", "UForm.wing_length", "UForm.base_depth"],
  courtyard: ["CourtForm.length", "CourtForm.depth", "CourtForm.court_length", "CourtForm.court_depth"],
};

/** A volume as it was given, without assumed values. */
interface GivenVolume {
  storeys: { id: string; name?: string; height_m?: number; zoning?: unknown }[];
  zoning?: unknown;
}

/** One volume: its form, storeys, roof and zones, and what it meets. */
export function VolumeSheet({ volume }: { volume: Volume }) {
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
    await edit(make.set(`${path}/storeys`, list));
  }

  function every(height: string) {
    const factor = units === "IP" ? 0.3048 : 1;
    const value = Number((Number(height.replace(",", ".")) * factor).toFixed(4));
    if (!(value > 0.3 && value <= 100)) return tell("A storey is 0.3 to 100 m high.", true);
    const edits = volume.storeys.map((s) => make.set(`${path}/storeys/${s.id}/height_m`, value));
    void edit(make.together(edits));
  }

  /** A smaller volume on the roof of this one, in its south-west corner. */
  async function stack() {
    const id = freshId(
      "volume",
      volumes.map((v) => v.id),
    );
    const rings = geometry?.outlines.find((o) => o.volume === volume.id)?.rings[0] ?? [];
    const inner = innerBox(volume);
    const made = {
      id,
      name: `Volume ${volumes.length + 1}`,
      form: { kind: "rectangle", length: inner.length, depth: inner.depth, assumed: ["length", "depth"] },
      x: volume.x ?? rings[0]?.[0] ?? 0,
      y: volume.y ?? rings[0]?.[1] ?? 0,
      turn_deg: volume.turn_deg ?? 0,
      base_level_m: Number(top.toFixed(3)),
      storeys: [{ ...own.storeys[0], id: "s0", name: undefined }],
      zoning: own.zoning,
    };
    if (await edit(make.put(`schemes/${scheme.id}/volumes`, made)))
      set({ selection: { kind: "volume", id }, level: made.base_level_m });
  }

  return (
    <>
      <ActsOn what={volume.name || volume.id} />
      <div className="small quiet">
        Volume {index + 1} of {volumes.length} · {count(volume.storeys.length, "storey")} ·{" "}
        {both(floor, "m²", units, 0)} gross floor
      </div>
      <section>
        <TextField path={`${path}/name`} label="Name" />
        {(parts[kind] ?? []).map((note) => (
          <NumberField
            key={note}
            path={`${path}/form/${ownName(note)}`}
            note={note}
            vary
            slider={["length", "depth"].includes(ownName(note))}
            form
          />
        ))}
        <NumberField path={`${path}/x`} note="Volume.x" />
        <NumberField path={`${path}/y`} note="Volume.y" />
        <NumberField path={`${path}/turn_deg`} note="Volume.turn_deg" />
        <NumberField path={`${path}/base_level_m`} note="Volume.base_level_m" />
        {"points" in volume.form && (
          <CornerTable path={`${path}/form/points`} points={volume.form.points} what="outline" />
        )}
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
              void edit(make.remove(path)).then((ok) => ok && tell("Volume removed. Undo brings it back."));
            }}
          >
            Remove
          </Button>
        </div>
      </section>
      <RoofSection volume={volume} />
      <ReshapeSection volume={volume} />
      <ZoningSection volume={volume} zones={geometry ? zones.length : undefined} />
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

function innerBox(volume: Volume): { length: number; depth: number } {
  const form = volume.form;
  if (form.kind === "l") return { length: form.wing_length, depth: Math.min(form.depth, form.wing_depth * 1.25) };
  if ("points" in form) return { length: 6, depth: 6 };
  const part = (n: number) => Number((n / 2).toFixed(1));
  return { length: part(form.length), depth: part(form.depth) };
}
