"""What a study says: which levers or measures matter for an outcome, and the best trade-offs, each kind in its own way."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.assess.figures import Sense, figure_by
from eurythm.model.errors import EurythmError
from eurythm.model.study import Limit, StudySpec
from eurythm.study.drivers import Drivers, of_sample, of_sensitivity, shares_of
from eurythm.study.kinds.search import sense_of
from eurythm.study.matters import best_tradeoffs, main_effects, unbettered
from eurythm.study.table import DONE, CaseTable

Series = NDArray[np.float64]


@dataclass(frozen=True)
class Effect:
    """What a lever or a measure does to an outcome.

    Attributes
    ----------
    lever : its key; `tied` those of the levers that move with it
    span : how far the outcome moves by it, the number by which effects are ordered; of variance a share
    means : mean of the outcome at each step or part of a range, None where no case tells
    figures : by name, see `drivers.Driver`; of measures ``alone``, ``last`` and, where every mix ran, ``share``
    left_out : how many cases stand in blocks that are not complete
    """

    lever: str
    span: float
    means: tuple[float | None, ...]
    figures: Mapping[str, float]
    tied: tuple[str, ...]
    left_out: int


@dataclass(frozen=True)
class Missed:
    """By how much a limit is missed, in the unit of the outcome."""

    outcome: str
    by: float


@dataclass(frozen=True)
class Answer:
    """What matters most and the best trade-offs.

    Attributes
    ----------
    method : how effects were got: every, measures, sample, elementary, variance, or search, which tells none of its own
    effects : the strongest first
    fit : share of the variance that a regression explains
    why : why there are no effects, as a sentence
    best : cases within all limits that no other betters in the goals, or in the two outcomes asked about
    nearest : where no case keeps all limits, the one that misses them least, and by how much
    """

    method: str
    effects: list[Effect]
    best: list[int]
    fit: float | None
    why: str
    nearest: int | None
    missed: tuple[Missed, ...]


def answer(study: StudySpec, table: CaseTable, outcome: str, against: str) -> Answer:
    """Answer a study by one outcome, and another one that it is held against.

    Raises
    ------
    EurythmError
        ``no-such-figure``.
    """
    values, others = table.column(outcome), table.column(against)
    done = table.status == DONE
    known = done & ~np.isnan(values)
    method: str = study.kind
    fit, why = None, ""
    effects: list[Effect] = []
    try:
        if study.kind == "measures":
            effects = _of_measures(table, values)
        elif study.kind == "every" and not study.left_out and not any(s.tied for s in study.levers):
            found = main_effects(table.sizes, table.steps[known], values[known])
            effects = [Effect(e.lever, e.span, e.means, {}, (), e.left_out) for e in found]
        elif study.kind == "sensitivity":
            told = of_sensitivity(study, table.rows, np.where(done, values, np.nan))
            method, fit, effects = told.method, told.fit, _of_drivers(told, table, values, known)
        else:
            told = of_sample(study, table.rows[known], values[known])
            method, fit, effects = "sample", told.fit, _of_drivers(told, table, values, known)
    except EurythmError as fault:
        why = fault.message
    within = known & ~np.isnan(others) & (missed_by(study.limits, table) <= 0)
    nearest, missed = _nearest(study.limits, table, known) if study.limits and known.any() and not within.any() else (None, ())
    return Answer(method, effects, _best(study, table, within, outcome, against), fit, why, nearest, missed)


def _of_measures(table: CaseTable, values: Series) -> list[Effect]:
    alone, last, shares = shares_of(table.rows, values)
    found = []
    for key, a, z, s in zip(table.levers, alone, last, shares, strict=True):
        figures = {name: float(v) for name, v in (("alone", a), ("last", z), ("share", s)) if not np.isnan(v)}
        span = figures.get("share", figures.get("alone", 0.0))
        found.append(Effect(key, abs(span), (), figures, (), 0))
    return sorted(found, key=lambda e: -e.span)


def _of_drivers(told: Drivers, table: CaseTable, values: Series, known: NDArray[np.bool_]) -> list[Effect]:
    found = []
    for d in told.drivers:
        k = table.levers.index(d.lever)
        size, steps = table.columns[k].size, table.steps[known, k]
        count = np.bincount(steps, minlength=size)
        sums = np.bincount(steps, values[known], size)
        means = tuple(float(s / n) if n else None for s, n in zip(sums, count, strict=True))
        found.append(Effect(d.lever, abs(d.figures[told.sorted_by]), means, d.figures, d.tied, 0))
    return found


def missed_by(limits: Sequence[Limit], table: CaseTable) -> Series:
    """Return by how much each case misses the limits, as shares of these, added up; nothing where all are kept, nan where one is not known."""
    missed = np.zeros(len(table.status))
    for limit in limits:
        column = table.column(limit.outcome)
        for bound, sign in ((limit.at_most, 1.0), (limit.at_least, -1.0)):
            if bound is not None:
                missed = missed + np.maximum(sign * (column - bound), 0.0) / max(abs(bound), 1e-6)
    return missed


def _nearest(limits: Sequence[Limit], table: CaseTable, known: NDArray[np.bool_]) -> tuple[int | None, tuple[Missed, ...]]:
    by = np.where(known, missed_by(limits, table), np.nan)
    if np.isnan(by).all():
        return None, ()
    number = int(np.nanargmin(by))
    told = []
    for limit in limits:
        value = float(table.column(limit.outcome)[number])
        if limit.at_most is not None and value > limit.at_most:
            told.append(Missed(limit.outcome, value - limit.at_most))
        if limit.at_least is not None and value < limit.at_least:
            told.append(Missed(limit.outcome, value - limit.at_least))
    return number, tuple(told)


def _best(study: StudySpec, table: CaseTable, within: NDArray[np.bool_], outcome: str, against: str) -> list[int]:
    numbers = np.flatnonzero(within)
    if study.kind == "search":
        signs = np.array([-1.0 if sense_of(goal) == "more" else 1.0 for goal in study.goals])
        points = np.stack([table.column(goal.outcome)[numbers] for goal in study.goals], axis=1) * signs
        return sorted(numbers[unbettered(points)].tolist(), key=lambda n: float(table.column(study.goals[0].outcome)[n]))
    mine, other = table.column(outcome), table.column(against)
    senses: tuple[Sense, Sense] = (figure_by(outcome).sense or "less", figure_by(against).sense or "less")
    return best_tradeoffs({n: (float(mine[n]), float(other[n])) for n in numbers.tolist()}, senses)
