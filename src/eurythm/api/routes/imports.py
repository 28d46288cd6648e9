"""Files of others: reading, sifting, settling, taking over."""

from __future__ import annotations

import io
import json
import tempfile
from dataclasses import asdict
from pathlib import Path
from typing import Any

from fastapi import APIRouter, Response, UploadFile

from eurythm.api.import_shapes import (
    AcceptedOut,
    AcceptIn,
    ClashOut,
    ClassOut,
    DifferenceOut,
    FindingOut,
    ImportOut,
    ObjectOut,
    SettledOut,
    SiftOut,
)  # fmt: skip
from eurythm.api.office import Here
from eurythm.api.pictures import picture, triangles_of
from eurythm.api.shapes import Fault
from eurythm.api.uploads import named, refuse_larger, taken
from eurythm.api.views import geometry
from eurythm.brief.edits import Edit, Put, Set, Together
from eurythm.climate.year import Location
from eurythm.exchange.ifc.requirements import Requirements
from eurythm.exchange.importing import SHAPE
from eurythm.exchange.intake.account import account
from eurythm.exchange.intake.again import Rebased, differences, rebase
from eurythm.exchange.intake.checks import called
from eurythm.exchange.intake.merge import Merged, merge
from eurythm.exchange.intake.process import check_apart
from eurythm.exchange.intake.received import Finding, Received, ReceivedElement, ReceivedSpace
from eurythm.exchange.intake.settle import Settled, settle
from eurythm.exchange.intake.sift import COUNTS, Sift, lost_mends, mended, met, things_of, verdicts
from eurythm.exchange.readers import MOST_BYTES
from eurythm.model.errors import EurythmError, NotFound
from eurythm.model.ids import fresh_id
from eurythm.model.place import Place
from eurythm.model.project import Project
from eurythm.model.reading import dump, read_document
from eurythm.model.scheme import Scheme
from eurythm.store.imports import ImportState
from eurythm.store.projects import State
from eurythm.study.runner import climate_of

router = APIRouter(prefix="/api/projects/{project_id}/imports")
MOST_IDS_BYTES = 5_000_000
FOR_ALL = {"north_deg": "true north", "latitude_deg": "latitude", "longitude_deg": "longitude", "ground_level_m": "ground level"}
"""What a file may say of the place, which all schemes of a project share."""


def _out(state: ImportState, here: Here) -> ImportOut:
    reading = here.import_jobs.reading(state.id)
    fault = None if state.fault is None else Fault(**state.fault)
    return ImportOut(
        id=state.id, file=state.file, status=state.status, share=reading.share if state.status == "reading" else 1.0,
        what=reading.what if state.status == "reading" else "", fault=fault, follows=state.follows, scheme=state.scheme_id, made=state.made,
    )  # fmt: skip


@router.post("", status_code=202)
def post_import(
    project_id: str,
    file: UploadFile,
    here: Here,
    unit: str | None = None,
    up: str | None = None,
    storey_height: float | None = None,
    follows: str | None = None,
) -> ImportOut:
    """Take a file and begin to read it; nothing of the project changes by that. A mesh is told what it does not say, lengths in m."""
    here.projects.state(project_id)
    name = named(file, "file")
    refuse_larger(file, MOST_BYTES, name)
    ask = {k: str(v) for k, v in (("unit", unit), ("up", up), ("storey_height", storey_height)) if v not in (None, "")}
    state = here.imports.create(project_id, name, file.file, ask, follows)
    here.import_jobs.start(state)
    return _out(state, here)


@router.get("")
def list_imports(project_id: str, here: Here) -> list[ImportOut]:
    """List a project's imports, the latest first."""
    return [_out(s, here) for s in here.imports.listed(project_id)]


@router.get("/{import_id}")
def get_import(project_id: str, import_id: str, here: Here) -> ImportOut:
    """Return an import as it stands."""
    return _out(here.imports.state(project_id, import_id), here)


@router.post("/{import_id}/cancel")
def cancel_import(project_id: str, import_id: str, here: Here) -> ImportOut:
    """Call a reading off."""
    here.imports.state(project_id, import_id)
    here.import_jobs.cancel(import_id)
    here.import_jobs.wait(import_id)
    return get_import(project_id, import_id, here)


@router.delete("/{import_id}", status_code=204)
def delete_import(project_id: str, import_id: str, here: Here) -> None:
    """Remove an import with its file; a scheme that came of it stays."""
    cancel_import(project_id, import_id, here)
    here.imports.remove(project_id, import_id)


@router.get("/{import_id}/sift")
def get_sift(project_id: str, import_id: str, here: Here) -> SiftOut:
    """Return the classes of what a file holds, and the decisions about it."""
    state, received = here.imports.state(project_id, import_id), here.imports.received(project_id, import_id)
    return _sift_out(received, state.sift)


@router.put("/{import_id}/sift")
def put_sift(project_id: str, import_id: str, sift: Sift, here: Here) -> SiftOut:
    """Keep decisions about a file."""
    received = here.imports.received(project_id, import_id)
    return _sift_out(received, here.imports.decide(project_id, import_id, sift).sift)


def _sift_out(received: Received, sift: Sift) -> SiftOut:
    after = mended(received, sift)
    decided = verdicts(after, sift, {})
    groups: dict[str, list[Any]] = {}
    for thing in things_of(received):
        groups.setdefault(thing.class_name, []).append(thing)
    classes = [
        ClassOut(class_name=n, count=len(g), kept=sum(decided[t.id].keep for t in g), by_default=g[0].kind in COUNTS, picture=picture(g))
        for n, g in sorted(groups.items(), key=lambda pair: (pair[0] not in COUNTS, -len(pair[1]), pair[0]))
    ]
    names = sorted({name for thing in things_of(received) for name in thing.properties})
    place = {"true_north_deg": received.true_north_deg, "latitude_deg": received.latitude_deg, "longitude_deg": received.longitude_deg}
    return SiftOut(
        file=received.file, format=received.format, length_unit=received.length_unit, reference_plane=received.reference_plane,
        project=received.project, place=place, storeys=[s.model_dump() for s in received.storeys], classes=classes, sift=sift, meets=met(after, sift),
        properties=names[:400],
    )  # fmt: skip


@router.get("/{import_id}/objects")
def get_objects(project_id: str, import_id: str, here: Here) -> list[ObjectOut]:
    """Return every object as received, with its form and the decision about it."""
    state = here.imports.state(project_id, import_id)
    received = mended(here.imports.received(project_id, import_id), state.sift)
    storeys = {s.id: s.name for s in received.storeys}
    decided = verdicts(received, state.sift, {})
    found = []
    for thing in things_of(received):
        points, triangles = triangles_of(thing)
        space = thing if isinstance(thing, ReceivedSpace) else None
        element = thing if isinstance(thing, ReceivedElement) else None
        found.append(
            ObjectOut(
                id=thing.id, class_name=thing.class_name, name=thing.name, number=space.number if space else element.tag if element else "",
                storey=storeys.get(thing.storey or "", ""), use=space.use if space else "", external=element.external if element else space.external if space else None,
                keep=decided[thing.id].keep, reason=decided[thing.id].reason, floor_area_m2=space.floor_area_m2 if space else 0.0,
                properties=thing.properties, points=points, triangles=triangles,
            )
        )  # fmt: skip
    return found


@router.get("/{import_id}/settled")
def get_settled(project_id: str, import_id: str, here: Here) -> SettledOut:
    """Return what the file comes to with the decisions as they are; nothing of the project changes by that."""
    state, received = here.imports.state(project_id, import_id), here.imports.received(project_id, import_id)
    project = here.projects.state(project_id).project
    before = _before(here, project_id, state)
    found = differences(before[1], received) if before is not None else []
    lost = [m.object for m in lost_mends(received, state.sift)]
    differs = [DifferenceOut(**{**asdict(d), "what": list(d.what)}) for d in found]
    try:
        settled = _settle_for(here, project_id, project, state, received)
    except EurythmError as fault:
        return SettledOut(
            fault=Fault(**fault.as_dict()), findings=[_finding(f, received) for f in received.findings], report=None, geometry=None, verdicts={},
            told=[], differences=differs, clashes=[], lost=[], lost_mends=lost,
        )  # fmt: skip
    merged = merge(settled, project.place, project.library, at=_site(here, project_id, project.place))
    scheme, again = settled.scheme, Rebased({})
    if before is not None:
        again = _rebased(here, project_id, project, state, merged.scheme)
        scheme = read_document(Scheme, again.scheme)
    return SettledOut(
        fault=None,
        findings=[_finding(f, settled.received) for f in settled.findings],
        report=account(settled),
        geometry=geometry(merged.place, scheme),
        verdicts={name: [v.keep, v.reason] for name, v in settled.verdicts.items()},
        told=_told(project, merged, scheme.id, taken_over=False),
        differences=differs,
        clashes=[ClashOut(path=c.path, by_hand=c.by_hand, by_file=c.by_file) for c in again.clashes],
        lost=again.lost,
        lost_mends=lost,
    )


def _finding(finding: Finding, received: Received) -> FindingOut:
    thing = next((t for t in things_of(received) if t.id == finding.object), None)
    loops = [[list(c) for c in loop] for loop in finding.loops]
    return FindingOut(
        code=finding.code,
        object=finding.object,
        called=called(thing) if thing is not None else "",
        sentence=finding.sentence,
        mended=finding.mended,
        loops=loops,
    )


def _before(here: Here, project_id: str, state: ImportState) -> tuple[ImportState, Received] | None:
    """The import that this one follows, where it went into a scheme that is still there."""
    if state.follows is None:
        return None
    try:
        earlier = here.imports.state(project_id, state.follows)
        return earlier, here.imports.received(project_id, earlier.id)
    except NotFound:
        return None


def _target(here: Here, project_id: str, project: Project, state: ImportState) -> Scheme | None:
    name = state.scheme_id
    if name is None and state.follows is not None:
        before = _before(here, project_id, state)
        name = None if before is None else before[0].scheme_id
    return next((s for s in project.schemes if s.id == name), None)


def _settle_for(here: Here, project_id: str, project: Project, state: ImportState, received: Received, name: str = "") -> Settled:
    target = _target(here, project_id, project, state)
    if target is None:
        return settle(received, state.sift, {"id": "imported", "name": name or received.project or received.file}, project.place)
    kept = {k: v for k, v in dump(target).items() if k not in SHAPE}
    return settle(received, state.sift, kept, project.place, {z.source: z.id for z in target.zones if z.source})


def _rebased(here: Here, project_id: str, project: Project, state: ImportState, newer: Scheme) -> Rebased:
    """The target scheme with the newer file's changes and those made by hand; nothing to keep where there was no earlier one."""
    target = _target(here, project_id, project, state)
    base = here.imports.base(project_id, state.follows) if state.follows is not None else None
    if target is None or base is None:
        return Rebased(dump(newer))
    mine, theirs = dump(target), dump(newer)
    made = rebase(
        {k: v for k, v in base.items() if k in SHAPE},
        {k: v for k, v in mine.items() if k in SHAPE},
        {k: v for k, v in theirs.items() if k in SHAPE},
    )
    made.scheme = {**{k: v for k, v in mine.items() if k not in SHAPE}, **made.scheme}
    return made


@router.post("/{import_id}/accept")
def post_accept(project_id: str, import_id: str, wish: AcceptIn, here: Here) -> AcceptedOut:
    """Take an import over, as one step that can be undone."""
    state, received = here.imports.state(project_id, import_id), here.imports.received(project_id, import_id)
    now: State = here.projects.state(project_id)
    if wish.as_ == "project":
        return _as_project(here, project_id, state, received, wish.name)
    project = now.project
    if wish.as_ == "shape" and wish.scheme is not None and state.scheme_id is None and state.follows is None:
        target = next((s for s in project.schemes if s.id == wish.scheme), None)
        if target is None:
            raise NotFound("no-such-scheme", f"There is no scheme “{wish.scheme}”.", "scheme")
        kept = {k: v for k, v in dump(target).items() if k not in SHAPE}
        settled = settle(received, state.sift, kept, project.place, {z.source: z.id for z in target.zones if z.source})
    else:
        settled = _settle_for(here, project_id, project, state, received, wish.name)
    merged = merge(settled, project.place, project.library, at=_site(here, project_id, project.place))
    scheme = dump(merged.scheme)
    if wish.as_ == "scheme":
        scheme |= {"id": fresh_id(_slug(wish.name or received.project or "imported"), {s.id for s in project.schemes})}
        scheme["name"] = wish.name or scheme["name"]
    elif state.follows is not None:
        scheme = _rebased(here, project_id, project, state, merged.scheme).scheme
    edit = _as_edit(project, merged, scheme)
    here.projects.edit(project_id, wish.revision, edit)
    here.imports.accepted(project_id, import_id, scheme["id"], dump(merged.scheme) | {"id": scheme["id"]})
    return AcceptedOut(project=project_id, scheme=scheme["id"], told=_told(project, merged, scheme["id"]))


def _site(here: Here, project_id: str, place: Place) -> Location | None:
    """Where the project's climate year lies."""
    return None if place.climate is None else climate_of(place, here.projects.files(project_id)).location


def _told(project: Project, merged: Merged, scheme_id: str, taken_over: bool = True) -> list[str]:
    """What the file says otherwise than the project, and what of it holds, or would hold, for schemes that were there before."""
    sentences = [f.sentence for f in merged.findings]
    before, after = dump(project.place), dump(merged.place)
    taken = [name for key, name in FOR_ALL.items() if before.get(key) != after.get(key)]
    if taken and any((s.volumes or s.zones) and s.id != scheme_id for s in project.schemes):
        hold = "hold" if len(taken) > 1 else "holds"
        sentences.append(f"The file's {', '.join(taken)} {hold} for all schemes {'now' if taken_over else 'once it is taken over'}.")
    return sentences


def _as_edit(project: Project, merged: Merged, scheme: dict[str, Any]) -> Edit:
    edits: list[Any] = []
    place, before = dump(merged.place), dump(project.place)
    edits += [
        Set(path=f"place/{name}", value=value)
        for name, value in place.items()
        if name not in ("format", "version") and before.get(name) != value
    ]
    for group in ("constructions", "glazings", "profiles"):
        known = {e.id for e in getattr(project.library, group)}
        edits += [Put(path=f"library/{group}", item=e) for e in dump(merged.library).get(group, []) if e["id"] not in known]
    edits.append(Put(path="schemes", item=scheme))
    return Together(edits=tuple(edits))


def _as_project(here: Here, project_id: str, state: ImportState, received: Received, name: str) -> AcceptedOut:
    settled = settle(received, state.sift, {"id": "scheme-1", "name": "As imported"}, Place())
    merged = merge(settled, Place(), read_document(type(settled.library), {}))
    project = Project(
        name=name or received.project or received.file,
        place=merged.place,
        library=merged.library,
        schemes=(merged.scheme,),
        reference="scheme-1",
    )
    made = here.projects.create(project)
    own = here.imports.create(made.id, state.file, io.BytesIO(here.imports.body(state.id) or b""), state.ask, None)
    here.imports.end(own.id, "read", received)
    here.imports.decide(made.id, own.id, state.sift)
    here.imports.accepted(made.id, own.id, "scheme-1", dump(merged.scheme))
    here.imports.remove(project_id, state.id)
    return AcceptedOut(project=made.id, scheme="scheme-1", told=[])


def _slug(text: str) -> str:
    return "".join(c if c.isascii() and c.isalnum() else "-" for c in text.casefold()).strip("-")[:50] or "imported"


@router.post("/{import_id}/requirements")
def post_requirements(project_id: str, import_id: str, here: Here, file: UploadFile | None = None) -> Requirements:
    """Check an IFC file against an IDS file, the shipped one for energy models unless another is sent."""
    state = here.imports.state(project_id, import_id)
    if here.imports.received(project_id, import_id).format != "ifc":
        raise EurythmError("not-ifc", "Requirements are checked on IFC files only.", state.file)
    if not here.imports.path(import_id).exists():
        raise EurythmError("no-file", f"“{state.file}” itself did not come along in the project file; import it again to check it.", "file")
    with tempfile.TemporaryDirectory(prefix="eurythm-ids-") as folder:
        specification = None
        if file is not None:
            name = named(file, "asked.ids")
            specification = Path(folder) / (name.strip(".") or "asked.ids")
            specification.write_bytes(taken(file, MOST_IDS_BYTES, name))
        return check_apart(here.imports.path(import_id), state.file, specification)


@router.get("/{import_id}/sift.json")
def get_sift_file(project_id: str, import_id: str, here: Here) -> Response:
    """Return the decisions and mends as a file, to be applied elsewhere."""
    state = here.imports.state(project_id, import_id)
    said = state.sift.model_dump(mode="json", exclude_unset=True)
    body = json.dumps({"format": state.sift.format, "version": state.sift.version, **said}, ensure_ascii=False, indent=1)
    return Response(body, media_type="application/json", headers={"Content-Disposition": 'attachment; filename="decisions.sift.json"'})
