import { months } from "../../../app/words";

const lengths = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
export const weekdays = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"] as const;
export type Weekday = (typeof weekdays)[number];

/** The first day of each month, 0 for 1 January. */
export const monthStarts = lengths.map((_, m) => lengths.slice(0, m).reduce((a, b) => a + b, 0));

/** Spells day 0 to 364 as "24 Dec". */
export function sayDay(day: number): string {
  const month = monthStarts.findLastIndex((start) => start <= day);
  return `${day - monthStarts[month] + 1} ${months[month]}`;
}

/** Spells `12-24` as "24 Dec". */
export function sayDate(date: string | null | undefined): string {
  if (!date) return "";
  return `${Number(date.slice(3))} ${months[Number(date.slice(0, 2)) - 1] ?? "?"}`;
}

/** Reads "24 Dec", "Dec 24", "24.12." or "12-24" as `12-24`; whether the year has that day is for the server to say. */
export function readDate(text: string): string | null {
  const said = text.trim().toLowerCase();
  const pair = (month: number, day: number) =>
    month >= 1 && month <= 12 && day >= 1 && day <= 31
      ? `${String(month).padStart(2, "0")}-${String(day).padStart(2, "0")}`
      : null;
  const iso = /^(\d{1,2})-(\d{1,2})$/.exec(said);
  if (iso) return pair(Number(iso[1]), Number(iso[2]));
  const dotted = /^(\d{1,2})\.\s*(\d{1,2})\.?$/.exec(said);
  if (dotted) return pair(Number(dotted[2]), Number(dotted[1]));
  const day = /\d{1,2}/.exec(said);
  const word = /[a-z]{3,}/.exec(said);
  if (!day || !word) return null;
  return pair(months.findIndex((m) => word[0].startsWith(m.toLowerCase())) + 1, Number(day[0]));
}
