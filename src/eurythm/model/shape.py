"""Shape: volumes, storeys and zoning, and zones given outright."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from eurythm.model.field import Described, Proposed, choice, quantity, text
from eurythm.model.ids import Id
from eurythm.model.part import Part

LONG: dict[str, Any] = {"gt": 0, "le": 2000}


class EdgeDepth(Described):
    """How deep the perimeter is behind one edge of the outline."""

    id: Id
    depth_m: float = quantity(..., "Depth", "m", ge=0, le=100, usual=(0, 8), help="Behind this edge; 0 for no strip of its own")


class Zoning(Described):
    """How a storey is divided."""

    kind: Literal["one", "perimeter_core"] = choice("one", "Divide by", help="One zone, or perimeter and core")
    depth_m: float = quantity(4.5, "Perimeter depth", "m", gt=0.2, le=100, usual=(3, 6), source="common use in early energy models")
    around: Literal["by_edge", "ring"] = choice("by_edge", "Perimeter as", help="One zone an edge, or one ring")
    edges: tuple[EdgeDepth, ...] = choice((), "Depth by edge", help="Edges whose depth differs")
    borders: Literal["open", "walls"] = choice(
        "open",
        "Between perimeter and core",
        help="Open, so that daylight passes, or walls; heat is exchanged as through a partition either way",
    )


class Storey(Described):
    """A storey of a volume; its height is from floor to floor."""

    id: Id
    name: str = text("", "Name")
    height_m: float = quantity(3.5, "Height", "m", gt=0.3, le=100, usual=(2.4, 6))
    zoning: Annotated[Zoning | None, Part(assumed=False)] = choice(None, "Zoning", help="As the volume unless given")


class Point(Described):
    """A corner of a free outline; the edge that starts here bears its id."""

    id: Id
    x: float = quantity(..., "x", "m", ge=-5000, le=5000)
    y: float = quantity(..., "y", "m", ge=-5000, le=5000)


class Rectangle(Proposed):
    """A rectangle; its origin is the south-west corner."""

    kind: Literal["rectangle"] = "rectangle"
    length: float = quantity(..., "Length", "m", usual=(6, 120), lever=True, **LONG)
    depth: float = quantity(..., "Depth", "m", usual=(6, 60), lever=True, **LONG)


class LForm(Proposed):
    """An L: a wing along the bottom and one up the left side."""

    kind: Literal["l"] = "l"
    length: float = quantity(..., "Length", "m", usual=(6, 120), lever=True, **LONG)
    depth: float = quantity(..., "Depth", "m", usual=(6, 120), lever=True, **LONG)
    wing_length: float = quantity(12.0, "Upright wing's width", "m", usual=(6, 30), lever=True, **LONG)
    wing_depth: float = quantity(12.0, "Lying wing's width", "m", usual=(6, 30), lever=True, **LONG)


class TForm(Proposed):
    """A T: a bar along the top and a stem down the middle."""

    kind: Literal["t"] = "t"
    length: float = quantity(..., "Length", "m", usual=(6, 120), lever=True, **LONG)
    depth: float = quantity(..., "Depth", "m", usual=(6, 120), lever=True, **LONG)
    bar_depth: float = quantity(12.0, "Bar's width", "m", usual=(6, 30), lever=True, **LONG)
    stem_length: float = quantity(12.0, "Stem's width", "m", usual=(6, 30), lever=True, **LONG)


class UForm(Proposed):
    """A U, open to the top."""

    kind: Literal["u"] = "u"
    length: float = quantity(..., "Length", "m", usual=(6, 120), lever=True, **LONG)
    depth: float = quantity(..., "Depth", "m", usual=(6, 120), lever=True, **LONG)
    wing_length: float = quantity(12.0, "Wings' width", "m", usual=(6, 30), lever=True, **LONG)
    base_depth: float = quantity(12.0, "Base's width", "m", usual=(6, 30), lever=True, **LONG)


class CourtForm(Proposed):
    """A rectangle around a courtyard in its middle."""

    kind: Literal["courtyard"] = "courtyard"
    length: float = quantity(..., "Length", "m", usual=(15, 120), lever=True, **LONG)
    depth: float = quantity(..., "Depth", "m", usual=(15, 120), lever=True, **LONG)
    court_length: float = quantity(12.0, "Courtyard length", "m", usual=(6, 60), lever=True, **LONG)
    court_depth: float = quantity(12.0, "Courtyard depth", "m", usual=(6, 60), lever=True, **LONG)


class PolygonForm(Described):
    """A free outline, with courtyards."""

    kind: Literal["polygon"] = "polygon"
    points: Annotated[tuple[Point, ...], Field(min_length=3, max_length=400)]
    courts: tuple[Annotated[tuple[Point, ...], Field(min_length=3, max_length=400)], ...] = ()


Form = Annotated[Rectangle | LForm | TForm | UForm | CourtForm | PolygonForm, Field(discriminator="kind")]


class Roof(Described):
    """What covers the top storey of a volume; the storey's height is that of its eaves, and its room reaches up to the slopes."""

    kind: Literal["flat", "mono", "gable"] = choice(
        "flat", "Roof", lever=True, help="Mono: rises from one edge; gable: from two edges to a ridge between them"
    )
    pitch_deg: float = quantity(30.0, "Pitch", "°", digits=1, ge=1, le=75, usual=(5, 50), source="common use for tiled roofs", lever=True)
    eaves: str | None = choice(None, "Eaves along", help="An edge of the outline; the longest unless given")


class Volume(Described):
    """A massing solid. Its outline is the outer face of its outside walls."""

    id: Id
    name: str = text("", "Name")
    form: Form
    x: float = quantity(0.0, "East of origin", "m", ge=-5000, le=5000)
    y: float = quantity(0.0, "North of origin", "m", ge=-5000, le=5000)
    turn_deg: float = quantity(0.0, "Turned", "°", digits=1, ge=-360, le=360, help="Clockwise, about its origin")
    base_level_m: float = quantity(0.0, "Base level", "m", ge=-500, le=9000, help="Floor level of its lowest storey")
    storeys: Annotated[tuple[Storey, ...], Field(min_length=1, max_length=200)]
    zoning: Annotated[Zoning, Part(assumed=False)] = choice(Zoning(), "Zoning")
    roof: Annotated[Roof, Part(assumed=False)] = Roof()


class WindowRect(Proposed):
    """An opening as a rectangle on a face: from the face's lower left corner, seen from outside."""

    id: Id | None = choice(None, "Id")
    kind: Annotated[Literal["window", "door"], Part(assumed=False)] = choice(
        "window", "Kind", help="A door is opaque unless it has a glazing of its own"
    )
    x: float = quantity(..., "From the left", "m", ge=0, le=2000)
    z: float = quantity(..., "Sill above the face's foot", "m", ge=0, le=500)
    width: float = quantity(..., "Width", "m", gt=0, le=2000)
    height: float = quantity(..., "Height", "m", gt=0, le=500)
    glazing: str | None = choice(None, "Glazing", help="As the scheme unless given")


Side = Annotated[str, Field(min_length=1, max_length=64)]


class ZoneFace(Described):
    """A face of a zone given outright.

    A side by name (of a box: south, east, north, west; of an outline: the id of its edge; of both: roof and floor), or a
    polygon by its corners, counter-clockwise seen from outside.
    """

    id: Id
    side: Side | None = choice(None, "Side", help="For a box or an outline")
    corners: tuple[tuple[float, float, float], ...] = ()
    boundary: Literal["outdoors", "ground", "adiabatic", "zone", "fixed"] | None = choice(None, "Boundary", help="Worked out unless given")
    other: str | None = choice(None, "Zone beyond", help="Where the boundary is given as a zone")
    boundary_c: float = quantity(10.0, "Temperature beyond", "°C", digits=1, ge=-60, le=80, usual=(0, 25), help="Of a fixed boundary")
    open: bool = choice(False, "Open", help="Only air is there; where the two zones are merged, what is not open stays floor")
    construction: str | None = choice(None, "Construction")
    windows: tuple[WindowRect, ...] = ()
    overhang_depth_m: float = quantity(0.0, "Overhang depth", "m", ge=0, le=50, help="Along the top of the face")
    fin_depth_m: float = quantity(0.0, "Side fin depth", "m", ge=0, le=50, help="At both ends of the face")


class BoxSize(Described):
    """A box by its lower south-west corner and its outer size."""

    x: float = quantity(0.0, "East of origin", "m", ge=-5000, le=5000)
    y: float = quantity(0.0, "North of origin", "m", ge=-5000, le=5000)
    z: float = quantity(0.0, "Level", "m", ge=-500, le=9000)
    length: float = quantity(..., "Length", "m", **LONG)
    depth: float = quantity(..., "Depth", "m", **LONG)
    height: float = quantity(..., "Height", "m", gt=0, le=500)


class RoomOutline(Proposed):
    """A room by its outline in plan, its level and its height, as it was traced or read from a model."""

    points: Annotated[tuple[Point, ...], Field(min_length=3, max_length=400)]
    courts: tuple[Annotated[tuple[Point, ...], Field(min_length=3, max_length=400)], ...] = ()
    z: float = quantity(0.0, "Level", "m", ge=-500, le=9000)
    height: float = quantity(3.0, "Height", "m", gt=0.1, le=500, usual=(2.2, 6))


class GivenZone(Described):
    """A zone given outright, as a box, by its outline, or by all its faces; its sizes are taken as internal and external alike."""

    id: Id
    name: str = text("", "Name")
    number: str = text("", "Number", max_length=60)
    storey: str = text("", "Storey", max_length=120)
    use: str = text("", "Use in the file", max_length=200)
    source: str = text("", "Reference in the file", max_length=200)
    box: BoxSize | None = None
    outline: RoomOutline | None = None
    faces: tuple[ZoneFace, ...] = ()
    profile: str | None = choice(None, "Use profile")
    by_ratio: Annotated[bool, Part(assumed=False)] = choice(
        False, "Windows by glazing ratio", help="On walls outdoors for which no window is given", source="as drawn unless given"
    )
    floor_area_m2: float | None = quantity(None, "Floor area", "m²", digits=1, gt=0, le=1e6, help="As its form unless given")
    air_volume_m3: float | None = quantity(None, "Air volume", "m³", digits=1, gt=0, le=1e7, help="As its form unless given")


class LeftOut(Described):
    """A room of a model that counts for contact only: walls and slabs towards it are neither outdoors nor lose heat."""

    id: Id
    name: str = text("", "Name")
    why: str = text("", "Why it is left out", max_length=400)
    outline: RoomOutline | None = None
    faces: tuple[ZoneFace, ...] = ()


class GivenShade(Described):
    """An opaque, flat shade by its corners, wherever it stands."""

    id: Id
    name: str = text("", "Name")
    corners: Annotated[tuple[tuple[float, float, float], ...], Field(min_length=3, max_length=400)]


class Underlay(Proposed):
    """A drawing under a storey, to trace over: which one, and how it lies. It is no part of what is calculated."""

    id: Id
    drawing: str = text(..., "Drawing", max_length=80)
    name: str = text("", "Name")
    level_m: float | None = quantity(None, "Storey level", "m", ge=-500, le=9000, help="Under every storey unless given")
    x: float = quantity(0.0, "East of origin", "m", ge=-5000, le=5000)
    y: float = quantity(0.0, "North of origin", "m", ge=-5000, le=5000)
    turn_deg: float = quantity(0.0, "Turned", "°", digits=1, ge=-360, le=360, help="Clockwise, about its own origin")
    metres: float = quantity(1.0, "Metres in one of its units", "m", digits=5, gt=0, le=1000)
    hidden: tuple[str, ...] = ()
    shown: bool = choice(True, "Shown")
    strength: float = quantity(0.6, "Strength of a picture", ge=0.05, le=1)
