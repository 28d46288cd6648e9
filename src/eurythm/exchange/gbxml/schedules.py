"""Schedules of gbXML: days in weeks, weeks in spans of the year; and a year of 24 hours each, or days with rules."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.calendar import year_beginning_on
from eurythm.exchange.gbxml.document import Document, tag_of, text_of
from eurythm.model.schedule import MONTH_DAYS, WEEKDAYS, date_of, day_number

SHORT = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
KINDS: dict[str, tuple[str, ...]] = {
    "All": (), "Weekday": WEEKDAYS[:5], "Weekend": WEEKDAYS[5:], "WeekendOrHoliday": WEEKDAYS[5:],
    **{short: (name,) for short, name in zip(SHORT, WEEKDAYS, strict=True)},
}  # fmt: skip
"""Weekdays of each type of day, in the order from general to particular; holidays besides."""
MOST_DAYS, MOST_RULES = 60, 200


@dataclass(frozen=True)
class Week:
    """A week that holds from one day of the year to another: the number of the day for Monday to Sunday."""

    first: int
    last: int
    days: tuple[int, ...]


def weeks_of(series: NDArray[np.float64], first_weekday: int) -> tuple[NDArray[np.float64], list[Week]]:
    """Return the different days of a year's series (8760,), (n, 24), and the weeks in which they follow each other."""
    days, holds = np.unique(series.reshape(365, 24), axis=0, return_inverse=True)
    holds = np.asarray(holds).ravel()
    weeks: list[Week] = []
    for start in range(0, 365, 7):
        end = min(start + 6, 364)
        table = [-1] * 7
        for day in range(start, end + 1):
            table[(first_weekday + day) % 7] = int(holds[day])
        before = weeks[-1] if weeks else None
        if before is not None and all(now in (-1, was) for now, was in zip(table, before.days, strict=True)):
            weeks[-1] = Week(before.first, end, before.days)
        else:
            rest = before.days if before is not None else (0,) * 7
            weeks.append(Week(start, end, tuple(was if now == -1 else now for now, was in zip(table, rest, strict=True))))
    return days, weeks


def write_schedule(
    add: Callable[..., Any], root: Any, ref: str, name: str, kind: str, series: NDArray[np.float64], first_weekday: int
) -> None:
    """Write a year's series (8760,) as a schedule, with the days and weeks that it needs."""
    days, weeks = weeks_of(series, first_weekday)
    year = year_beginning_on(first_weekday)
    schedule = add(root, "Schedule", id=ref, type=kind)
    add(schedule, "Name", name)
    tables = list(dict.fromkeys(week.days for week in weeks))
    for number, week in enumerate(weeks, start=1):
        held = add(schedule, "YearSchedule", id=f"{ref}-year-{number}")
        add(held, "BeginDate", f"{year}-{date_of(week.first)}")
        add(held, "EndDate", f"{year}-{date_of(week.last)}")
        add(held, "WeekScheduleId", weekScheduleIdRef=f"{ref}-week-{tables.index(week.days) + 1}")
    for number, table in enumerate(tables, start=1):
        made = add(root, "WeekSchedule", id=f"{ref}-week-{number}", scheduleType=kind)
        alike = len(set(table[:5])) == 1
        for label, day in [("Weekday", table[0]), *zip(SHORT[5:], table[5:], strict=True)] if alike else zip(SHORT, table, strict=True):
            add(made, "Day", dayScheduleIdRef=f"{ref}-day-{day + 1}", dayType=label)
    for number, values in enumerate(days, start=1):
        made = add(root, "DaySchedule", id=f"{ref}-day-{number}", scheduleType=kind)
        for value in values:
            add(made, "ScheduleValue", round(float(value), 6))


def read_schedule(document: Document, ref: str | None, turned: Callable[[float], float] = float) -> dict[str, Any] | None:
    """Return a schedule as days with rules in plain data, by the hour where it has too many; None where there is none.

    Parameters
    ----------
    turned : turns a value of the file into ours
    """
    schedule = document.by_id.get(ref)
    if schedule is None:
        return None
    days: dict[str, list[float]] = {}
    rules: list[dict[str, Any]] = []
    for spell in (e for e in schedule if tag_of(e) == "YearSchedule"):
        week = document.by_id.get(next((e.get("weekScheduleIdRef") for e in spell if tag_of(e) == "WeekScheduleId"), None))
        if week is None:
            continue
        between = {k: v for k, v in (("first", _date(spell, "BeginDate")), ("last", _date(spell, "EndDate"))) if v is not None}
        if (between.get("first", "01-01"), between.get("last", "12-31")) == ("01-01", "12-31"):
            between = {}
        for kind, held in _days_of(document, week):
            values = [turned(v) for v in held]
            known = next((name for name, of in days.items() if of == values), None)
            if known is None:
                known = f"day-{len(days) + 1}"
                days[known] = values
            if kind in KINDS:
                rules.append({"day": known, **({"weekdays": list(KINDS[kind])} if KINDS[kind] else {}), **between})
            if kind in ("Holiday", "WeekendOrHoliday"):
                rules.append({"day": known, "on": "holidays", **between})
    if not days:
        return None
    first = next(iter(days))
    while rules and rules[0]["day"] == first:
        rules.pop(0)  # the first day holds anyway
    numbered = [{"id": f"rule-{k}", **rule} for k, rule in enumerate(rules, start=1)]
    if len(days) <= MOST_DAYS and len(rules) <= MOST_RULES:
        return {"days": [{"id": name, "values": values} for name, values in days.items()], "rules": numbered}
    return {"hourly": _by_the_hour(days, rules)}


def _by_the_hour(days: dict[str, list[float]], rules: list[dict[str, Any]]) -> list[float]:
    """Rules of many weeks by the hour, in a year that begins on a Sunday as those do that are written most."""
    holds = [next(iter(days))] * 365
    for rule in rules:
        first, last = day_number(rule.get("first", "01-01")), day_number(rule.get("last", "12-31"))
        for day in range(first, last + 1):
            if "on" not in rule and (not rule.get("weekdays") or WEEKDAYS[(day + 6) % 7] in rule["weekdays"]):
                holds[day] = rule["day"]
    return [v for day in holds for v in days[day]]


def _days_of(document: Document, week: Any) -> list[tuple[str, list[float]]]:
    """The types of a week's days and their 24 values, general types first."""
    found = []
    for day in (e for e in week if tag_of(e) == "Day"):
        held = document.by_id.get(day.get("dayScheduleIdRef"))
        values = [] if held is None else [document.number(e) for e in held if tag_of(e) == "ScheduleValue"]
        if not values or 24 % len(values):
            continue
        found.append((day.get("dayType", "All"), [v for v in values for _ in range(24 // len(values))]))
    order = [*KINDS, "Holiday"]
    return sorted(((k, v) for k, v in found if k in order), key=lambda pair: order.index(pair[0]))


def _date(spell: Any, tag: str) -> str | None:
    """Month and day of a date; 29 February is told as the 28th."""
    said = text_of(spell, tag) or ""
    try:
        found = date.fromisoformat(said[:10])
    except ValueError:
        return None
    return f"{found.month:02d}-{min(found.day, MONTH_DAYS[found.month - 1]):02d}"
