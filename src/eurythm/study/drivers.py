"""Which levers drive an outcome: from a sample by regression and by distribution, from a sensitivity by effects or by variance."""

from __future__ import annotations

import warnings
from collections.abc import Mapping
from dataclasses import dataclass
from math import comb

import numpy as np
from numpy.typing import NDArray

from eurythm.model.errors import EurythmError
from eurythm.model.study import StudySpec
from eurythm.study.kinds import Rows
from eurythm.study.kinds.base import axes_of, from_unit, key_of
from eurythm.study.kinds.sensitivity import LEVELS, problem, unit_points

Series = NDArray[np.float64]


@dataclass(frozen=True)
class Driver:
    """What a lever, or levers that are tied, do to an outcome.

    Attributes
    ----------
    lever : key of the lever; `tied` those of the levers that move with it
    figures : by name, in the outcome's unit unless said otherwise:
        of a sample ``slope`` (from one end of the lever to the other, by linear regression), ``rank`` (standardised rank coefficient, -1
        to 1), ``distribution`` (median Kolmogorov-Smirnov distance, 0 to 1: PAWN, Pianosi and Wagener 2015);
        of elementary effects ``mean``, ``mean_size`` and ``spread`` (mu, mu* and sigma of Campolongo 2007, from end to end of the lever)
        and ``unsure`` (half the 95% interval of mu*);
        of variance ``first`` and ``total`` (shares of the outcome's variance: the lever's own, and with all that it takes part in) with
        ``first_unsure`` and ``total_unsure``
    """

    lever: str
    figures: Mapping[str, float]
    tied: tuple[str, ...] = ()


@dataclass(frozen=True)
class Drivers:
    """All levers, the strongest first; `fit` is the share of a sample's variance that the regression explains, None elsewhere."""

    method: str
    drivers: list[Driver]
    fit: float | None = None
    sorted_by: str = ""


def _axis_values(study: StudySpec, rows: Rows) -> Series:
    """Where each case stands on each axis, from 0 to 1: of steps by their place."""
    columns = []
    for axis in axes_of(study):
        k = axis.levers[0]
        spec = study.levers[k]
        if spec.low is not None and spec.high is not None:
            columns.append((rows[:, k] - spec.low) / (spec.high - spec.low))
        else:
            columns.append(rows[:, k] / max(axis.steps - 1, 1))
    return np.stack(columns, axis=1)


def _named(study: StudySpec, figures: list[dict[str, float]], method: str, by: str, fit: float | None = None) -> Drivers:
    found = []
    for axis, own in zip(axes_of(study), figures, strict=True):
        first, *others = (key_of(study.levers[k]) for k in axis.levers)
        found.append(Driver(first, own, tuple(others)))
    return Drivers(method, sorted(found, key=lambda d: -abs(d.figures[by])), fit, by)


def of_sample(study: StudySpec, rows: Rows, values: Series) -> Drivers:
    """Return what drives an outcome, from any sample of finished cases, (cases, levers) and (cases,).

    Raises
    ------
    EurythmError
        ``too-few`` where a regression says nothing.
    """
    from scipy.stats import rankdata

    x = _axis_values(study, rows)
    if len(values) < 2 * (x.shape[1] + 1):
        raise EurythmError("too-few", f"{len(values)} finished cases say nothing of {x.shape[1]} levers yet.", "size")
    slopes, fit = _regressed(x, values)
    ranks, _ = _regressed(np.apply_along_axis(rankdata, 0, x), rankdata(values), standard=True)
    apart = _by_distribution(x, values)
    figures = [{"slope": float(s), "rank": float(r), "distribution": float(d)} for s, r, d in zip(slopes, ranks, apart, strict=True)]
    return _named(study, figures, "sample", "slope", fit)


def _regressed(x: Series, y: Series, standard: bool = False) -> tuple[Series, float]:
    """Return coefficients of a linear regression, and the share of the variance that it explains."""
    if standard:
        spread = x.std(axis=0)
        x, y = (x - x.mean(axis=0)) / np.where(spread > 0, spread, 1.0), (y - y.mean()) / (y.std() or 1.0)
    terms = np.column_stack([np.ones(len(y)), x])
    found: Series = np.linalg.lstsq(terms, y, rcond=None)[0].astype(np.float64)
    left = y - terms @ found
    whole = float(((y - y.mean()) ** 2).sum())
    return found[1:], 1.0 - float((left**2).sum()) / whole if whole > 0 else 1.0


def _by_distribution(x: Series, y: Series) -> Series:
    if np.ptp(y) == 0:
        return np.zeros(x.shape[1])
    from SALib.analyze import pawn

    names = {"num_vars": x.shape[1], "names": [f"x{k}" for k in range(x.shape[1])], "bounds": [[0.0, 1.0]] * x.shape[1]}
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # parts of a range in which no case lies
        told = pawn.analyze(names, x, y, S=min(10, max(2, len(y) // 12)), print_to_console=False)
    found: Series = np.nan_to_num(np.asarray(told["median"], dtype=np.float64))
    return found


def of_sensitivity(study: StudySpec, rows: Rows, values: Series) -> Drivers:
    """Return what drives an outcome, from all cases of a sensitivity in their order, nan where one failed.

    Raises
    ------
    EurythmError
        ``not-finished`` where a case has no figure yet or failed, ``other-points`` where the cases were drawn in another way.
    """
    missing = int(np.isnan(values).sum())
    if missing:
        raise EurythmError("not-finished", f"{missing} of {len(values)} cases have no figure; a sensitivity needs all of them.", "cases")
    points = unit_points(study)
    if not np.array_equal(from_unit(study, points), rows):
        raise EurythmError("other-points", "These cases were drawn by another version; ask the study again.", "cases")
    if study.method == "variance":
        from SALib.analyze import sobol

        if np.ptp(values) == 0:
            raise EurythmError("no-change", "The outcome is the same in all cases.", "cases")
        told = sobol.analyze(problem(study), values, calc_second_order=False, seed=study.seed)
        names = {"first": "S1", "total": "ST", "first_unsure": "S1_conf", "total_unsure": "ST_conf"}
        by = "total"
    else:
        from SALib.analyze import morris

        told = morris.analyze(problem(study), points, values, num_levels=LEVELS, seed=study.seed)
        names = {"mean": "mu", "mean_size": "mu_star", "spread": "sigma", "unsure": "mu_star_conf"}
        by = "mean_size"
    figures = [{name: float(told[of][k]) for name, of in names.items()} for k in range(len(axes_of(study)))]
    return _named(study, figures, study.method or "elementary", by)


def shares_of(rows: Rows, values: Series) -> tuple[Series, Series, Series]:
    """Return what each measure brings alone, on top of all the others, and its share of what all bring together.

    The share is the mean over all orders in which the measures can be taken (Shapley 1953), exact where every mix has run; nan where a
    mix that it needs has not.

    Parameters
    ----------
    rows : (cases, measures), 1 where a measure is taken
    values : (cases,), nan where a case has none
    """
    k = rows.shape[1]
    bits = rows.astype(np.int64) @ (1 << np.arange(k))
    known = {int(b): float(v) for b, v in zip(bits, values, strict=True)}

    def value(mask: int) -> float:
        return known.get(mask, float("nan"))

    every = (1 << k) - 1
    alone = np.array([value(1 << i) - value(0) for i in range(k)])
    last = np.array([value(every) - value(every & ~(1 << i)) for i in range(k)])
    if len(known) < 1 << k:
        return alone, last, np.full(k, np.nan)
    masks = np.arange(1 << k)
    table = np.array([value(int(m)) for m in masks])
    size = np.array([int(m).bit_count() for m in masks])
    weight = np.array([1.0 / (k * comb(k - 1, s)) if s < k else 0.0 for s in range(k + 1)])
    shares = np.empty(k)
    for i in range(k):
        without = masks[(masks >> i) & 1 == 0]
        shares[i] = (weight[size[without]] * (table[without | (1 << i)] - table[without])).sum()
    return alone, last, shares
