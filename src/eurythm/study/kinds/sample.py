"""A quasi-random sample of the levers' ranges and steps."""

from __future__ import annotations

import warnings
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from eurythm.model.study import StudySpec
from eurythm.study.kinds.base import MOST_CASES, Rows, axes_of, blocks_left_in, needs_levers, size_within

USUAL = 128
BLOCK = 256
MOST_TRIED = 200
"""So many points are drawn for each case that is wanted, before conditions are said to leave nothing."""


class Sample:
    """Where do many levers matter? The first cases of a larger sample are those of a smaller one, so that it can be extended.

    Points are scrambled Sobol' (Owen 1998) or Halton points, by `scipy.stats.qmc`.
    """

    drawn = True

    def check(self, study: StudySpec) -> None:
        needs_levers(study)
        self.count(study)
        self.rows(study.model_copy(update={"size": None}) if study.left_out else study)

    def count(self, study: StudySpec) -> int:
        least = 2 * (len(axes_of(study)) + 1)
        return size_within(study, USUAL, least, MOST_CASES, f"A sample of {len(study.levers)} levers")

    def rows(self, study: StudySpec) -> Rows:
        wanted = self.count(study)
        return blocks_left_in(study, _points(study), wanted, MOST_TRIED * max(wanted, BLOCK))


def _points(study: StudySpec) -> Iterator[NDArray[np.float64]]:
    from scipy.stats import qmc  # costs a quarter of a second

    engine = (qmc.Halton if study.method == "halton" else qmc.Sobol)(len(axes_of(study)), scramble=True, rng=study.seed)
    while True:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", UserWarning)  # that other numbers than powers of two lose some balance
            yield engine.random(BLOCK)
