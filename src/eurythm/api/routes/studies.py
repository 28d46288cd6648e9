"""Studies: plan, run, follow, cancel; their cases."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator, Sequence
from dataclasses import asdict
from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter, Query, Request
from fastapi.responses import Response, StreamingResponse
from sse_starlette.sse import EventSourceResponse

from eurythm.api.cases import scheme_of
from eurythm.api.office import Here, InTurn, Office
from eurythm.api.shapes import OutcomeOut
from eurythm.api.study_shapes import (
    AlternativesOut,
    BaselineOut,
    CaseOut,
    CasesAsked,
    CasesOut,
    CasesShown,
    ColumnsAsked,
    ColumnsOut,
    FailedOut,
    PlanOut,
    PointsAsked,
    PointsOut,
    SieveIn,
    SizeIn,
    SpreadOut,
    StudyIn,
    StudyOut,
    TakenOver,
    TriedOut,
    TryIn,
)
from eurythm.api.views import outcome, study_out
from eurythm.assess.figures import OF_CASES, by_zone, figures_of, flat
from eurythm.brief.edits import Put, opened
from eurythm.exchange.bundle import csv_lines
from eurythm.exchange.case_files import frame_of, parquet_of_cases, xlsx_of_cases
from eurythm.model.errors import EurythmError, StaleRevision
from eurythm.model.ids import fresh_id
from eurythm.model.project import Project
from eurythm.model.scheme import Scheme
from eurythm.model.study import MOST_CHANGES, Change, StudySpec
from eurythm.store.studies import StudyState
from eurythm.study.alternatives import alternatives
from eurythm.study.answers import Answer, answer
from eurythm.study.levers import LEVERS, CaseInputs, changes_between
from eurythm.study.levers.base import Offer
from eurythm.study.outcomes import of_zones, outcomes_of
from eurythm.study.plan import case_at, check, count, in_order, inputs_of, rows_of, shown, step_labels
from eurythm.study.runner import CaseResult, Job, expected_seconds, remarks_of, run_case
from eurythm.study.same import same_cases
from eurythm.study.table import DONE, FAILED, STATUS, CaseTable, Sieve

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
CASE_BYTES = 1200
"""What a case takes in the database, more or less."""
MOST_FAILED = 30
"""Of how many failed cases the reasons are told on the page; the CSV has all."""
router = APIRouter(prefix="/api/projects/{project_id}")


def inputs_of_project(here: Office, project_id: str, project: Project, scheme_id: str | None) -> CaseInputs:
    """Return the documents that cases of a scheme start from, of the reference where none is named."""
    scheme = scheme_of(project, scheme_id or project.reference)
    climates = here.projects.file_names(project_id)
    return CaseInputs(project.place, project.library, project.factors, scheme, project.schemes, climates)


@router.get("/schemes/{scheme_id}/levers")
def get_levers(project_id: str, scheme_id: str, here: Here) -> list[Offer]:
    """Return the levers that a scheme offers."""
    project = here.projects.state(project_id).project
    inputs = inputs_of_project(here, project_id, project, scheme_id)
    return [offer for lever in LEVERS.values() for offer in lever.offers(inputs)]


@router.get("/schemes/{scheme_id}/changes")
def get_changes(project_id: str, scheme_id: str, to: str, here: Here) -> list[Change]:
    """Return the steps of levers that make a scheme like another one, for a measure. Raises EurythmError where these are more than a measure makes."""
    project = here.projects.state(project_id).project
    mine, other = (inputs_of_project(here, project_id, project, name) for name in (scheme_id, to))
    found = changes_between(mine, other)
    if len(found) > MOST_CHANGES:
        raise EurythmError(
            "too-many-changes",
            f"The schemes differ in {len(found)} values; a measure makes at most {MOST_CHANGES} changes. Vary the scheme itself.",
            "to",
        )
    return found


@router.post("/studies/plan")
def plan_study(project_id: str, asked: StudyIn, here: Here, timed: bool = True) -> PlanOut:
    """Check a study and tell how many cases it has, how many are the same as another one, and, unless not asked, how long they will take.

    No time is told while a study runs, which comes first, nor once another one is asked about.
    """
    project = here.projects.state(project_id).project
    inputs = inputs_of_project(here, project_id, project, asked.study.scheme)
    views = check(asked.study, inputs)
    job = Job(asked.study, inputs, here.projects.files(project_id), "plan")
    cases = in_order(asked.study)
    own = same_cases(job, cases) == np.arange(len(cases))
    same, total = int((~own).sum()), count(asked.study)
    seconds = (
        expected_seconds(job, cases.chosen(own), min(here.processes, asked.processes or here.processes), here.jobs.trial())
        if timed
        else None
    )
    if seconds is not None and asked.study.kind == "search":
        seconds *= total / len(cases)  # as if all generations were like the first
    return PlanOut(levers=views, cases=total, same=same, seconds=seconds, bytes=total * CASE_BYTES, processes=here.processes)


@router.post("/studies/try", dependencies=[InTurn])
def try_case(project_id: str, asked: TryIn, here: Here) -> TriedOut:
    """Run one case of a study that is not kept, and tell what it comes to."""
    project = here.projects.state(project_id).project
    inputs = inputs_of_project(here, project_id, project, asked.study.scheme)
    views = check(asked.study, inputs)
    rows = rows_of(asked.study)
    number = len(rows) // 2 if asked.number is None else asked.number % len(rows)
    one = case_at(asked.study, number, rows[number])
    result = run_case(Job(asked.study, inputs, here.projects.files(project_id), "try"), one)
    return TriedOut(
        number=number,
        of=len(rows),
        labels=step_labels(asked.study, views, one, inputs),
        figures=flat(result.figures, [f.id for f in outcomes_of(asked.study)]),
        remarks=remarks_of(result.figures) if result.figures is not None else [],
        reason=result.reason,
        seconds=result.seconds,
    )


@router.post("/studies", status_code=201)
def start_study(project_id: str, asked: StudyIn, here: Here) -> StudyOut:
    """Start a study on the documents as they stand."""
    state = here.projects.state(project_id)
    if state.revision != asked.revision:
        raise StaleRevision(
            "stale-revision", f"The project is at revision {state.revision}; this was made on {asked.revision}.", "revision"
        )
    inputs = inputs_of_project(here, project_id, state.project, asked.study.scheme)
    check(asked.study, inputs)
    spec = asked.study.model_copy(update={"scheme": inputs.scheme.id})
    made = here.studies.create(project_id, state.revision, state.project, StudySpec.model_validate(spec.model_dump()), asked.processes)
    here.jobs.start(made.id)
    return study_out(made, state.revision)


@router.get("/studies")
def list_studies(project_id: str, here: Here) -> list[StudyOut]:
    """List a project's studies, the latest first."""
    revision = here.projects.state(project_id).revision
    return [study_out(s, revision) for s in here.studies.listed(project_id)]


@router.get("/studies/{study_id}")
def get_study(project_id: str, study_id: str, here: Here) -> StudyOut:
    """Return a study as it stands."""
    return study_out(here.studies.state(study_id), here.projects.state(project_id).revision)


@router.post("/studies/{study_id}/cancel")
def cancel_study(project_id: str, study_id: str, here: Here) -> StudyOut:
    """Stop a study; what is done stays."""
    here.jobs.cancel(study_id)
    return get_study(project_id, study_id, here)


@router.post("/studies/{study_id}/go-on")
def go_on_with_study(project_id: str, study_id: str, here: Here) -> StudyOut:
    """Go on with a study that was stopped or broke; what is done stays."""
    if here.studies.progress(study_id).status in ("cancelled", "broken"):
        here.studies.mark(study_id, "waiting")
        here.jobs.start(study_id)
    return get_study(project_id, study_id, here)


@router.post("/studies/{study_id}/extend")
def extend_study(project_id: str, study_id: str, asked: SizeIn, here: Here) -> StudyOut:
    """Give a sample more cases; what ran stays."""
    if here.studies.progress(study_id).status in ("waiting", "running"):
        raise EurythmError("still-running", "The study is still running; extend it when it has ended.", "study")
    here.studies.extend(study_id, asked.size)
    here.jobs.start(study_id)
    return get_study(project_id, study_id, here)


@router.delete("/studies/{study_id}", status_code=204)
def delete_study(project_id: str, study_id: str, here: Here) -> None:
    """Remove a study with its cases and pins; where it runs, it ends by itself."""
    here.jobs.cancel(study_id)
    here.studies.remove(study_id)


def _cases(here: Office, study_id: str, table: CaseTable, numbers: Sequence[int]) -> list[CaseOut]:
    attempts = here.studies.attempts(study_id, numbers)
    return [_case(table, n, attempts.get(n, 0)) for n in numbers]


def _case(table: CaseTable, number: int, attempts: int) -> CaseOut:
    return CaseOut(
        number=number,
        steps=table.steps[number].tolist(),
        values=[None if c.low is None else float(v) for c, v in zip(table.columns, table.rows[number], strict=True)],
        status=STATUS[table.status[number]],
        attempts=attempts,
        reason=table.reason(number),
        figures=table.known(number),
        peaks_at=table.hours(number),
        remarks=list(table.said(number)),
    )


def _sieve(asked: SieveIn) -> Sieve:
    return Sieve(asked.dropped, asked.ranges, asked.which, asked.says)


@router.get("/studies/{study_id}/cases")
def get_cases(
    project_id: str, study_id: str, here: Here, first: Annotated[int, Query(ge=0)] = 0, most: Annotated[int, Query(ge=1, le=5000)] = 1000
) -> CasesOut:
    """Return cases of a study by their numbers, so many from the first one asked for."""
    table = here.tables.of(here.studies.state(study_id))
    total = len(table.status)
    return CasesOut(cases=_cases(here, study_id, table, range(first, min(first + most, total))), total=total)


@router.post("/studies/{study_id}/cases/shown")
def show_cases(project_id: str, study_id: str, asked: CasesAsked, here: Here) -> CasesShown:
    """Return a page of the cases in the running, and how all cases stand."""
    table = here.tables.of(here.studies.state(study_id))
    running = table.running(_sieve(asked.sieve))
    page = table.sorted(running, asked.by, asked.down)[asked.first : asked.first + asked.most]
    spreads = {name: table.spread(name, running) for name in asked.spreads}
    whole, net = table.figures["eui_kwh_per_m2"], table.figures["eui_net_kwh_per_m2"]
    return CasesShown(
        cases=_cases(here, study_id, table, page.tolist()),
        running=int(running.sum()),
        remarked=int((table.remarks > 0).sum()),
        strips=table.strips(running),
        spreads={
            name: SpreadOut(low=s.low, high=s.high, every=s.every.tolist(), running=s.running.tolist())
            for name, s in spreads.items()
            if s is not None
        },
        failed=[FailedOut(number=int(n), reason=table.reason(int(n))) for n in np.flatnonzero(table.status == FAILED)[:MOST_FAILED]],
        net=bool(np.any(~np.isnan(net) & (whole != net))),
    )


@router.post("/studies/{study_id}/cases/points")
def show_points(project_id: str, study_id: str, asked: PointsAsked, here: Here) -> PointsOut:
    """Return two figures of all finished cases."""
    table = here.tables.of(here.studies.state(study_id))
    running = table.running(_sieve(asked.sieve))
    done = np.flatnonzero(table.status == DONE)
    x, y = ([None if np.isnan(v) else float(v) for v in table.column(name)[done]] for name in (asked.x, asked.y))
    said = {int(n): list(table.said(int(n))) for n in np.flatnonzero(running & (table.remarks > 0))}
    return PointsOut(numbers=done.tolist(), x=x, y=y, running=running[done].tolist(), said=said)


@router.post("/studies/{study_id}/cases/columns")
def show_columns(project_id: str, study_id: str, asked: ColumnsAsked, here: Here) -> ColumnsOut:
    """Return figures and levers of finished cases as columns, for pictures of many cases."""
    table = here.tables.of(here.studies.state(study_id))
    running = table.running(_sieve(asked.sieve))
    done = np.flatnonzero(table.status == DONE)
    shown = done[np.unique(np.linspace(0, len(done) - 1, asked.most).astype(int))] if len(done) > asked.most else done
    columns = {}
    for name in asked.names:
        column = table.rows[:, table.levers.index(name)] if name in table.levers else table.column(name)
        columns[name] = [None if np.isnan(v) else float(v) for v in column[shown]]
    return ColumnsOut(
        numbers=shown.tolist(),
        running=running[shown].tolist(),
        remarked=(table.remarks[shown] > 0).tolist(),
        columns=columns,
        of=len(done),
    )


@router.post("/studies/{study_id}/cases/{number}/take-over", status_code=201)
def take_over(project_id: str, study_id: str, number: int, here: Here) -> TakenOver:
    """Make a scheme of a case: the project's own scheme with the case's steps taken, under a name that says so."""
    study = here.studies.state(study_id)
    inputs = study.inputs()
    one = here.studies.case(study, number)
    made = inputs_of(study.spec, one, inputs)
    views = shown(study.spec, inputs)
    state = here.projects.state(project_id)
    labels = step_labels(study.spec, views, one, inputs)
    fresh = fresh_id(f"{made.scheme.id[:40]}-case-{number}", {s.id for s in state.project.schemes})
    scheme = opened(made.scheme) | {"id": fresh, "name": f"{made.scheme.name[:100]}, case {number}"}
    kept = here.projects.edit(project_id, state.revision, Put(path="schemes", item=scheme))
    besides = []
    if made.place != inputs.place or made.factors != inputs.factors:
        besides = [
            f"{view.title}: {label}"
            for spec, view, label in zip(study.spec.levers, views, labels, strict=False)
            if not LEVERS[spec.kind].sets(spec).startswith("scheme")
        ]
    return TakenOver(scheme=fresh, revision=kept.revision, besides=besides)


@router.get("/studies/{study_id}/baseline", dependencies=[InTurn])
def get_baseline(project_id: str, study_id: str, here: Here) -> BaselineOut:
    """Return what the cases of a study are compared with."""
    study = here.studies.state(study_id)
    name, stands = _compared_with(here, project_id, study, study.inputs().scheme)
    told = stands.model_dump()
    told["by_zone"] = by_zone(told["zones"], of_zones(study.spec))
    return BaselineOut(name=name, figures=flat(told, [f.id for f in outcomes_of(study.spec)]))


def _compared_with(here: Here, project_id: str, study: StudyState, asked: Scheme) -> tuple[str, OutcomeOut]:
    """What a study's cases are compared with, and its name: its scheme as it stands now; as it was, where there is no such result any more."""
    files, now = here.projects.files(project_id), here.projects.state(project_id)
    scheme = next((s for s in now.project.schemes if s.id == asked.id), None)
    if scheme is not None:
        try:
            return f"{scheme.name} as it stands", outcome(now.project, scheme, files, now.revision)
        except EurythmError:
            pass
    return f"{asked.name} as it was when this was asked", outcome(study.base, asked, files, study.revision)


@router.get("/studies/{study_id}/cases.csv")
def get_cases_csv(project_id: str, study_id: str, here: Here) -> StreamingResponse:
    """Return all cases as CSV."""
    state = here.studies.state(study_id)
    taken = here.studies.rows(study_id, state.spec)
    rows = (
        (case_at(state.spec, c.number, taken[c.number]).steps, CaseResult(c.number, c.status, c.figures, c.reason, 0.0))
        for c in here.studies.cases(study_id)
        if c.number < len(taken)
    )
    lines = csv_lines(shown(state.spec, state.inputs()), rows, of_zones(state.spec))
    return StreamingResponse(lines, media_type="text/csv", headers={"Content-Disposition": 'attachment; filename="cases.csv"'})


@router.get("/studies/{study_id}/cases.{form}")
def get_cases_file(project_id: str, study_id: str, form: Literal["xlsx", "parquet"], here: Here, figures: str = "") -> Response:
    """Return the cases as a workbook or as Parquet, with the figures that are named (ids with commas between), else those that are compared."""
    study = here.studies.state(study_id)
    names = (
        [name for name in figures.split(",") if name] or list(study.spec.outcomes) or [f.id for f in figures_of(*OF_CASES) if f.compared]
    )
    frame = frame_of(study.spec, shown(study.spec, study.inputs()), here.tables.of(study), names)
    body, kind = (xlsx_of_cases(frame), XLSX) if form == "xlsx" else (parquet_of_cases(frame), "application/vnd.apache.parquet")
    return Response(body, media_type=kind, headers={"Content-Disposition": f'attachment; filename="cases.{form}"'})


@router.get("/studies/{study_id}/events")
async def follow_study(project_id: str, study_id: str, request: Request, here: Here) -> EventSourceResponse:
    """Send progress whenever it moves, until the study has ended."""

    async def events() -> AsyncIterator[dict[str, str]]:
        last = ""
        while not await request.is_disconnected():
            state = await asyncio.to_thread(here.studies.progress, study_id)
            told = json.dumps(asdict(state))
            if told != last:
                last = told
                yield {"event": "progress", "data": told}
            if state.status not in ("waiting", "running"):
                return
            await asyncio.sleep(0.3)

    return EventSourceResponse(events())


@router.get("/studies/{study_id}/matters")
def get_matters(project_id: str, study_id: str, here: Here, figure: str = "eui_kwh_per_m2", against: str = "cost_per_m2") -> Answer:
    """Return what matters most for a figure, and the cases that no other betters in it and another one, or in the goals of a search."""
    study = here.studies.state(study_id)
    return answer(study.spec, here.tables.of(study), figure, against)


@router.get("/studies/{study_id}/alternatives")
def get_alternatives(project_id: str, study_id: str, here: Here) -> AlternativesOut:
    """Return the cases of a study of measures against its baseline, with money over the years."""
    study = here.studies.state(study_id)
    if study.spec.kind != "measures":
        raise EurythmError("no-measures", "Only a study of measures has alternatives.", "study")
    rows = here.studies.rows(study_id, study.spec)
    factors = study.base.factors
    told = here.studies.figures(study_id, range(len(rows)))
    found = alternatives(study.spec, rows, told, factors)
    return AlternativesOut(rows=found, horizon_years=factors.money.horizon_years)
