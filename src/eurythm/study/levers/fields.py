"""The lever on any single field that says it can be one."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel

from eurythm.brief.edits import set_in_document
from eurythm.brief.resolve import Shelf
from eurythm.model.errors import EurythmError
from eurythm.model.field import notes
from eurythm.model.project import LeverSpec
from eurythm.model.reading import dump
from eurythm.model.scheme import Scheme
from eurythm.study.levers.base import CaseInputs


def field_at(scheme: Scheme, path: str) -> tuple[type[BaseModel], str, Any]:
    """Return the model, the name and the present value of a field by its path in the scheme.

    Raises
    ------
    EurythmError
        ``no-such-path`` where there is none.
    """
    here: Any = scheme
    *way, last = path.split("/")
    for step in way:
        if isinstance(here, tuple):
            here = next((item for item in here if getattr(item, "id", None) == step), None)
        else:
            here = getattr(here, step, None) if isinstance(here, BaseModel) else None
    if not isinstance(here, BaseModel) or last not in type(here).model_fields:
        raise EurythmError("no-such-path", f"“{path}” names no field of the scheme.", f"levers/{path}")
    return type(here), last, getattr(here, last)


class FieldLever:
    """One field of the scheme by its path, e.g. ``use/infiltration_ach``."""

    kind = "field"
    rank = 4

    def _notes(self, spec: LeverSpec, scheme: Scheme) -> Mapping[str, Any]:
        model, name, _ = field_at(scheme, self._path(spec))
        return notes(model, name)

    def _path(self, spec: LeverSpec) -> str:
        if not spec.path:
            raise EurythmError("lever-without-path", "A lever on a field needs the field's path.", "levers")
        return spec.path

    def title(self, spec: LeverSpec, inputs: CaseInputs) -> str:
        return str(self._notes(spec, inputs.scheme).get("title", spec.path))

    def unit(self, spec: LeverSpec) -> str:
        try:
            model, name, _ = field_at(Scheme(id="x", name="x"), self._path(spec))
        except EurythmError:
            return ""
        return str(notes(model, name).get("unit", ""))

    def label(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> str:
        path = self._path(spec)
        if isinstance(step, str):
            names = Shelf(inputs.library).names()
            return names.get(step, step)
        if path.startswith("skin/glazing_ratio") or path.endswith(("share", "heat_recovery")):
            return f"{step * 100:g}%"
        unit = self._notes(spec, inputs.scheme).get("unit", "")
        if step == 0 and unit == "m":
            return "none"
        return f"{step:g} {unit}".strip()

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        return field_at(inputs.scheme, self._path(spec))[2]

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        path = self._path(spec)
        if not self._notes(spec, inputs.scheme).get("lever"):
            raise EurythmError("no-lever", f"“{path}” cannot be varied.", f"levers/{path}")
        data = dump(inputs.scheme)
        set_in_document(data, path, step)
        return inputs.with_scheme(data)
