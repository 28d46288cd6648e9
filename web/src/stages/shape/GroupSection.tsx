import { Button } from "@mui/material";
import { useState } from "react";
import { useGeometry, useReshape, useScheme } from "../../api/hooks";
import { tell } from "../../app/state";
import { count } from "../../app/words";

const ways = [
  ["use", "of one use, storey by storey"],
  ["use_across_storeys", "of one use, across storeys"],
  ["storey", "of one storey"],
] as const;
type Way = (typeof ways)[number][0];

/** Makes zones of the energy model out of rooms that touch and are alike. */
export function GroupSection() {
  const { scheme } = useScheme();
  const reshape = useReshape();
  const zones = useGeometry(scheme.id).data?.zones ?? [];
  const merged = scheme.merged ?? [];
  const [by, setBy] = useState<Way>("use");
  if (zones.length < 2 && merged.length === 0) return null;

  async function group() {
    if (!(await reshape({ op: "group_zones", by }))) return;
    const across = by === "use_across_storeys" ? " The floors between those above each other go with it." : "";
    tell(`Zones that touch and are alike are one now. Undo parts them.${across}`);
  }
  return (
    <details data-section="group">
      <summary>
        Join zones that are alike <span className="quiet">{merged.length > 0 && `${merged.length} joined`}</span>
      </summary>
      <div className="row" style={{ gap: 6, flexWrap: "wrap" }}>
        <select
          className="text-box"
          aria-label="Which zones to join"
          value={by}
          onChange={(e) => setBy(e.target.value as Way)}
        >
          {ways.map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
        <Button variant="outlined" onClick={() => void group()}>
          Join
        </Button>
        {merged.length > 0 && (
          <Button variant="outlined" onClick={() => void reshape({ op: "group_zones", by: "none" })}>
            Part all
          </Button>
        )}
      </div>
      {merged.map((m) => (
        <div key={m.id} className="spread small">
          <span>{m.name || m.id}</span>
          <span className="quiet">{count(m.zones.length, "zone")}</span>
        </div>
      ))}
    </details>
  );
}
