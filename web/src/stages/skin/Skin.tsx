import { Button } from "@mui/material";
import { useState } from "react";
import type { Edit } from "../../api/client";
import { type ShelfConstruction, useEdit, useGeometry, useOutcome, useScheme, useShelf } from "../../api/hooks";
import { Crumbs, Workbench } from "../../app/Sheet";
import { useKept, useView } from "../../app/state";
import { both, figure, freshId } from "../../app/words";
import { ChoiceField, NumberField } from "../../fields/Field";
import { Scene } from "../../scene/Scene";
import { FaceSheet } from "./FaceSheet";
import { Section } from "./Section";

const sides = ["north", "east", "south", "west"] as const;
const blinds = [
  { id: "none", name: "none" },
  { id: "inside", name: "inside" },
  { id: "outside", name: "outside" },
];
const elements = [
  ["wall", "Wall"],
  ["roof", "Roof"],
  ["ground_floor", "Floor on ground"],
  ["exposed_floor", "Exposed floor"],
  ["partition", "Partition"],
  ["intermediate_floor", "Intermediate floor"],
] as const;

/** What the enclosure is made of: glass, shades, constructions by layers. */
export default function Skin() {
  const { scheme } = useScheme();
  const { selection } = useView();
  const units = useKept((s) => s.units);
  const shelf = useShelf().data;
  const geometry = useGeometry(scheme.id).data;
  const outcome = useOutcome(scheme.id).data;
  const [open, setOpen] = useState<string | null>(null);
  const path = `schemes/${scheme.id}/skin`;
  const face = selection?.kind === "face" ? geometry?.faces.find((f) => f.id === selection.id) : undefined;
  const glazing = shelf?.glazings.find((g) => g.id === scheme.skin?.glazing);
  const facts = outcome?.elements as
    | Record<string, { u_value: number; thickness_m: number; capacity_kj_m2k: number }>
    | undefined;

  return (
    <Workbench canvas={<Scene />}>
      <Crumbs />
      {face && <FaceSheet face={face} />}
      <details open>
        <summary>Glass</summary>
        <ChoiceField path={`${path}/glazing`} note="Skin.glazing" label="Window" vary options={shelf?.glazings ?? []} />
        {glazing && (
          <div className="small quiet">
            U {both(glazing.u_value, "W/m²K", units, 2)} · g {glazing.g_value.toFixed(2)} · light{" "}
            {glazing.visible.toFixed(2)} · frame {Math.round(glazing.frame_share * 100)}%
          </div>
        )}
        {sides.map((s) => (
          <NumberField
            key={s}
            path={`${path}/glazing_ratio/${s}`}
            note={`GlazingRatio.${s}`}
            label={`Ratio ${s}`}
            as="percent"
            slider
            form
            vary
          />
        ))}
        <NumberField path={`${path}/sill_m`} note="Skin.sill_m" />
        <NumberField path={`${path}/head_m`} note="Skin.head_m" />
      </details>
      <details open>
        <summary>Shades</summary>
        {sides.map((s) => (
          <NumberField
            key={s}
            path={`${path}/overhang_depth_m/${s}`}
            note={`OverhangDepth.${s}`}
            vary
            form
            slider={s === "south"}
          />
        ))}
        {sides.map((s) => (
          <NumberField key={s} path={`${path}/fin_depth_m/${s}`} note={`FinDepth.${s}`} vary form />
        ))}
      </details>
      <details>
        <summary>Blinds</summary>
        <ChoiceField path={`${path}/blinds/place`} note="Blinds.place" label="Blinds" vary options={blinds} />
        {scheme.skin?.blinds?.place !== "none" && (
          <>
            <NumberField path={`${path}/blinds/closes_w_m2`} note="Blinds.closes_w_m2" slider vary />
            <NumberField path={`${path}/blinds/transmittance`} note="Blinds.transmittance" as="percent" />
            <NumberField path={`${path}/blinds/reflectance`} note="Blinds.reflectance" as="percent" />
          </>
        )}
      </details>
      <details open>
        <summary>Constructions</summary>
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
                options={(shelf?.constructions ?? []).filter((c) => c.element === element)}
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
                    onClick={() => setOpen(open === element ? null : element)}
                  >
                    {open === element ? "close" : "layers"}
                  </button>
                )}
              </div>
              {open === element && chosen && <Layers construction={chosen} element={element} />}
            </div>
          );
        })}
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
    </Workbench>
  );
}

function insulation(all: ShelfConstruction[] | undefined, id: string | undefined): number | null {
  const layers = all?.find((c) => c.id === id)?.layers.filter((l) => l.insulation) ?? [];
  return layers.length ? Math.max(...layers.map((l) => l.thickness_m)) : null;
}

/** A construction by its layers, drawn to scale; a shipped one is copied into the project before it is changed. */
function Layers({ construction, element }: { construction: ShelfConstruction; element: string }) {
  const { scheme, state } = useScheme();
  const edit = useEdit();
  const units = useKept((s) => s.units);
  const own = construction.own;
  const path = `library/constructions/${construction.id}`;

  async function copy() {
    const taken = (state.completed.library?.constructions ?? []).map((c) => c.id);
    const id = freshId(construction.id.replace(/-\d+$/, ""), taken);
    const { name, layers, solar_absorptance, emissivity } = construction;
    const item = {
      id,
      name: `${name}, own`,
      element,
      layers,
      solar_absorptance,
      emissivity,
      source: "the project's own",
    };
    await edit({
      op: "together",
      edits: [
        { op: "put", path: "library/constructions", item },
        { op: "set", path: `schemes/${scheme.id}/skin/${element}`, value: id },
      ],
    } as unknown as Edit);
  }

  function change(index: number, key: string, text: string, factor: number) {
    const value = Number((Number(text.replace(",", ".")) / factor).toFixed(6));
    if (!Number.isFinite(value) || value <= 0) return;
    const layers = construction.layers.map((l, i) => (i === index ? { ...l, [key]: value } : l));
    void edit({ op: "set", path: `${path}/layers`, value: layers } as Edit);
  }

  const thick = units === "IP" ? 1 / 0.0254 : 1000;
  const lambda = units === "IP" ? 6.933471799 : 1;
  return (
    <div style={{ border: "1px solid var(--line)", borderRadius: 6, padding: 8, background: "#FFFEFB" }}>
      <Section layers={construction.layers} />
      <table className="plain-table">
        <thead>
          <tr>
            <th>Outside to inside</th>
            <th className="num">{units === "IP" ? "in" : "mm"}</th>
            <th className="num">λ {units === "IP" ? "Btu·in/h·ft²·°F" : "W/mK"}</th>
          </tr>
        </thead>
        <tbody>
          {construction.layers.map((l, i) => (
            <tr key={`${l.name}-${i}`}>
              <td>{l.name}</td>
              <td className="num">
                {own ? (
                  <Cell
                    value={Number((l.thickness_m * thick).toFixed(2))}
                    label={`${l.name}, thickness`}
                    onCommit={(t) => change(i, "thickness_m", t, thick)}
                  />
                ) : (
                  (l.thickness_m * thick).toFixed(units === "IP" ? 2 : 0)
                )}
              </td>
              <td className="num">
                {own ? (
                  <Cell
                    value={Number((l.conductivity * lambda).toFixed(3))}
                    label={`${l.name}, conductivity`}
                    onCommit={(t) => change(i, "conductivity", t, lambda)}
                  />
                ) : (
                  (l.conductivity * lambda).toFixed(3)
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="small quiet" style={{ margin: "4px 0" }}>
        U {both(construction.u, "W/m²K", units, 3)}, heat capacity{" "}
        {figure(construction.capacity_kj_m2k, "kJ/m²K", units, 0).text} {figure(1, "kJ/m²K", units, 0).unit}.{" "}
        {construction.source}
      </div>
      {!own && (
        <Button variant="outlined" onClick={() => void copy()}>
          Copy into the project to change it
        </Button>
      )}
    </div>
  );
}

function Cell({ value, label, onCommit }: { value: number; label: string; onCommit: (text: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <input
      aria-label={label}
      style={{ width: 58, textAlign: "right", font: "inherit", border: "1px solid var(--line)", borderRadius: 4 }}
      value={text ?? value}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        if (text !== null && text !== String(value)) onCommit(text);
        setText(null);
      }}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}
