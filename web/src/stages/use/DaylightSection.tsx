import { MenuItem, Select } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { make } from "../../api/edits";
import { daylightOf, useEdit, useGeometry, useProjectId, useScheme } from "../../api/hooks";
import { useKept, useViewed } from "../../app/state";
import { both, freshId, round } from "../../app/words";
import { ChoiceField, NumberField, YesNoField } from "../../fields/Field";
import { at } from "../../fields/paths";
import { DaylightPicture } from "./DaylightPicture";
import { SensorSection } from "./SensorSection";
import { SensorYear } from "./SensorYear";

export type Sensor = Schemas["SensorOut"];
const kindNames = [
  { id: "none", name: "not at all" },
  { id: "switched", name: "switched" },
  { id: "stepped", name: "in steps" },
  { id: "dimmed", name: "dimmed" },
  { id: "profile", name: "as the use says" },
];

/** How lights follow daylight, the sensors that they follow, and light all over the floors. */
export function DaylightSection() {
  const { scheme } = useScheme();
  const said = useGeometry(scheme.id).data?.rules;
  const path = `schemes/${scheme.id}/use`;
  const lights = scheme.use?.lights;
  const kind = lights?.kind ?? "none";
  const kinds = new Set([kind, ...(scheme.use?.zones ?? []).map((z) => z.lights ?? "none")]);
  const ruled = (scheme.use?.zones ?? [])
    .filter((z) => z.lights)
    .map((z) => `${said?.[z.id] ?? z.zone}: ${kindNames.find((k) => k.id === z.lights)?.name ?? z.lights}`);
  const followed = [...kinds].some((k) => k !== "none");
  const [open, setOpen] = useState(followed);
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Daylight</summary>
      <ChoiceField path={`${path}/lights/kind`} note="Lights.kind" options={kindNames} vary />
      {ruled.length > 0 && (
        <div className="small quiet" data-ruled-lights={ruled.length}>
          Rules of zones say otherwise: {ruled.join("; ")}.
        </div>
      )}
      {followed && (
        <>
          <NumberField path={`${path}/lights/enough_lx`} note="Lights.enough_lx" slider vary />
          {kinds.has("dimmed") && (
            <>
              <NumberField path={`${path}/lights/full_lx`} note="Lights.full_lx" />
              <NumberField path={`${path}/lights/least_share`} note="Lights.least_share" slider />
            </>
          )}
          {kinds.has("stepped") && <NumberField path={`${path}/lights/steps`} note="Lights.steps" />}
        </>
      )}
      <YesNoField path={`${path}/lights/floors`} note="Lights.floors" />
      {lights?.floors && <NumberField path={`${path}/lights/bright_lx`} note="Lights.bright_lx" />}
      {open && (
        <>
          <Sensors followed={followed} />
          <DaylightPicture key={scheme.id} />
        </>
      )}
    </details>
  );
}

/** All sensors with their figures; one that is clicked can be typed, and dragged in the plan. */
function Sensors({ followed }: { followed: boolean }) {
  const project = useProjectId();
  const { scheme, state } = useScheme();
  const units = useKept((s) => s.units);
  const { sensors, selection, set } = useViewed("sensors", "selection", "set");
  const edit = useEdit();
  const asked = useQuery({
    ...daylightOf(project, scheme.id, state.revision),
    placeholderData: (before) => (before?.scheme === scheme.id ? before : undefined),
  });
  const told = asked.data;
  useEffect(() => {
    set({ sensors: told ?? null });
    return () => set({ sensors: null });
  }, [told, set]);
  const chosen = selection?.kind === "sensor" ? sensors?.sensors.find((s) => keyOf(s, sensors) === selection.id) : null;
  const list = `schemes/${scheme.id}/use/sensors`;
  async function place(one: Sensor) {
    if (!sensors) return;
    const number = sensors.sensors.filter((s) => s.zone === one.zone).indexOf(one);
    await edit(make.together(keeping(scheme.id, sensors, one.zone)));
    set({ selection: { kind: "sensor", id: placedId(one.zone, number) } });
  }
  if (!told)
    return <p className="quiet small">{asked.isError ? asked.error.message : "Working out daylight at the sensors"}</p>;
  const own = (scheme.use?.sensors ?? []).length;
  return (
    <>
      <div style={{ maxHeight: 210, overflowY: "auto", marginTop: 8 }}>
        <table className="plain-table small" data-sensors={told.sensors.length} style={{ width: "100%" }}>
          <thead>
            <tr>
              <th>Light sensor</th>
              <th className="num" title="Daylight factor: of the light on open level ground, under an overcast sky">
                of outside
              </th>
              <th className="num" title={`Hours of the year above ${both(told.target_lx, "lx", units, 0)}`}>
                bright h
              </th>
              <th className="num" title="What its lights still take of their energy">
                lights
              </th>
            </tr>
          </thead>
          <tbody>
            {told.sensors.map((s) => {
              const key = keyOf(s, told);
              const several = told.sensors.filter((o) => o.zone === s.zone);
              const name = several.length > 1 ? `${s.zone_name} ${several.indexOf(s) + 1}` : s.zone_name;
              return (
                <tr key={key} style={{ fontWeight: selection?.id === key ? 650 : undefined }}>
                  <td>
                    <button
                      type="button"
                      className={s.id ? "plain" : "plain assumed"}
                      title={s.id ? "Placed by hand" : "Proposed"}
                      onClick={() => set({ selection: { kind: "sensor", id: key } })}
                    >
                      {name}
                    </button>
                  </td>
                  <td className="num">{round(s.daylight_factor * 100, 1)}%</td>
                  <td className="num">{s.hours_above_target.toLocaleString("en-GB")}</td>
                  <td className="num">{followed ? `${round(s.lighting_share * 100, 0)}%` : "–"}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {chosen && sensors && (
        <div data-sensor={selection?.id}>
          <h3>{chosen.zone_name}</h3>
          <SensorSection sensor={chosen} />
          <SensorYear number={sensors.sensors.indexOf(chosen)} sensors={sensors} />
          <ZoneLights zone={chosen.zone} name={chosen.zone_name} />
          {chosen.id ? (
            <>
              <NumberField path={`${list}/${chosen.id}/x`} note="LightSensor.x" />
              <NumberField path={`${list}/${chosen.id}/y`} note="LightSensor.y" />
              <NumberField path={`${list}/${chosen.id}/height_m`} note="LightSensor.height_m" />
              <ChoiceField
                path={`${list}/${chosen.id}/looks`}
                note="LightSensor.looks"
                options={[
                  { id: "up", name: "up" },
                  { id: "down", name: "down" },
                ]}
              />
              <NumberField path={`${list}/${chosen.id}/share`} note="LightSensor.share" placeholder={chosen.share} />
              <button
                type="button"
                className="plain assumed"
                onClick={() => void edit(make.remove(`${list}/${chosen.id}`))}
              >
                Remove this sensor
              </button>
            </>
          ) : (
            <div className="small quiet">
              Proposed {both(chosen.height_m, "m", units, 2)} above the floor, for {round(chosen.share * 100, 0)}% of
              the lights.{" "}
              <button type="button" className="plain assumed" onClick={() => void place(chosen)}>
                Place it by hand
              </button>
            </div>
          )}
        </div>
      )}
      <div className="small quiet">
        {told.without.length > 0 &&
          `${told.without.length} ${told.without.length === 1 ? "zone has" : "zones have"} no windows and no sensor. `}
        Drag sensors in the plan.
        {told.source !== "assumed"
          ? " Light by the weather file."
          : " Light by 110 lm/W of the sky and 105 of the sun, assumed."}
        {own > 0 && asked.isFetching && " Working"}
      </div>
    </>
  );
}

/** How the lights of one zone follow daylight where that is not as the scheme says. */
function ZoneLights({ zone, name }: { zone: string; name: string }) {
  const { scheme } = useScheme();
  const edit = useEdit();
  const own = (scheme.use?.zones ?? []).find((z) => z.zone === zone);
  function choose(lights: string) {
    const path = `schemes/${scheme.id}/use/zones`;
    void edit((state) => {
      const now = (at(state.given, path) ?? []) as { id: string; zone: string }[];
      const mine = now.find((z) => z.zone === zone);
      const { lights: _, ...rest } = (mine ?? {}) as Record<string, unknown>;
      const id =
        mine?.id ??
        freshId(
          "zone",
          now.map((z) => z.id),
        );
      return make.put(path, { ...rest, id, zone, ...(lights ? { lights } : {}) });
    });
  }
  return (
    <div className="field">
      <span>Its lights</span>
      <span />
      <Select
        value={own?.lights ?? ""}
        displayEmpty
        onChange={(e) => choose(e.target.value)}
        inputProps={{ "aria-label": `Lights of ${name}` }}
        sx={{ gridColumn: "3 / -1" }}
      >
        <MenuItem value="">as scheme and rules say</MenuItem>
        {kindNames.slice(0, -1).map((k) => (
          <MenuItem key={k.id} value={k.id}>
            {k.name}
          </MenuItem>
        ))}
      </Select>
    </div>
  );
}

/** Sensors are named by their id, proposed ones by their zone and number. */
export function keyOf(sensor: Sensor, all: Schemas["SensorsOut"]): string {
  if (sensor.id) return sensor.id;
  const number = all.sensors.filter((s) => s.zone === sensor.zone).indexOf(sensor);
  return `${sensor.zone}#${number}`;
}

/** The id that a proposed sensor gets when it is placed by hand. */
export const placedId = (zone: string, number: number) => `${zone.replace(/[^A-Za-z0-9]+/g, "-")}-${number + 1}`;

/** Edits that put the proposed sensors of a zone where they stand, so that each can be moved. */
export function keeping(
  scheme: string,
  all: Schemas["SensorsOut"],
  zone: string,
  moved?: { key: string; x: number; y: number },
) {
  const own = all.sensors.filter((s) => s.zone === zone);
  return own.map((s, k) => {
    const to = moved && keyOf(s, all) === moved.key ? moved : { x: s.own[0], y: s.own[1] };
    const id = placedId(zone, k);
    return make.put(`schemes/${scheme}/use/sensors`, {
      id,
      zone,
      x: round3(to.x),
      y: round3(to.y),
      height_m: s.height_m,
    });
  });
}

export const round3 = (v: number) => Number(v.toFixed(3));
