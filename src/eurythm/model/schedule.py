"""When something is used: the calendar of a place, and schedules of days with the order of rules that say which day holds when."""

from __future__ import annotations

from typing import Annotated, Any, Literal, get_args

from pydantic import AfterValidator, Field, model_validator

from eurythm.model.field import Described, choice, text
from eurythm.model.ids import Id

MONTH_DAYS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
Weekday = Literal["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"]
WEEKDAYS: tuple[Weekday, ...] = get_args(Weekday)


def _in_the_year(date: str) -> str:
    """Return a date that a year of 365 days has. Raises ValueError."""
    month, day = int(date[:2]), int(date[3:])
    if (month, day) == (2, 29):
        raise ValueError("a climate year has 365 days and so no 29 February; give 02-28 or 03-01")
    if not 1 <= month <= 12 or not 1 <= day <= MONTH_DAYS[month - 1]:
        raise ValueError(f"no year has a day {date}; dates are month and day, such as 12-25")
    return date


Date = Annotated[str, Field(pattern=r"^\d\d-\d\d$"), AfterValidator(_in_the_year)]
"""Month and day, such as 12-25."""


def day_number(date: str) -> int:
    """Return which day of the year a date is, 0 for 1 January."""
    return sum(MONTH_DAYS[: int(date[:2]) - 1]) + int(date[3:]) - 1


def date_of(number: int) -> str:
    """Return the date of a day of the year, 0 for 1 January."""
    for month, days in enumerate(MONTH_DAYS, start=1):
        if number < days:
            return f"{month:02d}-{number + 1:02d}"
        number -= days
    raise ValueError("a year has 365 days")


class Holiday(Described):
    """A day on which what follows holidays does."""

    id: Id
    name: str = text("", "Holiday", max_length=120)
    date: Date = choice(..., "Date", help="Month and day, such as 12-25")


class Closure(Described):
    """Days on which what follows closures does, the first and the last among them; a last one before the first lies past New Year."""

    id: Id
    name: str = text("", "Closure", max_length=120)
    first: Date = choice(..., "First day", help="Month and day, such as 07-20")
    last: Date = choice(..., "Last day", help="Month and day, such as 08-09; before the first day it lies past New Year")


class Calendar(Described):
    """On which weekday the year begins, its holidays and closures: of the place, and so the same for all schemes."""

    begins_on: Weekday | None = choice(None, "1 January is a", help="As the climate year says unless given")
    holidays: Annotated[tuple[Holiday, ...], Field(max_length=100)] = ()
    closures: Annotated[tuple[Closure, ...], Field(max_length=50)] = ()


class ScheduleDay(Described):
    """A day of 24 values: shares of the most, or temperatures."""

    id: Id
    name: str = text("", "Day", max_length=120)
    values: Annotated[tuple[float, ...], Field(min_length=24, max_length=24)]


class DayRule(Described):
    """Says that a day holds where all conditions that are given are met."""

    id: Id
    day: Id = choice(..., "Day")
    weekdays: Annotated[tuple[Weekday, ...], Field(max_length=7)] = choice((), "Weekdays", help="Any unless given")
    on: Literal["any", "holidays", "closures"] = choice("any", "On", help="Of the calendar: any day, holidays, or closures")
    first: Date | None = choice(None, "From", help="From 1 January unless given")
    last: Date | None = choice(None, "To", help="To 31 December unless given; before the first day it lies past New Year")


class Schedule(Described):
    """Days and the order of rules that say which of them holds when, or one value for each hour of the year.

    The first day holds unless a rule says otherwise, and the last rule that fits counts. Values in between are not smoothed. The short form
    ``weekday``, ``saturday``, ``sunday`` is read as days with rules: what is missing is as the one before it, and holidays are as Sundays.
    """

    days: Annotated[tuple[ScheduleDay, ...], Field(max_length=60)] = ()
    rules: Annotated[tuple[DayRule, ...], Field(max_length=200)] = ()
    hourly: Annotated[tuple[float, ...], Field(min_length=8760, max_length=8760)] | None = None

    @model_validator(mode="before")
    @classmethod
    def _from_week(cls, data: Any) -> Any:
        """Read the short form."""
        short = {"weekday", "saturday", "sunday"}
        if not isinstance(data, dict) or not short & data.keys():
            return data
        if "weekday" not in data:
            raise ValueError("a schedule by weekday, saturday and sunday needs at least a weekday")
        if {"days", "rules"} & data.keys():
            raise ValueError("a schedule is given either by weekday, saturday and sunday or by days and rules")
        return {k: v for k, v in data.items() if k not in short} | week(data["weekday"], data.get("saturday"), data.get("sunday"))

    @model_validator(mode="after")
    def _one_kind(self) -> Schedule:
        if (self.hourly is None) == (not self.days):
            raise ValueError("a schedule is given either by days of 24 values or by 8760 hourly values")
        known = {day.id for day in self.days}
        lost = next((rule.day for rule in self.rules if rule.day not in known), None)
        if lost is not None:
            raise ValueError(f"a rule names the day “{lost}”, which the schedule has not")
        return self

    @property
    def values(self) -> tuple[float, ...]:
        """All values that stand in it."""
        return self.hourly if self.hourly is not None else tuple(v for day in self.days for v in day.values)


def week(weekday: Any, saturday: Any = None, sunday: Any = None, closed: Any = None) -> dict[str, Any]:
    """Return days and rules by a weekday, a Saturday, a Sunday (which holidays follow) and a closed day, as plain data.

    A day that is not given is as the one before it; without a closed day closures are as any other day.
    """
    days = [{"id": "weekday", "name": "Weekday", "values": weekday}]
    rules: list[dict[str, Any]] = []
    if saturday is not None:
        days.append({"id": "saturday", "name": "Saturday", "values": saturday})
        rules.append({"id": "saturdays", "day": "saturday", "weekdays": ["saturday"] if sunday is not None else ["saturday", "sunday"]})
    if sunday is not None:
        days.append({"id": "sunday", "name": "Sunday", "values": sunday})
        rules.append({"id": "sundays", "day": "sunday", "weekdays": ["sunday"]})
    if len(days) > 1:
        rules.append({"id": "holidays", "day": days[-1]["id"], "on": "holidays"})
    if closed is not None:
        days.append({"id": "closed", "name": "Closed", "values": closed})
        rules += [{"id": "closures", "day": "closed", "on": "closures"}]
    return {"days": days, "rules": rules}
