"""What lies under a plan or the site to draw over: lines by layer, or a picture."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict


class DrawnData(BaseModel):
    """Part of a drawing; what is unknown is refused."""

    model_config = ConfigDict(extra="forbid", ser_json_bytes="base64", val_json_bytes="base64")


class DrawnLayer(DrawnData):
    """One layer: its name, its segments as a flat list x0, y0, x1, y1, ..., in drawing units, and how many closed outlines it has."""

    name: str
    segments: list[float]
    closed: int
    texts: int


class DrawnOutline(DrawnData):
    """A closed outline on a layer."""

    layer: str
    points: list[tuple[float, float]]


class DrawnText(DrawnData):
    """A text on a layer, where it begins."""

    layer: str
    text: str
    x: float
    y: float


class Picture(DrawnData):
    """A picture of a plan, map or photograph: its points from the upper left, and its file."""

    media: Literal["image/png", "image/jpeg"]
    width: int
    height: int
    data: bytes = b""


class Drawing(DrawnData):
    """A plan as drawn, moved near its origin by whole units; `unit` is None where the file does not say.

    A picture has no layers: its unit is one of its own points, and its origin its lower left corner.
    """

    name: str
    unit: str | None
    metres: float
    guessed: bool
    moved: tuple[float, float]
    bounds: tuple[float, float, float, float]
    layers: list[DrawnLayer]
    outlines: list[DrawnOutline]
    texts: list[DrawnText]
    picture: Picture | None = None
