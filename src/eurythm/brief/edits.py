"""Typed edits: every change to a project is one of these, checked before it is kept.

A path names a field from the project down, with ids in place of list positions: ``place/north_deg``,
``schemes/quay/volumes/v1/form/length``. Only what lies on the way to it is opened to plain data and checked again; all else is
shared with the project that was edited.
"""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from eurythm.model.errors import EurythmError
from eurythm.model.field import Described
from eurythm.model.ids import Id
from eurythm.model.project import Project
from eurythm.model.reading import read_document

Path = Annotated[str, Field(min_length=1, max_length=400, pattern=r"^[^/]+(/[^/]+)*$")]
DOCUMENTS = ("name", "place", "library", "factors", "schemes", "reference")


class Set(Described):
    """Give a value."""

    op: Literal["set"] = "set"
    path: Path
    value: Any


class Reset(Described):
    """Take a given value away, so that the assumed one holds again."""

    op: Literal["reset"] = "reset"
    path: Path


class Put(Described):
    """Add an item to a list, or replace the one with the same id."""

    op: Literal["put"] = "put"
    path: Path
    item: dict[str, Any]


class Remove(Described):
    """Take an item out of a list."""

    op: Literal["remove"] = "remove"
    path: Path


class DuplicateScheme(Described):
    """Copy a scheme under a new id and name."""

    op: Literal["duplicate_scheme"] = "duplicate_scheme"
    scheme: Id
    id: Id
    name: Annotated[str, Field(min_length=1, max_length=120)]


class Together(Described):
    """Several edits as one step of undo."""

    op: Literal["together"] = "together"
    edits: Annotated[tuple[Set | Reset | Put | Remove, ...], Field(min_length=1, max_length=10_000)]


Edit = Annotated[Set | Reset | Put | Remove | DuplicateScheme | Together, Field(discriminator="op")]


def apply_edit(project: Project, edit: Edit) -> Project:
    """Return the project with an edit applied; the one given stays as it was.

    Raises
    ------
    EurythmError
        Where the path names nothing, or the result is not a sound project (with the path of the fault).
    """
    data = opened(project)
    for step in edit.edits if isinstance(edit, Together) else (edit,):
        _apply(data, step)
    changed = read_document(Project, data)
    if changed.reference not in {s.id for s in changed.schemes}:
        raise EurythmError("no-reference", "The reference scheme cannot be removed; make another one the reference first.", "reference")
    _refuse_doubles(data, "")
    return changed


def set_in_document(data: dict[str, Any], path: str, value: Any) -> None:
    """Set one value in a document's plain data, making the parts on the way."""
    parent, last = _parent(data, path, make=True)
    if isinstance(parent, list):
        raise EurythmError("path-names-item", f"“{path}” names an item of a list; put it instead.", path)
    parent[last] = value
    chosen = [name for name in parent.get("assumed", ()) if name != last]
    if last != "assumed" and len(chosen) < len(parent.get("assumed", ())):
        parent["assumed"] = chosen


def opened(document: BaseModel) -> dict[str, Any]:
    """Return the fields of a document that were given, as plain data one level deep: documents in it stay what they are, and are shared."""
    return {
        name: list(value) if isinstance(value, tuple) else value
        for name, value in ((n, getattr(document, n)) for n in type(document).model_fields if n in document.model_fields_set)
    }


def _open_in(holder: Any, key: Any) -> Any:
    """What a holder has under a key, opened in place where it is a document."""
    if isinstance(holder[key], BaseModel):
        holder[key] = opened(holder[key])
    elif isinstance(holder[key], tuple):
        holder[key] = list(holder[key])
    return holder[key]


def _apply(data: dict[str, Any], edit: Any) -> None:
    if isinstance(edit, DuplicateScheme):
        schemes = _open_in(data, "schemes")
        source = _open_in(schemes, _find(schemes, edit.scheme, f"schemes/{edit.scheme}"))
        if any(_id_of(s) == edit.id for s in schemes):
            raise EurythmError("doubled-id", f"There is a scheme “{edit.id}” already.", f"schemes/{edit.id}")
        schemes.append({**source, "id": edit.id, "name": edit.name})
        return
    if edit.path.split("/")[0] not in DOCUMENTS:
        raise EurythmError("no-such-path", f"“{edit.path}” names nothing in a project.", edit.path)
    if isinstance(edit, Set):
        set_in_document(data, edit.path, edit.value)
        return
    if isinstance(edit, Put):
        _put(data, edit)
        return
    parent, last = _parent(data, edit.path, make=False)
    if isinstance(parent, list):
        if isinstance(edit, Reset):
            raise EurythmError("path-names-item", f"“{edit.path}” names an item of a list; remove it instead.", edit.path)
        del parent[_find(parent, last, edit.path)]
    elif isinstance(edit, Remove):
        raise EurythmError("path-names-field", f"“{edit.path}” names a field; reset it instead.", edit.path)
    else:
        parent.pop(last, None)


def _put(data: dict[str, Any], edit: Put) -> None:
    parent, last = _parent(data, edit.path, make=True)
    if isinstance(parent, list):
        raise EurythmError("path-names-item", f"“{edit.path}” names an item, not a list.", edit.path)
    parent.setdefault(last, [])
    items = _open_in(parent, last)
    if not isinstance(items, list):
        raise EurythmError("path-names-field", f"“{edit.path}” is not a list.", edit.path)
    for i, item in enumerate(items):
        if _id_of(item) == edit.item.get("id"):
            items[i] = edit.item
            return
    items.append(edit.item)


def _parent(data: Any, path: str, make: bool) -> tuple[Any, str]:
    here = data
    *way, last = path.split("/")
    for step in way:
        if isinstance(here, list):
            here = _open_in(here, _find(here, step, path))
        elif isinstance(here, dict) and (step in here or make):
            here.setdefault(step, {})
            here = _open_in(here, step)
        elif isinstance(here, dict):
            return {}, last  # nothing was given below here: a reset has nothing to do
        else:
            raise EurythmError("no-such-path", f"“{path}” names nothing: “{step}” has no parts.", path)
    if not isinstance(here, (dict, list)):
        raise EurythmError("no-such-path", f"“{path}” names nothing.", path)
    return here, last


def _id_of(item: Any) -> Any:
    return item.get("id") if isinstance(item, dict) else getattr(item, "id", None)


def _find(items: list[Any], name: str, path: str) -> int:
    """Where in a list the item with an id stands."""
    for i, item in enumerate(items):
        if isinstance(item, (dict, BaseModel)) and _id_of(item) == name:
            return i
    raise EurythmError("no-such-item", f"There is no “{name}” at “{path}”.", path)


def _refuse_doubles(data: Any, path: str) -> None:
    if isinstance(data, dict):
        for name, value in data.items():
            _refuse_doubles(value, f"{path}/{name}" if path else name)
    elif isinstance(data, list):
        ids = Counter(found for found in map(_id_of, data) if found is not None)
        doubled = next((i for i, count in ids.items() if count > 1), None)
        if doubled is not None:
            raise EurythmError("doubled-id", f"Two items bear the id “{doubled}”.", f"{path}/{doubled}")
        for item in data:
            if isinstance(item, dict):
                _refuse_doubles(item, f"{path}/{item.get('id', '')}")
