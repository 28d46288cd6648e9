import type { Units } from "../../../app/state";
import { scale } from "../../../app/words";

/** What the values of a schedule are, and how they are drawn and typed. */
export interface Kind {
  unit: string;
  /** What a drawn bar is rounded to, and a key's step. */
  step: number;
  low: number;
  high: number;
  /** Between which values bars are drawn. */
  reach: (values: readonly number[]) => [number, number];
  say: (value: number) => string;
  read: (text: string) => number | null;
}

const number = (text: string) => {
  const found = Number(text.trim().replace(",", ".").replace("%", "").replace("−", "-"));
  return text.trim() === "" || Number.isNaN(found) ? null : found;
};

export const shares: Kind = {
  unit: "% of the most",
  step: 0.05,
  low: 0,
  high: 1,
  reach: (values) => [0, Math.max(1, ...values)],
  say: (v) => String(Math.round(v * 100)),
  read: (text) => {
    const found = number(text);
    return found === null ? null : found / 100;
  },
};

export function temperatures(units: Units): Kind {
  const to = scale("°C", units);
  return {
    unit: to.unit,
    step: 0.5,
    low: -50,
    high: 60,
    reach: (values) => [Math.min(10, Math.floor(Math.min(...values))), Math.max(30, Math.ceil(Math.max(...values)))],
    say: (v) => (v * to.factor + to.offset).toFixed(1),
    read: (text) => {
      const found = number(text);
      return found === null ? null : (found - to.offset) / to.factor;
    },
  };
}

/** Prices, shown in cents, and carbon factors, in grams, a kWh: numbers short enough to stand 24 beside each other. */
export function perKwh(what: "price" | "carbon", units: Units): Kind {
  const pounds = scale("kg/kWh", units).factor;
  const factor = what === "price" ? 100 : 1000 * pounds;
  return {
    unit: what === "price" ? "ct/kWh" : units === "IP" ? "lb/MWh" : "g/kWh",
    step: 0.01,
    low: -1,
    high: 5,
    reach: (values) => [Math.min(0, ...values), Math.max(0.4, Math.ceil(Math.max(...values) * 12) / 10)],
    say: (v) => String(Number((v * factor).toFixed(what === "price" ? 1 : 0))),
    read: (text) => {
      const found = number(text);
      return found === null ? null : Number((found / factor).toFixed(9));
    },
  };
}
