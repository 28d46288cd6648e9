"""The site: where the sun stands, and what the things around hide from the building."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query
from pydantic import BaseModel

from eurythm.api.cases import case_of_scheme, scheme_of
from eurythm.api.office import Here
from eurythm.brief.resolve import climate_at
from eurythm.climate.account import ClimateAccount, climate_account
from eurythm.climate.standin import standin_year
from eurythm.climate.statistics import ClimateSheet, climate_sheet
from eurythm.explain.gives import what_it_gives
from eurythm.explain.surroundings import what_hides
from eurythm.study.runner import climate_of
from eurythm.sun.irradiation import day_of_sun
from eurythm.sun.radiation import monthly_on_planes

router = APIRouter(prefix="/api/projects/{project_id}")


class SunDayOut(BaseModel):
    """The sun of one day while it is up: hours of the day, and unit vectors towards it in the drawing's axes."""

    day: int
    latitude_deg: float
    longitude_deg: float
    altitude_m: float
    time_zone_h: float
    hours: list[float]
    toward: list[list[float]]


class HiddenOut(BaseModel):
    """One thing around: light that comes in addition without it, kWh a year on all outdoor faces, and what the year does."""

    kind: str
    id: str
    name: str
    kwh: float
    share: float
    energy_kwh_m2: float
    counts: bool


class HidingOut(BaseModel):
    """All things around by what they hide; those that hide nothing, and the change without all of these."""

    revision: int
    scheme: str
    things: list[HiddenOut]
    idle: list[str]
    change_kwh_m2: float


@router.get("/sun")
def get_sun(project_id: str, here: Here, day: Annotated[int, Query(ge=0, le=364)] = 171) -> SunDayOut:
    """Return where the sun stands on a day of the year (0 is 1 January), every ten minutes of local standard time."""
    place = here.projects.state(project_id).project.place
    at = climate_at(place, climate_of(place, here.projects.files(project_id))).location
    hours, toward = day_of_sun(at, place.north_deg, day)
    return SunDayOut(
        day=day,
        latitude_deg=at.latitude_deg,
        longitude_deg=at.longitude_deg,
        altitude_m=at.altitude_m,
        time_zone_h=at.time_zone_h,
        hours=np.round(hours, 4).tolist(),
        toward=np.round(toward, 6).tolist(),
    )


@router.get("/schemes/{scheme_id}/surroundings")
def get_surroundings(project_id: str, scheme_id: str, here: Here) -> HidingOut:
    """Tell what each thing around hides from a scheme over the year."""
    state = here.projects.state(project_id)
    told = what_hides(case_of_scheme(here, state, scheme_id).case)
    return HidingOut(revision=state.revision, scheme=scheme_id, **asdict(told))


class GivenOut(BaseModel):
    """One way to be comfortable, by hours of each month and of the year."""

    id: str
    name: str
    months: list[int]
    hours: int


class ClimateOut(BaseModel):
    """A climate year in full: months, hours, sides of the sky, wind, the air's diagram, doubts, and what it gives."""

    id: str
    name: str
    sheet: ClimateSheet
    account: ClimateAccount
    on_planes_kwh_m2: dict[str, list[float]]
    gives: list[GivenOut]


@router.get("/schemes/{scheme_id}/climate")
def get_climate(project_id: str, scheme_id: str, here: Here, stand_in: str | None = None) -> ClimateOut:
    """Tell of the project's climate year, or of a stand-in beside it, with the use of a scheme."""
    state = here.projects.state(project_id)
    scheme = scheme_of(state.project, scheme_id)
    year = standin_year(stand_in) if stand_in else climate_of(state.project.place, here.projects.files(project_id))
    gives = what_it_gives(state.project.library, scheme, year)
    return ClimateOut(
        id=year.digest, name=year.location.city, sheet=climate_sheet(year), account=climate_account(year),
        on_planes_kwh_m2=monthly_on_planes(year), gives=[GivenOut(**vars(g), hours=g.hours) for g in gives],
    )  # fmt: skip
