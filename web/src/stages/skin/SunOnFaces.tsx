import { Button, MenuItem, Select } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, got, type Schemas } from "../../api/client";
import { useProjectId, useScheme } from "../../api/hooks";
import { saveFrom } from "../../app/files";
import { tell, useKept, useViewed } from "../../app/state";
import { both, count, hourText, round, scale } from "../../app/words";
import { DayField } from "../../fields/DayField";
import { KeepPicture, KeptPictures, useOutdated } from "../../fields/Pictures";
import { Typed } from "../../fields/Typed";

type Ask = Schemas["IrradiationIn"];
type Face = Schemas["FaceIrradiationOut"];
const measures = [
  ["sum", "sum over the span"],
  ["mean", "mean of the span"],
  ["strongest", "strongest hour of the span"],
  ["direct_hours", "hours of direct sun on the first day"],
] as const;
const spans = [
  ["the year", 0, 364],
  ["summer", 151, 242],
  ["winter", 334, 58],
] as const;
const sides = ["north", "east", "south", "west"] as const;

/** Sun on faces chosen by kind and side: a picture over the model, each face in a table, and the same as a file. */
export function SunOnFaces() {
  const project = useProjectId();
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const { sun, sunScale, selection, set } = useViewed("sun", "sunScale", "selection", "set");
  const [kinds, setKinds] = useState<NonNullable<Ask["kinds"]>>(["wall", "roof"]);
  const [of, setOf] = useState<NonNullable<Ask["orientations"]>>([]);
  const [measure, setMeasure] = useState<(typeof measures)[number][0]>("sum");
  const [span, setSpan] = useState({ first_day: 0, last_day: 364, first_hour: 0, last_hour: 23 });
  const [spacing, setSpacing] = useState(1);
  const body: Ask = { kinds, orientations: of, faces: [], measure, span, spacing_m: spacing };
  const ask = useMutation({
    mutationFn: ({ wanted }: { wanted: Ask; scale: typeof sunScale }) =>
      got(
        client.POST("/api/projects/{project_id}/schemes/{scheme_id}/irradiation", {
          params: { path: { project_id: project, scheme_id: scheme.id } },
          body: wanted,
        }),
      ),
    onSuccess: (told, asked) => set({ sun: told, sunScale: asked.scale }),
    onError: (fault) => tell(fault.message, true),
  });
  useEffect(() => () => set({ sun: null, sunScale: null }), [set]);
  const mine = sun?.scheme === scheme.id ? sun : null;
  const outdated = useOutdated(mine?.revision);
  const to = scale(mine?.unit ?? "kWh/m²", units);
  const digits = mine?.unit === "h" ? 1 : 0;

  const toggle = <T extends string>(list: T[], one: T) =>
    list.includes(one) ? list.filter((o) => o !== one) : [...list, one];
  async function save() {
    const ask = { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) };
    await saveFrom(`/api/projects/${project}/schemes/${scheme.id}/irradiation/file`, ask, "sun-on-faces.csv");
  }
  return (
    <details>
      <summary>
        Sun on faces {mine && outdated && <span className="quiet small">as it was before the last edits</span>}
      </summary>
      <KeptPictures
        list="sun_pictures"
        onShow={(p) => {
          const kept = {
            first_day: p.first_day ?? 0,
            last_day: p.last_day ?? 364,
            first_hour: p.first_hour ?? 0,
            last_hour: p.last_hour ?? 23,
          };
          const wanted: Ask = {
            kinds: p.kinds ?? ["wall", "roof"],
            orientations: p.orientations ?? [],
            faces: [],
            measure: p.measure ?? "sum",
            span: kept,
            spacing_m: p.spacing_m ?? 1,
          };
          setKinds(wanted.kinds ?? []);
          setOf(wanted.orientations ?? []);
          setMeasure(wanted.measure ?? "sum");
          setSpan(kept);
          setSpacing(wanted.spacing_m ?? 1);
          ask.mutate({ wanted, scale: p.low != null && p.high != null ? { low: p.low, high: p.high } : null });
        }}
      />
      <div className="row" style={{ flexWrap: "wrap" }}>
        <span className="switch" role="group" aria-label="Kinds of face">
          {(["wall", "roof", "floor"] as const).map((k) => (
            <button key={k} type="button" aria-pressed={kinds.includes(k)} onClick={() => setKinds(toggle(kinds, k))}>
              {k}s
            </button>
          ))}
        </span>
        <span className="switch" role="group" aria-label="Sides">
          {sides.map((s) => (
            <button
              key={s}
              type="button"
              title={s}
              aria-label={s}
              aria-pressed={of.length === 0 || of.includes(s)}
              onClick={() => setOf(toggle(of, s))}
            >
              {s[0].toUpperCase()}
            </button>
          ))}
        </span>
      </div>
      <Select
        fullWidth
        sx={{ mt: 0.75 }}
        value={measure}
        inputProps={{ "aria-label": "What is shown" }}
        onChange={(e) => setMeasure(e.target.value as typeof measure)}
      >
        {measures.map(([id, name]) => (
          <MenuItem key={id} value={id}>
            {name}
          </MenuItem>
        ))}
      </Select>
      <div className="row" style={{ flexWrap: "wrap", margin: "6px 0" }}>
        {spans.map(([name, first_day, last_day]) => (
          <button
            key={name}
            type="button"
            className="plain assumed"
            onClick={() => setSpan({ first_day, last_day, first_hour: 0, last_hour: 23 })}
          >
            {name}
          </button>
        ))}
        <DayField label="First day" day={span.first_day} onDay={(first_day) => setSpan({ ...span, first_day })} />–
        <DayField label="Last day" day={span.last_day} onDay={(last_day) => setSpan({ ...span, last_day })} />
      </div>
      <Typed
        label="Hours of the day"
        name="sun-hours"
        value={`${span.first_hour}–${span.last_hour + 1}`}
        onCommit={(text) => {
          const found = text.match(/(\d+)\D+(\d+)/);
          if (!found) return tell("Type hours as 9–17.", true);
          setSpan({
            ...span,
            first_hour: Math.min(Number(found[1]), 23),
            last_hour: Math.min(Math.max(Number(found[2]) - 1, 0), 23),
          });
        }}
      />
      <Typed
        label="Grid"
        name="sun-grid"
        value={String(Number((spacing * scale("m", units).factor).toFixed(2)))}
        unit={scale("m", units).unit}
        onCommit={(text) => setSpacing(Number(text.replace(",", ".")) / scale("m", units).factor || 1)}
      />
      <div className="row" style={{ margin: "6px 0", flexWrap: "wrap", whiteSpace: "nowrap" }}>
        <Button
          variant="contained"
          disabled={ask.isPending || kinds.length === 0}
          onClick={() => {
            ask.mutate({ wanted: body, scale: null });
          }}
        >
          {ask.isPending ? "Working" : "Show the sun"}
        </Button>
        {mine && (
          <>
            <Button variant="outlined" onClick={() => void save()}>
              Save as CSV
            </Button>
            <Button variant="outlined" onClick={() => set({ sun: null })}>
              Hide
            </Button>
            <KeepPicture
              list="sun_pictures"
              picture={{
                kinds,
                orientations: of,
                measure,
                ...span,
                spacing_m: spacing,
                low: sunScale?.low ?? null,
                high: sunScale?.high ?? null,
              }}
            />
          </>
        )}
      </div>
      {mine && (
        <>
          <div className="small quiet" data-sun={mine.measure}>
            {count(mine.points, "point")} on {count(mine.faces.length, "face")} in {round(mine.seconds, 1)} s; mean{" "}
            {both(mine.mean, mine.unit, units, digits)}, {round(mine.low * to.factor, digits)} to{" "}
            {round(mine.high * to.factor, digits)}.
          </div>
          <div>
            {(["low", "high"] as const).map((end) => (
              <Typed
                key={end}
                label={end === "low" ? "Scale from" : "Scale to"}
                name={`sun-${end}`}
                value={round((sunScale?.[end] ?? mine[end]) * to.factor, digits)}
                onCommit={(text) => {
                  const value = Number(text.replace(/,/g, "")) / to.factor;
                  if (Number.isFinite(value))
                    set({ sunScale: { low: mine.low, high: mine.high, ...sunScale, [end]: value } });
                }}
              />
            ))}
          </div>
          <table className="plain-table small" style={{ width: "100%" }}>
            <thead>
              <tr>
                <th>Face</th>
                <th className="num">{to.unit}</th>
                <th className="num" title="Over the year, in the hours in which its zone is heated, and cooled">
                  while heated / cooled
                </th>
              </tr>
            </thead>
            <tbody>
              {[...mine.faces]
                .sort((a, b) => b.mean - a.mean)
                .slice(0, 40)
                .map((f) => (
                  <tr key={f.id} style={{ fontWeight: selection?.id === f.id ? 650 : undefined }}>
                    <td>
                      <button
                        type="button"
                        className="plain"
                        onClick={() => set({ selection: { kind: "face", id: f.id } })}
                      >
                        {named(f)}
                      </button>
                      {f.hour !== null && <span className="quiet"> {at(f.hour)}</span>}
                    </td>
                    <td className="num">{round(f.mean * to.factor, digits)}</td>
                    <td className="num">
                      {round(f.heating * scale("kWh/m²", units).factor, 0)} /{" "}
                      {round(f.cooling * scale("kWh/m²", units).factor, 0)}
                    </td>
                  </tr>
                ))}
            </tbody>
          </table>
          {mine.faces.length > 40 && (
            <div className="quiet small">and {mine.faces.length - 40} more, all of them in the CSV</div>
          )}
        </>
      )}
    </details>
  );
}

const named = (f: Face) => `${f.orientation || f.kind} · ${f.id.split("/").slice(0, 2).join(", ")}`;

function at(hour: number): string {
  const day = new Date(Date.UTC(2023, 0, 1) + hour * 3600e3).toISOString();
  return hourText(day.slice(5, 13));
}
