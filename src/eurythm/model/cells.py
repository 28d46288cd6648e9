"""Text for the cells of tables that others open."""

from __future__ import annotations


def plain(value: str) -> str:
    """Text that no spreadsheet takes for a formula."""
    return f"'{value}" if value and value[0] in "=+-@\t\r" else value
