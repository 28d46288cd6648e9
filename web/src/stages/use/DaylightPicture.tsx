import { Button, MenuItem, Select, Slider } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { client, got, type Schemas, type Scheme } from "../../api/client";
import { useGeometry, useProjectId, useScheme } from "../../api/hooks";
import { saveFrom } from "../../app/files";
import { tell, useKept, useViewed } from "../../app/state";
import { both, dateOfHour, round, scale } from "../../app/words";
import { DayField } from "../../fields/DayField";
import { KeepPicture, KeptPictures, useOutdated } from "../../fields/Pictures";
import { Typed } from "../../fields/Typed";

type Ask = Schemas["FloorsIn"];
type Measure = NonNullable<Ask["measure"]>;
const measures: { id: Measure; name: string; help: string }[] = [
  { id: "autonomy", name: "hours with enough daylight", help: "of the occupied hours" },
  { id: "factor", name: "daylight factor", help: "under an overcast sky" },
  { id: "useful", name: "hours of useful daylight", help: "of the occupied hours" },
  { id: "beyond", name: "hours that are too bright", help: "occupied hours a year" },
  { id: "mean", name: "mean while occupied", help: "illuminance" },
  { id: "hour", name: "one hour of the year", help: "illuminance" },
];
type Picture = NonNullable<Scheme["light_pictures"]>[number];
type Choice = Required<Pick<Ask, "measure" | "target_lx" | "spacing_m" | "hour">> & { storeys: number[] | null };
const usual: Choice = { measure: "autonomy", target_lx: 300, spacing_m: 0.5, hour: 171 * 24 + 12, storeys: null };
const MOST_ROWS = 60;

/** Light all over floors: one figure of it as a picture in plan and model, each zone in a table, all points as a file. */
export function DaylightPicture() {
  const project = useProjectId();
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const { floors, level, selection, set } = useViewed("floors", "level", "selection", "set");
  const geometry = useGeometry(scheme.id).data;
  const [choice, setChoice] = useState<Choice>(usual);
  const [shows, setShows] = useState(false);
  const [plays, setPlays] = useState(false);
  const choose = (part: Partial<Choice>) => setChoice((before) => ({ ...before, ...part }));
  const { measure, hour, target_lx: target, spacing_m: spacing } = choice;
  const levels = [...new Set((geometry?.zones ?? []).map((z) => z.level))].sort((a, b) => a - b);
  const shown = level ?? levels[0] ?? 0;
  const ask = useMutation({
    mutationFn: (wanted: Ask) =>
      got(
        client.POST("/api/projects/{project_id}/schemes/{scheme_id}/daylight/floors", {
          params: { path: { project_id: project, scheme_id: scheme.id } },
          body: wanted,
        }),
      ),
    onSuccess: (told) => set({ floors: told }),
    onError: (fault) => tell(fault.message, true),
  });
  useEffect(() => () => set({ floors: null }), [set]);
  const mine = floors?.scheme === scheme.id ? floors : null;
  const outdated = useOutdated(mine?.revision);
  const { storeys, ...figure } = choice;
  const picture = { levels: storeys ?? [shown], ...figure };
  const body: Ask = { zones: [], ...picture };
  const asked = JSON.stringify(body);
  const wanted = useRef("");

  // what is shown follows what is chosen; one answer is waited for before the next is asked for
  const { isPending, mutate } = ask;
  useEffect(() => {
    if (!shows || isPending || wanted.current === asked) return;
    wanted.current = asked;
    mutate(JSON.parse(asked));
  }, [shows, asked, isPending, mutate]);
  useEffect(() => {
    if (!plays || isPending) return;
    const next = hour % 24 === 23 ? hour - 23 : hour + 1;
    const timer = setTimeout(() => setChoice((before) => ({ ...before, hour: next })), 450);
    return () => clearTimeout(timer);
  }, [plays, isPending, hour]);

  function show(level = shown) {
    wanted.current = "";
    setShows(true);
    set({ plan: true, level });
  }
  function again({ id: _, name: __, levels: kept = [], ...of }: Picture) {
    choose({ ...usual, ...of, storeys: kept.length === 1 ? null : kept });
    show(kept[0]);
  }
  function hide() {
    setShows(false);
    set({ floors: null });
  }
  async function save() {
    const file = { method: "POST", headers: { "Content-Type": "application/json" }, body: asked };
    await saveFrom(`/api/projects/${project}/schemes/${scheme.id}/daylight/floors/file`, file, "daylight.csv");
  }
  const to = scale("lx", units);
  const digits = mine?.unit === "%" && mine.measure === "factor" ? 1 : 0;
  return (
    <section>
      <h3>
        Light on the floors {mine && outdated && <span className="quiet small">as it was before the last edits</span>}
      </h3>
      <KeptPictures list="light_pictures" onShow={again} />
      <Select
        fullWidth
        value={measure}
        inputProps={{ "aria-label": "Figure of light" }}
        onChange={(e) => choose({ measure: e.target.value as Measure })}
      >
        {measures.map((m) => (
          <MenuItem key={m.id} value={m.id}>
            {m.name}
            <span className="quiet small" style={{ marginLeft: 6 }}>
              {m.help}
            </span>
          </MenuItem>
        ))}
      </Select>
      {measure === "hour" && (
        <div className="row" style={{ margin: "6px 0", gap: 8 }}>
          <DayField label="Day" day={Math.floor(hour / 24)} onDay={(day) => choose({ hour: day * 24 + (hour % 24) })} />
          <Slider
            size="small"
            value={hour % 24}
            min={0}
            max={23}
            aria-label="Hour of the day"
            onChange={(_, v) => choose({ hour: Math.floor(hour / 24) * 24 + (v as number) })}
          />
          <span style={{ width: 44 }}>{String(hour % 24).padStart(2, "0")}:00</span>
          <button type="button" className="plain assumed" aria-pressed={plays} onClick={() => setPlays(!plays)}>
            {plays ? "stop" : "play"}
          </button>
        </div>
      )}
      <Typed
        label="Enough is"
        name="daylight-target"
        value={round(target * to.factor, units === "IP" ? 1 : 0)}
        unit={to.unit}
        onCommit={(text) => choose({ target_lx: Math.max(Number(text.replace(/,/g, ".")) / to.factor || 300, 1) })}
      />
      <Typed
        label="Points apart"
        name="daylight-grid"
        value={String(Number((spacing * scale("m", units).factor).toFixed(2)))}
        unit={scale("m", units).unit}
        onCommit={(text) =>
          choose({
            spacing_m: Math.min(Math.max(Number(text.replace(",", ".")) / scale("m", units).factor || 0.5, 0.1), 10),
          })
        }
      />
      <div className="row" style={{ margin: "6px 0", flexWrap: "wrap", whiteSpace: "nowrap" }}>
        <span className="switch" role="group" aria-label="Which floors">
          <button type="button" aria-pressed={storeys === null} onClick={() => choose({ storeys: null })}>
            this storey
          </button>
          <button type="button" aria-pressed={storeys !== null} onClick={() => choose({ storeys: [] })}>
            all
          </button>
        </span>
        <Button variant="contained" disabled={isPending} onClick={() => show()}>
          {isPending && !mine ? "Working" : "Show daylight"}
        </Button>
        {mine && (
          <>
            <Button variant="outlined" onClick={() => void save()}>
              Save as CSV
            </Button>
            <Button variant="outlined" onClick={hide}>
              Hide
            </Button>
            <KeepPicture list="light_pictures" picture={picture} />
          </>
        )}
      </div>
      {mine && (
        <>
          <div className="small quiet" data-daylight={mine.measure}>
            {mine.points.toLocaleString("en-GB")} points in {round(mine.seconds, 1)} s; mean{" "}
            {both(mine.mean, mine.unit, units, digits)}, from {both(mine.low, mine.unit, units, digits)} to{" "}
            {both(mine.high, mine.unit, units, digits)}
            {mine.measure === "hour" && ` on ${dateOfHour(mine.hour)} at ${String(mine.hour % 24).padStart(2, "0")}:00`}
            . {round(mine.meets * 100, 0)}% of the floor has {both(mine.target_lx, "lx", units, 0)} in half of the
            occupied hours.
          </div>
          <table className="plain-table small" style={{ width: "100%" }}>
            <thead>
              <tr>
                <th>Floor of</th>
                <th className="num">{scale(mine.unit, units).unit}</th>
                <th className="num" title="Share of the floor that has enough daylight in half of the occupied hours">
                  bright
                </th>
                <th className="num" title="Occupied hours with useful daylight">
                  useful
                </th>
              </tr>
            </thead>
            <tbody>
              {[...mine.floors]
                .sort((a, b) => b.mean - a.mean)
                .slice(0, MOST_ROWS)
                .map((f) => (
                  <tr key={f.zone} style={{ fontWeight: selection?.id === f.zone ? 650 : undefined }}>
                    <td>
                      <button
                        type="button"
                        className="plain"
                        onClick={() => set({ selection: { kind: "zone", id: f.zone } })}
                      >
                        {f.name}
                      </button>
                    </td>
                    <td className="num">{round(f.mean * scale(mine.unit, units).factor, digits)}</td>
                    <td className="num">{round(f.meets * 100, 0)}%</td>
                    <td className="num">{round(f.useful * 100, 0)}%</td>
                  </tr>
                ))}
            </tbody>
          </table>
          {mine.floors.length > MOST_ROWS && (
            <div className="quiet small">and {mine.floors.length - MOST_ROWS} more, all of them in the CSV</div>
          )}
        </>
      )}
    </section>
  );
}
