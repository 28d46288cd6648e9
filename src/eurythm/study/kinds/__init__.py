"""Kinds of study: each says what its cases are. A new one is a small class in a module of this folder."""

from __future__ import annotations

from eurythm.study.kinds.base import Kind, Rows
from eurythm.study.kinds.every import Every
from eurythm.study.kinds.measures import Measures
from eurythm.study.kinds.sample import Sample
from eurythm.study.kinds.search import Search
from eurythm.study.kinds.sensitivity import Sensitivity

KINDS: dict[str, Kind] = {"every": Every(), "measures": Measures(), "sample": Sample(), "sensitivity": Sensitivity(), "search": Search()}
"""Every kind of study by its name in `StudySpec.kind`."""

__all__ = ["KINDS", "Kind", "Rows"]
