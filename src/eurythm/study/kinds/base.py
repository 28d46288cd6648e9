"""What a kind of study is, and how points of the unit cube become cases."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from eurythm.model.errors import EurythmError
from eurythm.model.study import LeverSpec, StudySpec

Rows = NDArray[np.float64]
"""(cases, levers): the place of the step that a case takes of a lever, or the value where the lever goes through a range."""


Outcomes = Mapping[str, float | None]
"""Figures of a case by their ids; none of one that failed."""
Known = Callable[[range], Sequence[Outcomes]]
"""Says what cases came to, by their numbers."""


class Kind(Protocol):
    """A kind of study."""

    drawn: bool
    """Whether its cases are drawn, and so kept as they were; of others the number says which case it is."""

    def check(self, study: StudySpec) -> None:
        """Refuse what this kind cannot answer. Raises EurythmError."""

    def count(self, study: StudySpec) -> int:
        """Return how many cases it has at most, without making them."""

    def rows(self, study: StudySpec) -> Rows:
        """Return the cases that are known before any has run."""


@dataclass(frozen=True)
class Axis:
    """Levers that move together: their places in the study, and how many steps they have; 0 for a range."""

    levers: tuple[int, ...]
    steps: int


def key_of(spec: LeverSpec) -> str:
    """Name a lever in tables: the path of its field or the id of its measure, else its kind, with what it is a lever on."""
    if spec.kind in ("field", "factor", "measure") and spec.path:
        return spec.path
    return f"{spec.kind}/{spec.path}" if spec.path else spec.kind


def axes_of(study: StudySpec) -> list[Axis]:
    """Return the axes of a study: each lever its own, but those that are tied.

    Raises
    ------
    EurythmError
        ``tied-unlike`` where tied levers have different numbers of steps.
    """
    groups: dict[str, list[int]] = {}
    for k, spec in enumerate(study.levers):
        groups.setdefault(f"tied {spec.tied}" if spec.tied else f"alone {k}", []).append(k)
    axes = []
    for name, members in groups.items():
        sizes = {len(study.levers[k].steps) for k in members}
        if len(sizes) > 1:
            told = ", ".join(f"“{key_of(study.levers[k])}” {len(study.levers[k].steps) or 'a range'}" for k in members)
            raise EurythmError("tied-unlike", f"Levers that are tied need as many steps each; here {told}.", f"levers/{name[5:]}")
        axes.append(Axis(tuple(members), sizes.pop()))
    return axes


def spread_out(study: StudySpec, axes: list[Axis], of_axes: NDArray[np.float64]) -> Rows:
    """Return rows by lever from places or values by axis; of an axis of ranges the value is a share of the way, 0 to 1."""
    rows = np.empty((len(of_axes), len(study.levers)))
    for column, axis in zip(of_axes.T, axes, strict=True):
        for k in axis.levers:
            spec = study.levers[k]
            rows[:, k] = spec.low + column * (spec.high - spec.low) if spec.low is not None and spec.high is not None else column
    return rows


def from_unit(study: StudySpec, unit: NDArray[np.float64]) -> Rows:
    """Return the cases at points of the unit cube, (cases, axes): steps take equal parts of an edge, ranges all of it."""
    axes = axes_of(study)
    steps = np.array([axis.steps for axis in axes])
    placed = np.where(steps > 0, np.minimum(np.floor(unit * steps), steps - 1), unit)
    return spread_out(study, axes, placed)


def left_in(study: StudySpec, rows: Rows) -> NDArray[np.bool_]:
    """Say of each row whether no condition leaves it out.

    Raises
    ------
    EurythmError
        ``no-such-lever``, ``no-such-step`` where a condition names none of the study's.
    """
    keys = [key_of(spec) for spec in study.levers]
    kept = np.ones(len(rows), dtype=bool)
    for one in study.left_out:
        met = np.ones(len(rows), dtype=bool)
        for condition in one.when:
            if condition.lever not in keys:
                raise EurythmError("no-such-lever", f"A condition names “{condition.lever:.60}”, which is no lever here.", "left_out")
            k = keys.index(condition.lever)
            steps = [repr(step) for step in study.levers[k].steps]
            for step in condition.steps:
                if repr(step) not in steps:
                    raise EurythmError("no-such-step", f"A condition names {step!r:.40}, which is no step of “{keys[k]}”.", "left_out")
            met &= np.isin(rows[:, k], [steps.index(repr(step)) for step in condition.steps])
        kept &= ~met
    return kept


def needs_levers(study: StudySpec) -> None:
    """Refuse a study without levers. Raises EurythmError ``no-levers``."""
    if not study.levers:
        raise EurythmError("no-levers", "Choose at least one lever.", "levers")


def needs_some(rows: Rows) -> Rows:
    """Return the rows. Raises EurythmError ``nothing-left`` where conditions leave none."""
    if not len(rows):
        raise EurythmError("nothing-left", "The conditions leave every combination out; take one of them away.", "left_out")
    return rows


def blocks_left_in(study: StudySpec, unit: Iterator[NDArray[np.float64]], wanted: int, most: int) -> Rows:
    """Return the first `wanted` cases of blocks of points that no condition leaves out; gives up after `most` points.

    Raises
    ------
    EurythmError
        ``nothing-left`` where nearly all points are left out.
    """
    found: list[Rows] = []
    have = tried = 0
    for block in unit:
        rows = from_unit(study, block)
        rows = rows[left_in(study, rows)]
        found.append(rows)
        have, tried = have + len(rows), tried + len(block)
        if have >= wanted:
            break
        if tried >= most:
            raise EurythmError("nothing-left", f"The conditions leave only {have:,} of {tried:,} drawn combinations.", "left_out")
    return np.concatenate(found)[:wanted]


def size_within(study: StudySpec, usual: int, least: int, most: int, what: str) -> int:
    """Return the size of a study, the usual one where none is given. Raises EurythmError ``wrong-size``."""
    size = usual if study.size is None else study.size
    if not least <= size <= most:
        raise EurythmError("wrong-size", f"{what} may be {least:,} to {most:,}; {size:,} was asked for.", "size")
    return size


MOST_CASES = 200_000
"""More are not run in one study."""


def bounded(total: int) -> int:
    """Return a number of cases. Raises EurythmError ``too-many-cases``."""
    if total > MOST_CASES:
        raise EurythmError("too-many-cases", f"These steps make {total:,} cases; at most {MOST_CASES:,} run at once.", "levers")
    return total
