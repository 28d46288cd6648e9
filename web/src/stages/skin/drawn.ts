import type { Face, Geometry } from "../../api/client";

/** From where to where above their floor the windows of some walls are drawn, m; null where there are none. */
export function drawnBand(faces: Face[], geometry: Geometry | undefined): { sill: number; head: number } | null {
  const level = new Map((geometry?.zones ?? []).map((z) => [z.id, z.level]));
  const over = faces.flatMap((f) => {
    const floor = level.get(f.part || f.zone) ?? level.get(f.zone);
    return floor === undefined ? [] : f.windows.flat().map((p) => p[2] - floor);
  });
  return over.length > 0 ? { sill: Math.min(...over), head: Math.max(...over) } : null;
}
