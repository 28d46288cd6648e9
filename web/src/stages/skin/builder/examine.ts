import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, type Edit, got, type Schemas, ServerFault } from "../../../api/client";
import type { Made, ShelfConstruction, ShelfLayer } from "../../../api/hooks";
import { useProjectId } from "../../../api/hooks";

export type Account = Schemas["AccountOut"];
export type Humidity = NonNullable<Schemas["ExamineIn"]["humidity"]>;

/** A construction as the library keeps it, without what the shelf tells besides. */
export function plain(construction: ShelfConstruction): Record<string, unknown> {
  const { u: _u, capacity_kj_m2k, own: _own, layers, ...kept } = construction as unknown as Record<string, unknown>;
  const stated = kept.u_value !== null && kept.u_value !== undefined;
  const given = Object.fromEntries(Object.entries(kept).filter(([, v]) => v !== null && v !== ""));
  return stated ? { ...given, capacity_kj_m2k } : { ...given, layers: (layers as ShelfLayer[]).map(cleaned) };
}

export function cleaned(layer: ShelfLayer): ShelfLayer {
  return Object.fromEntries(Object.entries(layer).filter(([, v]) => v !== null && v !== undefined)) as never;
}

/** What is told about a construction; the last answer stays while the next one is made. */
export function useExamined(construction: ShelfConstruction, humidity: Humidity) {
  const project = useProjectId();
  const body = plain(construction);
  return useQuery({
    queryKey: ["examined", project, JSON.stringify(body), humidity],
    queryFn: async () =>
      (await got(
        client.POST("/api/projects/{project_id}/constructions/examine", {
          params: { path: { project_id: project } },
          body: { construction: body as never, humidity, inside_c: 20 },
        }),
      )) as Account,
    placeholderData: keepPreviousData,
    retry: (count, fault) => !(fault instanceof ServerFault) && count < 2,
  });
}

type Kept = Record<string, unknown> & { id: string; layers?: ShelfLayer[] };

/** Changes a construction of the project's library as it stands when the edit's turn comes. */
export function changed(id: string, change: (now: Kept) => Record<string, unknown>): Made {
  return (state) => {
    const kept = ((state.given.library as { constructions?: Kept[] })?.constructions ?? []).find((c) => c.id === id);
    if (!kept) return null;
    const item = { ...kept, ...change(kept) } as Kept;
    if (item.layers) item.layers = item.layers.map(cleaned);
    return { op: "put", path: "library/constructions", item } as unknown as Edit;
  };
}
