import { Button } from "@mui/material";
import { useEffect, useState } from "react";
import { useLocation } from "react-router";
import type { Geometry } from "../../api/client";
import { make } from "../../api/edits";
import {
  type ShelfConstruction,
  useEdit,
  useGeometry,
  useOutcome,
  useProjectId,
  useScheme,
  useShelf,
} from "../../api/hooks";
import { ActsOn, Crumbs, Workbench } from "../../app/Sheet";
import { useKept, useViewed } from "../../app/state";
import { both, freshId } from "../../app/words";
import { ChoiceField, NumberField } from "../../fields/Field";
import { SidesField } from "../../fields/SidesField";
import { Scene } from "../../scene/Scene";
import { Assignment } from "./Assignment";
import { Builder } from "./builder/Builder";
import { drawnBand } from "./drawn";
import { elements, fitsElement } from "./elements";
import { louvreKinds } from "./FaceGlass";
import { FaceSheet } from "./FaceSheet";
import { GlassBuilder } from "./GlassBuilder";
import { Materials } from "./Materials";
import { OwnLibrary } from "./OwnLibrary";
import { ReadTable } from "./ReadTable";
import { Sets } from "./Sets";
import { SunOnFaces } from "./SunOnFaces";

const blinds = [
  { id: "none", name: "none" },
  { id: "inside", name: "inside" },
  { id: "outside", name: "outside" },
];
/** What the enclosure is made of: glass, shades, constructions by layers. */
export default function Skin() {
  const { scheme } = useScheme();
  const { selection } = useViewed("selection");
  const units = useKept((s) => s.units);
  const shelf = useShelf().data;
  const geometry = useGeometry(scheme.id).data;
  const outcome = useOutcome(scheme.id).data;
  const led = (useLocation().state as { construction?: string } | null)?.construction ?? null;
  const [open, setOpen] = useState<string | null>(led);
  useEffect(() => {
    if (led) setOpen(led);
  }, [led]);
  const path = `schemes/${scheme.id}/skin`;
  const turned = Number((scheme.turn_deg ?? 0).toFixed(1));
  const schedule = `/api/projects/${useProjectId()}/schemes/${scheme.id}/schedule`;
  const face = selection?.kind === "face" ? geometry?.faces.find((f) => f.id === selection.id) : undefined;
  const glazing = shelf?.glazings.find((g) => g.id === scheme.skin?.glazing);
  const facts = outcome?.elements as
    | Record<string, { u_value: number; thickness_m: number; capacity_kj_m2k: number }>
    | undefined;

  return (
    <Workbench canvas={open ? <Builder id={open} onOpen={setOpen} onClose={() => setOpen(null)} /> : <Scene />}>
      <Crumbs />
      {face && <FaceSheet face={face} />}
      <ActsOn what="Whole scheme" more={scheme.name} />
      <details open>
        <summary>Glass</summary>
        <ChoiceField path={`${path}/glazing`} note="Skin.glazing" label="Window" vary options={shelf?.glazings ?? []} />
        {glazing && (
          <div className="small quiet">
            U {both(glazing.u_value, "W/m²K", units, 2)} · g {glazing.g_value.toFixed(2)} · light{" "}
            {glazing.visible.toFixed(2)} · frame {Math.round(glazing.frame_share * 100)}%
          </div>
        )}
        <Untouched geometry={geometry} glazing={scheme.skin?.glazing} />
        {turned !== 0 && (
          <div className="small quiet" data-sides>
            {scheme.skin?.turn_with === "compass"
              ? "Sides by the compass, as the scheme stands now."
              : `Sides as they were before the scheme was turned by ${turned}°.`}
          </div>
        )}
        <SidesField
          path={`${path}/glazing_ratio`}
          group="GlazingRatio"
          label="Glazing ratio"
          short="Ratio"
          slider
          form
        />
        <ChoiceField
          path={`${path}/window_pattern`}
          note="Skin.window_pattern"
          label="Windows as"
          vary
          options={[
            { id: "repeated", name: "repeated" },
            { id: "ribbon", name: "ribbon" },
            { id: "storey_high", name: "storey-high" },
          ]}
        />
        <NumberField path={`${path}/window_module_m`} note="Skin.window_module_m" form />
        <NumberField path={`${path}/window_width_m`} note="Skin.window_width_m" form />
        <NumberField path={`${path}/sill_m`} note="Skin.sill_m" />
        <NumberField path={`${path}/head_m`} note="Skin.head_m" vary />
        <Drawn geometry={geometry} head={scheme.skin?.head_m ?? 0} sill={scheme.skin?.sill_m ?? 0} />
      </details>
      <details>
        <summary>Rooflights</summary>
        <NumberField path={`${path}/rooflight_ratio`} note="Skin.rooflight_ratio" slider form vary />
        <NumberField path={`${path}/rooflight_module_m`} note="Skin.rooflight_module_m" form />
        <ChoiceField
          path={`${path}/rooflight_glazing`}
          note="Skin.rooflight_glazing"
          label="Glass of rooflights"
          empty="as the windows"
          options={shelf?.glazings ?? []}
        />
      </details>
      <details open>
        <summary>Shades</summary>
        <SidesField path={`${path}/overhang_depth_m`} group="OverhangDepth" label="Overhang" slider form />
        <SidesField path={`${path}/fin_depth_m`} group="FinDepth" label="Fins" form />
        <SidesField path={`${path}/louvre_depth_m`} group="LouvreDepth" label="Louvres" />
        <NumberField path={`${path}/louvre_spacing_m`} note="Skin.louvre_spacing_m" />
        <ChoiceField
          path={`${path}/louvre_kind`}
          note="Skin.louvre_kind"
          label="Louvres as"
          options={louvreKinds.map(([id, name]) => ({ id, name }))}
        />
      </details>
      <details>
        <summary>Blinds</summary>
        <ChoiceField path={`${path}/blinds/place`} note="Blinds.place" label="Blinds" vary options={blinds} />
        {scheme.skin?.blinds?.place !== "none" && (
          <>
            <NumberField path={`${path}/blinds/closes_w_m2`} note="Blinds.closes_w_m2" slider vary />
            <NumberField path={`${path}/blinds/transmittance`} note="Blinds.transmittance" />
            <NumberField path={`${path}/blinds/reflectance`} note="Blinds.reflectance" />
          </>
        )}
      </details>
      <details open>
        <summary>Constructions</summary>
        <Sets />
        {elements.map(([element, name]) => {
          const id = String((scheme.skin as Record<string, unknown> | undefined)?.[element] ?? "");
          const chosen = shelf?.constructions.find((c) => c.id === id);
          const fact = facts?.[element];
          return (
            <div key={element} data-element={element} style={{ marginBottom: 6 }}>
              <ChoiceField
                path={`${path}/${element}`}
                note={`Skin.${element}`}
                label={name}
                vary
                empty={["party_wall", "basement_wall"].includes(element) ? "as the wall" : undefined}
                options={(shelf?.constructions ?? []).filter((c) => fitsElement(c.element, element))}
              />
              <div className="spread small quiet">
                <span>
                  {fact
                    ? `U ${both(fact.u_value, "W/m²K", units, 3)} · ${both(fact.thickness_m * 1000, "mm", units, 0)}`
                    : ""}
                </span>
                {chosen && (
                  <button
                    type="button"
                    className="plain assumed"
                    onClick={() => setOpen(open === chosen.id ? null : chosen.id)}
                  >
                    {open === chosen.id ? "close" : "layers"}
                  </button>
                )}
              </div>
            </div>
          );
        })}
        <NewConstruction onOpen={setOpen} />
        <ReadTable group="constructions" what="constructions" />
        <Assignment />
        <NumberField
          path={`${path}/wall_insulation_m`}
          note="Skin.wall_insulation_m"
          as="mm"
          vary
          placeholder={insulation(shelf?.constructions, scheme.skin?.wall)}
        />
        <NumberField
          path={`${path}/roof_insulation_m`}
          note="Skin.roof_insulation_m"
          as="mm"
          vary
          placeholder={insulation(shelf?.constructions, scheme.skin?.roof)}
        />
        <NumberField path={`${path}/inner_walls_m2_m2`} note="Skin.inner_walls_m2_m2" />
      </details>
      <details>
        <summary>Light inside</summary>
        <NumberField path={`${path}/ceiling_reflectance`} note="Skin.ceiling_reflectance" slider vary />
        <NumberField path={`${path}/wall_reflectance`} note="Skin.wall_reflectance" slider vary />
        <NumberField path={`${path}/floor_reflectance`} note="Skin.floor_reflectance" slider vary />
        <p className="quiet small">For daylight; a construction may say its own.</p>
      </details>
      <SunOnFaces />
      <details>
        <summary>Schedule</summary>
        <div className="small quiet">Constructions, and areas by element and orientation with U-values.</div>
        <div className="row" style={{ margin: "6px 0" }}>
          <Button variant="outlined" href={`${schedule}?units=${units}`} target="_blank">
            Page to print
          </Button>
          <Button variant="outlined" href={`${schedule}.xlsx?units=${units}`}>
            Save as XLSX
          </Button>
        </div>
      </details>
      <details>
        <summary>Thermal bridges</summary>
        <NumberField
          path={`${path}/thermal_bridges/surcharge_w_m2k`}
          note="ThermalBridges.surcharge_w_m2k"
          slider
          vary
        />
        <NumberField path={`${path}/thermal_bridges/rims_w_mk`} note="ThermalBridges.rims_w_mk" />
        <NumberField path={`${path}/thermal_bridges/edges_w_mk`} note="ThermalBridges.edges_w_mk" />
      </details>
      <ActsOn what="Whole project" more="its library" />
      <GlassBuilder />
      <Materials />
      <OwnLibrary />
    </Workbench>
  );
}

/** Begins a construction of the project's own: one layer to start from, or just a U-value. */
function NewConstruction({ onOpen }: { onOpen: (id: string) => void }) {
  const shelf = useShelf().data;
  const edit = useEdit();
  async function begin(name: string, how: object) {
    const id = freshId(
      "own",
      (shelf?.constructions ?? []).map((c) => c.id),
    );
    const item = { id, name, element: "wall", source: "the project's own", ...how };
    if (await edit(make.put("library/constructions", item))) onOpen(id);
  }
  const wool = shelf?.materials.find((m) => m.id === "mineral-wool");
  return (
    <div className="row" style={{ margin: "4px 0 8px" }}>
      <Button
        variant="outlined"
        disabled={!wool}
        onClick={() => {
          const { name, conductivity, density, specific_heat, vapour_resistance, carbon_kg_kg } = wool ?? {};
          const layer = {
            name,
            conductivity,
            density,
            specific_heat,
            vapour_resistance,
            carbon_kg_kg,
            insulation: true,
          };
          void begin("New construction", { layers: [{ ...layer, thickness_m: 0.2 }] });
        }}
      >
        Build one by layers
      </Button>
      <Button variant="outlined" onClick={() => void begin("New construction by U-value", { u_value: 0.25 })}>
        by its U-value
      </Button>
    </div>
  );
}

function insulation(all: ShelfConstruction[] | undefined, id: string | undefined): number | null {
  const layers = all?.find((c) => c.id === id)?.layers.filter((l) => l.insulation) ?? [];
  return layers.length ? Math.max(...layers.map((l) => l.thickness_m)) : null;
}

/** Says of how many walls the scheme's glass or ratio says nothing, since they have their own. */
function Untouched({ geometry, glazing }: { geometry: Geometry | undefined; glazing: string | undefined }) {
  const walls = (geometry?.faces ?? []).filter((f) => f.kind === "wall" && f.window_area > 0);
  const otherGlass = walls.filter((f) => f.glazing && f.glazing !== glazing).length;
  const drawn = walls.filter((f) => !f.edge).length;
  if (otherGlass + drawn === 0) return null;
  const of = (n: number) =>
    n === walls.length ? "all walls with windows" : `${n} of ${walls.length} walls with windows`;
  return (
    <div className="small quiet" data-untouched={otherGlass}>
      {otherGlass > 0 && `Glass of their own: ${of(otherGlass)}. `}
      {drawn > 0 && `Windows of their own, whatever the ratio: ${of(drawn)}.`}
    </div>
  );
}

/** Where the ratio asks for more than fits between sill and head, windows are drawn beyond them: how far. */
function Drawn({ geometry, head, sill }: { geometry: Geometry | undefined; head: number; sill: number }) {
  const units = useKept((s) => s.units);
  const walls = (geometry?.faces ?? []).filter((f) => f.kind === "wall" && f.edge && !f.side);
  const drawn = drawnBand(walls, geometry);
  if (!drawn) return null;
  const beyond = [
    drawn.head > head + 0.01 ? `up to ${both(drawn.head, "m", units, 2)}` : "",
    drawn.sill < sill - 0.01 ? `down to ${both(drawn.sill, "m", units, 2)}` : "",
  ].filter(Boolean);
  if (beyond.length === 0) return null;
  return (
    <div className="small quiet" data-drawn>
      Drawn {beyond.join(" and ")} where a wall&apos;s ratio or its own measures ask for it.
    </div>
  );
}
