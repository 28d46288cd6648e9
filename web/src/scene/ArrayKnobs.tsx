import * as THREE from "three";
import type { Geometry, Scheme } from "../api/client";
import { make } from "../api/edits";
import { useEdit, useTry } from "../api/hooks";
import { useKept, useView } from "../app/state";
import { both } from "../app/words";
import { useDrag } from "./drag";
import { Knob, useControls } from "./Knob";
import { useProjector } from "./View3D";

type Panel = Geometry["panels"][number];
type Handle = NonNullable<Panel["handle"]>;
type Rectangle = [number, number, number, number];

/** Knobs on the selected array: one moves it, one sizes it. Both are worked on the plane that it lies in. */
export function ArrayKnobs({ scheme, panels, chosen }: { scheme: Scheme; panels: Panel[]; chosen: string[] }) {
  const one = chosen.length === 1 ? panels.find((p) => p.array === chosen[0]) : undefined;
  if (!one?.handle) return null;
  const kind = one.collects ? "collectors" : "arrays";
  const path = `schemes/${scheme.id}/plant/${kind}/${one.array}`;
  return (
    <>
      <ArrayKnob scheme={scheme.id} path={path} handle={one.handle} does="move" />
      <ArrayKnob scheme={scheme.id} path={path} handle={one.handle} does="size" />
    </>
  );
}

const vector = (v: number[]) => new THREE.Vector3(v[0], v[1], v[2]);

/** Where a knob stands: the lower left corner or the middle moves, the corner across sizes. */
function placeOf(handle: Handle, [x, y, width, depth]: Rectangle, does: "move" | "size"): THREE.Vector3 {
  const at = vector(handle.origin).addScaledVector(vector(handle.x), x).addScaledVector(vector(handle.y), y);
  if (does === "move") return at;
  const part = handle.centred ? 0.5 : 1;
  return at.addScaledVector(vector(handle.wide), width * part).addScaledVector(vector(handle.deep), depth * part);
}

function ArrayKnob({
  scheme,
  path,
  handle,
  does,
}: {
  scheme: string;
  path: string;
  handle: Handle;
  does: "move" | "size";
}) {
  const free = useControls();
  const units = useKept((s) => s.units);
  const set = useView((s) => s.set);
  const edit = useEdit();
  const attempt = useTry(scheme);
  const project = useProjector();
  const first = handle.rectangle as Rectangle;

  const setting = ([x, y, width_m, depth_m]: Rectangle) => {
    const own = does === "move" || !handle.centred ? { x, y } : {};
    const sized = does === "size" || !handle.centred ? { width_m, depth_m } : {};
    return make.together(Object.entries({ ...own, ...sized }).map(([name, v]) => make.set(`${path}/${name}`, v)));
  };
  const [drag, hold] = useDrag<{ from: { x: number; y: number }; now: Rectangle }>({
    follow: (held, e) => {
      const at = placeOf(handle, first, does);
      const [a, b] = does === "move" ? [handle.x, handle.y] : [handle.wide, handle.deep];
      const [o, p, q] = [at, at.clone().add(vector(a)), at.clone().add(vector(b))].map((v) => project(v.x, v.y, v.z));
      const [px, py, qx, qy] = [p.x - o.x, p.y - o.y, q.x - o.x, q.y - o.y];
      const det = px * qy - py * qx;
      if (Math.abs(det) < 1) return held; // seen along its plane
      const [dx, dy] = [e.clientX - held.from.x, e.clientY - held.from.y];
      const step = e.altKey ? 0.01 : 0.1;
      const on = (v: number) => Number((Math.round(v / step) * step).toFixed(2));
      const s = (dx * qy - dy * qx) / det;
      const t = (dy * px - dx * py) / det;
      const [x, y, width, depth] = first;
      const by = handle.centred ? 2 : 1;
      const now: Rectangle =
        does === "move"
          ? [on(x + s), on(y + t), width, depth]
          : [x, y, Math.max(on(width + s * by), 0.5), Math.max(on(depth + t * by), 0.5)];
      if (now.some((v, k) => v !== held.now[k])) attempt(setting(now), true);
      return { ...held, now };
    },
    drop: ({ now }) => {
      free(true);
      if (now.some((v, k) => v !== first[k])) void edit(setting(now));
    },
    leave: () => {
      free(true);
      set({ tried: null });
    },
  });
  const now = drag?.now ?? first;
  const metres = (v: number) => both(v, "m", units, 2);
  return (
    <Knob
      at={placeOf(handle, now, does).add(new THREE.Vector3(0, 0, 0.15))}
      shape={does === "move" ? "ball" : "cube"}
      told={
        does === "move" ? `x ${metres(now[0])}, y ${metres(now[1])}` : `${metres(now[2])} wide, ${metres(now[3])} deep`
      }
      held={drag !== null}
      onHold={(e) => {
        free(false);
        hold({ from: { x: e.clientX, y: e.clientY }, now: first });
      }}
    />
  );
}
