import { freshId } from "../../app/words";

/** What a face does differently from the scheme. */
export interface Override {
  id: string;
  face: string;
  glazing_ratio?: number | null;
  construction?: string | null;
  boundary?: string | null;
  boundary_c?: number | null;
}

/** Edits that give each of these edges what it now does differently; what is null is as the scheme again. */
export function overrideEdits(path: string, own: Override[], edges: string[], part: Partial<Override>): object[] {
  const taken = own.map((o) => o.id);
  return edges.map((edge) => {
    const before = own.find((o) => o.face === edge);
    const id = before?.id ?? freshId("face", taken);
    taken.push(id);
    const item = Object.fromEntries(
      Object.entries({ ...before, id, face: edge, ...part }).filter(([, v]) => v !== null && v !== undefined),
    );
    return { op: "put", path, item };
  });
}
