"""Plans to trace over, and rooms taken from them."""

from __future__ import annotations

import tempfile
from pathlib import Path

from fastapi import APIRouter, UploadFile
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from eurythm.api.office import Here
from eurythm.exchange.dxf import MOST_BYTES, Drawing, FoundRoom, rooms_of
from eurythm.exchange.intake.process import read_plan_apart
from eurythm.exchange.intake.readers import digest_of
from eurythm.model.errors import EurythmError

router = APIRouter(prefix="/api/projects/{project_id}/drawings")


class DrawingOut(BaseModel):
    """A plan that was read: what it is called, its unit, and its layers without their lines."""

    drawing: str
    name: str
    unit: str | None
    metres: float
    guessed: bool
    bounds: tuple[float, float, float, float]


class RoomsIn(BaseModel):
    """Which layer's outlines are rooms, and which layers' texts name them (all where None)."""

    layer: str
    texts: list[str] | None = None


class RoomsOut(BaseModel):
    """Rooms in the drawing's own units, and what was passed over."""

    rooms: list[FoundRoom]
    remarks: list[str]


@router.post("", status_code=201)
async def post_drawing(project_id: str, file: UploadFile, here: Here) -> DrawingOut:
    """Read a DXF plan and keep it; nothing of the schemes changes by that."""
    here.projects.state(project_id)
    name = (file.filename or "plan.dxf").replace("\\", "/").split("/")[-1][:200]
    body = await file.read(MOST_BYTES + 1)
    if len(body) > MOST_BYTES:
        raise EurythmError("too-large", f"“{name}” has more than {MOST_BYTES / 1e6:.0f} MB.", name)
    with tempfile.TemporaryDirectory(prefix="eurythm-plan-") as folder:
        path = Path(folder) / "plan.dxf"
        path.write_bytes(body)
        drawing = await run_in_threadpool(read_plan_apart, path, name)
        digest = digest_of(path)
    here.drawings.keep(project_id, digest, drawing)
    return DrawingOut(drawing=digest, **drawing.model_dump(include={"name", "unit", "metres", "guessed", "bounds"}))


@router.get("/{digest}")
def get_drawing(project_id: str, digest: str, here: Here) -> Drawing:
    """Return a plan with all its lines."""
    return here.drawings.drawing(project_id, digest)


@router.post("/{digest}/rooms")
def post_rooms(project_id: str, digest: str, wish: RoomsIn, here: Here) -> RoomsOut:
    """Take the closed outlines of a layer as rooms, named by the texts in them; nothing is kept yet."""
    rooms, remarks = rooms_of(here.drawings.drawing(project_id, digest), wish.layer, wish.texts)
    return RoomsOut(rooms=rooms, remarks=remarks)
