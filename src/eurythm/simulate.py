"""The one pipeline: contact, openings, light, heat balance, plant, assessment.

Each step is a pure function of its own inputs and is remembered by a digest of them, so that a changed price runs the
last step only, a changed setpoint leaves the sun alone, and a changed glass casts no ray. Live editing and studies share
this cache; it holds no state that a result depends on.
"""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields, is_dataclass
from threading import Lock
from typing import Any, TypeVar

import numpy as np
from pydantic import BaseModel

from eurythm.assess.outcome import Outcome, Summary, assess, summarise
from eurythm.brief.readiness import building_remarks, cutting_remarks, document_remarks
from eurythm.brief.resolve import Brief, ZoneBrief, climate_at, resolve, zone_brief
from eurythm.climate.design import design_days
from eurythm.climate.statistics import hour_name
from eurythm.climate.year import ClimateYear
from eurythm.geometry.building import Building
from eurythm.geometry.cladding import clad
from eurythm.geometry.form import internal_areas, make_building
from eurythm.geometry.openings import place_openings, skin_north
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.part import excerpt
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.remark import Remark
from eurythm.model.scheme import Scheme
from eurythm.plant.delivered import Delivered, deliver
from eurythm.plant.photovoltaics import Generation, generate, panel_faces
from eurythm.sun.radiation import FaceLight, light_on_faces
from eurythm.thermal.balance import Course, Demand, balance, course_of
from eurythm.thermal.batch import balance_many
from eurythm.thermal.comfort import limits_of
from eurythm.thermal.demands import Demands, use_series
from eurythm.thermal.parts import Parts, take_apart
from eurythm.thermal.prepare import Arrays, prepare, sized_for_heating, transmitted_by_side

T = TypeVar("T")
SIZING_SUBSTEPS = 4
KEEP = {
    "building": 24,
    "openings": 24,
    "clad": 24,
    "light": 10,
    "inside": 48,
    "zones": 24,
    "asked": 8,
    "arrays": 4,
    "demand": 4,
    "parts": 8,
}


LARGE = frozenset({"light", "arrays", "demand", "parts"})
"""Steps whose results hold hourly series."""
MOST_BYTES = 300_000_000
"""How much the results of one such step may take before the oldest go; the last two always stay."""


class Memo:
    """Remembers the last results of each step by the digest of its inputs."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self._kept: dict[str, OrderedDict[str, Any]] = {step: OrderedDict() for step in KEEP}
        self._bytes: dict[str, dict[str, int]] = {step: {} for step in KEEP}
        self._most = most_bytes
        self._lock = Lock()

    def get(self, step: str, key: str, make: Callable[[], T]) -> T:
        """Return the remembered result, or make and remember it."""
        kept = self._kept[step]
        with self._lock:
            if key in kept:
                kept.move_to_end(key)
                found: T = kept[key]
                return found
        made = make()
        with self._lock:
            sizes = self._bytes[step]
            kept[key], sizes[key] = made, array_bytes(made) if step in LARGE else 0
            while len(kept) > KEEP[step] or (len(kept) > 2 and sum(sizes.values()) > self._most):
                oldest, _ = kept.popitem(last=False)
                del sizes[oldest]
        return made


def array_bytes(thing: Any) -> int:
    """Return how much the arrays take that a result holds: as it says itself, else in its fields, tuples, lists and dictionaries."""
    if hasattr(thing, "nbytes"):
        return int(thing.nbytes)
    if isinstance(thing, dict):
        return sum(array_bytes(v) for v in thing.values())
    if isinstance(thing, (tuple, list)):
        return sum(array_bytes(v) for v in thing)
    if is_dataclass(thing) and not isinstance(thing, type):
        return sum(array_bytes(getattr(thing, f.name)) for f in fields(thing))
    return 0


MEMO = Memo()


def digest(*parts: str | float | None) -> str:
    """Return a digest of plain values."""
    made = hashlib.blake2b(digest_size=16)
    for part in parts:
        made.update(repr(part).encode())
        made.update(b"\0")
    return made.hexdigest()


@dataclass(frozen=True, eq=False)
class Prepared:
    """A case ready for its heat balance; `key` is the digest of all that the balance depends on."""

    brief: Brief
    building: Building
    light: dict[str, FaceLight]
    arrays: Arrays
    generation: Generation
    substeps: int
    key: str

    @property
    def remarks(self) -> tuple[Remark, ...]:
        """What is missing, doubtful or was mended; worked out when it is asked for, by studies once a case."""
        scheme = self.brief.scheme
        return (
            *self.brief.climate.remarks,
            *document_remarks(self.brief.place, scheme),
            *building_remarks(self.building, scheme, skin_north(scheme, self.brief.place.north_deg)),
            *cutting_remarks(self.building, self.brief.place),
        )


@dataclass(frozen=True, eq=False)
class Run:
    """Everything that one simulation made, for those who look closer than the outcome."""

    brief: Brief
    building: Building
    light: dict[str, FaceLight]
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
    form = MEMO.get("building", key_of("form", place, scheme), lambda: make_building(scheme, place.ground_level_m))
    north = skin_north(scheme, place.north_deg)
    opened = MEMO.get("openings", key_of("openings", place, scheme), lambda: place_openings(form, scheme.skin, north, scheme.zones))
    return MEMO.get("clad", key_of("cladding", place, scheme), lambda: clad(opened, scheme, north))


READS: dict[str, frozenset[str]] = {
    "form": frozenset({"form"}),
    "openings": frozenset({"form", "openings"}),
    "cladding": frozenset({"form", "openings", "cladding"}),
    "light": frozenset({"form", "openings", "light"}),
    "use": frozenset({"form", "use"}),
    "balance": frozenset({"form", "openings", "cladding", "light", "use", "balance"}),
}
"""Fields of which steps each remembered step reads, itself or by what it is handed on."""


def key_of(step: str, *documents: BaseModel) -> str:
    """Return a digest of all in some documents that a step of the pipeline reads."""
    return digest(*(excerpt(document, "step", READS[step]) for document in documents))


def prepare_case(place: Place, library: Library, scheme: Scheme, factors: Factors, climate: ClimateYear, substeps: int = 1) -> Prepared:
    """Go through the chain up to the heat balance.

    Raises
    ------
    EurythmError
        Where the documents contradict themselves or the form is impossible; the path says where.
    """
    if not scheme.volumes and not scheme.zones:
        raise EurythmError("no-form", "Nothing is drawn yet: add a volume.", "scheme/volumes")
    place = place.model_copy(update={"underlays": ()})  # what is only drawn over changes no result
    brief = resolve(place, library, scheme, factors, climate)
    climate = brief.climate
    building = building_of(place, scheme)
    pv = scheme.plant.photovoltaics
    panels = panel_faces(building, pv, place.north_deg)
    light_key = digest(key_of("light", place, scheme), bool(panels), climate.digest)  # how many panels there are weighs nothing here
    light = MEMO.get("light", light_key, lambda: light_on_faces(building, place, climate, panels))
    key = digest(key_of("balance", place, library, scheme), bool(panels), climate.digest, substeps)
    arrays = MEMO.get("arrays", key, lambda: _arrays(brief, building, light, library, substeps))
    return Prepared(brief, building, light, arrays, generate(panels, light, pv, climate, place.north_deg), substeps, key)


def _arrays(brief: Brief, building: Building, light: dict[str, FaceLight], library: Library, substeps: int) -> Arrays:
    place, scheme, climate = brief.place, brief.scheme, brief.climate
    inside_key = digest(key_of("form", place, scheme), repr(brief.thickness))
    inside = MEMO.get("inside", inside_key, lambda: internal_areas(building, brief.thickness))
    night = climate.digest if scheme.use.airing.night_purge else None
    use_key = digest(key_of("use", place, library, scheme), climate.first_weekday, night)
    zones = MEMO.get("zones", use_key, lambda: _zones(brief, building))
    floor_area, air_volume = np.array([inside[z.id] for z in building.zones]).T
    asked = MEMO.get("asked", use_key, lambda: use_series(zones))
    return prepare(brief, building, light, inside, zones, Demands(asked, floor_area, air_volume), substeps)


def run(place: Place, library: Library, scheme: Scheme, factors: Factors, climate: ClimateYear, substeps: int = 1) -> Run:
    """Simulate a year and keep every intermediate result.

    Raises
    ------
    EurythmError
        Where the documents contradict themselves or the form is impossible; the path says where.
    """
    made = prepare_case(place, library, scheme, factors, climate, substeps)
    demand = MEMO.get("demand", made.key, lambda: balance(made.arrays))
    course = course_of(made.arrays, demand, limits_of(made.arrays.zones, factors))
    summary, delivered = _to_the_meter(made, course)
    remarks = [r.as_dict() for r in made.remarks]
    outcome = assess(made.building, made.arrays, demand, course, delivered, summary, factors, remarks)
    return Run(made.brief, made.building, made.light, made.arrays, demand, delivered, outcome)


def size(place: Place, library: Library, scheme: Scheme, factors: Factors, climate: ClimateYear) -> dict[str, dict[str, Any]]:
    """Return loads on the design days of a climate year, four steps an hour, for heating and for cooling.

    Heating is sized without sun and gains at the day's setpoint all day long; cooling with the use as it is.

    Raises
    ------
    EurythmError
        Where the documents contradict themselves or the form is impossible.
    """
    found = {}
    for day in design_days(climate_at(place, climate)):
        made = prepare_case(place, library, scheme, factors, day.year, SIZING_SUBSTEPS)
        arrays = sized_for_heating(made.arrays) if day.use == "heating" else made.arrays
        demand = balance(arrays)
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


def take_apart_case(made: Prepared) -> Taken:
    """Take the loads of a prepared case apart by source; remembered, and made only when it is asked for."""

    def make() -> Parts:
        return take_apart(made.arrays, transmitted_by_side(made.brief, made.building, made.light))

    return Taken(made, MEMO.get("parts", made.key, make))


def run_many(cases: Sequence[Prepared]) -> list[Summary]:
    """Simulate many prepared cases of one project, side by side where they can stand so; the order is kept.

    Raises
    ------
    EurythmError
        ``not-finite`` where one of them gives no number.
    """
    if not cases:
        return []
    courses = balance_many([c.arrays for c in cases], [limits_of(c.arrays.zones, c.brief.factors) for c in cases])
    return [_to_the_meter(made, course)[0] for made, course in zip(cases, courses, strict=True)]


def _to_the_meter(made: Prepared, course: Course) -> tuple[Summary, Delivered]:
    delivered = deliver(made.brief.scheme.plant, course, made.arrays, made.generation)
    area = made.generation.module_area_m2
    return summarise(made.building, made.arrays, course, delivered, made.brief.factors, area, made.substeps), delivered


def _zones(brief: Brief, building: Building) -> tuple[ZoneBrief, ...]:
    return tuple(zone_brief(brief, z.id, z.profile) for z in building.zones)


def simulate(place: Place, library: Library, scheme: Scheme, factors: Factors, climate: ClimateYear, substeps: int = 1) -> Outcome:
    """Simulate a year; see `run`."""
    return run(place, library, scheme, factors, climate, substeps).outcome
