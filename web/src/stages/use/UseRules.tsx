import { Button, MenuItem, Select } from "@mui/material";
import { make } from "../../api/edits";
import { type ShelfProfile, useEdit, useGeometry, useScheme } from "../../api/hooks";
import { selectAll } from "../../app/state";
import { count, freshId } from "../../app/words";
import { at } from "../../fields/paths";
import { Cell } from "../skin/builder/Layers";

export interface ZoneUse {
  id: string;
  zone: string;
  profile?: string | null;
  conditioned?: boolean | null;
}
const isRule = (entry: ZoneUse) => /[*?[]/.test(entry.zone);

/** Which zones have which use profile by the pattern of their ids; what is chosen at a zone by hand stands before rules. */
export function UseRules({ profiles }: { profiles: ShelfProfile[] }) {
  const { scheme } = useScheme();
  const edit = useEdit();
  const geometry = useGeometry(scheme.id).data;
  const path = `schemes/${scheme.id}/use/zones`;
  const rules = ((scheme.use?.zones ?? []) as ZoneUse[]).filter((z) => isRule(z) && z.profile);
  /** Changes the rules as they stand when the edit's turn comes; entries of single zones stay behind them, so that they count. */
  const keep = (next: (now: ZoneUse[]) => ZoneUse[]) =>
    edit((state) => {
      const now = (at(state.given, path) ?? []) as ZoneUse[];
      return make.set(path, [...next(now.filter(isRule)), ...now.filter((z) => !isRule(z))]);
    });
  const change = (id: string, part: Partial<ZoneUse>) =>
    keep((now) => now.map((r) => (r.id === id ? { ...r, ...part } : r)));
  const fitting = (id: string) => (geometry?.zones ?? []).filter((z) => z.profile_by === `by rule ${id}`);

  return (
    <details open={rules.length > 0}>
      <summary>
        Rules by zone <span className="quiet">{rules.length || "none"}</span>
      </summary>
      <div className="small quiet" style={{ marginBottom: 4 }}>
        What is chosen at a zone by hand counts first, then the last rule that fits, then the drawing, then the scheme.
        * stands for anything.
      </div>
      <Button
        variant="outlined"
        size="small"
        disabled={profiles.length === 0}
        onClick={() =>
          void keep((now) => [
            ...now,
            {
              id: freshId(
                "use",
                ((scheme.use?.zones ?? []) as ZoneUse[]).map((z) => z.id),
              ),
              zone: "*",
              profile: scheme.use?.profile,
            },
          ])
        }
      >
        Add rule
      </Button>
      {rules.map((r, i) => {
        const fits = fitting(r.id);
        return (
          <div key={r.id} className="use-rule" data-use-rule={r.id}>
            <Cell
              wide
              label={`Use rule ${i + 1}, zones`}
              value={r.zone}
              onCommit={(t) => (t.trim() ? change(r.id, { zone: t.trim() }) : undefined)}
            />
            <Select
              value={r.profile ?? ""}
              inputProps={{ "aria-label": `Use rule ${i + 1}, profile` }}
              onChange={(e) => void change(r.id, { profile: e.target.value })}
            >
              {profiles.map((p) => (
                <MenuItem key={p.id} value={p.id}>
                  {p.name}
                </MenuItem>
              ))}
            </Select>
            <button
              type="button"
              className="plain small assumed"
              onClick={() =>
                selectAll(
                  "zone",
                  fits.map((z) => z.id),
                )
              }
            >
              {count(fits.length, "zone")}
            </button>
            <button
              type="button"
              className="plain"
              aria-label={`Use rule ${i + 1} later`}
              title="later rules count before earlier ones"
              disabled={i === rules.length - 1}
              onClick={() =>
                void keep((now) => {
                  const next = [...now];
                  const from = next.findIndex((o) => o.id === r.id);
                  const [one] = next.splice(from, 1);
                  next.splice(from + 1, 0, one);
                  return next;
                })
              }
            >
              ↓
            </button>
            <button
              type="button"
              className="plain"
              aria-label={`Remove use rule ${i + 1}`}
              onClick={() => void keep((now) => now.filter((o) => o.id !== r.id))}
            >
              ×
            </button>
          </div>
        );
      })}
    </details>
  );
}
