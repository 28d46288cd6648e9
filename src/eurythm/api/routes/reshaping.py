"""Reshaping volumes, and single rooms as schemes of their own."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from eurythm.api.office import Here
from eurythm.api.shapes import ProjectState
from eurythm.api.views import check_form, project_state
from eurythm.brief.edits import Put
from eurythm.brief.grouping import GroupZones, grouped
from eurythm.brief.reshape import Reshape, alone, reshape
from eurythm.model.field import Spoken
from eurythm.model.ids import fresh_id
from eurythm.model.reading import dump
from eurythm.simulate import building_of

router = APIRouter(prefix="/api/projects/{project_id}/schemes/{scheme_id}")


class ReshapeIn(Spoken):
    """How to reshape a volume or group zones, and the revision that was seen."""

    revision: int
    reshape: Annotated[Reshape | GroupZones, Field(discriminator="op")]


class AloneIn(Spoken):
    """Which zone to take out, and what its scheme is called."""

    revision: int
    zone: str
    name: str = Field(default="", max_length=120)


@router.post("/reshape")
def post_reshape(project_id: str, scheme_id: str, wish: ReshapeIn, here: Here) -> ProjectState:
    """Reshape a volume, or group zones, as one step of undo."""
    project = here.projects.state(project_id).project
    scheme = project.scheme(scheme_id)
    if isinstance(wish.reshape, GroupZones):
        apart = building_of(project.place, scheme.model_copy(update={"merged": ()}))
        edit = grouped(scheme, apart, wish.reshape)
    else:
        edit = reshape(scheme, wish.reshape)
    return project_state(here.projects.edit(project_id, wish.revision, edit, check_form))


@router.post("/alone")
def post_alone(project_id: str, scheme_id: str, wish: AloneIn, here: Here) -> ProjectState:
    """Take one zone out as a scheme of its own, for quick trials; the scheme that it is in stays as it is."""
    project = here.projects.state(project_id).project
    scheme = project.scheme(scheme_id)
    new_id = fresh_id("one-room", {s.id for s in project.schemes})
    made = alone(building_of(project.place, scheme), scheme, wish.zone, new_id, wish.name or "One room")
    return project_state(here.projects.edit(project_id, wish.revision, Put(path="schemes", item=dump(made))))
