"""The lever on a price, an emission factor or another figure of the project's factors."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from pydantic import BaseModel

from eurythm.model.errors import EurythmError
from eurythm.model.field import notes
from eurythm.model.project import CarrierFactors, Factors
from eurythm.model.reading import dump, read_document
from eurythm.model.study import LeverSpec
from eurythm.study.levers.base import CaseInputs, Offer, number
from eurythm.study.levers.fields import steps_of

CARRIERS = {name: name.replace("_", " ") for name, info in Factors.model_fields.items() if isinstance(info.default, CarrierFactors)}
VARIED = ("price", "growth", "carbon")
"""Figures of a carrier that are offered; bands by the hour give way to one value."""
OTHERS = ("export_price", "money/discount_rate")


class FactorLever:
    """One figure of the factors by its path, e.g. ``electricity/price``; it is the same for all schemes of a case."""

    kind = "factor"
    rank = 3

    def sets(self, spec: LeverSpec) -> str:
        return f"factors/{spec.path}"

    def offers(self, inputs: CaseInputs) -> list[Offer]:
        paths = [f"{carrier}/{name}" for carrier in CARRIERS for name in VARIED] + list(OTHERS)
        found = []
        for path in paths:
            model, name, value = _at(inputs.factors, path)
            note = notes(model, name)
            title, unit = _title(path, note), str(note.get("unit", ""))
            found.append(Offer(self.kind, path, title, unit, "plant", steps_of(model, name, value, note), [], bool(note.get("share"))))
        return found

    def title(self, spec: LeverSpec, inputs: CaseInputs) -> str:
        path = _path(spec)
        model, name, _ = _at(inputs.factors, path)
        return _title(path, notes(model, name))

    def unit(self, spec: LeverSpec) -> str:
        model, name, _ = _at(Factors(), _path(spec))
        return str(notes(model, name).get("unit", ""))

    def label(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> str:
        model, name, _ = _at(inputs.factors, _path(spec))
        value = number(step, self.title(spec, inputs))
        return f"{value * 100:g}%" if notes(model, name).get("share") else f"{value:g} {self.unit(spec)}".strip()

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        return _at(inputs.factors, _path(spec))[2]

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        path = _path(spec)
        _at(inputs.factors, path)
        data = dump(inputs.factors)
        held = data
        *way, last = path.split("/")
        for part in way:
            held = held.setdefault(part, {})
        held[last] = number(step, self.title(spec, inputs))
        held.pop(f"{last}_hours", None)
        return replace(inputs, factors=read_document(Factors, data, "factors"))


def _path(spec: LeverSpec) -> str:
    carrier, _, name = (spec.path or "").partition("/")
    if spec.path in OTHERS or (carrier in CARRIERS and name in VARIED):
        return str(spec.path)
    raise EurythmError("no-lever", f"“{spec.path}” is no price or factor that can be varied.", f"levers/{spec.path}")


def _at(factors: Factors, path: str) -> tuple[type[BaseModel], str, Any]:
    here: BaseModel = factors
    *way, last = path.split("/")
    for part in way:
        here = getattr(here, part)
    return type(here), last, getattr(here, last)


def _title(path: str, note: Mapping[str, Any]) -> str:
    carrier = path.partition("/")[0]
    title = str(note.get("title", path))
    return f"{title} of {CARRIERS[carrier]}" if carrier in CARRIERS else title
