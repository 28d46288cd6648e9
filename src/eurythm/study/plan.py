"""A plan of cases: what a study's levers and measures are, what its cases are, and the documents of each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations, pairwise
from typing import Any, overload

import numpy as np
from numpy.typing import NDArray

from eurythm.model.errors import EurythmError
from eurythm.model.part import STEPS, Part, part_at
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.scheme import Scheme
from eurythm.model.study import LeverSpec, StudySpec
from eurythm.simulate import building_of
from eurythm.study.kinds import KINDS, Rows
from eurythm.study.kinds.base import key_of
from eurythm.study.kinds.measures import lever_of
from eurythm.study.levers import LEVERS, CaseInputs
from eurythm.study.outcomes import check_outcomes, of_zones

PARTS = 10
"""Into so many parts a range is cut where cases are counted by it."""
DIGITS = 4
"""Significant digits in which a range's values are told."""


@dataclass(frozen=True)
class Case:
    """One case: its number in the plan and the step or value taken of each lever."""

    number: int
    steps: tuple[Any, ...]


@dataclass(frozen=True)
class LeverView:
    """A lever as it is shown: its title, unit, steps and their labels, and where the scheme stands.

    Of a range, `low` and `high` are its ends, the steps are the middles of equal parts and the labels say from where to where they go.
    """

    kind: str
    path: str | None
    key: str
    title: str
    unit: str
    steps: tuple[Any, ...]
    labels: tuple[str, ...]
    current: Any
    low: float | None = None
    high: float | None = None
    tied: str | None = None


def levers_of(study: StudySpec) -> tuple[LeverSpec, ...]:
    """Return the levers of a study; of measures each is one, left or taken."""
    return tuple(lever_of(m) for m in study.measures) if study.kind == "measures" else study.levers


def check(study: StudySpec, inputs: CaseInputs) -> list[LeverView]:
    """Check that every lever exists, every step can be taken on its own and the kind of study can be run; return the levers as shown.

    Raises
    ------
    EurythmError
        Naming the lever, or what else is wrong.
    """
    check_outcomes(study, zones_named(study, inputs))
    KINDS[study.kind].check(study)
    return shown(study, inputs)


def zones_named(study: StudySpec, inputs: CaseInputs) -> dict[str, str]:
    """Return the names of the scheme's zones by their ids, none where the study asks about none. Raises EurythmError where the form is impossible."""
    return {z.id: z.name for z in building_of(inputs.place, inputs.scheme).zones} if of_zones(study) else {}


def shown(study: StudySpec, inputs: CaseInputs) -> list[LeverView]:
    """Return the levers of a study as they are shown. Raises EurythmError, naming the lever."""
    if study.kind == "measures":
        return _measures(study, inputs)
    seen: set[str] = set()
    views = []
    for spec in study.levers:
        views.append(_checked(spec, inputs))
        if views[-1].key in seen:
            raise EurythmError("lever-twice", f"The lever “{views[-1].key}” is named twice.", f"levers/{views[-1].key}")
        seen.add(views[-1].key)
    _apart([(LEVERS[spec.kind].sets(spec), view.title) for spec, view in zip(study.levers, views, strict=True)])
    return views


def _checked(spec: LeverSpec, inputs: CaseInputs) -> LeverView:
    if spec.kind not in LEVERS:
        raise EurythmError("no-such-lever", f"There is no lever “{spec.kind}”; there are {', '.join(LEVERS)}.", "levers")
    lever, key = LEVERS[spec.kind], key_of(spec)
    if len({repr(s) for s in spec.steps}) != len(spec.steps):
        raise EurythmError("step-twice", f"A step of “{key}” is named twice.", f"levers/{key}")
    ends = [spec.low, spec.high] if spec.is_range else []
    for step in (*spec.steps, *ends):
        lever.apply(spec, step, inputs)
    steps, labels = spec.steps, tuple(lever.label(spec, step, inputs) for step in spec.steps)
    if spec.low is not None and spec.high is not None:
        own = next((o for o in lever.offers(inputs) if (o.kind, o.path) == (spec.kind, spec.path)), None)
        if isinstance(lever.current(spec, inputs), bool | str) or (own is not None and (own.choices or own.whole)):
            raise EurythmError("no-range", f"“{lever.title(spec, inputs)}” goes by steps; give these in place of a range.", f"levers/{key}")
        edges = [float(f"{edge:.{DIGITS}g}") for edge in np.linspace(spec.low, spec.high, PARTS + 1)]
        told = [lever.label(spec, edge, inputs) for edge in edges]
        labels = tuple(f"{a} to {b}" for a, b in pairwise(told))
        steps = tuple((a + b) / 2 for a, b in pairwise(edges))
    return LeverView(
        spec.kind, spec.path, key, lever.title(spec, inputs), lever.unit(spec), steps, labels, lever.current(spec, inputs),
        spec.low, spec.high, spec.tied,
    )  # fmt: skip


def _measures(study: StudySpec, inputs: CaseInputs) -> list[LeverView]:
    set_by: list[tuple[str, str]] = []
    for measure in study.measures:
        here = inputs
        for change in measure.changes:
            if change.kind not in LEVERS:
                raise EurythmError("no-such-lever", f"There is no lever “{change.kind}”.", f"measures/{measure.id}")
            here = LEVERS[change.kind].apply(change.lever, change.step, here)
            set_by.append((LEVERS[change.kind].sets(change.lever), measure.name))
    _apart(set_by)
    return [LeverView("measure", m.id, key_of(lever_of(m)), m.name, "", (False, True), ("without", "with"), False) for m in study.measures]


def _apart(set_by: Sequence[tuple[str, str]]) -> None:
    """Refuse levers of which one sets what another has set; a whole scheme is chosen before all else, so that it goes with any."""
    for (one, first), (other, second) in combinations(set_by, 2):
        if "scheme" not in (one, other) and (f"{one}/".startswith(f"{other}/") or f"{other}/".startswith(f"{one}/")):
            raise EurythmError("levers-collide", f"“{first}” and “{second}” set the same value; leave one of them out.", "levers")


def count(study: StudySpec) -> int:
    """Return the number of cases; of a search, the most that it may run."""
    return KINDS[study.kind].count(study)


def rows_of(study: StudySpec) -> Rows:
    """Return the cases that are known before any has run: the place of each lever's step, or the value in its range."""
    return KINDS[study.kind].rows(study)


def case_at(study: StudySpec, number: int, row: Sequence[float] | NDArray[np.float64]) -> Case:
    """Return a case by its number and its row."""
    levers = levers_of(study)
    return Case(number, tuple(float(v) if spec.is_range else spec.steps[int(v)] for spec, v in zip(levers, row, strict=True)))


class CaseList(Sequence[Case]):
    """Cases in some order, each made when it is asked for: so many lie in two arrays where objects would take a hundred times as much."""

    def __init__(self, study: StudySpec, numbers: Sequence[int] | NDArray[np.int64], rows: Rows, first: int = 0) -> None:
        """Hold cases by their numbers; row k of `rows` is the case with the number `first` + k."""
        self.study, self.numbers, self.rows, self.first = study, np.asarray(numbers, dtype=np.int64), rows, first

    def __len__(self) -> int:
        return len(self.numbers)

    @overload
    def __getitem__(self, at: int) -> Case: ...

    @overload
    def __getitem__(self, at: slice) -> CaseList: ...

    def __getitem__(self, at: int | slice) -> Case | CaseList:
        if isinstance(at, slice):
            return CaseList(self.study, self.numbers[at], self.rows, self.first)
        number = int(self.numbers[at])
        return case_at(self.study, number, self.rows[number - self.first])

    def chosen(self, which: NDArray[np.bool_]) -> CaseList:
        """Return some of them."""
        return CaseList(self.study, self.numbers[which], self.rows, self.first)


def case(study: StudySpec, number: int) -> Case:
    """Return one of the cases that are known before any has run, by its number."""
    return case_at(study, number, rows_of(study)[number])


def part_of_lever(spec: LeverSpec) -> Part:
    """Return what part a lever's steps play in the pipeline, as the field says that they change."""
    document, _, path = LEVERS[spec.kind].sets(spec).partition("/")
    if not path:
        return Part("form", casts=True)
    return part_at({"place": Place, "factors": Factors}.get(document, Scheme), path)


def _weight(parts: Sequence[Part]) -> tuple[bool, int]:
    return not any(p.casts for p in parts), min(STEPS.index(p.step or "nothing") for p in parts)


def _parts(study: StudySpec) -> list[list[Part]]:
    """What parts each lever's steps play; of a measure those of all its changes."""
    if study.kind == "measures":
        return [[part_of_lever(change.lever) for change in m.changes] for m in study.measures]
    return [[part_of_lever(spec)] for spec in study.levers]


def casting(study: StudySpec) -> list[int]:
    """Return the levers, by their places, whose steps need light to be cast anew."""
    return [k for k, parts in enumerate(_parts(study)) if any(p.casts for p in parts)]


def run_order(study: StudySpec, rows: Rows | None = None) -> list[int]:
    """Return case numbers so that those that share form and shades come one after another, then those that share what follows."""
    rows = rows_of(study) if rows is None else rows
    parts = _parts(study)
    order = sorted(range(rows.shape[1]), key=lambda i: _weight(parts[i]))
    numbers: list[int] = np.lexsort([rows[:, i] for i in reversed(order)]).tolist() if order else list(range(len(rows)))
    return numbers


def in_order(study: StudySpec) -> CaseList:
    """Return the cases that are known before any has run, in the order in which they run."""
    rows = rows_of(study)
    return CaseList(study, run_order(study, rows), rows)


def step_labels(study: StudySpec, views: Sequence[LeverView], one: Case, inputs: CaseInputs) -> list[str]:
    """Return what a case is called by: the label of each step or value, of measures the names of those taken."""
    if study.kind == "measures":
        return [view.title for view, taken in zip(views, one.steps, strict=True) if taken] or ["baseline"]
    labels = []
    for spec, view, step in zip(study.levers, views, one.steps, strict=True):
        if spec.is_range:
            labels.append(LEVERS[spec.kind].label(spec, float(f"{step:.{DIGITS}g}"), inputs))
        else:
            labels.append(view.labels[[repr(s) for s in view.steps].index(repr(step))])
    return labels


def inputs_of(study: StudySpec, one: Case, base: CaseInputs) -> CaseInputs:
    """Return the documents of a case: its steps taken in the order of the levers' ranks."""
    taken: list[tuple[LeverSpec, Any]]
    if study.kind == "measures":
        taken = [(c.lever, c.step) for m, on in zip(study.measures, one.steps, strict=True) if on for c in m.changes]
    else:
        taken = list(zip(study.levers, one.steps, strict=True))
    inputs = base
    for spec, step in sorted(taken, key=lambda pair: LEVERS[pair[0].kind].rank):
        inputs = LEVERS[spec.kind].apply(spec, step, inputs)
    return inputs
