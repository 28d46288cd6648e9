"""What the API sends and takes; the front end's client is generated from these."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from eurythm.assess.outcome import Comfort, Month, Peaks, Renewables, Totals, ZoneYear
from eurythm.assess.worth import Worth
from eurythm.brief.edits import Edit
from eurythm.brief.resolve import ElementFacts
from eurythm.model.field import Spoken
from eurythm.model.project import Project
from eurythm.model.remark import Stage, Weight
from eurythm.plant.staged import SystemTold
from eurythm.simulate import ZoneLoad


class Fault(BaseModel):
    """An error as it is told: a code, a path in the document, a sentence, and the stage at which what the path names is changed."""

    code: str
    path: str
    message: str
    stage: Stage | None = None


class RemarkOut(BaseModel):
    """Something missing, doubtful or mended."""

    code: str
    sentence: str
    object: str
    mend: str
    weight: Weight
    stage: Stage


class ProjectListed(BaseModel):
    """A project in the list of projects."""

    id: str
    name: str
    changed: str


class ProjectState(BaseModel):
    """A project as it stands: `given` holds only what was given, `completed` everything; `drawn` says of each scheme when it looks otherwise."""

    id: str
    revision: int
    can_undo: bool
    can_redo: bool
    given: dict[str, Any]
    completed: Project
    remarks: dict[str, list[RemarkOut]]
    drawn: dict[str, str]


class RevisionOut(BaseModel):
    """The revision that a project stands at; a number is never given twice."""

    revision: int


class NewProject(Spoken):
    """What a new project begins with."""

    name: str = Field(min_length=1, max_length=120)


class EditIn(Spoken):
    """An edit and the revision that it was made on."""

    revision: int
    edit: Edit


class Move(Spoken):
    """Undo or redo, from the revision that was seen."""

    revision: int


class Preview(BaseModel):
    """An edit that is tried but not kept."""

    scheme: str
    edit: Edit


class FaceOut(BaseModel):
    """A face as it is drawn and named. Loops are corners in metres, the outer one first.

    `placed` gives each window from the face's lower left corner seen from outside: to its left, above its foot, width, height, m.
    `part` is the zone before merging; `side` the name that a zone given outright has for the face, "" for others.
    """

    id: str
    zone: str
    part: str
    side: str
    other: str | None
    kind: Literal["wall", "floor", "ceiling"]
    boundary: Literal["outdoors", "ground", "zone", "adiabatic", "fixed"]
    element: str
    edge: str
    construction: str
    clad_by: str
    glazing: str
    louvre_m: float
    origin: Literal["given", "imported", "assumed"]
    orientation: str
    skin_side: str
    """The side by which glass and shades are given to it: its orientation, before the turn where they turn with the building."""
    azimuth_deg: float
    area: float
    window_area: float
    loops: list[list[list[float]]]
    windows: list[list[list[float]]]
    placed: list[list[float]]


class PlanSideOut(BaseModel):
    """A side of a room in plan: the room lies on the left of the way from a to b."""

    side: str
    a: list[float]
    b: list[float]


class ZoneOut(BaseModel):
    """A zone as it is drawn and named; `profile_by` tells why it has its use, `sides` those of rooms given by their outline."""

    id: str
    name: str
    volume: str
    storey: str
    level: float
    height: float
    gross_floor_m2: float
    gross_volume_m3: float
    profile: str
    profile_by: str
    plan: list[list[list[float]]]
    sides: list[PlanSideOut]
    given: bool


class OutlineOut(BaseModel):
    """A volume's outline in the drawing's axes, with the id of the edge that starts at each corner."""

    volume: str
    rings: list[list[list[float]]]
    edges: list[list[str]]


class ContactOut(BaseModel):
    """What a volume meets: outdoors, the ground, or another volume by its id."""

    volume: str
    what: str
    other: str
    area_m2: float


class HandleOut(BaseModel):
    """How an array is moved and sized by hand: where x = y = 0 lies and what a metre of each is, unit vectors of its width and depth, and the x and
    y of its lower left corner with its width and depth as its modules lie; of its middle where it stands by itself.
    """

    origin: list[float]
    x: list[float]
    y: list[float]
    wide: list[float]
    deep: list[float]
    centred: bool
    rectangle: list[float]


class PanelOut(BaseModel):
    """Modules of an array, or collectors, that look one way, as they lie: corners of each run, m. `array` is "" for the share of all roofs,
    whose runs are drawn where they would fit and are no part of the reckoning.
    """

    array: str
    collects: bool
    area_m2: float
    loops: list[list[list[float]]]
    handle: HandleOut | None


class GeometryOut(BaseModel):
    """A scheme's form; `carriers` are the shades that can carry an array, as it names them, `rules` the zones of each rule as people say them."""

    zones: list[ZoneOut]
    faces: list[FaceOut]
    shades: list[list[list[float]]]
    carriers: list[str]
    rules: dict[str, str]
    panels: list[PanelOut]
    outlines: list[OutlineOut]
    footprint_m2: float
    turned_about: list[float]
    contact: list[ContactOut]


class OutcomeOut(BaseModel):
    """A year's result with what the readout needs beside it."""

    revision: int
    scheme: str
    seconds: float
    totals: Totals
    peaks: Peaks
    comfort: Comfort
    zones: list[ZoneYear]
    monthly: list[Month]
    systems: list[SystemTold]
    renewables: Renewables
    closure: float
    drift: float
    worth: Worth
    remarks: list[RemarkOut]
    elements: dict[str, ElementFacts]


class LineOut(BaseModel):
    """What can be shown by the hour."""

    name: str
    title: str
    unit: str
    of_weather: bool


class CaseAsk(BaseModel):
    """A case by its scheme, by its pin, or by its number in a study."""

    scheme: str | None = None
    pin: str | None = None
    study: str | None = None
    number: int | None = None


class ReportAsk(Spoken):
    """A report of cases, the first of which the others are held against; of a study where one is named."""

    cases: list[CaseAsk] = Field(default_factory=list, max_length=40)
    study: str | None = None
    title: str = Field("", max_length=200)
    units: Literal["SI", "IP"] = "SI"
    form: Literal["pdf", "html", "xlsx"] = "pdf"
    ranked: bool = True


class HourlyAsk(BaseModel):
    """Which hours of which lines, of which zones ("" for the whole building) and cases."""

    cases: list[CaseAsk] = Field(min_length=1, max_length=6)
    zones: list[str] = Field(default=[""], min_length=1, max_length=30)
    lines: list[str] = Field(min_length=1, max_length=40)
    start: int = Field(default=0, ge=0, lt=8760)
    hours: int = Field(default=8760, ge=1, le=8760)


class HourlyFileAsk(HourlyAsk):
    """The same, as a file."""

    format: Literal["csv", "parquet"]


class SeriesOut(BaseModel):
    """One line of one case; `zone` is "" for the whole building and for weather."""

    case: str
    zone: str
    zone_name: str
    line: str
    title: str
    unit: str
    values: list[float]


class HourlyOut(BaseModel):
    """Hourly lines from an hour of the year on."""

    start: int
    series: list[SeriesOut]


class SourceOut(BaseModel):
    """A source of heat that loads are taken apart by."""

    id: str
    name: str


class MomentOut(BaseModel):
    """A load in one hour and its parts by source, W."""

    hour: int
    at: str | None
    load_w: float
    parts_w: dict[str, float]
    zones_loaded: int


class UsePartsOut(BaseModel):
    """A year's heating or cooling demand and its parts by source."""

    load_kwh: float
    parts_kwh: dict[str, float]
    months_kwh: dict[str, list[float]]
    peak: MomentOut


class ZoneUsePartsOut(UsePartsOut):
    """The same of a zone, with its parts at the building's peak hour too."""

    at_building_peak: MomentOut


class BuildingPartsOut(BaseModel):
    """Parts of the whole building."""

    heating: UsePartsOut
    cooling: UsePartsOut


class ZonePartsOut(BaseModel):
    """Parts of one zone; its neighbours are a source."""

    id: str
    name: str
    heating: ZoneUsePartsOut
    cooling: ZoneUsePartsOut


class WhyOut(BaseModel):
    """What heating and cooling of a scheme are made of."""

    revision: int
    scheme: str
    substeps: int
    sources: list[SourceOut]
    building: BuildingPartsOut
    zones: list[ZonePartsOut]


class SizedOut(BaseModel):
    """The load on a design day."""

    day: str
    highest_c: float
    range_k: float
    load_w: float
    at: str | None
    zones: list[ZoneLoad]


class PeaksOut(BaseModel):
    """Peaks of the year by steps an hour, and the loads on design days."""

    by_substeps: dict[str, Peaks]
    heating: SizedOut
    cooling: SizedOut


class SideOut(BaseModel):
    """One of two cases: its year's parts, its load at its own peak hour and at the other's."""

    load_kwh: float
    parts_kwh: dict[str, float]
    own: MomentOut
    at_other: MomentOut


class UseBesideOut(BaseModel):
    """Heating or cooling of two cases, and what is to be said about the hours of their peaks."""

    base: SideOut
    other: SideOut
    sentence: str


class BesideOut(BaseModel):
    """Two cases part by part."""

    base_name: str
    other_name: str
    substeps: int
    sources: list[SourceOut]
    heating: UseBesideOut
    cooling: UseBesideOut


class HeldOut(BaseModel):
    """A scheme against the reference over the years: € and years, kg avoided; None where there is no answer; and in words."""

    than: str
    extra: float
    saving: float
    payback_years: float | None
    discounted_payback_years: float | None
    net_present_value: float
    internal_rate: float | None
    avoided_kg: float
    cost_per_tonne: float | None
    sentence: str


class CostRowOut(BaseModel):
    """An entry of the cost table; `given` names what the project gave."""

    id: str
    group: str
    title: str
    unit: str
    cost: float
    life_years: int
    upkeep_share: float
    carbon_kg: float | None
    given: list[str]


class SharedOut(BaseModel):
    """A figure of two cases and the share of each changed group in its difference."""

    unit: str
    base: float
    other: float
    shares: dict[str, float]


class SharesOut(BaseModel):
    """Shares of a difference."""

    groups: list[SourceOut]
    figures: dict[str, SharedOut]
    joined: list[str]
    runs: int


class PinIn(Spoken):
    """What to pin: a case of a study, or a scheme as it stands."""

    study: str | None = None
    number: int | None = None
    scheme: str | None = None


class PinOut(BaseModel):
    """A pin: of a case of a study, or of a scheme as it stands."""

    id: str
    study: str | None
    number: int | None
    scheme: str | None
    note: str
    name: str


class NameIn(Spoken):
    """What a pin is called; nothing for what it is."""

    name: str = Field(max_length=120)


class OrderIn(Spoken):
    """Pins by their ids, in the order in which they are to stand."""

    pins: list[str] = Field(max_length=500)


class NoteIn(Spoken):
    """A note on a pin."""

    note: str = Field(max_length=2000)


class FactOut(BaseModel):
    """One input in which the columns differ: text, or a value with its unit."""

    title: str
    text: str
    value: float | None
    unit: str


class ColumnOut(BaseModel):
    """A pinned case as a column of the findings; the base is what the others are held against."""

    pin: str | None
    title: str
    subtitle: str
    scheme: str
    note: str
    name: str
    is_reference: bool
    is_base: bool
    facts: list[FactOut]
    outcome: OutcomeOut | None
    geometry: GeometryOut | None
    differences: dict[str, str]
    sentences: list[str]
    fault: str


class FindingsOut(BaseModel):
    """All columns, the reference first."""

    columns: list[ColumnOut]
