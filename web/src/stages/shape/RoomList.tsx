import { useMemo, useState } from "react";
import { useGeometry, useScheme, useShelf } from "../../api/hooks";
import { pick, useChosen, useKept } from "../../app/state";
import { figure, round } from "../../app/words";

type Key = "name" | "area" | "volume" | "glass" | "use";
const heads: [Key, string][] = [
  ["name", "Zone"],
  ["area", "Floor"],
  ["volume", "Volume"],
  ["glass", "Glass"],
  ["use", "Use"],
];

/** All zones with area, volume, glazing ratio and use; sorted by a click, linked to the canvas. */
export function RoomList() {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const chosen = useChosen();
  const geometry = useGeometry(scheme.id).data;
  const [sort, setSort] = useState<{ key: Key; down: boolean }>({ key: "name", down: false });
  const unitOf: Partial<Record<Key, string>> = {
    area: figure(1, "m²", units, 0).unit,
    volume: figure(1, "m³", units, 0).unit,
    glass: "%",
  };
  const shelf = useShelf().data;
  const names = useMemo(() => new Map((shelf?.profiles ?? []).map((p) => [p.id, p.name])), [shelf]);
  const rows = useMemo(() => {
    const made = (geometry?.zones ?? []).map((z) => {
      const walls = (geometry?.faces ?? []).filter(
        (f) => f.zone === z.id && f.kind === "wall" && f.boundary === "outdoors",
      );
      const wall = walls.reduce((sum, f) => sum + f.area, 0);
      const pane = walls.reduce((sum, f) => sum + f.window_area, 0);
      return {
        id: z.id,
        name: z.name,
        area: z.gross_floor_m2,
        volume: z.gross_volume_m3,
        glass: wall > 0 ? pane / wall : 0,
        use: names.get(z.profile) ?? z.profile,
      };
    });
    return made.sort((a, b) => {
      const [x, y] = [a[sort.key], b[sort.key]];
      const order = typeof x === "number" ? x - (y as number) : x.localeCompare(y as string, "en", { numeric: true });
      return sort.down ? -order : order;
    });
  }, [geometry, names, sort]);
  return (
    <details data-section="room-list">
      <summary>
        List of zones <span className="quiet">{geometry ? rows.length : "…"}</span>
      </summary>
      <div style={{ maxHeight: 300, overflow: "auto" }}>
        <table className="plain-table rooms">
          <thead>
            <tr>
              {heads.map(([key, name]) => (
                <th key={key} className={key === "name" || key === "use" ? "" : "num"}>
                  <button
                    type="button"
                    className="plain"
                    onClick={() => setSort({ key, down: sort.key === key && !sort.down })}
                  >
                    {name}
                    {unitOf[key] && ` ${unitOf[key]}`}
                    {sort.key === key && (sort.down ? " ↓" : " ↑")}
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.id} aria-selected={chosen.includes(r.id)}>
                <td style={{ whiteSpace: "normal" }}>
                  <button
                    type="button"
                    className="plain"
                    title="Shift adds to what is selected"
                    onClick={(e) => pick({ kind: "zone", id: r.id }, e.shiftKey)}
                  >
                    {r.name}
                  </button>
                </td>
                <td className="num">{figure(r.area, "m²", units, 0).text}</td>
                <td className="num">{figure(r.volume, "m³", units, 0).text}</td>
                <td className="num">{round(r.glass * 100, 0)}</td>
                <td style={{ whiteSpace: "normal" }}>{r.use}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </details>
  );
}
