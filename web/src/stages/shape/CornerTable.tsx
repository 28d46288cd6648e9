import { useState } from "react";
import { make } from "../../api/edits";
import { useEdit } from "../../api/hooks";
import { useKept } from "../../app/state";
import { keepOnEnter } from "../../fields/enter";
import type { Corner } from "../../scene/plan/held";
import { withCorner } from "../../scene/plan/held";

/** The corners of an outline by their coordinates, each of which can be typed. */
export function CornerTable({ path, points, what }: { path: string; points: Corner[]; what: string }) {
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const factor = units === "IP" ? 0.3048 : 1;
  const put = (value: Corner[]) => void edit(make.set(path, value));
  const lengthFrom = (i: number) => {
    const [a, b] = [points[i], points[(i + 1) % points.length]];
    return Math.hypot(b.x - a.x, b.y - a.y);
  };
  return (
    <details data-section="corners">
      <summary>
        Corners of the {what} <span className="quiet">{points.length}</span>
      </summary>
      <div style={{ maxHeight: 260, overflow: "auto" }}>
        <table className="plain-table corners">
          <thead>
            <tr>
              <th className="num">x {units === "IP" ? "ft" : "m"}</th>
              <th className="num">y</th>
              <th className="num">side from it</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {points.map((p, i) => (
              <tr key={p.id} data-corner-row={p.id}>
                {(["x", "y"] as const).map((k) => (
                  <td key={k} className="num">
                    <Coordinate
                      name={`${path}/${p.id}/${k}`}
                      label={`Corner ${i + 1}, ${k}`}
                      value={p[k] / factor}
                      onCommit={(v) =>
                        put(points.map((q) => (q === p ? { ...q, [k]: Number((v * factor).toFixed(4)) } : q)))
                      }
                    />
                  </td>
                ))}
                <td className="num">{(lengthFrom(i) / factor).toFixed(2)}</td>
                <td style={{ whiteSpace: "nowrap" }}>
                  <button
                    type="button"
                    className="plain small"
                    title="Add a corner in the middle of the side from it"
                    aria-label={`Add a corner after ${i + 1}`}
                    onClick={() => put(withCorner(points, i))}
                  >
                    +
                  </button>
                  <button
                    type="button"
                    className="plain small"
                    title="Remove this corner"
                    aria-label={`Remove corner ${i + 1}`}
                    disabled={points.length <= 3}
                    onClick={() => put(points.filter((q) => q !== p))}
                  >
                    −
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </details>
  );
}

function Coordinate({
  name,
  label,
  value,
  onCommit,
}: {
  name: string;
  label: string;
  value: number;
  onCommit: (value: number) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const shown = value.toFixed(3).replace(/\.?0+$/, "");
  const typed = text === null ? value : Number(text.replace(",", "."));
  return (
    <input
      className="text-box"
      style={{ width: 72, textAlign: "right" }}
      name={name}
      aria-label={label}
      aria-invalid={!Number.isFinite(typed)}
      inputMode="decimal"
      value={text ?? shown}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        if (text?.trim() && Number.isFinite(typed) && text !== shown) onCommit(typed);
        setText(null);
      }}
      onKeyDown={(e) => {
        keepOnEnter(e);
        if (e.key === "Escape") setText(null);
      }}
    />
  );
}
