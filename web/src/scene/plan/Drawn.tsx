import { tone } from "../../app/tokens";
import type { Point } from "./drawing";
import { pathOf } from "./Storey";

const OUTLINES = ["polygon", "room", "neighbour"];
const LINES = ["window", "door", "scale", "cut"];

/** What is being drawn: the corners set so far, on to the pointer, or the form between two of them. */
export function Drawn({
  drawing,
  corners,
  pointer,
  ghost,
  px,
}: {
  drawing: string;
  corners: Point[];
  pointer: Point | null;
  ghost: Point[] | undefined;
  px: number;
}) {
  const outline = OUTLINES.includes(drawing);
  const ends = pointer && !(drawing === "scale" && corners.length === 2) ? [...corners, pointer] : corners;
  return (
    <>
      {ghost && (
        <path
          d={pathOf([ghost.map((p) => [p.x, p.y])])}
          fill="#1F6F7822"
          stroke={tone.tide}
          strokeWidth={1.6 * px}
          strokeDasharray={`${5 * px} ${4 * px}`}
        />
      )}
      {drawing === "place" && <Ways corners={corners} pointer={pointer} px={px} />}
      {(outline || LINES.includes(drawing)) && corners.length > 0 && (
        <>
          <polyline
            points={ends.map((p) => `${p.x},${p.y}`).join(" ")}
            fill={outline ? "#1F6F7822" : "none"}
            stroke={tone.tide}
            strokeWidth={1.6 * px}
          />
          {corners.map((p, i) => (
            <circle
              key={i}
              cx={p.x}
              cy={p.y}
              r={4 * px}
              fill={i === 0 ? tone.tide : tone.bright}
              stroke={tone.tide}
              strokeWidth={1.4 * px}
            />
          ))}
        </>
      )}
      {pointer && <circle cx={pointer.x} cy={pointer.y} r={3 * px} fill={tone.tide} />}
    </>
  );
}

/** From where to where the points of a plan go: pairs of corners, the last one to the pointer. */
function Ways({ corners, pointer, px }: { corners: Point[]; pointer: Point | null; px: number }) {
  const ends = pointer && corners.length < 4 ? [...corners, pointer] : corners;
  const pairs = [0, 2].flatMap((i) => (ends[i] && ends[i + 1] ? [[ends[i], ends[i + 1]]] : []));
  return (
    <g pointerEvents="none" stroke={tone.tide} strokeWidth={1.6 * px}>
      {pairs.map(([p, q], i) => (
        <line key={i} x1={p.x} y1={p.y} x2={q.x} y2={q.y} strokeDasharray={`${5 * px} ${4 * px}`} />
      ))}
      {corners.map((p, i) => (
        <circle key={i} cx={p.x} cy={p.y} r={4 * px} fill={i % 2 === 0 ? tone.bright : tone.tide} />
      ))}
    </g>
  );
}
