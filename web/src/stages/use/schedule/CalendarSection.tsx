import { Button, MenuItem, Select } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, ServerFault } from "../../../api/client";
import { make } from "../../../api/edits";
import { useEdit, useProject, useProjectId } from "../../../api/hooks";
import { tell } from "../../../app/state";
import { freshId } from "../../../app/words";
import { ChoiceField } from "../../../fields/Field";
import { Cell } from "../../skin/builder/Layers";
import { readDate, weekdays } from "./dates";
import { DateCell } from "./Rules";

const days = weekdays.map((w) => ({ id: w, name: w[0].toUpperCase() + w.slice(1) }));

/** The project's year: on which weekday it begins, its holidays and closures. */
export function CalendarSection() {
  const calendar = useProject().data?.completed.place.calendar;
  const edit = useEdit();
  const holidays = calendar?.holidays ?? [];
  const closures = calendar?.closures ?? [];
  const path = "place/calendar";
  return (
    <details>
      <summary>
        Calendar{" "}
        <span className="quiet">
          {holidays.length + closures.length === 0
            ? "no holidays"
            : [counted(holidays.length, "holiday"), counted(closures.length, "closure")].filter(Boolean).join(", ")}
        </span>
      </summary>
      <div className="small quiet">Of the place: the same for all schemes.</div>
      <ChoiceField
        path={`${path}/begins_on`}
        note="Calendar.begins_on"
        options={days}
        empty="as the climate year says"
      />
      <h4>Holidays</h4>
      {[...holidays]
        .sort((a, b) => a.date.localeCompare(b.date))
        .map((h) => (
          <div key={h.id} className="dated" data-holiday={h.id}>
            <Cell
              wide
              label={`Holiday ${h.name || h.id}, name`}
              value={h.name}
              onCommit={(t) => edit(make.set(`${path}/holidays/${h.id}/name`, t.trim()))}
            />
            <DateCell
              label={`Holiday ${h.name || h.id}, date`}
              date={h.date}
              onCommit={(d) => edit(make.set(`${path}/holidays/${h.id}/date`, d))}
            />
            <button
              type="button"
              className="plain"
              aria-label={`Remove holiday ${h.name || h.id}`}
              onClick={() => void edit(make.remove(`${path}/holidays/${h.id}`))}
            >
              ×
            </button>
          </div>
        ))}
      <AddDated
        what="holiday"
        onAdd={(name, date) => {
          const id = freshId(
            "holiday",
            holidays.map((h) => h.id),
          );
          return edit(make.put(`${path}/holidays`, { id, name, date }));
        }}
      />
      <ByCountry known={new Set(holidays.map((h) => h.date))} />
      <h4>Closures</h4>
      {closures.map((c) => (
        <div key={c.id} className="dated three" data-closure={c.id}>
          <Cell
            wide
            label={`Closure ${c.name || c.id}, name`}
            value={c.name}
            onCommit={(t) => edit(make.set(`${path}/closures/${c.id}/name`, t.trim()))}
          />
          <DateCell
            label={`Closure ${c.name || c.id}, first day`}
            date={c.first}
            onCommit={(d) => edit(make.set(`${path}/closures/${c.id}/first`, d))}
          />
          <DateCell
            label={`Closure ${c.name || c.id}, last day`}
            date={c.last}
            onCommit={(d) => edit(make.set(`${path}/closures/${c.id}/last`, d))}
          />
          <button
            type="button"
            className="plain"
            aria-label={`Remove closure ${c.name || c.id}`}
            onClick={() => void edit(make.remove(`${path}/closures/${c.id}`))}
          >
            ×
          </button>
        </div>
      ))}
      <AddDated
        what="closure"
        span
        onAdd={(name, first, last) => {
          const id = freshId(
            "closure",
            closures.map((c) => c.id),
          );
          return edit(make.put(`${path}/closures`, { id, name, first, last }));
        }}
      />
    </details>
  );
}

const counted = (count: number, what: string) => (count === 0 ? "" : count === 1 ? `1 ${what}` : `${count} ${what}s`);

/** A line in which a day or a span is typed and added. */
function AddDated({
  what,
  span,
  onAdd,
}: {
  what: string;
  span?: boolean;
  onAdd: (name: string, first: string, last: string) => Promise<boolean>;
}) {
  const [name, setName] = useState("");
  const [first, setFirst] = useState("");
  const [last, setLast] = useState("");
  async function add() {
    const kept = await onAdd(name.trim(), readDate(first) ?? first.trim(), readDate(last) ?? last.trim());
    if (!kept) return;
    setName("");
    setFirst("");
    setLast("");
  }
  const ready = first.trim() !== "" && (!span || last.trim() !== "");
  const enter = (e: React.KeyboardEvent) => e.key === "Enter" && ready && void add();
  return (
    <div className={`dated ${span ? "three" : ""}`}>
      <input
        className="cell wide"
        aria-label={`New ${what}, name`}
        placeholder={`new ${what}`}
        value={name}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={enter}
      />
      <input
        className="cell wide"
        aria-label={span ? `New ${what}, first day` : `New ${what}, date`}
        placeholder="24 Dec"
        value={first}
        onChange={(e) => setFirst(e.target.value)}
        onKeyDown={enter}
      />
      {span && (
        <input
          className="cell wide"
          aria-label={`New ${what}, last day`}
          placeholder="6 Jan"
          value={last}
          onChange={(e) => setLast(e.target.value)}
          onKeyDown={enter}
        />
      )}
      <button type="button" className="plain" aria-label={`Add ${what}`} disabled={!ready} onClick={() => void add()}>
        +
      </button>
    </div>
  );
}

/** Holidays of a country, proposed; those whose date is there already are left out. */
function ByCountry({ known }: { known: Set<string> }) {
  const project = useProjectId();
  const edit = useEdit();
  const [open, setOpen] = useState(false);
  const countries = useQuery({
    queryKey: ["countries"],
    queryFn: () => got(client.GET("/api/countries")),
    staleTime: Number.POSITIVE_INFINITY,
    enabled: open,
  }).data;

  async function propose(country: string) {
    try {
      const found = await got(
        client.GET("/api/projects/{project_id}/holidays", {
          params: { path: { project_id: project }, query: { country } },
        }),
      );
      const fresh = found.holidays.filter((h) => !known.has(h.date));
      const dates = new Set<string>();
      const once = fresh.filter((h) => !dates.has(h.date) && dates.add(h.date));
      if (once.length === 0) return tell("All of these holidays are there already.");
      if (await edit(make.together(once.map((h) => make.put("place/calendar/holidays", h)))))
        tell(`${once.length} holidays are added, those of ${found.year}, which begins on the same weekday.`);
    } catch (fault) {
      tell(fault instanceof ServerFault ? fault.message : String(fault), true);
    }
  }
  if (!open)
    return (
      <Button variant="outlined" size="small" onClick={() => setOpen(true)} sx={{ mt: 0.5 }}>
        Propose by country
      </Button>
    );
  return (
    <Select
      fullWidth
      displayEmpty
      value=""
      sx={{ mt: 0.5 }}
      inputProps={{ "aria-label": "Country" }}
      onChange={(e) => void propose(e.target.value)}
      renderValue={() => (countries ? "choose a country" : "reading")}
    >
      {(countries ?? []).map((c) => (
        <MenuItem key={c.id} value={c.id} dense>
          {c.name}
        </MenuItem>
      ))}
    </Select>
  );
}
