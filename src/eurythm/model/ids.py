"""Ids are short, stable and safe in paths."""

from __future__ import annotations

import re
from collections.abc import Collection
from typing import Annotated

from pydantic import StringConstraints

Id = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9][A-Za-z0-9_.-]{0,63}$")]
"""Letters, digits, ``_ . -``; at most 64 characters; no slash, so that ids can be joined to paths."""


def fresh_id(wanted: str, taken: Collection[str]) -> str:
    """Return `wanted`, with a number behind it where it is taken."""
    made, k = wanted, 2
    while made in taken:
        made, k = f"{wanted[:58]}-{k}", k + 1
    return made


def slug(text: str) -> str:
    """Return a text as an id may be written, "" where nothing of it can stay."""
    made = re.sub(r"[^A-Za-z0-9_.-]+", "-", text).strip("-._")[:64]
    return made if re.match(r"^[A-Za-z0-9]", made) else ""
