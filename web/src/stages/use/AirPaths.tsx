import { Button, MenuItem, Select } from "@mui/material";
import { make } from "../../api/edits";
import { useEdit, useOutcome, useScheme } from "../../api/hooks";
import { freshId } from "../../app/words";
import { NumberField } from "../../fields/Field";

interface Path {
  id: string;
  zone_a: string;
  zone_b: string;
}

/** Doors and grilles that stand open between zones. */
export function AirPaths() {
  const { scheme } = useScheme();
  const edit = useEdit();
  const outcome = useOutcome(scheme.id).data;
  const zones = outcome?.zones ?? [];
  const list = (scheme.air_paths ?? []) as Path[];
  const path = `schemes/${scheme.id}/air_paths`;

  function add() {
    const id = freshId(
      "air",
      list.map((p) => p.id),
    );
    const item = { id, zone_a: zones[0].id, zone_b: zones[1].id, opening_m2: 2 };
    void edit(make.put(path, item));
  }
  if (zones.length < 2 && list.length === 0) return null;
  return (
    <details open={list.length > 0}>
      <summary>Air between zones</summary>
      {list.map((p) => (
        <div key={p.id} data-path={p.id} style={{ borderBottom: "1px solid var(--line)", padding: "4px 0 6px" }}>
          {(["zone_a", "zone_b"] as const).map((end) => (
            <Select
              key={end}
              value={zones.some((z) => z.id === p[end]) ? p[end] : ""}
              fullWidth
              displayEmpty
              sx={{ mb: 0.5 }}
              inputProps={{ "aria-label": `${p.id}, ${end === "zone_a" ? "from" : "to"}` }}
              renderValue={(v) => zones.find((z) => z.id === v)?.name ?? `${p[end]}, no longer there`}
              onChange={(e) => void edit(make.set(`${path}/${p.id}/${end}`, e.target.value))}
            >
              {zones.map((z) => (
                <MenuItem key={z.id} value={z.id}>
                  {z.name}
                </MenuItem>
              ))}
            </Select>
          ))}
          <NumberField path={`${path}/${p.id}/opening_m2`} note="AirPath.opening_m2" />
          <NumberField path={`${path}/${p.id}/height_m`} note="AirPath.height_m" />
          <NumberField path={`${path}/${p.id}/flow_m3_h`} note="AirPath.flow_m3_h" />
          <Button variant="outlined" onClick={() => void edit(make.remove(`${path}/${p.id}`))}>
            Remove
          </Button>
        </div>
      ))}
      <Button variant="outlined" sx={{ mt: 1 }} disabled={zones.length < 2} onClick={add}>
        Add an open door
      </Button>
    </details>
  );
}
