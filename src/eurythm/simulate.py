"""The one pipeline: a case goes through the steps (`steps`), its heat balance, plant and assessment.

Each step is remembered by a digest of its inputs (`memo`), so that a changed price runs the last step only, a changed setpoint leaves the sun
alone, and a changed glass casts no ray. Live editing and studies share this memory; it holds no state that a result depends on.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import Literal, TypeVar

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from eurythm.assess.inventory import Entry, enclosure
from eurythm.assess.outcome import Metered, Outcome, Summary, assess, meter, summarise
from eurythm.assess.worth import Worth
from eurythm.brief.costs import costs_of
from eurythm.brief.readiness import building_remarks, cutting_remarks, document_remarks
from eurythm.brief.resolve import Brief, ZoneBrief, chosen_construction, climate_at, days_of, resolve
from eurythm.brief.systems import SystemBrief, systems_of, zone_airs
from eurythm.climate.design import DesignDay, design_days
from eurythm.climate.statistics import hour_name
from eurythm.climate.year import HOURS, ClimateYear
from eurythm.daylight.floors import FloorLight, FloorShares
from eurythm.daylight.illuminance import Illuminance
from eurythm.daylight.sensors import refuse_too_much, sensor_remarks
from eurythm.geometry.building import Building
from eurythm.geometry.openings import skin_north
from eurythm.geometry.outline import turning_point
from eurythm.memo import Inputs, Made, Memo, digest
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.part import Excerpt
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.remark import Remark
from eurythm.model.scheme import Scheme
from eurythm.plant.air_side import Outdoors
from eurythm.plant.delivered import Delivered, FromSun, Served, deliver, groups_of, zones_wanted
from eurythm.plant.outdoors import outdoors_of
from eurythm.plant.panels import Panel, Where, free_plane, panel_remarks
from eurythm.plant.remarks import plant_remarks
from eurythm.plant.seasonal import Seasonal
from eurythm.plant.staged import Design, Staged
from eurythm.plant.system import System
from eurythm.steps import (
    BALANCE,
    CLADDING,
    DAYLIGHT,
    FORM,
    GENERATION,
    LIGHT,
    METERED,
    OPENINGS,
    PANELS,
    USE,
    Balance,
    Bright,
    Cladding,
    Daylight,
    Floors,
    Form,
    Gains,
    Inside,
    Light,
    LightsOn,
    Openings,
    PanelLight,
    Panels,
    SunPower,
    Use,
    veiled,
)
from eurythm.sun.radiation import FaceLight
from eurythm.thermal.balance import Course, Demand, balance, course_of
from eurythm.thermal.batch import balance_many
from eurythm.thermal.comfort import limits_of
from eurythm.thermal.demands import Lights
from eurythm.thermal.parts import Parts, take_apart
from eurythm.thermal.prepare import Arrays, sized_for_heating, transmitted_by_side

T = TypeVar("T")
Series = NDArray[np.float64]
SIZING_SUBSTEPS = 4
MEMO = Memo()
NO_PANELS: Made[tuple[Panel, ...]] = Made("no panels", ())


def made(inputs: Inputs[T]) -> Made[T]:
    """Return the result of a step, remembered or made."""
    return Made(inputs.digest, MEMO.get(inputs.step, inputs.digest, inputs.make))


@dataclass(frozen=True, eq=False)
class Prepared:
    """A case ready for its heat balance; `key` is the digest of all that the balance depends on, `form` that of the building."""

    brief: Brief
    factors: Factors
    building: Building
    light: dict[str, FaceLight]
    arrays: Arrays
    opened: Made[Building] = field(repr=False)
    bright: FloorShares | None
    substeps: int
    key: str
    form: str

    @cached_property
    def panels(self) -> Made[tuple[Panel, ...]]:
        """Where panels and collectors lie."""
        brief = self.brief
        return _panels(self.opened, brief.place, brief.scheme, brief.climate.location.latitude_deg)

    @cached_property
    def sun(self) -> FromSun:
        """What arrays and collectors make of the sun; no heat balance waits for it."""
        place, scheme, climate = Excerpt(self.brief.place, LIGHT), self.brief.scheme, self.brief.climate
        light = made(PanelLight(self.opened, self.panels, place, climate))
        return made(SunPower(self.panels, light, place, Excerpt(scheme, GENERATION), climate)).result

    @property
    def remarks(self) -> tuple[Remark, ...]:
        """What is missing, doubtful or was mended; worked out when it is asked for, by studies once a case."""
        scheme, place = self.brief.scheme, self.brief.place
        around = place.model_dump_json(include={"boxes", "footprints", "trees", "ground_level_m"})
        return (
            *self.brief.climate.remarks,
            *document_remarks(place, scheme),
            *building_remarks(self.building, scheme, skin_north(scheme, place.north_deg)),
            *panel_remarks(scheme.plant, self.panels.result),
            *(sensor_remarks(self.building, scheme.use.sensors, scheme.turn_deg, turning_point(scheme)) if scheme.use.sensors else ()),
            *MEMO.get("cuts", digest(self.form, around), lambda: cutting_remarks(self.building, place)),
        )


@dataclass(frozen=True, eq=False)
class Run:
    """Everything that one simulation made, for those who look closer than the outcome."""

    brief: Brief
    building: Building
    light: dict[str, FaceLight]
    panels: tuple[Panel, ...]
    arrays: Arrays
    demand: Demand
    delivered: Delivered
    outcome: Outcome


def building_of(place: Place, scheme: Scheme) -> Building:
    """Return the scheme's form with windows and shades.

    Raises
    ------
    EurythmError
        Where the form is impossible.
    """
    return _building(place, scheme)[2].result


def _building(place: Place, scheme: Scheme) -> tuple[Made[Building], Made[Building], Made[Building]]:
    """The bare form, with openings, and clad."""
    form = made(Form(Excerpt(place, FORM), Excerpt(scheme, FORM)))
    free = [array for array in (*scheme.plant.arrays, *scheme.plant.collectors) if array.on == "free"]
    planes = tuple((array.id, tuple(map(tuple, free_plane(array, lying(place, scheme, 0.0)).tolist()))) for array in free)
    opened = made(Openings(form, Excerpt(place, OPENINGS), Excerpt(scheme, OPENINGS), planes))
    return form, opened, made(Cladding(opened, Excerpt(place, CLADDING), Excerpt(scheme, CLADDING)))


def lying(place: Place, scheme: Scheme, latitude_deg: float) -> Where:
    """Return how a scheme lies."""
    x, y = turning_point(scheme)
    return Where(place.north_deg, scheme.turn_deg, (float(x), float(y)), latitude_deg)


def _panels(opened: Made[Building], place: Place, scheme: Scheme, latitude_deg: float) -> Made[tuple[Panel, ...]]:
    plant = scheme.plant
    any_share = plant.photovoltaics.roof_share > 0
    if not (any_share or plant.arrays or plant.collectors):
        return NO_PANELS
    return made(Panels(opened, Excerpt(scheme, PANELS), lying(place, scheme, latitude_deg), any_share))


def panels_of(place: Place, scheme: Scheme, latitude_deg: float) -> tuple[Panel, ...]:
    """Return the panels and collectors of a scheme, as they lie; the latitude sets rows apart for which nobody gave it.

    Raises
    ------
    EurythmError
        Where the form is impossible.
    """
    return _panels(_building(place, scheme)[1], place, scheme, latitude_deg).result


def prepare_case(
    place: Place,
    library: Library,
    scheme: Scheme,
    factors: Factors,
    climate: ClimateYear,
    substeps: int = 1,
    lights: Made[Lights] | None = None,
) -> Prepared:
    """Go through the chain up to the heat balance. `lights` says what is left on of them; None lets their control say it.

    Raises
    ------
    EurythmError
        Where the documents contradict themselves or the form is impossible; the path says where.
    """
    if not scheme.volumes and not scheme.zones:
        raise EurythmError("no-form", "Nothing is drawn yet: add a volume.", "scheme/volumes")
    brief = resolve(place, library, scheme, climate)
    climate = brief.climate
    form, opened, building = _building(place, scheme)
    light = made(Light(opened, Excerpt(place, LIGHT), Excerpt(scheme, LIGHT), climate))
    airs = zone_airs(scheme.plant, [z.id for z in form.result.zones])
    use = made(Use(form, Excerpt(place, USE), Excerpt(library, USE), Excerpt(scheme, USE), climate, airs))
    judged = scheme.use.lights
    bright = made(Bright(_daylight(building, light, library, brief), use, judged.bright_lx)) if judged.floors else None
    if lights is None and any(zone.lights.kind != "none" for zone in use.result.zones):
        lights = made(LightsOn(form, made(_daylight(building, light, library, brief)), use))
    gains = made(Gains(use, lights))
    inside = made(Inside(form, tuple(brief.thickness.items())))
    documents = Excerpt(place, BALANCE), Excerpt(library, BALANCE), Excerpt(scheme, BALANCE)
    arrays = made(Balance(*documents, climate, building, light, inside, use, gains, substeps, brief))
    shares = bright.result if bright else None
    keys = arrays.digest, building.digest
    return Prepared(brief, factors, building.result, light.result, arrays.result, opened, shares, substeps, *keys)


def _daylight(building: Made[Building], light: Made[dict[str, FaceLight]], library: Library, brief: Brief) -> Daylight:
    place, scheme, shelf = brief.place, brief.scheme, brief.shelf
    refuse_too_much(scheme.use.sensors, building.result)
    inner = []
    if any(c.light_reflectance is not None or c.light_reflectance_beyond is not None for c in library.constructions):
        for face in building.result.faces:
            of = shelf.constructions.get(face.construction or chosen_construction(scheme.skin, face.element))
            if of is not None and (of.light_reflectance, of.light_reflectance_beyond) != (None, None):
                inner.append((face.id, of.light_reflectance, of.light_reflectance_beyond))
    lit = light if any(veiled(face, scheme.skin) for face in building.result.faces) else None
    x, y = turning_point(scheme)
    excerpts = Excerpt(place, LIGHT), Excerpt(library, DAYLIGHT), Excerpt(scheme, DAYLIGHT)
    return Daylight(building, *excerpts, brief.climate, (float(x), float(y)), tuple(inner), lit)


def daylight(place: Place, library: Library, scheme: Scheme, climate: ClimateYear) -> Illuminance:
    """Return the light at the sensors of all zones with windows.

    Raises
    ------
    EurythmError
        Where the form is impossible or a glazing is unknown.
    """
    return made(_asked_daylight(place, library, scheme, climate)).result


def daylit_floors(
    place: Place, library: Library, scheme: Scheme, climate: ClimateYear, zones: Sequence[str], spacing_m: float = 0.5
) -> FloorLight:
    """Return the light all over the floors of some zones; `measured` tells figures of it.

    Raises
    ------
    EurythmError
        Where the form is impossible, a glazing is unknown, no zone fits or the grid is too fine.
    """
    return made(Floors(_asked_daylight(place, library, scheme, climate), tuple(zones), spacing_m)).result


def light_asks(place: Place, library: Library, scheme: Scheme, climate: ClimateYear) -> dict[str, ZoneBrief]:
    """Return what each zone is asked by its use."""
    form = _building(place, scheme)[0]
    airs = zone_airs(scheme.plant, [z.id for z in form.result.zones])
    use = made(Use(form, Excerpt(place, USE), Excerpt(library, USE), Excerpt(scheme, USE), climate_at(place, climate), airs))
    return {zone.id: of for zone, of in zip(form.result.zones, use.result.zones, strict=True)}


def daylight_of(brief: Brief) -> Illuminance:
    """Return the light at the sensors of what a brief asks about."""
    return daylight(brief.place, brief.shelf.library, brief.scheme, brief.climate)


def _asked_daylight(place: Place, library: Library, scheme: Scheme, climate: ClimateYear) -> Daylight:
    brief = resolve(place, library, scheme, climate)
    _, opened, building = _building(place, scheme)
    light = made(Light(opened, Excerpt(place, LIGHT), Excerpt(scheme, LIGHT), brief.climate))
    return _daylight(building, light, library, brief)


def run(place: Place, library: Library, scheme: Scheme, factors: Factors, climate: ClimateYear, substeps: int = 1) -> Run:
    """Simulate a year and keep every intermediate result.

    Raises
    ------
    EurythmError
        Where the documents contradict themselves or the form is impossible; the path says where.
    """
    case = prepare_case(place, library, scheme, factors, climate, substeps)
    demand = MEMO.get("demand", case.key, lambda: balance(case.arrays))
    course = course_of(case.arrays, demand, limits_of(case.arrays.zones, factors))
    summary, metered = _to_the_meter(case, course, "alone")
    delivered = metered.delivered
    remarks = [r.as_dict() for r in (*case.remarks, *plant_remarks(delivered.systems))]
    outcome = assess(case.building, case.arrays, demand, course, metered, summary, remarks)
    return Run(case.brief, case.building, case.light, case.panels.result, case.arrays, demand, delivered, outcome)


class ZoneLoad(TypedDict):
    """The highest load of a zone, W."""

    id: str
    load_w: float


class Sized(TypedDict):
    """The load on a design day: what day, its highest temperature °C and daily range K, W and when, by zone."""

    day: str
    highest_c: float
    range_k: float
    load_w: float
    at: str | None
    zones: list[ZoneLoad]


def size(place: Place, library: Library, scheme: Scheme, factors: Factors, climate: ClimateYear) -> dict[str, Sized]:
    """Return loads on the design days of a climate year, four steps an hour, for heating and for cooling.

    Heating is sized without sun and gains at the day's setpoint all day long; cooling with the use as it is but for holidays and closures.

    Raises
    ------
    EurythmError
        Where the documents contradict themselves or the form is impossible.
    """
    found: dict[str, Sized] = {}
    calendar = place.calendar.model_copy(update={"holidays": (), "closures": ()})
    place = place.model_copy(update={"calendar": calendar})
    for day in design_days(climate_at(place, climate)):
        case = prepare_case(place, library, scheme, factors, day.year, SIZING_SUBSTEPS)
        arrays = sized_for_heating(case.arrays) if day.use == "heating" else case.arrays
        demand = balance(replace(arrays, first_h=day.first, hours=day.last - day.first))
        load = demand.heating_w if day.use == "heating" else demand.cooling_w
        window = load[:, day.first : day.last]
        hour = day.first + int(window.sum(axis=0).argmax())
        found[day.use] = {
            "day": day.what,
            "highest_c": day.highest_c,
            "range_k": day.range_k,
            "load_w": float(window.sum(axis=0).max()),
            "at": None if day.use == "heating" else hour_name(hour),
            "zones": [{"id": zone, "load_w": float(row.max())} for zone, row in zip(arrays.zone_ids, window, strict=True)],
        }
    return found


@dataclass(frozen=True, eq=False)
class Taken:
    """A prepared case with its loads taken apart."""

    prepared: Prepared
    parts: Parts


def take_apart_case(case: Prepared) -> Taken:
    """Take the loads of a prepared case apart by source; remembered, and made only when it is asked for."""

    def make() -> Parts:
        return take_apart(case.arrays, transmitted_by_side(case.brief, case.building, case.light))

    return Taken(case, MEMO.get("parts", case.key, make))


@dataclass(frozen=True, eq=False)
class DesignDays:
    """What groups of zones ask on the design days, (S, 8, hours) by `tables.SYSTEM_COLUMNS`, the weather of those hours, and the coldest day's °C."""

    heating: Series
    cooling: Series
    cold: Outdoors
    warm: Outdoors
    design_c: float


def _on_design_days(case: Prepared) -> list[tuple[DesignDay, Arrays]]:
    """A case on its design days: heating without sun and gains, cooling with all lights on and nothing closed."""
    place, scheme = case.brief.place, case.brief.scheme
    open_all = place.calendar.model_copy(update={"holidays": (), "closures": ()})
    place = place.model_copy(update={"calendar": open_all})
    zones = len(case.building.zones)
    lit = Made("all on", Lights(np.ones((zones, HOURS)))) if any(z.lights.kind != "none" for z in case.arrays.zones) else None
    scheme = scheme.model_copy(
        update={"use": scheme.use.model_copy(update={"lights": scheme.use.lights.model_copy(update={"floors": False})})}
    )
    found = []
    for day in design_days(case.brief.climate):
        other = prepare_case(place, case.brief.shelf.library, scheme, case.factors, day.year, 1, lit)
        arrays = sized_for_heating(other.arrays) if day.use == "heating" else other.arrays
        found.append((day, replace(arrays, first_h=day.first, hours=day.last - day.first)))
    return found


def _design(cases: Sequence[Prepared]) -> list[DesignDays]:
    """Ask the zones of cases on their design days; remembered, those of many cases side by side."""
    found = {case.key: kept for case in cases if (kept := MEMO.find("design", case.key)) is not None}
    due = {case.key: case for case in cases if case.key not in found}
    lots = [(key, day, arrays, limits_of(arrays.zones, case.factors)) for key, case in due.items() for day, arrays in _on_design_days(case)]
    asked: dict[str, dict[str, Series]] = {key: {} for key in due}
    seen: dict[str, dict[str, Outdoors]] = {key: {} for key in due}
    coldest: dict[str, float] = {}
    courses = balance_many([arrays for _, _, arrays, _ in lots], [limits for *_, limits in lots])
    for (key, day, _, _), course in zip(lots, courses, strict=True):
        span = slice(day.first, day.last)
        asked[key][day.use], seen[key][day.use] = course.systems[:, :, span].copy(), outdoors_of(day.year, span)
        if day.use == "heating":
            coldest[key] = day.highest_c
    for key in due:
        days = DesignDays(asked[key]["heating"], asked[key]["cooling"], seen[key]["heating"], seen[key]["cooling"], coldest[key])
        found[key] = MEMO.get("design", key, partial(_same, days))
    return [found[case.key] for case in cases]


def _has_stages(case: Prepared) -> bool:
    return any(of is not None and k in case.arrays.owner for k, of in enumerate(systems_of(case.brief.scheme.plant)))


def _systems(case: Prepared) -> list[System | Served]:
    """The systems of a case, those with stages sized by its design days."""
    scheme, climate = case.brief.scheme, case.brief.climate
    briefs = systems_of(scheme.plant)
    if not _has_stages(case):
        return [Seasonal(scheme.plant) for _ in briefs]
    (days,) = _design([case])
    return [Seasonal(scheme.plant) if of is None else _served(of, k, case, days, climate) for k, of in enumerate(briefs)]


def _served(of: SystemBrief, number: int, case: Prepared, days: DesignDays, climate: ClimateYear) -> System | Served:
    arrays, plant = case.arrays, case.brief.scheme.plant
    if number not in arrays.owner:
        return Seasonal(plant)
    system = Staged(of, arrays.heat_per_m3, plant.hot_water.rise_k, climate, outdoors_of(climate))
    heating, cooling = (
        Design(zones_wanted(rows, arrays, number), rows[groups_of(arrays, number)].sum(axis=0)[5], outdoors, days.design_c)
        for rows, outdoors in ((days.heating, days.cold), (days.cooling, days.warm))
    )
    return Served(system, system.sized(heating, cooling), days.design_c)


def run_many(cases: Sequence[Prepared]) -> list[Summary]:
    """Simulate many prepared cases of one project, side by side where they can stand so; the order is kept. Raises EurythmError ``not-finite``."""
    return [ran.summary for ran in run_years(cases)]


@dataclass(frozen=True, eq=False)
class Year:
    """What a case among many came to: the whole building's year, its course, and what it costs over the years, part by part."""

    summary: Summary
    course: Course
    worth: Worth


def run_years(cases: Sequence[Prepared]) -> list[Year]:
    """Simulate many prepared cases as `run_many` does, with all that is known of each.

    Raises
    ------
    EurythmError
        ``not-finite`` where one of them gives no number.
    """
    if not cases:
        return []
    found: dict[str, Course] = {}
    for key in dict.fromkeys(_course_key(case) for case in cases):
        kept = MEMO.find("course", key)
        if kept is not None:
            found[key] = kept
    due = {key: case for case in cases if (key := _course_key(case)) not in found}
    courses = balance_many([c.arrays for c in due.values()], [limits_of(c.arrays.zones, c.factors) for c in due.values()])
    for key, course in zip(due, courses, strict=True):
        found[key] = MEMO.get("course", key, partial(_same, course))
    _design([case for case in cases if _has_stages(case)])
    ran = []
    for case in cases:
        course = found[_course_key(case)]
        summary, metered = _to_the_meter(case, course, "side by side")
        ran.append(Year(summary, course, metered.worth))
    return ran


def _same(made: T) -> T:
    return made


def _course_key(case: Prepared) -> str:
    """What a case's course depends on: its arrays, and the limits of comfort."""
    return digest(case.key, case.factors.too_warm_c, case.factors.too_cold_c)


Ran = Literal["alone", "side by side"]
"""How a course was run: both ways agree to rounding, which results must not hang on."""


def _delivered(case: Prepared, course: Course, ran: Ran) -> Delivered:
    """Energy at the meter; remembered, since prices and factors leave it alone."""
    scheme, climate = case.brief.scheme, case.brief.climate
    key = digest(ran, case.key, case.panels.digest, Excerpt(scheme, METERED).digest)
    return MEMO.get("delivered", key, lambda: deliver(_systems(case), course, case.arrays, case.sun, scheme.plant, climate.air_c))


def _enclosing(case: Prepared) -> list[Entry]:
    """What the enclosure of a case is made of; remembered, since plant and prices leave it alone."""
    costs = "".join(item.model_dump_json() for item in case.factors.costs)
    key = digest(case.key, costs)
    return MEMO.get("enclosure", key, lambda: enclosure(case.brief, case.building, costs_of(case.factors)))


def _to_the_meter(case: Prepared, course: Course, ran: Ran) -> tuple[Summary, Metered]:
    brief, factors = case.brief, case.factors
    delivered = _delivered(case, course, ran)
    metered = meter(brief, _enclosing(case), case.arrays, delivered, factors, costs_of(factors), days_of(brief.place, brief.climate))
    daylit = (case.bright.daylit, case.bright.useful) if case.bright else (None, None)
    return summarise(case.building, case.arrays, course, metered, factors, daylit, case.substeps), metered


def simulate(place: Place, library: Library, scheme: Scheme, factors: Factors, climate: ClimateYear, substeps: int = 1) -> Outcome:
    """Simulate a year; see `run`."""
    return run(place, library, scheme, factors, climate, substeps).outcome
