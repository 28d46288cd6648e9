import { Autocomplete, TextField } from "@mui/material";
import { useMemo, useState } from "react";
import type { LeverOffer } from "../../api/client";
import { ownerOf, titleOf } from "../../app/draft";
import { finds, tradeWords } from "../../app/finder/finds";

const stageOrder = ["shape", "skin", "use", "plant", "place"];

/** Finds a lever by its name among all that are offered. */
export function LeverFinder({
  offers,
  label,
  onPick,
}: {
  offers: LeverOffer[];
  label: string;
  onPick: (offer: LeverOffer) => void;
}) {
  const [typed, setTyped] = useState("");
  const options = useMemo(() => {
    const place = (o: LeverOffer) => stageOrder.indexOf(o.stage) * 2 + (o.common ? 0 : 1);
    return [...offers].sort((a, b) => place(a) - place(b));
  }, [offers]);
  return (
    <Autocomplete
      size="small"
      options={options}
      groupBy={(o) => o.stage[0].toUpperCase() + o.stage.slice(1)}
      getOptionLabel={titleOf}
      getOptionKey={(o) => `${o.kind} ${o.path}`}
      filterOptions={(all, { inputValue }) =>
        all.filter((o) => finds(inputValue, `${o.title} ${ownerOf(o)} ${o.stage} ${o.path ?? ""}`, tradeWords))
      }
      value={null}
      inputValue={typed}
      onInputChange={(_, text, why) => setTyped(why === "reset" ? "" : text)}
      onChange={(_, offer) => offer && onPick(offer)}
      blurOnSelect
      noOptionsText="Nothing of that name can be varied."
      slotProps={{
        paper: { sx: { fontSize: 13, minWidth: 260 } },
        popper: { placement: "bottom-start", style: { width: 280 } },
      }}
      renderInput={(params) => (
        <TextField
          {...params}
          placeholder={label}
          slotProps={{ ...params.slotProps, htmlInput: { ...params.slotProps?.htmlInput, "aria-label": label } }}
        />
      )}
    />
  );
}
