"""Daylight: sensors with their figures, and pictures of floors."""

from __future__ import annotations

import time
from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter
from fastapi.responses import Response
from pydantic import BaseModel, Field

from eurythm.api.cases import case_of_scheme
from eurythm.api.cells import CellsOut, cells_of
from eurythm.api.office import Here, InTurn, Office
from eurythm.daylight.figures import TARGET_LX, UNITS, measured
from eurythm.daylight.floors import FloorLight, zones_at
from eurythm.daylight.sensors import Section, misplaced, section_of
from eurythm.explain.case import Case
from eurythm.geometry.building import Building, Vec
from eurythm.geometry.outline import rotation, turning_point
from eurythm.model.errors import NotFound
from eurythm.model.field import Spoken
from eurythm.model.scheme import DaylightMeasure
from eurythm.report.daylight import LightAsk, points_csv, sensor_figures, zone_figures
from eurythm.simulate import building_of, daylight, daylit_floors, light_asks

router = APIRouter(prefix="/api/projects/{project_id}/schemes/{scheme_id}", dependencies=[InTurn])


class SectionOut(BaseModel):
    """A zone cut upright through a sensor: distances m from the sensor inward along `way`, a unit vector in plan before the scheme is turned; heights m above
    the floor; openings as distance, low and high; whether the storey goes on at the ends.
    """

    way: list[float]
    start: float
    end: float
    open_ends: tuple[bool, bool]
    top: float
    openings: list[tuple[float, float, float]]


class SensorYearOut(BaseModel):
    """Light at one sensor by the hour of the year, lx."""

    lux: list[float]


class SensorOut(BaseModel):
    """One light sensor.

    `id` is None for one that is proposed. `at` is m in the drawing, `own` its x and y before the scheme is turned. Shares are of
    one: of the zone's lights that it rules, of occupied hours above the target and within 100 to 3,000 lx, of its lights' energy
    that is left on.
    """

    id: str | None
    zone: str
    zone_name: str
    at: list[float]
    own: list[float]
    height_m: float
    looks: Literal["up", "down"]
    share: float
    daylight_factor: float
    mean_lx: float
    hours_above_target: int
    autonomy: float
    useful: float
    lighting_share: float
    section: SectionOut | None


class SensorsOut(BaseModel):
    """All light sensors of a scheme; `source` is where luminous efficacy comes from, `without` names zones without windows."""

    revision: int
    scheme: str
    seconds: float
    source: str
    target_lx: float
    sensors: list[SensorOut]
    without: list[str]


class FloorsIn(Spoken):
    """Which floors (all unless levels, m, or zones are named), how fine, and what of them; `hour` of the year for the illuminance in one hour."""

    levels: Annotated[tuple[float, ...], Field(max_length=200)] = ()
    zones: Annotated[tuple[str, ...], Field(max_length=5000)] = ()
    spacing_m: Annotated[float, Field(ge=0.1, le=10)] = 0.5
    measure: DaylightMeasure = "autonomy"
    target_lx: Annotated[float, Field(gt=0, le=20000)] = TARGET_LX
    hour: Annotated[int, Field(ge=0, le=8759)] = 4140


class FloorOut(CellsOut):
    """One zone's floor. Shares are of one, `beyond_h` hours a year; `meets` is the share of floor that has the target in half of the occupied hours."""

    zone: str
    name: str
    level: float
    area_m2: float
    mean: float
    daylight_factor: float
    autonomy: float
    useful: float
    beyond_h: float
    meets: float


class FloorsOut(BaseModel):
    """Light on the floors of a scheme."""

    revision: int
    scheme: str
    measure: DaylightMeasure
    unit: str
    target_lx: float
    hour: int
    seconds: float
    points: int
    low: float
    high: float
    mean: float
    meets: float
    floors: list[FloorOut]


@router.get("/daylight")
def get_daylight(project_id: str, scheme_id: str, here: Here, target_lx: float = TARGET_LX) -> SensorsOut:
    """Return the light sensors of a scheme with their figures."""
    started = time.perf_counter()
    state = here.projects.state(project_id)
    case = case_of_scheme(here, state, scheme_id).case
    building, light = building_of(case.place, case.scheme), daylight(case.place, case.library, case.scheme, case.climate)
    figures = sensor_figures(light, _asks(case), target_lx)
    zones = {zone.id: zone for zone in building.zones}
    about, back = turning_point(case.scheme), rotation(-case.scheme.turn_deg)
    lost = {s.id for s, _ in misplaced(building, case.scheme.use.sensors, case.scheme.turn_deg, about)}
    placed = {zone: [s for s in case.scheme.use.sensors if s.zone == zone and s.id not in lost] for zone in zones}
    sensors, seen = [], dict.fromkeys(zones, 0)
    for sensor, told in zip(light.sensors, figures, strict=True):
        own = placed[sensor.zone]
        number, seen[sensor.zone] = seen[sensor.zone], seen[sensor.zone] + 1
        flat = (sensor.at[:2] - about) @ back.T + about
        sensors.append(
            SensorOut(
                id=own[number].id if own else None, zone=sensor.zone, zone_name=zones[sensor.zone].name, at=np.round(sensor.at, 4).tolist(),
                own=np.round(flat, 4).tolist(), height_m=round(float(sensor.at[2]) - zones[sensor.zone].level, 4),
                looks="up" if sensor.normal[2] > 0 else "down", share=sensor.share, daylight_factor=told.daylight_factor,
                mean_lx=told.mean_lx, hours_above_target=told.hours_above_target, autonomy=told.autonomy, useful=told.useful,
                lighting_share=told.lighting_share, section=_section(section_of(building, sensor), back),
            )
        )  # fmt: skip
    lit = {s.zone for s in sensors}
    return SensorsOut(
        revision=state.revision, scheme=scheme_id, seconds=time.perf_counter() - started, source=light.source, target_lx=target_lx,
        sensors=sensors, without=[zone for zone in zones if zone not in lit],
    )  # fmt: skip


@router.get("/daylight/sensors/{number}")
def get_sensor_year(project_id: str, scheme_id: str, number: int, here: Here) -> SensorYearOut:
    """Return the light at one sensor, by its number among all, in each hour of the year."""
    case = case_of_scheme(here, here.projects.state(project_id), scheme_id).case
    light = daylight(case.place, case.library, case.scheme, case.climate)
    if not 0 <= number < len(light.sensors):
        raise NotFound("no-such-sensor", f"There is no light sensor {number}.", "number")
    return SensorYearOut(lux=np.round(light.lux[number], 1).tolist())


@router.post("/daylight/floors")
def post_floors(project_id: str, scheme_id: str, asked: FloorsIn, here: Here) -> FloorsOut:
    """Return one figure of light all over floors, cell by cell."""
    started = time.perf_counter()
    revision, light, asks = _floors(project_id, scheme_id, asked, here)
    values = measured(light, asked.measure, {z: a.occupied for z, a in asks.items()}, asked.target_lx, asked.hour)
    areas = np.concatenate([floor.grid.areas for floor in light.floors])
    zones = zone_figures(light, asks, asked.target_lx)
    floors = []
    for floor, told in zip(light.floors, zones, strict=True):
        own, of = values[floor.points], floor.grid.areas
        floors.append(
            FloorOut(
                zone=told.zone, name=told.name, level=floor.zone.level, area_m2=told.area_m2, mean=float(own @ of / of.sum()),
                daylight_factor=told.daylight_factor, autonomy=told.autonomy, useful=told.useful, beyond_h=told.beyond_h, meets=told.meets,
                **cells_of(floor.grid, own),
            )
        )  # fmt: skip
    return FloorsOut(
        revision=revision, scheme=scheme_id, measure=asked.measure, unit=UNITS[asked.measure], target_lx=asked.target_lx, hour=asked.hour,
        seconds=time.perf_counter() - started, points=len(values), low=float(values.min()), high=float(values.max()),
        mean=float(values @ areas / areas.sum()), meets=sum(z.meets * z.area_m2 for z in zones) / sum(z.area_m2 for z in zones), floors=floors,
    )  # fmt: skip


@router.post("/daylight/floors/file")
def post_floors_file(project_id: str, scheme_id: str, asked: FloorsIn, here: Here) -> Response:
    """Return all figures of each point as a table."""
    _, light, asks = _floors(project_id, scheme_id, asked, here)
    text = points_csv(light, asks, asked.target_lx, asked.hour if asked.measure == "hour" else None)
    head = {"Content-Disposition": 'attachment; filename="daylight.csv"'}
    return Response("\ufeff" + text, media_type="text/csv; charset=utf-8", headers=head)


def _floors(project_id: str, scheme_id: str, asked: FloorsIn, here: Office) -> tuple[int, FloorLight, dict[str, LightAsk]]:
    state = here.projects.state(project_id)
    case = case_of_scheme(here, state, scheme_id).case
    zones = _chosen(building_of(case.place, case.scheme), asked)
    return state.revision, daylit_floors(case.place, case.library, case.scheme, case.climate, zones, asked.spacing_m), _asks(case)


def _chosen(building: Building, asked: FloorsIn) -> list[str]:
    return [zone for zone in zones_at(building, asked.levels) if not asked.zones or zone in asked.zones]


def _section(section: Section | None, back: Vec) -> SectionOut | None:
    if section is None:
        return None
    own = back @ np.array(section.way)
    rounded = [(round(d, 4), round(low, 4), round(high, 4)) for d, low, high in section.openings]
    way, ends = np.round(own, 6).tolist(), (round(section.start, 4), round(section.end, 4))
    return SectionOut(way=way, start=ends[0], end=ends[1], open_ends=section.open_ends, top=round(section.top, 4), openings=rounded)


def _asks(case: Case) -> dict[str, LightAsk]:
    asked = light_asks(case.place, case.library, case.scheme, case.climate)
    return {zone: LightAsk(of.occupied, of.lighting, of.lights) for zone, of in asked.items()}
