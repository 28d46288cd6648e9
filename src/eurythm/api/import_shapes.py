"""What the API sends and takes about imports."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from eurythm.api.shapes import Fault, GeometryOut
from eurythm.exchange.intake.account import Account
from eurythm.exchange.intake.sift import Sift
from eurythm.model.field import Spoken

Lines = list[list[float]]


class ClassOut(BaseModel):
    """One class of objects: how many there are and count, and one of them drawn small (lines x0, y0, x1, y1 from 0 to 1)."""

    class_name: str
    count: int
    kept: int
    by_default: bool
    picture: Lines


class ObjectOut(BaseModel):
    """An object as received: what it is, whether it counts, and its triangles (flat lists)."""

    id: str
    class_name: str
    name: str
    number: str
    storey: str
    use: str
    external: bool | None
    keep: bool
    reason: str
    floor_area_m2: float
    properties: dict[str, Any]
    points: list[float]
    triangles: list[int]


class ImportOut(BaseModel):
    """An import as it stands."""

    id: str
    file: str
    status: Literal["reading", "read", "failed", "cancelled"]
    share: float
    what: str
    fault: Fault | None
    follows: str | None
    scheme: str | None
    made: str


class SiftOut(BaseModel):
    """What a file holds, and the decisions about it."""

    file: str
    format: str
    length_unit: str
    reference_plane: str
    project: str
    place: dict[str, float | None]
    storeys: list[dict[str, Any]]
    classes: list[ClassOut]
    sift: Sift
    meets: dict[str, int]
    properties: list[str]


class FindingOut(BaseModel):
    """Something mended or doubtful, with the loops that show where."""

    code: str
    object: str
    called: str
    sentence: str
    mended: bool
    loops: list[list[list[float]]]


class DifferenceOut(BaseModel):
    """One object that a newer file has otherwise."""

    object: str
    class_name: str
    called: str
    kind: Literal["added", "changed", "gone"]
    what: list[str]


class ClashOut(BaseModel):
    """A value that both the file and a hand changed; the hand's stays."""

    path: str
    by_hand: Any
    by_file: Any


class SettledOut(BaseModel):
    """What the file comes to with the decisions as they are, or why it comes to nothing."""

    fault: Fault | None
    findings: list[FindingOut]
    report: Account | None
    geometry: GeometryOut | None
    verdicts: dict[str, list[Any]]
    told: list[str]
    differences: list[DifferenceOut]
    clashes: list[ClashOut]
    lost: list[str]
    lost_mends: list[str]


class AcceptIn(Spoken):
    """What to do with an import: a further scheme of this project, in place of a scheme's shape, or a new project."""

    revision: int
    as_: Literal["scheme", "shape", "project"] = Field(alias="as")
    scheme: str | None = None
    name: str = Field(default="", max_length=120)


class AcceptedOut(BaseModel):
    """Where an import went, and what else changed by it or stayed though the file says otherwise."""

    project: str
    scheme: str
    told: list[str]
