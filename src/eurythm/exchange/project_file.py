"""A project as one file to save, send and open, its weather files inside; bundles open as projects of one scheme."""

from __future__ import annotations

import base64
import json
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from eurythm.climate.epw import MAX_BYTES, read_epw
from eurythm.exchange.drawing import Drawing
from eurythm.model.errors import EurythmError
from eurythm.model.place import ClimateRef
from eurythm.model.project import Bundle, Project
from eurythm.model.reading import dump, parse_json, read_document

MAX_DRAWING_BYTES = 100_000_000


@dataclass(frozen=True)
class WeatherFile:
    """A weather file of the user's: the name that it came under, and its text."""

    name: str
    text: str


@dataclass(frozen=True)
class ProjectFile:
    """A project with everything that its documents refer to, by digest."""

    project: Project
    files: dict[str, WeatherFile]
    drawings: dict[str, Drawing]


def write_project(project: Project, files: Mapping[str, WeatherFile], drawings: Mapping[str, Drawing] | None = None) -> str:
    """Return the project with its weather files and the drawings to trace over (by digest, compressed) as JSON text."""
    packed = {
        digest: {"name": file.name, "epw": base64.b64encode(zlib.compress(file.text.encode())).decode()} for digest, file in files.items()
    }
    data = {**dump(project), "files": packed}
    if drawings:
        data["drawings"] = {
            d: base64.b64encode(zlib.compress(drawing.model_dump_json().encode())).decode() for d, drawing in drawings.items()
        }
    return json.dumps(data, ensure_ascii=False, indent=1)


def read_project(text: str | bytes, name: str) -> ProjectFile:
    """Read a project file, or a bundle as a project of one scheme; `name` is the file's, for errors.

    Raises
    ------
    EurythmError
        Where the file is none of ours, a field is wrong, or its weather cannot be taken along; nothing is left out unsaid.
    """
    data = parse_json(text, name)
    if not isinstance(data, dict):
        raise EurythmError("wrong-document", "This is not a Eurythm file.", name)
    if data.get("format") == "eurythm.bundle":
        return ProjectFile(*_from_bundle(read_document(Bundle, data)), {})
    drawings = _drawings(data.pop("drawings", {}))
    files = _weather_files(data.pop("files", {}))
    project = read_document(Project, data)
    ref = project.place.climate
    if ref is not None and ref.kind == "file" and ref.id not in files:
        raise EurythmError("no-climate", f"The weather file “{ref.name or ref.id}” is not in this project file.", "files")
    return ProjectFile(project, files, drawings)


def _drawings(raw: Any) -> dict[str, Drawing]:
    if not isinstance(raw, dict):
        raise EurythmError("wrong-field", "drawings: should map digests to drawings.", "drawings")
    found = {}
    for digest, packed in raw.items():
        try:
            text = zlib.decompressobj().decompress(base64.b64decode(packed), MAX_DRAWING_BYTES)
            found[str(digest)] = Drawing.model_validate_json(text)
        except (TypeError, ValueError, zlib.error):
            raise EurythmError("wrong-field", f"drawings/{digest}: cannot be read.", f"drawings/{digest}") from None
    return found


def _from_bundle(bundle: Bundle) -> tuple[Project, dict[str, WeatherFile]]:
    place, files = bundle.place, dict[str, WeatherFile]()
    named = bundle.climate
    if named is not None and named.epw is not None:
        year = read_epw(named.epw)
        files[year.digest] = WeatherFile(f"{year.location.city or 'climate'}.epw", named.epw)
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


def _weather_files(raw: Any) -> dict[str, WeatherFile]:
    if not isinstance(raw, dict):
        raise EurythmError("wrong-field", "files: should map digests to weather files.", "files")
    files = {}
    for digest, entry in raw.items():
        try:
            text = zlib.decompressobj().decompress(base64.b64decode(entry["epw"]), MAX_BYTES + 1).decode()
            name = str(entry["name"])[:200]
        except (KeyError, TypeError, ValueError, zlib.error):
            raise EurythmError("wrong-field", f"files/{digest}: cannot be read.", f"files/{digest}") from None
        if read_epw(text).digest != digest:
            raise EurythmError("wrong-field", f"files/{digest}: the weather file is not the one that it says.", f"files/{digest}")
        files[str(digest)] = WeatherFile(name, text)
    return files
