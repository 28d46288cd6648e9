"""The table of fields in docs/scheme-format.md, written from the field descriptions: `python -m eurythm.exchange.reference`."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from eurythm.model.field import describe
from eurythm.model.project import Bundle, Project
from eurythm.model.study import StudyFile

DOCUMENT = Path(__file__).resolve().parents[3] / "docs" / "scheme-format.md"
START, END = "<!-- fields: written by eurythm.exchange.reference -->\n", "<!-- end of fields -->\n"


def field_tables() -> str:
    """Return one table a document part: field, title, unit, limits, usual range, assumed value, lever."""
    parts: dict[str, list[str]] = {}
    for name, note in describe(Bundle, Project, StudyFile).items():
        part, _, field = name.partition(".")
        parts.setdefault(part, []).append(_row(field, note))
    head = "| field | meaning | unit | allowed | usual | assumed | lever |\n|---|---|---|---|---|---|---|\n"
    return "\n".join(f"### {part}\n\n{head}{''.join(rows)}" for part, rows in sorted(parts.items()))


def _row(field: str, note: dict[str, Any]) -> str:
    low = f"from {note['ge']:g}" if "ge" in note else f"above {note['gt']:g}" if "gt" in note else ""
    high = f"to {note['le']:g}" if "le" in note else f"below {note['lt']:g}" if "lt" in note else ""
    allowed = " ".join(p for p in (low, high) if p) or ", ".join(note.get("choices", []))
    usual = "{:g} to {:g}".format(*note["usual"]) if note.get("usual") else ""
    value = note.get("assumed")
    assumed = "" if value is None else f"{value:g}" if isinstance(value, float | int) and not isinstance(value, bool) else str(value)
    meaning = note["title"] + (f": {note['help']}" if note.get("help") else "")
    lever = "yes" if note.get("lever") else ""
    return f"| `{field}` | {meaning} | {note.get('unit', '')} | {allowed} | {usual} | {assumed} | {lever} |\n"


def with_tables(text: str) -> str:
    """Return the document with its tables brought up to date."""
    before, rest = text.split(START)
    _, after = rest.split(END)
    return f"{before}{START}\n{field_tables()}\n{END}{after}"


if __name__ == "__main__":
    DOCUMENT.write_text(with_tables(DOCUMENT.read_text(encoding="utf-8")), encoding="utf-8")
