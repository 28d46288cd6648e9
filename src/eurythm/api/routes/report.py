"""The report of a comparison: paper, page or workbook."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response

from eurythm.api.cases import Called, case_of_pin, case_of_scheme, cases_asked, told_apart
from eurythm.api.office import Here, InTurn, Office
from eurythm.api.shapes import ReportAsk
from eurythm.model.errors import EurythmError
from eurythm.report.compared.assumptions import still_assumed
from eurythm.report.compared.content import Asked, content
from eurythm.report.compared.paper import pdf_of
from eurythm.report.compared.sheets import xlsx_of
from eurythm.report.compared.studied import study_told
from eurythm.report.compared.web import html_of
from eurythm.store.projects import State

router = APIRouter(prefix="/api/projects/{project_id}", dependencies=[InTurn])
TYPES = {
    "pdf": "application/pdf",
    "html": "text/html; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}


@router.post("/report")
def make_report(project_id: str, asked: ReportAsk, here: Here) -> Response:
    """Return a report of chosen cases (the reference and all pins where none are named) and, where it is named, of a study."""
    state = here.projects.state(project_id)
    cases = _named(here, project_id, asked) if asked.cases else _pinned(here, state)
    reference = case_of_scheme(here, state, state.project.reference).case
    ranked = [one for rays in (False, True) for one in here.ranked(state, reference, rays)] if asked.ranked else None
    assumed = still_assumed(state.project, reference.scheme, ranked)
    study = None
    if asked.study is not None:
        here.studies.refuse_other(project_id, asked.study)
        kept = here.studies.state(asked.study)
        results = here.studies.figures(kept.id, range(kept.done + kept.failed)) if kept.spec.kind == "measures" else []
        study = study_told(kept.spec, kept.inputs(), here.tables.of(kept), results, asked.units)
    told = content(state.project.name, cases, asked.units, assumed=assumed, study=study, title=asked.title)
    made: Any = {"pdf": pdf_of, "html": html_of, "xlsx": xlsx_of}[asked.form](told)
    return Response(made, media_type=TYPES[asked.form], headers={"Content-Disposition": f'attachment; filename="report.{asked.form}"'})


def _named(here: Office, project_id: str, asked: ReportAsk) -> list[Asked]:
    named = cases_asked(here, project_id, asked.cases)
    titles = told_apart([t.called for t in named])
    return [Asked(title, t.subtitle, t.case) for title, t in zip(titles, named, strict=True)]


def _pinned(here: Office, state: State) -> list[Asked]:
    """The reference and every pin, those that cannot be worked out with their reason."""
    reference = case_of_scheme(here, state, state.project.reference)
    found = [Asked(reference.title, reference.subtitle, reference.case)]
    called: list[Called] = [(reference.title, (), "")]
    given: dict[int, str] = {}
    for pin in here.studies.pins(state.id):
        if pin.scheme_id == state.project.reference:
            found[0] = Asked(reference.title, reference.subtitle, reference.case, pin.note)
            continue
        try:
            titled = case_of_pin(here, state, pin)
        except EurythmError as fault:
            found.append(Asked(pin.scheme_id or f"Case {pin.number}", "", None, pin.note, fault.message))
            called.append((found[-1].title, (), ""))
            continue
        given[len(found)] = pin.name
        found.append(Asked(titled.title, titled.subtitle, titled.case, pin.note))
        called.append(titled.called)
    return [replace(one, title=given.get(k) or title) for k, (one, title) in enumerate(zip(found, told_apart(called), strict=True))]
