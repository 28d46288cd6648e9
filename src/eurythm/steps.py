"""The steps of the pipeline: contact, openings, cladding, light, daylight, use, gains, panels, and what the heat balance takes.

Each is a pure function of inputs of its own (`memo.Inputs`): excerpts of the documents that hold what it reads and nothing else, and what
steps before it made. `simulate` chains them.
"""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass, field, replace

import numpy as np

from eurythm.brief.resolve import Brief, Shelf, ZoneBrief, asked_alike, days_of, zone_brief
from eurythm.brief.systems import ZoneAir
from eurythm.climate.year import ClimateYear
from eurythm.daylight.control import left_on
from eurythm.daylight.floors import FloorLight, FloorShares, floor_light, floor_shares
from eurythm.daylight.illuminance import Illuminance, Skin, illuminance
from eurythm.daylight.sensors import sensors_of
from eurythm.geometry.building import Building, Face, Kind, Shade
from eurythm.geometry.cladding import clad
from eurythm.geometry.form import internal_areas, make_building
from eurythm.geometry.openings import place_openings, skin_north
from eurythm.memo import FOLLOWS, Inputs, Made
from eurythm.model.library import Glazing, Library
from eurythm.model.part import Excerpt, Step
from eurythm.model.place import Place
from eurythm.model.scheme import Scheme
from eurythm.model.scheme import Skin as SchemeSkin
from eurythm.plant.collectors import fields
from eurythm.plant.delivered import FromSun
from eurythm.plant.panels import Panel, Where, placed
from eurythm.plant.photovoltaics import generate
from eurythm.sun.radiation import FaceLight, light_on, light_on_faces
from eurythm.thermal.demands import Demands, GainSeries, Lights, UseSeries, gain_series, use_series
from eurythm.thermal.prepare import Arrays, prepare

FORM: frozenset[Step] = frozenset({"form"})
OPENINGS: frozenset[Step] = FORM | {"openings"}
CLADDING: frozenset[Step] = OPENINGS | {"cladding"}
LIGHT: frozenset[Step] = OPENINGS | {"light"}
DAYLIGHT: frozenset[Step] = CLADDING | LIGHT | {"daylight"}
USE: frozenset[Step] = FORM | {"lights", "use"}
BALANCE: frozenset[Step] = DAYLIGHT | USE | {"balance"}
PANELS: frozenset[Step] = frozenset({"panels"})
GENERATION: frozenset[Step] = frozenset({"panels", "generation"})
METERED: frozenset[Step] = GENERATION | {"plant"}
"""Fields of which steps each step reads."""


@dataclass(frozen=True, eq=False)
class Form(Inputs[Building]):
    """Volumes and rooms to zones, faces and what these touch."""

    place: Excerpt[Place]
    scheme: Excerpt[Scheme]
    step = "form"

    def make(self) -> Building:
        """Zones and faces without openings."""
        return make_building(self.scheme.read, self.place.read.ground_level_m)


@dataclass(frozen=True, eq=False)
class Openings(Inputs[Building]):
    """Windows, doors and shades on the faces; `free` are arrays that stand by themselves and shade, by id and corners."""

    form: Made[Building]
    place: Excerpt[Place]
    scheme: Excerpt[Scheme]
    free: tuple[tuple[str, tuple[tuple[float, ...], ...]], ...]
    step = "openings"

    def make(self) -> Building:
        """The form with windows and shades."""
        scheme = self.scheme.read
        opened = place_openings(self.form.result, scheme.skin, skin_north(scheme, self.place.read.north_deg), scheme.zones)
        return opened.with_openings(opened.faces, tuple(Shade(f"free/{id}", np.array(corners)) for id, corners in self.free))


@dataclass(frozen=True, eq=False)
class Cladding(Inputs[Building]):
    """Constructions and glazing of faces by rule and by hand."""

    opened: Made[Building]
    place: Excerpt[Place]
    scheme: Excerpt[Scheme]
    step = "cladding"

    def make(self) -> Building:
        """The building as the rest reads it."""
        return clad(self.opened.result, self.scheme.read, skin_north(self.scheme.read, self.place.read.north_deg))


@dataclass(frozen=True, eq=False)
class Light(Inputs[dict[str, FaceLight]]):
    """Sun and sky on the faces."""

    opened: Made[Building]
    place: Excerpt[Place]
    scheme: Excerpt[Scheme]
    climate: ClimateYear
    step = "light"

    def make(self) -> dict[str, FaceLight]:
        """Light by face."""
        return light_on_faces(self.opened.result, self.place.read, self.climate)


@dataclass(frozen=True, eq=False)
class Panels(Inputs[tuple[Panel, ...]]):
    """Where panels and collectors lie. How large the share of all roofs is weighs nothing; whether there is any does."""

    opened: Made[Building]
    scheme: Excerpt[Scheme]
    where: Where
    any_share: bool
    step = "panels"

    def make(self) -> tuple[Panel, ...]:
        """Panels of all arrays."""
        return placed(self.scheme.read.plant, self.opened.result, self.where, self.any_share)


@dataclass(frozen=True, eq=False)
class PanelLight(Inputs[dict[str, FaceLight]]):
    """Sun and sky on the panels."""

    opened: Made[Building]
    panels: Made[tuple[Panel, ...]]
    place: Excerpt[Place]
    climate: ClimateYear
    step = "panel_light"

    def make(self) -> dict[str, FaceLight]:
        """Light by panel."""
        looking = [(panel.face, panel.samples) for panel in self.panels.result]
        return light_on(self.opened.result, self.place.read, self.climate, looking)


@dataclass(frozen=True, eq=False)
class SunPower(Inputs[FromSun]):
    """What arrays make of the light, behind their inverters, and the light on collectors."""

    panels: Made[tuple[Panel, ...]]
    light: Made[dict[str, FaceLight]]
    place: Excerpt[Place]
    scheme: Excerpt[Scheme]
    climate: ClimateYear
    step = "generation"

    def make(self) -> FromSun:
        """A year of all arrays and collectors."""
        plant, place = self.scheme.read.plant, self.place.read
        asked = self.panels.result, self.light.result, plant, place, self.climate
        return FromSun(generate(*asked), fields(*asked))


@dataclass(frozen=True, eq=False)
class Daylight(Inputs[Illuminance]):
    """Light at the sensors of all zones with windows; control of lights is read after it.

    `inner` tells by face what its construction reflects inside and beyond, where it says so; `about` is where the scheme is
    turned, and `lit` light on the faces where blinds hang that it closes.
    """

    building: Made[Building]
    place: Excerpt[Place]
    library: Excerpt[Library]
    scheme: Excerpt[Scheme]
    climate: ClimateYear
    about: tuple[float, float]
    inner: tuple[tuple[str, float | None, float | None], ...]
    lit: Made[dict[str, FaceLight]] | None
    step = "daylight"

    def make(self) -> Illuminance:
        """Illuminance by the hour."""
        building, scheme = self.building.result, self.scheme.read
        sensors = sensors_of(building, scheme.use.sensors, scheme.turn_deg, np.array(self.about))
        return illuminance(building, self.place.read, self.climate, sensors, self.skin)

    @property
    def skin(self) -> Skin:
        """What of the skin daylight hangs on."""
        building, shelf, scheme = self.building.result, Shelf(self.library.read), self.scheme.read
        skin, stated = scheme.skin, {face: own for face, *own in self.inner}
        usual = skin.reflectances

        def glass(face: Face, number: int) -> Glazing:
            return shelf.glazing(face.windows[number].glazing or skin.glazing, "scheme/skin/glazing")

        def reflectance(face: Face, zone: str, kind: Kind) -> float:
            inside, beyond = stated.get(face.id, (None, None))
            own = inside if face.zone == zone else beyond
            return usual[kind] if own is None else own

        veils = {}
        if self.lit is not None:
            down = {face.id: self.lit.result[face.id].veiled(skin.blinds.closes_w_m2) for face in building.faces if veiled(face, skin)}
            veils = {face: 1.0 - shut * (1.0 - skin.blinds.transmittance) for face, shut in down.items()}
        return Skin(glass, reflectance, veils)


@dataclass(frozen=True, eq=False)
class Floors(Inputs[FloorLight]):
    """Light all over the floors of some zones."""

    daylight: Daylight
    zones: tuple[str, ...]
    spacing_m: float
    step = "floors"

    def make(self) -> FloorLight:
        """Illuminance at each point by the hour."""
        of = self.daylight
        return floor_light(of.building.result, of.place.read, of.climate, self.zones, self.spacing_m, of.skin)


@dataclass(frozen=True, eq=False)
class Bright(Inputs[FloorShares]):
    """How bright the floors are while someone is there."""

    daylight: Daylight
    use: Made[Used]
    bright_lx: float
    step = "bright"

    def make(self) -> FloorShares:
        """Shares of floor and of hours."""
        of = self.daylight
        building = of.building.result
        occupied = {zone.id: used.occupied for zone, used in zip(building.zones, self.use.result.zones, strict=True)}
        return floor_shares(building, of.place.read, of.climate, of.skin, occupied, self.bright_lx)


def veiled(face: Face, skin: SchemeSkin) -> bool:
    """Whether blinds hang at the windows of a face."""
    return bool(face.windows) and face.boundary == "outdoors" and (face.blinds or skin.blinds.place) != "none"


@dataclass(frozen=True, eq=False)
class LightsOn(Inputs[Lights]):
    """What the control of lights leaves on beside daylight."""

    form: Made[Building]
    daylight: Made[Illuminance]
    use: Made[Used]
    step = "lights"

    def make(self) -> Lights:
        """Shares of power by the hour."""
        zones = [zone.id for zone in self.form.result.zones]
        return Lights(left_on(zones, [zone.lights for zone in self.use.result.zones], self.daylight.result))


@dataclass(frozen=True, eq=False)
class Inside(Inputs[dict[str, tuple[float, float]]]):
    """Internal floor area and air volume of zones within constructions of some thickness, m, by element."""

    building: Made[Building]
    thickness: tuple[tuple[str, float], ...]
    step = "inside"

    def make(self) -> dict[str, tuple[float, float]]:
        """m² and m³ by zone."""
        return internal_areas(self.building.result, dict(self.thickness))


@dataclass(frozen=True, eq=False)
class Used:
    """What zones are asked by their use: one by one, and together."""

    zones: tuple[ZoneBrief, ...]
    series: UseSeries


@dataclass(frozen=True, eq=False)
class Use(Inputs[Used]):
    """Hours and setpoints of each zone by its use and the place's calendar; `airs` tell what of their systems they feel."""

    form: Made[Building]
    place: Excerpt[Place]
    library: Excerpt[Library]
    scheme: Excerpt[Scheme]
    climate: ClimateYear
    airs: tuple[ZoneAir, ...]
    step = "use"

    def make(self) -> Used:
        """The zones' briefs and their series."""
        shelf, scheme, days = Shelf(self.library.read), self.scheme.read, days_of(self.place.read, self.climate)
        known: dict[Hashable, ZoneBrief] = {}
        briefs = []
        for zone, air in zip(self.form.result.zones, self.airs, strict=True):
            asked = air, *asked_alike(scheme, zone.id, zone.profile)
            if asked not in known:
                known[asked] = zone_brief(shelf, scheme, self.climate, days, zone.id, zone.name, zone.profile, air)
            briefs.append(known[asked])
        zones = tuple(briefs)
        return Used(zones, use_series(zones))


@dataclass(frozen=True, eq=False)
class Gains(Inputs[GainSeries]):
    """Heat of people, lights after their control, and equipment."""

    use: Made[Used]
    lights: Made[Lights] | None
    step = "gains"

    def make(self) -> GainSeries:
        """Gains by the hour."""
        return gain_series(self.use.result.zones, self.lights.result if self.lights else None)


@dataclass(frozen=True, eq=False)
class Balance(Inputs[Arrays]):
    """All that the heat balance takes."""

    place: Excerpt[Place]
    library: Excerpt[Library]
    scheme: Excerpt[Scheme]
    climate: ClimateYear
    building: Made[Building]
    light: Made[dict[str, FaceLight]]
    inside: Made[dict[str, tuple[float, float]]]
    use: Made[Used]
    gains: Made[GainSeries]
    substeps: int
    brief: Brief = field(metadata=FOLLOWS)
    step = "arrays"

    def make(self) -> Arrays:
        """The kernel's arrays."""
        building, inside, used = self.building.result, self.inside.result, self.use.result
        brief = replace(self.brief, place=self.place.read, scheme=self.scheme.read)
        floor_area, air_volume = np.array([inside[z.id] for z in building.zones]).T
        asked = Demands(used.series, self.gains.result, floor_area, air_volume)
        return prepare(brief, building, self.light.result, inside, used.zones, asked, self.substeps)
