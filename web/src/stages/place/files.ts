import type { ProjectState } from "../../api/client";
import { asItIs, useChange, useProjectId } from "../../api/hooks";
import { tell } from "../../app/state";

type Neighbours = { added: number; remarks: { sentence: string }[]; state: ProjectState };

/** Reads files that say something of the place: its weather, and what stands around. */
export function usePlaceFiles(): { weather: (file: File) => Promise<void>; neighbours: (file: File) => Promise<void> } {
  const project = useProjectId();
  const change = useChange();

  function send<Answer>(file: File, what: string, stateOf: (answer: Answer) => ProjectState): Promise<Answer | null> {
    const body = new FormData();
    body.append("file", file);
    const ask = async (revision: number) => {
      const answer = await fetch(`/api/projects/${project}/${what}?revision=${revision}`, { method: "POST", body });
      const said = (await answer.json()) as Answer & { message?: string };
      if (!answer.ok) throw new Error(said.message ?? "cannot be read");
      return said;
    };
    return change(ask, stateOf).catch((fault: Error) => {
      tell(`${file.name}: ${fault.message}`, true);
      return null;
    });
  }
  async function weather(file: File) {
    if (await send<ProjectState>(file, "climate", asItIs)) tell(`${file.name} is the climate year now.`);
  }
  async function neighbours(file: File) {
    const taken = await send<Neighbours>(file, "surroundings", (answer) => answer.state);
    if (taken) tell([`${taken.added} outlines from ${file.name}.`, ...taken.remarks.map((r) => r.sentence)].join(" "));
  }
  return { weather, neighbours };
}
