"""The form and the year's result of a scheme, current at every revision, and tried edits."""

from __future__ import annotations

import numpy as np
from fastapi import APIRouter

from eurythm.api.office import Here
from eurythm.api.shapes import GeometryOut, Hourly, OutcomeOut, Preview
from eurythm.api.views import geometry, outcome
from eurythm.brief.edits import apply_edit
from eurythm.climate.year import HOURS
from eurythm.model.errors import EurythmError, NotFound
from eurythm.model.project import Project
from eurythm.model.scheme import Scheme
from eurythm.simulate import run
from eurythm.study.runner import climate_of

router = APIRouter(prefix="/api/projects/{project_id}")


def scheme_of(project: Project, scheme_id: str) -> Scheme:
    """Return a scheme of a project. Raises NotFound."""
    try:
        return project.scheme(scheme_id)
    except KeyError:
        raise NotFound("no-such-scheme", f"There is no scheme “{scheme_id}”.", f"schemes/{scheme_id}") from None


@router.get("/schemes/{scheme_id}/geometry")
def get_geometry(project_id: str, scheme_id: str, here: Here) -> GeometryOut:
    """Return a scheme's form."""
    project = here.projects.state(project_id).project
    return geometry(project.place, scheme_of(project, scheme_id))


@router.get("/schemes/{scheme_id}/outcome")
def get_outcome(project_id: str, scheme_id: str, here: Here, substeps: int = 1) -> OutcomeOut:
    """Return a scheme's year."""
    if not 1 <= substeps <= 12:
        raise EurythmError("wrong-substeps", "Steps an hour should be 1 to 12.", "substeps")
    state = here.projects.state(project_id)
    return outcome(state.project, scheme_of(state.project, scheme_id), here.projects.files(project_id), state.revision, substeps)


@router.post("/preview/outcome")
def preview_outcome(project_id: str, tried: Preview, here: Here) -> OutcomeOut:
    """Return the year of a scheme under an edit that is not kept."""
    state = here.projects.state(project_id)
    project = apply_edit(state.project, tried.edit)
    return outcome(project, scheme_of(project, tried.scheme), here.projects.files(project_id), state.revision)


@router.post("/preview/geometry")
def preview_geometry(project_id: str, tried: Preview, here: Here) -> GeometryOut:
    """Return the form of a scheme under an edit that is not kept."""
    project = apply_edit(here.projects.state(project_id).project, tried.edit)
    return geometry(project.place, scheme_of(project, tried.scheme))


@router.get("/schemes/{scheme_id}/hourly")
def get_hourly(project_id: str, scheme_id: str, here: Here, zone: str = "", start: int = 0, hours: int = 168) -> Hourly:
    """Return hourly lines of one zone, or of the whole building where none is named."""
    project = here.projects.state(project_id).project
    made = run(
        project.place,
        project.library,
        scheme_of(project, scheme_id),
        project.factors,
        climate_of(project.place, here.projects.files(project_id)),
    )
    if zone and zone not in made.arrays.zone_ids:
        raise NotFound("no-such-zone", f"There is no zone “{zone}”.", "zone")
    which = [made.arrays.zone_ids.index(zone)] if zone else list(range(len(made.arrays.zone_ids)))
    start = min(max(start, 0), HOURS - 1)
    span = slice(start, min(start + min(max(hours, 1), HOURS), HOURS))
    weight = made.arrays.floor_area[which] / made.arrays.floor_area[which].sum()
    demand = made.demand
    lines = {
        "air_c": weight @ demand.air_c[which, span],
        "operative_c": weight @ demand.operative_c[which, span],
        "outdoor_c": made.brief.climate.air_c[span],
        "heating_w": demand.heating_w[which, span].sum(axis=0),
        "cooling_w": demand.cooling_w[which, span].sum(axis=0),
        "solar_w": made.arrays.solar[which, span].sum(axis=0),
    }
    return Hourly(start=start, **{name: np.round(line, 3).tolist() for name, line in lines.items()})
