import { tell } from "./state";

/** Saves what an address answers as a file under the name that it bears; what is refused is told instead. Tells whether it was saved. */
export async function saveFrom(address: string, ask?: RequestInit, name?: string): Promise<boolean> {
  const answer = await fetch(address, ask);
  if (!answer.ok) {
    const said = await answer.json().catch(() => ({}));
    tell(said.message ?? "The file could not be made.", true);
    return false;
  }
  const borne = /filename="([^"]+)"/.exec(answer.headers.get("Content-Disposition") ?? "")?.[1];
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await answer.blob());
  link.download = name ?? borne ?? "eurythm";
  link.click();
  URL.revokeObjectURL(link.href);
  return true;
}
