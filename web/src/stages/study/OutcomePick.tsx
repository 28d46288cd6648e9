import { Autocomplete, TextField } from "@mui/material";
import { useMemo, useState } from "react";
import { everyFigure, type FigureOf, figureOf, figuresOf, figuresOfZone, useZones } from "./figures";

/** Words of the trade by which an outcome is looked for besides its title. */
const alike: [RegExp, string][] = [
  [/too warm/i, "overheating summer comfort"],
  [/too cold/i, "underheating winter comfort"],
  [/daylight|light/i, "illuminance autonomy"],
  [/carbon/i, "co2 emissions greenhouse"],
  [/cost/i, "bill money price"],
  [/covered|own generation/i, "solar pv photovoltaic self-sufficiency"],
  [/peak/i, "load power size"],
];

/** Finds an outcome by its name: those by which cases are compared first, then all others of the building, of the worst zone and of each zone. */
export function OutcomePick({
  value,
  label,
  without = [],
  onPick,
}: {
  value: string | null;
  label: string;
  without?: string[];
  onPick: (id: string) => void;
}) {
  const zones = useZones();
  const [typed, setTyped] = useState("");
  const options = useMemo(() => {
    const first = figuresOf.map((f) => ({ ...f, group: "Compared as a rule" }));
    const rest = everyFigure.filter((f) => !first.some((x) => x.id === f.id));
    const all = [...first, ...rest, ...figuresOfZone(null), ...(zones ?? []).flatMap((z) => figuresOfZone(z))];
    return all.filter((f) => f.id === value || !without.includes(f.id));
  }, [zones, without, value]);
  const chosen = value === null ? null : (options.find((f) => f.id === value) ?? figureOf(value, zones));
  return (
    <Autocomplete<FigureOf, false, boolean>
      size="small"
      options={options}
      groupBy={(f) => f.group}
      getOptionLabel={(f) => f.name}
      getOptionKey={(f) => f.id}
      isOptionEqualToValue={(a, b) => a.id === b.id}
      filterOptions={(all, { inputValue }) => {
        const words = inputValue === chosen?.name ? [] : inputValue.toLowerCase().split(/\s+/);
        return all.filter((f) => {
          const text = `${f.name} ${f.group} ${alike.map(([is, words]) => (is.test(f.name) ? words : "")).join(" ")}`;
          return words.every((w) => text.toLowerCase().includes(w));
        });
      }}
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
