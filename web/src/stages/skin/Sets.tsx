import { MenuItem, Select } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { client, got, type Schemas } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useScheme } from "../../api/hooks";
import { tell, useKept } from "../../app/state";
import { both } from "../../app/words";

/** Whole sets of constructions by year and wall U-value: one is taken with its wall, roof, floors and window at once. */
export function Sets() {
  const { scheme } = useScheme();
  const edit = useEdit();
  const units = useKept((s) => s.units);
  const sets = useQuery({ queryKey: ["sets"], queryFn: () => got(client.GET("/api/sets")) }).data ?? [];
  const skin = (scheme.skin ?? {}) as Record<string, unknown>;
  const chosen = sets.find((s) => Object.entries(s.constructions).every(([element, id]) => skin[element] === id));

  async function take(set: Schemas["SetOut"]) {
    const at = (field: string) => `schemes/${scheme.id}/skin/${field}`;
    const edits = [
      ...Object.entries(set.constructions).map(([element, id]) => make.set(at(element), id)),
      make.set(at("glazing"), set.glazing),
      ...["wall_insulation_m", "roof_insulation_m"].map((field) => make.reset(at(field))),
    ];
    if (await edit(make.together(edits)))
      tell(`${set.name}: walls, roof, floors and windows are as then. Our own assumption of what was common.`);
  }
  return (
    <div className="spread" style={{ marginBottom: 8 }}>
      <span>Whole set</span>
      <Select
        displayEmpty
        value={chosen?.id ?? ""}
        inputProps={{ "aria-label": "Whole set of constructions" }}
        onChange={(e) => {
          const set = sets.find((s) => s.id === e.target.value);
          if (set) void take(set);
        }}
        renderValue={() => chosen?.name ?? "none as a whole"}
      >
        {sets.map((s) => (
          <MenuItem key={s.id} value={s.id}>
            {s.name.replace(/, U [\d.]+$/, "")}{" "}
            <span className="quiet small" style={{ marginLeft: 8 }}>
              wall U {both(s.u_values.wall, "W/m²K", units, 2)}
            </span>
          </MenuItem>
        ))}
      </Select>
    </div>
  );
}
