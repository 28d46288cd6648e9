"""Why a result is what it is: loads taken apart, two cases part by part, shares of their difference, and every hour."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import Response

from eurythm.api.cases import Titled, base_of_study, case_of_pin, case_of_scheme, case_of_study, cases_asked, scheme_of, told_apart
from eurythm.api.office import Here, InTurn
from eurythm.api.shapes import (
    BesideOut,
    CostRowOut,
    HeldOut,
    HourlyAsk,
    HourlyFileAsk,
    HourlyOut,
    LineOut,
    PeaksOut,
    SeriesOut,
    SharesOut,
    WhyOut,
)
from eurythm.api.views import outcome
from eurythm.assess.attribution import attribution
from eurythm.assess.worth import held_against
from eurythm.brief.costs import costs_of
from eurythm.climate.year import HOURS
from eurythm.explain.shares import shares_of_difference
from eurythm.explain.sides import side_by_side
from eurythm.model.errors import EurythmError
from eurythm.report.hourly import LINES, Column, columns_of, csv_of, parquet_of
from eurythm.simulate import run, size

router = APIRouter(prefix="/api/projects/{project_id}", dependencies=[InTurn])
SUBSTEPS = 4
MOST_SERIES = 100


@router.get("/schemes/{scheme_id}/why")
def get_why(project_id: str, scheme_id: str, here: Here, substeps: int = 1) -> WhyOut:
    """Return what heating and cooling of a scheme are made of."""
    if not 1 <= substeps <= 12:
        raise EurythmError("wrong-substeps", "Steps an hour should be 1 to 12.", "substeps")
    state = here.projects.state(project_id)
    taken = case_of_scheme(here, state, scheme_id).case.taken_apart(substeps)
    said = attribution(taken.prepared.building, taken.prepared.arrays, taken.parts)
    return WhyOut(revision=state.revision, scheme=scheme_id, **said)


@router.get("/schemes/{scheme_id}/peaks")
def get_peaks(project_id: str, scheme_id: str, here: Here) -> PeaksOut:
    """Return the year's peaks at hourly steps and at four an hour, and the loads on design days."""
    case = case_of_scheme(here, here.projects.state(project_id), scheme_id).case
    documents = (case.place, case.library, case.scheme, case.factors, case.climate)
    peaks = {str(n): run(*documents, n).outcome.peaks for n in (1, SUBSTEPS)}
    return PeaksOut(by_substeps=peaks, **size(*documents))


@router.get("/costs")
def get_costs(project_id: str, here: Here) -> list[CostRowOut]:
    """Return the cost table with what the project gave."""
    rows = costs_of(here.projects.state(project_id).project.factors).values()
    return [CostRowOut(**{**vars(row), "given": sorted(row.given)}) for row in rows]


@router.get("/schemes/{scheme_id}/held")
def get_held(project_id: str, scheme_id: str, here: Here) -> HeldOut:
    """Return what a scheme costs and avoids against the reference over the years."""
    state = here.projects.state(project_id)
    project, files = state.project, here.projects.files(project_id)
    mine, base = (outcome(project, scheme_of(project, s), files, state.revision).model_dump() for s in (scheme_id, project.reference))
    return HeldOut(
        than=project.scheme(project.reference).name, **held_against(mine, base, project.factors, project.scheme(project.reference).name)
    )


@router.get("/pins/{pin_id}/why")
def get_pin_why(project_id: str, pin_id: str, here: Here) -> BesideOut:
    """Return a pinned case beside the reference, part by part, four steps an hour."""
    state = here.projects.state(project_id)
    base = case_of_scheme(here, state, state.project.reference)
    other = case_of_pin(here, state, here.studies.pin_of(project_id, pin_id))
    return BesideOut(base_name=base.title, other_name=other.title, **side_by_side(base.case, other.case, SUBSTEPS))


@router.get("/pins/{pin_id}/shares")
def get_pin_shares(project_id: str, pin_id: str, here: Here) -> SharesOut:
    """Share the difference of a pinned case from the reference out over what was changed, four steps an hour."""
    state = here.projects.state(project_id)
    base = case_of_scheme(here, state, state.project.reference)
    other = case_of_pin(here, state, here.studies.pin_of(project_id, pin_id))
    return SharesOut(**shares_of_difference(base.case, other.case, SUBSTEPS).as_dict())


@router.get("/studies/{study_id}/cases/{number}/why")
def get_case_why(project_id: str, study_id: str, number: int, here: Here) -> BesideOut:
    """Return a case of a study beside the scheme that the study was asked of, part by part, four steps an hour."""
    base, other = _case_and_its_base(here, project_id, study_id, number)
    return BesideOut(base_name=base.title, other_name=f"case {number}", **side_by_side(base.case, other.case, SUBSTEPS))


@router.get("/studies/{study_id}/cases/{number}/shares")
def get_case_shares(project_id: str, study_id: str, number: int, here: Here) -> SharesOut:
    """Share the difference of a case from the scheme that its study was asked of out over what was changed, four steps an hour."""
    base, other = _case_and_its_base(here, project_id, study_id, number)
    return SharesOut(**shares_of_difference(base.case, other.case, SUBSTEPS).as_dict())


def _case_and_its_base(here: Here, project_id: str, study_id: str, number: int) -> tuple[Titled, Titled]:
    state = here.projects.state(project_id)
    return base_of_study(here, state, study_id), case_of_study(here, state, study_id, number)


@router.get("/lines")
def get_lines(project_id: str) -> list[LineOut]:
    """List what can be shown by the hour."""
    return [LineOut(name=line.name, title=line.title, unit=line.unit, of_weather=line.over == "weather") for line in LINES.values()]


@router.post("/hourly")
def post_hourly(project_id: str, asked: HourlyAsk, here: Here) -> HourlyOut:
    """Return lines of zones and of the whole building, of one case or of several."""
    columns = _columns(here, project_id, asked)
    span = slice(asked.start, asked.start + asked.hours)
    return HourlyOut(
        start=asked.start,
        series=[
            SeriesOut(
                case=c.case, zone=c.zone, zone_name=c.zone_name, line=c.line.name, title=c.line.title, unit=c.line.unit,
                values=[float(f"{v:.5g}") for v in c.values[span]],
            )
            for c in columns
        ],
    )  # fmt: skip


@router.post("/hourly/file")
def post_hourly_file(project_id: str, asked: HourlyFileAsk, here: Here) -> Response:
    """Return the same lines as a file."""
    columns = _columns(here, project_id, asked)
    head = {"Content-Disposition": f'attachment; filename="hours.{asked.format}"'}
    if asked.format == "csv":
        return Response(csv_of(columns, asked.start, asked.hours), media_type="text/csv; charset=utf-8", headers=head)
    return Response(parquet_of(columns, asked.start, asked.hours), media_type="application/vnd.apache.parquet", headers=head)


def _columns(here: Here, project_id: str, asked: HourlyAsk) -> list[Column]:
    if asked.start + asked.hours > HOURS:
        raise EurythmError("wrong-span", f"The span ends after the year's {HOURS} hours.", "hours")
    found: list[Column] = []
    cases = cases_asked(here, project_id, asked.cases)
    for titled, title in zip(cases, told_apart([one.called for one in cases]), strict=True):
        case = titled.case
        made = run(case.place, case.library, case.scheme, case.factors, case.climate)
        found += columns_of(made, title, asked.zones, asked.lines)
    if len(found) > MOST_SERIES:
        raise EurythmError("too-many-lines", f"{len(found)} lines are too many for one picture; ask for at most {MOST_SERIES}.", "lines")
    return found
