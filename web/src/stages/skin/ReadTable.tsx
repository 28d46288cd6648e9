import { Button } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useProjectId } from "../../api/hooks";
import { tell, useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { FileButton } from "../../fields/FileButton";

type Read = Schemas["TableOut"] & { file: File };

/** A part of the library as a table: saved, and read from one; nothing is taken before it is confirmed. */
export function ReadTable({ group, what }: { group: "materials" | "constructions"; what: string }) {
  const project = useProjectId();
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const [read, setRead] = useState<Read | null>(null);

  async function look(file: File, sheet?: string) {
    const body = new FormData();
    body.append("file", file);
    const asked = new URLSearchParams({ units, ...(sheet !== undefined && { sheet }) });
    const answer = await fetch(`/api/projects/${project}/${group}/read?${asked}`, { method: "POST", body });
    const said = (await answer.json()) as Schemas["TableOut"] & { message?: string };
    if (!answer.ok) return tell(`${file.name}: ${said.message ?? "cannot be read"}`, true);
    setRead({ ...said, file });
  }
  async function take() {
    const edits = (read?.items ?? []).map((item) => make.put(`library/${group}`, item));
    if (await edit(make.together(edits))) {
      tell(`${edits.length} ${what} taken from ${read?.file.name}.`);
      setRead(null);
    }
  }
  const path = `/api/projects/${project}/${group}`;
  const unread = new Set(read?.findings.map((f) => f.row)).size;
  return (
    <>
      <div className="row" style={{ flexWrap: "wrap", margin: "4px 0" }}>
        <FileButton
          name={`Read a table of ${what}`}
          said="Read a table"
          accept=".csv,.xlsx"
          onFile={(f) => void look(f)}
        />
        <Button variant="outlined" href={`${path}.xlsx?units=${units}`} aria-label={`Save as XLSX, ${what}`}>
          Save as XLSX
        </Button>
        <Button variant="outlined" href={`${path}.csv?units=${units}`} aria-label={`CSV, ${what}`}>
          CSV
        </Button>
      </div>
      {read && (
        <div data-table-read>
          {read.sheets.length > 1 && (
            <label className="row small" style={{ gap: 6, margin: "6px 0" }}>
              Sheet
              <select className="text-box" value={read.sheet} onChange={(e) => void look(read.file, e.target.value)}>
                {read.sheets.map((sheet) => (
                  <option key={sheet}>{sheet}</option>
                ))}
              </select>
            </label>
          )}
          <div className="small">
            {read.file.name}: {read.items.length} {read.items.length === 1 ? what.replace(/s$/, "") : what} can be taken
            {read.findings.length > 0 && `, ${unread} ${unread === 1 ? "row" : "rows"} cannot`}.
          </div>
          {read.findings.slice(0, 12).map((f) => (
            <div key={`${f.row} ${f.column}`} className="remark">
              Row {f.row}, {f.column}: <Told text={f.sentence} />
            </div>
          ))}
          {read.findings.length > 12 && <div className="quiet small">and {read.findings.length - 12} more</div>}
          {read.questions.slice(0, 12).map((q) => (
            <div key={`asked ${q.row} ${q.column}`} className="small" data-asked>
              Row {q.row}, {q.column}: {q.sentence}
            </div>
          ))}
          {read.questions.length > 12 && (
            <div className="quiet small">and {read.questions.length - 12} more unusual values</div>
          )}
          <div className="row" style={{ margin: "6px 0" }}>
            <Button
              variant="contained"
              disabled={read.items.length === 0 || read.items.length > 500}
              onClick={() => void take()}
            >
              Take {read.items.length}
            </Button>
            <Button variant="outlined" onClick={() => setRead(null)}>
              Leave it
            </Button>
          </div>
        </div>
      )}
    </>
  );
}
