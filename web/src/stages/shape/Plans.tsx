import { Button } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, ServerFault } from "../../api/client";
import { useEdit, useGeometry, useProjectId, useScheme } from "../../api/hooks";
import { tell, useView, useViewed } from "../../app/state";
import { LayUnder } from "../../scene/plan/LayUnder";
import { repeatUpward, roomEdits, storeyNumber, UNTYPED } from "../../scene/plan/trace";
import { type Drawing, type Laid, toPlan } from "../../scene/plan/Underlays";

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
  const { scheme, state } = useScheme();
  const edit = useEdit();
  const level = useView((s) => s.level);
  const geometry = useGeometry(scheme.id).data;
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
      const levels = (geometry?.zones ?? []).map((z) => z.level);
      const ground = state.completed.place?.ground_level_m ?? 0;
      const at = level ?? (levels.length ? Math.min(...levels) : ground);
      const rooms = found.rooms.map((r) => ({ ...r, points: r.points.map(([x, y]) => toPlan(laid, x, y)) }));
      const made = roomEdits(scheme, rooms, at, storeyNumber(levels, at, ground), UNTYPED, true);
      if (await edit(made.edit)) tell([`${rooms.length} rooms were taken.`, ...found.remarks].join(" "));
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
  const { scheme, state, given } = useScheme();
  const edit = useEdit();
  const { level, set } = useViewed("level", "set");
  const geometry = useGeometry(scheme.id).data;
  const rooms = (geometry?.zones ?? []).filter((z) => z.sides.length > 0);
  if (rooms.length === 0) return null;
  const at = level ?? Math.min(...rooms.map((z) => z.level));
  const here = rooms.filter((z) => Math.abs(z.level - at) < 0.01);
  async function repeat() {
    const levels = (geometry?.zones ?? []).map((z) => z.level);
    const made = repeatUpward(scheme, given, at, state.completed.place?.ground_level_m ?? 0, levels);
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
