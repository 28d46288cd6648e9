"""Measures: the baseline, each on its own, together, and on top of the others."""

from __future__ import annotations

from itertools import combinations

import numpy as np

from eurythm.model.errors import EurythmError
from eurythm.model.study import LeverSpec, MeasureSpec, StudySpec
from eurythm.study.kinds.base import Rows

EXACT = 6
"""Up to so many measures every mix is run, so that each one's share is exact: 64 cases."""


def lever_of(measure: MeasureSpec) -> LeverSpec:
    """Return a measure as a lever with two steps, left and taken."""
    return LeverSpec(kind="measure", path=measure.id, steps=(False, True))


class Measures:
    """What does each change bring, alone, together, on top of the others?

    Up to six measures every mix is run. Of more: the baseline, each alone, all together, all but each, and the bundles.
    """

    drawn = False

    def check(self, study: StudySpec) -> None:
        if not study.measures:
            raise EurythmError("no-measures", "Choose at least one measure.", "measures")
        if study.levers or study.left_out:
            raise EurythmError("levers-beside-measures", "A study of measures has no levers beside them.", "levers")
        names = [m.id for m in study.measures]
        for name in names:
            if names.count(name) > 1:
                raise EurythmError("measure-twice", f"The measure “{name}” is named twice.", f"measures/{name}")
        for bundle in study.bundles:
            for name in bundle:
                if name not in names:
                    raise EurythmError("no-such-measure", f"A bundle names “{name}”, which is no measure here.", "bundles")

    def count(self, study: StudySpec) -> int:
        return len(self.rows(study))

    def rows(self, study: StudySpec) -> Rows:
        names = [m.id for m in study.measures]
        k = len(names)
        every = range(k)
        sets: list[frozenset[int]]
        if k <= EXACT:
            sets = [frozenset(c) for size in range(k + 1) for c in combinations(every, size)]
        else:
            sets = [frozenset(), *(frozenset({i}) for i in every), *(frozenset(every) - {i} for i in every), frozenset(every)]
            sets += [frozenset(names.index(name) for name in bundle) for bundle in study.bundles]
        rows = np.zeros((len(dict.fromkeys(sets)), k))
        for row, members in zip(rows, dict.fromkeys(sets), strict=True):
            row[sorted(members)] = 1.0
        return rows
