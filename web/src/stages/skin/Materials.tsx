import { Button } from "@mui/material";
import { make } from "../../api/edits";
import { useEdit, useShelf } from "../../api/hooks";
import { freshId } from "../../app/words";
import { NumberField, TextField } from "../../fields/Field";
import { KeepButton } from "./OwnLibrary";
import { ReadTable } from "./ReadTable";

const figures = ["conductivity", "density", "specific_heat", "vapour_resistance", "carbon_kg_kg"] as const;

/** Materials of the project and the shipped ones: the project's are changed here, and all go out and in as tables. */
export function Materials() {
  const shelf = useShelf().data;
  const edit = useEdit();
  const all = shelf?.materials ?? [];
  const own = all.filter((m) => m.own);

  function begin() {
    const item = {
      id: freshId(
        "own-material",
        all.map((m) => m.id),
      ),
      name: `Own material ${own.length + 1}`,
      family: "other",
      conductivity: 0.5,
      density: 1000,
      source: "the project's own",
    };
    void edit(make.put("library/materials", item));
  }
  return (
    <details>
      <summary>
        Materials <span className="quiet">{shelf ? `${all.length - own.length} shipped, ${own.length} own` : "…"}</span>
      </summary>
      <ReadTable group="materials" what="materials" />
      <Button variant="outlined" onClick={begin}>
        New material
      </Button>
      {own.map((m) => (
        <details key={m.id} data-material={m.id}>
          <summary>{m.name}</summary>
          <TextField path={`library/materials/${m.id}/name`} label="Material" />
          {figures.map((f) => (
            <NumberField key={f} path={`library/materials/${m.id}/${f}`} note={`Material.${f}`} />
          ))}
          <TextField path={`library/materials/${m.id}/source`} label="Source" />
          <div className="row" style={{ margin: "4px 0" }}>
            <KeepButton group="materials" id={m.id} />
            <Button
              variant="outlined"
              aria-label={`Remove the material ${m.name}`}
              onClick={() => void edit(make.remove(`library/materials/${m.id}`))}
            >
              Remove
            </Button>
          </div>
        </details>
      ))}
    </details>
  );
}
