import type { Schemas } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit } from "../../api/hooks";
import type { Selection } from "../../app/state";
import { tone } from "../../app/tokens";
import { keeping, keyOf, placedId, round3, type Sensor } from "../../stages/use/DaylightSection";
import { useDrag } from "../drag";
import type { Point } from "./drawing";

/** The light sensors of a storey; dragging one places it by hand, and with it those that were proposed beside it. */
export function LightSensors({
  scheme,
  sensors,
  level,
  chosen,
  px,
  idle,
  raw,
  into,
  onSelect,
}: {
  scheme: string;
  sensors: Schemas["SensorsOut"];
  level: number;
  chosen: string[];
  px: number;
  idle: boolean;
  raw: (e: { clientX: number; clientY: number }) => Point;
  /** From the drawing into the scheme's own axes before it is turned. */
  into: (p: Point) => Point;
  onSelect: (s: Selection) => void;
}) {
  const edit = useEdit();
  const [moved, hold] = useDrag<{ sensor: Sensor; from: Point; at: Point }>({
    follow: (now, e) => {
      const to = raw(e);
      const step = e.altKey ? 0.01 : 0.1;
      const on = (v: number) => Math.round(v / step) * step;
      const [x, y] = now.sensor.at;
      return { ...now, at: { x: on(x + to.x - now.from.x), y: on(y + to.y - now.from.y) } };
    },
    drop: ({ sensor, at }) => {
      if (Math.hypot(at.x - sensor.at[0], at.y - sensor.at[1]) < 0.005) return;
      const own = into(at);
      const list = `schemes/${scheme}/use/sensors`;
      const key = keyOf(sensor, sensors);
      const moves = sensor.id
        ? [make.set(`${list}/${sensor.id}/x`, round3(own.x)), make.set(`${list}/${sensor.id}/y`, round3(own.y))]
        : keeping(scheme, sensors, sensor.zone, { key, ...own });
      const number = sensors.sensors.filter((s) => s.zone === sensor.zone).indexOf(sensor);
      void edit(make.together(moves)).then(() =>
        onSelect({ kind: "sensor", id: sensor.id ?? placedId(sensor.zone, number) }),
      );
    },
  });
  return (
    <>
      {sensors.sensors
        .filter((s) => Math.abs(s.at[2] - s.height_m - level) < 0.02)
        .map((s) => {
          const key = keyOf(s, sensors);
          const at = moved && keyOf(moved.sensor, sensors) === key ? moved.at : { x: s.at[0], y: s.at[1] };
          const on = chosen.includes(key);
          return (
            <g
              key={key}
              data-light-sensor={key}
              transform={`translate(${at.x},${at.y})`}
              style={{ cursor: idle ? "crosshair" : "move" }}
              onPointerDown={(e) => {
                if (idle) return;
                e.stopPropagation();
                onSelect({ kind: "sensor", id: key });
                hold({ sensor: s, from: raw(e), at: { x: s.at[0], y: s.at[1] } });
              }}
            >
              <circle r={9 * px} fill="transparent" />
              <circle
                r={5 * px}
                fill={on ? tone.brass : tone.bright}
                stroke={tone.ink}
                strokeWidth={1.4 * px}
                strokeDasharray={s.id ? undefined : `${2 * px},${1.6 * px}`}
              />
              {s.looks === "down" && <circle r={1.8 * px} fill={tone.ink} />}
            </g>
          );
        })}
    </>
  );
}
