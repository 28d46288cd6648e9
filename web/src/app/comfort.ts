import type { Outcome } from "../api/client";
import { figure } from "./words";

type Units = Parameters<typeof figure>[2];

/** A comfort limit that holds for some use profiles; `too_warm_c` is null where it follows the outdoor temperature. */
export type Limit = Outcome["comfort"]["limits"][number];

/** The upper or lower limits that hold, in few words: "27 °C", "19 / 16 °C", "the adaptive band". */
export function limitsIn(limits: Limit[], side: "too_warm_c" | "too_cold_c", units: Units): string {
  const said = limits.map((l) => {
    const value = l[side];
    return value === null ? "the adaptive band" : figure(value, "°C", units, 0).text;
  });
  const known = [...new Set(said)];
  const unit = known.some((s) => s !== "the adaptive band") ? ` ${figure(0, "°C", units, 0).unit}` : "";
  const numbers = known.filter((s) => s !== "the adaptive band");
  const text = numbers.length > 0 ? numbers.join(" / ") + unit : "";
  return known.includes("the adaptive band") ? [text, "the adaptive band"].filter(Boolean).join(" or ") : text;
}

/** Which limits hold for which use, a line each. */
export function limitsByUse(limits: Limit[], units: Units): string {
  return limits
    .map(
      (l) =>
        `${l.profiles.join(", ")}: above ${limitsIn([l], "too_warm_c", units)}, below ${limitsIn([l], "too_cold_c", units)}`,
    )
    .join("; ");
}
