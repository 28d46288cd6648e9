"""What a lever is."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Protocol

from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.model.remark import Stage
from eurythm.model.scheme import Scheme
from eurythm.model.study import LeverSpec


@dataclass(frozen=True)
class CaseInputs:
    """The documents that one case is simulated from; a lever may choose among `schemes`, and among the project's own `climates`, names by digest."""

    place: Place
    library: Library
    factors: Factors
    scheme: Scheme
    schemes: tuple[Scheme, ...] = ()
    climates: Mapping[str, str] = field(default_factory=dict)

    def with_scheme(self, data: dict[str, Any]) -> CaseInputs:
        """Return the inputs with a changed scheme, checked."""
        return replace(self, scheme=read_document(Scheme, data, "scheme"))


@dataclass(frozen=True)
class Offer:
    """A lever that could be added, with steps proposed for it.

    `choices` are id and name of each of a list's values; a `share` is told in percent; `whole` numbers go by steps and not through a range;
    what is `common` is often varied and comes first where levers are listed.
    """

    kind: str
    path: str | None
    title: str
    unit: str
    stage: Stage
    steps: list[Any]
    choices: list[dict[str, str]] = field(default_factory=list)
    share: bool = False
    whole: bool = False
    common: bool = True


class Lever(Protocol):
    """Something a study varies. Two levers that set the same, or one a part of the other's, cannot go together."""

    kind: str
    rank: int
    """Order of application: whole documents before their parts."""

    def sets(self, spec: LeverSpec) -> str:
        """Path of what it changes: ``scheme`` for all of it, ``scheme/turn_deg``, ``place/climate``."""

    def offers(self, inputs: CaseInputs) -> list[Offer]:
        """Return what of its kind could be added to a study of a scheme."""

    def title(self, spec: LeverSpec, inputs: CaseInputs) -> str:
        """Name the lever for strips and columns."""

    def unit(self, spec: LeverSpec) -> str:
        """SI unit of its steps, or ""."""

    def label(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> str:
        """Name one step."""

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        """Return the step at which the scheme stands now, or None."""

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        """Return the inputs with a step taken. Raises EurythmError where the step cannot be taken."""


def number(step: Any, what: str) -> float:
    """Return a step as a number. Raises EurythmError ``step-not-a-number``."""
    if isinstance(step, bool) or not isinstance(step, (int, float)):
        raise EurythmError("step-not-a-number", f"A step of {what} should be a number, found {step!r:.40}.", "levers")
    return float(step)


def name_of(step: Any, what: str) -> str:
    """Return a step as an id. Raises EurythmError ``step-not-a-name``."""
    if not isinstance(step, str):
        raise EurythmError("step-not-a-name", f"A step of {what} should name one, found {step!r:.40}.", "levers")
    return step
