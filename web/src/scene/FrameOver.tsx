import { useState } from "react";
import { useView } from "../app/state";
import { useDrag } from "./drag";
import type { Projector } from "./View3D";

interface Corners {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** Lies over the model while a frame is drawn; tells which points lie within the frame that was drawn. */
export function FrameOver({
  projector,
  onFrame,
}: {
  projector: React.RefObject<Projector | null>;
  /** `through` is true where Alt was held: what lies behind counts too. */
  onFrame: (inside: (x: number, y: number, z: number) => boolean, project: Projector, through: boolean) => void;
}) {
  const set = useView((s) => s.set);
  const [left, setLeft] = useState({ x: 0, y: 0 });
  const [frame, hold] = useDrag<Corners>({
    follow: (now, e) => ({ ...now, x1: e.clientX - left.x, y1: e.clientY - left.y }),
    drop: ({ x0, y0, x1, y1 }, e) => {
      const project = projector.current;
      if (!project) return;
      const [low, high] = [
        { x: Math.min(x0, x1), y: Math.min(y0, y1) },
        { x: Math.max(x0, x1), y: Math.max(y0, y1) },
      ];
      const inside = (x: number, y: number, z: number) => {
        const p = project(x, y, z);
        return p.x >= low.x && p.x <= high.x && p.y >= low.y && p.y <= high.y;
      };
      onFrame(inside, project, e.altKey);
      set({ drawing: null });
    },
  });
  return (
    <div
      style={{
        position: "absolute",
        inset: 0,
        zIndex: 2,
        cursor: "crosshair",
        touchAction: "none",
        userSelect: "none",
      }}
      data-framing
      onPointerDown={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        setLeft({ x: box.left, y: box.top });
        const [x, y] = [e.clientX - box.left, e.clientY - box.top];
        hold({ x0: x, y0: y, x1: x, y1: y });
      }}
    >
      {frame && (
        <div
          data-frame
          style={{
            position: "absolute",
            left: Math.min(frame.x0, frame.x1),
            top: Math.min(frame.y0, frame.y1),
            width: Math.abs(frame.x1 - frame.x0),
            height: Math.abs(frame.y1 - frame.y0),
            border: "1px dashed #1F6F78",
            background: "#1F6F7818",
          }}
        />
      )}
    </div>
  );
}
