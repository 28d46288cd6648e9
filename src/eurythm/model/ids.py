"""Ids are short, stable and safe in paths."""

from __future__ import annotations

from typing import Annotated

from pydantic import StringConstraints

Id = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9][A-Za-z0-9_.-]{0,63}$")]
"""Letters, digits, ``_ . -``; at most 64 characters; no slash, so that ids can be joined to paths."""
