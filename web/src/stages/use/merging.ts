import type { Edit, Scheme } from "../../api/client";
import { freshId } from "../../app/words";

/** Makes one zone of several; a group among them gives its members and is replaced by the new one. */
export function mergeEdit(scheme: Scheme, chosen: string[]): { edit: Edit; id: string } {
  const groups = scheme.merged ?? [];
  const path = `schemes/${scheme.id}/merged`;
  const taken = groups.filter((g) => chosen.includes(g.id));
  const zones = chosen.flatMap((id) => taken.find((g) => g.id === id)?.zones ?? [id]);
  const id = freshId(
    "room",
    groups.map((g) => g.id),
  );
  const edits = [
    ...taken.map((g) => ({ op: "remove", path: `${path}/${g.id}` })),
    { op: "put", path, item: { id, name: `Merged ${groups.length + 1}`, zones } },
  ];
  return { edit: { op: "together", edits } as unknown as Edit, id };
}
