"""Named changes of form: how many storeys, how high, stretched with the floor area kept or not."""

from __future__ import annotations

from typing import Any

from eurythm.brief.edits import opened
from eurythm.model.errors import EurythmError
from eurythm.model.ids import fresh_id
from eurythm.model.shape import Rectangle, Volume
from eurythm.model.study import LeverSpec
from eurythm.study.levers.base import CaseInputs, Offer, number

MOST_STOREYS = 60


def _volume(spec: LeverSpec, inputs: CaseInputs) -> Volume:
    for volume in inputs.scheme.volumes:
        if volume.id == spec.path:
            return volume
    raise EurythmError("no-such-volume", f"The scheme has no volume “{spec.path}”.", f"levers/{spec.kind}")


class StoreyCountLever:
    """How many storeys a volume has: the uppermost is repeated, or the uppermost are taken away."""

    kind = "storey_count"
    rank = 3

    def sets(self, spec: LeverSpec) -> str:
        return f"scheme/volumes/{spec.path}/storeys"

    def offers(self, inputs: CaseInputs) -> list[Offer]:
        counts = {v.id: len(v.storeys) for v in inputs.scheme.volumes}
        return [
            Offer(
                self.kind,
                v.id,
                f"Storeys, {v.name}",
                "",
                "shape",
                [n for n in range(counts[v.id] - 1, counts[v.id] + 2) if n > 0],
                whole=True,
            )
            for v in inputs.scheme.volumes
        ]

    def title(self, spec: LeverSpec, inputs: CaseInputs) -> str:
        return f"Storeys, {_volume(spec, inputs).name}"

    def unit(self, spec: LeverSpec) -> str:
        return ""

    def label(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> str:
        return f"{step:g}"

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        return len(_volume(spec, inputs).storeys)

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        wanted = number(step, "the number of storeys")
        if wanted != int(wanted) or not 1 <= wanted <= MOST_STOREYS:
            raise EurythmError("wrong-storeys", f"A volume has 1 to {MOST_STOREYS} storeys, not {step:g}.", f"levers/{spec.kind}")
        volume = _volume(spec, inputs)
        storeys = [opened(storey) for storey in volume.storeys[: int(wanted)]]
        taken = {storey["id"] for storey in storeys}
        while len(storeys) < wanted:
            storeys.append(storeys[-1] | {"id": fresh_id(f"s{len(storeys)}", taken), "name": ""})
            taken.add(storeys[-1]["id"])
        changed = [opened(v) | {"storeys": storeys} if v is volume else v for v in inputs.scheme.volumes]
        return inputs.with_scheme(opened(inputs.scheme) | {"volumes": changed})


class StoreyHeightLever:
    """The height of all storeys of all volumes, floor to floor."""

    kind = "storey_height"
    rank = 3

    def sets(self, spec: LeverSpec) -> str:
        return "scheme/volumes"

    def offers(self, inputs: CaseInputs) -> list[Offer]:
        return [Offer(self.kind, None, "Storey height", "m", "shape", [3.0, 3.5, 4.0])] if inputs.scheme.volumes else []

    def title(self, spec: LeverSpec, inputs: CaseInputs) -> str:
        return "Storey height"

    def unit(self, spec: LeverSpec) -> str:
        return "m"

    def label(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> str:
        return f"{step:g} m"

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        heights = {s.height_m for v in inputs.scheme.volumes for s in v.storeys}
        return heights.pop() if len(heights) == 1 else None

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        height = number(step, "the height of storeys")
        data = opened(inputs.scheme)
        data["volumes"] = [
            opened(v) | {"storeys": [opened(s) | {"height_m": height} for s in v.storeys]} for v in inputs.scheme.volumes
        ]  # fmt: skip
        return inputs.with_scheme(data)


class StretchLever:
    """Every bar made longer by a factor and as much narrower, so that its floor area stays; other forms are left as they are."""

    kind = "stretch"
    rank = 3

    def sets(self, spec: LeverSpec) -> str:
        return "scheme/volumes"

    def offers(self, inputs: CaseInputs) -> list[Offer]:
        bars = [v for v in inputs.scheme.volumes if isinstance(v.form, Rectangle)]
        return [Offer(self.kind, None, "Stretched, floor area kept", "", "shape", [0.8, 1.0, 1.25])] if bars else []

    def title(self, spec: LeverSpec, inputs: CaseInputs) -> str:
        return "Stretched, floor area kept"

    def unit(self, spec: LeverSpec) -> str:
        return ""

    def label(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> str:
        return f"{step:g} times as long"

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        return 1.0

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        factor = number(step, "the stretch")
        if not 0.1 <= factor <= 10:
            raise EurythmError("wrong-stretch", f"A form is stretched by 0.1 to 10, not {factor:g}.", "levers/stretch")
        changed = [_stretched(v, v.form, factor) if isinstance(v.form, Rectangle) else v for v in inputs.scheme.volumes]
        return inputs.with_scheme(opened(inputs.scheme) | {"volumes": changed})


def _stretched(volume: Volume, form: Rectangle, factor: float) -> dict[str, Any]:
    sides = {"length": round(form.length * factor, 4), "depth": round(form.depth / factor, 4)}
    return opened(volume) | {"form": opened(form) | sides}
