"""Which day of a schedule holds when: the calendar of a place laid over a year of 365 days."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date as Day
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.year import HOURS
from eurythm.model.errors import EurythmError
from eurythm.model.schedule import WEEKDAYS, Calendar, DayRule, Holiday, Schedule, day_number

Series = NDArray[np.float64]
Flags = NDArray[np.bool_]
DAYS = 365
LATEST, EARLIEST = 2030, 1990
"""Years among which one is looked for that begins on a weekday."""


@dataclass(frozen=True, eq=False)
class YearDays:
    """What each day of the year is, (365,): its weekday, 0 for Monday, whether it is a holiday, whether in a closure."""

    weekday: NDArray[np.int64]
    holiday: Flags
    closed: Flags


def span(first: str | None, last: str | None) -> Flags:
    """Return the days from one date to another, both among them, past New Year where the last is before the first, (365,)."""
    start = 0 if first is None else day_number(first)
    end = DAYS - 1 if last is None else day_number(last)
    days = np.arange(DAYS)
    return (days >= start) & (days <= end) if start <= end else (days >= start) | (days <= end)


@lru_cache(maxsize=32)
def year_days(calendar: Calendar, first_weekday: int) -> YearDays:
    """Lay a calendar over the year; `first_weekday` of 1 January holds where the calendar does not say it."""
    first = first_weekday if calendar.begins_on is None else WEEKDAYS.index(calendar.begins_on)
    holiday, closed = np.zeros(DAYS, dtype=bool), np.zeros(DAYS, dtype=bool)
    for one in calendar.holidays:
        holiday[day_number(one.date)] = True
    for closure in calendar.closures:
        closed |= span(closure.first, closure.last)
    return YearDays((np.arange(DAYS) + first) % 7, holiday, closed)


def _fits(rule: DayRule, days: YearDays) -> Flags:
    fits = span(rule.first, rule.last)
    if rule.weekdays:
        fits = fits & np.isin(days.weekday, [WEEKDAYS.index(name) for name in rule.weekdays])
    if rule.on != "any":
        fits = fits & (days.holiday if rule.on == "holidays" else days.closed)
    return fits


def holding(schedule: Schedule, days: YearDays) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return which day of a schedule holds on each day of the year, and by which rule, -1 by none, (365,) each.

    The first day holds unless a rule says otherwise; of the rules that fit the last one counts.
    """
    place = {day.id: k for k, day in enumerate(schedule.days)}
    holds, by = np.zeros(DAYS, dtype=np.int64), np.full(DAYS, -1, dtype=np.int64)
    for k, rule in enumerate(schedule.rules):
        fits = _fits(rule, days)
        holds[fits], by[fits] = place[rule.day], k
    return holds, by


def hourly(schedule: Schedule, days: YearDays) -> Series:
    """Expand a schedule to the year, shape (8760,)."""
    if schedule.hourly is not None:
        return np.asarray(schedule.hourly, dtype=float)
    table = np.array([day.values for day in schedule.days], dtype=float)
    out: Series = table[holding(schedule, days)[0]].reshape(HOURS)
    return out


def year_beginning_on(weekday: int) -> int:
    """Return the latest year without a leap day whose 1 January is a weekday, 0 for Monday, so that movable feasts fall on their weekdays."""
    return next(y for y in range(LATEST, EARLIEST, -1) if y % 4 and Day(y, 1, 1).weekday() == weekday)


def countries() -> dict[str, str]:
    """Return the countries whose holidays are known: name by code."""
    from holidays.registry import COUNTRIES

    names = {entry[1]: " ".join(part.capitalize() for part in module.split("_")) for module, entry in COUNTRIES.items()}
    return dict(sorted(names.items(), key=lambda pair: pair[1]))


def proposed_holidays(country: str, year: int) -> list[Holiday]:
    """Return the public holidays of a country in a year, from the package ``holidays``; a leap day is left out.

    Raises
    ------
    EurythmError
        ``unknown-country``.
    """
    import holidays

    try:
        found = holidays.country_holidays(country, years=year, language="en_US")
    except (NotImplementedError, AttributeError):
        raise EurythmError("unknown-country", f"No holidays are known for “{country:.20}”.", "country") from None
    return [
        Holiday(id=f"{country.lower()}-{day:%m-%d}", name=str(name)[:120], date=f"{day:%m-%d}")
        for day, name in sorted(found.items())
        if (day.month, day.day) != (2, 29)
    ]
