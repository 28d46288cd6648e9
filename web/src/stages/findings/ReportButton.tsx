import { Button, MenuItem, Popover, Select, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, got } from "../../api/client";
import { useProject, useProjectId, useRanking } from "../../api/hooks";
import { saveFrom } from "../../app/files";
import { tell, useKept } from "../../app/state";

/** Who looks at the findings so long may want a report of them. */
const READS_MS = 2500;

const forms = [
  { id: "pdf", name: "Paper (PDF)" },
  { id: "html", name: "Page (HTML)" },
  { id: "xlsx", name: "Workbook (XLSX)" },
] as const;

/** Makes the report of all that is pinned, with a study where one is chosen, in the units that are shown. */
export function ReportButton() {
  const project = useProjectId();
  const state = useProject().data;
  const revision = state?.revision;
  const units = useKept((s) => s.units);
  const [at, setAt] = useState<HTMLElement | null>(null);
  const [title, setTitle] = useState("");
  const [study, setStudy] = useState("");
  const [busy, setBusy] = useState(false);
  const studies = useQuery({
    enabled: at !== null,
    queryKey: ["studies", project, revision],
    queryFn: () => got(client.GET("/api/projects/{project_id}/studies", { params: { path: { project_id: project } } })),
  }).data;

  // what is still assumed is ranked meanwhile: the report waits for nothing then
  const [reading, setReading] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setReading(true), READS_MS);
    return () => clearTimeout(timer);
  }, []);
  const reference = state?.completed.reference ?? "";
  const quick = useRanking(reference, false, reading && reference !== "");
  useRanking(reference, true, quick.isSuccess && !quick.isPlaceholderData);

  async function make(form: string) {
    setAt(null);
    setBusy(true);
    tell("The report is being made.");
    const body = JSON.stringify({ title, units, form, ...(study ? { study } : {}) });
    const head = { "Content-Type": "application/json" };
    const name = `${title.trim() || "report"}.${form}`;
    const saved = await saveFrom(`/api/projects/${project}/report`, { method: "POST", body, headers: head }, name);
    if (saved) tell("The report is saved.");
    setBusy(false);
  }

  return (
    <>
      <Button variant="contained" disabled={busy} onClick={(e) => setAt(e.currentTarget)}>
        {busy ? "Making the report …" : "Report"}
      </Button>
      <Popover
        anchorEl={at}
        open={Boolean(at)}
        onClose={() => setAt(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { role: "dialog", "aria-label": "Report" } }}
      >
        <div style={{ padding: "6px 16px 8px", width: 260 }}>
          <TextField
            fullWidth
            size="small"
            label="Title"
            placeholder="Comparison"
            value={title}
            slotProps={{ htmlInput: { maxLength: 200 } }}
            onChange={(e) => setTitle(e.target.value)}
          />
          <Select
            fullWidth
            size="small"
            displayEmpty
            value={study}
            sx={{ mt: 1 }}
            inputProps={{ "aria-label": "Study in the report" }}
            onChange={(e) => setStudy(e.target.value)}
          >
            <MenuItem value="">without a study</MenuItem>
            {(studies ?? [])
              .filter((s) => s.done > 0)
              .map((s) => (
                <MenuItem key={s.id} value={s.id}>
                  with “{s.name}”
                </MenuItem>
              ))}
          </Select>
        </div>
        <div className="row" style={{ padding: "0 16px 12px", gap: 6 }}>
          {forms.map((f) => (
            <Button key={f.id} variant="outlined" onClick={() => void make(f.id)}>
              {f.name}
            </Button>
          ))}
        </div>
      </Popover>
    </>
  );
}
