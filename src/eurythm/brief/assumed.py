"""The register: every value that a result rests on and nobody gave, with its source and the ends of its usual range."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, get_args

from pydantic import BaseModel

from eurythm.brief.resolve import ELEMENTS, Shelf
from eurythm.brief.systems import BY_ID, GROUPS, SEASONAL, every_system, usual_of
from eurythm.fabric.opaque import u_value
from eurythm.model.field import is_given, limits, notes
from eurythm.model.part import UNSAID, Part, part_at, part_of, part_word
from eurythm.model.place import Place
from eurythm.model.project import Project
from eurythm.model.scheme import Scheme

FROM_PROFILE = ("heating_c", "cooling_c", "lighting_w_m2", "equipment_w_m2")
"""Values of the use that the profile tells unless the scheme does."""


@dataclass(frozen=True)
class End:
    """One end of what an assumed value usually is: how it is told, and the value itself."""

    label: str
    value: Any


@dataclass(frozen=True)
class Assumed:
    """One assumed value.

    Attributes
    ----------
    path : where it stands in the project, as edits name it
    paths : all places where the same value of things alike stands, such as of every tree; `path` is the first
    title, unit, digits : as the field is described
    part : what it belongs to, such as the name of a volume; "" for the scheme as a whole
    value : the value that counts now; `label` tells it in words where it is a choice
    source : where the value comes from
    ends : up to three values that it could as well be; none where no usual range is known
    stage : where it is changed
    rays : whether trying the ends casts the sun anew
    """

    path: str
    paths: tuple[str, ...]
    title: str
    unit: str
    digits: int
    part: str
    value: Any
    label: str
    source: str
    ends: tuple[End, ...]
    stage: str
    rays: bool


def assumed_values(project: Project, scheme: Scheme) -> list[Assumed]:
    """Return all assumed values that one scheme's year rests on: of the scheme and of the place, in the order of the documents."""
    shelf = Shelf(project.library)
    found = [
        _entry(shelf, fields, prefix)
        for document, prefix in ((project.place, "place/"), (scheme, f"schemes/{scheme.id}/"))
        for fields in _alike(_walk(document, "", "", UNSAID))
    ]
    found += _of_profile(shelf, scheme)
    found += _of_systems(scheme)
    return [f for f in found if f is not None]


@dataclass(frozen=True)
class _Field:
    path: str
    belongs: str
    model: type[BaseModel]
    name: str
    value: Any
    part: Part


def _walk(document: BaseModel, prefix: str, belongs: str, holder: Part, said: frozenset[str] = frozenset()) -> Iterator[_Field]:
    """The described fields of a document that were not given, and whose value counts; `said` names those that its holder calls idle."""
    idle: frozenset[str] = said | getattr(document, "idle", frozenset())
    for name in type(document).model_fields:
        if name in idle:
            continue
        part = part_of(type(document), name, holder)
        if part.step == "nothing" or not part.assumed or (name == "boundary_c" and getattr(document, "boundary", None) != "fixed"):
            continue
        value = getattr(document, name)
        if isinstance(value, BaseModel):
            below = frozenset(path.removeprefix(f"{name}/") for path in idle if path.startswith(f"{name}/"))
            yield from _walk(value, f"{prefix}{name}/", belongs, part, below)
        elif isinstance(value, tuple):
            for item in (i for i in value if isinstance(i, BaseModel)):
                own = getattr(item, "name", "") or getattr(item, "id", "")
                yield from _walk(item, f"{prefix}{name}/{getattr(item, 'id', '')}/", f"{belongs}, {own}".strip(", "), part)
        elif value is not None and not is_given(document, name) and notes(type(document), name):
            yield _Field(f"{prefix}{name}", belongs, type(document), name, value, part)


def _alike(fields: Iterable[_Field]) -> list[list[_Field]]:
    """Fields of things in lists whose value is the same, together; all others alone, in the order of the first of each."""
    groups: dict[tuple[str, ...], list[_Field]] = {}
    for field in fields:
        key = (field.model.__name__, field.name, repr(field.value)) if field.belongs else (field.path,)
        groups.setdefault(key, []).append(field)
    return list(groups.values())


def _parts_in_words(fields: Sequence[_Field]) -> str:
    names = list(dict.fromkeys(f.belongs for f in fields))
    return ", ".join(names) if len(names) <= 2 else f"{names[0]} and {len(names) - 1} more"


def _entry(shelf: Shelf, fields: Sequence[_Field], prefix: str) -> Assumed | None:
    field = fields[0]
    note = notes(field.model, field.name)
    if field.model is Place and field.name == "north_deg":
        note = {**note, "usual": [field.value - 15, field.value + 15]}
    if isinstance(field.value, str) and not _words(field) and not _shelved(shelf, field):
        return None  # names and notes
    ends, label = _ends(shelf, field, note)
    return Assumed(
        f"{prefix}{field.path}", tuple(f"{prefix}{f.path}" for f in fields), str(note["title"]), str(note.get("unit", "")),
        int(note.get("digits", 2)), _parts_in_words(fields), field.value, label,
        str(note.get("source", "")), ends, str(field.part.stage), bool(field.part.casts),
    )  # fmt: skip


def _ends(shelf: Shelf, field: _Field, note: Any) -> tuple[tuple[End, ...], str]:
    """The values that a field could as well have, and its present one in words."""
    if isinstance(field.value, bool):
        return (End("no" if field.value else "yes", not field.value),), "yes" if field.value else "no"
    words = _words(field)
    if words:
        return tuple(End(_said(w), w) for w in words if w != field.value)[:3], _said(str(field.value))
    things = _shelved(shelf, field)
    if things:
        best, worst = min(things, key=lambda t: t[0]), max(things, key=lambda t: t[0])
        now = next((name for _, id, name in things if id == field.value), str(field.value))
        return tuple(End(name, id) for _, id, name in (best, worst) if id != field.value), now
    usual = note.get("usual")
    if usual is None:
        return (), ""
    hard = limits(field.model, field.name)
    low = max(float(usual[0]), hard.get("ge", float(usual[0])))
    high = min(float(usual[1]), hard.get("le", float(usual[1])))
    return tuple(End(f"{v:g}", v) for v in (low, high) if abs(v - float(field.value)) > 1e-12), ""


def _words(field: _Field) -> list[str]:
    return [w for w in get_args(field.model.model_fields[field.name].annotation) if isinstance(w, str)]


def _said(word: str) -> str:
    return word.replace("_", " ")


def _shelved(shelf: Shelf, field: _Field) -> list[tuple[float, str, str]]:
    """Things of the library that could stand in a field: what ranks them, id, name."""
    if field.model.__name__ != "Skin":
        return []
    if field.name == "glazing":
        return [(g.u_value, g.id, g.name) for g in shelf.glazings.values() if g.g_value > 0]
    if field.name in ELEMENTS:
        return [(u_value(c), c.id, c.name) for c in shelf.constructions.values() if c.element == field.name]
    return []


def _of_profile(shelf: Shelf, scheme: Scheme) -> list[Assumed]:
    """Values of the use profile that the scheme could give itself; assumed unless the profile is the project's own."""
    profile = shelf.profiles.get(scheme.use.profile)
    if profile is None:
        return []
    found = []
    for name in FROM_PROFILE:
        if getattr(scheme.use, name) is not None:
            continue
        field = _Field(f"use/{name}", "", type(scheme.use), name, getattr(profile, name), part_at(Scheme, f"use/{name}"))
        note = notes(field.model, name)
        ends, _ = _ends(shelf, field, note)
        found.append(
            Assumed(
                f"schemes/{scheme.id}/use/{name}", (f"schemes/{scheme.id}/use/{name}",), str(note["title"]), str(note["unit"]), int(note["digits"]), "", field.value, "",
                f"use profile “{profile.name}”: {profile.source}", ends, "use", False,
            )
        )  # fmt: skip
    return found


def _of_systems(scheme: Scheme) -> list[Assumed]:
    """Figures of systems that their ready combination says, and nobody gave."""
    found: list[Assumed] = []
    for path, figures, name in every_system(scheme.plant):
        if figures.ready == SEASONAL or figures.ready not in BY_ID:
            continue
        for group in GROUPS:
            given: BaseModel = getattr(figures, group)
            for field, value in usual_of(figures, group).items():
                note = notes(type(given), field)
                if getattr(given, field) is not None or isinstance(value, str) or "usual" not in note:
                    continue
                whole = f"schemes/{scheme.id}/{path}/{group}/{field}"
                one = _Field(f"{path}/{group}/{field}", name, type(given), field, value, part_at(Scheme, f"{path}/{group}/{field}"))
                low, high = (float(v) for v in note["usual"])
                ends = tuple(End(f"{v:g}", v) for v in (low, high) if abs(v - float(value)) > 1e-12)
                title = f"{part_word(type(figures), group)}: {str(note['title'])[:1].lower()}{str(note['title'])[1:]}"
                found.append(
                    Assumed(
                        whole, (whole,), title, str(note.get("unit", "")), int(note.get("digits", 2)), name, value, "",
                        f"system “{BY_ID[figures.ready].name}”", ends, str(one.part.stage), False,
                    )
                )  # fmt: skip
    return found
