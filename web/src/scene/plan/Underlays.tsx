import { useQueries } from "@tanstack/react-query";
import { memo, useMemo } from "react";
import { client, got, type Schemas, type Scheme } from "../../api/client";
import { useProject, useProjectId, useScheme } from "../../api/hooks";
import { useView } from "../../app/state";
import type { Point } from "./drawing";
import { SnapIndex } from "./snap";

export type Drawing = Schemas["Drawing"];
export type Underlay = NonNullable<Scheme["underlays"]>[number];

/** Something laid under the plan, with where in the documents it is kept. */
export type Laid = Underlay & { path: string };

/** What lies under the plan of a scheme: what is laid under the site, then the scheme's own. */
export function useLaid(scheme: Scheme): Laid[] {
  const place = useProject().data?.completed.place?.underlays;
  return useMemo(
    () => [
      ...(place ?? []).map((u) => ({ ...u, path: `place/underlays/${u.id}` })),
      ...(scheme.underlays ?? []).map((u) => ({ ...u, path: `schemes/${scheme.id}/underlays/${u.id}` })),
    ],
    [place, scheme.underlays, scheme.id],
  );
}

/** The one that is chosen to be scaled or placed; else the first. */
export function useChosenLaid(): Laid | undefined {
  const laid = useLaid(useScheme().scheme);
  const chosen = useView((s) => s.underlay);
  return laid.find((u) => u.path === chosen) ?? laid[0];
}

/** Where a picture of the project is served. */
export const pictureAddress = (project: string, digest: string) =>
  `/api/projects/${project}/drawings/${digest}/picture`;

/** The drawings that a scheme's underlays show. */
export function useDrawings(underlays: Underlay[]): Map<string, Drawing> {
  const project = useProjectId();
  const wanted = [...new Set(underlays.map((u) => u.drawing))];
  const answers = useQueries({
    queries: wanted.map((digest) => ({
      queryKey: ["drawing", project, digest],
      queryFn: () =>
        got(
          client.GET("/api/projects/{project_id}/drawings/{digest}", {
            params: { path: { project_id: project, digest } },
          }),
        ),
      staleTime: Number.POSITIVE_INFINITY,
    })),
  });
  const loaded = answers.map((a) => a.data);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the drawings themselves never change
  return useMemo(
    () => new Map(wanted.flatMap((d, i) => (loaded[i] ? [[d, loaded[i]] as [string, Drawing]] : []))),
    [wanted.join(" "), loaded.filter(Boolean).length],
  );
}

/** A point of a drawing in the plan, m. */
export function toPlan(u: Underlay, x: number, y: number): Point {
  const scale = u.metres ?? 1;
  const turn = (-(u.turn_deg ?? 0) * Math.PI) / 180;
  const [c, s] = [Math.cos(turn) * scale, Math.sin(turn) * scale];
  return { x: (u.x ?? 0) + c * x - s * y, y: (u.y ?? 0) + s * x + c * y };
}

export function shownAt(u: Underlay, level: number): boolean {
  if (u.shown === false) return false;
  return u.level_m === null || u.level_m === undefined || Math.abs(u.level_m - level) < 0.01;
}

/** Catches lines of the underlays that are shown. */
export function useUnderlayIndex(underlays: Underlay[], drawings: Map<string, Drawing>, level: number): SnapIndex {
  return useMemo(() => {
    const flat: number[] = [];
    for (const u of underlays.filter((u) => shownAt(u, level))) {
      const hidden = new Set(u.hidden ?? []);
      for (const layer of drawings.get(u.drawing)?.layers ?? []) {
        if (hidden.has(layer.name)) continue;
        for (let i = 0; i + 3 < layer.segments.length; i += 4) {
          const a = toPlan(u, layer.segments[i], layer.segments[i + 1]);
          const b = toPlan(u, layer.segments[i + 2], layer.segments[i + 3]);
          flat.push(a.x, a.y, b.x, b.y);
        }
      }
    }
    return new SnapIndex(flat);
  }, [underlays, drawings, level]);
}

const Lines = memo(function Lines({ segments }: { segments: number[] }) {
  const d = useMemo(() => {
    const parts: string[] = [];
    for (let i = 0; i + 3 < segments.length; i += 4)
      parts.push(`M${segments[i]} ${segments[i + 1]}L${segments[i + 2]} ${segments[i + 3]}`);
    return parts.join("");
  }, [segments]);
  return <path d={d} fill="none" stroke="#7D8488" strokeWidth={0.8} vectorEffect="non-scaling-stroke" />;
});

/** A picture in its own points, upright while the plan's y runs upward. */
function Shown({ picture, underlay, project }: { picture: Drawing["picture"]; underlay: Underlay; project: string }) {
  if (!picture) return null;
  return (
    <image
      href={pictureAddress(project, underlay.drawing)}
      width={picture.width}
      height={picture.height}
      transform={`translate(0,${picture.height}) scale(1,-1)`}
      opacity={underlay.strength ?? 0.6}
      preserveAspectRatio="none"
    />
  );
}

/** The drawings under a storey: pictures, and each layer of lines as one path. */
export const Underlays = memo(function Underlays({
  underlays,
  drawings,
  level,
}: {
  underlays: Laid[];
  drawings: Map<string, Drawing>;
  level: number;
}) {
  const project = useProjectId();
  return (
    <g pointerEvents="none" data-underlay>
      {underlays
        .filter((u) => shownAt(u, level))
        .map((u) => (
          <g
            key={u.path}
            transform={`translate(${u.x ?? 0},${u.y ?? 0}) rotate(${-(u.turn_deg ?? 0)}) scale(${u.metres ?? 1})`}
          >
            <Shown picture={drawings.get(u.drawing)?.picture} underlay={u} project={project} />
            {(drawings.get(u.drawing)?.layers ?? [])
              .filter((l) => !(u.hidden ?? []).includes(l.name))
              .map((l) => (
                <Lines key={l.name} segments={l.segments} />
              ))}
          </g>
        ))}
    </g>
  );
});
