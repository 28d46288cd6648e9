"""Bundles, projects and studies as files."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from eurythm.assess.figures import Figure, figures_of, flat
from eurythm.climate.epw import epw_text, read_epw
from eurythm.climate.standin import standin_year
from eurythm.climate.year import ClimateYear
from eurythm.model.amount import said
from eurythm.model.cells import plain
from eurythm.model.errors import EurythmError
from eurythm.model.place import ClimateRef
from eurythm.model.project import Bundle
from eurythm.model.reading import dump, parse_json, read_document
from eurythm.model.study import StudyFile
from eurythm.study.levers import CaseInputs
from eurythm.study.plan import LeverView
from eurythm.study.runner import CaseResult, remarks_of


@dataclass(frozen=True)
class Opened:
    """A bundle with its climate year; `epw` is the year's text where it came from a file."""

    bundle: Bundle
    climate: ClimateYear
    epw: str | None


def read_epw_text(path: Path) -> str:
    """Read a weather file's text; see `read_bytes`."""
    return epw_text(read_bytes(path))


def read_bytes(path: Path) -> bytes:
    """Read a file. Raises EurythmError ``no-such-file`` or ``unreadable-file``."""
    try:
        return path.read_bytes()
    except FileNotFoundError:
        raise EurythmError("no-such-file", f"There is no file {path}.", str(path)) from None
    except OSError as fault:
        raise EurythmError("unreadable-file", f"{path} cannot be read: {fault!s:.120}.", str(path)) from None


def open_bundle(path: Path, climate_file: Path | None = None) -> Opened:
    """Read a bundle and its climate year; `climate_file` stands before what the bundle names.

    Raises
    ------
    EurythmError
        With the path in the document, or the line of the weather file.
    """
    bundle = read_document(Bundle, parse_json(read_bytes(path), str(path)))
    named = bundle.climate
    text: str | None = None
    if climate_file is not None:
        text = read_epw_text(climate_file)
    elif named is not None and named.epw is not None:
        text = named.epw
    elif named is not None and named.file is not None:
        text = read_epw_text(path.parent / named.file)
    if text is not None:
        year = read_epw(text)
        ref = ClimateRef(kind="file", id=year.digest, name=year.location.city)
    else:
        stand_in = named.stand_in if named is not None else None
        if stand_in is None and bundle.place.climate is not None and bundle.place.climate.kind == "stand-in":
            stand_in = bundle.place.climate.id
        if stand_in is None:
            raise EurythmError("no-climate", "The bundle names no climate year; give one with --climate.", "climate")
        year = standin_year(stand_in)
        ref = ClimateRef(kind="stand-in", id=stand_in, name=year.location.city)
    place = bundle.place.model_copy(update={"climate": ref})
    return Opened(bundle.model_copy(update={"place": place}), year, text)


def write_json(path: Path, data: Any) -> None:
    """Write JSON as people read it."""
    path.write_text(json.dumps(data, indent=2, ensure_ascii=False, allow_nan=False) + "\n", encoding="utf-8")


def write_bundle(path: Path, bundle: Bundle) -> None:
    """Write a bundle: only what was given."""
    write_json(path, dump(bundle))


def open_study(path: Path) -> tuple[StudyFile, CaseInputs, dict[str, str]]:
    """Read a study file with the bundles that it names (beside it).

    Returns
    -------
    The study, the documents of its first bundle (or of the scheme it names), and its weather files by digest.
    """
    study = read_document(StudyFile, parse_json(read_bytes(path), str(path)))
    opened = [open_bundle(path.parent / name) for name in study.bundles]
    schemes = tuple(o.bundle.scheme for o in opened)
    wanted = study.study.scheme or schemes[0].id
    chosen = next((o for o in opened if o.bundle.scheme.id == wanted), None)
    if chosen is None:
        raise EurythmError("no-such-scheme", f"None of the bundles holds the scheme “{wanted}”.", "study/scheme")
    first = chosen.bundle
    files = {o.climate.digest: o.epw for o in opened if o.epw is not None}
    return study, CaseInputs(first.place, first.library, first.factors, first.scheme, schemes), files


def cases_csv(levers: list[LeverView], rows: Iterable[tuple[tuple[Any, ...], CaseResult]], named: Sequence[str] = ()) -> str:
    """Write cases as CSV: id, a column a lever, figures, end uses, outcomes of zones that are `named`, status, remarks. Text cannot turn into a formula."""
    return "".join(csv_lines(levers, rows, named))


def csv_lines(levers: list[LeverView], rows: Iterable[tuple[tuple[Any, ...], CaseResult]], named: Sequence[str] = ()) -> Iterator[str]:
    """Yield the lines of `cases_csv` one by one, so that not all cases need be held."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    of_building, of_parts = figures_of("building"), figures_of("use", "array")
    columns = [name for f in of_building for name in (f.id, *([_at(f)] if f.hour else []))]

    def line(cells: Iterable[Any]) -> str:
        writer.writerow(cells)
        text = out.getvalue()
        out.seek(0)
        out.truncate()
        return said(text)

    yield line(["id", *(v.key for v in levers), *columns, *(f.id for f in of_parts), *named, "status", "remarks"])
    for steps, result in rows:
        row: list[Any] = [result.number, *(_cell(s) for s in steps)]
        if result.figures is None:
            row += [""] * (len(columns) + len(of_parts) + len(named))
        else:
            figures = result.figures
            row += [cell for f in of_building for cell in (_cell(f.known(figures)), *([f.hour_of(figures)] if f.hour else []))]
            row += [f.known(figures) or 0.0 for f in of_parts]
            row += flat(figures, named).values() if named else []
        remarks = result.reason if result.figures is None else " ".join(remarks_of(result.figures))
        yield line([*row, result.status, _cell(remarks)])


def _at(figure: Figure) -> str:
    """Name the column of the hour on which a figure falls: peak_heating_at beside peak_heating_w."""
    return f"{figure.id.rpartition('_')[0]}_at"


def _cell(value: Any) -> Any:
    return plain(value) if isinstance(value, str) else value
