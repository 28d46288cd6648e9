import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef } from "react";
import { useParams } from "react-router";
import { tell, useView } from "../app/state";
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

export function useProjectId(): string {
  return useParams().project ?? "";
}

export function useProject() {
  const project = useProjectId();
  return useQuery({
    queryKey: ["project", project],
    queryFn: async () =>
      (await got(
        client.GET("/api/projects/{project_id}", { params: { path: { project_id: project } } }),
      )) as unknown as ProjectState,
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

export function useFields() {
  return useQuery({
    queryKey: ["fields"],
    queryFn: () => got(client.GET("/api/fields")),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useGeometry(scheme: string) {
  const project = useProjectId();
  const revision = useProject().data?.revision;
  return useQuery({
    queryKey: ["geometry", project, scheme, revision],
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
  const revision = useProject().data?.revision;
  return useQuery({
    queryKey: ["outcome", project, scheme, revision],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/outcome", {
          params: { path: { project_id: project, scheme_id: scheme } },
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
  const all = [...(state.remarks[scheme.id] ?? []), ...((outcome?.remarks ?? []) as unknown as Remark[])];
  return [...new Map(all.map((r) => [`${r.code} ${r.object}`, r])).values()];
}

export interface ShelfInlay {
  name?: string;
  share: number;
  conductivity: number;
  density?: number;
  specific_heat?: number;
  carbon_kg_kg?: number | null;
}
export interface ShelfLayer {
  name?: string;
  thickness_m: number;
  conductivity: number | null;
  density: number;
  specific_heat: number;
  insulation?: boolean;
  air?: "none" | "still" | "ventilated";
  inlay?: ShelfInlay | null;
  vapour_resistance?: number | null;
  carbon_kg_kg?: number | null;
}
export interface ShelfMaterial {
  id: string;
  name: string;
  family: string;
  conductivity: number;
  density: number;
  specific_heat: number;
  vapour_resistance: number | null;
  carbon_kg_kg: number | null;
  own: boolean;
  source: string;
}
export interface ShelfConstruction {
  id: string;
  name: string;
  element: string;
  layers: ShelfLayer[];
  u_value: number | null;
  thickness_m?: number;
  mass?: string;
  u: number;
  capacity_kj_m2k: number;
  own: boolean;
  set_name?: string;
  source: string;
  solar_absorptance: number;
  emissivity: number;
}
export interface ShelfGlazing {
  id: string;
  name: string;
  u_value: number;
  g_value: number;
  visible: number;
  panes: number;
  frame_share: number;
  own: boolean;
}
export interface ShelfProfile {
  id: string;
  name: string;
  heating_c: number;
  cooling_c: number;
  heating_setback_c: number;
  lighting_w_m2: number;
  equipment_w_m2: number;
  person_area: number;
  fresh_air_ls_person: number;
  fresh_air_ls_m2: number;
  source: string;
  occupancy: { weekday: number[] | null; saturday: number[] | null; sunday: number[] | null };
  lighting: { weekday: number[] | null };
  equipment: { weekday: number[] | null };
}
export interface Shelf {
  materials: ShelfMaterial[];
  constructions: ShelfConstruction[];
  glazings: ShelfGlazing[];
  profiles: ShelfProfile[];
}

export function useShelf() {
  const project = useProjectId();
  const revision = useProject().data?.revision;
  return useQuery({
    queryKey: ["shelf", project, revision],
    queryFn: async () =>
      (await got(
        client.GET("/api/projects/{project_id}/shelf", { params: { path: { project_id: project } } }),
      )) as unknown as Shelf,
    placeholderData: keepPreviousData,
  });
}

export function useLevers(scheme: string) {
  const project = useProjectId();
  const revision = useProject().data?.revision;
  return useQuery({
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

export function useEdit() {
  const project = useProjectId();
  const queries = useQueryClient();
  return useCallback(
    (edit: Edit): Promise<boolean> => {
      asked++;
      const next = line.then(async () => {
        const now = queries.getQueryData<ProjectState>(["project", project]);
        if (!now) return false;
        try {
          const state = await got(
            client.POST("/api/projects/{project_id}/edits", {
              params: { path: { project_id: project } },
              body: { revision: now.revision, edit },
            }),
          );
          queries.setQueryData(["project", project], state);
          useView.getState().set({ tried: null, faultAt: null });
          return true;
        } catch (fault) {
          await refused(fault);
          return false;
        }
      });
      line = next;
      return next;

      async function refused(fault: unknown) {
        if (!(fault instanceof ServerFault)) throw fault;
        useView.getState().set({ tried: null });
        if (fault.status === 409) {
          await queries.invalidateQueries({ queryKey: ["project", project] });
          tell("Somebody else changed this project; it was read again. Nothing was overwritten.", true);
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

/** Undo and redo; they wait for their turn among the edits, so that several at once go several steps. */
export function useWalk() {
  const project = useProjectId();
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (way: "undo" | "redo") => {
      asked++;
      const next = line.then(async () => {
        const now = queries.getQueryData<ProjectState>(["project", project]);
        const path = way === "undo" ? "/api/projects/{project_id}/undo" : "/api/projects/{project_id}/redo";
        const params = { path: { project_id: project } };
        const state = await got(client.POST(path, { params, body: { revision: now?.revision ?? 0 } }));
        queries.setQueryData(["project", project], state);
      });
      line = next.catch(() => undefined);
      return next;
    },
    onSuccess: () => useView.getState().set({ tried: null, faultAt: null }),
    onError: (fault) => tell(fault.message, true),
  });
}

/** Tries an edit without keeping it: one call at a time, always the latest wish next. */
export function useTry(scheme: string) {
  const project = useProjectId();
  const busy = useRef(false);
  const wish = useRef<{ edit: Edit; before: number } | null>(null);
  return useCallback(
    (edit: Edit, withForm = false) => {
      wish.current = { edit, before: asked };
      if (busy.current) return;
      busy.current = true;
      void run();

      async function run() {
        while (wish.current) {
          const { edit, before } = wish.current;
          wish.current = null;
          if (before !== asked) continue; // something was kept since: this is no longer wished
          const body = { scheme, edit };
          const params = { path: { project_id: project } };
          try {
            const [outcome, geometry] = await Promise.all([
              got(client.POST("/api/projects/{project_id}/preview/outcome", { params, body })).catch(() => null),
              withForm ? got(client.POST("/api/projects/{project_id}/preview/geometry", { params, body })) : null,
            ]);
            if (before === asked) useView.getState().set({ tried: { scheme, outcome, geometry }, faultAt: null });
          } catch (fault) {
            if (fault instanceof ServerFault && before === asked)
              useView.getState().set({ faultAt: { path: fault.fault.path, message: fault.message } });
          }
        }
        busy.current = false;
      }
    },
    [project, scheme],
  );
}

export type Wish = Schemas["ReshapeIn"]["reshape"];

/** Reshapes a volume on the server, as one step of undo. */
export function useReshape() {
  const project = useProjectId();
  const { scheme, state } = useScheme();
  const queries = useQueryClient();
  return async (reshape: Wish): Promise<boolean> => {
    try {
      const made = await got(
        client.POST("/api/projects/{project_id}/schemes/{scheme_id}/reshape", {
          params: { path: { project_id: project, scheme_id: scheme.id } },
          body: { revision: state.revision, reshape },
        }),
      );
      queries.setQueryData(["project", project], made);
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
  return useQuery({
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
