"""What the API sends and takes of studies: plans, progress, cases by pages and columns, and what matters."""

from __future__ import annotations

from pydantic import BaseModel, Field

from eurythm.model.field import Spoken
from eurythm.model.study import StudySpec
from eurythm.study.alternatives import Alternative
from eurythm.study.plan import LeverView
from eurythm.study.table import Which


class StudyIn(Spoken):
    """A study to plan or to run, on the documents of a revision, by so many workers; by all that there are unless said."""

    revision: int
    study: StudySpec
    processes: int | None = Field(None, ge=1, le=1000)


class PlanOut(BaseModel):
    """What a study would be: its levers, the number of cases (the most that a search may run), how many of them are the same as another one, the time that they will take, s, and the room that they will, bytes; `processes` that there are for it."""

    levers: list[LeverView]
    cases: int
    same: int
    seconds: float | None
    bytes: int
    processes: int


class StudyOut(BaseModel):
    """A study as it stands."""

    id: str
    name: str
    status: str
    total: int
    done: int
    failed: int
    seconds: float
    revision: int
    scheme: str
    levers: list[LeverView]
    outdated: bool
    spec: StudySpec


class CaseOut(BaseModel):
    """A case: its steps (of a range the part of it), its value in each range, and what it came to."""

    number: int
    steps: list[int]
    values: list[float | None]
    status: str
    attempts: int
    reason: str
    figures: dict[str, float | None]
    peaks_at: dict[str, str | None]
    remarks: list[str]


class CasesOut(BaseModel):
    """Cases of a study by number, and how many there are in all."""

    cases: list[CaseOut]
    total: int


class BaselineOut(BaseModel):
    """What the cases of a study are compared with: its own scheme as it stands now, or as it was where that is gone."""

    name: str
    figures: dict[str, float | None]


class SieveIn(Spoken):
    """What keeps a case in the running: steps that are out by lever, ranges of figures in their units, which cases, and words of their remarks."""

    dropped: dict[str, list[int]] = Field(default_factory=dict)
    ranges: dict[str, tuple[float, float]] = Field(default_factory=dict)
    which: Which = "all"
    says: str = Field("", max_length=200)


class CasesAsked(Spoken):
    """Which cases in the running to show: ordered by a figure, a lever, `remarks` or `number`, from which row on and how many; of which figures to tell how all spread."""

    sieve: SieveIn = SieveIn()
    by: str = "eui_kwh_per_m2"
    down: bool = False
    first: int = Field(0, ge=0)
    most: int = Field(100, ge=1, le=1000)
    spreads: list[str] = Field(default_factory=list, max_length=20)


class SpreadOut(BaseModel):
    """How finished cases spread over a figure: its ends, and how many stand in each part between, of all and in the running."""

    low: float
    high: float
    every: list[int]
    running: list[int]


class FailedOut(BaseModel):
    """A case that failed, and why."""

    number: int
    reason: str


class CasesShown(BaseModel):
    """A page of cases, and how all of them stand.

    `running` counts those in the running, `remarked` those with remarks; `strips` says by lever and step how many take it and how
    many of these are in the running; `failed` are the first that failed; `net` says whether energy less generation says anything new.
    """

    cases: list[CaseOut]
    running: int
    remarked: int
    strips: list[list[tuple[int, int]]]
    spreads: dict[str, SpreadOut]
    failed: list[FailedOut]
    net: bool


class PointsAsked(Spoken):
    """Two figures against each other, of all finished cases."""

    sieve: SieveIn = SieveIn()
    x: str
    y: str


class PointsOut(BaseModel):
    """Finished cases by two figures, as columns; `said` holds the remarks of those in the running that have some, by number."""

    numbers: list[int]
    x: list[float | None]
    y: list[float | None]
    running: list[bool]
    said: dict[int, list[str]]


class ColumnsAsked(Spoken):
    """Figures and levers, by id or key, of finished cases: of all that are asked for, or of as many, taken evenly, as a picture holds."""

    sieve: SieveIn = SieveIn()
    names: list[str] = Field(min_length=1, max_length=40)
    most: int = Field(5000, ge=1, le=20_000)


class ColumnsOut(BaseModel):
    """Finished cases as columns: of a lever the place of the step, or the value in its range; `of` counts all finished cases."""

    numbers: list[int]
    running: list[bool]
    remarked: list[bool]
    columns: dict[str, list[float | None]]
    of: int


class TryIn(StudyIn):
    """One case of a study that is not kept: by its number, or the middle one."""

    number: int | None = Field(None, ge=0)


class TriedOut(BaseModel):
    """What a tried case came to, by what it is called, or why it failed; of how many cases."""

    number: int
    of: int
    labels: list[str]
    figures: dict[str, float | None]
    remarks: list[str]
    reason: str
    seconds: float


class TakenOver(BaseModel):
    """The scheme that a case was taken over as, on which revision, and what the case has besides that a scheme does not hold."""

    scheme: str
    revision: int
    besides: list[str]


class AlternativesOut(BaseModel):
    """All cases of a study of measures, and over how many years money is counted."""

    rows: list[Alternative]
    horizon_years: int


class SizeIn(Spoken):
    """How many cases a sample is to have."""

    size: int
