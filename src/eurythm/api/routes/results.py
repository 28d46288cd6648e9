"""The form and the year's result of a scheme, current at every revision, and tried edits."""

from __future__ import annotations

from fastapi import APIRouter

from eurythm.api.cases import scheme_of
from eurythm.api.office import Here, InTurn
from eurythm.api.shapes import GeometryOut, OutcomeOut, Preview
from eurythm.api.views import geometry, outcome
from eurythm.brief.edits import apply_edit
from eurythm.model.errors import EurythmError

router = APIRouter(prefix="/api/projects/{project_id}")


@router.get("/schemes/{scheme_id}/geometry")
def get_geometry(project_id: str, scheme_id: str, here: Here) -> GeometryOut:
    """Return a scheme's form."""
    project = here.projects.state(project_id).project
    return geometry(project.place, scheme_of(project, scheme_id), lambda: here.projects.files(project_id))


@router.get("/schemes/{scheme_id}/outcome", dependencies=[InTurn])
def get_outcome(project_id: str, scheme_id: str, here: Here, substeps: int = 1) -> OutcomeOut:
    """Return a scheme's year."""
    if not 1 <= substeps <= 12:
        raise EurythmError("wrong-substeps", "Steps an hour should be 1 to 12.", "substeps")
    state = here.projects.state(project_id)
    return outcome(state.project, scheme_of(state.project, scheme_id), here.projects.files(project_id), state.revision, substeps)


@router.post("/preview/outcome", dependencies=[InTurn])
def preview_outcome(project_id: str, tried: Preview, here: Here) -> OutcomeOut:
    """Return the year of a scheme under an edit that is not kept."""
    state = here.projects.state(project_id)
    project = apply_edit(state.project, tried.edit)
    return outcome(project, scheme_of(project, tried.scheme), here.projects.files(project_id), state.revision)


@router.post("/preview/geometry")
def preview_geometry(project_id: str, tried: Preview, here: Here) -> GeometryOut:
    """Return the form of a scheme under an edit that is not kept."""
    project = apply_edit(here.projects.state(project_id).project, tried.edit)
    return geometry(project.place, scheme_of(project, tried.scheme), lambda: here.projects.files(project_id))
