"""Sun on faces: pictures of what falls on them, per face and as a table."""

from __future__ import annotations

import csv
import io
import time

import numpy as np
from fastapi import APIRouter
from fastapi.responses import Response
from numpy.typing import NDArray

from eurythm.api.cases import case_of_scheme
from eurythm.api.cells import cells_of
from eurythm.api.office import Here, InTurn
from eurythm.api.skin_shapes import FaceIrradiationOut, IrradiationIn, IrradiationOut
from eurythm.climate.statistics import hour_name
from eurythm.memo import Memo, digest
from eurythm.model.part import Excerpt
from eurythm.model.scheme import SunPicture
from eurythm.simulate import Run, run
from eurythm.steps import LIGHT
from eurythm.sun.irradiation import Irradiation, Seen, faces_of, hours_between, see, taken

router = APIRouter(prefix="/api/projects/{project_id}/schemes/{scheme_id}", dependencies=[InTurn])
UNITS = {"sum": "kWh/m²", "mean": "W/m²", "strongest": "W/m²", "direct_hours": "h"}
SEEN = Memo()


@router.post("/irradiation")
def post_irradiation(project_id: str, scheme_id: str, asked: IrradiationIn, here: Here) -> IrradiationOut:
    """Return what falls on chosen faces, cell by cell."""
    started = time.perf_counter()
    state = here.projects.state(project_id)
    case = case_of_scheme(here, state, scheme_id).case
    made = run(case.place, case.library, case.scheme, case.factors, case.climate)
    found = _fallen(made, asked)
    north = case.place.north_deg
    span = asked.span
    within = hours_between(span.first_day, span.last_day, span.first_hour, span.last_hour)
    faces = [_face(one, made, north, within) for one in found]
    values = np.concatenate([one.values for one in found])
    areas = np.concatenate([one.grid.areas for one in found])
    return IrradiationOut(
        revision=state.revision, scheme=scheme_id, measure=asked.measure, unit=UNITS[asked.measure], seconds=time.perf_counter() - started,
        points=len(values), low=float(values.min()), high=float(values.max()), mean=float(values @ areas / areas.sum()), faces=faces,
    )  # fmt: skip


@router.post("/irradiation/file")
def post_irradiation_file(project_id: str, scheme_id: str, asked: IrradiationIn, here: Here) -> Response:
    """Return the same as a table, a row a face."""
    told = post_irradiation(project_id, scheme_id, asked, here)
    out = io.StringIO()
    table = csv.writer(out)
    unit = told.unit
    table.writerow(
        ["face", "kind", "orientation", "area m²", f"mean {unit}", f"lowest {unit}", f"highest {unit}", "strongest hour",
         "while heated kWh/m²", "while cooled kWh/m²"]
    )  # fmt: skip
    for f in told.faces:
        hour = "" if f.hour is None else hour_name(f.hour)
        figures = (f.area_m2, f.mean, f.low, f.high)
        table.writerow([f.id, f.kind, f.orientation, *(f"{v:.2f}" for v in figures), hour, f"{f.heating:.1f}", f"{f.cooling:.1f}"])
    head = {"Content-Disposition": 'attachment; filename="sun-on-faces.csv"'}
    return Response("\ufeff" + out.getvalue(), media_type="text/csv; charset=utf-8", headers=head)


def _fallen(made: Run, asked: IrradiationIn) -> list[Irradiation]:
    """What falls on the chosen faces; what they see is kept, so that another span of hours is quick."""
    place, climate = made.brief.place, made.brief.climate
    picture = SunPicture(id="asked", name="asked", **asked.span.model_dump(), **asked.model_dump(exclude={"span", "faces"}))
    wanted = set(asked.faces)
    faces = (
        [f for f in made.building.faces if f.id in wanted and f.boundary == "outdoors"]
        if wanted
        else faces_of(made.building, picture, place.north_deg)
    )
    read = (Excerpt(place, LIGHT).digest, Excerpt(made.brief.scheme, LIGHT).digest)
    key = digest(*read, climate.digest, repr([f.id for f in faces]), asked.spacing_m)
    seen: Seen = SEEN.get("light", key, lambda: see(made.building, place, climate, faces, asked.spacing_m))
    return taken(picture, made.building, place, climate, seen)


def _face(one: Irradiation, made: Run, north_deg: float, within: NDArray[np.bool_]) -> FaceIrradiationOut:
    """Tell what falls on a face; sun while its zone is heated and cooled is that of the same hours."""
    face = one.grid.face
    light = made.light[face.id].wall
    zone = made.arrays.zone_ids.index(face.zone)
    heated, cooled = within & (made.demand.heating_w[zone] > 0), within & (made.demand.cooling_w[zone] > 0)
    return FaceIrradiationOut(
        id=face.id, kind={"ceiling": "roof"}.get(face.kind, face.kind), orientation=face.orientation(north_deg) if face.kind == "wall" else "",
        area_m2=face.area, mean=one.mean, low=float(one.values.min()), high=float(one.values.max()), hour=one.hour,
        heating=float(light[heated].sum()) / 1000, cooling=float(light[cooled].sum()) / 1000,
        **cells_of(one.grid, one.values),
    )  # fmt: skip
