import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, got, type Schemas, ServerFault } from "../../../api/client";
import { make } from "../../../api/edits";
import type { Made, ShelfConstruction, ShelfLayer } from "../../../api/hooks";
import { useProjectId } from "../../../api/hooks";

export type Account = Schemas["AccountOut"];
export type Humidity = NonNullable<Schemas["ExamineIn"]["humidity"]>;

/** Without fields that hold nothing. */
export function filled<T extends object>(thing: T): T {
  return Object.fromEntries(Object.entries(thing).filter(([, v]) => v !== null && v !== undefined && v !== "")) as T;
}

/** A construction as the library keeps it, without what the shelf tells besides. */
export function plain(construction: ShelfConstruction): Schemas["Construction-Input"] {
  const { u: _u, capacity_kj_m2k, own: _own, layers, ...kept } = construction;
  const stated = kept.u_value !== null && kept.u_value !== undefined;
  return stated ? { ...filled(kept), capacity_kj_m2k } : { ...filled(kept), layers: layers.map(filled) };
}

/** What is told about a construction; the last answer stays while the next one is made. */
export function useExamined(construction: ShelfConstruction, humidity: Humidity) {
  const project = useProjectId();
  const body = plain(construction);
  return useQuery({
    queryKey: ["examined", project, JSON.stringify(body), humidity],
    queryFn: () =>
      got(
        client.POST("/api/projects/{project_id}/constructions/examine", {
          params: { path: { project_id: project } },
          body: { construction: body, humidity, inside_c: 20 },
        }),
      ),
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
    if (item.layers) item.layers = item.layers.map(filled);
    return make.put("library/constructions", item);
  };
}
