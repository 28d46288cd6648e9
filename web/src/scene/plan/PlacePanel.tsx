import { Button } from "@mui/material";
import { make } from "../../api/edits";
import { useEdit } from "../../api/hooks";
import type { Point } from "./drawing";
import { type Underlay, useChosenLaid } from "./Underlays";

const asks = [
  "Click a point of the plan",
  "Click where it belongs",
  "Click a second point of the plan, or only move it",
  "Click where that one belongs",
  "The plan is turned about the first point",
];

/** Where an underlay lies once its points p go to q; with two pairs it is turned, and stretched where that is wanted. */
export function placed(
  u: Underlay,
  corners: Point[],
  stretch: boolean,
): { x: number; y: number; turn: number; metres: number } {
  const [p1, q1, p2, q2] = corners;
  const from = p2 && q2 ? { x: p2.x - p1.x, y: p2.y - p1.y } : { x: 1, y: 0 };
  const to = p2 && q2 ? { x: q2.x - q1.x, y: q2.y - q1.y } : { x: 1, y: 0 };
  const by = stretch ? Math.hypot(to.x, to.y) / Math.hypot(from.x, from.y) : 1;
  const angle = Math.atan2(to.y, to.x) - Math.atan2(from.y, from.x);
  const [c, s] = [Math.cos(angle) * by, Math.sin(angle) * by];
  const [dx, dy] = [(u.x ?? 0) - p1.x, (u.y ?? 0) - p1.y];
  const degrees = (u.turn_deg ?? 0) - (angle * 180) / Math.PI;
  return {
    x: q1.x + c * dx - s * dy,
    y: q1.y + s * dx + c * dy,
    turn: ((((degrees + 180) % 360) + 360) % 360) - 180,
    metres: (u.metres ?? 1) * by,
  };
}

/** Places the chosen underlay by one point or two that are shown on the canvas. */
export function PlacePanel({ corners, onStop }: { corners: Point[]; onStop: () => void }) {
  const edit = useEdit();
  const u = useChosenLaid();
  const [p1, , p2, q2] = corners;
  const apart = p2 ? Math.hypot(p2.x - p1.x, p2.y - p1.y) : 0;
  const both = Boolean(q2) && apart > 1e-6;

  function apply(stretch: boolean) {
    if (!u) return;
    const to = placed(u, both ? corners : corners.slice(0, 2), stretch);
    const set = (key: string, value: number) => make.set(`${u.path}/${key}`, value);
    const edits = [
      set("x", Number(to.x.toFixed(4))),
      set("y", Number(to.y.toFixed(4))),
      set("turn_deg", Number(to.turn.toFixed(6))),
      ...(stretch ? [set("metres", Number(to.metres.toPrecision(10)))] : []),
    ];
    void edit(make.together(edits));
    onStop();
  }
  return (
    <div className="overlay drawing-panel" role="group" aria-label="Place by points">
      <span className="quiet">{asks[corners.length]}</span>
      {corners.length === 2 && (
        <Button variant="outlined" onClick={() => apply(false)}>
          Only move it
        </Button>
      )}
      {both && (
        <>
          <Button variant="contained" onClick={() => apply(false)}>
            Move and turn
          </Button>
          <Button variant="outlined" onClick={() => apply(true)}>
            Scale it too
          </Button>
        </>
      )}
      <Button variant="outlined" onClick={onStop}>
        Leave it
      </Button>
    </div>
  );
}
