import { tone } from "../../app/tokens";
import type { Point } from "./drawing";

/** A frame that is drawn from one corner to the other, to select what lies in it. */
export interface FrameBox {
  from: Point;
  to: Point;
}

/** Whether at least half of the corners of an outline lie within a frame. */
export function framed({ from, to }: FrameBox, ring: number[][]): boolean {
  const [x0, x1] = [Math.min(from.x, to.x), Math.max(from.x, to.x)];
  const [y0, y1] = [Math.min(from.y, to.y), Math.max(from.y, to.y)];
  const inside = ring.filter(([x, y]) => x >= x0 && x <= x1 && y >= y0 && y <= y1).length;
  return inside * 2 >= ring.length;
}

export function Frame({ box, px }: { box: FrameBox; px: number }) {
  return (
    <rect
      data-frame
      x={Math.min(box.from.x, box.to.x)}
      y={Math.min(box.from.y, box.to.y)}
      width={Math.abs(box.to.x - box.from.x)}
      height={Math.abs(box.to.y - box.from.y)}
      fill="#1F6F7818"
      stroke={tone.tide}
      strokeWidth={1.2 * px}
      strokeDasharray={`${4 * px} ${3 * px}`}
      pointerEvents="none"
    />
  );
}
