import table from "../api/units.json";
import type { Units } from "./state";

/** Words a difference: "12% less". The arrow in front is a second sign beside the word. */
export function inWords(value: number, base: number): string {
  if (Math.abs(base) < 1e-9) return Math.abs(value) < 1e-9 ? "the same" : "";
  const change = value / base - 1;
  if (Math.abs(change) < 0.005) return "the same";
  if (value * base < 0) return "of the other sign";
  if (change >= 2) return `↑ ${(value / base).toFixed(1)} times as much`;
  const size = Math.abs(change) * 100;
  let said = size < 0.95 ? size.toFixed(1) : size.toFixed(0);
  if (said === "100" && change < 0 && value !== 0) said = size < 99.95 ? size.toFixed(1) : "over 99.9"; // what is left is not nothing
  return `${change > 0 ? "↑" : "↓"} ${said}% ${change > 0 ? "more" : "less"}`;
}

interface Ip {
  unit: string;
  factor: number;
  offset: number;
  digits: number;
}

function ipOf(unit: string, units: Units): Ip | undefined {
  return units === "IP" ? (table as Record<string, Ip>)[unit] : undefined;
}

/** Shows a computed figure in the chosen units, with its unit. */
export function figure(value: number, unit: string, units: Units, digits: number): { text: string; unit: string } {
  const ip = ipOf(unit, units);
  if (Number.isNaN(value)) return { text: "–", unit: "" };
  if (!ip) return { text: round(value, digits), unit };
  return { text: round(value * ip.factor + ip.offset, Math.max(0, digits + ip.digits)), unit: ip.unit };
}

export function both(value: number, unit: string, units: Units, digits: number): string {
  const shown = figure(value, unit, units, digits);
  return shown.unit === "°" ? `${shown.text}°` : `${shown.text} ${shown.unit}`.trim();
}

/** How a unit's SI values are turned for a chart's axis or a typed list, and the unit's name there. */
export function scale(unit: string, units: Units): { factor: number; offset: number; unit: string } {
  return ipOf(unit, units) ?? { factor: 1, offset: 0, unit };
}

/** What the server puts around the amounts in its sentences; no text has it (`model/amount.py`). */
const marked = /\ue000([^|\ue001]*)\|([^|\ue001]*)\|([^\ue001]*)\ue001/g;

/** A sentence of the server with its amounts in the chosen units. */
export function said(sentence: string, units: Units): string {
  return sentence.replace(marked, (_, text: string, unit: string, digits: string) => {
    if (digits) return both(Number(text), unit, units, Number(digits));
    const to = scale(unit, units);
    const value = Number(text) * to.factor + to.offset;
    const shown = Math.abs(value) >= 1000 ? round(value, 0) : Number(value.toPrecision(3)); // three figures say enough
    return `${shown}${to.unit === "°" ? "" : " "}${to.unit}`;
  });
}

export function round(value: number, digits: number): string {
  return value.toLocaleString("en-GB", { minimumFractionDigits: digits, maximumFractionDigits: digits });
}

/** So many of something: "1 case", "12 cases". */
export function count(n: number, one: string, several = `${one}s`): string {
  return `${round(n, 0)} ${n === 1 ? one : several}`;
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
