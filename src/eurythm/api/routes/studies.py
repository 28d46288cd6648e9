"""Studies: plan, run, follow, cancel; their cases."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from dataclasses import asdict
from typing import Any

from fastapi import APIRouter, Request, Response
from sse_starlette.sse import EventSourceResponse

from eurythm.api.cases import scheme_of
from eurythm.api.office import Here
from eurythm.api.shapes import CaseOut, CasesOut, EffectOut, MattersOut, OutcomeOut, PlanOut, StudyIn, StudyOut
from eurythm.api.views import outcome, study_out
from eurythm.assess.figures import FIGURES, figures_of
from eurythm.exchange.bundle import cases_csv, remarks_of
from eurythm.model.errors import EurythmError, StaleRevision
from eurythm.model.project import Project, StudySpec
from eurythm.model.scheme import Scheme
from eurythm.store.studies import StudyState
from eurythm.study.levers import LEVERS, CaseInputs
from eurythm.study.levers.base import Offer
from eurythm.study.matters import best_tradeoffs, main_effects
from eurythm.study.plan import case, check, count, lever_key
from eurythm.study.runner import CaseResult, Job, expected_seconds
from eurythm.study.same import same_cases

router = APIRouter(prefix="/api/projects/{project_id}")


def inputs_of_project(project: Project, spec: StudySpec) -> CaseInputs:
    """Return the documents that a study's cases start from."""
    scheme = scheme_of(project, spec.scheme or project.reference)
    return CaseInputs(project.place, project.library, project.factors, scheme, project.schemes)


@router.get("/schemes/{scheme_id}/levers")
def get_levers(project_id: str, scheme_id: str, here: Here) -> list[Offer]:
    """Return the levers that a scheme offers."""
    project = here.projects.state(project_id).project
    inputs = CaseInputs(project.place, project.library, project.factors, scheme_of(project, scheme_id), project.schemes)
    return [offer for lever in LEVERS.values() for offer in lever.offers(inputs)]


@router.post("/studies/plan")
def plan_study(project_id: str, asked: StudyIn, here: Here, timed: bool = True) -> PlanOut:
    """Check a study and tell how many cases it has, how many are the same as another one, and, unless not asked, how long they will take.

    No time is told while a study runs, which comes first, nor once another one is asked about.
    """
    project = here.projects.state(project_id).project
    inputs = inputs_of_project(project, asked.study)
    views = check(asked.study, inputs)
    total = count(asked.study)
    job = Job(asked.study, inputs, here.projects.files(project_id), "plan")
    same = len(same_cases(job, range(total)))
    seconds = expected_seconds(job, total - same, here.processes, here.jobs.trial()) if timed else None
    return PlanOut(levers=views, cases=total, same=same, seconds=seconds)


@router.post("/studies", status_code=201)
def start_study(project_id: str, asked: StudyIn, here: Here) -> StudyOut:
    """Start a study on the documents as they stand."""
    state = here.projects.state(project_id)
    if state.revision != asked.revision:
        raise StaleRevision(
            "stale-revision", f"The project is at revision {state.revision}; this was made on {asked.revision}.", "revision"
        )
    inputs = inputs_of_project(state.project, asked.study)
    check(asked.study, inputs)
    spec = asked.study.model_copy(update={"scheme": inputs.scheme.id})
    made = here.studies.create(project_id, state.revision, state.project, StudySpec.model_validate(spec.model_dump()))
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


@router.delete("/studies/{study_id}", status_code=204)
def delete_study(project_id: str, study_id: str, here: Here) -> None:
    """Remove a study with its cases and pins; where it runs, it ends by itself."""
    here.jobs.cancel(study_id)
    here.studies.remove(study_id)


def flat(figures: dict[str, Any] | None) -> dict[str, float | None]:
    """Return the figures of an outcome by their ids, and its end uses."""
    if figures is None:
        return {}
    found: dict[str, float | None] = {f.id: f.known(figures) for f in figures_of("building", "array")}
    return found | {f"energy_{use}_kwh": kwh for use, kwh in figures["totals"]["energy_kwh"].items()}


@router.get("/studies/{study_id}/cases")
def get_cases(project_id: str, study_id: str, here: Here) -> CasesOut:
    """Return all cases of a study, and its scheme as it stood."""
    state = here.studies.state(study_id)
    spec, inputs = state.spec, state.inputs()
    places = [{repr(s): k for k, s in enumerate(lever.steps)} for lever in spec.levers]
    cases = [
        CaseOut(
            number=c.number,
            steps=[places[i][repr(s)] for i, s in enumerate(case(spec, c.number).steps)],
            status=c.status,
            attempts=c.attempts,
            reason=c.reason,
            figures=flat(c.figures),
            peaks_at={k: c.figures["peaks"][f"{k}_at"] for k in ("heating", "cooling")} if c.figures else {},
            remarks=remarks_of(c.figures) if c.figures else [],
        )
        for c in here.studies.cases(study_id)
    ]
    name, stands = _compared_with(here, project_id, state, inputs.scheme)
    return CasesOut(cases=cases, baseline=flat(stands.model_dump()), baseline_name=name)


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
def get_cases_csv(project_id: str, study_id: str, here: Here) -> Response:
    """Return all cases as CSV."""
    state = here.studies.state(study_id)
    rows = [
        (case(state.spec, c.number).steps, CaseResult(c.number, c.status, c.figures, c.reason, 0.0)) for c in here.studies.cases(study_id)
    ]
    text = cases_csv(check(state.spec, state.inputs()), rows)
    return Response(text, media_type="text/csv", headers={"Content-Disposition": 'attachment; filename="cases.csv"'})


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
def get_matters(project_id: str, study_id: str, here: Here, figure: str = "eui_kwh_per_m2", against: str = "cost_per_m2") -> MattersOut:
    """Return what matters most for a figure, and the cases that no other betters in it and another one."""
    state = here.studies.state(study_id)
    rows = [(case(state.spec, c.number).steps, c.number, flat(c.figures)) for c in here.studies.cases(study_id) if c.figures]
    known = [
        (steps, number, f[figure], f[against]) for steps, number, f in rows if f.get(figure) is not None and f.get(against) is not None
    ]
    effects = main_effects(
        [(lever_key(s), s.steps) for s in state.spec.levers], [(steps, value) for steps, _, value, _ in known if value is not None]
    )
    senses = {f.id: f.sense for f in FIGURES}
    best = best_tradeoffs(
        {n: (a, b) for _, n, a, b in known if a is not None and b is not None}, (senses.get(figure, "less"), senses.get(against, "less"))
    )
    return MattersOut(effects=[EffectOut(**vars(e) | {"means": list(e.means)}) for e in effects], best=best)
