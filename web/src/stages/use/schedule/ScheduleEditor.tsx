import { Button, Menu, MenuItem } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { client, got } from "../../../api/client";
import { useProject, useProjectId } from "../../../api/hooks";
import { versionOf } from "../../../api/versions";
import { freshId } from "../../../app/words";
import { Carpet } from "../../../charts/Carpet";
import { keepOnEnter } from "../../../fields/enter";
import { DayBars } from "./DayBars";
import type { Kind } from "./kinds";
import { type Day, lean, oneDay, type Schedule } from "./profile";
import { Rules } from "./Rules";
import { YearStrip } from "./YearStrip";

export const dayColours = ["#B7C9C4", "#D9C6A5", "#A9B4C2", "#CDB4B0", "#B9C29B", "#C8BBD0", "#8FA6A0", "#E0D3B8"];

/** Which day of a schedule holds on each day of the year, by the project's calendar. */
function useYear(schedule: Schedule) {
  const project = useProjectId();
  const place = useProject().data?.completed.place;
  const body = lean(schedule);
  return useQuery({
    queryKey: [
      "schedule-year",
      project,
      versionOf(place),
      JSON.stringify([body.rules, schedule.days.map((d) => d.id)]),
    ],
    queryFn: () =>
      got(
        client.POST("/api/projects/{project_id}/schedules/year", {
          params: { path: { project_id: project } },
          body,
        }),
      ),
    placeholderData: keepPreviousData,
    enabled: !schedule.hourly,
  });
}

/** One schedule: its days as bars, the rules that order them, and the year that comes of it. */
export function ScheduleEditor({
  schedule,
  kind,
  name,
  others,
  aside,
  onDraw,
  onChange,
  onCopyTo,
}: {
  schedule: Schedule;
  kind: Kind;
  name: string;
  /** Other schedules of the profile that days and rules can be copied to. */
  others: { id: string; name: string }[];
  /** What stands beside the day. */
  aside: ReactNode;
  onDraw: (change: (now: Schedule) => Schedule) => void;
  onChange: (change: (now: Schedule) => Schedule) => unknown;
  onCopyTo: (id: string) => unknown;
}) {
  const [wanted, setWanted] = useState("");
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const year = useYear(schedule).data;
  const day = schedule.days.find((d) => d.id === wanted) ?? schedule.days[0];
  if (schedule.hourly || !day)
    return <ByTheHour schedule={schedule} kind={kind} name={name} aside={aside} onChange={onChange} />;
  const at = schedule.days.indexOf(day);
  const count = (k: number) => year?.holds.filter((h) => h === k).length;
  const withDay = (id: string, part: Partial<Day>) => (now: Schedule) => ({
    ...now,
    days: now.days.map((d) => (d.id === id ? { ...d, ...part } : d)),
  });

  function addDay() {
    const made = freshId(
      "day",
      schedule.days.map((d) => d.id),
    );
    setWanted(made);
    void onChange((now) => ({
      ...now,
      days: [...now.days, { id: made, name: `Day ${now.days.length + 1}`, values: day.values }],
    }));
  }
  function removeDay() {
    setWanted("");
    void onChange((now) => ({
      ...now,
      days: now.days.filter((d) => d.id !== day.id),
      rules: now.rules.filter((r) => r.day !== day.id),
    }));
  }
  return (
    <div className="schedule" role="region" aria-label={`Schedule: ${name}`}>
      {year && <YearStrip days={schedule.days} year={year} colours={dayColours} chosen={day.id} onChoose={setWanted} />}
      <div className="bench">
        <div style={{ minWidth: 0 }}>
          <div className="days">
            <div role="tablist" aria-label="Days" style={{ display: "contents" }}>
              {schedule.days.map((d, k) => (
                <button
                  key={d.id}
                  type="button"
                  role="tab"
                  aria-selected={d.id === day.id}
                  onClick={() => setWanted(d.id)}
                  title={d.name || d.id}
                >
                  <i style={{ background: dayColours[k % dayColours.length] }} />
                  <span className="named">{d.name || d.id}</span>
                  <span className="quiet">{count(k) ?? ""}</span>
                </button>
              ))}
            </div>
            <button type="button" className="add" onClick={addDay}>
              + day
            </button>
          </div>
          <div className="row" style={{ gap: 8 }}>
            <input
              key={day.id + day.name}
              className="day-name"
              aria-label="Name of the day"
              maxLength={120}
              defaultValue={day.name || day.id}
              onBlur={(e) =>
                e.target.value.trim() &&
                e.target.value !== day.name &&
                void onChange(withDay(day.id, { name: e.target.value.trim() }))
              }
              onKeyDown={keepOnEnter}
            />
            <Button variant="outlined" size="small" onClick={(e) => setMenu(e.currentTarget)}>
              Copy to
            </Button>
            {schedule.days.length > 1 && (
              <Button variant="outlined" size="small" onClick={removeDay}>
                Remove day
              </Button>
            )}
            <Menu anchorEl={menu} open={Boolean(menu)} onClose={() => setMenu(null)}>
              {schedule.days
                .filter((d) => d.id !== day.id)
                .map((d) => (
                  <MenuItem
                    key={d.id}
                    onClick={() => {
                      setMenu(null);
                      void onChange(withDay(d.id, { values: day.values }));
                    }}
                  >
                    this day’s hours to “{d.name || d.id}”
                  </MenuItem>
                ))}
              {others.map((o) => (
                <MenuItem
                  key={o.id}
                  onClick={() => {
                    setMenu(null);
                    void onCopyTo(o.id);
                  }}
                >
                  all days and rules to {o.name}
                </MenuItem>
              ))}
            </Menu>
          </div>
          <DayBars
            key={day.id}
            values={day.values}
            kind={kind}
            colour={dayColours[at % dayColours.length]}
            name={`${name}, ${day.name || day.id}`}
            onDraw={(values) => onDraw(withDay(day.id, { values }))}
            onKeep={(values) => onChange(withDay(day.id, { values }))}
          />
          <Rules
            schedule={schedule}
            counts={schedule.rules.map((_, i) => year?.by.filter((b) => b === i).length ?? 0)}
            onChange={onChange}
          />
        </div>
        {aside}
      </div>
    </div>
  );
}

/** A schedule that was read from a table of 8,760 values. */
function ByTheHour({
  schedule,
  kind,
  name,
  aside,
  onChange,
}: {
  schedule: Schedule;
  kind: Kind;
  name: string;
  aside: ReactNode;
  onChange: (change: (now: Schedule) => Schedule) => unknown;
}) {
  const values = schedule.hourly ?? [];
  const mean = values.reduce((a, b) => a + b, 0) / Math.max(values.length, 1);
  const shown = values.map((v) => Number(kind.say(v)));
  const series = [{ case: "", zone: "", zone_name: "", line: "schedule", title: name, unit: kind.unit, values: shown }];
  return (
    <div className="schedule" role="region" aria-label={`Schedule: ${name}`}>
      <p className="small">8,760 values from a table, one for each hour of the year.</p>
      <Carpet series={series} what={name} />
      <Button variant="outlined" size="small" onClick={() => void onChange(() => oneDay(Number(mean.toFixed(2))))}>
        Draw days instead
      </Button>
      {aside}
    </div>
  );
}
