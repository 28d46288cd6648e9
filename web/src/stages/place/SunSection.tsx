import { Button } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { useScheme } from "../../api/hooks";
import { useViewed } from "../../app/state";
import { tone } from "../../app/tokens";
import { dateOfHour } from "../../app/words";
import { DayField } from "../../fields/DayField";
import { type SunDay, sunAt, useSunDay } from "../../scene/SunLayer";

const named = [
  ["21 Jun", 171],
  ["21 Mar", 79],
  ["21 Dec", 354],
] as const;

/** The sun over the site: its way on a day, shadows at an hour or over the day, played if wished. */
export function SunSection() {
  const { state } = useScheme();
  const { sunDay, set } = useViewed("sunDay", "set");
  const [playing, setPlaying] = useState(false);
  const shown = sunDay !== null;
  const day = sunDay?.day ?? 171;
  const hour = sunDay?.hour ?? 12;
  const sun = useSunDay(shown ? day : null);
  const change = (part: Partial<NonNullable<typeof sunDay>>) =>
    set({ sunDay: { day, hour, range: false, ...sunDay, ...part } });
  const latest = useRef({ change, hour });
  latest.current = { change, hour };

  useEffect(() => {
    if (!playing) return;
    const beat = setInterval(() => {
      const next = latest.current.hour + 0.1;
      latest.current.change({ hour: next >= 24 ? 0 : Number(next.toFixed(2)) });
    }, 60);
    return () => clearInterval(beat);
  }, [playing]);
  useEffect(() => () => set({ sunDay: null }), [set]);

  const now = sunAt(sun, hour);
  const height = now ? Math.round((Math.asin(now[2]) * 180) / Math.PI) : null;
  return (
    <section>
      <div className="spread">
        <h3>Sun and shadows</h3>
        <button
          type="button"
          className="plain assumed small"
          disabled={!state.completed.place?.climate}
          onClick={() => {
            setPlaying(false);
            set({ sunDay: shown ? null : { day, hour, range: false } });
          }}
        >
          {shown ? "hide" : "show"}
        </button>
      </div>
      {shown && (
        <>
          <div className="row" style={{ flexWrap: "wrap", marginTop: 4 }}>
            <DayField label="Day of the shadows" day={day} onDay={(d) => change({ day: d })} />
            {named.map(([name, d]) => (
              <button key={name} type="button" className="plain assumed small" onClick={() => change({ day: d })}>
                {name}
              </button>
            ))}
          </div>
          <input
            type="range"
            aria-label="Day of the year"
            min={0}
            max={364}
            value={day}
            style={{ width: "100%" }}
            onChange={(e) => change({ day: Number(e.target.value) })}
          />
          <div className="row">
            <input
              type="range"
              aria-label="Hour of the day"
              min={0}
              max={24}
              step={0.1}
              value={hour}
              style={{ flex: 1 }}
              onChange={(e) => change({ hour: Number(e.target.value) })}
            />
            <span style={{ width: 44, textAlign: "right" }} data-hour>
              {clock(hour)}
            </span>
            <Button variant="outlined" onClick={() => setPlaying(!playing)}>
              {playing ? "Stop" : "Play"}
            </Button>
          </div>
          <label className="row small">
            <input
              type="checkbox"
              checked={sunDay?.range ?? false}
              onChange={(e) => change({ range: e.target.checked })}
            />
            shadows of every hour from two after sunrise to two before sunset
          </label>
          <div className="quiet small" data-sun-height>
            {height === null
              ? `The sun is down on ${dateOfHour(day * 24)} at ${clock(hour)}.`
              : `The sun stands ${height}° high.`}
          </div>
          {sun && <SunChart today={sun} hour={hour} north={state.completed.place?.north_deg ?? 0} />}
        </>
      )}
    </section>
  );
}

const clock = (hour: number) =>
  `${String(Math.floor(hour % 24)).padStart(2, "0")}:${String(Math.round((hour % 1) * 60) % 60).padStart(2, "0")}`;

/** The sky from below, true north up: the sun's ways on the solstices, the equinox and the day; rings every thirty degrees. */
function SunChart({ today, hour, north }: { today: SunDay; hour: number; north: number }) {
  const [summer, equinox, winter] = [useSunDay(171), useSunDay(79), useSunDay(354)];
  const [R, C] = [92, 110];
  const at = (v: number[]) => {
    const away = (1 - (2 * Math.asin(Math.min(Math.max(v[2], 0), 1))) / Math.PI) * R;
    const bearing = Math.atan2(v[0], v[1]) + (north * Math.PI) / 180;
    return [C + away * Math.sin(bearing), C - away * Math.cos(bearing)];
  };
  const path = (sun: SunDay | null) =>
    (sun?.toward ?? [])
      .map((v, i) => {
        const [x, y] = at(v);
        const apart = i === 0 || (sun?.hours[i] ?? 0) - (sun?.hours[i - 1] ?? 0) > 0.5;
        return `${apart ? "M" : "L"}${x.toFixed(1)} ${y.toFixed(1)}`;
      })
      .join("");
  const now = sunAt(today, hour);
  return (
    <svg
      viewBox="0 0 220 220"
      width="100%"
      style={{ maxWidth: 260, display: "block", margin: "6px auto 0" }}
      role="img"
      aria-label="Sun path, true north up"
    >
      {[0, 30, 60].map((height) => (
        <circle key={height} cx={C} cy={C} r={R * (1 - height / 90)} fill="none" stroke={tone.line} />
      ))}
      {[0, 45, 90, 135].map((a) => (
        <line
          key={a}
          x1={C - R * Math.sin((a * Math.PI) / 180)}
          y1={C - R * Math.cos((a * Math.PI) / 180)}
          x2={C + R * Math.sin((a * Math.PI) / 180)}
          y2={C + R * Math.cos((a * Math.PI) / 180)}
          stroke="#E6DFD0"
        />
      ))}
      {[summer, equinox, winter].map((s, i) => (
        <path
          key={["summer", "equinox", "winter"][i]}
          d={path(s)}
          fill="none"
          stroke={tone.brass}
          strokeDasharray="4 3"
        />
      ))}
      <path d={path(today)} fill="none" stroke={tone.brass} strokeWidth={2.2} />
      {today.hours.map((h, i) => {
        if (Math.abs(h - Math.round(h)) > 0.09 || h < Math.round(h)) return null;
        const [x, y] = at(today.toward[i]);
        return (
          <g key={h}>
            <circle cx={x} cy={y} r={1.6} fill={tone.ink} />
            {Math.round(h) % 3 === 0 && (
              <text x={x + 4} y={y - 3} fontSize={9} fill={tone.quiet}>
                {Math.round(h)}
              </text>
            )}
          </g>
        );
      })}
      {now && <circle cx={at(now)[0]} cy={at(now)[1]} r={5} fill="#E8C04A" stroke={tone.ink} />}
      {["N", "E", "S", "W"].map((name, i) => (
        <text
          key={name}
          x={C + (R + 10) * Math.sin((i * Math.PI) / 2)}
          y={C - (R + 10) * Math.cos((i * Math.PI) / 2) + 4}
          fontSize={11}
          textAnchor="middle"
          fill={tone.ink}
        >
          {name}
        </text>
      ))}
    </svg>
  );
}
