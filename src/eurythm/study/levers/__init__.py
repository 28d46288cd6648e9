"""Levers: each is a change to the documents, with its steps. A new one is a small class in a module of this folder."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from eurythm.model.errors import EurythmError
from eurythm.model.study import Change, LeverSpec
from eurythm.study.levers.base import CaseInputs, Lever, Offer
from eurythm.study.levers.fields import field_at


def found() -> list[Lever]:
    """Return one of each class in the modules of this folder that is a kind of lever."""
    modules = [import_module(f"{__name__}.{m.name}") for m in iter_modules(__path__)]
    classes = [c for m in modules for c in vars(m).values() if isinstance(c, type) and c.__module__ == m.__name__ and hasattr(c, "kind")]
    return [c() for c in classes]


LEVERS: dict[str, Lever] = {lever.kind: lever for lever in sorted(found(), key=lambda lever: lever.rank)}
"""Every kind of lever, in the order in which they are applied: whole documents first, single fields last."""


def changes_between(inputs: CaseInputs, other: CaseInputs) -> list[Change]:
    """Return what makes one scheme like another one, as steps of the levers that both have; what no lever can change is left out."""
    found = []
    for lever in (LEVERS["turn"], LEVERS["field"]):
        for offer in lever.offers(inputs):
            spec = LeverSpec(kind=offer.kind, path=offer.path, steps=(0,))
            try:
                mine, wanted = lever.current(spec, inputs), lever.current(spec, other)
                follows = offer.path is not None and field_at(other.scheme, offer.path)[2] is None
            except EurythmError:
                continue  # the other scheme has no such part
            if follows:
                continue  # nobody gave it there: it comes with what was, such as the figures of a system with its kind
            if wanted is not None and wanted != mine and isinstance(wanted, bool | int | float | str):
                found.append(Change(kind=offer.kind, path=offer.path, step=wanted))
    return found


__all__ = ["LEVERS", "CaseInputs", "Lever", "Offer", "changes_between"]
