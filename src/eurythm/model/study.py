"""A study: a question asked of one scheme or of several, of one of five kinds."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from eurythm.model.field import Described, text
from eurythm.model.ids import Id

Kind = Literal["every", "measures", "sample", "sensitivity", "search"]
Outcome = Annotated[str, Field(min_length=1, max_length=160)]
"""Id of a figure in `eurythm.assess.figures`; of a zone's figure with the zone behind it: ``zone_too_warm_h@hall``, ``zone_too_warm_h@*`` for the worst."""


MOST_CHANGES = 60
"""So many changes a measure may make."""


class LeverSpec(Described):
    """A lever with the steps that it takes, or the range; what a step may be depends on the kind."""

    kind: Annotated[str, Field(min_length=1, max_length=80)]
    path: str | None = Field(
        None, max_length=200, description="For kinds 'field' and 'factor': path of the field in the scheme, or in the factors"
    )
    steps: Annotated[tuple[Any, ...], Field(max_length=200)] = ()
    low: float | None = Field(None, description="Lower end of its range, in place of steps")
    high: float | None = Field(None, description="Upper end of its range")
    tied: str | None = Field(None, max_length=40, description="Levers that are tied by the same word take their steps together")

    @model_validator(mode="after")
    def _steps_or_range(self) -> LeverSpec:
        if (self.low is None) != (self.high is None):
            raise ValueError("a range needs both its ends")
        if bool(self.steps) == (self.low is not None):
            raise ValueError("a lever takes either steps or a range from low to high")
        if self.low is not None and self.high is not None and not self.low < self.high:
            raise ValueError(f"the range ends at {self.high:g}, which is not above {self.low:g}, where it begins")
        return self

    @property
    def is_range(self) -> bool:
        """Whether it goes through a range and not by steps."""
        return self.low is not None


class Condition(Described):
    """A lever (its key: kind or path) that takes one of some steps."""

    lever: Annotated[str, Field(min_length=1, max_length=200)]
    steps: Annotated[tuple[Any, ...], Field(min_length=1, max_length=200)]


class LeftOut(Described):
    """Combinations that are not run: those that meet every condition."""

    when: Annotated[tuple[Condition, ...], Field(min_length=1, max_length=6)]


class Change(Described):
    """One step of one lever."""

    kind: Annotated[str, Field(min_length=1, max_length=80)]
    path: str | None = Field(None, max_length=200)
    step: Any

    @property
    def lever(self) -> LeverSpec:
        """The lever with this step alone."""
        return LeverSpec(kind=self.kind, path=self.path, steps=(self.step,))


class MeasureSpec(Described):
    """Something that can be done: the changes to the documents that it makes, and what it costs.

    Without a cost of its own, it costs what the cost table says of the parts that it changes.
    """

    id: Id
    name: str = text(..., "Measure", max_length=120)
    changes: Annotated[tuple[Change, ...], Field(min_length=1, max_length=MOST_CHANGES)]
    cost: float | None = Field(None, ge=-1e9, le=1e9, description="Investment beyond the baseline's, €")
    life_years: int = Field(30, ge=1, le=200, description="After so many years it is paid again")
    upkeep: float = Field(0.0, ge=-1e8, le=1e8, description="€ a year beyond the baseline's")


class Goal(Described):
    """An outcome that a search makes as good as it can; the catalogue says whether less or more is better, unless said here."""

    outcome: Outcome
    sense: Literal["less", "more"] | None = None


class Limit(Described):
    """What an outcome must keep to, in its own unit."""

    outcome: Outcome
    at_least: float | None = None
    at_most: float | None = None

    @model_validator(mode="after")
    def _some_limit(self) -> Limit:
        if self.at_least is None and self.at_most is None:
            raise ValueError("a limit needs at_least, at_most or both")
        if self.at_least is not None and self.at_most is not None and self.at_least > self.at_most:
            raise ValueError("at_least is above at_most")
        return self


class StudySpec(Described):
    """A question asked of one scheme (or of several, when the scheme itself is a lever).

    ``size`` is the number of cases of a sample, of trajectories or base points of a sensitivity, and the most cases of a search.
    """

    format: Literal["eurythm.study"] = "eurythm.study"
    version: Literal[1] = 1
    name: str = text("Study", "Study", max_length=120)
    kind: Kind = "every"
    scheme: Id | None = None
    levers: Annotated[tuple[LeverSpec, ...], Field(max_length=20)] = ()
    left_out: Annotated[tuple[LeftOut, ...], Field(max_length=20)] = ()
    measures: Annotated[tuple[MeasureSpec, ...], Field(max_length=12)] = ()
    bundles: Annotated[tuple[tuple[Id, ...], ...], Field(max_length=40)] = ()
    size: int | None = Field(None, description="Cases of a sample; trajectories or base points of a sensitivity; most cases of a search")
    seed: int = Field(1, ge=0, le=2**31 - 1, description="The same seed draws the same cases")
    method: Literal["sobol", "halton", "elementary", "variance"] | None = None
    goals: Annotated[tuple[Goal, ...], Field(max_length=4)] = ()
    limits: Annotated[tuple[Limit, ...], Field(max_length=12)] = ()
    outcomes: Annotated[tuple[Outcome, ...], Field(max_length=60)] = Field((), description="What its table shows; none for what is usual")

    @property
    def named_outcomes(self) -> tuple[str, ...]:
        """The outcomes that it names: of its table, its goals and its limits, each once."""
        asked = (*self.outcomes, *(goal.outcome for goal in self.goals), *(limit.outcome for limit in self.limits))
        return tuple(dict.fromkeys(asked))


class StudyFile(Described):
    """A study as a file: the question and the bundles that it is asked of (by path beside the file)."""

    format: Literal["eurythm.study-file"] = "eurythm.study-file"
    version: Literal[1] = 1
    study: StudySpec
    bundles: Annotated[tuple[str, ...], Field(min_length=1, max_length=50)]
