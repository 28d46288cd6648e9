/** Surroundings as they are drawn: boxes and trees. */
export interface SiteBox {
  id: string;
  x: number;
  y: number;
  length: number;
  depth: number;
  height: number;
  turn_deg?: number;
}
export interface SiteTree {
  id: string;
  x: number;
  y: number;
  height: number;
  crown: number;
}

export function boxLoops(b: SiteBox, ground: number): number[][][] {
  const t = (-(b.turn_deg ?? 0) * Math.PI) / 180;
  const turn = (x: number, y: number) => [
    b.x + x * Math.cos(t) - y * Math.sin(t),
    b.y + x * Math.sin(t) + y * Math.cos(t),
  ];
  const plan = [turn(0, 0), turn(b.length, 0), turn(b.length, b.depth), turn(0, b.depth)];
  const level = (z: number) => plan.map(([x, y]) => [x, y, z]);
  const low = level(ground);
  const high = level(ground + b.height);
  return [high, ...low.map((p, i) => [p, low[(i + 1) % 4], high[(i + 1) % 4], high[i]])];
}
