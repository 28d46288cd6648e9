import { Button } from "@mui/material";
import { useState } from "react";
import { make } from "../../api/edits";
import { useEdit } from "../../api/hooks";
import { useKept } from "../../app/state";
import type { Point } from "./drawing";
import { useChosenLaid } from "./Underlays";

/** Scales the chosen underlay by two of its points whose distance is known; the first one stays where it is. */
export function ScalePanel({ corners, onStop }: { corners: Point[]; onStop: () => void }) {
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const [text, setText] = useState("");
  const factor = units === "IP" ? 0.3048 : 1;
  const u = useChosenLaid();
  const [a, b] = corners;
  const drawn = a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0;
  const real = Number(text.replace(",", ".")) * factor;
  const ready = u && drawn > 1e-6 && real > 0;

  function apply() {
    if (!ready || !a) return;
    const by = real / drawn;
    const { path } = u;
    const edits = [
      make.set(`${path}/metres`, Number(((u.metres ?? 1) * by).toPrecision(10))),
      make.set(`${path}/x`, Number((a.x - (a.x - (u.x ?? 0)) * by).toFixed(4))),
      make.set(`${path}/y`, Number((a.y - (a.y - (u.y ?? 0)) * by).toFixed(4))),
    ];
    void edit(make.together(edits));
    onStop();
  }
  return (
    <div className="overlay drawing-panel" role="group" aria-label="Scale by two points">
      <span className="quiet">
        {corners.length === 0
          ? "Click a point of the plan whose distance to another you know"
          : corners.length === 1
            ? "Click the other point"
            : `They lie ${(drawn / factor).toFixed(2)} ${units === "IP" ? "ft" : "m"} apart. In truth it is`}
      </span>
      {corners.length === 2 && (
        <>
          <input
            className="text-box"
            aria-label="True distance"
            style={{ width: 70, textAlign: "right" }}
            value={text}
            inputMode="decimal"
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === "Enter") apply();
            }}
          />
          {units === "IP" ? "ft" : "m"}
          <Button variant="contained" disabled={!ready} onClick={apply}>
            Scale the plan
          </Button>
        </>
      )}
      <Button variant="outlined" onClick={onStop}>
        Leave it
      </Button>
    </div>
  );
}
