"""Calendar and schedules: holidays by country, which day holds when, tables of 8,760 values in and out."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter, UploadFile
from fastapi.responses import Response
from pydantic import BaseModel

from eurythm.api.office import Here
from eurythm.api.uploads import named, taken
from eurythm.brief.calendar import YearDays, countries, holding, hourly, proposed_holidays, year_beginning_on, year_days
from eurythm.brief.resolve import Shelf
from eurythm.exchange.hours import hours_csv, hours_xlsx, read_hours
from eurythm.model.errors import EurythmError, NotFound
from eurythm.model.field import notes
from eurythm.model.library import SHARES, Profile
from eurythm.model.schedule import Holiday, Schedule
from eurythm.model.units import to_ip
from eurythm.study.runner import climate_of

MOST_TABLE_BYTES = 5_000_000
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
TEMPERATURES = ("heating", "cooling")
router = APIRouter(prefix="/api")


class CountryOut(BaseModel):
    """A country whose holidays are known."""

    id: str
    name: str


class HolidaysOut(BaseModel):
    """Holidays that could be added, and the year that they are those of: one that begins on the same weekday."""

    year: int
    holidays: list[Holiday]


class ScheduleYearOut(BaseModel):
    """For each of the 365 days: which day of the schedule holds, by which rule, -1 by none; the year's days themselves, Monday being 0."""

    holds: list[int]
    by: list[int]
    weekdays: list[int]
    holidays: list[bool]
    closed: list[bool]


class HourColumnOut(BaseModel):
    """A column of a table that holds a value for each hour."""

    head: str
    values: list[float]


def _days(project_id: str, here: Here) -> YearDays:
    """The days of a project's year; one that begins on a Monday while there is no climate."""
    place = here.projects.state(project_id).project.place
    try:
        first = climate_of(place, here.projects.files(project_id)).first_weekday
    except EurythmError:
        first = 0
    return year_days(place.calendar, first)


@router.get("/countries")
def get_countries() -> list[CountryOut]:
    """List the countries whose holidays are known."""
    return [CountryOut(id=code, name=name) for code, name in countries().items()]


@router.get("/projects/{project_id}/holidays")
def get_holidays(project_id: str, country: str, here: Here) -> HolidaysOut:
    """Propose the holidays of a country; nothing is kept yet."""
    year = year_beginning_on(int(_days(project_id, here).weekday[0]))
    return HolidaysOut(year=year, holidays=proposed_holidays(country, year))


@router.post("/projects/{project_id}/schedules/year")
def post_schedule_year(project_id: str, schedule: Schedule, here: Here) -> ScheduleYearOut:
    """Return which day of a schedule holds when, by the project's calendar; the schedule need not be kept yet."""
    days = _days(project_id, here)
    holds, by = holding(schedule, days)
    return ScheduleYearOut(
        holds=holds.tolist(), by=by.tolist(), weekdays=days.weekday.tolist(), holidays=days.holiday.tolist(), closed=days.closed.tolist()
    )


@router.post("/projects/{project_id}/schedules/table")
def post_hours(project_id: str, file: UploadFile, here: Here, fahrenheit: bool = False) -> list[HourColumnOut]:
    """Read a table of 8,760 values; nothing is taken over yet."""
    here.projects.state(project_id)
    name = named(file, "table")
    body = taken(file, MOST_TABLE_BYTES, name)
    return [HourColumnOut(head=c.head, values=list(c.values)) for c in read_hours(body, name, fahrenheit)]


@router.get("/projects/{project_id}/profiles/{profile_id}/hours.{ending}")
def get_hours(project_id: str, profile_id: str, ending: Literal["csv", "xlsx"], here: Here, units: Literal["SI", "IP"] = "SI") -> Response:
    """Return all schedules of a use profile by the hour, as a table."""
    project = here.projects.state(project_id).project
    profile = Shelf(project.library).profiles.get(profile_id)
    if profile is None:
        raise NotFound("no-such-profile", f"This project has no use profile “{profile_id:.60}”.", profile_id)
    days = _days(project_id, here)
    columns = {}
    for field in (*SHARES, *TEMPERATURES):
        schedule: Schedule | None = getattr(profile, field)
        if schedule is None:
            continue
        series, title = hourly(schedule, days), str(notes(Profile, field)["title"])
        if field in TEMPERATURES:
            ip = units == "IP"
            series = series * 1.8 + 32.0 if ip else series
            title = f"{title} {to_ip(0.0, '°C')[1] if ip else '°C'}"
        columns[title] = series
    head = {"Content-Disposition": f'attachment; filename="{profile_id}-hours.{ending}"'}
    if ending == "csv":
        return Response("\ufeff" + hours_csv(columns), media_type="text/csv; charset=utf-8", headers=head)
    return Response(hours_xlsx(columns), media_type=XLSX, headers=head)
