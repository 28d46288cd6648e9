"""Levers on the whole building: its turn, glass on all sides, shades on all sides."""

from __future__ import annotations

from typing import Any

from eurythm.brief.edits import opened
from eurythm.model.reading import dump
from eurythm.model.scheme import ORIENTATIONS, Orientation
from eurythm.model.study import LeverSpec
from eurythm.study.levers.base import CaseInputs, Offer, number


class TurnLever:
    """The scheme turned about the middle of its footprint."""

    kind = "turn"
    rank = 2

    def sets(self, spec: LeverSpec) -> str:
        return "scheme/turn_deg"

    def offers(self, inputs: CaseInputs) -> list[Offer]:
        return [Offer(self.kind, None, "Turned", "°", "shape", [-30, -15, 0, 15, 30])]

    def title(self, spec: LeverSpec, inputs: CaseInputs) -> str:
        return "Turned"

    def unit(self, spec: LeverSpec) -> str:
        return "°"

    def label(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> str:
        return f"{step:g}°"

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        return inputs.scheme.turn_deg

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        return inputs.with_scheme(opened(inputs.scheme) | {"turn_deg": number(step, "the turn")})


class _AllSides:
    """One value on all four sides."""

    kind: str
    name: str
    part: str
    steps: tuple[float, ...]
    percent = False
    rank = 3

    def sets(self, spec: LeverSpec) -> str:
        return f"scheme/skin/{self.part}"

    def offers(self, inputs: CaseInputs) -> list[Offer]:
        return [Offer(self.kind, None, self.name, "" if self.percent else "m", "skin", list(self.steps), share=self.percent)]

    def title(self, spec: LeverSpec, inputs: CaseInputs) -> str:
        return self.name

    def unit(self, spec: LeverSpec) -> str:
        return "" if self.percent else "m"

    def label(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> str:
        return f"{step * 100:.0f}%" if self.percent else "none" if step == 0 else f"{step:g} m"

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        values = {getattr(getattr(inputs.scheme.skin, self.part), side) for side in ORIENTATIONS}
        return values.pop() if len(values) == 1 else None

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        value = number(step, self.name.lower())
        data = dump(inputs.scheme)
        sides: dict[Orientation, float] = dict.fromkeys(ORIENTATIONS, value)
        data["skin"] = data.get("skin", {}) | {self.part: sides}
        return inputs.with_scheme(data)


class GlassLever(_AllSides):
    """The same glazing ratio on all sides."""

    kind, name, part, steps = "glazing_ratio", "Glass, all sides", "glazing_ratio", (0.2, 0.4, 0.6)
    percent = True


class OverhangLever(_AllSides):
    """The same overhang on all sides."""

    kind, name, part, steps = "overhang", "Overhang, all sides", "overhang_depth_m", (0, 0.6, 1.2)


class FinLever(_AllSides):
    """The same side fins on all sides."""

    kind, name, part, steps = "fins", "Side fins, all sides", "fin_depth_m", (0, 0.4, 0.8)
