import { useMemo } from "react";
import { useGeometry, useScheme } from "../../api/hooks";
import { useKept } from "../../app/state";
import { both } from "../../app/words";

export interface NamedEdge {
  id: string;
  name: string;
  court: boolean;
}

/** The edges of a volume's outline, named by the side that they face and their length. */
export function useEdges(volume: string): { scheme: string; all: NamedEdge[]; outer: NamedEdge[] } {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const geometry = useGeometry(scheme.id).data;
  const all = useMemo(() => {
    const outline = geometry?.outlines.find((o) => o.volume === volume);
    const facing = new Map(
      (geometry?.faces ?? [])
        .filter((f) => f.kind === "wall" && f.edge.startsWith(`${volume}/`))
        .map((f) => [f.edge.split("/")[2], f.orientation]),
    );
    return (outline?.rings ?? []).flatMap((ring, r) =>
      ring.map((p, i) => {
        const q = ring[(i + 1) % ring.length];
        const id = outline?.edges[r][i] ?? "";
        const side = facing.get(id);
        const words = [side, both(Math.hypot(q[0] - p[0], q[1] - p[1]), "m", units, 1), r > 0 ? "courtyard" : ""];
        return { id, name: words.filter(Boolean).join(", "), court: r > 0 };
      }),
    );
  }, [geometry, volume, units]);
  return { scheme: scheme.id, all, outer: useMemo(() => all.filter((e) => !e.court), [all]) };
}
