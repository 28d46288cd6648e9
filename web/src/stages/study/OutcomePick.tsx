import { Autocomplete, TextField } from "@mui/material";
import { useMemo, useState } from "react";
import { type Alike, finds } from "../../app/finder/finds";
import { everyFigure, type FigureOf, figureOf, figuresOf, figuresOfZone, useZones } from "./figures";

/** Words of the trade by which an outcome is looked for besides its title. */
const alike: Alike = [
  [/too warm/i, "overheating summer comfort"],
  [/too cold/i, "underheating winter comfort"],
  [/daylight|light/i, "illuminance autonomy"],
  [/carbon/i, "co2 emissions greenhouse"],
  [/cost/i, "bill money price"],
  [/covered|own generation/i, "solar pv photovoltaic self-sufficiency"],
  [/peak/i, "load power size"],
];

const NONE: string[] = [];
const compared = figuresOf.map((f) => ({ ...f, group: "Compared as a rule" }));
const others = everyFigure.filter((f) => !compared.some((x) => x.id === f.id));

/** Finds an outcome by its name: those by which cases are compared first, then all others of the building, of the worst zone and of each zone. */
export function OutcomePick({
  value,
  label,
  without = NONE,
  onPick,
}: {
  value: string | null;
  label: string;
  without?: string[];
  onPick: (id: string) => void;
}) {
  const zones = useZones();
  const [typed, setTyped] = useState("");
  // the same things as long as nothing changed: another value, by whatever made it, would take back what is being typed
  const all = useMemo(
    () => [...compared, ...others, ...figuresOfZone(null), ...(zones ?? []).flatMap((z) => figuresOfZone(z))],
    [zones],
  );
  const options = useMemo(() => all.filter((f) => f.id === value || !without.includes(f.id)), [all, without, value]);
  const chosen = useMemo(
    () => (value === null ? null : (all.find((f) => f.id === value) ?? figureOf(value, zones))),
    [all, zones, value],
  );
  return (
    <Autocomplete<FigureOf, false, boolean>
      size="small"
      options={options}
      groupBy={(f) => f.group}
      getOptionLabel={(f) => f.name}
      getOptionKey={(f) => f.id}
      isOptionEqualToValue={(a, b) => a.id === b.id}
      filterOptions={(all, { inputValue }) =>
        all.filter((f) => inputValue === chosen?.name || finds(inputValue, `${f.name} ${f.group}`, alike))
      }
      value={chosen}
      inputValue={typed}
      onInputChange={(_, text, why) => setTyped(why === "reset" && chosen === null ? "" : text)}
      onChange={(_, f) => f && onPick(f.id)}
      disableClearable={value !== null}
      blurOnSelect
      noOptionsText="No outcome is called that."
      sx={{ flex: 1, minWidth: 0 }}
      slotProps={{
        paper: { sx: { fontSize: 13, minWidth: 300 } },
        popper: { placement: "bottom-start", style: { width: 320 } },
      }}
      renderInput={(params) => (
        <TextField
          {...params}
          variant="standard"
          placeholder={value === null ? label : ""}
          slotProps={{
            ...params.slotProps,
            htmlInput: {
              ...params.slotProps?.htmlInput,
              "aria-label": label,
              title: chosen?.name,
              style: { fontSize: 12.5 },
            },
          }}
        />
      )}
    />
  );
}
