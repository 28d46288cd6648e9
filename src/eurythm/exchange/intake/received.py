"""What a file holds, as received: every reader yields this, and nothing in it is decided yet.

Lengths are metres, angles degrees, in the file's own axes (moved near the origin where it lay far off).
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

Kind = Literal[
    "room", "mass", "wall", "curtain_wall", "slab", "roof", "covering", "window", "door", "panel", "opening", "column", "other",
]  # fmt: skip
"""What a thing is, whatever its format calls it (that is its class name, which is shown and sifted by)."""
IMPORTED = "read from the file"
"""The source of what a file says."""
Corner = tuple[float, float, float]
Loop = Annotated[list[Corner], Field(min_length=3)]


class Part(BaseModel):
    """Base of what is received: plain data, unknown names refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Finding(Part):
    """Something that the reader mended or found doubtful: a code, the object's reference, a sentence, and where it lies."""

    code: str
    object: str
    sentence: str
    mended: bool = False
    loops: list[Loop] = []


class ReceivedStorey(Part):
    """A storey by its name and floor level."""

    id: str
    name: str
    elevation_m: float


class ReceivedHole(Part):
    """A window or door as a polygon on or near a face."""

    id: str
    name: str = ""
    kind: Literal["window", "door", "rooflight"] = "window"
    loop: Loop
    glazing: str | None = None


class ReceivedFace(Part):
    """A flat part of a space's enclosure; its boundary only where the file states one."""

    id: str
    loop: Loop
    boundary: Literal["outdoors", "ground", "adiabatic", "zone"] | None = None
    other: str | None = None
    open: bool = False
    construction: str | None = None
    holes: list[ReceivedHole] = []


class ReceivedSpace(Part):
    """A space with its faces; `ring` where it is upright: rings in plan, its level and height then hold."""

    id: str
    kind: Literal["room", "mass"]
    class_name: str
    name: str = ""
    number: str = ""
    storey: str | None = None
    use: str = ""
    faces: list[ReceivedFace] = []
    rings: list[list[tuple[float, float]]] = []
    level: float = 0.0
    height: float = 0.0
    volume_m3: float = 0.0
    floor_area_m2: float = 0.0
    closed: bool = True
    conditioned: bool | None = None
    person_area: float | None = None
    """Floor area per person, m², where the file says how many it is for."""
    external: bool | None = None
    """Whether it lies outdoors, as a terrace or a parking place does, where the file says so."""
    properties: dict[str, Any] = {}


class ReceivedElement(Part):
    """Anything else that has a form: a wall, a window, a chair. Triangles index into its points."""

    id: str
    kind: Kind
    class_name: str
    name: str = ""
    tag: str = ""
    storey: str | None = None
    external: bool | None = None
    points: list[Corner] = []
    triangles: list[tuple[int, int, int]] = []
    construction: str | None = None
    inward: Corner | None = None
    """Direction in which the layers of its construction follow each other, where the file says so."""
    host: str | None = None
    u_value: float | None = None
    g_value: float | None = None
    visible: float | None = None
    panes: int | None = None
    frame_share: float | None = None
    wide: float | None = None
    high: float | None = None
    properties: dict[str, Any] = {}


class ReceivedLayer(Part):
    """A layer; what the file does not say is None."""

    name: str = ""
    thickness_m: float
    conductivity: float | None = None
    density: float | None = None
    specific_heat: float | None = None
    resistance: float | None = None


class ReceivedConstruction(Part):
    """A build-up in the order in which the file lists it, or a U-value; what it reflects of light on the side of the last layer, and of the first."""

    id: str
    name: str
    layers: list[ReceivedLayer] = []
    u_value: float | None = None
    absorptance: float | None = None
    reflected: tuple[float | None, float | None] = (None, None)


class ReceivedGlazing(Part):
    """A window type."""

    id: str
    name: str
    u_value: float | None = None
    g_value: float | None = None
    visible: float | None = None
    panes: int | None = None


class ReceivedShade(Part):
    """A shade that stands by itself."""

    name: str
    corners: list[Corner]


class ReceivedMore(Part):
    """What only some formats have.

    Attributes
    ----------
    shades : that stand by themselves
    infiltration_ach : the one that all rooms have
    profiles : documents of use profiles
    zone_use : by room, what it is asked: fields of ``use.zones``, and the id of its profile
    zones : by room, id and name of the zone that it is in
    open : pairs of rooms that only air parts
    glazings : by glazing, further fields of its document
    """

    shades: list[ReceivedShade] = []
    infiltration_ach: float | None = None
    profiles: list[dict[str, Any]] = []
    zone_use: dict[str, dict[str, Any]] = {}
    zones: dict[str, tuple[str, str]] = {}
    open: list[tuple[str, str]] = []
    glazings: dict[str, dict[str, Any]] = {}


class Received(Part):
    """Everything that one file holds."""

    file: str
    format: str
    version: str = ""
    digest: str = ""
    length_unit: str = "m"
    true_north_deg: float | None = None
    latitude_deg: float | None = None
    longitude_deg: float | None = None
    elevation_m: float | None = None
    place: str = ""
    project: str = ""
    moved_m: Corner = (0.0, 0.0, 0.0)
    reference_plane: str = "inner faces of the rooms"
    storeys: list[ReceivedStorey] = []
    spaces: list[ReceivedSpace] = []
    elements: list[ReceivedElement] = []
    constructions: list[ReceivedConstruction] = []
    glazings: list[ReceivedGlazing] = []
    findings: list[Finding] = []
    extra: ReceivedMore = Field(default_factory=ReceivedMore)


KINDS_BEFORE: dict[str, Kind] = {
    "IfcSpace": "room", "Space": "room", "Solid": "mass", "IfcWall": "wall", "IfcCurtainWall": "curtain_wall", "IfcSlab": "slab",
    "IfcRoof": "roof", "IfcCovering": "covering", "IfcWindow": "window", "IfcDoor": "door", "IfcPlate": "panel", "IfcColumn": "column",
    "Opening": "opening",
}  # fmt: skip
"""Kinds by class name, of what was kept before readers told them."""


def received_from(data: dict[str, Any]) -> Received:
    """Return what was kept of a file."""
    for thing in (*data.get("spaces", ()), *data.get("elements", ())):
        thing.setdefault("kind", KINDS_BEFORE.get(thing.get("class_name", ""), "other"))
    return Received.model_validate(data)
