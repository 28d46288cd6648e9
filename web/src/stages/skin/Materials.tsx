import { Button } from "@mui/material";
import { useState } from "react";
import type { Edit, Schemas } from "../../api/client";
import { useEdit, useProjectId, useShelf } from "../../api/hooks";
import { tell, useKept } from "../../app/state";
import { FileButton } from "../../fields/FileButton";

type Read = Schemas["MaterialsOut"] & { file: string };

/** Materials of the project and the shipped ones: saved as a table, and read from one; nothing is taken before it is confirmed. */
export function Materials() {
  const project = useProjectId();
  const shelf = useShelf().data;
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const [read, setRead] = useState<Read | null>(null);
  const own = (shelf?.materials ?? []).filter((m) => m.own);

  async function look(file: File) {
    const body = new FormData();
    body.append("file", file);
    const answer = await fetch(`/api/projects/${project}/materials/read`, { method: "POST", body });
    const said = (await answer.json()) as Schemas["MaterialsOut"] & { message?: string };
    if (!answer.ok) return tell(`${file.name}: ${said.message ?? "cannot be read"}`, true);
    setRead({ ...said, file: file.name });
  }
  async function take() {
    const edits = (read?.materials ?? []).map((item) => ({ op: "put", path: "library/materials", item }));
    if (await edit({ op: "together", edits } as unknown as Edit)) {
      tell(`${edits.length} materials taken from ${read?.file}.`);
      setRead(null);
    }
  }
  const path = `/api/projects/${project}/materials`;
  return (
    <details>
      <summary>
        Materials{" "}
        <span className="quiet">
          {(shelf?.materials.length ?? 0) - own.length} shipped, {own.length} own
        </span>
      </summary>
      <div className="row" style={{ flexWrap: "wrap", margin: "4px 0" }}>
        <FileButton name="Read a table" accept=".csv,.xlsx" onFile={(f) => void look(f)} />
        <Button variant="outlined" href={`${path}.xlsx?units=${units}`}>
          Save as XLSX
        </Button>
        <Button variant="outlined" href={`${path}.csv?units=${units}`}>
          CSV
        </Button>
      </div>
      {read && (
        <div data-table-read>
          <div className="small">
            {read.file}: {read.materials.length} materials can be taken
            {read.findings.length > 0 && `, ${new Set(read.findings.map((f) => f.row)).size} rows cannot`}.
          </div>
          {read.findings.slice(0, 12).map((f) => (
            <div key={`${f.row} ${f.column}`} className="remark">
              Row {f.row}, {f.column}: {f.sentence}
            </div>
          ))}
          {read.findings.length > 12 && <div className="quiet small">and {read.findings.length - 12} more</div>}
          <div className="row" style={{ margin: "6px 0" }}>
            <Button
              variant="contained"
              disabled={read.materials.length === 0 || read.materials.length > 500}
              onClick={() => void take()}
            >
              Take {read.materials.length}
            </Button>
            <Button variant="outlined" onClick={() => setRead(null)}>
              Leave it
            </Button>
          </div>
        </div>
      )}
      {own.map((m) => (
        <div key={m.id} className="spread small">
          <span>{m.name}</span>
          <button
            type="button"
            className="plain assumed"
            aria-label={`Remove the material ${m.name}`}
            onClick={() => void edit({ op: "remove", path: `library/materials/${m.id}` } as Edit)}
          >
            remove
          </button>
        </div>
      ))}
    </details>
  );
}
