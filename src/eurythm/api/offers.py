"""Which levers a scheme offers, with steps proposed around where it stands."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, get_args

from pydantic import BaseModel

from eurythm.api.shapes import LeverOffer
from eurythm.brief.resolve import Shelf
from eurythm.climate.standin import PLACES
from eurythm.model.field import limits, notes
from eurythm.model.project import Project
from eurythm.model.scheme import Scheme

STAGES = {"volumes": "shape", "turn_deg": "shape", "skin": "skin", "use": "use", "plant": "plant"}
SHARES = ("glazing_ratio", "roof_share", "heat_recovery")


def offers(project: Project, scheme: Scheme) -> list[LeverOffer]:
    """Return whole-building levers first, then every field that can be varied."""
    shelf = Shelf(project.library)
    found = [
        LeverOffer(kind="turn", path=None, title="Turned", unit="°", stage="shape", steps=[-30, -15, 0, 15, 30], choices=[]),
        LeverOffer(kind="glazing_ratio", path=None, title="Glass, all sides", unit="", stage="skin", steps=[0.2, 0.4, 0.6], choices=[]),
        LeverOffer(kind="overhang", path=None, title="Overhang, all sides", unit="m", stage="skin", steps=[0, 0.6, 1.2], choices=[]),
        LeverOffer(kind="fins", path=None, title="Side fins, all sides", unit="m", stage="skin", steps=[0, 0.4, 0.8], choices=[]),
        LeverOffer(
            kind="climate",
            path=None,
            title="Climate",
            unit="",
            stage="place",
            steps=[p.id for p in PLACES[:3]],
            choices=[{"id": p.id, "name": p.name} for p in PLACES],
        ),
        LeverOffer(
            kind="scheme",
            path=None,
            title="Scheme",
            unit="",
            stage="shape",
            steps=[s.id for s in project.schemes],
            choices=[{"id": s.id, "name": s.name} for s in project.schemes],
        ),
    ]
    for name in ("volumes", "skin", "use", "plant"):
        found += _fields(getattr(scheme, name), name, STAGES[name], shelf)
    return found


def _fields(part: Any, path: str, stage: str, shelf: Shelf) -> list[LeverOffer]:
    if isinstance(part, tuple):
        return [offer for item in part if hasattr(item, "id") for offer in _fields(item, f"{path}/{item.id}", stage, shelf)]
    found: list[LeverOffer] = []
    model: type[BaseModel] = type(part)
    for name in model.model_fields:
        value, here = getattr(part, name), f"{path}/{name}"
        note = notes(model, name)
        if isinstance(value, BaseModel | tuple):
            found += _fields(value, here, stage, shelf)
        elif note.get("lever"):
            choices = _choices(path, name, shelf) or _words(model, name)
            steps = [c["id"] for c in choices[:3]] if choices else _steps(model, name, value, note)
            found.append(
                LeverOffer(
                    kind="field", path=here, title=note["title"], unit=note.get("unit", ""), stage=stage, steps=steps, choices=choices
                )
            )
    return found


def _choices(path: str, name: str, shelf: Shelf) -> list[dict[str, str]]:
    if path == "skin" and name == "glazing":
        return [{"id": g.id, "name": g.name} for g in shelf.glazings.values()]
    if path == "skin" and name in ("wall", "roof"):
        return [{"id": c.id, "name": c.name} for c in shelf.constructions.values() if c.element == name]
    if path == "use" and name == "profile":
        return [{"id": p.id, "name": p.name} for p in shelf.profiles.values()]
    return []


def _words(model: type[BaseModel], name: str) -> list[dict[str, str]]:
    """The words that a field may be: of a literal, or yes and no."""
    annotation = model.model_fields[name].annotation
    if annotation is bool:
        return [{"id": "no", "name": "no"}, {"id": "yes", "name": "yes"}]
    return [{"id": word, "name": word} for word in get_args(annotation) if isinstance(word, str)]


def _steps(model: type[BaseModel], name: str, value: Any, note: Mapping[str, Any]) -> list[float]:
    """Three steps: where it stands and one either side, within what is usual and allowed."""
    usual = note.get("usual") or [0.0, 1.0]
    middle = value if isinstance(value, (int, float)) else (usual[0] + usual[1]) / 2
    spread = (usual[1] - usual[0]) / 4
    hard = limits(model, name)
    low = max(middle - spread, hard.get("ge", hard.get("gt", middle - spread)), usual[0] if middle >= usual[0] else middle - spread)
    high = min(middle + spread, hard.get("le", middle + spread))
    digits = int(note.get("digits", 2))
    return sorted({round(low, digits), round(middle, digits), round(high, digits)})
