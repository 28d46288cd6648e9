import { Button } from "@mui/material";
import type { Edit } from "../../api/client";
import { useEdit, useScheme } from "../../api/hooks";
import { freshId } from "../../app/words";
import { TextField } from "../../fields/Field";

export interface Merged {
  id: string;
  name?: string;
  zones: string[];
}

/** Makes one zone of those chosen, and lists the groups that there are. */
export function MergeBar({ chosen, groups, onDone }: { chosen: string[]; groups: Merged[]; onDone: () => void }) {
  const { scheme } = useScheme();
  const edit = useEdit();
  const path = `schemes/${scheme.id}/merged`;

  async function merge() {
    // a group that is chosen gives its members; it is replaced by the new one
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
    if (await edit({ op: "together", edits } as unknown as Edit)) onDone();
  }
  return (
    <div style={{ marginTop: 6 }}>
      <Button variant="outlined" disabled={chosen.length < 2} onClick={() => void merge()}>
        {chosen.length < 2 ? "Merge zones: choose two or more" : `Merge ${chosen.length} zones`}
      </Button>
      {groups.map((g) => (
        <div key={g.id} data-merged={g.id} className="row" style={{ alignItems: "end", gap: 8, marginTop: 6 }}>
          <div style={{ flex: 1 }}>
            <TextField path={`${path}/${g.id}/name`} label={`Of ${g.zones.length} zones, their walls open`} />
          </div>
          <Button variant="outlined" onClick={() => void edit({ op: "remove", path: `${path}/${g.id}` } as Edit)}>
            Split again
          </Button>
        </div>
      ))}
    </div>
  );
}
