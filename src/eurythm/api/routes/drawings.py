"""Plans to trace over, and rooms taken from them."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path

from fastapi import APIRouter, Response, UploadFile
from pydantic import BaseModel

from eurythm.api.office import Here
from eurythm.api.uploads import named, refuse_larger
from eurythm.exchange.drawing import Drawing
from eurythm.exchange.dxf import MOST_BYTES, FoundRoom, rooms_of
from eurythm.exchange.intake.process import read_plan_apart
from eurythm.exchange.readers import digest_of
from eurythm.model.errors import NotFound
from eurythm.model.field import Spoken

router = APIRouter(prefix="/api/projects/{project_id}/drawings")


class DrawingOut(BaseModel):
    """A plan or picture that was read: what it is called, its unit, and its layers without their lines."""

    drawing: str
    name: str
    unit: str | None
    metres: float
    guessed: bool
    bounds: tuple[float, float, float, float]
    picture: bool = False


class RoomsIn(Spoken):
    """Which layer's outlines are rooms, and which layers' texts name them (all where None)."""

    layer: str
    texts: list[str] | None = None


class RoomsOut(BaseModel):
    """Rooms in the drawing's own units, and what was passed over."""

    rooms: list[FoundRoom]
    remarks: list[str]


@router.post("", status_code=201)
def post_drawing(project_id: str, file: UploadFile, here: Here) -> DrawingOut:
    """Read a DXF plan or a picture and keep it; nothing of the project changes by that."""
    here.projects.state(project_id)
    name = named(file, "plan.dxf")
    refuse_larger(file, MOST_BYTES, name)
    with tempfile.TemporaryDirectory(prefix="eurythm-plan-") as folder:
        path = Path(folder) / "plan.dxf"
        with path.open("wb") as copy:
            shutil.copyfileobj(file.file, copy)
        drawing = read_plan_apart(path, name)
        digest = digest_of(path)
    here.drawings.keep(project_id, digest, drawing)
    return DrawingOut(
        drawing=digest, picture=drawing.picture is not None, **drawing.model_dump(include={"name", "unit", "metres", "guessed", "bounds"})
    )


@router.get("/{digest}", response_model_exclude={"picture": {"data"}})
def get_drawing(project_id: str, digest: str, here: Here) -> Drawing:
    """Return a plan with all its lines; of a picture what it is, without its points."""
    return here.drawings.drawing(project_id, digest)


@router.get("/{digest}/picture", response_class=Response)
def get_picture(project_id: str, digest: str, here: Here) -> Response:
    """Return the picture itself."""
    picture = here.drawings.drawing(project_id, digest).picture
    if picture is None:
        raise NotFound("no-such-picture", "This drawing is no picture.", f"drawings/{digest}")
    return Response(picture.data, media_type=picture.media, headers={"Cache-Control": "private, max-age=31536000, immutable"})


@router.post("/{digest}/rooms")
def post_rooms(project_id: str, digest: str, wish: RoomsIn, here: Here) -> RoomsOut:
    """Take the closed outlines of a layer as rooms, named by the texts in them; nothing is kept yet."""
    rooms, remarks = rooms_of(here.drawings.drawing(project_id, digest), wish.layer, wish.texts)
    return RoomsOut(rooms=rooms, remarks=remarks)
