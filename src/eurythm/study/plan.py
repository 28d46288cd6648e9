"""A plan of cases: every combination of the levers' steps."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.model.errors import EurythmError
from eurythm.model.part import STEPS, Part, part_at
from eurythm.model.place import Place
from eurythm.model.project import Factors, LeverSpec, StudySpec
from eurythm.model.scheme import Scheme
from eurythm.study.levers import LEVERS, CaseInputs

MOST_CASES = 20_000


@dataclass(frozen=True)
class Case:
    """One combination: its number in the plan and the step taken of each lever."""

    number: int
    steps: tuple[Any, ...]


@dataclass(frozen=True)
class LeverView:
    """A lever as it is shown: its title, unit, steps and their labels, and where the scheme stands."""

    kind: str
    path: str | None
    key: str
    title: str
    unit: str
    steps: tuple[Any, ...]
    labels: tuple[str, ...]
    current: Any


def lever_key(spec: LeverSpec) -> str:
    """Name a lever in tables: its kind, or the path of its field."""
    return spec.path if spec.kind == "field" and spec.path else spec.kind


def check(study: StudySpec, inputs: CaseInputs) -> list[LeverView]:
    """Check that every lever exists and every step can be taken on its own; return the levers as shown.

    Raises
    ------
    EurythmError
        Naming the lever.
    """
    seen: set[str] = set()
    views = []
    for spec in study.levers:
        if spec.kind not in LEVERS:
            raise EurythmError("no-such-lever", f"There is no lever “{spec.kind}”; there are {', '.join(LEVERS)}.", "levers")
        key = lever_key(spec)
        if key in seen:
            raise EurythmError("lever-twice", f"The lever “{key}” is named twice.", f"levers/{key}")
        seen.add(key)
        if len({repr(s) for s in spec.steps}) != len(spec.steps):
            raise EurythmError("step-twice", f"A step of “{key}” is named twice.", f"levers/{key}")
        lever = LEVERS[spec.kind]
        for step in spec.steps:
            lever.apply(spec, step, inputs)
        labels = tuple(lever.label(spec, step, inputs) for step in spec.steps)
        views.append(
            LeverView(
                spec.kind, spec.path, key, lever.title(spec, inputs), lever.unit(spec), spec.steps, labels, lever.current(spec, inputs)
            )
        )
    _apart(study, views)
    if (total := count(study)) > MOST_CASES:
        raise EurythmError("too-many-cases", f"These steps make {total:,} cases; at most {MOST_CASES:,} run at once.", "levers")
    return views


def _apart(study: StudySpec, views: list[LeverView]) -> None:
    """Refuse levers of which one sets what another has set; a whole scheme is chosen before all else, so that it goes with any."""
    sets = [LEVERS[spec.kind].sets(spec) for spec in study.levers]
    for (one, first), (other, second) in combinations(zip(sets, views, strict=True), 2):
        if "scheme" not in (one, other) and (f"{one}/".startswith(f"{other}/") or f"{other}/".startswith(f"{one}/")):
            raise EurythmError(
                "levers-collide", f"“{first.title}” and “{second.title}” set the same value; leave one of them out.", "levers"
            )


def count(study: StudySpec) -> int:
    """Return the number of combinations."""
    total = 1
    for spec in study.levers:
        total *= len(spec.steps)
    return total


def cases(study: StudySpec) -> Iterator[Case]:
    """Yield every combination; the first lever changes slowest."""
    for number in range(count(study)):
        yield case(study, number)


def case(study: StudySpec, number: int) -> Case:
    """Return one combination by its number."""
    rest = number
    steps: list[Any] = []
    for spec in reversed(study.levers):
        rest, k = divmod(rest, len(spec.steps))
        steps.append(spec.steps[k])
    return Case(number, tuple(reversed(steps)))


def sizes(study: StudySpec) -> dict[str, int]:
    """Return how many steps each lever has, by its key."""
    return {lever_key(spec): len(spec.steps) for spec in study.levers}


def places(sizes: Mapping[str, int], numbers: Sequence[int] | NDArray[np.int64]) -> NDArray[np.int64]:
    """Return the place of the step that each case takes of each lever, (cases, levers)."""
    if not sizes:
        return np.zeros((len(numbers), 0), dtype=np.int64)
    return np.stack(np.unravel_index(np.asarray(numbers, dtype=np.int64), tuple(sizes.values())), axis=1)


def part_of_lever(spec: LeverSpec) -> Part:
    """Return what part a lever's steps play in the pipeline, as the field says that they change."""
    document, _, path = LEVERS[spec.kind].sets(spec).partition("/")
    if not path:
        return Part("form", casts=True)
    return part_at({"place": Place, "factors": Factors}.get(document, Scheme), path)


def casts(spec: LeverSpec) -> bool:
    """Say whether a lever's steps need light to be cast anew."""
    return bool(part_of_lever(spec).casts)


def run_order(study: StudySpec) -> list[int]:
    """Return case numbers so that those that share form and shades come one after another, then those that share what follows."""

    def weight(spec: LeverSpec) -> tuple[bool, int]:
        part = part_of_lever(spec)
        return not part.casts, STEPS.index(part.step or "nothing")

    order = sorted(range(len(study.levers)), key=lambda i: weight(study.levers[i]))
    steps = places(sizes(study), range(count(study)))
    numbers: list[int] = np.lexsort([steps[:, i] for i in reversed(order)]).tolist() if order else [0]
    return numbers


def inputs_of(study: StudySpec, one: Case, base: CaseInputs) -> CaseInputs:
    """Return the documents of a case: its steps taken in the order of the levers' ranks."""
    inputs = base
    pairs = sorted(zip(study.levers, one.steps, strict=True), key=lambda pair: LEVERS[pair[0].kind].rank)
    for spec, step in pairs:
        inputs = LEVERS[spec.kind].apply(spec, step, inputs)
    return inputs
