import type { Geometry, Scheme } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useReshape } from "../../api/hooks";
import { tell, useViewed } from "../../app/state";
import { freshId } from "../../app/words";
import type { Neighbour, SiteTree } from "../site";
import type { Working } from "../storeys";
import { formBetween, fromOutline, type Made, type NewVolume, newVolume, type Point } from "./drawing";
import { lieOf } from "./held";
import { type Measures, nearestSide, openingEdit, roomEdits } from "./trace";

/** How near a corner a click counts as on it, and how far from a wall an opening may be clicked, px and m. */
export const NEAR_PX = 9;
const REACH_M = 0.7;

/** Whether a tool draws an outline corner by corner. */
export const isOutline = (tool: string | null) => tool === "polygon" || tool === "room" || tool === "neighbour";

/** What clicking does with the tool in hand: it sets corners, and makes the thing when there are enough. */
export function useTools({
  scheme,
  geometry,
  settled,
  bodies,
  trees,
  working,
  px,
  corners,
  setCorners,
  measures,
}: {
  scheme: Scheme;
  geometry: Geometry | undefined;
  settled: Geometry | undefined;
  bodies: Neighbour[];
  trees: SiteTree[];
  working: Working;
  px: number;
  corners: Point[];
  setCorners: (corners: Point[]) => void;
  measures: Measures;
}) {
  const { drawing, selection, set } = useViewed("drawing", "selection", "set");
  const edit = useEdit();
  const reshape = useReshape();
  const volumes = scheme.volumes ?? [];
  const lie = lieOf(scheme, settled);
  const { level } = working;

  async function add(volume: NewVolume) {
    const put = make.put(`schemes/${scheme.id}/volumes`, volume);
    const done = await edit(lie.kept(put));
    if (done) {
      set({ drawing: null, selection: { kind: "volume", id: volume.id } });
      setCorners([]);
    }
  }

  /** Adds the room whose corners were traced; the tool stays for the next one. */
  async function addRoom() {
    const storey = working.storeyAt(level).number;
    const made = roomEdits(scheme, [{ points: corners.map(lie.into) }], level, storey, measures, false);
    if (await edit(lie.kept(made.edit))) {
      setCorners([]);
      set({ selection: { kind: "zone", id: made.ids[0] } });
    }
  }

  /** Adds the neighbour whose outline was drawn. */
  async function addNeighbour() {
    const taken = bodies.map((b) => b.id);
    const id = freshId("neighbour", taken);
    const points = corners.map((c) => ({ x: Number(c.x.toFixed(3)), y: Number(c.y.toFixed(3)) }));
    const item = { id, name: `Neighbour ${bodies.length + 1}`, points, height: 9, assumed: ["height"] };
    if (await edit(make.put("place/footprints", item))) {
      setCorners([]);
      set({ drawing: null, selection: { kind: "footprint", id } });
    }
  }

  /** Plants a tree like the last one; the tool stays for the next. */
  async function plant(p: Point) {
    const taken = trees.map((t) => t.id);
    const id = freshId("tree", taken);
    const like = trees[trees.length - 1];
    const { height, crown, form } = like ?? { height: 9, crown: 6, form: undefined };
    const item = {
      id,
      name: `Tree ${trees.length + 1}`,
      x: Number(p.x.toFixed(2)),
      y: Number(p.y.toFixed(2)),
      height,
      crown,
      assumed: ["height", "crown"],
      ...(form ? { form } : {}),
    };
    if (await edit(make.put("place/trees", item))) set({ selection: { kind: "tree", id } });
  }

  function close() {
    if (drawing === "room") void addRoom();
    else if (drawing === "neighbour") void addNeighbour();
    else void add(fromOutline(corners.map(lie.into), volumes, level));
  }

  function click(p: Point) {
    if (!drawing) return;
    if (drawing === "tree") return void plant(p);
    if (isOutline(drawing)) {
      const first = corners[0];
      if (corners.length >= 3 && first && Math.hypot(first.x - p.x, first.y - p.y) < NEAR_PX * px * 1.4) return close();
      return setCorners([...corners, p]);
    }
    if (drawing === "window" || drawing === "door") {
      if (corners.length === 0) return setCorners([p]);
      const middle = { x: (corners[0].x + p.x) / 2, y: (corners[0].y + p.y) / 2 };
      const side = nearestSide(geometry, level, middle, Math.max(NEAR_PX * px * 2, REACH_M));
      const made = side && openingEdit(scheme, side, corners[0], p, drawing, measures);
      setCorners([]);
      const room = side && (scheme.zones ?? []).find((z) => z.id === side.zone);
      const first = room?.by_ratio && !(room.faces ?? []).find((f) => f.side === side?.side)?.windows?.length;
      if (made)
        void edit(made).then((ok) => {
          if (!ok) return;
          set({ selection: { kind: "zone", id: side.zone } });
          if (first) tell("This side has what is drawn on it now; the room's other sides keep their glazing ratio.");
        });
      else tell("No room's wall is near; click both ends of the opening on one.", true);
      return;
    }
    if (drawing === "cut") {
      if (corners.length === 0) return setCorners([p]);
      const [a, b] = [corners[0], p].map(lie.into);
      setCorners([]);
      set({ drawing: null });
      if (selection) void reshape({ op: "cut", volume: selection.id, a: [a.x, a.y], b: [b.x, b.y] });
      return;
    }
    if (drawing === "scale" || drawing === "place") {
      if (corners.length < (drawing === "scale" ? 2 : 4)) setCorners([...corners, p]);
      return;
    }
    if (corners.length === 0) return setCorners([p]);
    const made = formBetween(drawing, corners[0], p);
    if (made) void add({ ...newVolume({ ...made, ...lie.into(made) }, volumes, level), turn_deg: -lie.turn });
  }

  return { click, close, place: (made: Made) => void add(newVolume(made, volumes, level)) };
}
