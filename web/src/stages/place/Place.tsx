import { Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useGeometry, useScheme } from "../../api/hooks";
import { endingsOf } from "../../api/readers";
import { ActsOn, Workbench } from "../../app/Sheet";
import { useKept, useViewed } from "../../app/state";
import { ChoiceField, NumberField } from "../../fields/Field";
import { FileButton } from "../../fields/FileButton";
import { LayUnder } from "../../scene/plan/LayUnder";
import { Scene } from "../../scene/Scene";
import { useSunDay } from "../../scene/SunLayer";
import { Around, GroundByMonth } from "./Around";
import { ClimateSheet } from "./ClimateSheet";
import { usePlaceFiles } from "./files";
import { SunSection } from "./SunSection";

/** What the wind comes over before it reaches the building. */
const terrains = [
  { id: "open", name: "open country" },
  { id: "suburb", name: "suburb, woods" },
  { id: "city", name: "inner city" },
];

/** Where it is: climate, north, what stands around. */
export default function Place() {
  const { state, scheme } = useScheme();
  const edit = useEdit();
  const { weather } = usePlaceFiles();
  const { selection } = useViewed("selection");
  const [sheet, setSheet] = useState(true);
  const units = useKept((s) => s.units);
  const standIns = useQuery({
    queryKey: ["climates"],
    queryFn: () => got(client.GET("/api/climates")),
  });
  const place = state.completed.place;
  const climate = place?.climate;
  const sun = useSunDay(171);
  const face = useGeometry(scheme.id).data?.faces.find((f) => selection?.kind === "face" && f.id === selection.id);

  return (
    <Workbench
      canvas={
        <section
          aria-label="Site"
          style={{
            position: "relative",
            minWidth: 0,
            minHeight: 0,
            display: "grid",
            gridTemplateRows: "minmax(0, 1fr) auto",
          }}
        >
          <Scene
            tools={
              climate && (
                <Button variant="outlined" aria-pressed={sheet} onClick={() => setSheet(!sheet)}>
                  {sheet ? "Hide climate sheet" : "Show climate sheet"}
                </Button>
              )
            }
          />
          {sheet && climate && (
            <ClimateSheet units={units} others={(standIns.data ?? []).filter((c) => c.id !== climate.id)} />
          )}
          {!climate && (
            <div
              className="overlay"
              style={{
                left: "50%",
                top: "34%",
                transform: "translate(-50%,-50%)",
                padding: 20,
                textAlign: "center",
                maxWidth: 420,
              }}
            >
              <h2>Which climate?</h2>
              <p className="quiet">Drop an EPW weather file here, or choose a stand-in climate at the right.</p>
            </div>
          )}
        </section>
      }
    >
      <ActsOn what="Whole project" more={place?.name || "all schemes"} />
      <section>
        <div className="spread">
          <h3>Climate year</h3>
          <span className="quiet small">
            {climate ? (climate.kind === "file" ? "from a file" : "stand-in") : "none chosen"}
          </span>
        </div>
        {standIns.data?.map((c) => (
          <button
            key={c.id}
            type="button"
            className="plain"
            aria-pressed={climate?.id === c.id}
            style={{
              display: "flex",
              width: "100%",
              justifyContent: "space-between",
              padding: "3px 6px",
              borderRadius: 5,
              background: climate?.id === c.id ? "#DCEBE8" : undefined,
            }}
            onClick={() => void edit(make.set("place/climate", { kind: "stand-in", id: c.id, name: c.name }))}
          >
            <span>{c.name}</span>
            <span className="quiet small">
              {c.kind}, {Math.abs(c.latitude_deg).toFixed(0)}° {c.latitude_deg < 0 ? "S" : "N"}
            </span>
          </button>
        ))}
        {climate?.kind === "file" && <p>“{climate.name}” from the user's file.</p>}
        <div style={{ marginTop: 8 }}>
          <FileButton name="Take an EPW file" accept={endingsOf("weather")} onFile={(file) => void weather(file)} />
        </div>
      </section>
      <section>
        <h3>North and ground</h3>
        <NumberField path="place/north_deg" note="Place.north_deg" slider form />
        {face?.kind === "wall" && (
          <div className="row" style={{ margin: "4px 0" }}>
            <span className="small">This wall looks due</span>
            <span className="switch">
              {(["north", "east", "south", "west"] as const).map((to, i) => (
                <button
                  key={to}
                  type="button"
                  onClick={() => {
                    const turn = (place?.north_deg ?? 0) + i * 90 - face.azimuth_deg;
                    const value = Number((((((turn + 180) % 360) + 360) % 360) - 180).toFixed(1));
                    void edit(make.set("place/north_deg", value));
                  }}
                >
                  {to}
                </button>
              ))}
            </span>
          </div>
        )}
        <NumberField path="place/latitude_deg" note="Place.latitude_deg" placeholder={sun?.latitude_deg} />
        <NumberField path="place/longitude_deg" note="Place.longitude_deg" placeholder={sun?.longitude_deg} />
        <NumberField path="place/altitude_m" note="Place.altitude_m" placeholder={sun?.altitude_m} />
        <NumberField path="place/time_zone_h" note="Place.time_zone_h" placeholder={sun?.time_zone_h} />
        <NumberField path="place/ground_level_m" note="Place.ground_level_m" />
        <NumberField path="place/ground_reflectance" note="Place.ground_reflectance" />
        <GroundByMonth />
        <NumberField path="place/obstacle_reflectance" note="Place.obstacle_reflectance" />
        <ChoiceField path="place/terrain" note="Place.terrain" label="Terrain" options={terrains} />
      </section>
      <LayUnder group="place/underlays" title="Under the site" button="Lay a map or plan under" />
      <SunSection />
      <Around />
    </Workbench>
  );
}
