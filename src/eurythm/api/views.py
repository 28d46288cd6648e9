"""Turning what the core knows into what the API sends."""

from __future__ import annotations

import time
from collections import defaultdict
from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Any

import numpy as np

from eurythm.api.shapes import (
    ContactOut,
    FaceOut,
    GeometryOut,
    HandleOut,
    OutcomeOut,
    OutlineOut,
    PanelOut,
    PlanSideOut,
    ProjectState,
    RemarkOut,
    ZoneOut,
)
from eurythm.api.study_shapes import StudyOut
from eurythm.assess.facts import zones_in_words
from eurythm.brief.readiness import document_remarks
from eurythm.brief.resolve import chosen_construction, climate_at, construction_origin, element_facts, profile_of, profile_reason
from eurythm.geometry.building import Building, Face
from eurythm.geometry.given import room_sides
from eurythm.geometry.openings import own_name, skin_north
from eurythm.geometry.outline import scheme_outlines, turning_point
from eurythm.memo import digest
from eurythm.model.errors import EurythmError
from eurythm.model.known import Known
from eurythm.model.place import Place
from eurythm.model.plant import Plant
from eurythm.model.project import Project
from eurythm.model.reading import dump
from eurythm.model.renewables import Collector, Laid
from eurythm.model.scheme import Scheme, Use
from eurythm.plant.panels import Panel, carries, drawn_share
from eurythm.simulate import building_of, lying, panels_of, run
from eurythm.store.projects import State
from eurythm.store.studies import StudyState
from eurythm.study.plan import shown
from eurythm.study.runner import climate_of


def project_state(state: State) -> ProjectState:
    """Return a project with its remarks by scheme."""
    remarks = {s.id: [RemarkOut(**r.as_dict()) for r in document_remarks(state.project.place, s)] for s in state.project.schemes}
    return ProjectState(
        id=state.id,
        revision=state.revision,
        can_undo=state.can_undo,
        can_redo=state.can_redo,
        given=dump(state.project),
        completed=state.project,
        remarks=remarks,
        drawn={s.id: drawn(state.project.place, s) for s in state.project.schemes},
    )


KNOWN = Known()
NOT_DRAWN: Mapping[str, Any] = {
    "skin": {
        "wall_insulation_m",
        "roof_insulation_m",
        "blinds",
        "ceiling_reflectance",
        "wall_reflectance",
        "floor_reflectance",
        "thermal_bridges",
        "inner_walls_m2_m2",
    },
    "use": set(Use.model_fields) - {"profile", "zones"},
    "plant": set(Plant.model_fields) - {"photovoltaics", "arrays", "collectors"},
    "sun_pictures": True,
    "light_pictures": True,
}
"""What of a scheme `geometry` never reads."""


def drawn(place: Place, scheme: Scheme) -> str:
    """Return a digest of what `geometry` reads of the documents: where it is the same, so is what is drawn."""
    lies, stands = KNOWN.of(place), KNOWN.of(scheme)
    if "drawn" not in lies:
        lies["drawn"] = place.model_dump_json(exclude_unset=True, exclude={"underlays", "calendar", "ground_by_month"})
    if "drawn" not in stands:
        given = scheme.model_dump(exclude_unset=True, exclude=NOT_DRAWN)
        stands["drawn"] = repr({name: value for name, value in given.items() if value != {}})  # nothing drawn of it may be left
    return digest(lies["drawn"], stands["drawn"])


def check_form(before: Project, after: Project) -> None:
    """Refuse an edit that makes the form of a scheme impossible; schemes it does not touch are left alone."""
    known = {s.id: s for s in before.schemes}
    for scheme in after.schemes:
        old = known.get(scheme.id)
        same = old is not None and (old.volumes, old.zones, old.turn_deg, old.skin) == (
            scheme.volumes,
            scheme.zones,
            scheme.turn_deg,
            scheme.skin,
        )
        if not same and (scheme.volumes or scheme.zones):
            try:
                building_of(after.place, scheme)
            except EurythmError as fault:
                raise EurythmError(fault.code, fault.message, f"schemes/{scheme.id}/{fault.path}") from None


Files = Callable[[], Mapping[str, str]]
PLAIN_LATITUDE_DEG = 50.0
"""Where rows of panels are set apart while no weather is chosen: our own assumption, for drawing only."""


def _latitude(place: Place, files: Mapping[str, str]) -> float:
    try:
        return climate_at(place, climate_of(place, files)).location.latitude_deg
    except EurythmError:
        return place.latitude_deg if place.latitude_deg is not None else PLAIN_LATITUDE_DEG


def _drawn_panels(building: Building, place: Place, scheme: Scheme, files: Files) -> list[PanelOut]:
    plant = scheme.plant
    if not (plant.photovoltaics.roof_share > 0 or plant.arrays or plant.collectors):
        return []
    latitude = _latitude(place, files())
    laid = panels_of(place, scheme, latitude)
    found = [
        PanelOut(
            array=thing.id, collects=isinstance(thing, Collector), area_m2=sum(p.area for p in own),
            loops=[np.round(loop, 4).tolist() for p in own for loop in p.loops], handle=_handle(thing, own),
        )
        for thing in (*plant.arrays, *plant.collectors)
        if (own := [p for p in laid if p.of(thing)])
    ]  # fmt: skip
    if plant.photovoltaics.roof_share > 0:
        drawn = drawn_share(building, plant.photovoltaics, lying(place, scheme, latitude))
        area = sum(p.area for p in laid if p.array == "") * plant.photovoltaics.roof_share
        found.append(PanelOut(array="", collects=False, area_m2=area, loops=[np.round(loop, 4).tolist() for loop in drawn], handle=None))
    return found


def _handle(thing: Laid, own: Sequence[Panel]) -> HandleOut | None:
    largest = max(own, key=lambda p: p.area)
    frame = largest.frame
    if frame is None:
        return None
    if thing.on == "free":
        rectangle = [
            thing.x,
            thing.y,
            *(
                float(np.linalg.norm(a - b))
                for a, b in ((largest.loops[0][1], largest.loops[0][0]), (largest.loops[0][3], largest.loops[0][0]))
            ),
        ]
    else:
        held = own if thing.on == "roof" else [largest]
        at = frame.measured(np.concatenate([loop for panel in held for loop in panel.loops]))
        low, high = at.min(axis=0), at.max(axis=0)
        rectangle = [*low.tolist(), *(high - low).tolist()]
    return HandleOut(
        origin=frame.origin.tolist(), x=frame.x.tolist(), y=frame.y.tolist(), wide=frame.wide.tolist(), deep=frame.deep.tolist(),
        centred=thing.on == "free", rectangle=np.round(rectangle, 3).tolist(),
    )  # fmt: skip


def geometry(place: Place, scheme: Scheme, files: Files = dict) -> GeometryOut:
    """Return a scheme's form as it is drawn; `files` reads the weather files of its project, where they are needed."""
    building = building_of(place, scheme)
    outlines = scheme_outlines(scheme)
    middle = turning_point(scheme)
    sides = {
        z.id: [PlanSideOut(side=n, a=a.tolist(), b=b.tolist()) for n, a, b in room_sides(z, scheme.turn_deg, middle)] for z in scheme.zones
    }
    rooms = {z.id for z in scheme.zones}
    return GeometryOut(
        zones=[
            ZoneOut(
                id=z.id,
                name=z.name,
                volume=z.volume,
                storey=z.storey,
                level=z.level,
                height=z.height,
                gross_floor_m2=z.gross_floor,
                gross_volume_m3=z.gross_volume,
                profile=profile_of(scheme, z.id, z.profile),
                profile_by=profile_reason(scheme, z.id, z.profile),
                plan=[[list(p) for p in ring.coords[:-1]] for ring in (z.plan.exterior, *z.plan.interiors)] if z.plan is not None else [],
                sides=sides.get(z.id, []),
                given=z.given,
            )
            for z in building.zones
        ],
        faces=[_face(f, scheme, place.north_deg, rooms) for f in building.faces],
        shades=[s.corners.tolist() for s in building.shades if not s.face.startswith("free/")],
        carriers=_carriers(building),
        rules={rule.id: zones_in_words(rule.zone, scheme) for rule in scheme.use.zones},
        panels=_drawn_panels(building, place, scheme, files),
        outlines=[
            OutlineOut(volume=name, rings=[r.tolist() for r in o.placed.rings], edges=[list(e) for e in o.placed.edges])
            for name, o in outlines.items()
        ],
        footprint_m2=building.footprint_m2,
        turned_about=middle.tolist(),
        contact=_contact(building),
    )


def _carriers(building: Building) -> list[str]:
    """Shades that can carry an array, as it names them: overhangs by their wall, others by their id."""
    edges = {f.id: f.edge for f in building.faces}
    return [edges.get(s.face) or s.face.removeprefix("shade/") for s in building.shades if carries(s)]


def _face(face: Face, scheme: Scheme, north_deg: float, rooms: Collection[str]) -> FaceOut:
    upward = np.cross(face.normal, face.along)
    windows = []
    for w in face.windows:
        corner = face.origin + face.along * w.s + upward * w.z + face.normal * 0.01
        across, up = face.along * w.width, upward * w.height
        windows.append([c.round(4).tolist() for c in (corner, corner + across, corner + across + up, corner + up)])
    upright = face.kind == "wall"
    part = face.part or face.zone
    return FaceOut(
        id=face.id,
        zone=face.zone,
        part=part,
        side=own_name(face) if part in rooms else "",
        other=face.other,
        kind=face.kind,
        boundary=face.boundary,
        element=face.element,
        edge=face.edge,
        construction=face.construction or chosen_construction(scheme.skin, face.element),
        origin=construction_origin(scheme, face),
        clad_by=face.clad_by,
        glazing=next((w.glazing for w in face.windows if w.glazing), None) or scheme.skin.glazing,
        louvre_m=face.louvres.depth,
        orientation=face.orientation(north_deg) if upright else "",
        skin_side=face.orientation(skin_north(scheme, north_deg)) if upright else "",
        azimuth_deg=face.azimuth_deg(north_deg) if upright else 0.0,
        area=face.area,
        window_area=face.window_area,
        loops=[loop.tolist() for loop in face.loops],
        windows=windows,
        placed=[[round(v, 4) for v in (w.s, w.z, w.width, w.height)] for w in face.windows],
    )


def _contact(building: Building) -> list[ContactOut]:
    """Sum what each volume meets, by kind: outdoors, ground, other volumes."""
    sums: dict[tuple[str, str, str], float] = defaultdict(float)
    for face in building.faces:
        mine = face.zone.split("/")[0]
        if face.other is not None:
            other = face.other.split("/")[0]
            if other == mine:
                continue
            sums[mine, f"{face.kind} against", other] += face.area
            flipped = {"ceiling": "floor", "floor": "ceiling", "wall": "wall"}[face.kind]
            sums[other, f"{flipped} against", mine] += face.area
        else:
            sums[mine, f"{face.kind} {face.boundary}", ""] += face.area
    return [ContactOut(volume=v, what=what, other=other, area_m2=area) for (v, what, other), area in sorted(sums.items())]


def outcome(project: Project, scheme: Scheme, files: Mapping[str, str], revision: int, substeps: int = 1) -> OutcomeOut:
    """Simulate a scheme of a project."""
    started = time.perf_counter()
    year = climate_of(project.place, files)
    made = run(project.place, project.library, scheme, project.factors, year, substeps)
    return OutcomeOut(
        revision=revision,
        scheme=scheme.id,
        seconds=time.perf_counter() - started,
        elements=element_facts(made.brief),
        **made.outcome.as_dict(),
    )


def study_out(state: StudyState, revision: int) -> StudyOut:
    """Return a study as it stands."""
    inputs = state.inputs()
    return StudyOut(
        id=state.id,
        name=state.name,
        status=state.status,
        total=state.total,
        done=state.done,
        failed=state.failed,
        seconds=state.seconds,
        revision=state.revision,
        scheme=inputs.scheme.id,
        levers=shown(state.spec, inputs),
        outdated=state.revision != revision,
        spec=state.spec,
    )
