"""Projects, edits, undo, weather files."""

from __future__ import annotations

from threading import Lock

from fastapi import APIRouter, Response, UploadFile
from pydantic import BaseModel

from eurythm.api.office import Here
from eurythm.api.shapes import EditIn, Move, NewProject, ProjectListed, ProjectState, RevisionOut
from eurythm.api.uploads import named, taken
from eurythm.api.views import check_form, project_state
from eurythm.brief.profiles import PROFILES
from eurythm.brief.resolve import Shelf
from eurythm.climate.epw import MAX_BYTES
from eurythm.climate.standin import PLACES
from eurythm.climate.statistics import ClimateSheet, climate_sheet
from eurythm.exchange.project_file import MAX_FILE_BYTES, WeatherFile, read_project, write_project
from eurythm.fabric.opaque import heat_capacity, u_value
from eurythm.model.library import Construction, Glazing, Material, Profile
from eurythm.model.project import Project
from eurythm.model.reading import read_document
from eurythm.model.remark import RemarkDict
from eurythm.study.runner import climate_of

router = APIRouter(prefix="/api")
OPENING = Lock()
"""Of files that may unpack to several hundred megabytes one is opened at a time."""


class StandInOut(BaseModel):
    """A place that the stand-in climate service knows."""

    id: str
    name: str
    kind: str
    latitude_deg: float
    altitude_m: float


class SheetOut(ClimateSheet):
    """The statistics of the project's climate year, what was mended in it, and the names of weather files by digest."""

    remarks: list[RemarkDict]
    files: dict[str, str]


class ShelfMaterial(Material):
    """A material; `own` where it is the project's."""

    own: bool


class ShelfConstruction(Construction):
    """A construction with its U-value, W/m²K, and heat capacity, kJ/m²K."""

    u: float
    capacity_kj_m2k: float
    own: bool


class ShelfGlazing(Glazing):
    """A glazing."""

    own: bool


class ShelfProfile(Profile):
    """A use profile; `shipped` where one with its id is, which the project's own then stands before."""

    own: bool
    shipped: bool


class ShelfOut(BaseModel):
    """Everything that schemes of a project can be made of."""

    materials: list[ShelfMaterial]
    constructions: list[ShelfConstruction]
    glazings: list[ShelfGlazing]
    profiles: list[ShelfProfile]


@router.get("/climates")
def get_climates() -> list[StandInOut]:
    """List the places that the stand-in climate service knows."""
    return [StandInOut(id=p.id, name=p.name, kind=p.kind, latitude_deg=p.latitude_deg, altitude_m=p.altitude_m) for p in PLACES]


@router.get("/projects")
def list_projects(here: Here) -> list[ProjectListed]:
    """List all projects, the latest first."""
    return [ProjectListed(**p) for p in here.projects.listed()]


@router.post("/projects", status_code=201)
def create_project(new: NewProject, here: Here) -> ProjectState:
    """Make an empty project with one scheme."""
    data = {"name": new.name, "schemes": [{"id": "scheme-1", "name": "Scheme 1"}], "reference": "scheme-1"}
    return project_state(here.projects.create(read_document(Project, data)))


@router.get("/projects/{project_id}")
def get_project(project_id: str, here: Here) -> ProjectState:
    """Return a project as it stands."""
    return project_state(here.projects.state(project_id))


@router.get("/projects/{project_id}/revision")
def get_revision(project_id: str, here: Here) -> RevisionOut:
    """Return the revision that a project stands at, so that a window learns what another one changed."""
    return RevisionOut(revision=here.projects.revision(project_id))


@router.delete("/projects/{project_id}", status_code=204)
def delete_project(project_id: str, here: Here) -> None:
    """Remove a project with all that belongs to it; what runs for it ends by itself."""
    for study_id in here.studies.unfinished(project_id):
        here.jobs.cancel(study_id)
    imports = [state.id for state in here.imports.listed(project_id)]
    for import_id in imports:
        here.import_jobs.cancel(import_id)
    here.projects.remove(project_id)
    here.imports.forget(imports)


@router.post("/projects/{project_id}/edits")
def post_edit(project_id: str, change: EditIn, here: Here) -> ProjectState:
    """Apply an edit; an impossible form is refused and leaves no trace."""
    return project_state(here.projects.edit(project_id, change.revision, change.edit, check_form))


@router.post("/projects/{project_id}/undo")
def post_undo(project_id: str, move: Move, here: Here) -> ProjectState:
    """Go one revision back."""
    return project_state(here.projects.undo(project_id, move.revision))


@router.post("/projects/{project_id}/redo")
def post_redo(project_id: str, move: Move, here: Here) -> ProjectState:
    """Go one revision forth."""
    return project_state(here.projects.redo(project_id, move.revision))


@router.post("/projects/{project_id}/climate")
def post_climate(project_id: str, revision: int, file: UploadFile, here: Here) -> ProjectState:
    """Take an EPW of the user's and make it the project's climate year."""
    name = named(file, "climate.epw")
    return project_state(here.projects.add_climate(project_id, revision, taken(file, MAX_BYTES, name), name))


@router.get("/projects/{project_id}/climate-sheet")
def get_climate_sheet(project_id: str, here: Here) -> SheetOut:
    """Return the statistics of the project's climate year and what was mended in it."""
    state = here.projects.state(project_id)
    year = climate_of(state.project.place, here.projects.files(project_id))
    return {**climate_sheet(year), "remarks": [r.as_dict() for r in year.remarks], "files": here.projects.file_names(project_id)}


@router.get("/projects/{project_id}/shelf")
def get_shelf(project_id: str, here: Here) -> ShelfOut:
    """Return everything that schemes of this project can be made of, with U-values."""
    library = here.projects.state(project_id).project.library
    shelf = Shelf(library)
    own = {e.id for group in (library.constructions, library.glazings, library.profiles) for e in group}
    shipped = {p.id for p in PROFILES}
    own_materials = {m.id for m in library.materials}
    return ShelfOut(
        materials=[ShelfMaterial(**vars(m), own=m.id in own_materials) for m in shelf.materials.values()],
        constructions=[
            ShelfConstruction(**vars(c) | {"u": u_value(c), "capacity_kj_m2k": heat_capacity(c), "own": c.id in own})
            for c in shelf.constructions.values()
        ],
        glazings=[ShelfGlazing(**vars(g), own=g.id in own) for g in shelf.glazings.values()],
        profiles=[ShelfProfile(**vars(p), own=p.id in own, shipped=p.id in shipped) for p in shelf.profiles.values()],
    )


@router.get("/projects/{project_id}/file")
def get_file(project_id: str, here: Here) -> Response:
    """Return the whole project as one file, with its weather files, drawings and imported models inside."""
    state = here.projects.state(project_id)
    names = here.projects.file_names(project_id)
    files = {d: WeatherFile(names[d], text) for d, text in here.projects.files(project_id).items()}
    body = write_project(state.project, files, here.drawings.all_of(project_id), here.imports.models(project_id))
    safe = "".join(c if c.isascii() and c.isalnum() else "-" for c in state.project.name).strip("-").lower() or "project"
    return Response(body, media_type="application/json", headers={"Content-Disposition": f'attachment; filename="{safe}.eurythm.json"'})


@router.post("/projects/open", status_code=201)
def open_file(file: UploadFile, here: Here) -> ProjectState:
    """Open a project file or a bundle as a new project; nothing half-read stays."""
    name = named(file, "file")
    with OPENING:
        opened = read_project(taken(file, MAX_FILE_BYTES, name), name)
        made = here.projects.create(opened.project, {d: (f.name, f.text) for d, f in opened.files.items()})
        for digest, drawing in opened.drawings.items():
            here.drawings.keep(made.id, digest, drawing)
        here.imports.restore(made.id, opened.imports)
    return project_state(made)
