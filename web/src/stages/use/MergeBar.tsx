import { Button } from "@mui/material";
import { make } from "../../api/edits";
import { useEdit, useGeometry, useScheme } from "../../api/hooks";
import { tell, useKept } from "../../app/state";
import { both } from "../../app/words";
import { TextField } from "../../fields/Field";
import { floorGone, mergeEdit } from "./merging";

export interface Merged {
  id: string;
  name?: string;
  zones: string[];
}

/** Makes one zone of those chosen, and lists the groups that there are. */
export function MergeBar({ chosen, groups, onDone }: { chosen: string[]; groups: Merged[]; onDone: () => void }) {
  const { scheme } = useScheme();
  const edit = useEdit();
  const geometry = useGeometry(scheme.id).data;
  const units = useKept((s) => s.units);
  const zones = geometry?.zones ?? [];
  const path = `schemes/${scheme.id}/merged`;

  async function merge() {
    const gone = floorGone(geometry, chosen);
    if (!(await edit(mergeEdit(scheme, chosen, zones).edit))) return;
    if (gone > 0.05) tell(`Open from storey to storey: ${both(gone, "m²", units, 1)} of floor between them go.`);
    onDone();
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
          <Button variant="outlined" onClick={() => void edit(make.remove(`${path}/${g.id}`))}>
            Split again
          </Button>
        </div>
      ))}
    </div>
  );
}
