"""The outcomes that cases of a study have: those of every building, and those of single zones that it names."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from eurythm.assess.figures import OF_CASES, OF_ZONE, WORST, Figure, figure_by, figures_of
from eurythm.model.errors import EurythmError
from eurythm.model.study import StudySpec


def of_zones(study: StudySpec) -> tuple[str, ...]:
    """Return the ids of the outcomes of single zones that a study names."""
    return tuple(id for id in study.named_outcomes if OF_ZONE in id)


def outcomes_of(study: StudySpec) -> tuple[Figure, ...]:
    """Return the outcomes that its cases have."""
    return (*figures_of(*OF_CASES), *(figure_by(id) for id in of_zones(study)))


def check_outcomes(study: StudySpec, zones: Mapping[str, str]) -> None:
    """Check that there is every outcome that a study names, and every zone, given with its name.

    Raises
    ------
    EurythmError
        ``no-such-figure`` or ``no-such-zone``, with the part of the study that names it.
    """
    parts: Sequence[tuple[str, Sequence[Any]]] = (
        ("outcomes", study.outcomes),
        ("goals", [goal.outcome for goal in study.goals]),
        ("limits", [limit.outcome for limit in study.limits]),
    )
    for part, ids in parts:
        for id in ids:
            try:
                figure = figure_by(id)
            except KeyError:
                figure = None
            zone = id.partition(OF_ZONE)[2]
            if figure is None or (figure.scope not in OF_CASES and not zone):
                raise EurythmError("no-such-figure", f"Cases have no figure “{id:.60}”.", part)
            if zone and zone != WORST and zone not in zones:
                raise EurythmError("no-such-zone", f"The scheme has no zone “{zone:.60}” to tell an outcome of.", part)
