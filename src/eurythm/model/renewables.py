"""What takes in sun and keeps it: panels, arrays with their inverters, a battery, collectors and their tank."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from eurythm.model.field import OWN, Described, Proposed, choice, quantity, text
from eurythm.model.ids import Id
from eurythm.model.part import Part

LAID = Part("panels")
"""What says where panels lie; what they make of the light is said by the step after it."""
PLACE = Part(assumed=False)
"""Of them, what is where someone put it."""
MAKES = Part("generation")
NONE_GIVEN = "none unless given"
Module = Literal["mono", "mono_high", "poly", "thin_film"]
Holder = Literal["roof", "wall", "shade", "free"]


class Photovoltaics(Described):
    """Panels on a share of all roofs, the simplest array. Tilt and azimuth are true; azimuth clockwise from north."""

    roof_share: float = quantity(
        0.0,
        "Share of roof",
        ge=0,
        le=1,
        usual=(0, 0.7),
        source=NONE_GIVEN,
        lever=True,
        help="Module area per roof area",
        share=True,
    )
    tilt_deg: Annotated[float, LAID] = quantity(10.0, "Tilt", "°", digits=0, ge=0, le=90, usual=(0, 45), lever=True)
    azimuth_deg: Annotated[float, LAID] = quantity(180.0, "Azimuth", "°", digits=0, ge=0, le=360, lever=True)
    module_efficiency: float = quantity(
        0.21, "Module efficiency", ge=0, le=0.5, usual=(0.15, 0.24), source="common crystalline modules", share=True
    )
    losses: float = quantity(
        0.10, "Losses", ge=0, le=0.9, usual=(0.05, 0.2), help="Soiling, wiring, mismatch", source="order of size of common use", share=True
    )
    inverter_efficiency: float = quantity(
        0.96, "Inverter efficiency", gt=0.3, le=1, usual=(0.93, 0.985), source="order of size of common use", share=True
    )


class Laid(Proposed):
    """Where something that takes in sun lies. What lies in a wall, on a shade or in a slope looks as that does."""

    id: Id
    name: str = text("", "Name", max_length=120)
    on: Annotated[Holder, PLACE] = choice(
        "roof", "Lies on", help="roof: set up on flat roofs, in the slope of pitched ones; free: stands by itself and shades"
    )
    target: str = text(
        "*", "Which of them", max_length=200,
        help="Roofs by volume or zone, walls as volume/storey/edge, shades by their wall or their id; * stands for anything",
    )  # fmt: skip
    x: Annotated[float, PLACE] = quantity(
        0.0, "x", "m", ge=-1e5, le=1e5,
        help="Of the lower left corner: in the plan on roofs, along a wall from its left; of the middle where it stands free",
    )  # fmt: skip
    y: Annotated[float, PLACE] = quantity(0.0, "y", "m", ge=-1e5, le=1e5, help="In the plan on roofs, above the foot of a wall")
    level_m: Annotated[float, PLACE] = quantity(3.0, "Level of its middle", "m", ge=-500, le=9000, help="Where it stands free")
    width_m: float | None = quantity(None, "Width", "m", gt=0, le=2000, usual=(2, 60), help="As far as there is room unless given")
    depth_m: float | None = quantity(None, "Depth", "m", gt=0, le=2000, usual=(1, 40), help="As far as there is room unless given")
    tilt_deg: float = quantity(
        10.0, "Tilt", "°", digits=0, ge=0, le=90, usual=(0, 45), lever=True, help="On flat roofs and where it stands free"
    )
    azimuth_deg: float = quantity(180.0, "Azimuth", "°", digits=0, ge=0, le=360, lever=True, help="True, clockwise from north")
    pitch_m: float | None = quantity(
        None, "Rows apart", "m", gt=0.1, le=50, usual=(1.2, 5), lever=True, source=f"{OWN}: free of shade at noon in midwinter",
        help="From row to row on flat roofs; as far as the noon sun of midwinter asks unless given",
    )  # fmt: skip
    clear_m: float | None = quantity(
        None, "Kept clear of edges", "m", ge=0, le=10, usual=(0.2, 1.5), source=f"{OWN}: 0.5 on roofs, 0.1 on walls",
        help="And of rooflights, windows and higher volumes",
    )  # fmt: skip
    share: float | None = quantity(
        None, "Share at most", gt=0, le=1, usual=(0.1, 0.8), lever=True, share=True, help="Of what it lies on; all that fits unless given"
    )

    @property
    def idle(self) -> frozenset[str]:
        """Fields that have no say where it lies."""
        silent = {
            "roof": {"level_m"},
            "wall": {"level_m", "tilt_deg", "azimuth_deg", "pitch_m"},
            "shade": {"x", "y", "width_m", "depth_m", "level_m", "tilt_deg", "azimuth_deg", "pitch_m"},
            "free": {"target", "pitch_m", "clear_m", "share"},
        }
        return frozenset(silent[self.on])


class Array(Laid):
    """Photovoltaic modules that lie together."""

    inverter: Annotated[str | None, MAKES] = choice(None, "Inverter", help="One of its own, of ten elevenths of its peak, unless given")
    module: Annotated[Module, MAKES] = choice("mono", "Modules", lever=True, help="Their efficiency and what heat takes of it")
    efficiency: Annotated[float | None, MAKES] = quantity(
        None, "Module efficiency", gt=0, le=0.5, usual=(0.1, 0.24), lever=True, share=True, help="As the kind of modules unless given"
    )
    loss_per_k: Annotated[float | None, MAKES] = quantity(
        None, "Loss per kelvin", "1/K", digits=4, ge=0, le=0.01, usual=(0.002, 0.0045), help="As the kind of modules unless given"
    )
    soiling: Annotated[float, MAKES] = quantity(0.03, "Soiling", ge=0, le=0.9, usual=(0.01, 0.08), share=True)
    wiring: Annotated[float, MAKES] = quantity(0.02, "Wiring", ge=0, le=0.5, usual=(0.005, 0.03), share=True)
    mismatch: Annotated[float, MAKES] = quantity(0.02, "Mismatch", ge=0, le=0.5, usual=(0.005, 0.03), share=True)
    ageing: Annotated[float, Part("assessment")] = quantity(
        0.005,
        "Ageing a year",
        digits=3,
        ge=0,
        le=0.1,
        usual=(0.002, 0.01),
        share=True,
        help="What later years give less; counts in money and carbon",
    )


class Inverter(Proposed):
    """An inverter of one array or several."""

    id: Id
    name: str = text("", "Name", max_length=120)
    rated_kw: float = quantity(
        ..., "Rated power", "kW(e)", digits=1, gt=0, le=1e5, usual=(2, 200), lever=True, help="What it gives at most"
    )
    efficiency: float = quantity(0.965, "Efficiency", digits=3, gt=0.3, le=1, usual=(0.94, 0.985), share=True, help="At its rated power")


class Battery(Described):
    """A battery of the building: charged by what is left over, discharged to the load."""

    usable_kwh: Annotated[float, Part(assumed=False)] = quantity(
        0.0, "Usable", "kWh(e)", digits=1, ge=0, le=1e6, usual=(0, 200), source=NONE_GIVEN, lever=True
    )
    power_kw: float | None = quantity(
        None, "Power", "kW(e)", digits=1, gt=0, le=1e6, usual=(2, 100), lever=True, source=f"{OWN}: half of what it holds in an hour",
        help="Charging and discharging; half of what it holds an hour unless given",
    )  # fmt: skip
    efficiency: float = quantity(0.90, "Round trip", gt=0.2, le=1, usual=(0.8, 0.96), share=True, help="Of what goes in comes out")
    ageing: Annotated[float, Part("assessment")] = quantity(
        0.02,
        "Ageing a year",
        digits=3,
        ge=0,
        le=0.3,
        usual=(0.01, 0.04),
        share=True,
        help="What it is worth less later; counts in money and carbon",
    )

    @property
    def idle(self) -> frozenset[str]:
        """Fields that have no say where there is none."""
        return frozenset() if self.usable_kwh > 0 else frozenset({"power_kw", "efficiency", "ageing"})


class Collector(Laid):
    """Solar collectors for hot water; efficiency by the curve of ISO 9806's form over the mean of air and tank, on their gross area."""

    zero_loss: Annotated[float, MAKES] = quantity(
        0.76,
        "Efficiency without losses",
        gt=0,
        le=1,
        usual=(0.6, 0.85),
        lever=True,
        share=True,
        source="common flat collectors (unverified)",
    )
    loss_w_m2k: Annotated[float, MAKES] = quantity(
        3.5, "Loss", "W/m²K", digits=2, ge=0, le=30, usual=(0.8, 5), source="common flat collectors (unverified)"
    )
    loss_w_m2k2: Annotated[float, MAKES] = quantity(
        0.015, "Loss, squared", "W/m²K²", digits=4, ge=0, le=1, usual=(0.003, 0.03), source="common flat collectors (unverified)"
    )


class Tank(Described):
    """The tank that collectors charge; it heats what is drawn before the heater does."""

    litres: float | None = quantity(
        None, "Tank", "l", digits=0, gt=0, le=1e6, usual=(200, 10000), lever=True, source=f"{OWN}: 60 l a m² of collectors",
        help="60 l a m² of collectors unless given",
    )  # fmt: skip
    loss_w_k: float | None = quantity(
        None, "Loss of the tank", "W/K", digits=1, ge=0, le=500, usual=(1, 15), source="0.16 √litres, EN 12977's order of size (unverified)"
    )
    hottest_c: float = quantity(90.0, "Charged up to", "°C", digits=0, ge=40, le=110, usual=(75, 95))
    cold_c: float = quantity(10.0, "Cold water", "°C", digits=0, ge=1, le=30, usual=(8, 14))


Arrays = Annotated[tuple[Array, ...], Field(max_length=100)]
Inverters = Annotated[tuple[Inverter, ...], Field(max_length=100)]
Collectors = Annotated[tuple[Collector, ...], Field(max_length=20)]
