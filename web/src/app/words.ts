import type { Units } from "./state";

/** Words a difference: "12% less". The arrow in front is a second sign beside the word. */
export function inWords(value: number, base: number): string {
  if (Math.abs(base) < 1e-9) return Math.abs(value) < 1e-9 ? "the same" : "";
  const change = value / base - 1;
  if (Math.abs(change) < 0.005) return "the same";
  if (value * base < 0) return "of the other sign";
  if (change >= 2) return `↑ ${(value / base).toFixed(1)} times as much`;
  const size = Math.abs(change) * 100;
  return `${change > 0 ? "↑" : "↓"} ${size < 0.95 ? size.toFixed(1) : size.toFixed(0)}% ${change > 0 ? "more" : "less"}`;
}

const IP: Record<string, [string, number, number]> = {
  "kWh/m²": ["kBtu/ft²", 3.412141633 * 0.09290304, 1],
  kW: ["kBtu/h", 3.412141633, 0],
  kWh: ["kBtu", 3.412141633, 0],
  "m²": ["ft²", 1 / 0.09290304, 0],
  "m³": ["ft³", 1 / 0.028316846592, 0],
  m: ["ft", 1 / 0.3048, 1],
  "kg/m²": ["lb/ft²", 2.204622622 * 0.09290304, 2],
  "€/m²": ["€/ft²", 0.09290304, 2],
  "W/m²K": ["Btu/h·ft²·°F", 0.1761101838, 3],
  "kJ/m²K": ["Btu/ft²·°F", 0.04891828, 1],
  "m/s": ["mph", 2.236936292, 1],
  K·d: ["°F·d", 1.8, 0],
  mm: ["in", 1 / 25.4, 1],
  "W/m²": ["W/ft²", 0.09290304, 2],
};

/** Shows a computed figure in the chosen units, with its unit. */
export function figure(value: number, unit: string, units: Units, digits: number): { text: string; unit: string } {
  if (units === "IP" && unit === "°C") return { text: round(value * 1.8 + 32, digits), unit: "°F" };
  const ip = units === "IP" ? IP[unit] : undefined;
  return ip ? { text: round(value * ip[1], ip[2]), unit: ip[0] } : { text: round(value, digits), unit };
}

export function both(value: number, unit: string, units: Units, digits: number): string {
  const shown = figure(value, unit, units, digits);
  return `${shown.text} ${shown.unit}`;
}

/** The factor by which a unit's SI values are multiplied for a chart's axis, and the unit's name there. */
export function scale(unit: string, units: Units): { factor: number; offset: number; unit: string } {
  if (units === "IP" && unit === "°C") return { factor: 1.8, offset: 32, unit: "°F" };
  const ip = units === "IP" ? IP[unit] : undefined;
  return ip ? { factor: ip[1], offset: 0, unit: ip[0] } : { factor: 1, offset: 0, unit };
}

export function round(value: number, digits: number): string {
  return value.toLocaleString("en-GB", { minimumFractionDigits: digits, maximumFractionDigits: digits });
}

export const months = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** Spells `07-21T17` as "21 Jul 17:00". */
export function hourText(name: string | null | undefined): string {
  if (!name) return "never";
  const [date, hour] = name.split("T");
  const [month, day] = date.split("-");
  return `${Number(day)} ${months[Number(month) - 1]} ${hour}:00`;
}

export function dateOfHour(index: number): string {
  const at = new Date(Date.UTC(2023, 0, 1) + index * 3600e3);
  return `${at.getUTCDate()} ${months[at.getUTCMonth()]}`;
}

/** Makes a short id from a name that does not clash with those taken. */
export function freshId(stem: string, taken: string[]): string {
  for (let i = 1; ; i++) if (!taken.includes(`${stem}-${i}`)) return `${stem}-${i}`;
}
