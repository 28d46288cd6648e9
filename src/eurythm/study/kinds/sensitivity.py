"""Sensitivity: cases chosen so that each lever's part in the outcome can be told."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.model.errors import EurythmError
from eurythm.model.study import StudySpec
from eurythm.study.kinds.base import MOST_CASES, Rows, axes_of, bounded, from_unit, needs_levers, size_within

LEVELS = 4
"""Levels of the grid on which elementary effects walk (Morris 1991)."""


def problem(study: StudySpec) -> dict[str, Any]:
    """Return the axes of a study as SALib takes them: the unit cube."""
    axes = axes_of(study)
    return {"num_vars": len(axes), "names": [f"x{k}" for k in range(len(axes))], "bounds": [[0.0, 1.0]] * len(axes)}


def unit_points(study: StudySpec) -> NDArray[np.float64]:
    """Return the points of the unit cube at which a study's cases lie, (cases, axes), in the order that SALib expects of outcomes."""
    size = Sensitivity().size(study)
    if _variance(study):
        from SALib.sample import sobol

        points: NDArray[np.float64] = sobol.sample(problem(study), size, calc_second_order=False, seed=study.seed)
    else:
        from SALib.sample import morris

        points = morris.sample(problem(study), size, num_levels=LEVELS, seed=study.seed)
    return points


def _variance(study: StudySpec) -> bool:
    return study.method == "variance"


class Sensitivity:
    """Which levers drive the outcome? Elementary effects (Morris 1991), or variance-based indices (Saltelli 2010), by SALib."""

    drawn = True

    def size(self, study: StudySpec) -> int:
        """Return the number of trajectories, or of base points, which is a power of two."""
        if not _variance(study):
            return size_within(study, 10, 2, MOST_CASES, "Trajectories")
        size = size_within(study, 64, 8, MOST_CASES, "Base points")
        if size & (size - 1):
            raise EurythmError("no-power-of-two", f"Base points come in powers of two; {size:,} is none.", "size")
        return size

    def check(self, study: StudySpec) -> None:
        needs_levers(study)
        if len(axes_of(study)) < 2:
            raise EurythmError("one-lever", "A sensitivity asks which of several levers matters; choose at least two.", "levers")
        if study.left_out:
            raise EurythmError("left-out", "A sensitivity needs all combinations; take the conditions away.", "left_out")
        bounded(self.count(study))

    def count(self, study: StudySpec) -> int:
        return self.size(study) * (len(axes_of(study)) + (2 if _variance(study) else 1))

    def rows(self, study: StudySpec) -> Rows:
        return from_unit(study, unit_points(study))
