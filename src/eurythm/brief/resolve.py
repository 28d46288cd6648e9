"""Completing the documents: every value that the computation reads, and where it comes from."""

from __future__ import annotations

import fnmatch
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Literal, TypeVar, get_args

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from typing_extensions import TypedDict

from eurythm.brief.calendar import YearDays, hourly, year_days
from eurythm.brief.profiles import PROFILES
from eurythm.brief.systems import ZoneAir
from eurythm.climate.statistics import hour_name
from eurythm.climate.year import HOURS, ClimateYear
from eurythm.fabric.materials import MATERIALS
from eurythm.fabric.opaque import BuildUp, build_up, u_value, with_insulation
from eurythm.fabric.sets import SET_CONSTRUCTIONS
from eurythm.fabric.shipped import CONSTRUCTIONS, GLAZINGS
from eurythm.geometry.building import Face
from eurythm.geometry.cladding import BY_ELEMENT, FROM_DRAWING
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError
from eurythm.model.field import is_given, notes
from eurythm.model.library import Construction, Element, Glazing, Library, LightControl, LightFigures, Material, Profile
from eurythm.model.place import Place
from eurythm.model.scheme import Airing, Scheme, Skin, Use, ZoneUse

Series = NDArray[np.float64]
ELEMENTS: tuple[Element, ...] = get_args(Element)
AS_THE_WALL: tuple[Element, ...] = ("party_wall", "basement_wall")
"""Elements that have the wall's construction unless given one."""


@dataclass(frozen=True)
class Origin:
    """Where a value comes from; the source of an assumed one."""

    kind: Literal["given", "imported", "assumed"]
    source: str = ""


def origins(document: BaseModel, prefix: str = "") -> dict[str, Origin]:
    """Return the origin of every described value of a document, by its path (ids in place of list positions)."""
    found: dict[str, Origin] = {}
    for name in type(document).model_fields:
        value = getattr(document, name)
        path = f"{prefix}{name}"
        note = notes(type(document), name)
        if isinstance(value, BaseModel):
            found |= origins(value, f"{path}/")
            continue
        if isinstance(value, tuple) and value and isinstance(value[0], BaseModel):
            for item in value:
                found |= origins(item, f"{path}/{getattr(item, 'id', '')}/")
            continue
        if note:
            given = is_given(document, name)
            found[path] = Origin("given") if given else Origin("assumed", str(note.get("source", "")))
    return found


def construction_origin(scheme: Scheme, face: Face) -> Literal["given", "imported", "assumed"]:
    """Return where a face's construction comes from: given by hand, read from a file with the face, or assumed.

    A face of a scheme that was read from a file counts as given by hand where it has one of the shipped constructions.
    """
    if face.clad_by not in ("", FROM_DRAWING, BY_ELEMENT):
        return "given"
    if face.construction is not None:
        shipped = any(face.construction == c.id for c in CONSTRUCTIONS)
        return "imported" if scheme.imported_from is not None and not shipped else "given"
    return "given" if _field_of(scheme.skin, face.element) in scheme.skin.model_fields_set else "assumed"


def _field_of(skin: Skin, element: Element) -> Element:
    """The field of the skin that tells an element's construction."""
    return "wall" if element in AS_THE_WALL and getattr(skin, element) is None else element


def chosen_construction(skin: Skin, element: Element) -> str:
    """Return the id of the construction that an element has unless a face says otherwise."""
    return str(getattr(skin, _field_of(skin, element)))


class Shelf:
    """The project's library laid over the shipped one: things by id, with one error where there is none."""

    def __init__(self, library: Library) -> None:
        self._library = library

    @property
    def library(self) -> Library:
        """The project's own entries."""
        return self._library

    @cached_property
    def constructions(self) -> dict[str, Construction]:
        """Constructions by id."""
        return {c.id: c for c in (*CONSTRUCTIONS, *SET_CONSTRUCTIONS, *self._library.constructions)}

    @cached_property
    def materials(self) -> dict[str, Material]:
        """Materials by id."""
        return {m.id: m for m in (*MATERIALS, *self._library.materials)}

    @cached_property
    def glazings(self) -> dict[str, Glazing]:
        """Glazings by id."""
        return {g.id: g for g in (*GLAZINGS, *self._library.glazings)}

    @cached_property
    def profiles(self) -> dict[str, Profile]:
        """Use profiles by id."""
        return {p.id: p for p in (*PROFILES, *self._library.profiles)}

    def names(self) -> dict[str, str]:
        """Return the names of all entries by id."""
        found = {c.id: c.name for c in self.constructions.values()}
        found |= {g.id: g.name for g in self.glazings.values()}
        return found | {p.id: p.name for p in self.profiles.values()}

    def construction(self, name: str, path: str) -> Construction:
        """Return a construction. Raises EurythmError ``unknown-construction``."""
        return _named(self.constructions, name, "construction", path)

    def glazing(self, name: str, path: str) -> Glazing:
        """Return a glazing. Raises EurythmError ``unknown-glazing``."""
        return _named(self.glazings, name, "glazing", path)

    def profile(self, name: str, path: str) -> Profile:
        """Return a use profile. Raises EurythmError ``unknown-use-profile``."""
        return _named(self.profiles, name, "use profile", path)


N = TypeVar("N")


def _named(shelf: dict[str, N], name: str, what: str, path: str) -> N:
    if name not in shelf:
        raise EurythmError(f"unknown-{what.replace(' ', '-')}", f"The library has no {what} “{name}”.", path)
    return shelf[name]


NEVER_COOLED_C = 40.0
"""A cooling setpoint from here on cools nothing that counts for comfort: our own assumption."""


@dataclass(frozen=True, eq=False)
class ZoneBrief:
    """What one zone is asked: hourly series of shape (8760,) or one number.

    Attributes
    ----------
    people, lighting, equipment : schedules times power, W/m2 of internal floor (W where `gains_w` is given)
    drawn : hot water, l/h per m2 of internal floor
    air : what the heat balance takes of the zone's system
    lights : how they follow daylight
    heating_c, cooling_c : hourly setpoints, °C; ±inf-like values where there is no plant
    infiltration_ach : air changes of outdoor air by infiltration, or the fixed ones
    by_cracks : infiltration follows the scheme's permeability; never where air changes are fixed
    fresh_air : mechanical outdoor air, l/s per m2 of internal floor
    moisture_g_h : given off by people, per m2 of internal floor
    open_c : room temperature above which windows open, °C; out of reach while they may not
    openable_share : free opening per window area
    two_sided : wind blows through
    heating_most_w_m2, cooling_most_w_m2 : limits of the plant, inf without one
    """

    profile: Profile
    air: ZoneAir
    conditioned: bool
    occupied: NDArray[np.bool_]
    people: Series
    drawn: Series
    lighting: Series
    equipment: Series
    lights: LightControl
    gains_w: Series | None
    gains_radiant_share: float
    heating_c: Series
    cooling_c: Series
    infiltration_ach: Series
    by_cracks: bool
    fresh_air: Series
    moisture_g_h: Series
    open_c: Series
    openable_share: float
    two_sided: bool
    heating_most_w_m2: float
    cooling_most_w_m2: float

    @property
    def cooled(self) -> bool:
        """Whether something can hold the zone below a temperature."""
        return self.conditioned and self.cooling_most_w_m2 > 0 and float(self.cooling_c.min()) < NEVER_COOLED_C


@dataclass(frozen=True, eq=False)
class Brief:
    """The frozen question: documents completed, constructions and use looked up."""

    place: Place
    scheme: Scheme
    climate: ClimateYear
    shelf: Shelf
    constructions: dict[Element, Construction]
    build_ups: dict[Element, BuildUp]
    glazing: Glazing

    @property
    def thickness(self) -> dict[str, float]:
        """Thickness of each element's construction, m."""
        return {element: b.thickness for element, b in self.build_ups.items()}


def resolve(place: Place, library: Library, scheme: Scheme, climate: ClimateYear) -> Brief:
    """Complete the documents.

    Raises
    ------
    EurythmError
        Where something named does not exist or values contradict each other, with the path of the field.
    """
    shelf = Shelf(library)
    skin = scheme.skin
    chosen: dict[Element, Construction] = {
        element: shelf.construction(chosen_construction(skin, element), f"scheme/skin/{_field_of(skin, element)}") for element in ELEMENTS
    }
    if skin.wall_insulation_m is not None:
        thick = with_insulation(chosen["wall"], skin.wall_insulation_m)
        chosen |= {element: thick for element in ELEMENTS if _field_of(skin, element) == "wall"}
    if skin.roof_insulation_m is not None:
        chosen["roof"] = with_insulation(chosen["roof"], skin.roof_insulation_m)
    if skin.head_m <= skin.sill_m + 0.05:
        raise EurythmError(
            "head-below-sill",
            f"The window head ({amount(skin.head_m, 'm')}) is not above the sill ({amount(skin.sill_m, 'm')}).",
            "scheme/skin/head_m",
        )
    if scheme.use.lights.kind == "dimmed":
        _refuse_crossed(scheme.use.lights)
    build_ups = {element: build_up(c, _field_of(skin, element), f"scheme/skin/{element}") for element, c in chosen.items()}
    glazing = shelf.glazing(skin.glazing, "scheme/skin/glazing")
    return Brief(place, scheme, climate_at(place, climate), shelf, chosen, build_ups, glazing)


def _refuse_crossed(lights: LightFigures, where: str = "") -> None:
    if lights.full_lx >= lights.enough_lx:
        raise EurythmError(
            "lights-crossed",
            f"{where}Lights burn fully up to {amount(lights.full_lx, 'lx')}, which is not below what is enough, {amount(lights.enough_lx, 'lx')}.",
            "scheme/use/lights/full_lx",
        )


def lights_of(use: Use, own: list[ZoneUse], profile: Profile, name: str) -> LightControl:
    """Return the control of a zone's lights: by rule, else the scheme's or its profile's; a rule's other figures are those of whoever says the kind."""
    ruled, enough = _last(own, "lights"), _last(own, "enough_lx")
    by_profile = use.lights.kind == "profile" and (ruled is None or ruled == profile.lights.kind)
    says: LightFigures = profile.lights if by_profile else use.lights
    kind = ruled or (profile.lights.kind if use.lights.kind == "profile" else use.lights.kind)
    chosen = {name: getattr(says, name) for name in LightFigures.model_fields} | ({} if enough is None else {"enough_lx": enough})
    control = LightControl(**chosen, kind=kind)
    if control.kind == "dimmed":
        _refuse_crossed(control, f"In “{name}”: ")
    return control


def climate_at(place: Place, climate: ClimateYear) -> ClimateYear:
    """Return the climate year at the latitude, longitude, altitude and time zone that the place gives; else at its own."""
    given = {name: getattr(place, name) for name in ("latitude_deg", "longitude_deg", "altitude_m", "time_zone_h")}
    return climate.at(replace(climate.location, **{name: value for name, value in given.items() if value is not None}))


def profile_of(scheme: Scheme, zone_id: str, own_profile: str | None) -> str:
    """Return the id of the use profile that a zone has: by its place in ``use.zones``, of its own, or the scheme's."""
    matching = [z for z in scheme.use.zones if fnmatch.fnmatchcase(zone_id, z.zone)]
    return _last(matching, "profile") or own_profile or scheme.use.profile


def days_of(place: Place, climate: ClimateYear) -> YearDays:
    """Return what each day of the year is at a place."""
    return year_days(place.calendar, climate.first_weekday)


def profile_reason(scheme: Scheme, zone_id: str, own_profile: str | None) -> str:
    """Return why a zone has its profile: ``by hand``, ``by rule`` with the rule's id, ``as drawn`` or ``as the scheme``."""
    matching = [z for z in scheme.use.zones if z.profile is not None and fnmatch.fnmatchcase(zone_id, z.zone)]
    if matching:
        return "by hand" if matching[-1].zone == zone_id else f"by rule {matching[-1].id}"
    return "as the scheme" if own_profile is None else "as drawn"


def asked_alike(scheme: Scheme, zone_id: str, own_profile: str | None) -> tuple[str | None, tuple[int, ...]]:
    """Return what tells the brief of one zone from that of another one with the same air: its own profile, and which entries of ``use.zones`` fit it."""
    return own_profile, tuple(k for k, zone in enumerate(scheme.use.zones) if fnmatch.fnmatchcase(zone_id, zone.zone))


def zone_brief(
    shelf: Shelf, scheme: Scheme, climate: ClimateYear, days: YearDays, zone_id: str, name: str, own_profile: str | None, air: ZoneAir
) -> ZoneBrief:
    """Return what one zone is asked; later entries of ``use.zones`` stand before earlier ones, and all before the scheme.

    Raises
    ------
    EurythmError
        ``setpoints-crossed`` where heating would be above cooling in some hour.
    """
    use = scheme.use
    own = [z for z in use.zones if fnmatch.fnmatchcase(zone_id, z.zone)]
    profile = shelf.profile(profile_of(scheme, zone_id, own_profile), "scheme/use/profile")
    occupancy = hourly(profile.occupancy, days)
    occupied = occupancy > 0
    heating, cooling = _setpoints(use, own, profile, _started(occupied, profile.starts_before_h), days)
    if np.any(heating > cooling):
        hour = int(np.argmax(heating > cooling))
        by_profile = use.heating_c is None and use.cooling_c is None and _last(own, "heating_c") is None and _last(own, "cooling_c") is None
        raise EurythmError(
            "setpoints-crossed",
            f"In “{name}” heating to {amount(heating[hour], '°C')} stands above cooling to {amount(cooling[hour], '°C')} "
            f"({hour_name(hour)[:5]} from {hour % 24}:00).",
            f"library/profiles/{profile.id}/heating_c" if by_profile else "scheme/use/heating_c",
        )
    lighting = profile.lighting_w_m2 if use.lighting_w_m2 is None else use.lighting_w_m2
    equipment = profile.equipment_w_m2 if use.equipment_w_m2 is None else use.equipment_w_m2
    fixed_air, fixed_gains = _last(own, "air_changes"), _last(own, "gains_w")
    gains = None
    if fixed_gains is not None:
        gains = _scheduled(fixed_gains, own, "gains_schedule", days)
    on = occupied.astype(float) if profile.fresh_air is None else hourly(profile.fresh_air, days)
    people = occupancy if scheme.plant.ventilation.follows_people else np.full(HOURS, occupancy.max())
    fresh = on * (people / profile.person_area * profile.fresh_air_ls_person + profile.fresh_air_ls_m2)
    conditioned = _last(own, "conditioned")
    radiant = _last(own, "gains_radiant_share")
    plant = scheme.plant
    openable = _first(_last(own, "openable_share"), use.airing.openable_share)
    by_cracks = use.permeability_m3_hm2 is not None and fixed_air is None
    if by_cracks:
        leak = np.zeros(HOURS)  # follows wind and temperature instead
    else:
        leak = np.full(HOURS, use.infiltration_ach) if fixed_air is None else _scheduled(fixed_air, own, "air_schedule", days)
    return ZoneBrief(
        profile=profile,
        air=air,
        conditioned=profile.conditioned if conditioned is None else conditioned,
        occupied=occupied,
        people=occupancy / profile.person_area * profile.person_w,
        drawn=_drawn(profile, occupancy, days),
        lighting=hourly(profile.lighting, days) * lighting,
        equipment=hourly(profile.equipment, days) * equipment,
        lights=lights_of(use, own, profile, name),
        gains_w=gains,
        gains_radiant_share=0.5 if radiant is None else radiant,
        heating_c=heating,
        cooling_c=cooling,
        infiltration_ach=leak,
        by_cracks=by_cracks,
        fresh_air=np.zeros(HOURS) if fixed_air is not None else fresh,
        moisture_g_h=np.zeros(HOURS) if gains is not None else occupancy / profile.person_area * profile.person_moisture_g_h,
        open_c=_opening(use.airing, occupied if profile.airing is None else hourly(profile.airing, days) > 0, climate),
        openable_share=openable,
        two_sided=_first(_last(own, "two_sided"), use.airing.two_sided),
        heating_most_w_m2=_first(_last(own, "heating_most_w_m2"), plant.heating.most_w_m2, np.inf),
        cooling_most_w_m2=_first(_last(own, "cooling_most_w_m2"), plant.cooling.most_w_m2, np.inf) if air.cooled else 0.0,
    )


def _drawn(profile: Profile, occupancy: Series, days: YearDays) -> Series:
    """Hot water by the hour, l/h per m2: litres a day for the most people of the day, spread by its own schedule or as they are there."""
    present = occupancy.reshape(365, 24)
    spread = present if profile.hot_water is None else hourly(profile.hot_water, days).reshape(365, 24)
    most = present.max(axis=1, keepdims=True) / profile.person_area * profile.hot_water_l_person_day
    drawn: Series = (spread * (most / np.maximum(spread.sum(axis=1, keepdims=True), 1e-9))).ravel()
    return drawn


NEVER_C = 1000.0
NIGHT = (22, 7)
WARM_SEASON_C = 12.0
"""Purge from 22:00 to 7:00 while the running mean of outdoor temperature is above this: our own assumptions."""


def _opening(airing: Airing, occupied: NDArray[np.bool_], climate: ClimateYear) -> Series:
    """Room temperature above which windows open, by the hour; night purge where the days are warm."""
    may = occupied if airing.hours == "occupied" else np.ones(HOURS, dtype=bool)
    course = np.where(may, airing.opens_above_c, NEVER_C)
    if airing.night_purge:
        hour = np.arange(HOURS) % 24
        night = ((hour >= NIGHT[0]) | (hour < NIGHT[1])) & (climate.running_mean_c > WARM_SEASON_C)
        course = np.where(night, np.minimum(course, airing.night_down_to_c), course)
    return course


def _first(*values: Any) -> Any:
    """The first that is not None."""
    return next(v for v in values if v is not None)


def _last(entries: list[ZoneUse], name: str) -> Any:
    values = [getattr(e, name) for e in entries if name in e.model_fields_set and getattr(e, name) is not None]
    return values[-1] if values else None


def _scheduled(value: float, own: list[ZoneUse], schedule: str, days: YearDays) -> Series:
    """A fixed value by the hour, times its schedule where one is given."""
    course = _last(own, schedule)
    return value * (hourly(course, days) if course is not None else np.ones(HOURS))


def _started(occupied: NDArray[np.bool_], hours: int) -> NDArray[np.bool_]:
    """Occupied hours and some before them, in which the plant already runs at the setpoint."""
    on = occupied.copy()
    for back in range(1, hours + 1):
        on |= np.roll(occupied, -back)
    return on


def _setpoints(use: Use, own: list[ZoneUse], profile: Profile, on: NDArray[np.bool_], days: YearDays) -> tuple[Series, Series]:
    """Setpoints by the hour; a value of the scheme stands in place of the most heated and the most cooled hours of the profile."""
    heat = profile.heating_c if use.heating_c is None else use.heating_c
    cool = profile.cooling_c if use.cooling_c is None else use.cooling_c
    heating = np.where(on, heat, min(profile.heating_setback_c, heat))
    cooling = np.where(on, cool, max(profile.cooling_setback_c, cool))
    if profile.heating is not None:
        course = hourly(profile.heating, days)
        heating = course if use.heating_c is None else np.where(course >= course.max(), heat, np.minimum(course, heat))
    if profile.cooling is not None:
        course = hourly(profile.cooling, days)
        cooling = course if use.cooling_c is None else np.where(course <= course.min(), cool, np.maximum(course, cool))
    by_hour_heat, by_hour_cool = _last(own, "heating_c"), _last(own, "cooling_c")
    if by_hour_heat is not None:
        heating = hourly(by_hour_heat, days)
    if by_hour_cool is not None:
        cooling = hourly(by_hour_cool, days)
    return heating, cooling


class ElementFacts(TypedDict):
    """An element's construction: U-value W/m²K, thickness m, heat capacity kJ/m²K."""

    id: str
    name: str
    u_value: float
    thickness_m: float
    capacity_kj_m2k: float


def element_facts(brief: Brief) -> dict[str, ElementFacts]:
    """Return U-value, thickness and mass of each element's construction, for sheets and tables."""
    return {
        element: {
            "id": c.id,
            "name": c.name,
            "u_value": u_value(c, _field_of(brief.scheme.skin, element)),
            "thickness_m": brief.build_ups[element].thickness,
            "capacity_kj_m2k": brief.build_ups[element].capacity / 1000,
        }
        for element, c in brief.constructions.items()
    }
