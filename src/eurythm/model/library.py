"""Library: materials in constructions, glazings and use profiles of a project."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from eurythm.model.field import OWN, Described, Proposed, choice, notes, quantity, text
from eurythm.model.ids import Id
from eurythm.model.part import Part
from eurythm.model.schedule import Schedule

Element = Literal["wall", "party_wall", "basement_wall", "roof", "ground_floor", "exposed_floor", "partition", "intermediate_floor"]
Family = Literal[
    "insulation", "masonry", "concrete", "timber", "board", "plaster", "stone", "metal", "glass", "membrane", "ground", "other"
]  # fmt: skip


class Material(Described):
    """What layers are made of; a layer copies its values, so that a construction stands by itself."""

    id: Id
    name: str = text(..., "Material")
    family: Family = choice("other", "Family")
    conductivity: float = quantity(..., "Conductivity", "W/mK", digits=3, gt=0.001, le=500, usual=(0.018, 3.5))
    density: float = quantity(..., "Density", "kg/m³", digits=0, ge=0, le=25000, usual=(10, 2800))
    specific_heat: float = quantity(
        1000.0, "Specific heat", "J/kgK", digits=0, gt=50, le=10000, usual=(400, 2200), source="ISO 10456, common value (unverified)"
    )
    vapour_resistance: float | None = quantity(
        None, "Vapour resistance factor", digits=0, ge=1, le=1e7, usual=(1, 200000), help="Times that of still air; unknown unless given"
    )
    carbon_kg_kg: float | None = quantity(
        None,
        "Embodied carbon",
        "kg/kg",
        digits=2,
        ge=-5,
        le=50,
        usual=(0.02, 12),
        help="CO2 equivalent of its making; unknown unless given",
    )
    source: str = text("", "Source")


class Inlay(Described):
    """What interrupts a layer at even distances: studs, rafters, battens."""

    name: str = text("", "Material")
    share: float = quantity(..., "Share of the area", digits=3, gt=0, lt=1, usual=(0.03, 0.25), help="Width of a stud over its spacing")
    conductivity: float = quantity(..., "Conductivity", "W/mK", digits=3, gt=0.001, le=500, usual=(0.1, 60))
    density: float = quantity(0.0, "Density", "kg/m³", digits=0, ge=0, le=25000, usual=(10, 8000), source="no mass unless given")
    specific_heat: float = quantity(1600.0, "Specific heat", "J/kgK", digits=0, gt=50, le=10000, usual=(400, 2200), source="as timber")
    carbon_kg_kg: float | None = quantity(None, "Embodied carbon", "kg/kg", digits=2, ge=-5, le=50, usual=(0.02, 12))


class Layer(Described):
    """One layer, as in ISO 6946: of one material, interrupted by a second one, or of air. Without density it has no mass."""

    name: str = text("", "Material")
    thickness_m: float = quantity(..., "Thickness", "m", digits=3, gt=0, le=5, usual=(0.002, 0.6))
    conductivity: float | None = quantity(
        None, "Conductivity", "W/mK", digits=3, gt=0.001, le=500, usual=(0.018, 3.5), help="Of all but air"
    )
    density: float = quantity(0.0, "Density", "kg/m³", digits=0, ge=0, le=25000, usual=(10, 2800), source="no mass unless given")
    specific_heat: float = quantity(
        1000.0, "Specific heat", "J/kgK", digits=0, gt=50, le=10000, usual=(400, 2200), source="ISO 10456, common value (unverified)"
    )
    insulation: bool = choice(False, "Insulation", help="The layer whose thickness a study varies")
    air: Literal["none", "still", "ventilated"] = choice(
        "none", "Air layer", help="ventilated: open to the outside, layers beyond it do not count"
    )
    inlay: Inlay | None = choice(None, "Interrupted by", help="Studs or rafters within the layer")
    vapour_resistance: float | None = quantity(
        None, "Vapour resistance factor", digits=0, ge=1, le=1e7, usual=(1, 200000), help="Times that of still air; unknown unless given"
    )
    carbon_kg_kg: float | None = quantity(None, "Embodied carbon", "kg/kg", digits=2, ge=-5, le=50, usual=(0.02, 12))

    @model_validator(mode="after")
    def _solid_or_air(self) -> Layer:
        if self.air == "none" and self.conductivity is None:
            raise ValueError("a layer needs a conductivity unless it is of air")
        if self.air != "none" and self.inlay is not None:
            raise ValueError("an air layer is not interrupted; give the studs to the layer beside it")
        return self


class Construction(Described):
    """A build-up from outside to inside, by layers or simply by its U-value."""

    id: Id
    name: str = text(..., "Construction")
    element: Element = choice("wall", "Element")
    layers: Annotated[tuple[Layer, ...], Field(max_length=40)] = ()
    u_value: float | None = quantity(
        None, "U-value", "W/m²K", gt=0, le=20, usual=(0.08, 3.5), help="Instead of layers; with standard films"
    )
    thickness_m: float = quantity(
        0.0,
        "Thickness",
        "m",
        digits=3,
        ge=0,
        le=5,
        usual=(0.1, 0.6),
        help="Of a construction given by its U-value",
        source="none unless given",
    )
    mass: Literal["none", "inside", "outside", "divided", "distributed"] = choice(
        "none", "Mass lies", help="Where the mass of a construction given by its U-value lies, as in the classes of ISO 52016-1",
        source="no mass unless given",
    )  # fmt: skip
    capacity_kj_m2k: float = quantity(
        110.0, "Areal heat capacity", "kJ/m²K", digits=0, ge=0, le=2000, usual=(50, 250), help="Of a construction given by its U-value and its mass",
        source="ISO 52016-1, a middling construction (unverified)",
    )  # fmt: skip
    solar_absorptance: float = quantity(0.6, "Solar absorptance", ge=0, le=1, usual=(0.2, 0.9), help="Both sides")
    emissivity: float = quantity(0.9, "Emissivity", ge=0, le=1, usual=(0.8, 0.95), source="ISO 6946, common building materials")
    light_reflectance: float | None = quantity(
        None,
        "Light reflected inside",
        ge=0,
        le=1,
        usual=(0.1, 0.9),
        share=True,
        help="As the scheme's walls, ceilings or floors unless given",
    )
    light_reflectance_beyond: float | None = quantity(
        None, "Light reflected beyond", ge=0, le=1, usual=(0.1, 0.9), share=True,
        help="Of inner walls and floors in the zone on the other side, which for an inner floor is the one above",
    )  # fmt: skip
    set_name: str = text("", "Set", help="Constructions of one standard of building, such as its year")
    source: str = text("", "Source")

    @model_validator(mode="after")
    def _one_way(self) -> Construction:
        if bool(self.layers) == (self.u_value is not None):
            raise ValueError("a construction is given either by layers or by its U-value")
        if self.layers and all(layer.air == "ventilated" for layer in self.layers):
            raise ValueError("a construction needs a layer that is not open to the outside")
        return self


Gas = Literal["air", "argon", "krypton"]
PART: dict[str, Any] = {"ge": 0, "le": 1}


class Pane(Described):
    """A pane, seen from outside and from inside; transmittance, and reflectance and emissivity of either side."""

    name: str = text("", "Pane")
    thickness_m: float = quantity(0.004, "Thickness", "m", digits=3, gt=0, le=0.1, usual=(0.003, 0.012))
    solar_through: float = quantity(..., "Solar transmittance", usual=(0.2, 0.92), **PART)
    solar_out: float = quantity(..., "Solar reflectance outside", usual=(0.05, 0.5), **PART)
    solar_in: float = quantity(..., "Solar reflectance inside", usual=(0.05, 0.5), **PART)
    visible_through: float = quantity(..., "Visible transmittance", usual=(0.3, 0.92), **PART)
    visible_out: float = quantity(..., "Visible reflectance outside", usual=(0.04, 0.4), **PART)
    visible_in: float = quantity(..., "Visible reflectance inside", usual=(0.04, 0.4), **PART)
    emissivity_out: float = quantity(
        0.837, "Emissivity outside", digits=3, gt=0, le=1, usual=(0.01, 0.84), source="uncoated glass, EN 673 (unverified)"
    )
    emissivity_in: float = quantity(
        0.837, "Emissivity inside", digits=3, gt=0, le=1, usual=(0.01, 0.84), source="uncoated glass, EN 673 (unverified)"
    )

    @model_validator(mode="after")
    def _no_more_than_all(self) -> Pane:
        for of in ("solar", "visible"):
            through = getattr(self, f"{of}_through")
            if through + max(getattr(self, f"{of}_out"), getattr(self, f"{of}_in")) > 1 + 1e-9:
                raise ValueError(f"{of} transmittance and reflectance of a pane come to more than 1")
        return self


class Gap(Described):
    """A gap between two panes."""

    thickness_m: float = quantity(0.016, "Gap", "m", digits=3, gt=0, le=0.2, usual=(0.006, 0.02))
    gas: Gas = choice("air", "Gas")


class GlazingBuild(Described):
    """A window by its panes, gaps and frame."""

    panes: Annotated[tuple[Pane, ...], Field(min_length=1, max_length=4)]
    gaps: Annotated[tuple[Gap, ...], Field(max_length=3)] = ()
    frame_share: float = quantity(0.25, "Frame share", ge=0, le=0.9, usual=(0.05, 0.35))
    frame_u: float = quantity(1.3, "U of the frame", "W/m²K", gt=0, le=12, usual=(0.7, 6))
    edge_w_mk: float = quantity(
        0.05, "Edge of the glass", "W/m·K", digits=3, ge=0, le=0.3, usual=(0.02, 0.11), source="spacer, ISO 10077-1 annex (unverified)"
    )
    edge_m_m2: float = quantity(
        2.5, "Edge per window area", "m/m²", digits=1, ge=0, le=20, usual=(1, 6), source="a window of 1.23 by 1.48 m, by hand"
    )

    @model_validator(mode="after")
    def _between(self) -> GlazingBuild:
        if len(self.gaps) != len(self.panes) - 1:
            raise ValueError("there is one gap between each two panes")
        return self


class Glazing(Described):
    """A window's glass and frame as one: U, g and visible transmittance hold for the whole window."""

    id: Annotated[Id, Part("daylight")]
    name: str = text(..., "Glazing")
    u_value: float = quantity(..., "U-value", "W/m²K", gt=0, lt=5.88, usual=(0.5, 5.8), help="Window with frame, standard films")
    g_value: float = quantity(..., "g-value", ge=0, le=1, usual=(0.2, 0.85), help="Solar factor of the glass at normal incidence")
    visible: Annotated[float, Part("daylight")] = quantity(0.7, "Visible transmittance", ge=0, le=1, usual=(0.2, 0.9))
    panes: Annotated[int, Part("daylight")] = quantity(2, "Panes", digits=0, ge=1, le=4)
    frame_share: float = quantity(0.2, "Frame share", ge=0, le=0.9, usual=(0.05, 0.35), help="Frame per window area")
    build: GlazingBuild | None = choice(None, "Built up of", help="What U, g and light were worked out from; they count as they stand here")
    source: str = text("", "Source")


ControlKind = Literal["none", "dimmed", "switched", "stepped"]


class LightFigures(Described):
    """The figures by which lights follow daylight."""

    @classmethod
    def idle_with(cls, kinds: Iterable[str]) -> frozenset[str]:
        """Figures that have no say where lights are controlled in these ways only."""
        says = {"dimmed": {"enough_lx", "full_lx", "least_share"}, "switched": {"enough_lx"}, "stepped": {"enough_lx", "steps"}}
        return frozenset(LightFigures.model_fields).difference(*(says.get(kind, set()) for kind in kinds))

    enough_lx: float = quantity(
        500.0, "Enough daylight", "lx", digits=0, gt=0, le=5000, usual=(200, 750), lever=True,
        help="Light at the sensor from which lights are as low as they go", source="EN 12464-1, reading and writing (unverified)",
    )  # fmt: skip
    full_lx: float = quantity(0.0, "Full lighting up to", "lx", digits=0, ge=0, le=4000, usual=(0, 300), help="Where lights are dimmed")
    least_share: float = quantity(
        0.1, "Lighting at the least", ge=0, le=1, usual=(0, 0.3), share=True, help="Where lights are dimmed, share of their full power"
    )
    steps: int = quantity(3, "Steps of lighting", digits=0, ge=2, le=6, help="Parts of the lights that are switched off one after another")


class LightControl(LightFigures):
    """How lights follow daylight at the sensors of their zone; it only lowers what the hours of use switch on."""

    kind: ControlKind = choice("none", "Lights follow daylight", help="Switched off, in steps, or dimmed, by the sensors of their zone")

    @property
    def idle(self) -> frozenset[str]:
        """Fields that have no say as it stands."""
        return self.idle_with({self.kind})


SHARES = ("occupancy", "lighting", "equipment", "fresh_air", "hot_water", "airing")
"""Schedules of a profile that tell shares of the most; the others tell temperatures."""


class Profile(Proposed):
    """A use profile: who is inside, when, with what light, equipment, fresh air and temperatures.

    Schedules of people, lighting and equipment are shares of their densities. What has no schedule of its own follows the people.
    """

    id: Id
    name: str = text(..., "Use profile")
    conditioned: bool = choice(True, "Conditioned", help="Held at temperatures by the plant; a car park or a loft is not")
    occupancy: Schedule = choice(..., "People")
    person_area: float = quantity(..., "Floor area per person", "m²/person", digits=1, gt=0, le=10000, usual=(2, 50))
    person_w: float = quantity(
        75.0,
        "Sensible heat per person",
        "W/person",
        digits=0,
        ge=0,
        le=500,
        usual=(60, 150),
        source="ISO 7730 at 1.2 met, sensible part (unverified)",
    )
    person_moisture_g_h: float = quantity(
        50.0,
        "Moisture per person",
        "g/h",
        digits=0,
        ge=0,
        le=1000,
        usual=(30, 200),
        source="seated, order of size of common use (unverified)",
    )
    lighting: Schedule = choice(..., "Lighting")
    lighting_w_m2: float = quantity(8.0, "Lighting power", "W/m²", digits=1, ge=0, le=100, usual=(2, 20))
    lights: Annotated[LightControl, Part("lights", casts=False)] = LightControl()
    equipment: Schedule = choice(..., "Equipment")
    equipment_w_m2: float = quantity(5.0, "Equipment power", "W/m²", digits=1, ge=0, le=500, usual=(1, 30))
    heating_c: float = quantity(20.0, "Heating setpoint", "°C", digits=1, ge=-20, le=40, usual=(16, 23))
    heating_setback_c: float = quantity(16.0, "Heating set back to", "°C", digits=1, ge=-50, le=40, usual=(5, 20))
    cooling_c: float = quantity(26.0, "Cooling setpoint", "°C", digits=1, ge=0, le=60, usual=(23, 28))
    cooling_setback_c: float = quantity(32.0, "Cooling set back to", "°C", digits=1, ge=0, le=100, usual=(26, 40))
    starts_before_h: int = quantity(2, "Setpoints hold before people come", "h", digits=0, ge=0, le=23, usual=(0, 4))
    heating: Schedule | None = choice(
        None, "Heating setpoint by the hour", help="Instead of the setpoint while people are there and the setback else"
    )
    cooling: Schedule | None = choice(
        None, "Cooling setpoint by the hour", help="Instead of the setpoint while people are there and the setback else"
    )
    comfort_low_c: float | None = quantity(
        None,
        "Too cold below",
        "°C",
        digits=1,
        ge=-20,
        le=40,
        usual=(14, 21),
        help="As the project's unless given; by operative temperature",
    )
    comfort_high_c: float | None = quantity(
        None, "Too warm above", "°C", digits=1, ge=0, le=60, usual=(24, 30), help="As the project's unless given; adaptive where not cooled"
    )
    fresh_air_ls_person: float = quantity(
        8.0,
        "Fresh air per person",
        "l/s",
        digits=1,
        ge=0,
        le=200,
        usual=(4, 15),
        source="EN 16798-1 category II, order of size (unverified)",
    )
    fresh_air_ls_m2: float = quantity(
        0.35,
        "Fresh air per floor area",
        "l/s·m²",
        ge=0,
        le=50,
        usual=(0.1, 1.5),
        source="EN 16798-1 low-polluting building, order of size (unverified)",
    )
    fresh_air: Schedule | None = choice(
        None,
        "Outdoor air",
        help="Share of the outdoor air for people and floor that is supplied; all of it while people are there unless given",
    )
    hot_water: Schedule | None = choice(
        None, "Hot water", help="How a day's hot water is spread over its hours; as people are there unless given"
    )
    airing: Schedule | None = choice(None, "Windows may be open", help="Where it is above 0; while people are there unless given")
    hot_water_l_person_day: float = quantity(4.0, "Hot water per person", "l/day", digits=1, ge=0, le=500, usual=(1, 60))
    source: str = text(OWN, "Source")

    @model_validator(mode="after")
    def _shares(self) -> Profile:
        for name in SHARES:
            schedule: Schedule | None = getattr(self, name)
            if schedule is not None and min(schedule.values) < 0:
                raise ValueError(f"“{notes(Profile, name)['title']}” has a share below 0, {min(schedule.values):g}")
        return self


class Library(Described):
    """What the project's schemes are made of, beside the shipped entries."""

    PART: ClassVar[Part] = Part("balance", "fabric", "skin")

    format: Annotated[Literal["eurythm.library"], Part("nothing")] = "eurythm.library"
    version: Annotated[Literal[1], Part("nothing")] = 1
    materials: Annotated[tuple[Material, ...], Part("nothing")] = ()
    constructions: Annotated[tuple[Construction, ...], Part(word="Construction")] = ()
    glazings: Annotated[tuple[Glazing, ...], Part(group="glass", word="Glazing")] = ()
    profiles: Annotated[tuple[Profile, ...], Part("use", "use", "use", word="Profile")] = ()
