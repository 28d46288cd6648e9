import { Button } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { useProjectId } from "../../../api/hooks";
import { tell } from "../../../app/state";
import { FileButton } from "../../../fields/FileButton";

type Asked = Schemas["Requirements"];

/** The model against an IDS file: which objects meet what is asked of them, which do not, and why. */
export function Requirements({ id, onPick }: { id: string; onPick: (object: string) => void }) {
  const project = useProjectId();
  const [answer, setAnswer] = useState<Asked | null>(null);
  const [busy, setBusy] = useState(false);

  async function check(file?: File) {
    setBusy(true);
    const body = new FormData();
    if (file) body.append("file", file);
    const said = await fetch(`/api/projects/${project}/imports/${id}/requirements`, {
      method: "POST",
      body: file ? body : undefined,
    });
    const found = (await said.json()) as Asked & { message?: string };
    setBusy(false);
    if (said.ok) setAnswer(found);
    else tell(found.message ?? "The requirements could not be checked.", true);
  }
  return (
    <section data-section="requirements">
      <div className="spread">
        <h3>Requirements</h3>
        <span className="quiet small">{answer ? answer.title : "IDS"}</span>
      </div>
      <div className="row" style={{ gap: 6, marginBottom: 6 }}>
        <Button variant="outlined" disabled={busy} onClick={() => void check()}>
          {busy ? "Checking" : "Check ours"}
        </Button>
        <FileButton name="Check an IDS file" accept=".ids,.xml" busy={busy} onFile={(file) => void check(file)} />
      </div>
      {answer?.requirements.map((r) => (
        <details key={r.name} data-requirement={r.name}>
          <summary>
            {r.name}
            <span className="quiet small">
              {r.applicable === 0 ? "none to ask" : `${r.passed} of ${r.applicable} do`}
            </span>
          </summary>
          <p className="quiet small">{r.description}</p>
          {r.failed.map((f) => (
            <button
              key={`${f.object}${f.reason}`}
              type="button"
              className="plain remark finding"
              onClick={() => f.object && onPick(f.object)}
            >
              {f.called}: {f.reason}
            </button>
          ))}
        </details>
      ))}
    </section>
  );
}
