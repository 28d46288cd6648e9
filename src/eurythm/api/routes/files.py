"""Schemes as files for other programs, and surroundings from files."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Response, UploadFile
from pydantic import BaseModel

from eurythm.api.office import Here
from eurythm.api.shapes import ProjectState
from eurythm.api.uploads import named, taken
from eurythm.api.views import project_state
from eurythm.brief.edits import Set
from eurythm.exchange.exporting import ENDINGS, MEDIA, export
from eurythm.exchange.geojson import read_geojson
from eurythm.study.runner import climate_of

router = APIRouter(prefix="/api/projects/{project_id}")
MOST_BYTES = 64_000_000


class SurroundingsOut(BaseModel):
    """What came of a file of surroundings."""

    added: int
    remarks: list[dict[str, Any]]
    state: ProjectState


@router.get("/schemes/{scheme_id}/file")
def get_scheme_file(project_id: str, scheme_id: str, format: str, here: Here) -> Response:
    """Return a scheme as gbXML (SI or inch-pound), IFC, glTF, or its rooms as CSV."""
    project = here.projects.state(project_id).project
    scheme = project.scheme(scheme_id)
    climate = climate_of(project.place, here.projects.files(project_id))
    body = export(project.place, project.library, scheme, project.factors, climate, format)
    name = f"{scheme_id}.{ENDINGS[format]}"
    return Response(body, media_type=MEDIA[format], headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.post("/surroundings")
def post_surroundings(project_id: str, revision: int, file: UploadFile, here: Here) -> SurroundingsOut:
    """Add footprints with heights from GeoJSON to the surroundings."""
    name = named(file, "surroundings.geojson")
    body = taken(file, MOST_BYTES, name)
    project = here.projects.state(project_id).project
    found = read_geojson(body, name, project.place, {f.id for f in project.place.footprints} | {b.id for b in project.place.boxes})
    value = [f.model_dump(mode="json") for f in (*project.place.footprints, *found.footprints)]
    state = here.projects.edit(project_id, revision, Set(path="place/footprints", value=value))
    return SurroundingsOut(
        added=len(found.footprints), remarks=[f.model_dump(mode="json") for f in found.findings], state=project_state(state)
    )
