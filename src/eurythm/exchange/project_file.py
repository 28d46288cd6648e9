"""A project as one file to save, send and open, with all that belongs to it; bundles open as projects of one scheme."""

from __future__ import annotations

import base64
import json
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from eurythm.climate.epw import MAX_BYTES, read_epw
from eurythm.exchange.bundle import read_bytes, read_epw_text
from eurythm.exchange.drawing import Drawing
from eurythm.exchange.intake.received import Received
from eurythm.exchange.intake.sift import Sift
from eurythm.explain.case import Case
from eurythm.model.errors import EurythmError
from eurythm.model.place import ClimateRef
from eurythm.model.project import Bundle, Project
from eurythm.model.reading import dump, parse_json, read_document
from eurythm.model.scheme import Scheme
from eurythm.study.runner import climate_of

MAX_FILE_BYTES = 256_000_000
MAX_UNPACKED_BYTES = 600_000_000
"""What the parts of a file may unpack to, all together."""
MAX_JSON_BYTES = 100_000_000
"""What one of them that is decoded, a drawing or what was read of a model, may unpack to."""
MOST_PACKED_BYTES, MOST_BODY_BYTES = 120_000_000, 400_000_000
"""Imported files go along as they came while they stay below these sizes together, packed (with what was read) and as they are; what was read always goes."""


@dataclass(frozen=True)
class WeatherFile:
    """A weather file of the user's: the name that it came under, and its text."""

    name: str
    text: str


@dataclass(frozen=True)
class ImportedModel:
    """A model that was read: what it held, what was decided about it, and what came of it.

    Attributes
    ----------
    file : its name.
    body : the file as it came, None where it was too large to be taken along.
    ask : what was asked for a file that does not say it, such as its unit.
    scheme : the scheme that came of it, None where it was not taken over.
    base : that scheme as the file alone made it, by which changes by hand are known when a newer file comes.
    follows : number of the model in the list that it is a newer file of.
    """

    file: str
    body: bytes | None
    ask: dict[str, str]
    received: Received
    sift: Sift
    scheme: str | None = None
    base: dict[str, Any] | None = None
    follows: int | None = None


@dataclass(frozen=True)
class ProjectFile:
    """A project with everything that its documents refer to, by digest, and the models that were imported into it."""

    project: Project
    files: dict[str, WeatherFile]
    drawings: dict[str, Drawing]
    imports: tuple[ImportedModel, ...] = ()


def write_project(
    project: Project,
    files: Mapping[str, WeatherFile],
    drawings: Mapping[str, Drawing] | None = None,
    imports: Sequence[ImportedModel] = (),
) -> str:
    """Return the project with its weather files, the drawings to trace over and imported models (compressed) as JSON text.

    Raises
    ------
    EurythmError
        ``too-large`` where drawings and what was read of models come to more than `read_project` takes.
    """
    packed = {
        digest: {"name": file.name, "epw": base64.b64encode(zlib.compress(file.text.encode())).decode()} for digest, file in files.items()
    }
    data = {**dump(project), "files": packed}
    plans = {digest: drawing.model_dump_json().encode() for digest, drawing in (drawings or {}).items()}
    models = [model.received.model_dump_json().encode() for model in imports]
    room = MAX_UNPACKED_BYTES - sum(map(len, (*plans.values(), *models, *(file.text for file in files.values()))))
    if room < 0:
        raise EurythmError(
            "too-large",
            f"With all its drawings and imported models the project has more than {MAX_UNPACKED_BYTES / 1e6:.0f} MB.",
            "project",
        )
    if plans:
        data["drawings"] = {digest: _packed(plan) for digest, plan in plans.items()}
    if imports:
        data["imports"] = []
        room, packed_room = min(room, MOST_BODY_BYTES), MOST_PACKED_BYTES
        for model, read in zip(imports, models, strict=True):
            received = _packed(read)
            packed_room -= len(received)
            body = None if model.body is None or len(model.body) > room else _packed(model.body)
            if body is not None and len(body) > packed_room:
                body = None
            if body is not None:
                room, packed_room = room - len(model.body or b""), packed_room - len(body)
            entry = {
                "file": model.file,
                "body": body,
                "ask": model.ask,
                "received": received,
                "sift": model.sift.model_dump(mode="json", exclude_unset=True),
                "scheme": model.scheme,
                "base": model.base,
                "follows": model.follows,
            }
            data["imports"].append({k: v for k, v in entry.items() if v is not None})
    return json.dumps(data, ensure_ascii=False, indent=1)


def read_project(text: str | bytes, name: str, beside: Path | None = None) -> ProjectFile:
    """Read a project file, or a bundle as a project of one scheme; `name` is the file's, for errors, `beside` the folder of files that a bundle names.

    Raises
    ------
    EurythmError
        Where the file is none of ours, a field is wrong, or its weather cannot be taken along; nothing is left out unsaid.
    """
    data = parse_json(text, name, MAX_FILE_BYTES)
    if not isinstance(data, dict):
        raise EurythmError("wrong-document", "This is not a Eurythm file.", name)
    if data.get("format") == "eurythm.bundle":
        return ProjectFile(*_from_bundle(read_document(Bundle, data), beside), {})
    room = _Room()
    drawings = _drawings(data.pop("drawings", {}), room)
    files = _weather_files(data.pop("files", {}), room)
    raw_imports = data.pop("imports", [])
    project = read_document(Project, data)
    imports = _imports(raw_imports, {s.id for s in project.schemes}, room)
    ref = project.place.climate
    if ref is not None and ref.kind == "file" and ref.id not in files:
        raise EurythmError("no-climate", f"The weather file “{ref.name or ref.id}” is not in this project file.", "files")
    return ProjectFile(project, files, drawings, imports)


def open_cases(path: Path, schemes: Sequence[str] = ()) -> tuple[Project, list[Case]]:
    """Read a project file, or a bundle, and return it with the cases of some schemes, or of all, the reference first.

    Raises
    ------
    EurythmError
        Where the file cannot be read, a scheme is not in it, or it has no weather.
    """
    found = read_project(read_bytes(path), str(path), path.parent)
    project = found.project
    files = {digest: one.text for digest, one in found.files.items()}
    climate = climate_of(project.place, files)
    names = list(schemes) or [project.reference, *(s.id for s in project.schemes if s.id != project.reference)]
    cases = []
    for name in names:
        if all(s.id != name for s in project.schemes):
            raise EurythmError("no-such-scheme", f"There is no scheme “{name}” in {path}.", "cases")
        cases.append(Case(project.place, project.library, project.scheme(name), project.factors, climate))
    return project, cases


def _packed(body: bytes) -> str:
    return base64.b64encode(zlib.compress(body)).decode()


class _Room:
    """How much the parts of one file may still unpack to."""

    def __init__(self) -> None:
        self.left = MAX_UNPACKED_BYTES

    def unpacked(self, packed: str, most: int) -> bytes:
        """Return what was packed. Raises ValueError or zlib.error where it is damaged, cut off or larger than allowed."""
        stream = zlib.decompressobj()
        body = stream.decompress(base64.b64decode(packed), max(min(most, self.left), 1))  # 0 would mean without limit
        if not stream.eof:
            raise ValueError("cut off or too large")
        self.left -= len(body)
        return body


def _imports(raw: Any, schemes: set[str], room: _Room) -> tuple[ImportedModel, ...]:
    if not isinstance(raw, list):
        raise EurythmError("wrong-field", "imports: should be a list of imported models.", "imports")
    found = []
    for number, entry in enumerate(raw):
        try:
            follows, base, body, scheme = (entry.get(k) for k in ("follows", "base", "body", "scheme"))
            if follows is not None and not 0 <= int(follows) < number:
                raise ValueError("follows a later one")
            if base is not None:
                read_document(Scheme, base)
            model = ImportedModel(
                file=str(entry["file"])[:300],
                body=None if body is None else room.unpacked(body, MOST_BODY_BYTES),
                ask={str(k): str(v) for k, v in entry.get("ask", {}).items()},
                received=Received.model_validate_json(room.unpacked(entry["received"], MAX_JSON_BYTES)),
                sift=Sift.model_validate(entry.get("sift", {})),
                scheme=scheme if scheme in schemes else None,
                base=base if scheme in schemes else None,
                follows=follows,
            )
        except (AttributeError, KeyError, TypeError, ValueError, zlib.error):
            raise EurythmError("wrong-field", f"imports/{number}: cannot be read.", f"imports/{number}") from None
        found.append(model)
    return tuple(found)


def _drawings(raw: Any, room: _Room) -> dict[str, Drawing]:
    if not isinstance(raw, dict):
        raise EurythmError("wrong-field", "drawings: should map digests to drawings.", "drawings")
    found = {}
    for digest, packed in raw.items():
        try:
            found[str(digest)] = Drawing.model_validate_json(room.unpacked(packed, MAX_JSON_BYTES))
        except (TypeError, ValueError, zlib.error):
            raise EurythmError("wrong-field", f"drawings/{digest}: cannot be read.", f"drawings/{digest}") from None
    return found


def _from_bundle(bundle: Bundle, beside: Path | None) -> tuple[Project, dict[str, WeatherFile]]:
    place, files = bundle.place, dict[str, WeatherFile]()
    named = bundle.climate
    epw = named.epw if named is not None else None
    if epw is None and named is not None and named.file is not None and beside is not None:
        epw = read_epw_text(beside / named.file)
    if epw is not None:
        year = read_epw(epw)
        files[year.digest] = WeatherFile(f"{year.location.city or 'climate'}.epw", epw)
        place = place.model_copy(update={"climate": ClimateRef(kind="file", id=year.digest, name=year.location.city)})
    elif named is not None and named.stand_in is not None:
        place = place.model_copy(update={"climate": ClimateRef(kind="stand-in", id=named.stand_in)})
    elif named is not None and named.file is not None:
        raise EurythmError(
            "no-climate",
            f"This bundle's climate is a file beside it, “{named.file}”; name a stand-in, or put the EPW's text inside as climate/epw.",
            "climate/file",
        )
    elif place.climate is not None and place.climate.kind == "file":
        raise EurythmError("no-climate", "This bundle names a weather file that is not in it; give it as climate/epw.", "climate")
    project = Project(
        name=bundle.scheme.name,
        place=place,
        library=bundle.library,
        factors=bundle.factors,
        schemes=(bundle.scheme,),
        reference=bundle.scheme.id,
    )
    return project, files


def _weather_files(raw: Any, room: _Room) -> dict[str, WeatherFile]:
    if not isinstance(raw, dict):
        raise EurythmError("wrong-field", "files: should map digests to weather files.", "files")
    files = {}
    for digest, entry in raw.items():
        try:
            text = room.unpacked(entry["epw"], MAX_BYTES).decode()
            name = str(entry["name"])[:200]
        except (KeyError, TypeError, ValueError, zlib.error):
            raise EurythmError("wrong-field", f"files/{digest}: cannot be read.", f"files/{digest}") from None
        if read_epw(text).digest != digest:
            raise EurythmError("wrong-field", f"files/{digest}: the weather file is not the one that it says.", f"files/{digest}")
        files[str(digest)] = WeatherFile(name, text)
    return files
