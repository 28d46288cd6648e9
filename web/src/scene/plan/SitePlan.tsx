import type { Edit } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit } from "../../api/hooks";
import type { Selection } from "../../app/state";
import { useDrag } from "../drag";
import type { Neighbour, SiteTree } from "../site";
import type { Point } from "./drawing";

interface Moved {
  kind: "box" | "footprint" | "tree";
  id: string;
  from: Point;
  by: Point;
}

/** Neighbours and trees in the plan; they are selected and dragged to another place. */
export function SitePlan({
  bodies,
  trees,
  chosen,
  px,
  idle,
  raw,
  onSelect,
}: {
  bodies: Neighbour[];
  trees: SiteTree[];
  chosen: string[];
  px: number;
  /** Some tool draws: the pointer is not for these. */
  idle: boolean;
  raw: (e: { clientX: number; clientY: number }) => Point;
  onSelect: (s: Selection) => void;
}) {
  const edit = useEdit();
  const [moved, hold] = useDrag<Moved>({
    follow: (now, e) => {
      const to = raw(e);
      const step = e.altKey ? 0.01 : 0.5;
      const on = (v: number) => Number((Math.round(v / step) * step).toFixed(2));
      return { ...now, by: { x: on(to.x - now.from.x), y: on(to.y - now.from.y) } };
    },
    drop: (last) => {
      if (last.by.x !== 0 || last.by.y !== 0) void edit(moving(last));
    },
  });

  function moving({ kind, id, by }: Moved): Edit {
    const set = (path: string, value: unknown) => make.set(path, value);
    const round = (v: number) => Number(v.toFixed(3));
    if (kind === "footprint") {
      const points = (bodies.find((b) => b.id === id)?.plan ?? []).map(([x, y]) => ({
        x: round(x + by.x),
        y: round(y + by.y),
      }));
      return set(`place/footprints/${id}/points`, points);
    }
    const group = kind === "box" ? "boxes" : "trees";
    const at = kind === "box" ? bodies.find((b) => b.id === id)?.plan[0] : treeAt(id);
    const edits = [
      set(`place/${group}/${id}/x`, round((at?.[0] ?? 0) + by.x)),
      set(`place/${group}/${id}/y`, round((at?.[1] ?? 0) + by.y)),
    ];
    return make.together(edits);
  }
  const treeAt = (id: string) => {
    const tree = trees.find((t) => t.id === id);
    return tree ? [tree.x, tree.y] : undefined;
  };
  const shift = (id: string) => (moved?.id === id ? `translate(${moved.by.x},${moved.by.y})` : undefined);
  const grab = (kind: Moved["kind"], id: string) => ({
    style: { cursor: idle ? "crosshair" : "move" },
    onPointerDown: (e: React.PointerEvent) => {
      if (idle) return;
      e.stopPropagation();
      onSelect({ kind, id });
      hold({ kind, id, from: raw(e), by: { x: 0, y: 0 } });
    },
  });
  return (
    <>
      {bodies.map((b) => (
        <path
          key={b.id}
          data-neighbour={b.id}
          d={`M${b.plan.map((p) => `${p[0]},${p[1]}`).join("L")}Z`}
          transform={shift(b.id)}
          fill={chosen.includes(b.id) ? "#BFD3CF" : "#E4E0D7"}
          fillOpacity={b.counts ? 1 : 0.35}
          stroke="#A8A192"
          strokeWidth={px}
          {...grab(b.kind, b.id)}
        />
      ))}
      {trees.map((t) => (
        <g key={t.id} data-tree={t.id} transform={shift(t.id)} {...grab("tree", t.id)}>
          <circle
            cx={t.x}
            cy={t.y}
            r={t.crown / 2}
            fill={chosen.includes(t.id) ? "#9FBF9A" : "#C9D1BC"}
            fillOpacity={(t.counts ?? true) ? 0.6 : 0.25}
            stroke="#8A917E"
            strokeWidth={px}
          />
          <circle cx={t.x} cy={t.y} r={0.25} fill="#8A917E" />
        </g>
      ))}
    </>
  );
}
