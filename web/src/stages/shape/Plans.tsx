import { Button } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, ServerFault } from "../../api/client";
import { useEdit, useGeometry, useProjectId, useScheme } from "../../api/hooks";
import { tell, useView } from "../../app/state";
import { count } from "../../app/words";
import { LayUnder } from "../../scene/plan/LayUnder";
import { repeatUpward, roomEdits, UNTYPED } from "../../scene/plan/trace";
import { type Drawing, type Laid, toPlan } from "../../scene/plan/Underlays";
import { useWorking } from "../../scene/storeys";

/** Plans to trace over, and rooms taken from them. */
export function Plans() {
  const { scheme } = useScheme();
  return (
    <LayUnder group={`schemes/${scheme.id}/underlays`} title="Plans to trace" button="Lay a plan under">
      {(laid, drawing) => <TakeRooms laid={laid} drawing={drawing} />}
    </LayUnder>
  );
}

/** The closed outlines of a layer become rooms at once. */
function TakeRooms({ laid, drawing }: { laid: Laid; drawing: Drawing }) {
  const project = useProjectId();
  const { scheme } = useScheme();
  const edit = useEdit();
  const set = useView((s) => s.set);
  const working = useWorking();
  const queries = useQueryClient();
  const rich = drawing.layers.filter((l) => l.closed > 0);
  const [layer, setLayer] = useState("");
  const chosen = layer || rich.find((l) => /room|raum|space|area/i.test(l.name))?.name || rich[0]?.name || "";

  async function take() {
    try {
      const found = await got(
        client.POST("/api/projects/{project_id}/drawings/{digest}/rooms", {
          params: { path: { project_id: project, digest: laid.drawing } },
          body: { layer: chosen },
        }),
      );
      const at = laid.level_m ?? working.level;
      const storey = working.storeyAt(at);
      const rooms = found.rooms.map((r) => ({ ...r, points: r.points.map(([x, y]) => toPlan(laid, x, y)) }));
      const made = roomEdits(scheme, rooms, at, storey.number, { ...UNTYPED, height: storey.height }, true);
      if (await edit(made.edit)) {
        set({ level: at, plan: true });
        tell(
          [
            `${rooms.length === 1 ? "1 room was" : `${rooms.length} rooms were`} taken as storey ${storey.number}.`,
            ...found.remarks,
          ].join(" "),
        );
      }
      await queries.invalidateQueries({ queryKey: ["geometry", project] });
    } catch (fault) {
      tell(fault instanceof ServerFault ? fault.message : String(fault), true);
    }
  }
  if (rich.length === 0) return null;
  return (
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
  );
}

/** Copies the rooms of the storey in view to the next one up. */
export function RepeatRooms() {
  const { scheme, given } = useScheme();
  const edit = useEdit();
  const set = useView((s) => s.set);
  const { level: at, storeyAt } = useWorking();
  const geometry = useGeometry(scheme.id).data;
  const rooms = (geometry?.zones ?? []).filter((z) => z.sides.length > 0);
  if (rooms.length === 0) return null;
  const here = rooms.filter((z) => Math.abs(z.level - at) < 0.01);
  async function repeat() {
    const made = repeatUpward(scheme, given, at, storeyAt(at).number);
    if (made && (await edit(made.edit))) {
      tell(`${here.length === 1 ? "1 room was" : `${here.length} rooms were`} repeated one storey up.`);
      set({ level: made.level });
    }
  }
  return (
    <section>
      <Button variant="outlined" disabled={here.length === 0} onClick={() => void repeat()}>
        Repeat this storey's {count(here.length, "room")} upward
      </Button>
    </section>
  );
}
