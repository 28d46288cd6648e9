import { Button } from "@mui/material";
import { useMemo, useState } from "react";
import { useKept } from "../../../app/state";
import { both } from "../../../app/words";
import { keepOnEnter } from "../../../fields/enter";
import type { Mend, Thing } from "./imports";

type Field = "number" | "name" | "use";
const heads: { key: Field | "storey" | "area"; name: string }[] = [
  { key: "number", name: "No." },
  { key: "name", name: "Name" },
  { key: "use", name: "Use" },
  { key: "storey", name: "Storey" },
  { key: "area", name: "Area" },
];

/** The rooms of the file; names, numbers and uses are mended here, one by one or many at once. */
export function Rooms({
  rooms,
  mends,
  selected,
  onPick,
  onMend,
}: {
  rooms: Thing[];
  mends: Mend[];
  selected: string[];
  onPick: (id: string, add: boolean) => void;
  onMend: (values: { object: string; field: Field; value: string }[]) => void;
}) {
  const units = useKept((s) => s.units);
  const [sort, setSort] = useState<{ key: string; down: boolean }>({ key: "number", down: false });
  const [many, setMany] = useState<{ field: Field; value: string }>({ field: "use", value: "" });
  const sorted = useMemo(() => {
    const of = (t: Thing) =>
      sort.key === "area" ? t.floor_area_m2 : String(t[sort.key as "name" | "number" | "use" | "storey"]);
    return [...rooms].sort((a, b) => {
      const [x, y] = [of(a), of(b)];
      const order = typeof x === "number" ? x - (y as number) : x.localeCompare(y as string, "en", { numeric: true });
      return sort.down ? -order : order;
    });
  }, [rooms, sort]);
  const touched = new Set(mends.map((m) => `${m.object} ${m.field}`));
  const chosen = rooms.filter((r) => selected.includes(r.id));
  return (
    <>
      {chosen.length > 1 && (
        <div className="row" style={{ gap: 6, flexWrap: "wrap", margin: "4px 0 8px" }}>
          <span>{chosen.length} chosen:</span>
          <select
            aria-label="Field to give to all chosen"
            className="text-box"
            value={many.field}
            onChange={(e) => setMany({ ...many, field: e.target.value as Field })}
          >
            <option value="use">use</option>
            <option value="name">name</option>
          </select>
          <input
            className="text-box"
            aria-label="Value for all chosen"
            value={many.value}
            onChange={(e) => setMany({ ...many, value: e.target.value })}
          />
          <Button
            variant="outlined"
            disabled={!many.value.trim()}
            onClick={() => onMend(chosen.map((r) => ({ object: r.id, field: many.field, value: many.value.trim() })))}
          >
            Give to all
          </Button>
        </div>
      )}
      <div style={{ maxHeight: 320, overflow: "auto" }}>
        <table className="plain-table rooms sifted">
          <thead>
            <tr>
              {heads.map((h) => (
                <th key={h.key} className={h.key === "area" ? "num" : ""}>
                  <button
                    type="button"
                    className="plain"
                    onClick={() => setSort({ key: h.key, down: sort.key === h.key && !sort.down })}
                  >
                    {h.name}
                    {sort.key === h.key && (sort.down ? " ↓" : " ↑")}
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {sorted.map((r) => (
              <tr
                key={r.id}
                aria-selected={selected.includes(r.id)}
                className={r.keep ? "" : "quiet"}
                data-room={r.number || r.name}
                onClick={(e) => onPick(r.id, e.shiftKey || e.ctrlKey)}
              >
                {(["number", "name", "use"] as const).map((field) => (
                  <td key={field} className={touched.has(`${r.id} ${field}`) ? "changed" : ""}>
                    <Cell
                      value={r[field]}
                      label={`${field} of ${r.number || r.name || "a room without name"}`}
                      onCommit={(value) => onMend([{ object: r.id, field, value }])}
                    />
                  </td>
                ))}
                <td>{r.storey || "none"}</td>
                <td className="num">{both(r.floor_area_m2, "m²", units, 1)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

function Cell({ value, label, onCommit }: { value: string; label: string; onCommit: (value: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <textarea
      className="cell"
      rows={1}
      aria-label={label}
      value={text ?? value}
      placeholder="none"
      onClick={(e) => e.stopPropagation()}
      onChange={(e) => setText(e.target.value.replace(/\s*\n\s*/g, " "))}
      onBlur={() => {
        if (text !== null && text.trim() !== value) onCommit(text.trim());
        setText(null);
      }}
      onKeyDown={(e) => {
        keepOnEnter(e);
        if (e.key === "Escape") setText(null);
      }}
    />
  );
}
