import { Button } from "@mui/material";
import { useState } from "react";
import { saveFrom } from "../../../app/files";
import { tell, useKept } from "../../../app/state";
import { figure, scale } from "../../../app/words";
import { keepOnEnter } from "../../../fields/enter";
import { FileButton } from "../../../fields/FileButton";
import { className, type Rule, type Sift as SiftDocument, type Thing } from "./imports";

/** The decisions so far; each can be taken back. */
export function Decisions({
  sift,
  meets,
  lost,
  address,
  storeys,
  things,
  onChange,
}: {
  sift: SiftDocument;
  meets: Record<string, number>;
  /** How many mends are for objects that the file does not hold. */
  lost: number;
  /** Where they can be fetched as a file. */
  address: string;
  storeys: { id: string; name: string }[];
  things: Thing[];
  onChange: (next: (now: SiftDocument) => SiftDocument) => void;
}) {
  const rules = sift.rules ?? [];
  const mends = sift.mends ?? [];
  const gap = sift.gap_m ?? 0.5;
  const units = useKept((s) => s.units);
  const metre = scale("m", units);
  /** Takes decisions over from a file, in place of those so far. */
  async function apply(file: File) {
    const read = await file
      .text()
      .then(JSON.parse)
      .catch(() => null);
    if (read?.format !== "eurythm.sift") return tell(`“${file.name}” holds no decisions of a sift.`, true);
    onChange(() => read as SiftDocument);
  }
  const [text, setText] = useState<string | null>(null);
  const name = (r: Rule) =>
    r.by === "class"
      ? className(r.value)
      : r.by === "storey"
        ? `storey ${storeys.find((s) => s.id === r.value)?.name ?? r.value}`
        : r.by === "object"
          ? things.find((t) => t.id === r.value)?.name || "one object"
          : `${r.by} ${r.value}`;
  return (
    <section>
      <h3>Decisions</h3>
      <div className="spread" style={{ marginBottom: 4 }}>
        <label htmlFor="gap">Gaps bridged up to</label>
        <span className="whole-word">
          <input
            id="gap"
            className="cell"
            value={text ?? figure(gap, "m", units, units === "IP" ? 2 : 1).text}
            inputMode="decimal"
            onChange={(e) => setText(e.target.value)}
            onBlur={() => {
              const value = Number((text ?? "").replace(",", ".")) / metre.factor;
              if (text !== null && text.trim() !== "" && value >= 0 && value <= 3)
                onChange((now) => ({ ...now, gap_m: value }));
              setText(null);
            }}
            onKeyDown={keepOnEnter}
          />{" "}
          <span className="quiet small">{metre.unit}</span>
        </span>
      </div>
      <div className="spread">
        <label htmlFor="basis" className="whole-word">
          Zones from
        </label>
        <select
          id="basis"
          className="text-box"
          value={sift.basis ?? ""}
          onChange={(e) =>
            onChange((now) => ({ ...now, basis: (e.target.value || null) as "spaces" | "walls" | "outline" | null }))
          }
        >
          <option value="">the rooms, if any</option>
          <option value="walls">walls and slabs</option>
          <option value="outline">each storey's outline</option>
        </select>
      </div>
      {rules.map((r) => (
        <div key={r.id} className="spread small">
          <span>
            {r.keep ? "Keep" : "Leave out"} {name(r)}{" "}
            {r.by !== "object" && <span className="quiet whole-word">meets {meets[r.id] ?? "…"}</span>}
          </span>
          <button
            type="button"
            className="plain assumed whole-word"
            aria-label={`Take back: ${r.keep ? "keep" : "leave out"} ${name(r)}`}
            onClick={() => onChange((now) => ({ ...now, rules: (now.rules ?? []).filter((o) => o.id !== r.id) }))}
          >
            take back
          </button>
        </div>
      ))}
      {mends.length > 0 && (
        <div className="spread small">
          <span>
            {mends.length} {mends.length === 1 ? "value" : "values"} mended by hand
          </span>
          <button
            type="button"
            className="plain assumed whole-word"
            onClick={() => onChange((now) => ({ ...now, mends: [] }))}
          >
            take back
          </button>
        </div>
      )}
      {lost > 0 && (
        <div className="remark">
          {lost === 1 ? "1 mend is for an object" : `${lost} mends are for objects`} that this file does not have.
        </div>
      )}
      {rules.length + mends.length === 0 && <p className="quiet small">None yet.</p>}
      <div className="row" style={{ gap: 6, flexWrap: "wrap", marginTop: 6 }}>
        <FileButton name="Apply saved" accept=".json" onFile={(file) => void apply(file)} />
        {rules.length + mends.length > 0 && (
          <Button variant="outlined" onClick={() => void saveFrom(address)}>
            Save these
          </Button>
        )}
      </div>
    </section>
  );
}
