"""Findings: pinned cases side by side, with the differences in words."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter

from eurythm.api.cases import Called, case_of_pin, scheme_of, told_apart
from eurythm.api.office import Here, InTurn, Office
from eurythm.api.shapes import ColumnOut, FactOut, FindingsOut, NameIn, NoteIn, OrderIn, OutcomeOut, PinIn, PinOut
from eurythm.api.views import geometry, outcome
from eurythm.assess.compare import Units, in_words, sentences
from eurythm.assess.facts import Documents, what_differs
from eurythm.assess.figures import figures_of
from eurythm.assess.worth import held_against
from eurythm.model.errors import EurythmError, NotFound
from eurythm.model.project import Project
from eurythm.store.projects import State
from eurythm.store.tables import PinRow

router = APIRouter(prefix="/api/projects/{project_id}")
SUBSTEPS = 4


@router.post("/pins", status_code=201)
def post_pin(project_id: str, pin: PinIn, here: Here) -> dict[str, str]:
    """Pin a case of a study, or a scheme as it stands."""
    state = here.projects.state(project_id)
    if (pin.study is None) == (pin.scheme is None):
        raise EurythmError("wrong-pin", "Pin either a case of a study or a scheme.", "pin")
    if pin.scheme is not None:
        scheme_of(state.project, pin.scheme)
        return {"id": here.studies.pin(project_id, None, None, pin.scheme)}
    assert pin.study is not None
    here.studies.refuse_other(project_id, pin.study)
    study = here.studies.state(pin.study)
    if pin.number is None:
        raise NotFound("no-such-case", "The study has no such case.", "pin/number")
    here.studies.case(study, pin.number)
    return {"id": here.studies.pin(project_id, pin.study, pin.number, None)}


@router.get("/pins")
def get_pins(project_id: str, here: Here) -> list[PinOut]:
    """List the pins."""
    return [
        PinOut(id=p.id, study=p.study_id, number=p.number, scheme=p.scheme_id, note=p.note, name=p.name)
        for p in here.studies.pins(project_id)
    ]


@router.delete("/pins/{pin_id}", status_code=204)
def delete_pin(project_id: str, pin_id: str, here: Here) -> None:
    """Take a pin away."""
    here.studies.unpin(pin_id)


@router.put("/pins/{pin_id}/note", status_code=204)
def put_note(project_id: str, pin_id: str, note: NoteIn, here: Here) -> None:
    """Write a note on a pin."""
    here.studies.note(pin_id, note.note)


@router.put("/pins/{pin_id}/name", status_code=204)
def put_name(project_id: str, pin_id: str, name: NameIn, here: Here) -> None:
    """Call a pin something."""
    here.studies.name_pin(pin_id, name.name.strip())


@router.put("/pins", status_code=204)
def put_order(project_id: str, order: OrderIn, here: Here) -> None:
    """Set the order of the pins."""
    here.studies.order_pins(project_id, order.pins)


@router.get("/findings", dependencies=[InTurn])
def get_findings(project_id: str, here: Here, units: Units = "SI", against: str = "", scheme: str = "") -> FindingsOut:
    """Return the reference, a scheme that is looked at and all pinned cases as columns; peaks from four steps an hour.

    They are held against the reference or a pin. A scheme that is pinned or the reference has no column of its own.
    """
    state = here.projects.state(project_id)
    project = state.project
    files = here.projects.files(project_id)
    columns = [_scheme_column(project, project.reference, files, state.revision, None)]
    documents: list[Documents | None] = [_documents(project, project.reference)]
    called: list[Called] = [(columns[0].title, (), "")]
    pins = here.studies.pins(project_id)
    if scheme and scheme != project.reference and all(pin.scheme_id != scheme for pin in pins):
        columns.append(_scheme_column(project, scheme, files, state.revision, None))
        documents.append(_documents(project, scheme))
        called.append((columns[-1].title, (), ""))
    for pin in pins:
        if pin.scheme_id == project.reference:
            columns[0].pin = pin.id
            columns[0].note, columns[0].name = pin.note, pin.name
            continue
        column, own, known = _pinned(here, state, pin, files)
        columns.append(column)
        documents.append(own)
        called.append(known)
    sound = [(column, own) for column, own in zip(columns, documents, strict=True) if own is not None and not column.fault]
    for (column, _), facts in zip(sound, what_differs([own for _, own in sound]), strict=True):
        column.facts = [FactOut(title=f.title, text=f.text, value=f.value, unit=f.unit) for f in facts]
    for column, title in zip(columns, told_apart(called), strict=True):
        column.title = column.name or title
    base = next((c for c in columns if c.pin and c.pin == against), columns[0])
    base.is_base = True
    for column in (c for c in columns if c is not base):
        if base.outcome is not None and column.outcome is not None:
            column.differences = _differences(column.outcome, base.outcome)
            mine, other = column.outcome.model_dump(), base.outcome.model_dump()
            column.sentences = [
                *sentences(mine, other, base.title, units),
                held_against(mine, other, project.factors, base.title)["sentence"],
            ]
    return FindingsOut(columns=columns)


def _documents(project: Project, scheme_id: str) -> Documents:
    return Documents(project.place, project.library, scheme_of(project, scheme_id))


def _pinned(here: Office, state: State, pin: PinRow, files: dict[str, str]) -> tuple[ColumnOut, Documents | None, Called]:
    if pin.scheme_id is not None and any(s.id == pin.scheme_id for s in state.project.schemes):
        column = _scheme_column(state.project, pin.scheme_id, files, state.revision, pin)
        return column, _documents(state.project, pin.scheme_id), (column.title, (), "")
    try:
        titled = case_of_pin(here, state, pin)
    except EurythmError as fault:
        column = _empty(pin.scheme_id or f"Case {pin.number}", pin, fault.message)
        return column, None, (column.title, (), "")
    column = _column(titled.project, titled.case.scheme, files, titled.revision)
    column.pin, column.note, column.name, column.title, column.subtitle = pin.id, pin.note, pin.name, titled.title, titled.subtitle
    return column, Documents(titled.case.place, titled.case.library, titled.case.scheme), titled.called


def _scheme_column(project: Project, scheme_id: str, files: dict[str, str], revision: int, pin: PinRow | None) -> ColumnOut:
    scheme = scheme_of(project, scheme_id)
    column = _column(project, scheme, files, revision)
    column.is_reference = scheme_id == project.reference
    column.subtitle = "reference" if column.is_reference else "as it stands"
    if pin is not None:
        column.pin, column.note, column.name = pin.id, pin.note, pin.name
    return column


def _column(project: Project, scheme: Any, files: dict[str, str], revision: int) -> ColumnOut:
    made: OutcomeOut | None = None
    form, fault = None, ""
    try:
        form = geometry(project.place, scheme, lambda: files)
        made = outcome(project, scheme, files, revision, SUBSTEPS)
    except EurythmError as error:
        fault = error.message
    return ColumnOut(
        pin=None,
        title=scheme.name,
        subtitle="",
        scheme=scheme.id,
        note="",
        name="",
        is_reference=False,
        is_base=False,
        facts=[],
        outcome=made,
        geometry=form,
        differences={},
        sentences=[],
        fault=fault,
    )


def _empty(title: str, pin: PinRow, fault: str) -> ColumnOut:
    return ColumnOut(
        pin=pin.id,
        title=title,
        subtitle="",
        scheme="",
        note=pin.note,
        name=pin.name,
        is_reference=False,
        is_base=False,
        facts=[],
        outcome=None,
        geometry=None,
        differences={},
        sentences=[],
        fault=fault,
    )


def _differences(mine: OutcomeOut, base: OutcomeOut) -> dict[str, str]:
    own, other = mine.model_dump(), base.model_dump()
    pairs = [(f.id, f.known(own), f.known(other)) for f in figures_of("building", "array")]
    return {id: in_words(a, b) for id, a, b in pairs if a is not None and b is not None}
