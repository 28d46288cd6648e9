import { Button, MenuItem, Select } from "@mui/material";
import { useRef, useState } from "react";
import type { ShelfLayer, ShelfMaterial } from "../../../api/hooks";
import { useKept } from "../../../app/state";
import { round, scale } from "../../../app/words";
import { keepOnEnter } from "../../../fields/enter";
import type { Account } from "./examine";

type Key = "thickness_m" | "conductivity" | "density" | "specific_heat" | "vapour_resistance";
const columns: [Key, string, string, number, number][] = [
  ["thickness_m", "mm", "mm", 1000, 1],
  ["conductivity", "λ", "W/mK", 1, 3],
  ["density", "ρ", "kg/m³", 1, 0],
  ["specific_heat", "c", "J/kgK", 1, 0],
  ["vapour_resistance", "μ", "", 1, 0],
];

/** The layers of a construction as a table, from outside to inside; a value that is unusual is asked about in its row. */
export function Layers({
  layers,
  account,
  materials,
  own,
  onChange,
}: {
  layers: ShelfLayer[];
  account: Account | undefined;
  materials: ShelfMaterial[];
  own: boolean;
  onChange: (change: (now: ShelfLayer[]) => ShelfLayer[]) => unknown;
}) {
  const units = useKept((s) => s.units);
  const change = (i: number, part: object) => onChange((now) => now.map((l, k) => (k === i ? { ...l, ...part } : l)));
  const move = (i: number, by: number) =>
    onChange((now) => {
      const next = [...now];
      const [one] = next.splice(i, 1);
      next.splice(i + by, 0, one);
      return next;
    });
  const material = (name: string): Partial<ShelfLayer> => {
    const m = materials.find((o) => o.name.toLowerCase() === name.trim().toLowerCase());
    if (!m) return { name };
    const { conductivity, density, specific_heat, vapour_resistance, carbon_kg_kg } = m;
    const insulation = m.family === "insulation";
    return {
      name: m.name,
      conductivity,
      density,
      specific_heat,
      vapour_resistance,
      carbon_kg_kg,
      insulation,
      air: "none",
    };
  };
  const questions = account?.questions ?? [];
  return (
    <>
      <datalist id="materials">
        {materials.map((m) => (
          <option key={m.id} value={m.name} />
        ))}
      </datalist>
      <table className="plain-table" style={{ width: "100%" }}>
        <thead>
          <tr>
            <th />
            <th>Outside to inside</th>
            {columns.map(([key, sign, unit]) => (
              <th key={key} className="num">
                {sign === "mm" ? scale("mm", units).unit : sign}{" "}
                {sign !== "mm" && <span className="quiet">{unit && scale(unit, units).unit}</span>}
              </th>
            ))}
            <th className="num">
              R <span className="quiet">{scale("m²K/W", units).unit}</span>
            </th>
            <th />
          </tr>
        </thead>
        <tbody>
          {layers.map((l, i) => (
            <LayerRow
              key={i}
              {...{ l, i, own, questions, material }}
              last={i === layers.length - 1}
              resistance={account?.layers[i]?.resistance}
              onPart={(part) => change(i, part)}
              onMove={(by) => move(i, by)}
              onRemove={() => onChange((now) => now.filter((_, k) => k !== i))}
            />
          ))}
        </tbody>
      </table>
      {own && (
        <div className="row" style={{ marginTop: 8 }}>
          <Button
            variant="outlined"
            disabled={layers.length >= 40}
            onClick={() =>
              onChange((now) => [...now, { ...(material("gypsum board") as ShelfLayer), thickness_m: 0.0125 }])
            }
          >
            Add layer
          </Button>
          <Button
            variant="outlined"
            disabled={layers.length >= 40}
            onClick={() => onChange((now) => [{ name: "air", thickness_m: 0.04, air: "still" } as ShelfLayer, ...now])}
          >
            Add air layer
          </Button>
        </div>
      )}
    </>
  );
}

function LayerRow({
  l,
  i,
  own,
  last,
  resistance,
  questions,
  material,
  onPart,
  onMove,
  onRemove,
}: {
  l: ShelfLayer;
  i: number;
  own: boolean;
  last: boolean;
  resistance?: number;
  questions: Account["questions"];
  material: (name: string) => Partial<ShelfLayer>;
  /** Takes what was typed, sound or not: the server says what is wrong with it. */
  onPart: (part: object) => unknown;
  onMove: (by: number) => void;
  onRemove: () => void;
}) {
  const units = useKept((s) => s.units);
  const asked = questions.filter((q) => q.field.startsWith(`layers/${i}/`));
  const air = l.air && l.air !== "none";
  const name = `Layer ${i + 1}`;
  return (
    <>
      <tr data-layer={i + 1}>
        <td className="quiet">{i + 1}</td>
        <td>
          {own ? (
            <Cell
              wide
              value={l.name ?? ""}
              label={`${name}, material`}
              list="materials"
              onCommit={(t) => onPart(material(t))}
            />
          ) : (
            l.name
          )}
        </td>
        {columns.map(([key, , unit, factor, digits]) => {
          const to = key === "thickness_m" ? scale("mm", units) : scale(unit, units);
          const value = l[key];
          const blank = air && key !== "thickness_m";
          const shown =
            value === null || value === undefined || blank
              ? ""
              : units === "IP"
                ? String(Number((value * factor * to.factor).toPrecision(4)))
                : plainNumber(value * factor * to.factor, digits);
          return (
            <td key={key} className="num">
              {own && !blank ? (
                <Cell
                  value={shown}
                  label={`${name}, ${key.replace(/_m$/, "").replaceAll("_", " ")}`}
                  odd={asked.some((q) => q.field.endsWith(key))}
                  onCommit={(t) => onPart({ [key]: typed(t, factor * to.factor) })}
                />
              ) : (
                shown || (blank ? "" : "?")
              )}
            </td>
          );
        })}
        <td className="num">{resistance === undefined ? "" : round(resistance * scale("m²K/W", units).factor, 2)}</td>
        <td style={{ whiteSpace: "nowrap" }}>
          {own && (
            <>
              <button
                type="button"
                className="plain"
                aria-label={`${name} further out`}
                disabled={i === 0}
                onClick={() => onMove(-1)}
              >
                ↑
              </button>{" "}
              <button
                type="button"
                className="plain"
                aria-label={`${name} further in`}
                disabled={last}
                onClick={() => onMove(1)}
              >
                ↓
              </button>{" "}
              <button type="button" className="plain" aria-label={`Remove ${name.toLowerCase()}`} onClick={onRemove}>
                ×
              </button>
            </>
          )}
        </td>
      </tr>
      {(own || l.inlay || air) && (
        <tr>
          <td />
          <td colSpan={8} className="small quiet" style={{ paddingBottom: 4 }}>
            {air ? (
              <Select
                variant="standard"
                disabled={!own}
                value={l.air}
                inputProps={{ "aria-label": `${name}, air` }}
                onChange={(e) => onPart({ air: e.target.value as ShelfLayer["air"] })}
              >
                <MenuItem value="still">still air</MenuItem>
                <MenuItem value="ventilated">open to the outside: layers beyond do not count</MenuItem>
              </Select>
            ) : l.inlay ? (
              <span className="row" style={{ flexWrap: "wrap" }}>
                interrupted by {l.inlay.name || "studs"},
                {own ? (
                  <Cell
                    value={plainNumber(l.inlay.share * 100, 1)}
                    label={`${name}, share of studs`}
                    onCommit={(t) => l.inlay && onPart({ inlay: { ...l.inlay, share: typed(t, 100) ?? 0 } })}
                  />
                ) : (
                  round(l.inlay.share * 100, 0)
                )}
                % of the area
                {own && (
                  <button type="button" className="plain assumed" onClick={() => onPart({ inlay: null })}>
                    without
                  </button>
                )}
              </span>
            ) : (
              own && (
                <button
                  type="button"
                  className="plain assumed"
                  aria-label={`${name}, interrupt by studs`}
                  onClick={() => onPart({ inlay: studs(material) })}
                >
                  interrupt by studs
                </button>
              )
            )}
          </td>
        </tr>
      )}
      {asked.map((q) => (
        <tr key={q.field} data-question={q.field}>
          <td />
          <td colSpan={8}>
            <div className="remark" style={{ margin: "2px 0 6px" }}>
              {units === "IP" ? q.sentence_ip : q.sentence}{" "}
              {own && q.proposed !== null && (
                <button
                  type="button"
                  className="plain assumed"
                  onClick={() => onPart({ [q.field.split("/")[2]]: q.proposed })}
                >
                  Take {Number((q.proposed * scale(unitOf[q.field.split("/")[2]] ?? "", units).factor).toPrecision(3))}
                </button>
              )}
            </div>
          </td>
        </tr>
      ))}
    </>
  );
}

function studs(material: (name: string) => Partial<ShelfLayer>): ShelfLayer["inlay"] {
  const { name, conductivity, density, specific_heat, carbon_kg_kg } = material("softwood");
  return { name, share: 0.1, conductivity, density, specific_heat, carbon_kg_kg } as ShelfLayer["inlay"];
}

const unitOf: Record<string, string> = { conductivity: "W/mK", density: "kg/m³", specific_heat: "J/kgK" };

const plainNumber = (value: number, digits: number) => String(Number(value.toFixed(digits)));

/** What was typed as an SI value; what is no number goes to the server as it is, which says what is wrong with it. */
function typed(text: string, factor: number): number | string | null {
  if (!text.trim()) return null;
  const value = Number(text.replace(",", "."));
  return Number.isFinite(value) ? Number((value / factor).toPrecision(8)) : text;
}

/** A value in a table that is typed into. */
export function Cell({
  value,
  label,
  wide,
  odd,
  list,
  empty,
  onCommit,
}: {
  value: string;
  label: string;
  /** What stands there while nothing is given. */
  empty?: string;
  wide?: boolean;
  odd?: boolean;
  list?: string;
  onCommit: (text: string) => unknown;
}) {
  const [text, setText] = useState<string | null>(null);
  const typing = useRef(false);
  return (
    <input
      className={`cell${wide ? " wide" : ""}${odd ? " odd" : ""}`}
      aria-label={label}
      list={list}
      placeholder={empty}
      value={text ?? value}
      onChange={(e) => {
        typing.current = true;
        setText(e.target.value);
      }}
      onFocus={(e) => e.target.select()}
      onBlur={() => {
        if (!typing.current) return;
        typing.current = false;
        if (text === null || text === value) return setText(null);
        // what was typed stands until it is known what became of it, unless it is typed over meanwhile
        void Promise.resolve(onCommit(text)).finally(() => !typing.current && setText(null));
      }}
      onKeyDown={keepOnEnter}
    />
  );
}
