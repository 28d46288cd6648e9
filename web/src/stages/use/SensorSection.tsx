import { make } from "../../api/edits";
import { useEdit, useScheme } from "../../api/hooks";
import { useKept, useViewed } from "../../app/state";
import { tone } from "../../app/tokens";
import { both } from "../../app/words";
import { useDrag } from "../../scene/drag";
import { keeping, keyOf, placedId, round3, type Sensor } from "./DaylightSection";

const WIDE = 290;
const MARGIN = 14;

/** A sensor's zone cut upright through it, with the glass that the cut meets; the sensor is dragged in depth and height. */
export function SensorSection({ sensor }: { sensor: Sensor }) {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const { sensors, set } = useViewed("sensors", "set");
  const edit = useEdit();
  const cut = sensor.section;
  const [moved, hold] = useDrag<{ from: { x: number; y: number }; along: number; height: number }>({
    follow: (now, e) => {
      const step = e.altKey ? 0.01 : 0.1;
      const on = (v: number) => Math.round(v / step) * step;
      if (!cut) return now;
      const along = on((e.clientX - now.from.x) / scale);
      const height = on(sensor.height_m - (e.clientY - now.from.y) / scale);
      return {
        ...now,
        along: Math.min(Math.max(along, cut.start + 0.05), cut.end - 0.05),
        height: Math.min(Math.max(height, 0), cut.top - 0.05),
      };
    },
    drop: ({ along, height }) => {
      if (!cut || !sensors || (Math.abs(along) < 0.005 && Math.abs(height - sensor.height_m) < 0.005)) return;
      const x = sensor.own[0] + cut.way[0] * along;
      const y = sensor.own[1] + cut.way[1] * along;
      const list = `schemes/${scheme.id}/use/sensors`;
      const number = sensors.sensors.filter((s) => s.zone === sensor.zone).indexOf(sensor);
      const id = sensor.id ?? placedId(sensor.zone, number);
      const moves = sensor.id
        ? [make.set(`${list}/${id}/x`, round3(x)), make.set(`${list}/${id}/y`, round3(y))]
        : keeping(scheme.id, sensors, sensor.zone, { key: keyOf(sensor, sensors), x, y });
      const raised = height === sensor.height_m ? [] : [make.set(`${list}/${id}/height_m`, round3(height))];
      void edit(make.together([...moves, ...raised])).then(() => set({ selection: { kind: "sensor", id } }));
    },
  });
  if (!cut) return null;
  const scale = Math.min((WIDE - 2 * MARGIN) / (cut.end - cut.start), 150 / cut.top);
  const left = (WIDE - (cut.end - cut.start) * scale) / 2;
  const high = cut.top * scale + 2 * MARGIN;
  const across = (d: number) => left + (d - cut.start) * scale;
  const up = (z: number) => high - MARGIN - z * scale;
  const at = moved ?? { along: 0, height: sensor.height_m };
  const told = `${both(at.along - cut.start, "m", units, 2)} in, ${both(at.height, "m", units, 2)} up`;
  return (
    <svg
      width={WIDE}
      height={high}
      data-sensor-section={sensor.zone}
      role="img"
      aria-label={`Section of ${sensor.zone_name} through its sensor: ${told}`}
      style={{ display: "block", margin: "6px 0" }}
    >
      <rect
        x={across(cut.start)}
        y={up(cut.top)}
        width={(cut.end - cut.start) * scale}
        height={cut.top * scale}
        fill={tone.paper}
      />
      {[0, cut.top].map((z) => (
        <line
          key={z}
          x1={across(cut.start)}
          x2={across(cut.end)}
          y1={up(z)}
          y2={up(z)}
          stroke={tone.ink}
          strokeWidth={1.4}
        />
      ))}
      {[cut.start, cut.end].map((d, k) => (
        <line
          key={d}
          x1={across(d)}
          x2={across(d)}
          y1={up(0)}
          y2={up(cut.top)}
          stroke={cut.open_ends[k] ? tone.quiet : tone.ink}
          strokeWidth={cut.open_ends[k] ? 0.8 : 1.4}
          strokeDasharray={cut.open_ends[k] ? "5,4" : undefined}
        />
      ))}
      {cut.openings.map(([d, low, top]) => (
        <line
          key={`${d} ${low}`}
          x1={across(d)}
          x2={across(d)}
          y1={up(low)}
          y2={up(top)}
          stroke={tone.tide}
          strokeWidth={5}
        />
      ))}
      <line
        x1={across(cut.start)}
        x2={across(cut.end)}
        y1={up(at.height)}
        y2={up(at.height)}
        stroke={tone.ink}
        strokeWidth={0.6}
        strokeDasharray="3,3"
      />
      <g
        data-section-sensor
        transform={`translate(${across(at.along)},${up(at.height)})`}
        style={{ cursor: "move" }}
        onPointerDown={(e) => {
          e.preventDefault();
          hold({ from: { x: e.clientX, y: e.clientY }, along: 0, height: sensor.height_m });
        }}
      >
        <circle r={10} fill="transparent" />
        <circle
          r={5}
          fill={tone.brass}
          stroke={tone.ink}
          strokeWidth={1.4}
          strokeDasharray={sensor.id ? undefined : "2,1.6"}
        />
        <line y1={0} y2={sensor.looks === "down" ? 12 : -12} stroke={tone.ink} strokeWidth={1.4} />
      </g>
      {moved && (
        <text x={WIDE / 2} y={11} textAnchor="middle" fontSize={11} fill={tone.ink}>
          {told}
        </text>
      )}
    </svg>
  );
}
