"""Scheme: one design proposition, its shape, skin, use and plant."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from eurythm.model.field import OWN, Described, Proposed, choice, quantity, text
from eurythm.model.ids import Id
from eurythm.model.library import Construction, ControlKind, Element, LightFigures
from eurythm.model.part import Part
from eurythm.model.plant import DESIGN, Plant
from eurythm.model.schedule import Schedule
from eurythm.model.shape import GivenShade, GivenZone, LeftOut, Underlay, Volume, WindowRect

Orientation = Literal["north", "east", "south", "west"]
ORIENTATIONS: tuple[Orientation, ...] = ("north", "east", "south", "west")

REFLECTED = "EN 12464-1, usual inner surfaces (unverified)"
SHAPE = Part("form", "form", "shape")
OPENING = Part("openings", "glass", "skin")
WEIGHED = Part("openings", "glass", "skin", casts=False)
"""Of the openings, what only changes how much points of the façade count."""
GLASS = Part("daylight", "glass", "skin")
INNER = Part("daylight", "fabric", "skin")
"""Of inner surfaces, what light from outside meets."""
FABRIC = Part("balance", "fabric", "skin")
LIGHTS = Part("lights", casts=False)


class GlazingRatio(Described):
    """Window with frame over external wall area, floor to floor, by true orientation of the wall."""

    north: float = quantity(0.30, "Glazing ratio north", digits=2, ge=0, le=0.95, usual=(0.1, 0.7), source=DESIGN, lever=True, share=True)
    east: float = quantity(0.30, "Glazing ratio east", digits=2, ge=0, le=0.95, usual=(0.1, 0.7), source=DESIGN, lever=True, share=True)
    south: float = quantity(0.30, "Glazing ratio south", digits=2, ge=0, le=0.95, usual=(0.1, 0.7), source=DESIGN, lever=True, share=True)
    west: float = quantity(0.30, "Glazing ratio west", digits=2, ge=0, le=0.95, usual=(0.1, 0.7), source=DESIGN, lever=True, share=True)


class OverhangDepth(Described):
    """Depth of a continuous overhang at window head, by orientation."""

    north: float = quantity(0.0, "Overhang north", "m", ge=0, le=20, usual=(0, 3), lever=True)
    east: float = quantity(0.0, "Overhang east", "m", ge=0, le=20, usual=(0, 3), lever=True)
    south: float = quantity(0.0, "Overhang south", "m", ge=0, le=20, usual=(0, 3), lever=True)
    west: float = quantity(0.0, "Overhang west", "m", ge=0, le=20, usual=(0, 3), lever=True)


class FinDepth(Described):
    """Depth of side fins between windows, by orientation."""

    north: float = quantity(0.0, "Side fins north", "m", ge=0, le=20, usual=(0, 2), lever=True)
    east: float = quantity(0.0, "Side fins east", "m", ge=0, le=20, usual=(0, 2), lever=True)
    south: float = quantity(0.0, "Side fins south", "m", ge=0, le=20, usual=(0, 2), lever=True)
    west: float = quantity(0.0, "Side fins west", "m", ge=0, le=20, usual=(0, 2), lever=True)


class LouvreDepth(Described):
    """Depth of fixed horizontal louvres in front of the windows, by orientation."""

    north: float = quantity(0.0, "Louvres north", "m", ge=0, le=2, usual=(0, 0.5), lever=True)
    east: float = quantity(0.0, "Louvres east", "m", ge=0, le=2, usual=(0, 0.5), lever=True)
    south: float = quantity(0.0, "Louvres south", "m", ge=0, le=2, usual=(0, 0.5), lever=True)
    west: float = quantity(0.0, "Louvres west", "m", ge=0, le=2, usual=(0, 0.5), lever=True)


Pattern = Literal["repeated", "ribbon", "storey_high"]
LouvreKind = Literal["level", "crossed"]
BlindPlace = Literal["none", "inside", "outside"]


class AssignRule(Described):
    """Which construction or glazing faces have that fit: every condition that is given must hold."""

    id: Id
    name: str = text("", "Rule")
    element: Element | None = choice(None, "Kind of element", help="Any unless given")
    orientation: Orientation | None = choice(None, "Orientation", help="Of walls; any unless given")
    storey: str = text("", "Storey", help="Id or name of the storey; * stands for anything", max_length=80)
    matching: str = text(
        "", "Name or reference", help="Of the volume, the zone or the reference in the drawing; * stands for anything", max_length=200
    )
    construction: str | None = choice(None, "Construction")
    glazing: str | None = choice(None, "Glazing", help="Of the windows in the walls that fit")


class FaceOverride(Described):
    """What one face does differently; it hangs on volume, storey and edge, not on a derived polygon."""

    id: Id
    face: Annotated[str, Field(pattern=r"^[^/]+/[^/]+/[^/#]+$")] = text(..., "Face", help="volume/storey/edge; * for any storey")
    glazing_ratio: float | None = quantity(None, "Glazing ratio", ge=0, le=0.95, usual=(0.1, 0.7), share=True)
    pattern: Pattern | None = choice(None, "Windows as")
    module_m: float | None = quantity(None, "Spacing of windows", "m", gt=0.2, le=100, usual=(1, 6))
    window_width_m: float | None = quantity(None, "Width of each window", "m", gt=0.05, le=100, usual=(0.6, 4), help="Instead of the ratio")
    sill_m: float | None = quantity(None, "Sill above floor", "m", ge=0, le=20, usual=(0, 1.2))
    head_m: float | None = quantity(None, "Head above floor", "m", gt=0.1, le=40, usual=(2.0, 4.0))
    windows: tuple[WindowRect, ...] = choice((), "Windows placed one by one", help="Instead of ratio and pattern")
    glazing: Annotated[str | None, Part("cladding")] = choice(None, "Glazing")
    overhang_m: float | None = quantity(None, "Overhang", "m", ge=0, le=20, usual=(0, 3))
    fin_m: float | None = quantity(None, "Side fins", "m", ge=0, le=20, usual=(0, 2))
    louvre_m: float | None = quantity(None, "Louvres", "m", ge=0, le=2, usual=(0, 0.5))
    louvre_kind: LouvreKind | None = choice(None, "Louvres as")
    blinds: BlindPlace | None = choice(None, "Blinds", help="Of the scheme's kind, elsewhere")
    construction: Annotated[str | None, Part("cladding")] = choice(None, "Construction")
    boundary: Literal["outdoors", "ground", "adiabatic", "fixed"] | None = choice(
        None, "Boundary", help="fixed: against a stated temperature, such as an unheated neighbour"
    )
    boundary_c: float = quantity(10.0, "Temperature beyond", "°C", digits=1, ge=-60, le=80, usual=(0, 25), help="Of a fixed boundary")


class Blinds(Described):
    """Blinds or screens of all windows, closed by the sun on each face."""

    place: BlindPlace = choice("none", "Blinds", source="none unless given", lever=True)
    closes_w_m2: float = quantity(
        200.0, "Close above", "W/m²", digits=0, ge=0, le=1500, usual=(100, 400), lever=True, help="Sun on the face's windows, all of it",
        source="order of size of common use (unverified)",
    )  # fmt: skip
    transmittance: float = quantity(
        0.15, "Let through", ge=0, le=1, usual=(0.02, 0.4), help="Of the sun that meets the closed blind", share=True
    )
    reflectance: float = quantity(0.50, "Reflect", ge=0, le=1, usual=(0.2, 0.8), help="Of the sun that meets the closed blind", share=True)


class ThermalBridges(Described):
    """What leaks past the constructions: a flat surcharge, and stated lengths of edges and window rims."""

    surcharge_w_m2k: float = quantity(
        0.05, "Surcharge on U", "W/m²K", digits=3, ge=0, le=1, usual=(0, 0.15), lever=True, help="Over all outside walls, roofs and windows",
        source="flat supplement for sound details, order of size of national practice (unverified)",
    )  # fmt: skip
    rims_w_mk: float = quantity(0.0, "Window rims", "W/m·K", digits=3, ge=-0.5, le=2, usual=(0, 0.15), source="within the surcharge")
    edges_w_mk: float = quantity(
        0.0, "Edges of roof and floor", "W/m·K", digits=3, ge=-0.5, le=2, usual=(-0.1, 0.5), source="within the surcharge"
    )


class Skin(Described):
    """What the enclosure is made of. Constructions and glazing are named by id: the project's own, else the shipped ones."""

    wall: str = choice("wall-good", "Wall", source=DESIGN, lever=True)
    party_wall: str | None = choice(None, "Party wall", help="Against what is as warm or at a stated temperature; as the wall unless given")
    basement_wall: str | None = choice(None, "Basement wall", help="Against the ground; as the wall unless given")
    roof: str = choice("roof-good", "Roof", source=DESIGN, lever=True)
    ground_floor: str = choice("ground-good", "Floor on ground", source=DESIGN)
    exposed_floor: str = choice("exposed-good", "Exposed floor", source=DESIGN)
    partition: str = choice("partition-light", "Partition", source=DESIGN)
    intermediate_floor: str = choice("floor-concrete", "Intermediate floor", source=DESIGN)
    glazing: Annotated[str, GLASS] = choice("double-lowe", "Glazing", source=DESIGN, lever=True)
    wall_insulation_m: float | None = quantity(
        None, "Wall insulation", "m", digits=3, gt=0, le=1, usual=(0.04, 0.4), lever=True, help="As the construction unless given"
    )
    roof_insulation_m: float | None = quantity(
        None, "Roof insulation", "m", digits=3, gt=0, le=1, usual=(0.06, 0.5), lever=True, help="As the construction unless given"
    )
    turn_with: Annotated[Literal["building", "compass"], OPENING] = choice(
        "building", "Glass and shades, when turned",
        help="building: they turn with the scheme, sides are those before the turn; compass: each side has what its new orientation has",
    )  # fmt: skip
    glazing_ratio: Annotated[GlazingRatio, WEIGHED] = GlazingRatio()
    window_pattern: Annotated[Pattern, OPENING] = choice("repeated", "Windows as", source=DESIGN, lever=True)
    window_module_m: Annotated[float, OPENING] = quantity(3.0, "Spacing of windows", "m", gt=0.2, le=100, usual=(1, 6), source=DESIGN)
    window_width_m: Annotated[float | None, OPENING] = quantity(
        None, "Width of each window", "m", gt=0.05, le=100, usual=(0.6, 4), help="Of repeated windows; by the ratio unless given"
    )
    sill_m: Annotated[float, OPENING] = quantity(0.9, "Sill above floor", "m", ge=0, le=20, usual=(0, 1.2), source=DESIGN)
    head_m: Annotated[float, OPENING] = quantity(
        2.7, "Head above floor", "m", gt=0.1, le=40, usual=(2.0, 4.0), lever=True, source=f"{DESIGN}; never above the storey"
    )
    overhang_depth_m: Annotated[OverhangDepth, OPENING] = OverhangDepth()
    fin_depth_m: Annotated[FinDepth, OPENING] = FinDepth()
    louvre_depth_m: Annotated[LouvreDepth, OPENING] = LouvreDepth()
    louvre_spacing_m: Annotated[float, OPENING] = quantity(0.3, "Louvres apart", "m", gt=0.01, le=5, usual=(0.05, 0.6), source=DESIGN)
    louvre_kind: Annotated[LouvreKind, OPENING] = choice(
        "level", "Louvres as", source=DESIGN, help="crossed: with upright leaves as far apart, an egg-crate"
    )
    rooflight_ratio: Annotated[float, OPENING] = quantity(
        0.0,
        "Rooflights",
        ge=0,
        le=0.6,
        usual=(0, 0.15),
        lever=True,
        help="Share of each roof under the open sky",
        source="none unless given",
        share=True,
    )
    rooflight_module_m: Annotated[float, OPENING] = quantity(5.0, "Rooflights apart", "m", gt=0.5, le=50, usual=(2, 12), source=DESIGN)
    rooflight_glazing: Annotated[str | None, OPENING] = choice(None, "Glass of rooflights", help="As the windows unless given")
    blinds: Annotated[Blinds, Part("daylight", "glass", "skin", word="Blinds")] = Blinds()
    ceiling_reflectance: Annotated[float, INNER] = quantity(
        0.7, "Light reflected by ceilings", ge=0, le=1, usual=(0.6, 0.9), share=True, lever=True, source=REFLECTED
    )
    wall_reflectance: Annotated[float, INNER] = quantity(
        0.5, "Light reflected by walls", ge=0, le=1, usual=(0.3, 0.8), share=True, lever=True, help="From inside; where the construction does not say it",
        source=REFLECTED,
    )  # fmt: skip
    floor_reflectance: Annotated[float, INNER] = quantity(
        0.2, "Light reflected by floors", ge=0, le=1, usual=(0.1, 0.4), share=True, lever=True, source=REFLECTED
    )
    thermal_bridges: ThermalBridges = ThermalBridges()
    inner_walls_m2_m2: float = quantity(
        0.0, "Inner walls", "m²/m²", ge=0, le=10, usual=(0, 1.5), help="Walls that stand within zones, of the partition's layers, per floor area",
        source="none unless given",
    )  # fmt: skip
    rules: Annotated[tuple[AssignRule, ...], Field(max_length=200), Part("cladding", word="Rule")] = ()
    overrides: Annotated[tuple[FaceOverride, ...], Part("openings", "form", word="Face")] = ()

    @property
    def reflectances(self) -> dict[Literal["ceiling", "wall", "floor"], float]:
        """Of inner surfaces whose construction says nothing."""
        return {"ceiling": self.ceiling_reflectance, "wall": self.wall_reflectance, "floor": self.floor_reflectance}

    def reflected(self, construction: Construction) -> tuple[float, float | None]:
        """Return what a construction reflects of light: inside, and beyond where it stands between zones, else None."""
        usual = self.reflectances
        inside = usual[REFLECTS.get(construction.element, "wall")]
        beyond = {"partition": usual["wall"], "intermediate_floor": usual["floor"]}.get(construction.element)
        own = construction.light_reflectance, construction.light_reflectance_beyond
        return inside if own[0] is None else own[0], beyond if own[1] is None else own[1]


REFLECTS: dict[str, Literal["ceiling", "wall", "floor"]] = {
    "roof": "ceiling", "intermediate_floor": "ceiling", "ground_floor": "floor", "exposed_floor": "floor",
}  # fmt: skip
"""As what elements that are no walls are seen from inside."""


class ZoneUse(Described):
    """What one zone, or all zones whose id matches a pattern, do differently."""

    id: Id
    zone: Annotated[str, Field(min_length=1, max_length=200)] = text(..., "Zone", help="Zone id; * stands for anything")
    profile: str | None = choice(None, "Use profile")
    conditioned: bool | None = choice(None, "Conditioned")
    air_changes: float | None = quantity(
        None, "Fixed air changes", "1/h", ge=0, le=200, help="Of outdoor air, instead of infiltration and ventilation"
    )
    air_schedule: Schedule | None = choice(None, "Factor on fixed air changes by the hour")
    gains_w: float | None = quantity(None, "Fixed gains", "W", digits=0, ge=0, le=1e6, help="Instead of people, light and equipment")
    gains_radiant_share: float = quantity(0.5, "Radiant share of gains", ge=0, le=1)
    gains_schedule: Schedule | None = choice(None, "Factor on fixed gains by the hour")
    heating_c: Schedule | None = choice(None, "Heating setpoint by the hour")
    cooling_c: Schedule | None = choice(None, "Cooling setpoint by the hour")
    heating_most_w_m2: float | None = quantity(None, "Heating output at most", "W/m²", digits=0, ge=0, le=5000, usual=(10, 150))
    cooling_most_w_m2: float | None = quantity(None, "Cooling output at most", "W/m²", digits=0, ge=0, le=5000, usual=(10, 200))
    openable_share: float | None = quantity(
        None, "Openable share", ge=0, le=1, usual=(0, 0.6), help="As the scheme unless given", share=True
    )
    two_sided: bool | None = choice(None, "Openings on two sides")
    lights: Annotated[ControlKind | None, LIGHTS] = choice(None, "Lights follow daylight", help="As the scheme unless given")
    enough_lx: Annotated[float | None, LIGHTS] = quantity(
        None, "Enough daylight", "lx", digits=0, gt=0, le=5000, usual=(200, 750), help="As the scheme unless given"
    )


class Airing(Described):
    """Fresh air through windows that people or motors open."""

    openable_share: float = quantity(
        0.0,
        "Openable share",
        ge=0,
        le=1,
        usual=(0, 0.6),
        lever=True,
        help="Free opening per window area",
        source="closed unless given",
        share=True,
    )
    opens_above_c: float = quantity(24.0, "Open above", "°C", digits=1, ge=10, le=40, usual=(21, 27), lever=True)
    hours: Literal["occupied", "always"] = choice("occupied", "Open while", help="occupied: only while someone is there")
    night_purge: bool = choice(False, "Night purge", lever=True, help="Open at night in the warm season as well, to cool the mass down")
    night_down_to_c: float = quantity(19.0, "Purge down to", "°C", digits=1, ge=10, le=30, usual=(17, 22))
    two_sided: bool = choice(False, "Openings on two sides", help="Wind blows through; else each room is open to one side")
    beside_cooling: bool = choice(
        False, "Open beside cooling", help="Mixed mode: windows may stand open while it is cooled; else they are shut first"
    )


class Lights(LightFigures):
    """How lights of the whole scheme follow daylight."""

    kind: Literal["none", "dimmed", "switched", "stepped", "profile"] = choice(
        "none", "Lights follow daylight", lever=True,
        help="Switched off, in steps, or dimmed, by the sensors of their zone; or as each zone's use profile says",
    )  # fmt: skip
    floors: bool = choice(
        False,
        "Judge daylight on floors",
        lever=True,
        help="How much of the floor has enough daylight, and for how long it is useful: figures of the year and of studies",
    )
    bright_lx: float = quantity(
        300.0,
        "Floors are bright from",
        "lx",
        digits=0,
        gt=0,
        le=5000,
        usual=(100, 500),
        help="In half of the occupied hours",
        source="the idea of EN 17037 (unverified)",
    )


class LightSensor(Proposed):
    """A light sensor that someone placed; a zone with one has none of those that are proposed otherwise."""

    id: Id
    zone: Annotated[str, Field(min_length=1, max_length=200)] = text(..., "Zone", help="Zone id")
    x: float = quantity(..., "x", "m", ge=-1e5, le=1e5)
    y: float = quantity(..., "y", "m", ge=-1e5, le=1e5)
    height_m: float = quantity(0.8, "Above the floor", "m", ge=0, le=200, usual=(0.7, 3.0), source=f"{OWN}: the working plane")
    looks: Literal["up", "down"] = choice("up", "Looks", help="Up from a working plane, or down from the ceiling")
    share: float | None = quantity(
        None, "Rules", ge=0, le=1, share=True, help="Of the zone's lights; what others leave, in equal parts, unless given"
    )


class Use(Described):
    """Who is inside and what they need; single values here stand before those of the profile."""

    profile: str = choice("library", "Use profile", source=DESIGN, lever=True)
    heating_c: float | None = quantity(
        None, "Heating setpoint", "°C", digits=1, ge=-20, le=40, usual=(16, 23), lever=True, help="As the profile unless given"
    )
    cooling_c: float | None = quantity(
        None, "Cooling setpoint", "°C", digits=1, ge=0, le=60, usual=(23, 28), lever=True, help="As the profile unless given"
    )
    lighting_w_m2: float | None = quantity(
        None, "Lighting power", "W/m²", digits=1, ge=0, le=100, usual=(2, 20), lever=True, help="As the profile unless given"
    )
    equipment_w_m2: float | None = quantity(
        None, "Equipment power", "W/m²", digits=1, ge=0, le=500, usual=(1, 30), lever=True, help="As the profile unless given"
    )
    infiltration_ach: float = quantity(
        0.15, "Infiltration", "1/h", ge=0, le=50, usual=(0.02, 1.0), source=f"{OWN} for a tight new building", lever=True
    )
    permeability_m3_hm2: float | None = quantity(
        None, "Air permeability at 50 Pa", "m³/h·m²", digits=1, ge=0, le=200, usual=(0.5, 10), lever=True,
        help="Where given, infiltration follows wind and temperature through it, instead of the air changes",
    )  # fmt: skip
    airing: Airing = Airing()
    lights: Annotated[Lights, Part("lights", casts=False)] = Lights()
    sensors: Annotated[tuple[LightSensor, ...], Field(max_length=2000), Part("daylight", word="Sensor")] = ()
    control: Literal["air", "operative"] = choice("air", "Setpoints hold for", help="Air, or air and surfaces in equal parts")
    humidity_least_pct: float | None = quantity(
        None, "Humidity at least", "%", digits=0, ge=0, le=90, usual=(25, 45), help="Humidified where given; while anyone is there"
    )
    humidity_most_pct: float | None = quantity(
        None, "Humidity at most", "%", digits=0, ge=10, le=99, usual=(50, 70), help="Dried where given; while anyone is there"
    )
    zones: Annotated[tuple[ZoneUse, ...], Part(word="Zone")] = ()

    @property
    def idle(self) -> frozenset[str]:
        """Fields below that have no say as it stands: figures of lights that nothing in the scheme follows."""
        silent = self.lights.idle_with({self.lights.kind, *(zone.lights or "none" for zone in self.zones)})
        return frozenset(f"lights/{name}" for name in (silent if self.lights.floors else silent | {"bright_lx"}))


class Method(Described):
    """How it is computed."""

    films: Literal["hourly", "standard"] = choice("hourly", "Outside films", help="Hourly by wind and sky, or the standard's fixed ones")
    run_in_days: int = quantity(20, "Run-in", "d", digits=0, ge=1, le=365)


class MergedZone(Described):
    """Zones that share their air: the walls and slabs between them are open."""

    id: Id
    name: str = text("", "Name", max_length=120)
    zones: Annotated[tuple[str, ...], Field(min_length=2, max_length=2000)]


class AirPath(Described):
    """Air that two zones exchange: a stated flow each way, or through an opening that stands open."""

    id: Id
    zone_a: str = text(..., "From zone")
    zone_b: str = text(..., "To zone")
    flow_m3_h: float = quantity(0.0, "Flow each way", "m³/h", digits=0, ge=0, le=1e6, usual=(0, 2000))
    opening_m2: float = quantity(0.0, "Open area", "m²", ge=0, le=1000, usual=(0, 10), help="A door or gap that stands open")
    height_m: float = quantity(2.1, "Height of the opening", "m", gt=0, le=100, usual=(0.5, 4))


class Spot(Described):
    """A place in the drawing."""

    x: float = quantity(..., "x", "m", ge=-5000, le=5000)
    y: float = quantity(..., "y", "m", ge=-5000, le=5000)


class Aims(Described):
    """What the form is measured against while it is drawn; no result depends on it."""

    gross_floor_m2: float | None = quantity(None, "Gross floor aimed at", "m²", digits=0, gt=0, le=1e7)
    footprint_m2: float | None = quantity(None, "Footprint aimed at", "m²", digits=0, gt=0, le=1e7)


class ImportedFrom(Described):
    """The file that a scheme's shape was read from."""

    file: str = text(..., "File", max_length=300)
    format: str = text("", "Format", max_length=40)
    digest: str = text("", "Digest", max_length=80)
    reference_plane: str = text("", "Areas lie on", max_length=200)


DaylightMeasure = Literal["factor", "autonomy", "useful", "beyond", "mean", "hour"]
"""What is told of light on a floor: daylight factor, shares of the occupied hours with enough and with useful light, hours beyond, mean, one hour."""


class SunPicture(Described):
    """A picture of the sun on faces that is kept: which faces, which hours, what of them, and its scale. It is worked out anew each time."""

    id: Id
    name: str = text(..., "Picture", max_length=120)
    kinds: Annotated[tuple[Literal["wall", "roof", "floor"], ...], Field(min_length=1)] = ("wall", "roof")
    orientations: tuple[Orientation, ...] = ()
    measure: Literal["sum", "mean", "strongest", "direct_hours"] = choice("sum", "What is shown")
    first_day: int = quantity(0, "First day", digits=0, ge=0, le=364, help="0 is 1 January")
    last_day: int = quantity(364, "Last day", digits=0, ge=0, le=364, help="Before the first one: past New Year")
    first_hour: int = quantity(0, "First hour", digits=0, ge=0, le=23)
    last_hour: int = quantity(23, "Last hour", digits=0, ge=0, le=23)
    spacing_m: float = quantity(1.0, "Grid", "m", ge=0.1, le=20)
    low: float | None = quantity(None, "Scale from", help="In SI; follows the faces unless given")
    high: float | None = quantity(None, "Scale to", help="In SI; follows the faces unless given")


class LightPicture(Described):
    """A picture of daylight on floors that is kept: which storeys, what of their light, and how fine. It is worked out anew each time."""

    id: Id
    name: str = text(..., "Picture", max_length=120)
    levels: Annotated[tuple[float, ...], Field(max_length=200)] = ()
    measure: DaylightMeasure = choice("autonomy", "What is shown")
    target_lx: float = quantity(300.0, "Enough is", "lx", digits=0, gt=0, le=20000, usual=(100, 750))
    hour: int = quantity(4140, "Hour of the year", digits=0, ge=0, le=8759, help="Where one hour is shown; 0 is midnight of 1 January")
    spacing_m: float = quantity(0.5, "Points apart", "m", ge=0.1, le=10)


class Scheme(Proposed):
    """One design proposition."""

    format: Literal["eurythm.scheme"] = "eurythm.scheme"
    version: Literal[1] = 1
    id: Id
    name: str = text(..., "Scheme", max_length=120)
    turn_deg: Annotated[float, Part("form", "turn")] = quantity(
        0.0, "Scheme turned", "°", digits=1, ge=-360, le=360, lever=True, help="Clockwise, about the middle of its footprint"
    )
    turned_about: Annotated[Spot | None, Part("form", "turn")] = choice(
        None, "Turned about", help="Kept where the form is drawn while it is turned; the middle else"
    )
    volumes: Annotated[tuple[Volume, ...], Field(max_length=200), SHAPE] = ()
    zones: Annotated[tuple[GivenZone, ...], Field(max_length=2000), SHAPE] = ()
    left_out: Annotated[tuple[LeftOut, ...], Field(max_length=2000), SHAPE] = ()
    contact_gap_m: Annotated[float, SHAPE] = quantity(
        0.0, "Contact bridges gaps up to", "m", ge=0, le=3, usual=(0, 0.6), source="rooms touch unless given",
        help="Rooms that stand apart by a wall or slab no thicker than this are neighbours",
    )  # fmt: skip
    shades: Annotated[tuple[GivenShade, ...], Field(max_length=5000), SHAPE] = ()
    merged: Annotated[tuple[MergedZone, ...], Field(max_length=200), Part("form", "form", "use", word="Merged")] = ()
    air_paths: Annotated[tuple[AirPath, ...], Field(max_length=500), Part("balance", "form", "use", word="Air path")] = ()
    underlays: Annotated[tuple[Underlay, ...], Field(max_length=100)] = ()
    sun_pictures: Annotated[tuple[SunPicture, ...], Field(max_length=100), Part(stage="skin")] = ()
    light_pictures: Annotated[tuple[LightPicture, ...], Field(max_length=100), Part(stage="use")] = ()
    imported_from: Annotated[ImportedFrom | None, Part("nothing", "form")] = choice(None, "Imported from")
    aims: Aims = Aims()
    skin: Annotated[Skin, FABRIC] = Skin()
    use: Annotated[Use, Part("use", "use", "use")] = Use()
    plant: Annotated[Plant, Part("plant", "plant", "plant")] = Plant()
    method: Annotated[Method, Part("balance", "method", "plant")] = Method()
