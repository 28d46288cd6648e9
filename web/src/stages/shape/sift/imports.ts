import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { client, got, type Schemas, ServerFault } from "../../../api/client";
import { useProjectId, useScheme } from "../../../api/hooks";
import { tell } from "../../../app/state";

export type Import = Schemas["ImportOut"];
export type Held = Schemas["SiftOut"];
export type Sift = Schemas["Sift-Output"];
export type Rule = NonNullable<Sift["rules"]>[number];
export type Mend = NonNullable<Sift["mends"]>[number];
export type Thing = Schemas["ObjectOut"];
export type Settled = Schemas["SettledOut"];
export type Finding = Schemas["FindingOut"];

/** What a mesh does not say of itself, as the server asks it; lengths in m. */
export interface Unsaid {
  unit?: string;
  up?: string;
  storey_height?: string;
}

/** Sends a file to be read; what the file does not say is told along with it. */
export async function sendFile(
  project: string,
  file: File,
  more: Unsaid & { follows?: string } = {},
): Promise<Import | null> {
  const body = new FormData();
  body.append("file", file);
  const asked = new URLSearchParams(Object.entries(more).filter(([, v]) => v) as [string, string][]);
  const answer = await fetch(`/api/projects/${project}/imports?${asked}`, { method: "POST", body });
  const said = (await answer.json()) as Import & { message?: string };
  if (answer.ok) return said;
  tell(said.message ?? `${file.name} was not taken.`, true);
  return null;
}

/** Sends a model to be read into this project and goes to its sift. */
export function useSendModel(follows?: string): (file: File, more: Unsaid) => Promise<void> {
  const project = useProjectId();
  const { scheme } = useScheme();
  const navigate = useNavigate();
  const queries = useQueryClient();
  return async (file, more) => {
    const made = await sendFile(project, file, { ...more, follows });
    if (!made) return;
    await queries.invalidateQueries({ queryKey: ["imports", project] });
    navigate(`/p/${project}/shape/${scheme.id}/import/${made.id}`);
  };
}

export function useImports() {
  const project = useProjectId();
  return useQuery({
    queryKey: ["imports", project],
    queryFn: () => got(client.GET("/api/projects/{project_id}/imports", { params: { path: { project_id: project } } })),
    refetchInterval: (query) => (query.state.data?.some((i) => i.status === "reading") ? 500 : false),
  });
}

export function useImport(id: string) {
  const project = useProjectId();
  return useQuery({
    queryKey: ["import", project, id],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/imports/{import_id}", {
          params: { path: { project_id: project, import_id: id } },
        }),
      ),
    refetchInterval: (query) => (query.state.data?.status === "reading" ? 300 : false),
  });
}

export function useHeld(id: string, enabled: boolean) {
  const project = useProjectId();
  return useQuery({
    queryKey: ["held", project, id],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/imports/{import_id}/sift", {
          params: { path: { project_id: project, import_id: id } },
        }),
      ),
    enabled,
  });
}

/** Every object as received; their forms do not change, the decisions about them do. */
export function useThings(id: string, decisions: string, enabled: boolean) {
  const project = useProjectId();
  return useQuery({
    queryKey: ["things", project, id, decisions],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/imports/{import_id}/objects", {
          params: { path: { project_id: project, import_id: id } },
        }),
      ),
    placeholderData: keepPreviousData,
    enabled,
  });
}

export function useSettled(id: string, decisions: string, enabled: boolean) {
  const project = useProjectId();
  return useQuery({
    queryKey: ["settled", project, id, decisions],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/imports/{import_id}/settled", {
          params: { path: { project_id: project, import_id: id } },
        }),
      ),
    placeholderData: keepPreviousData,
    enabled,
  });
}

/** Sends decisions one after another; an answer that was on its way before one of them is not taken any more. */
export function useDecide(id: string) {
  const project = useProjectId();
  const queries = useQueryClient();
  const held = ["held", project, id];
  const mutationKey = ["decide", project, id];
  return useMutation({
    mutationKey,
    scope: { id: mutationKey.join(" ") },
    mutationFn: (sift: Sift) =>
      got(
        client.PUT("/api/projects/{project_id}/imports/{import_id}/sift", {
          params: { path: { project_id: project, import_id: id } },
          body: sift,
        }),
      ),
    onMutate: () => queries.cancelQueries({ queryKey: held }),
    onSuccess: (answer) => {
      if (queries.isMutating({ mutationKey }) === 1) queries.setQueryData(held, answer);
    },
    onError: (fault) => {
      tell(fault instanceof ServerFault ? fault.message : String(fault), true);
      void queries.invalidateQueries({ queryKey: held });
    },
  });
}

/** "IfcWallStandardCase" as people say it: "wall standard case". */
export function className(name: string): string {
  const words = name
    .replace(/^Ifc/, "")
    .replace(/([a-z])([A-Z])/g, "$1 $2")
    .toLowerCase();
  const said: Record<string, string> = {
    "building element proxy": "other objects",
    "furnishing element": "furniture",
    "flow terminal": "lamps and outlets",
    solid: "masses",
    space: "rooms",
    slab: "slabs",
    roof: "roofs",
  };
  if (said[words]) return said[words];
  return words.endsWith("s") || words.endsWith("furniture") ? words : `${words}s`;
}

/** What one thing of a class is called. */
export function oneOf(name: string): string {
  const all = className(name);
  const odd: Record<string, string> = { masses: "mass", "lamps and outlets": "lamp or outlet" };
  return odd[all] ?? all.replace(/s$/, "");
}
