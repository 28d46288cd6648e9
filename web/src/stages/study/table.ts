import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, got, type Schemas, type Study } from "../../api/client";
import { useProject, useProjectId } from "../../api/hooks";
import { everyFigure, type Kept } from "./figures";

/** Rows of the table that come in one answer. */
export const PAGE = 100;

export interface Order {
  by: string;
  down: boolean;
}

/** What is kept, as the server is asked for it: ranges in the units in which figures are stored. */
function sieveOf(kept: Kept): Schemas["SieveIn"] {
  const per = new Map(everyFigure.map((f) => [f.id, f.per]));
  const ranges = Object.entries(kept.ranges).map(([id, [low, high]]) => {
    const times = per.get(id) ?? 1;
    return [id, [low * times, high * times] as [number, number]] as const;
  });
  return {
    dropped: kept.dropped,
    ranges: Object.fromEntries(ranges),
    which: kept.which ?? "all",
    says: kept.says ?? "",
  };
}

/** A page of the cases in the running, and how all of them stand. */
export function useShown(study: Study, kept: Kept, order: Order, page: number, live: boolean, spreads: string[]) {
  const project = useProjectId();
  const asked = { sieve: sieveOf(kept), ...order, first: page * PAGE, most: PAGE, spreads };
  return useQuery({
    // an answer that was asked for while it ran does not stand for one that was asked for at its end
    queryKey: ["cases", study.id, study.status, "shown", asked],
    queryFn: ({ signal }) =>
      got(
        client.POST("/api/projects/{project_id}/studies/{study_id}/cases/shown", {
          params: { path: { project_id: project, study_id: study.id } },
          body: asked,
          signal,
        }),
      ),
    placeholderData: (before, query) => (query?.queryKey[1] === study.id ? before : undefined),
    // the first rows at once, the others as one reads
    refetchInterval: (query) => live && (query.state.data?.cases.length ? 4000 : 700),
  });
}

/** Two figures of all finished cases. */
export function usePoints(study: Study, kept: Kept, x: string, y: string) {
  const project = useProjectId();
  const asked = { sieve: sieveOf(kept), x, y };
  return useQuery({
    queryKey: ["cases", study.id, study.status, study.done, "points", asked],
    queryFn: ({ signal }) =>
      got(
        client.POST("/api/projects/{project_id}/studies/{study_id}/cases/points", {
          params: { path: { project_id: project, study_id: study.id } },
          body: asked,
          signal,
        }),
      ),
    placeholderData: (before, query) => (query?.queryKey[1] === study.id ? before : undefined),
  });
}

/** Figures and levers of finished cases as columns. */
export function useColumns(study: Study, kept: Kept, names: string[]) {
  const project = useProjectId();
  const asked = { sieve: sieveOf(kept), names };
  return useQuery({
    queryKey: ["cases", study.id, study.status, study.done, "columns", asked],
    queryFn: ({ signal }) =>
      got(
        client.POST("/api/projects/{project_id}/studies/{study_id}/cases/columns", {
          params: { path: { project_id: project, study_id: study.id } },
          body: asked,
          signal,
        }),
      ),
    placeholderData: (before, query) => (query?.queryKey[1] === study.id ? before : undefined),
  });
}

/** What the cases of a study are compared with. */
export function useBaseline(study: Study) {
  const project = useProjectId();
  const revision = useProject().data?.revision;
  return useQuery({
    queryKey: ["baseline", study.id, revision],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/studies/{study_id}/baseline", {
          params: { path: { project_id: project, study_id: study.id } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}
