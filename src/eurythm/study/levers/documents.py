"""Levers that swap a whole document: the scheme, the climate year."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from eurythm.climate.standin import PLACES
from eurythm.model.errors import EurythmError
from eurythm.model.place import ClimateRef
from eurythm.model.study import LeverSpec
from eurythm.study.levers.base import CaseInputs, Offer, name_of


class SchemeLever:
    """Another scheme of the project: another form, with all that belongs to it."""

    kind = "scheme"
    rank = 0

    def sets(self, spec: LeverSpec) -> str:
        return "scheme"

    def offers(self, inputs: CaseInputs) -> list[Offer]:
        names = [{"id": s.id, "name": s.name} for s in inputs.schemes]
        return [Offer(self.kind, None, "Scheme", "", "shape", [s.id for s in inputs.schemes], names)]

    def title(self, spec: LeverSpec, inputs: CaseInputs) -> str:
        return "Scheme"

    def unit(self, spec: LeverSpec) -> str:
        return ""

    def label(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> str:
        return next((s.name for s in inputs.schemes if s.id == step), str(step))

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        return inputs.scheme.id

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        wanted = name_of(step, "the scheme")
        for scheme in inputs.schemes:
            if scheme.id == wanted:
                return replace(inputs, scheme=scheme)
        raise EurythmError("no-such-scheme", f"This project has no scheme “{wanted}”.", "levers/scheme")


class ClimateLever:
    """Another climate year: a stand-in by its id, or the digest of a file kept in the project."""

    kind = "climate"
    rank = 1

    def sets(self, spec: LeverSpec) -> str:
        return "place/climate"

    def offers(self, inputs: CaseInputs) -> list[Offer]:
        own = {digest: name or "weather file" for digest, name in inputs.climates.items()}
        names = own | {p.id: p.name for p in PLACES}
        return [Offer(self.kind, None, "Climate", "", "place", list(names)[:3], [{"id": id, "name": name} for id, name in names.items()])]

    def title(self, spec: LeverSpec, inputs: CaseInputs) -> str:
        return "Climate"

    def unit(self, spec: LeverSpec) -> str:
        return ""

    def label(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> str:
        return next((p.name for p in PLACES if p.id == step), inputs.climates.get(step) or str(step)[:12])

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        return inputs.place.climate.id if inputs.place.climate else None

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        wanted = name_of(step, "the climate")
        now = inputs.place.climate
        if now is not None and now.id == wanted:
            return inputs
        known = any(p.id == wanted for p in PLACES)
        ref = ClimateRef(kind="stand-in" if known else "file", id=wanted, name=inputs.climates.get(wanted, ""))
        return replace(inputs, place=inputs.place.model_copy(update={"climate": ref}))
