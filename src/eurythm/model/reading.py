"""Reading documents: JSON in, a document or one clear error out."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from eurythm.model.errors import EurythmError
from eurythm.model.field import CONTROLS

D = TypeVar("D", bound=BaseModel)
MAX_BYTES = 64_000_000
MAX_VALUES = 5_000_000
"""Decoded, each may take a hundred bytes."""


def read_document(model: type[D], data: object, root: str = "") -> D:
    """Check `data` (already decoded JSON) against a document model.

    Raises
    ------
    EurythmError
        ``newer-version`` where the version is above ours, else ``wrong-field`` with the path of the first fault.
    """
    if not isinstance(data, Mapping):
        raise EurythmError("wrong-document", f"Expected a {model.__name__.lower()} document, found {type(data).__name__}.", root)
    expected = model.model_fields.get("format")
    if expected is not None and "format" in data and data["format"] != expected.default:
        raise EurythmError("wrong-format", f"Expected “{expected.default}”, found “{data['format']!s:.60}”.", _join(root, "format"))
    version = data.get("version", 1)
    if isinstance(version, int) and version > 1:
        raise EurythmError(
            "newer-version",
            f"This file has version {version}; this Eurythm reads version 1. Open it with a newer one.",
            _join(root, "version"),
        )
    try:
        return model.model_validate(data)
    except ValidationError as fault:
        raise first_fault(fault, data, root) from None


def first_fault(fault: ValidationError, data: object, root: str = "") -> EurythmError:
    """Turn pydantic's list of faults into one error at the path of the first, with ids in place of list positions."""
    first = fault.errors()[0]
    path = _join(root, path_in(data, first["loc"]))
    more = len(fault.errors()) - 1
    found = first.get("input")
    shown = "" if isinstance(found, (dict, list, tuple)) or first["type"] == "missing" else f" (found {found!r:.60})"
    wrong = what_is_wrong(first)
    tail = f" There are {more} more faults." if more > 1 else ""
    return EurythmError("wrong-field", f"{path or 'document'}: {wrong}{shown}.{tail}", path)


def what_is_wrong(fault: Mapping[str, Any]) -> str:
    """Return what one of pydantic's faults says, in words for a practitioner."""
    return "holds control characters" if fault.get("ctx", {}).get("pattern") == CONTROLS else str(fault["msg"])


def path_in(data: object, loc: tuple[int | str, ...]) -> str:
    """Spell a pydantic location as a path, with the id of a list's item instead of its position."""
    parts: list[str] = []
    here: Any = data
    for step in loc:
        if isinstance(step, int) and isinstance(here, (list, tuple)) and step < len(here):
            here = here[step]
            name = here.get("id") if isinstance(here, Mapping) else getattr(here, "id", None)
            parts.append(str(name) if name is not None else str(step))
        elif isinstance(here, Mapping) and step in here:
            here = here[step]
            parts.append(str(step))
        elif isinstance(here, Mapping) and here.get("kind") == step:
            continue  # the tag of a union, not a step into the data
        else:
            parts.append(str(step))
    return "/".join(parts)


def parse_json(text: str | bytes, root: str = "", most: int = MAX_BYTES) -> Any:
    """Decode JSON; NaN and infinity are refused.

    Raises
    ------
    EurythmError
        ``too-large`` where it has more than `most` bytes, or so many values that they would take gigabytes, counted before it is decoded;
        ``not-json`` with line and column.
    """
    if len(text) > most:
        raise EurythmError("too-large", f"The file is larger than {most // 1_000_000} MB.", root)
    marks = map(text.count, (b",", b"[", b"{")) if isinstance(text, bytes) else map(text.count, ",[{")
    if sum(marks) > MAX_VALUES:
        raise EurythmError("too-large", f"The file holds more than {MAX_VALUES // 1_000_000} million values.", root)

    def refuse(name: str) -> Any:
        raise EurythmError("not-a-number", f"The file contains {name}, which is no number.", root)

    try:
        return json.loads(text, parse_constant=refuse)
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as fault:
        where = f"line {fault.lineno}, column {fault.colno}" if isinstance(fault, json.JSONDecodeError) else root
        raise EurythmError("not-json", f"This is not a JSON file: {fault!s:.120}.", where) from None


def dump(document: BaseModel) -> dict[str, Any]:
    """Return only what was given, plus format and version, as plain JSON data."""
    data: dict[str, Any] = document.model_dump(mode="json", exclude_unset=True)
    return _stamped(document, data)


def _stamped(document: BaseModel, data: dict[str, Any]) -> dict[str, Any]:
    head: dict[str, Any] = {
        name: type(document).model_fields[name].default for name in ("format", "version") if name in type(document).model_fields
    }
    return {**head, **data}


def _join(root: str, tail: str) -> str:
    return f"{root}/{tail}" if root and tail else root or tail
