"""Place: location, climate year, true north, ground level and surroundings."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from eurythm.model.field import OWN, Described, Proposed, choice, quantity, text
from eurythm.model.ids import Id
from eurythm.model.part import Part
from eurythm.model.schedule import Calendar
from eurythm.model.shape import Underlay

Share = Annotated[float, Field(ge=0, le=1)]
TREE_SOURCE = f"{OWN}, deciduous crown"


class ClimateRef(Described):
    """Which climate year the project uses; the year itself is kept beside the documents."""

    kind: Literal["stand-in", "file"] = choice("stand-in", "Kind", help="A stand-in climate, or an EPW of the user's")
    id: Annotated[str, Field(max_length=80)] = choice(..., "Climate", help="Name of the stand-in, or digest of the file")
    name: str = text("", "Name")


class Box(Proposed):
    """A neighbouring building, which shades and reflects as a grey obstacle, nothing more."""

    id: Id
    name: str = text("", "Name")
    x: float = quantity(..., "East of origin", "m", ge=-5000, le=5000, help="Corner of the box, in the drawing")
    y: float = quantity(..., "North of origin", "m", ge=-5000, le=5000, help="Corner of the box, in the drawing")
    length: float = quantity(..., "Length", "m", gt=0, le=2000, usual=(5, 150))
    depth: float = quantity(..., "Depth", "m", gt=0, le=2000, usual=(5, 150))
    height: float = quantity(..., "Height", "m", gt=0, le=1000, usual=(2.5, 120))
    turn_deg: float = quantity(0.0, "Turned", "°", digits=1, ge=-360, le=360, help="Clockwise about its corner")
    counts: Annotated[bool, Part(assumed=False)] = choice(True, "Counts", help="What does not count stays drawn and shades nothing")


class Corner(Described):
    """A corner of a neighbour's outline."""

    x: float = quantity(..., "x", "m", ge=-5000, le=5000)
    y: float = quantity(..., "y", "m", ge=-5000, le=5000)


class Footprint(Proposed):
    """A neighbouring building by its outline in plan and its height."""

    id: Id
    name: str = text("", "Name")
    points: Annotated[tuple[Corner, ...], Field(min_length=3, max_length=2000)]
    height: float = quantity(..., "Height", "m", gt=0, le=1000, usual=(2.5, 120))
    counts: Annotated[bool, Part(assumed=False)] = choice(True, "Counts", help="What does not count stays drawn and shades nothing")


class Tree(Proposed):
    """A tree: a round crown that lets part of the sun through, by season."""

    id: Id
    name: str = text("", "Name")
    x: float = quantity(..., "East of origin", "m", ge=-5000, le=5000)
    y: float = quantity(..., "North of origin", "m", ge=-5000, le=5000)
    height: float = quantity(..., "Height", "m", gt=1, le=80, usual=(4, 25))
    crown: float = quantity(..., "Crown width", "m", gt=0.5, le=60, usual=(3, 15))
    form: Literal["round", "column", "cone"] = choice("round", "Crown", source=TREE_SOURCE)
    leaf_transmittance: float = quantity(0.2, "Light through leaves", ge=0, le=1, usual=(0.05, 0.4), source=TREE_SOURCE)
    bare_transmittance: float = quantity(0.65, "Light through bare crown", ge=0, le=1, usual=(0.4, 0.8), source=TREE_SOURCE)
    leaf_first: int = quantity(
        5, "In leaf from month", digits=0, ge=1, le=12, source=f"{TREE_SOURCE}; half a year later south of the equator"
    )
    leaf_last: int = quantity(
        10, "In leaf until month", digits=0, ge=1, le=12, source=f"{TREE_SOURCE}; half a year later south of the equator"
    )
    counts: Annotated[bool, Part(assumed=False)] = choice(True, "Counts", help="What does not count stays drawn and shades nothing")


class Place(Described):
    """Where the building question is asked."""

    PART: ClassVar[Part] = Part("light", "place", "place")

    format: Annotated[Literal["eurythm.place"], Part("nothing")] = "eurythm.place"
    version: Annotated[Literal[1], Part("nothing")] = 1
    name: Annotated[str, Part("nothing")] = text("", "Place")
    climate: Annotated[ClimateRef | None, Part(assumed=False)] = choice(
        None, "Climate year", help="Waiting for weather until one is chosen"
    )
    north_deg: Annotated[float, Part("openings")] = quantity(
        0.0, "Drawing's north", "°", digits=1, ge=-360, le=360, help="True azimuth of the top of the drawing, clockwise"
    )
    ground_level_m: Annotated[float, Part("form")] = quantity(
        0.0, "Ground level", "m", ge=-500, le=9000, help="In the drawing's own levels"
    )
    ground_reflectance: float = quantity(0.2, "Ground reflectance", ge=0, le=1, usual=(0.1, 0.4), source="common use for grass and paving")
    ground_by_month: Annotated[tuple[Share, ...], Field(min_length=12, max_length=12)] | None = choice(
        None, "Ground reflectance by month", help="January to December, such as with snow; the one value else"
    )
    obstacle_reflectance: float = quantity(0.2, "Neighbours' reflectance", ge=0, le=1, usual=(0.1, 0.5))
    terrain: Annotated[Literal["open", "suburb", "city"], Part("balance")] = choice(
        "suburb",
        "Terrain",
        source=OWN,
        help="What the wind comes over before it reaches the building's windows; weather stations stand in the open",
    )
    latitude_deg: float | None = quantity(None, "Latitude", "°", ge=-90, le=90, help="From the climate year unless given")
    longitude_deg: float | None = quantity(None, "Longitude", "°", ge=-180, le=180, help="From the climate year unless given")
    altitude_m: float | None = quantity(
        None, "Altitude", "m", digits=0, ge=-430, le=6000, help="From the climate year unless given; its air pressure follows, nothing else"
    )
    time_zone_h: float | None = quantity(
        None, "Time zone", "h", digits=2, ge=-12, le=14, help="Hours east of Greenwich; from the climate year unless given"
    )
    calendar: Annotated[Calendar, Part("use", stage="use")] = Calendar()
    underlays: Annotated[tuple[Underlay, ...], Field(max_length=20), Part("nothing", "none")] = ()
    boxes: Annotated[tuple[Box, ...], Part(word="Neighbour")] = ()
    footprints: Annotated[tuple[Footprint, ...], Field(max_length=5000), Part(word="Neighbour")] = ()
    trees: Annotated[tuple[Tree, ...], Part(word="Tree")] = ()

    @property
    def standing_trees(self) -> tuple[Tree, ...]:
        """Trees that count."""
        return tuple(t for t in self.trees if t.counts)
