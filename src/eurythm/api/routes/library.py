"""The user's own library for all projects, whole sets of constructions, and tables of the library in and out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from fastapi import APIRouter, UploadFile
from fastapi.responses import Response
from pydantic import BaseModel

from eurythm.api.office import Here
from eurythm.api.skin_shapes import CellOut
from eurythm.api.uploads import named, taken
from eurythm.brief.resolve import Shelf
from eurythm.exchange import constructions, materials
from eurythm.exchange.constructions import constructions_csv, constructions_xlsx
from eurythm.exchange.grid import sheets_of
from eurythm.exchange.materials import materials_csv, materials_xlsx
from eurythm.fabric.opaque import u_value
from eurythm.fabric.sets import SETS
from eurythm.model.library import Library
from eurythm.store.own_library import Group

MOST_TABLE_BYTES = 5_000_000
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
Tabled = Literal["materials", "constructions"]
router = APIRouter(prefix="/api")


class TableOut(BaseModel):
    """Materials or constructions of a table's whole rows, as they would stand in the library, and what was found in the others.

    What is unusual about those that can be taken stands in `questions`; `sheets` are all of a workbook, `sheet` is the one that was read.
    """

    items: list[dict[str, Any]]
    findings: list[CellOut]
    questions: list[CellOut]
    sheets: list[str]
    sheet: str


class SetOut(BaseModel):
    """A set of constructions by id for each element, with their U-values in W/m2K, and its window."""

    id: str
    name: str
    constructions: dict[str, str]
    u_values: dict[str, float]
    glazing: str


@router.get("/library")
def get_own_library(here: Here) -> Library:
    """Return what the user keeps for all projects."""
    return here.own_library.all()


@router.post("/library/{group}")
def post_own_library(group: Group, item: dict[str, Any], here: Here) -> Library:
    """Keep a thing for all projects; one with the same id is replaced."""
    return here.own_library.keep(group, item)


@router.delete("/library/{group}/{entry}")
def delete_own_library(group: Group, entry: str, here: Here) -> Library:
    """Remove a thing from what is kept for all projects."""
    return here.own_library.remove(group, entry)


@router.get("/sets")
def get_sets() -> list[SetOut]:
    """List whole sets of constructions, from uninsulated to the best of today."""
    return [
        SetOut(
            id=s.id, name=s.name, glazing=s.glazing, constructions={e: c.id for e, c in s.constructions.items()},
            u_values={e: u_value(c, e) for e, c in s.constructions.items()},
        )
        for s in SETS
    ]  # fmt: skip


@router.post("/projects/{project_id}/{tabled}/read")
def post_table(
    project_id: str, tabled: Tabled, file: UploadFile, here: Here, sheet: str | None = None, units: Literal["SI", "IP"] = "SI"
) -> TableOut:
    """Read a table of materials or constructions, of a workbook one sheet; nothing is taken over yet."""
    name = named(file, tabled)
    body = taken(file, MOST_TABLE_BYTES, name)
    shelf = Shelf(here.projects.state(project_id).project.library)
    items: Sequence[BaseModel]
    if tabled == "materials":
        sheets, proposed = sheets_of(body, name, materials.COLUMNS)
        table = materials.read_materials(body, name, shelf.materials, sheet, units == "IP")
        items, findings, questions = table.materials, table.findings, table.questions
    else:
        sheets, proposed = sheets_of(body, name, constructions.COLUMNS)
        built = constructions.read_constructions(body, name, shelf.constructions, sheet, units == "IP")
        items, findings, questions = built.constructions, built.findings, built.questions
    return TableOut(
        items=[item.model_dump(mode="json", exclude_none=True, exclude_unset=True) for item in items],
        findings=[CellOut(**vars(f)) for f in findings],
        questions=[CellOut(**vars(f)) for f in questions],
        sheets=sheets,
        sheet=sheet or proposed,
    )


@router.get("/projects/{project_id}/{tabled}.{ending}")
def get_table(project_id: str, tabled: Tabled, ending: Literal["csv", "xlsx"], here: Here, units: Literal["SI", "IP"] = "SI") -> Response:
    """Return all materials or constructions of the project and the shipped ones as a table."""
    shelf = Shelf(here.projects.state(project_id).project.library)
    ip = units == "IP"
    head = {"Content-Disposition": f'attachment; filename="{tabled}.{ending}"'}
    if ending == "csv":
        text = materials_csv(shelf.materials.values(), ip) if tabled == "materials" else constructions_csv(shelf.constructions.values(), ip)
        return Response("\ufeff" + text, media_type="text/csv; charset=utf-8", headers=head)
    book = materials_xlsx(shelf.materials.values(), ip) if tabled == "materials" else constructions_xlsx(shelf.constructions.values(), ip)
    return Response(book, media_type=XLSX, headers=head)
