import { Button, MenuItem, Select } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Schemas } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useProjectId, useScheme } from "../../api/hooks";
import { endingsOf } from "../../api/readers";
import { pick, tell, useKept, useViewed } from "../../app/state";
import { both, freshId, months as monthNames } from "../../app/words";
import { ChoiceField, NumberField, TextField, YesNoField } from "../../fields/Field";
import { FileButton } from "../../fields/FileButton";
import { type FieldName, ownName } from "../../fields/notes";
import { at } from "../../fields/paths";
import type { SiteBox, SiteFootprint, SiteTree } from "../../scene/site";
import { Cell } from "../skin/builder/Layers";
import { usePlaceFiles } from "./files";

type Hidden = Schemas["HiddenOut"];
const groups = { boxes: "box", footprints: "footprint", trees: "tree" } as const;
type Group = keyof typeof groups;

/** What stands around: neighbours and trees, drawn or from a file, and what each hides from the building. */
export function Around() {
  const { state, scheme } = useScheme();
  const project = useProjectId();
  const { neighbours } = usePlaceFiles();
  const edit = useEdit();
  const { selection, drawing, set } = useViewed("selection", "drawing", "set");
  const units = useKept((s) => s.units);
  const [all, setAll] = useState(false);
  const place = state.completed.place;
  const things: { group: Group; id: string; name: string; counts: boolean }[] = (
    Object.keys(groups) as Group[]
  ).flatMap((group) =>
    ((place?.[group] ?? []) as (SiteBox | SiteFootprint | SiteTree)[]).map((t) => ({
      group,
      id: t.id,
      name: t.name || t.id,
      counts: t.counts ?? true,
    })),
  );
  const ask = useMutation({
    mutationFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/surroundings", {
          params: { path: { project_id: project, scheme_id: scheme.id } },
        }),
      ),
    onError: (fault) => tell(fault.message, true),
  });
  const told = ask.data;
  const hides = new Map<string, Hidden>((told?.things ?? []).map((t) => [`${t.kind}/${t.id}`, t]));
  const sorted = told
    ? [...things].sort((a, b) => (hides.get(key(b))?.kwh ?? 0) - (hides.get(key(a))?.kwh ?? 0))
    : things;
  const idle = told ? things.filter((t) => told.idle.includes(t.id) && t.counts) : [];
  const chosen = things.find((t) => selection && groups[t.group] === selection.kind && t.id === selection.id);

  async function addBox() {
    const boxes = place?.boxes ?? [];
    const id = freshId(
      "neighbour",
      things.map((t) => t.id),
    );
    const item = { id, name: `Neighbour ${boxes.length + 1}`, ...BOX, assumed: Object.keys(BOX) };
    if (await edit(make.put("place/boxes", item))) pick({ kind: "box", id });
  }
  async function leaveOut() {
    const edits = idle.map((t) => make.set(`place/${t.group}/${t.id}/counts`, false));
    if (await edit(make.together(edits)))
      tell(`${idle.length} left out; the year changes by ${both(told?.change_kwh_m2 ?? 0, "kWh/m²", units, 2)}.`);
  }
  const draw = (tool: string) => set({ drawing: drawing === tool ? null : tool, plan: true });

  return (
    <section>
      <div className="spread">
        <h3>Surroundings</h3>
        <span className="quiet small">
          {things.length - (place?.trees ?? []).length} neighbours, {(place?.trees ?? []).length} trees
        </span>
      </div>
      <div className="row" style={{ flexWrap: "wrap", margin: "6px 0" }}>
        <Button variant={drawing === "neighbour" ? "contained" : "outlined"} onClick={() => draw("neighbour")}>
          Draw a neighbour
        </Button>
        <Button variant="outlined" onClick={() => void addBox()}>
          Add box
        </Button>
        <Button variant={drawing === "tree" ? "contained" : "outlined"} onClick={() => draw("tree")}>
          Plant trees
        </Button>
        <FileButton
          name="Take a GeoJSON file"
          accept={endingsOf("surroundings")}
          onFile={(file) => void neighbours(file)}
        />
      </div>
      {sorted
        .filter((t, i) => all || i < 8 || t === chosen)
        .map((t) => {
          const hidden = hides.get(key(t));
          return (
            <div key={key(t)}>
              <div className="spread">
                <button
                  type="button"
                  className="plain"
                  aria-pressed={chosen?.id === t.id}
                  style={{ opacity: t.counts ? 1 : 0.55, fontWeight: chosen?.id === t.id ? 650 : undefined }}
                  onClick={() => pick(chosen?.id === t.id ? null : { kind: groups[t.group], id: t.id })}
                >
                  {t.name}
                  {!t.counts && " (left out)"}
                </button>
                {hidden && (
                  <span
                    className="small quiet"
                    data-hides={t.id}
                    title="Light on all outdoor faces over the year that comes in addition without it"
                  >
                    {hidden.kwh > 0 ? "hides" : "gives"} {both(Math.abs(hidden.kwh) / 1000, "MWh", units, 2)}
                  </span>
                )}
              </div>
              {chosen?.id === t.id && <Thing group={t.group} id={t.id} />}
            </div>
          );
        })}
      {sorted.length > 8 && (
        <button type="button" className="plain small assumed" onClick={() => setAll(!all)}>
          {all ? "fewer" : `${sorted.length - 8} more`}
        </button>
      )}
      {things.length > 0 && (
        <div className="row" style={{ margin: "8px 0 0", flexWrap: "wrap" }}>
          <Button variant="outlined" disabled={ask.isPending} onClick={() => ask.mutate()}>
            {ask.isPending ? "Working" : "What hides what"}
          </Button>
          {idle.length > 0 && (
            <Button variant="outlined" onClick={() => void leaveOut()}>
              Leave out {idle.length} that hide nothing
            </Button>
          )}
        </div>
      )}
      {told && (
        <div className="small quiet" style={{ marginTop: 4 }} data-idle={told.idle.length}>
          {told.idle.length === 0
            ? "Each of them hides something."
            : `Without the ${told.idle.length} that hide nothing the year changes by ${both(told.change_kwh_m2, "kWh/m²", units, 2)}.`}
        </div>
      )}
    </section>
  );
}

/** Where a box is put, and how large, until someone says, m. */
const BOX = { x: -30, y: 0, length: 20, depth: 15, height: 10 };

/** The fields of each kind of thing. */
const notesOf: Record<Group, { counts: FieldName; numbers: FieldName[] }> = {
  boxes: {
    counts: "Box.counts",
    numbers: ["Box.x", "Box.y", "Box.length", "Box.depth", "Box.height", "Box.turn_deg"],
  },
  footprints: { counts: "Footprint.counts", numbers: ["Footprint.height"] },
  trees: {
    counts: "Tree.counts",
    numbers: [
      "Tree.x",
      "Tree.y",
      "Tree.height",
      "Tree.crown",
      "Tree.leaf_transmittance",
      "Tree.bare_transmittance",
      "Tree.leaf_first",
      "Tree.leaf_last",
    ],
  },
};

const key = (t: { group: Group; id: string }) => `${t.group}/${t.id}`;

/** One thing around: its measures, whether it counts, a copy of it, or without it. */
function Thing({ group, id }: { group: Group; id: string }) {
  const { state } = useScheme();
  const edit = useEdit();
  const path = `place/${group}/${id}`;
  const { counts, numbers } = notesOf[group];
  const items = (at(state.given, `place/${group}`) ?? []) as { id: string }[];
  async function copy() {
    const one = items.find((t) => t.id === id) as Record<string, unknown> | undefined;
    if (!one) return;
    const made = freshId(
      groups[group],
      items.map((t) => t.id),
    );
    const aside =
      group === "footprints"
        ? { points: (one.points as { x: number; y: number }[]).map((p) => ({ ...p, x: p.x + 10 })) }
        : { x: Number(one.x) + 8 };
    if (await edit(make.put(`place/${group}`, { ...one, ...aside, id: made }))) pick({ kind: groups[group], id: made });
  }
  return (
    <div style={{ paddingLeft: 8, paddingBottom: 6 }}>
      <TextField path={`${path}/name`} label="Name" />
      {group === "trees" && (
        <ChoiceField
          path={`${path}/form`}
          note="Tree.form"
          options={["round", "column", "cone"].map((f) => ({ id: f, name: f }))}
        />
      )}
      {numbers.map((note) => (
        <NumberField key={note} path={`${path}/${ownName(note)}`} note={note} form />
      ))}
      <YesNoField path={`${path}/counts`} note={counts} />
      <div className="row">
        <Button variant="outlined" onClick={() => void copy()}>
          Copy beside
        </Button>
        <Button
          variant="outlined"
          onClick={() => {
            pick(null);
            void edit(make.remove(path));
          }}
        >
          Remove
        </Button>
      </div>
    </div>
  );
}

/** Reflectance of the ground month by month, such as with snow; the one value else. */
export function GroundByMonth() {
  const { state } = useScheme();
  const edit = useEdit();
  const place = state.completed.place;
  const months = place?.ground_by_month as number[] | null | undefined;
  const path = "place/ground_by_month";
  const even = Array.from({ length: 12 }, () => place?.ground_reflectance ?? 0.2);
  const snow = Array.from({ length: 12 }, (_, m) =>
    [11, 0, 1].includes(m) ? 0.6 : (place?.ground_reflectance ?? 0.2),
  );
  return (
    <div className="field wide">
      <span className="name">By month</span>
      <span />
      <Select
        fullWidth
        value={!months ? "one" : same(months, snow) ? "snow" : "given"}
        inputProps={{ "aria-label": "Ground reflectance by month" }}
        onChange={(e) =>
          void edit(
            e.target.value === "one"
              ? make.reset(path)
              : make.set(path, e.target.value === "snow" ? snow : (months ?? even)),
          )
        }
      >
        <MenuItem value="one">the same all year</MenuItem>
        <MenuItem value="snow">snow in December to February</MenuItem>
        <MenuItem value="given">month by month</MenuItem>
      </Select>
      {months && (
        <div className="months" style={{ gridColumn: "1 / -1", display: "grid", gap: 4 }}>
          {monthNames.map((name, m) => (
            <label key={name} className="small" style={{ display: "grid" }}>
              <span className="quiet">{name}</span>
              <Cell
                label={`Ground reflectance in ${name}`}
                value={String(months[m])}
                onCommit={(text) => {
                  const value = Number(text.replace(",", "."));
                  if (text.trim() && Number.isFinite(value))
                    void edit(
                      make.set(
                        path,
                        months.map((v, k) => (k === m ? value : v)),
                      ),
                    );
                }}
              />
            </label>
          ))}
        </div>
      )}
    </div>
  );
}

const same = (a: number[], b: number[]) => a.every((v, k) => Math.abs(v - b[k]) < 1e-9);
