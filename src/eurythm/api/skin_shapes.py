"""What the routes of the skin, the register and the sun take and give."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from eurythm.api.cells import CellsOut
from eurythm.model.field import Spoken
from eurythm.model.library import Construction, Pane
from eurythm.model.scheme import Orientation

Twelve = Annotated[list[float], Field(min_length=12, max_length=12)]


class ExamineIn(Spoken):
    """A construction, as it would stand in the library, and the room behind it."""

    construction: Construction
    inside_c: Annotated[float, Field(ge=5, le=40)] = 20.0
    humidity: Literal["1", "2", "3", "4", "5"] = "3"


class QuestionOut(BaseModel):
    """A value that is unusual for its kind; `proposed` is the value without the likely slip."""

    field: str
    sentence: str
    sentence_ip: str
    proposed: float | None


class LayerAccountOut(BaseModel):
    """One layer: m2K/W, kg/m2, kJ/m2K, diffusion-equivalent thickness in m; whether it counts."""

    resistance: float
    mass_kg_m2: float
    capacity_kj_m2k: float
    sd_m: float | None
    counts: bool


class SwingOut(BaseModel):
    """The answer to a daily sine (ISO 13786)."""

    inside_kj_m2k: float
    outside_kj_m2k: float
    transmittance: float
    decrement: float
    shift_h: float


class CourseOut(BaseModel):
    """Lines through the construction in the coldest month, from outside to inside: m, °C, Pa."""

    x: list[float]
    temperature_c: list[float]
    saturation_pa: list[float]
    vapour_pa: list[float]


class MoistureOut(BaseModel):
    """Moisture month by month (ISO 13788)."""

    factor: float
    factor_needed: float
    critical_month: int
    mould: bool
    condensate_kg_m2: Twelve
    places: list[tuple[float, float]]
    dries: bool
    coldest_month: int
    outside_c: Twelve
    coldest: CourseOut
    unknown: list[str]


class AccountOut(BaseModel):
    """Everything that is told about a construction."""

    u_value: float
    error: float
    upper: float
    lower: float
    outside_film: float
    inside_film: float
    thickness_m: float
    mass_kg_m2: float
    capacity_kj_m2k: float
    swing: SwingOut
    carbon_kg_m2: float | None
    carbon_unknown: list[str]
    layers: list[LayerAccountOut]
    moisture: MoistureOut | None
    questions: list[QuestionOut]


class EndOut(BaseModel):
    """One value that an assumed one could as well be."""

    label: str
    value: Any


class AssumedOut(BaseModel):
    """An assumed value with its source; see `eurythm.brief.assumed.Assumed`."""

    path: str
    paths: list[str]
    title: str
    unit: str
    digits: int
    part: str
    value: Any
    label: str
    source: str
    ends: list[EndOut]
    stage: str
    rays: bool


class RegisterOut(BaseModel):
    """Every assumed value of a scheme and its place."""

    revision: int
    scheme: str
    values: list[AssumedOut]


class MovedOut(BaseModel):
    """What one end does to the year; or why it cannot be."""

    label: str
    figures: dict[str, float]
    fault: str


class RankedOut(BaseModel):
    """How far the year moves with one assumed value."""

    path: str
    moves: list[MovedOut]
    span: dict[str, float]


class RankingOut(BaseModel):
    """The ranked part of the register."""

    revision: int
    scheme: str
    rays: bool
    seconds: float
    base: dict[str, float]
    ranked: list[RankedOut]


class SpanIn(Spoken):
    """Days of the year (0 is 1 January) and hours of the day, first to last, both within; days may pass New Year."""

    first_day: Annotated[int, Field(ge=0, le=364)] = 0
    last_day: Annotated[int, Field(ge=0, le=364)] = 364
    first_hour: Annotated[int, Field(ge=0, le=23)] = 0
    last_hour: Annotated[int, Field(ge=0, le=23)] = 23


class HowDeepIn(Spoken):
    """For which face, which shade, and when the sun is unwanted."""

    face: str
    kind: Literal["overhang", "fins", "louvres"] = "overhang"
    span: SpanIn


class DepthOut(BaseModel):
    """Shares of the beam kept out within the span and let in outside of it, at one depth."""

    depth_m: float
    kept_out: float
    let_in: float


class HowDeepOut(BaseModel):
    """Depths of a shade for one face; `angles` are hour of the year, profile angle in degrees, and 1 within the span."""

    kind: str
    depths: list[DepthOut]
    least_m: float | None
    proposed_m: float
    unwanted_kwh_m2: float
    wanted_kwh_m2: float
    angles: list[tuple[int, float, int]]


class IrradiationIn(Spoken):
    """Which faces, which hours, and what of them."""

    kinds: Annotated[tuple[Literal["wall", "roof", "floor"], ...], Field(min_length=1)] = ("wall", "roof")
    orientations: tuple[Orientation, ...] = ()
    faces: Annotated[tuple[str, ...], Field(max_length=5000)] = ()
    spacing_m: Annotated[float, Field(ge=0.1, le=20)] = 1.0
    span: SpanIn = SpanIn()
    measure: Literal["sum", "mean", "strongest", "direct_hours"] = "sum"


class FaceIrradiationOut(CellsOut):
    """What falls on one face: its mean, and each cell. `heating` and `cooling` are kWh/m2 a year in the hours in which its zone is heated and cooled."""

    id: str
    kind: str
    orientation: str
    area_m2: float
    mean: float
    low: float
    high: float
    hour: int | None
    heating: float
    cooling: float


class IrradiationOut(BaseModel):
    """What falls on the chosen faces."""

    revision: int
    scheme: str
    measure: str
    unit: str
    seconds: float
    points: int
    low: float
    high: float
    mean: float
    faces: list[FaceIrradiationOut]


class CellOut(BaseModel):
    """A cell of a table that cannot be taken."""

    row: int
    column: str
    sentence: str


class GlassOut(BaseModel):
    """What a build-up of panes comes to: W/m2K, and shares of sun and light."""

    glass_u: float
    window_u: float
    g: float
    direct: float
    visible: float
    reflected: float


class PaneOut(BaseModel):
    """A shipped pane by its id."""

    id: str
    pane: Pane
