"""Every combination of the levers' steps."""

from __future__ import annotations

from math import prod

import numpy as np

from eurythm.model.errors import EurythmError
from eurythm.model.study import StudySpec
from eurythm.study.kinds.base import Rows, axes_of, bounded, key_of, left_in, needs_levers, needs_some, spread_out


class Every:
    """What does each mix give? The first lever changes slowest."""

    drawn = False

    def check(self, study: StudySpec) -> None:
        needs_levers(study)
        for spec in study.levers:
            if spec.is_range:
                raise EurythmError(
                    "range-without-steps", f"Every combination needs steps; “{key_of(spec)}” has a range.", f"levers/{key_of(spec)}"
                )
        bounded(prod(axis.steps for axis in axes_of(study)))
        if study.left_out:
            self.rows(study)

    def count(self, study: StudySpec) -> int:
        return prod(axis.steps for axis in axes_of(study)) if not study.left_out else len(self.rows(study))

    def rows(self, study: StudySpec) -> Rows:
        axes = axes_of(study)
        sizes = tuple(axis.steps for axis in axes)
        total = bounded(prod(sizes))
        of_axes = np.stack(np.unravel_index(np.arange(total), sizes), axis=1).astype(float) if sizes else np.zeros((1, 0))
        rows = spread_out(study, axes, of_axes)
        return needs_some(rows[left_in(study, rows)]) if study.left_out else rows
