"""Kinds of study: each says what its cases are. A new one is a small class in a module of this folder."""

from __future__ import annotations

from collections.abc import Iterator

from eurythm.model.study import StudySpec
from eurythm.study.kinds.base import Kind, Known, Rows
from eurythm.study.kinds.every import Every
from eurythm.study.kinds.measures import Measures
from eurythm.study.kinds.sample import Sample
from eurythm.study.kinds.search import Search, generations
from eurythm.study.kinds.sensitivity import Sensitivity

KINDS: dict[str, Kind] = {"every": Every(), "measures": Measures(), "sample": Sample(), "sensitivity": Sensitivity(), "search": Search()}
"""Every kind of study by its name in `StudySpec.kind`."""


def rounds(study: StudySpec, known: Known) -> Iterator[Rows]:
    """Yield the cases of a study, those together that run together: all at once, but of a search each generation when the last has come to something."""
    return generations(study, known) if study.kind == "search" else iter([KINDS[study.kind].rows(study)])


__all__ = ["KINDS", "Kind", "Rows", "rounds"]
