"""What constructions are made of and how they behave, how deep a shade should be, and what is still assumed."""

from __future__ import annotations

import time
from dataclasses import asdict
from typing import Literal

import numpy as np
from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from eurythm.api.cases import case_of_scheme, scheme_of
from eurythm.api.office import Here
from eurythm.api.skin_shapes import (
    AccountOut,
    AssumedOut,
    EndOut,
    ExamineIn,
    GlassOut,
    HowDeepIn,
    HowDeepOut,
    MoistureOut,
    MovedOut,
    PaneOut,
    QuestionOut,
    RankedOut,
    RankingOut,
    RegisterOut,
)
from eurythm.brief.assumed import assumed_values
from eurythm.climate.air import saturation_pa
from eurythm.climate.year import MONTH_OF_HOUR, ClimateYear
from eurythm.explain.depth import Span, how_deep
from eurythm.explain.ranking import figures_of
from eurythm.fabric.account import Account, account_of
from eurythm.fabric.moisture import Climate, room_climate
from eurythm.fabric.panes import PANES, glass_account
from eurythm.model.errors import EurythmError, NotFound
from eurythm.model.library import GlazingBuild
from eurythm.report.schedule import Schedule, page, schedule_of, workbook
from eurythm.simulate import run
from eurythm.study.runner import climate_of

router = APIRouter(prefix="/api/projects/{project_id}")


@router.post("/constructions/examine")
def post_examine(project_id: str, asked: ExamineIn, here: Here) -> AccountOut:
    """Tell resistance, mass, swing, moisture and carbon of a construction that need not be in the library yet."""
    state = here.projects.state(project_id)
    climate = None
    if state.project.place.climate is not None:
        climate = months_of(climate_of(state.project.place, here.projects.files(project_id)), asked)
    return _account(account_of(asked.construction, climate), climate)


def months_of(year: ClimateYear, asked: ExamineIn) -> Climate:
    """Monthly means of a climate year, and the room of a humidity class behind it."""
    vapour = year["relative_humidity_pct"] / 100 * saturation_pa(year.air_c)
    means = [np.array([series[m == MONTH_OF_HOUR].mean() for m in range(12)]) for series in (year.air_c, vapour)]
    return room_climate(means[0], means[1], asked.inside_c, asked.humidity)


def _account(told: Account, climate: Climate | None) -> AccountOut:
    plain = asdict(told)
    wet = plain.pop("moisture")
    plain["questions"] = [
        QuestionOut(field=q.field, sentence=q.sentence(), sentence_ip=q.sentence(ip=True), proposed=q.proposed) for q in told.questions
    ]
    made = None
    if told.moisture is not None and wet is not None and climate is not None:
        course = {name: np.round(wet["coldest"][name], 4).tolist() for name in ("x", "temperature_c", "saturation_pa", "vapour_pa")}
        made = MoistureOut(
            **wet
            | {
                "coldest": course, "mould": told.moisture.mould, "condensate_kg_m2": wet["condensate_kg_m2"].tolist(),
                "coldest_month": int(np.argmin(climate.outside_c)), "outside_c": climate.outside_c.tolist(),
            }
        )  # fmt: skip
    return AccountOut(**plain, moisture=made)


@router.get("/schemes/{scheme_id}/register")
def get_register(project_id: str, scheme_id: str, here: Here) -> RegisterOut:
    """List every value that a scheme's year rests on and nobody gave."""
    state = here.projects.state(project_id)
    values = [
        AssumedOut(**vars(a) | {"paths": list(a.paths), "ends": [EndOut(**vars(e)) for e in a.ends]})
        for a in assumed_values(state.project, scheme_of(state.project, scheme_id))
    ]
    return RegisterOut(revision=state.revision, scheme=scheme_id, values=values)


@router.get("/schemes/{scheme_id}/register/ranking")
def get_ranking(project_id: str, scheme_id: str, here: Here, rays: bool = False) -> RankingOut:
    """Rank the register by how far the year moves: values that need new rays, or all others."""
    started = time.perf_counter()
    state = here.projects.state(project_id)
    case = case_of_scheme(here, state, scheme_id).case
    ranked = here.ranked(state, case, rays)
    base = figures_of(run(case.place, case.library, case.scheme, case.factors, case.climate).outcome)
    return RankingOut(
        revision=state.revision, scheme=scheme_id, rays=rays, seconds=time.perf_counter() - started, base=base,
        ranked=[RankedOut(path=r.assumed.path, moves=[MovedOut(**vars(m)) for m in r.moves], span=r.span) for r in ranked],
    )  # fmt: skip


@router.post("/schemes/{scheme_id}/how-deep")
def post_how_deep(project_id: str, scheme_id: str, asked: HowDeepIn, here: Here) -> HowDeepOut:
    """Tell which depth of a shade keeps the sun out of a face's windows in a span of the year, and lets it in else."""
    case = case_of_scheme(here, here.projects.state(project_id), scheme_id).case
    made = case.prepared()
    face = next((f for f in made.building.faces if f.id == asked.face), None)
    if face is None:
        raise NotFound("no-such-face", f"There is no face “{asked.face}”.", asked.face)
    if face.boundary != "outdoors":
        raise EurythmError("no-windows", "Only a face under the open sky is shaded.", asked.face)
    found = how_deep(
        face, case.place, made.brief.climate, asked.kind, Span(**asked.span.model_dump()),
        case.scheme.skin.louvre_spacing_m,
    )  # fmt: skip
    return HowDeepOut(**asdict(found) | {"angles": [(h, a, int(u)) for h, a, u in found.angles]})


@router.get("/schemes/{scheme_id}/schedule.xlsx")
def get_schedule_workbook(project_id: str, scheme_id: str, here: Here, units: Literal["SI", "IP"] = "SI") -> Response:
    """Return constructions and areas by element and orientation as a workbook."""
    body = workbook(_schedule(project_id, scheme_id, here), units == "IP")
    head = {"Content-Disposition": f'attachment; filename="{scheme_id}-constructions-and-areas.xlsx"'}
    return Response(body, media_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", headers=head)


@router.get("/schemes/{scheme_id}/schedule")
def get_schedule_page(project_id: str, scheme_id: str, here: Here, units: Literal["SI", "IP"] = "SI") -> HTMLResponse:
    """Return the same as a page to print."""
    return HTMLResponse(page(_schedule(project_id, scheme_id, here), units == "IP"))


def _schedule(project_id: str, scheme_id: str, here: Here) -> Schedule:
    state = here.projects.state(project_id)
    case = case_of_scheme(here, state, scheme_id).case
    made = run(case.place, case.library, case.scheme, case.factors, case.climate)
    return schedule_of(made.brief, made.building, made.outcome.worth, state.project.name)


@router.get("/panes")
def get_panes(project_id: str) -> list[PaneOut]:
    """List the panes that glass can be built of."""
    return [PaneOut(id=id, pane=pane) for id, pane in PANES.items()]


@router.post("/glazings/examine")
def post_glass(project_id: str, build: GlazingBuild) -> GlassOut:
    """Tell U-value, solar factor and light of a window by its panes, gaps and frame."""
    return GlassOut(**vars(glass_account(build)))
