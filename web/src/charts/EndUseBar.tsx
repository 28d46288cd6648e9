import { useRef } from "react";
import type { Totals } from "../api/client";
import { endUses } from "../app/theme";
import { tone } from "../app/tokens";
import { useWidth } from "../app/width";

/** End uses per floor area in the fixed order; fans and pumps as one. */
export function usesOf(totals: Totals): { id: string; name: string; value: number; colour: string; dark: boolean }[] {
  const area = totals.conditioned_floor_area_m2 || 1;
  const e = totals.energy_kwh;
  return endUses.map((use) => ({
    ...use,
    value: (use.id === "fans_pumps" ? (e.fans ?? 0) + (e.pumps ?? 0) + (e.humidity ?? 0) : (e[use.id] ?? 0)) / area,
  }));
}

/** How wide a letter is at the most, on average, in the type of the parts, px. */
const LETTER_PX = 6.4;

/** Whole numbers where they say enough, one decimal where they are small. */
const shown = (v: number) => (v < 9.95 && v % 1 !== 0 ? v.toFixed(1) : v.toFixed(0));

/** A stacked bar by end use, the reference's as a ghost above it, generation hatched below the part that it covers. */
export function EndUseBar({
  totals,
  most,
  factor = 1,
  ghost,
  ghostName,
  height = 22,
  named = true,
}: {
  totals: Totals;
  most: number;
  factor?: number;
  ghost?: number;
  ghostName?: string;
  height?: number;
  /** Write names into the wider parts; not where a key stands beside. */
  named?: boolean;
}) {
  const bar = useRef<HTMLDivElement>(null);
  const broad = useWidth(bar);
  const uses = usesOf(totals);
  const full = 100 / most;
  let left = 0;
  const saved = totals.lighting_saved_kwh_per_m2 ?? 0;
  const lit = uses
    .slice(
      0,
      uses.findIndex((u) => u.id === "lighting"),
    )
    .reduce((sum, u) => sum + u.value, 0);
  const lamp = uses.find((u) => u.id === "lighting");
  const covered = totals.eui_kwh_per_m2 - totals.eui_net_kwh_per_m2;
  const top = ghost === undefined ? 0 : 12;
  const said = uses.map((u) => `${u.name} ${(u.value * factor).toFixed(1)}`).join(", ");
  return (
    <div
      ref={bar}
      style={{ position: "relative", height: top + height + 14, width: "100%" }}
      role="img"
      aria-label={`By end use: ${said}`}
    >
      {ghost !== undefined && (
        <div
          style={{ position: "absolute", left: 0, top: 0, height: 5, width: `${ghost * full}%`, background: "#CFC4B0" }}
          title={ghostName}
        />
      )}
      {uses.map((u) => {
        const width = u.value * full;
        const here = left;
        left += width;
        const number = shown(u.value * factor);
        const fits = (text: string) => (width / 100) * broad > text.length * LETTER_PX + 6;
        const told = [named ? `${u.name.toLowerCase()} ${number}` : number, number, ""].find((t) => !t || fits(t));
        return (
          <div
            key={u.id}
            title={`${u.name}: ${(u.value * factor).toFixed(1)}`}
            style={{
              position: "absolute",
              left: `${here}%`,
              width: `calc(${width}% - 1px)`,
              top,
              height,
              background: u.colour,
              color: u.dark ? tone.bright : tone.ink,
              fontSize: 11.5,
              fontWeight: 650,
              textAlign: "center",
              lineHeight: `${height}px`,
              overflow: "hidden",
              whiteSpace: "nowrap",
            }}
          >
            {told}
          </div>
        );
      })}
      {saved > 0.05 && (
        <div
          data-saved={saved.toFixed(2)}
          title={`Lighting saved by daylight: ${(saved * factor).toFixed(1)}`}
          style={{
            position: "absolute",
            left: `${lit * full}%`,
            width: `${Math.min(saved, most - lit) * full}%`,
            top: top + height + 2,
            height: 6,
            background: `repeating-linear-gradient(135deg, ${lamp?.colour} 0 2px, ${tone.bright} 2px 5px)`,
            outline: `1px solid ${lamp?.colour}`,
          }}
        />
      )}
      {covered > 0.05 && (
        <div
          title={`Covered by own generation: ${(covered * factor).toFixed(1)}`}
          style={{
            position: "absolute",
            left: `${(totals.eui_kwh_per_m2 - covered) * full}%`,
            width: `${covered * full}%`,
            top: top + height + 2,
            height: 6,
            background: `repeating-linear-gradient(135deg, ${tone.grown} 0 2px, #DCE8DD 2px 5px)`,
          }}
        />
      )}
    </div>
  );
}
