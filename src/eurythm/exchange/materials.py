"""Materials as a table: CSV or XLSX with headed columns in SI or inch-pound, in and out."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import get_args

from eurythm.exchange.grid import Column, Finding, Row, id_for, read_rows, to_csv, to_xlsx
from eurythm.fabric.usual import material_questions
from eurythm.model.errors import EurythmError
from eurythm.model.field import notes
from eurythm.model.ids import fresh_id
from eurythm.model.library import Family, Material
from eurythm.model.reading import read_document


def _number(field: str, needed: bool = False, also: tuple[str, ...] = ()) -> Column:
    note = notes(Material, field)
    return Column(field, str(note["title"]), str(note.get("unit", "")), needed, also)


COLUMNS = (
    Column("name", "Material", needed=True, also=("name",)),
    Column("family", "Family"),
    _number("conductivity", True, ("thermal conductivity", "lambda", "λ")),
    _number("density", True, ("bulk density", "rho", "ρ")),
    _number("specific_heat", False, ("specific heat capacity", "heat capacity", "cp")),
    _number("vapour_resistance"),
    _number("carbon_kg_kg"),
    Column("source", "Source"),
)


@dataclass(frozen=True)
class Table:
    """What a file holds: materials of whole rows, findings for rows that are left out, and what is unusual about those that are taken."""

    materials: tuple[Material, ...]
    findings: tuple[Finding, ...]
    questions: tuple[Finding, ...] = ()


def read_materials(body: bytes, name: str, taken: Iterable[str], sheet: str | None = None, ip: bool = False) -> Table:
    """Read a table; a row with a bad cell is left out whole and told, others are taken.

    Parameters
    ----------
    taken : ids that materials may not have
    sheet : of a workbook; the first one that has the columns unless named
    ip : whether what is unusual is told in inch-pound units

    Raises
    ------
    EurythmError
        As `eurythm.exchange.grid.read_rows`.
    """
    used = set(taken)
    materials: list[Material] = []
    findings: list[Finding] = []
    unusual: list[Finding] = []
    for row in read_rows(body, name, COLUMNS, sheet):
        wrong = row.findings or _taken(row, used, materials)
        findings += wrong
        if not wrong:
            unusual += [row.wrong(q.field, q.sentence(ip)) for q in material_questions(materials[-1])]
    return Table(tuple(materials), tuple(findings), tuple(unusual))


def _taken(row: Row, used: set[str], out: list[Material]) -> list[Finding]:
    """Add one row's material, or tell why not."""
    values = {"source": "from a table of the user's", **row.values}
    if values.get("family") not in get_args(Family):
        values["family"] = "other"
    stem = id_for(values["name"], "material")
    values["id"] = stem if stem not in used else fresh_id(stem, used)
    try:
        made = read_document(Material, values)
    except EurythmError as fault:
        return [row.refused(fault)]
    used.add(made.id)
    out.append(made)
    return []


def materials_csv(materials: Iterable[Material], ip: bool = False) -> str:
    """Return materials as CSV that `read_materials` reads again."""
    return to_csv(COLUMNS, (m.model_dump() for m in materials), ip)


def materials_xlsx(materials: Iterable[Material], ip: bool = False) -> bytes:
    """Return materials as a workbook that `read_materials` reads again."""
    return to_xlsx("Materials", COLUMNS, (m.model_dump() for m in materials), ip)
