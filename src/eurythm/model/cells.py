"""Text for the cells of tables that others open."""

from __future__ import annotations

GUARDED = "=+-@＝＋－＠"
"""What a formula may begin with."""


def plain(value: str) -> str:
    """Text that no spreadsheet takes for a formula: on one line, whatever reads line ends, and behind an apostrophe where it begins like one."""
    line = " ".join(value.splitlines()) if len(value.splitlines()) > 1 else value.strip("\r\n")
    return f"'{line}" if line.lstrip()[:1] in tuple(GUARDED) else line


def unguarded(text: str) -> str:
    """Return what `plain` was given of a text that begins like a formula."""
    return text[1:] if text[:1] == "'" and text[1:].lstrip()[:1] in tuple(GUARDED) else text
