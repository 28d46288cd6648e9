"""Materials as a table: CSV or XLSX with headed columns in SI or inch-pound, in and out."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any, get_args

from openpyxl import Workbook, load_workbook

from eurythm.model.cells import plain
from eurythm.model.errors import EurythmError
from eurythm.model.field import notes
from eurythm.model.ids import fresh_id
from eurythm.model.library import Family, Material
from eurythm.model.reading import read_document
from eurythm.model.units import IP_OF, to_ip

MOST_ROWS = 5000
FIELDS = ("name", "family", "conductivity", "density", "specific_heat", "vapour_resistance", "carbon_kg_kg", "source")
NEEDED = ("name", "conductivity", "density")
NUMBERS = ("conductivity", "density", "specific_heat", "vapour_resistance", "carbon_kg_kg")
HEADS = {"name": "Material", "family": "Family", "source": "Source"}


@dataclass(frozen=True)
class Finding:
    """A cell that cannot be taken: row as numbered in the file, column by its head, what is wrong."""

    row: int
    column: str
    sentence: str


@dataclass(frozen=True)
class Table:
    """What a file holds: materials of whole rows, and findings for rows that are left out."""

    materials: tuple[Material, ...]
    findings: tuple[Finding, ...]


def read_materials(body: bytes, name: str, taken: Iterable[str]) -> Table:
    """Read a table; a row with a bad cell is left out whole and told, others are taken.

    Parameters
    ----------
    taken : ids that materials may not have

    Raises
    ------
    EurythmError
        ``not-a-table``, ``missing-column``, ``unknown-unit`` or ``too-long``, with the file's name.
    """
    rows = _rows(body, name)
    if not rows:
        raise EurythmError("not-a-table", f"“{name}” holds no rows.", name)
    if len(rows) > MOST_ROWS:
        raise EurythmError("too-long", f"“{name}” has {len(rows)} rows; at most {MOST_ROWS} are read.", name)
    columns = _columns(rows[0], name)
    used = set(taken)
    materials: list[Material] = []
    findings: list[Finding] = []
    for number, row in enumerate(rows[1:], 2):
        if not any(str(c or "").strip() for c in row):
            continue
        values: dict[str, Any] = {}
        wrong: list[Finding] = []
        for field, (at, head, factor) in columns.items():
            cell = row[at] if at < len(row) else None
            text = str(cell if cell is not None else "").strip()
            if field in NUMBERS:
                if not text:
                    if field in NEEDED:
                        wrong.append(Finding(number, head, "is empty"))
                    continue
                try:
                    values[field] = float(text.replace(",", ".") if text.count(",") == 1 and "." not in text else text) / factor
                except ValueError:
                    wrong.append(Finding(number, head, f"“{text[:40]}” is no number"))
            elif text:
                values[field] = text.lstrip("'") if text.startswith("'=") else text
            elif field in NEEDED:
                wrong.append(Finding(number, head, "is empty"))
        if not wrong:
            wrong = _taken(values, number, columns, used, materials)
        findings += wrong
    return Table(tuple(materials), tuple(findings))


def _taken(
    values: dict[str, Any], number: int, columns: dict[str, tuple[int, str, float]], used: set[str], out: list[Material]
) -> list[Finding]:
    """Add one row's material, or tell why not."""
    values.setdefault("source", "from a table of the user's")
    if values.get("family") not in get_args(Family):
        values["family"] = "other"
    stem = re.sub(r"[^a-z0-9]+", "-", values["name"].casefold()).strip("-")[:40] or "material"
    values["id"] = stem if stem not in used else fresh_id(stem, used)
    try:
        made = read_document(Material, values)
    except EurythmError as fault:
        field = fault.path.rpartition("/")[2]
        head = columns[field][1] if field in columns else field
        return [Finding(number, head, fault.message.partition(": ")[2] or fault.message)]
    used.add(made.id)
    out.append(made)
    return []


def _rows(body: bytes, name: str) -> list[list[Any]]:
    if body[:4] == b"PK\x03\x04":
        try:
            book = load_workbook(io.BytesIO(body), read_only=True, data_only=True)
            sheet = book.worksheets[0]
            return [list(row) for row in sheet.iter_rows(max_row=MOST_ROWS + 2, max_col=40, values_only=True)]
        except (zipfile.BadZipFile, KeyError, ValueError, OSError, IndexError) as fault:
            raise EurythmError("not-a-table", f"“{name}” is no workbook that can be read.", name) from fault
    try:
        text = body.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = body.decode("latin-1")
    if "\0" in text:
        raise EurythmError("not-a-table", f"“{name}” is neither CSV nor XLSX.", name)
    first = text.split("\n", 1)[0]
    delimiter = max((";", ",", "\t"), key=first.count)
    try:
        return list(csv.reader(io.StringIO(text), delimiter=delimiter))[: MOST_ROWS + 2]
    except csv.Error as fault:
        raise EurythmError("not-a-table", f"“{name}” is no CSV that can be read: {fault}.", name) from fault


def _columns(head: Sequence[Any], name: str) -> dict[str, tuple[int, str, float]]:
    """Which column holds which field, its head, and how many of its unit one SI unit is."""
    found: dict[str, tuple[int, str, float]] = {}
    for at, cell in enumerate(head):
        text = str(cell or "").strip()
        for field in FIELDS:
            title = HEADS.get(field, str(notes(Material, field)["title"]))
            if not text.casefold().startswith(title.casefold()) and not (field == "name" and text.casefold() == "name"):
                continue
            unit = text[len(title) :].strip(" ,()[]") if field in NUMBERS else ""
            found[field] = (at, text, _factor(field, unit, name, text))
            break
    missing = [HEADS.get(f, str(notes(Material, f)["title"])) for f in NEEDED if f not in found]
    if missing:
        raise EurythmError("missing-column", f"“{name}” has no column {', '.join(f'“{m}”' for m in missing)}.", name)
    return found


def _factor(field: str, unit: str, name: str, head: str) -> float:
    si = str(notes(Material, field).get("unit", ""))
    if unit.casefold() in ("", si.casefold()):
        return 1.0
    ip = IP_OF.get(si)
    if ip is not None and unit.casefold() == ip.unit.casefold():
        return ip.factor
    known = f"{si} or {ip.unit}" if ip is not None else si or "no unit"
    raise EurythmError("unknown-unit", f"“{name}”: the unit of “{head}” is not known; use {known}.", name)


def _lines(materials: Iterable[Material], ip: bool) -> list[list[Any]]:
    head = []
    for field in FIELDS:
        unit = str(notes(Material, field).get("unit", "")) if field in NUMBERS else ""
        shown = to_ip(1.0, unit)[1] if ip and unit else unit
        head.append(f"{HEADS.get(field, notes(Material, field)['title'])} {shown}".strip())
    rows: list[list[Any]] = [head]
    for m in materials:
        row: list[Any] = []
        for field in FIELDS:
            value = getattr(m, field)
            if field in NUMBERS and value is not None:
                unit = str(notes(Material, field).get("unit", ""))
                value = to_ip(float(value), unit)[0] if ip else float(value)
            row.append(plain(value) if isinstance(value, str) else value)
        rows.append(row)
    return rows


def materials_csv(materials: Iterable[Material], ip: bool = False) -> str:
    """Return materials as CSV that `read_materials` reads again."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows([["" if c is None else c for c in row] for row in _lines(materials, ip)])
    return out.getvalue()


def materials_xlsx(materials: Iterable[Material], ip: bool = False) -> bytes:
    """Return materials as a workbook that `read_materials` reads again."""
    book = Workbook()
    sheet = book.worksheets[0]
    sheet.title = "Materials"
    for row in _lines(materials, ip):
        sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
