import {
  keepPreviousData,
  type QueryClient,
  useIsFetching,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useCallback, useEffect, useRef } from "react";
import { useParams } from "react-router";
import { tell, useView } from "../app/state";
import { titleAt } from "../fields/notes";
import { at } from "../fields/paths";
import {
  client,
  type Edit,
  got,
  type ProjectState,
  type Remark,
  type Schemas,
  type Scheme,
  ServerFault,
} from "./client";
import { clashing, differences, onto, touchedBy } from "./meanwhile";
import { versionOf } from "./versions";

export function useProjectId(): string {
  return useParams().project ?? "";
}

export function useProject<T = ProjectState>(select?: (state: ProjectState) => T) {
  const project = useProjectId();
  return useQuery({
    select,
    staleTime: Number.POSITIVE_INFINITY, // what others change is told by its revision (`useOthers`)
    queryKey: ["project", project],
    queryFn: () => got(client.GET("/api/projects/{project_id}", { params: { path: { project_id: project } } })),
  });
}

/** The project and the scheme that the address names; only for use below the frame, where both are there. */
export function useScheme(): { state: ProjectState; scheme: Scheme; given: Record<string, unknown>; base: string } {
  const { data } = useProject();
  const wanted = useParams().scheme;
  if (!data) throw new Error("useScheme is for use below the frame");
  const scheme = data.completed.schemes.find((s) => s.id === wanted) ?? data.completed.schemes[0];
  const list = data.given.schemes as Record<string, unknown>[];
  const given = list.find((s) => s.id === scheme.id) ?? {};
  return { state: data, scheme, given, base: `schemes/${scheme.id}` };
}

/** A scheme's form as it is drawn; the server tells by `drawn` when it is another one. */
export function useGeometry(scheme: string) {
  const project = useProjectId();
  const drawn = useProject((state) => state.drawn[scheme]).data;
  return useQuery({
    queryKey: ["geometry", project, scheme, drawn],
    staleTime: Number.POSITIVE_INFINITY,
    enabled: drawn !== undefined,
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/geometry", {
          params: { path: { project_id: project, scheme_id: scheme } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

export function useOutcome(scheme: string) {
  const project = useProjectId();
  const revision = useProject((state) => state.revision).data;
  return useQuery({
    staleTime: Number.POSITIVE_INFINITY,
    queryKey: ["outcome", project, scheme, revision],
    queryFn: ({ signal }) =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/outcome", {
          params: { path: { project_id: project, scheme_id: scheme } },
          signal, // what nobody waits for any more is not worked out
        }),
      ),
    placeholderData: (before) => (before?.scheme === scheme ? before : undefined),
    retry: false,
    enabled: revision !== undefined,
  });
}

/** What is missing, doubtful or mended in a scheme: from the documents at once, from the form and weather when current. */
export function useRemarks(): Remark[] {
  const { state, scheme } = useScheme();
  const outcome = useOutcome(scheme.id).data;
  const all = [...(state.remarks[scheme.id] ?? []), ...(outcome?.remarks ?? [])];
  return [...new Map(all.map((r) => [`${r.code} ${r.object}`, r])).values()];
}

export type ShelfLayer = Schemas["Layer-Output"];
export type ShelfMaterial = Schemas["ShelfMaterial"];
export type ShelfConstruction = Schemas["ShelfConstruction"];
export type ShelfProfile = Schemas["ShelfProfile"];

export function useShelf() {
  const project = useProjectId();
  const library = useProject((state) => state.completed.library).data;
  return useQuery({
    staleTime: Number.POSITIVE_INFINITY,
    queryKey: ["shelf", project, versionOf(library)],
    queryFn: () => got(client.GET("/api/projects/{project_id}/shelf", { params: { path: { project_id: project } } })),
    placeholderData: keepPreviousData,
  });
}

/** What a study can vary; asked for where it is shown, or with `refetch` when a field is made a lever. */
export function useLevers(scheme: string, shown = true) {
  const project = useProjectId();
  const revision = useProject((state) => state.revision).data;
  return useQuery({
    enabled: shown,
    staleTime: Number.POSITIVE_INFINITY,
    queryKey: ["levers", project, scheme, revision],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/levers", {
          params: { path: { project_id: project, scheme_id: scheme } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** Edits go out one after another, each on the revision that the one before it made. */
let line: Promise<unknown> = Promise.resolve();
/** Counts edits that were asked for: what was tried before one must not be shown after it. */
let asked = 0;

/** An edit, or how to make one of the documents as they stand when its turn comes; nothing where it is no longer due. */
export type Made = Edit | ((state: ProjectState) => Edit | null);
/** What a value is called and how it is written, for the notice that another one stands. */
export interface Spoken {
  name: string;
  say: (value: unknown) => string;
}

const others = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel("eurythm-revisions");

/** Takes up what the server answered, and tells the other windows; what was asked before it must not come after it. */
async function takeUp(queries: QueryClient, project: string, state: { revision: number }): Promise<void> {
  await queries.cancelQueries({ queryKey: ["project", project] });
  queries.setQueryData(["project", project], state);
  queries.setQueryData(["revision", project], { revision: state.revision });
  others?.postMessage({ project, revision: state.revision });
}

/** Queues work on a project after all that was asked for before. */
function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const count = (by: number) => useView.setState(({ underway }) => ({ underway: underway + by }));
  count(1);
  const next = line.then(work).finally(() => count(-1));
  line = next.catch(() => undefined);
  return next;
}

/** Keeps a window up to date with what other windows, or other people, change. */
export function useOthers(): void {
  const project = useProjectId();
  const queries = useQueryClient();
  const here = useProject((state) => state.revision).data;
  const there = useQuery({
    queryKey: ["revision", project],
    queryFn: () =>
      got(client.GET("/api/projects/{project_id}/revision", { params: { path: { project_id: project } } })),
    refetchInterval: 4000,
    refetchOnWindowFocus: "always",
    enabled: here !== undefined,
    retry: false,
  }).data?.revision;
  useEffect(() => {
    if (here === undefined || there === undefined || here === there || useView.getState().underway > 0) return;
    void queries.invalidateQueries({ queryKey: ["project", project] });
  }, [here, there, project, queries]);
  useEffect(() => {
    const heard = ({ data }: MessageEvent<{ project: string; revision: number }>) => {
      if (data.project === project) queries.setQueryData(["revision", project], { revision: data.revision });
    };
    others?.addEventListener("message", heard);
    return () => others?.removeEventListener("message", heard);
  }, [project, queries]);
}

export function useEdit() {
  const project = useProjectId();
  const queries = useQueryClient();
  return useCallback(
    (wish: Made, spoken?: Spoken): Promise<boolean> => {
      asked++;
      return inTurn(() => sent(wish, null, 0));

      /** Sends an edit; `before` is what it was made on, where somebody else changed the project since. */
      async function sent(wish: Made, before: ProjectState | null, tries: number): Promise<boolean> {
        const now = queries.getQueryData<ProjectState>(["project", project]);
        if (!now) return false;
        const edit = typeof wish === "function" ? wish(now) : before ? onto(wish, before, now) : wish;
        if (!edit) return true;
        try {
          const state = await got(
            client.POST("/api/projects/{project_id}/edits", {
              params: { path: { project_id: project } },
              body: { revision: now.revision, edit },
            }),
          );
          await takeUp(queries, project, state);
          const { tried, set } = useView.getState();
          const last = tried && !tried.stays && tried.on === now.revision ? tried : null;
          set({ tried: last && { ...last, on: state.revision, stays: true }, faultAt: null });
          return true;
        } catch (fault) {
          if (fault instanceof ServerFault && fault.status === 409 && tries < 5) return again(wish, edit, now, tries);
          await refused(fault);
          return false;
        }
      }

      /** Somebody else was first: what nobody else touched is made again on what stands now. */
      async function again(wish: Made, edit: Edit, before: ProjectState, tries: number): Promise<boolean> {
        await queries.refetchQueries({ queryKey: ["project", project] });
        const now = queries.getQueryData<ProjectState>(["project", project]);
        if (!now) return false;
        const [clash] = clashing(touchedBy(edit, before), differences(before.given, now.given));
        if (clash === undefined) return sent(typeof wish === "function" ? wish : edit, before, tries + 1);
        useView.getState().set({ tried: null, faultAt: null });
        tell(lost(clash, edit, now), true);
        return false;
      }

      function lost(path: string, edit: Edit, now: ProjectState): string {
        const { name, say } = spoken ?? { name: titleAt(path) ?? "This", say: shortly };
        const [theirs, mine] = [at(now.completed, path), (edit as { value?: unknown }).value].map((v) =>
          v === undefined || typeof v === "object" ? "" : say(v),
        );
        return `“${name}” was changed in another window meanwhile: ${theirs ? `${theirs} stands` : "that stands"}, ${mine ? `${mine} was` : "what you did was"} not kept.`;
      }

      async function refused(fault: unknown) {
        useView.getState().set({ tried: null });
        if (!(fault instanceof ServerFault)) throw fault;
        if (fault.status === 409) {
          await queries.invalidateQueries({ queryKey: ["project", project] });
          tell("Others keep changing this project; it was read again. Nothing was overwritten.", true);
          return;
        }
        useView.getState().set({ faultAt: { path: fault.fault.path, message: fault.message } });
        // where there is a drawing, the fault is told on it
        if (!document.querySelector(".canvas")) tell(fault.message, true);
      }
    },
    [project, queries],
  );
}

const shortly = (value: unknown) => String(value).slice(0, 60);

/** Has the server change a project otherwise than by an edit: in turn, on the revision that stands then. */
export function useChange() {
  const project = useProjectId();
  const queries = useQueryClient();
  return useCallback(
    <Answer>(
      ask: (revision: number) => Promise<Answer>,
      stateOf: (answer: Answer) => ProjectState,
    ): Promise<Answer> => {
      asked++;
      return inTurn(async () => {
        const answer = await ask(queries.getQueryData<ProjectState>(["project", project])?.revision ?? 0);
        await takeUp(queries, project, stateOf(answer));
        return answer;
      });
    },
    [project, queries],
  );
}

/** The answer is the project itself. */
export const asItIs = (state: ProjectState) => state;

/** Undo and redo; they wait for their turn among the edits, so that several at once go several steps. */
export function useWalk() {
  const project = useProjectId();
  const queries = useQueryClient();
  const change = useChange();
  return useMutation({
    mutationFn: (way: "undo" | "redo") => {
      const path = way === "undo" ? "/api/projects/{project_id}/undo" : "/api/projects/{project_id}/redo";
      const params = { path: { project_id: project } };
      return change((revision) => got(client.POST(path, { params, body: { revision } })), asItIs);
    },
    onSuccess: () => useView.getState().set({ tried: null, faultAt: null }),
    onError: async (fault) => {
      if (fault instanceof ServerFault && fault.status === 409) {
        await queries.invalidateQueries({ queryKey: ["project", project] });
        return tell("Another window was first; the project was read again, and nothing was taken back.", true);
      }
      tell(fault.message, true);
    },
  });
}

/** Tries an edit without keeping it: one call at a time, always the latest wish next. */
export function useTry(scheme: string) {
  const project = useProjectId();
  const queries = useQueryClient();
  const busy = useRef(false);
  const wish = useRef<{ made: Made; before: number } | null>(null);
  return useCallback(
    (made: Made, withForm = false) => {
      wish.current = { made, before: asked };
      if (busy.current) return;
      busy.current = true;
      void run();

      async function run() {
        while (wish.current) {
          const { made, before } = wish.current;
          wish.current = null;
          const now = queries.getQueryData<ProjectState>(["project", project]);
          const edit = typeof made === "function" ? now && made(now) : made;
          if (before !== asked || !now || !edit) continue; // something was kept since: this is no longer wished
          const on = now.revision;
          const body = { scheme, edit };
          const params = { path: { project_id: project } };
          try {
            const [outcome, geometry] = await Promise.all([
              got(client.POST("/api/projects/{project_id}/preview/outcome", { params, body })).catch(() => null),
              withForm ? got(client.POST("/api/projects/{project_id}/preview/geometry", { params, body })) : null,
            ]);
            const still = before === asked && queries.getQueryData<ProjectState>(["project", project])?.revision === on;
            if (still)
              useView.getState().set({ tried: { scheme, outcome, geometry, on, stays: false }, faultAt: null });
          } catch (fault) {
            if (fault instanceof ServerFault && before === asked)
              useView.getState().set({ faultAt: { path: fault.fault.path, message: fault.message } });
          }
        }
        busy.current = false;
      }
    },
    [project, scheme, queries],
  );
}

export type Wish = Schemas["ReshapeIn"]["reshape"];

/** Reshapes a volume on the server, as one step of undo. */
export function useReshape() {
  const project = useProjectId();
  const { scheme } = useScheme();
  const change = useChange();
  return async (reshape: Wish): Promise<boolean> => {
    const params = { path: { project_id: project, scheme_id: scheme.id } };
    const path = "/api/projects/{project_id}/schemes/{scheme_id}/reshape";
    try {
      await change((revision) => got(client.POST(path, { params, body: { revision, reshape } })), asItIs);
      return true;
    } catch (fault) {
      tell(fault instanceof ServerFault ? fault.message : String(fault), true);
      return false;
    }
  };
}

/** Every value that a scheme's year rests on and nobody gave. */
export function useRegister() {
  const project = useProjectId();
  const { scheme, state } = useScheme();
  const working = useIsFetching({ queryKey: ["outcome", project] }) > 0; // the result comes first
  return useQuery({
    enabled: !working,
    staleTime: Number.POSITIVE_INFINITY,
    queryKey: ["register", project, scheme.id, state.revision],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/register", {
          params: { path: { project_id: project, scheme_id: scheme.id } },
        }),
      ),
    placeholderData: (before) => (before?.scheme === scheme.id ? before : undefined),
  });
}

/** The register of a scheme, ranked by how far the year moves: values that cast the sun anew, or all others. */
export function useRanking(scheme: string, rays: boolean, wanted: boolean) {
  const project = useProjectId();
  const revision = useProject((state) => state.revision).data;
  return useQuery({
    queryKey: ["ranking", project, scheme, revision, rays],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/register/ranking", {
          params: { path: { project_id: project, scheme_id: scheme }, query: { rays } },
        }),
      ),
    placeholderData: (before) => (before?.scheme === scheme ? before : undefined),
    enabled: wanted && revision !== undefined,
    retry: false,
  });
}

/** How light at the sensors of a scheme is asked for. */
export const daylightOf = (project: string, scheme: string, revision: number) => ({
  queryKey: ["daylight", project, scheme, revision],
  queryFn: () =>
    got(
      client.GET("/api/projects/{project_id}/schemes/{scheme_id}/daylight", {
        params: { path: { project_id: project, scheme_id: scheme } },
      }),
    ),
});
