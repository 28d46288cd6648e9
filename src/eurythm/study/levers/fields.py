"""The lever on any single field that is a number, a choice or yes and no."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, get_args

from pydantic import BaseModel

from eurythm.brief.edits import opened, set_in_document
from eurythm.brief.resolve import Shelf
from eurythm.brief.systems import GROUPS, SEASONAL, SYSTEM_NAMES, every_system, usual_of
from eurythm.model.errors import EurythmError
from eurythm.model.field import limits, notes
from eurythm.model.library import Library
from eurythm.model.part import part_at
from eurythm.model.plant import SystemFigures
from eurythm.model.scheme import Scheme
from eurythm.model.study import LeverSpec
from eurythm.study.levers.base import CaseInputs, Offer

OFFERED = ("volumes", "skin", "use", "plant")
"""Parts of the scheme whose fields are offered; its turn has a lever of its own."""


YES_NO = {"no": False, "yes": True}
"""How steps of what is either way are named."""


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

    def sets(self, spec: LeverSpec) -> str:
        return f"scheme/{spec.path}"

    def offers(self, inputs: CaseInputs) -> list[Offer]:
        shelf = Shelf(inputs.library)
        return [o for name in OFFERED for o in _offered(getattr(inputs.scheme, name), name, shelf)]

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
        return label_of({} if isinstance(step, str | bool) else self._notes(spec, inputs.scheme), step, inputs.library)

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        path = self._path(spec)
        value = field_at(inputs.scheme, path)[2]
        return _of_system(inputs.scheme, path) if value is None and path.startswith("plant/") else value

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        path = self._path(spec)
        if "lever" not in self._notes(spec, inputs.scheme):
            raise EurythmError("no-lever", f"“{path}” cannot be varied.", f"levers/{path}")
        model, name, _ = field_at(inputs.scheme, path)
        if model.model_fields[name].annotation is bool:
            step = YES_NO.get(step, step) if isinstance(step, str) else step
        data = opened(inputs.scheme)
        set_in_document(data, path, step)
        return inputs.with_scheme(data)


def label_of(note: Mapping[str, Any], step: Any, library: Library) -> str:
    """Return a value of a field, given by its notes, as people read it."""
    if isinstance(step, str):
        return (Shelf(library).names() | SYSTEM_NAMES).get(step, step.replace("_", " "))
    if isinstance(step, bool):
        return "yes" if step else "no"
    if note.get("share"):
        return f"{step * 100:g}%"
    unit = note.get("unit", "")
    if step == 0 and unit == "m":
        return "none"
    return f"{step:g} {unit}".strip()


def _offered(part: Any, path: str, shelf: Shelf) -> Iterator[Offer]:
    """Every field of a part of the scheme that can be varied."""
    if isinstance(part, tuple):
        for item in part:
            if hasattr(item, "id"):
                yield from _offered(item, f"{path}/{item.id}", shelf)
        return
    model: type[BaseModel] = type(part)
    idle = idle_fields(part) if isinstance(part, SystemFigures) else frozenset()
    for name in model.model_fields:
        value, here = getattr(part, name), f"{path}/{name}"
        if name in GROUPS and isinstance(part, SystemFigures):
            if part.ready in SYSTEM_NAMES and part.ready != SEASONAL:
                value = value.model_copy(update={k: v for k, v in usual_of(part, name).items() if getattr(value, k) is None})
            yield from (offer for offer in _offered(value, here, shelf) if f"{name}/{str(offer.path).rpartition('/')[2]}" not in idle)
            continue
        note = notes(model, name)
        if isinstance(value, BaseModel | tuple):
            yield from _offered(value, here, shelf)
        elif "lever" in note and ((choices := choices_of(path, model, name, shelf)) or _is_number(model, name)):
            steps = [c["id"] for c in choices[:3]] if choices else steps_of(model, name, value, note)
            yield Offer(
                "field",
                here,
                note["title"],
                note.get("unit", ""),
                part_at(Scheme, here).stage or "shape",
                steps,
                choices,
                bool(note.get("share")),
                _is_whole(model, name),
                bool(note["lever"]),
            )


def _is_number(model: type[BaseModel], name: str) -> bool:
    annotation = model.model_fields[name].annotation
    return not {annotation, *get_args(annotation)}.isdisjoint({int, float})


def _is_whole(model: type[BaseModel], name: str) -> bool:
    annotation = model.model_fields[name].annotation
    kinds = {annotation, *get_args(annotation)} - {type(None)}
    return kinds == {int}


def idle_fields(figures: SystemFigures) -> frozenset[str]:
    """Return the figures of a system that have no meaning in it, by part and name: all of them where it is a seasonal figure."""
    if figures.ready not in SYSTEM_NAMES or figures.ready == SEASONAL:
        return frozenset(f"{group}/{name}" for group, (model, _) in GROUPS.items() for name in model.model_fields)
    return frozenset(
        f"{group}/{name}"
        for group, (model, _) in GROUPS.items()
        for name in model.model_fields
        if name not in usual_of(figures, group) and not (name == "power_kw" and usual_of(figures, group)["kind"] != "none")
    )


def _of_system(scheme: Scheme, path: str) -> Any:
    """The figure that a system has where nobody gave it; None where it has none."""
    for at, figures, _ in every_system(scheme.plant):
        group, _, name = path.removeprefix(f"{at}/").partition("/")
        if path.startswith(f"{at}/") and group in GROUPS and figures.ready != SEASONAL:
            return usual_of(figures, group).get(name)
    return None


def choices_of(path: str, model: type[BaseModel], name: str, shelf: Shelf) -> list[dict[str, str]]:
    """Return what a field of a part of the scheme may be, where that is one of a few: ids and names."""
    return _choices(path, name, shelf) or _words(model, name)


def _choices(path: str, name: str, shelf: Shelf) -> list[dict[str, str]]:
    if path == "skin" and name == "glazing":
        return [{"id": g.id, "name": g.name} for g in shelf.glazings.values()]
    if path == "skin" and name in ("wall", "roof"):
        return [{"id": c.id, "name": c.name} for c in shelf.constructions.values() if c.element == name]
    if name == "ready":
        return [{"id": id, "name": name} for id, name in SYSTEM_NAMES.items()]
    if path == "use" and name == "profile":
        return [{"id": p.id, "name": p.name} for p in shelf.profiles.values()]
    return []


def _words(model: type[BaseModel], name: str) -> list[dict[str, str]]:
    """The words that a field may be: of a literal, or yes and no."""
    annotation = model.model_fields[name].annotation
    if annotation is bool:
        return [{"id": word, "name": word} for word in YES_NO]
    words = [word for kind in get_args(annotation) for word in (kind, *get_args(kind)) if isinstance(word, str)]
    return [{"id": word, "name": word.replace("_", " ")} for word in words]


def steps_of(model: type[BaseModel], name: str, value: Any, note: Mapping[str, Any]) -> list[float]:
    """Return three steps: where it stands and one either side, within what is usual and allowed."""
    usual = note.get("usual") or [0.0, 1.0]
    middle = value if isinstance(value, (int, float)) else (usual[0] + usual[1]) / 2
    spread = (usual[1] - usual[0]) / 4
    hard = limits(model, name)
    low = max(middle - spread, hard.get("ge", hard.get("gt", middle - spread)), usual[0] if middle >= usual[0] else middle - spread)
    high = min(middle + spread, hard.get("le", middle + spread))
    if _is_whole(model, name):
        return sorted({round(low), round(middle), round(high)})
    digits = int(note.get("digits", 2))
    return sorted({round(low, digits), round(middle, digits), round(high, digits)})
