import type { Geometry } from "../api/client";
import { tone } from "../app/tokens";

/** A small picture of a form, seen from the south-east above; painted from the back to the front. */
export function MiniForm({
  geometry,
  width = 150,
  height = 96,
}: {
  geometry: Geometry;
  width?: number;
  height?: number;
}) {
  const project = ([x, y, z]: number[]) => [x * 0.86 + y * 0.5, -(x * -0.28 + y * 0.46) - z * 0.9];
  const depth = (loop: number[][]) =>
    loop.reduce((sum, [x, y, z]) => sum + (x * 0.5 - y * 0.86) * 0.9 + z * 0.62, 0) / loop.length;
  const shown = geometry.faces.filter((f) => f.boundary !== "zone" && f.kind !== "floor");
  const facing = shown.filter((f) => {
    const [a, b, c] = f.loops[0];
    const u = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
    const v = [c[0] - b[0], c[1] - b[1], c[2] - b[2]];
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    return f.kind === "ceiling" || n[0] * 0.5 - n[1] * 0.86 > 0;
  });
  const all = facing.flatMap((f) => f.loops[0].map(project));
  if (all.length === 0) return null;
  const [x0, x1] = [Math.min(...all.map((p) => p[0])), Math.max(...all.map((p) => p[0]))];
  const [y0, y1] = [Math.min(...all.map((p) => p[1])), Math.max(...all.map((p) => p[1]))];
  const d = (loops: number[][][]) =>
    loops
      .map(
        (l) =>
          `M${l
            .map((p) =>
              project(p)
                .map((n) => n.toFixed(2))
                .join(","),
            )
            .join("L")}Z`,
      )
      .join("");
  const line = (x1 - x0) / 220;
  const key = (p: number[], q: number[]) => [...p, ...q].map((n) => n.toFixed(2)).join(" ");
  const edges = new Set(
    facing
      .filter((f) => f.kind === "ceiling")
      .flatMap((f) => f.loops.flatMap((l) => l.map((p, i) => key(p, l[(i + 1) % l.length])))),
  );
  /** The edges of a roof part that no other part shares. */
  const rim = (f: Geometry["faces"][number]) =>
    f.loops
      .flatMap((l) => l.map((p, i) => [p, l[(i + 1) % l.length]]))
      .filter(([p, q]) => !edges.has(key(q, p)))
      .map(([p, q]) => `M${project(p).join(",")}L${project(q).join(",")}`)
      .join("");
  return (
    <svg width={width} height={height} viewBox={`${x0 - 1} ${y0 - 1} ${x1 - x0 + 2} ${y1 - y0 + 2}`} aria-hidden="true">
      {[...facing]
        .sort((a, b) => depth(a.loops[0]) - depth(b.loops[0]))
        .map((f) => (
          <g key={f.id}>
            <path
              d={d(f.loops)}
              fillRule="evenodd"
              fill={f.kind === "ceiling" ? tone.bright : f.loops[0][0][0] === f.loops[0][1][0] ? "#E9E2D3" : "#F3EEE2"}
              stroke={f.kind === "ceiling" ? "none" : tone.ink}
              strokeWidth={line}
            />
            {f.kind === "ceiling" && <path d={rim(f)} fill="none" stroke={tone.ink} strokeWidth={line} />}
            {f.windows.length > 0 && <path d={d(f.windows)} fill="#8FBDBF" stroke="#4E7478" strokeWidth={line * 0.6} />}
          </g>
        ))}
    </svg>
  );
}
