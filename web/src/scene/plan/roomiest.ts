/** A place within an outline with courtyards for its name: its middle, and how far it reaches there. */
export interface Spot {
  x: number;
  y: number;
  wide: number;
  high: number;
}

const LINES = 9;

/** Where an outline with courtyards is widest along a level line, nearest to its middle where several are alike. */
export function roomiest(rings: number[][][]): Spot | null {
  if (rings.length === 0) return null;
  const [low, high] = reach(rings[0], 1);
  const middle = (low + high) / 2;
  let best: Spot | null = null;
  for (let k = 0; k < LINES; k++) {
    // from the middle outward, so that a rectangle has its name in its middle
    const off = (k % 2 === 0 ? 1 : -1) * Math.ceil(k / 2);
    const y = middle + (off * (high - low)) / (LINES + 1);
    for (const [from, to] of spans(rings, 1, y)) {
      if (best && to - from < best.wide * 1.05) continue;
      const x = (from + to) / 2;
      const across = spans(rings, 0, x).find(([a, b]) => y >= a && y <= b);
      if (across) best = { x, y: (across[0] + across[1]) / 2, wide: to - from, high: across[1] - across[0] };
    }
  }
  return best;
}

function reach(ring: number[][], axis: number): [number, number] {
  const values = ring.map((p) => p[axis]);
  return [Math.min(...values), Math.max(...values)];
}

/** The stretches of a line across an axis that lie within the rings, as pairs along the other axis. */
function spans(rings: number[][][], axis: 0 | 1, value: number): [number, number][] {
  const other = 1 - axis;
  const cuts: number[] = [];
  for (const ring of rings)
    for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
      const [p, q] = [ring[j], ring[i]];
      if (p[axis] > value !== q[axis] > value)
        cuts.push(p[other] + ((value - p[axis]) / (q[axis] - p[axis])) * (q[other] - p[other]));
    }
  cuts.sort((a, b) => a - b);
  return cuts.flatMap((c, i) => (i % 2 === 0 && i + 1 < cuts.length ? [[c, cuts[i + 1]] as [number, number]] : []));
}
