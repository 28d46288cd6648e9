import { useQueryClient } from "@tanstack/react-query";
import type { ProjectState } from "../../api/client";
import { useProject, useProjectId } from "../../api/hooks";
import { tell } from "../../app/state";

/** Reads files that say something of the place: its weather, and what stands around. */
export function usePlaceFiles(): { weather: (file: File) => Promise<void>; neighbours: (file: File) => Promise<void> } {
  const project = useProjectId();
  const revision = useProject().data?.revision;
  const queries = useQueryClient();

  async function send<Answer>(file: File, what: string): Promise<Answer | null> {
    const body = new FormData();
    body.append("file", file);
    const answer = await fetch(`/api/projects/${project}/${what}?revision=${revision}`, { method: "POST", body });
    const said = (await answer.json()) as Answer & { message?: string };
    if (answer.ok) return said;
    tell(`${file.name}: ${said.message ?? "cannot be read"}`, true);
    return null;
  }
  async function weather(file: File) {
    const state = await send<ProjectState>(file, "climate");
    if (!state) return;
    queries.setQueryData(["project", project], state);
    tell(`${file.name} is the climate year now.`);
  }
  async function neighbours(file: File) {
    const taken = await send<{ added: number; remarks: { sentence: string }[]; state: ProjectState }>(
      file,
      "surroundings",
    );
    if (!taken) return;
    queries.setQueryData(["project", project], taken.state);
    tell([`${taken.added} outlines from ${file.name}.`, ...taken.remarks.map((r) => r.sentence)].join(" "));
  }
  return { weather, neighbours };
}
