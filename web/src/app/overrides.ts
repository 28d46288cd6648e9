import type { Face, ProjectState, Scheme } from "../api/client";
import { type EditStep, make } from "../api/edits";
import type { Made } from "../api/hooks";
import { freshId } from "./words";

/** A window or door from its face's lower left corner, seen from outside, m. */
export interface Placed {
  id?: string | null;
  kind?: "window" | "door";
  x: number;
  z: number;
  width: number;
  height: number;
  glazing?: string | null;
}

/** What a face does differently from the scheme. */
export interface Different {
  glazing_ratio?: number | null;
  glazing?: string | null;
  pattern?: string | null;
  module_m?: number | null;
  window_width_m?: number | null;
  sill_m?: number | null;
  head_m?: number | null;
  overhang_m?: number | null;
  fin_m?: number | null;
  louvre_m?: number | null;
  louvre_kind?: string | null;
  blinds?: string | null;
  windows?: Placed[] | null;
  construction?: string | null;
  boundary?: string | null;
  boundary_c?: number | null;
}

interface Override extends Different {
  id: string;
  face: string;
}

interface RoomFace extends Different {
  id: string;
  side?: string | null;
}

/** The parts of a scheme as it was given that this reads. */
interface Given {
  skin?: { overrides?: Override[] };
  zones?: { id: string; faces?: RoomFace[] }[];
}

const clean = (item: object) =>
  Object.fromEntries(Object.entries(item).filter(([, v]) => v !== null && v !== undefined));

/** What was given for one face by hand, and where it stands; null where the face can not differ. */
export function differing(given: unknown, scheme: Scheme, face: Face): { path: string; own: Different | null } | null {
  const whole = given as Given;
  if (face.side) {
    const room = whole.zones?.find((z) => z.id === face.part);
    const own = room?.faces?.find((f) => f.id === face.side || f.side === face.side);
    return { path: `schemes/${scheme.id}/zones/${face.part}/faces/${own?.id ?? face.side}`, own: own ?? null };
  }
  if (!face.edge) return null;
  const own = whole.skin?.overrides?.find((o) => o.face === face.edge);
  return { path: `schemes/${scheme.id}/skin/overrides/${own?.id ?? ""}`, own: own ?? null };
}

/** One step that gives each of these faces what it now does differently; what is null is as found or as the scheme again. */
export function differEdit(scheme: Scheme, faces: Face[], part: Different): Made {
  return (state) => atOnce(differences(givenOf(state, scheme), scheme, faces, part));
}

/** A scheme as it was given, in the documents as they stand when an edit's turn comes. */
const givenOf = (state: ProjectState, scheme: Scheme) =>
  ((state.given.schemes ?? []) as { id: string }[]).find((s) => s.id === scheme.id) ?? {};

const atOnce = (edits: EditStep[]) => (edits.length > 0 ? make.together(edits) : null);

function differences(given: unknown, scheme: Scheme, faces: Face[], part: Different): EditStep[] {
  const whole = given as Given;
  const overrides = whole.skin?.overrides ?? [];
  const taken = overrides.map((o) => o.id);
  const edits: EditStep[] = [];
  const done = new Set<string>();
  for (const face of faces) {
    const key = face.side ? `${face.part} ${face.side}` : face.edge;
    const found = differing(given, scheme, face);
    if (!found || done.has(key)) continue;
    done.add(key);
    if (face.side) {
      const path = `schemes/${scheme.id}/zones/${face.part}/faces`;
      const { glazing_ratio: _, ...kept } = part;
      const before = found.own ?? { id: face.side, side: face.side };
      edits.push(make.put(path, clean({ ...before, ...kept })));
    } else {
      const before = overrides.find((o) => o.face === face.edge);
      const id = before?.id ?? freshId("face", taken);
      taken.push(id);
      const item = clean({ ...before, id, face: face.edge, ...part });
      edits.push(make.put(`schemes/${scheme.id}/skin/overrides`, item));
    }
  }
  return edits;
}

/** One step that takes back whatever these faces do differently from the scheme. */
export function asSchemeEdit(scheme: Scheme, faces: Face[]): Made {
  return (state) => {
    const given = givenOf(state, scheme);
    const edges = new Set(faces.filter((f) => !f.side).map((f) => f.edge));
    const overrides = ((given as Given).skin?.overrides ?? []).filter((o) => edges.has(o.face));
    const removed = overrides.map((o) => make.remove(`schemes/${scheme.id}/skin/overrides/${o.id}`));
    const ofRooms = faces.filter((f) => f.side && differing(given, scheme, f)?.own);
    const nothing = { boundary: null, boundary_c: null, construction: null };
    return atOnce([...removed, ...differences(given, scheme, ofRooms, nothing)]);
  };
}
