import type { PlanView } from "./view";

/** Lines to judge distances by. */
export function Grid({ view, h, px }: { view: PlanView; h: number; px: number }) {
  const step = view.w > 240 ? 50 : view.w > 60 ? 10 : 5;
  const lines: string[] = [];
  for (let x = Math.ceil(view.x / step) * step; x < view.x + view.w; x += step)
    lines.push(`M${x} ${view.y}V${view.y + h}`);
  for (let y = Math.ceil(view.y / step) * step; y < view.y + h; y += step)
    lines.push(`M${view.x} ${y}H${view.x + view.w}`);
  return <path d={lines.join("")} stroke="#E6DFD0" strokeWidth={px} fill="none" pointerEvents="none" />;
}
