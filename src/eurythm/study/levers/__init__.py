"""Levers: each is a change to the documents, with its steps. A new one is a small class in this folder."""

from __future__ import annotations

from eurythm.study.levers.base import CaseInputs, Lever
from eurythm.study.levers.documents import ClimateLever, SchemeLever
from eurythm.study.levers.fields import FieldLever
from eurythm.study.levers.skin import FinLever, GlassLever, OverhangLever, TurnLever

LEVERS: dict[str, Lever] = {
    lever.kind: lever for lever in (SchemeLever(), ClimateLever(), TurnLever(), GlassLever(), OverhangLever(), FinLever(), FieldLever())
}
"""Every kind of lever, in the order in which they are applied: whole documents first, single fields last."""

__all__ = ["LEVERS", "CaseInputs", "Lever"]
