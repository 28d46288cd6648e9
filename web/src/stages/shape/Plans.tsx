import { Button } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Edit, got, type Schemas, ServerFault } from "../../api/client";
import { useEdit, useGeometry, useProjectId, useScheme } from "../../api/hooks";
import { tell, useView } from "../../app/state";
import { freshId } from "../../app/words";
import { NumberField } from "../../fields/Field";
import { FileButton } from "../../fields/FileButton";
import { repeatUpward, roomEdits, STOREY_M, storeyNumber } from "../../scene/plan/trace";
import { toPlan, type Underlay, useDrawings } from "../../scene/plan/Underlays";

/** Plans to trace over: read, placed, scaled, their layers switched, rooms taken from them. */
export function Plans() {
  const project = useProjectId();
  const { scheme } = useScheme();
  const edit = useEdit();
  const set = useView((s) => s.set);
  const [busy, setBusy] = useState(false);
  const underlays = scheme.underlays ?? [];
  const drawings = useDrawings(underlays);

  async function add(file: File) {
    setBusy(true);
    const body = new FormData();
    body.append("file", file);
    const answer = await fetch(`/api/projects/${project}/drawings`, { method: "POST", body });
    const said = (await answer.json()) as Schemas["DrawingOut"] & { message?: string };
    setBusy(false);
    if (!answer.ok) return tell(said.message ?? `${file.name} was not taken.`, true);
    const id = freshId(
      "plan",
      underlays.map((u) => u.id),
    );
    const item = { id, drawing: said.drawing, name: said.name, metres: said.metres };
    if (await edit({ op: "put", path: `schemes/${scheme.id}/underlays`, item } as unknown as Edit)) {
      set({ plan: true, underlay: id });
      tell(
        said.guessed
          ? `The plan does not say its unit; ${said.metres === 1 ? "metres" : `${said.metres} m a unit`} was taken. Scale it by two points to be sure.`
          : `The plan is drawn in ${said.unit}.`,
      );
    }
  }
  return (
    <section data-section="plans">
      <div className="spread">
        <h3>Plans to trace</h3>
        <FileButton
          name="Lay a plan under"
          said={busy ? "Reading the plan" : undefined}
          accept=".dxf"
          busy={busy}
          onFile={(file) => void add(file)}
        />
      </div>
      {underlays.map((u) => (
        <PlanSheet key={u.id} underlay={u} drawing={drawings.get(u.drawing)} />
      ))}
    </section>
  );
}

function PlanSheet({ underlay, drawing }: { underlay: Underlay; drawing?: Schemas["Drawing"] }) {
  const project = useProjectId();
  const { scheme, state } = useScheme();
  const edit = useEdit();
  const set = useView((s) => s.set);
  const level = useView((s) => s.level);
  const geometry = useGeometry(scheme.id).data;
  const queries = useQueryClient();
  const path = `schemes/${scheme.id}/underlays/${underlay.id}`;
  const hidden = new Set(underlay.hidden ?? []);
  const rich = (drawing?.layers ?? []).filter((l) => l.closed > 0);
  const [layer, setLayer] = useState("");
  const chosen = layer || rich.find((l) => /room|raum|space|area/i.test(l.name))?.name || rich[0]?.name || "";

  function toggle(name: string) {
    const next = new Set(hidden);
    if (!next.delete(name)) next.add(name);
    void edit({ op: "set", path: `${path}/hidden`, value: [...next] } as Edit);
  }
  async function take() {
    try {
      const found = await got(
        client.POST("/api/projects/{project_id}/drawings/{digest}/rooms", {
          params: { path: { project_id: project, digest: underlay.drawing } },
          body: { layer: chosen },
        }),
      );
      const levels = (geometry?.zones ?? []).map((z) => z.level);
      const ground = state.completed.place?.ground_level_m ?? 0;
      const at = level ?? (levels.length ? Math.min(...levels) : ground);
      const rooms = found.rooms.map((r) => ({ ...r, points: r.points.map(([x, y]) => toPlan(underlay, x, y)) }));
      const made = roomEdits(scheme, rooms, at, storeyNumber(levels, at, ground), STOREY_M, true);
      if (await edit(made.edit)) tell([`${rooms.length} rooms were taken.`, ...found.remarks].join(" "));
      await queries.invalidateQueries({ queryKey: ["geometry", project] });
    } catch (fault) {
      tell(fault instanceof ServerFault ? fault.message : String(fault), true);
    }
  }
  return (
    <details data-plan={underlay.name} open>
      <summary>{underlay.name || underlay.id}</summary>
      <div className="row" style={{ flexWrap: "wrap", gap: 6, marginBottom: 6 }}>
        <Button variant="outlined" onClick={() => set({ plan: true, drawing: "scale", underlay: underlay.id })}>
          Scale by two points
        </Button>
        <Button variant="outlined" onClick={() => set({ plan: true, drawing: "place", underlay: underlay.id })}>
          Place by points
        </Button>
        <Button variant="outlined" onClick={() => void edit({ op: "remove", path } as Edit)}>
          Take away
        </Button>
      </div>
      {(["x", "y", "turn_deg", "metres", "level_m"] as const).map((k) => (
        <NumberField key={k} path={`${path}/${k}`} note={`Underlay.${k}`} />
      ))}
      {drawing && (
        <>
          <h4>Layers</h4>
          <div style={{ maxHeight: 150, overflow: "auto" }}>
            {drawing.layers.map((l) => (
              <label key={l.name} className="row small" style={{ gap: 6 }}>
                <input type="checkbox" checked={!hidden.has(l.name)} onChange={() => toggle(l.name)} />
                {l.name}
                <span className="quiet">
                  {l.segments.length / 4} lines{l.closed > 0 ? `, ${l.closed} closed` : ""}
                </span>
              </label>
            ))}
          </div>
          {rich.length > 0 && (
            <div className="row" style={{ gap: 6, marginTop: 8, flexWrap: "wrap" }}>
              <select
                className="text-box"
                aria-label="Layer with room outlines"
                value={chosen}
                onChange={(e) => setLayer(e.target.value)}
              >
                {rich.map((l) => (
                  <option key={l.name} value={l.name}>
                    {l.name}
                  </option>
                ))}
              </select>
              <Button variant="outlined" onClick={() => void take()}>
                Take its closed outlines as rooms
              </Button>
            </div>
          )}
        </>
      )}
    </details>
  );
}

/** Copies the rooms of the storey in view to the next one up. */
export function RepeatRooms() {
  const { scheme, state } = useScheme();
  const edit = useEdit();
  const { level, set } = useView();
  const geometry = useGeometry(scheme.id).data;
  const rooms = (geometry?.zones ?? []).filter((z) => z.sides.length > 0);
  if (rooms.length === 0) return null;
  const at = level ?? Math.min(...rooms.map((z) => z.level));
  const here = rooms.filter((z) => Math.abs(z.level - at) < 0.01);
  async function repeat() {
    const levels = (geometry?.zones ?? []).map((z) => z.level);
    const made = repeatUpward(scheme, at, state.completed.place?.ground_level_m ?? 0, levels);
    if (made && (await edit(made))) {
      tell(`${here.length} rooms were repeated one storey up.`);
      set({ level: at });
    }
  }
  return (
    <section>
      <Button variant="outlined" disabled={here.length === 0} onClick={() => void repeat()}>
        Repeat this storey's {here.length} rooms upward
      </Button>
    </section>
  );
}
