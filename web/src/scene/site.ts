/** Surroundings as they are drawn: boxes, footprints and trees. */
export interface SiteBox {
  id: string;
  name?: string;
  x: number;
  y: number;
  length: number;
  depth: number;
  height: number;
  turn_deg?: number;
  counts?: boolean;
}
export interface SiteFootprint {
  id: string;
  name?: string;
  points: { x: number; y: number }[];
  height: number;
  counts?: boolean;
}
export interface SiteTree {
  id: string;
  name?: string;
  x: number;
  y: number;
  height: number;
  crown: number;
  form?: "round" | "column" | "cone";
  counts?: boolean;
}
/** A neighbouring body of either kind, by its outline in plan. */
export interface Neighbour {
  kind: "box" | "footprint";
  id: string;
  name: string;
  plan: number[][];
  height: number;
  counts: boolean;
}

export function neighboursOf(boxes: SiteBox[], footprints: SiteFootprint[]): Neighbour[] {
  return [
    ...boxes.map((b) => ({
      kind: "box" as const,
      id: b.id,
      name: b.name || b.id,
      plan: boxPlan(b),
      height: b.height,
      counts: b.counts ?? true,
    })),
    ...footprints.map((f) => ({
      kind: "footprint" as const,
      id: f.id,
      name: f.name || f.id,
      plan: f.points.map((p) => [p.x, p.y]),
      height: f.height,
      counts: f.counts ?? true,
    })),
  ];
}

function boxPlan(b: SiteBox): number[][] {
  const t = (-(b.turn_deg ?? 0) * Math.PI) / 180;
  const turn = (x: number, y: number) => [
    b.x + x * Math.cos(t) - y * Math.sin(t),
    b.y + x * Math.sin(t) + y * Math.cos(t),
  ];
  return [turn(0, 0), turn(b.length, 0), turn(b.length, b.depth), turn(0, b.depth)];
}

/** The faces of a body over its outline: its top first, then its sides. */
export function bodyLoops(plan: number[][], ground: number, height: number): number[][][] {
  const level = (z: number) => plan.map(([x, y]) => [x, y, z]);
  const [low, high] = [level(ground), level(ground + height)];
  const n = plan.length;
  return [high, ...low.map((p, i) => [p, low[(i + 1) % n], high[(i + 1) % n], high[i]])];
}

/** A crown's faces as the caster takes them: eight-sided, about its middle, which lies at six tenths of the tree's height. */
export function crownLoops(t: SiteTree, ground: number): number[][][] {
  const [middle, half, r] = [ground + t.height * 0.6, t.height * 0.4, t.crown / 2];
  const ring = (z: number) =>
    Array.from({ length: 8 }, (_, i) => [
      t.x + r * Math.cos((i * Math.PI) / 4),
      t.y + r * Math.sin((i * Math.PI) / 4),
      z,
    ]);
  const top = [t.x, t.y, middle + half];
  const foot = [t.x, t.y, middle - half];
  if (t.form === "column") {
    const [low, high] = [ring(middle - half), ring(middle + half)];
    return [high, ...low.map((p, i) => [p, low[(i + 1) % 8], high[(i + 1) % 8], high[i]])];
  }
  const belt = ring(t.form === "cone" ? middle - half : middle);
  return [top, foot].flatMap((tip) => belt.map((p, i) => [p, belt[(i + 1) % 8], tip]));
}
