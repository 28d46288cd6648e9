"""Bringing an imported scheme into a project: its library entries beside those that are there, its place where none is given."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from eurythm.climate.year import Location
from eurythm.exchange.gbxml.write import NEIGHBOUR
from eurythm.exchange.intake.received import Finding
from eurythm.exchange.intake.settle import Settled
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.reading import dump, read_document
from eurythm.model.scheme import Scheme

NAMES = {"constructions": "construction", "glazings": "glazing", "profiles": "profile"}
NORTH_APART = 0.5
SITE_APART = 0.05
"""How far latitudes and longitudes may differ and count as one place, degrees."""


@dataclass(frozen=True)
class Merged:
    """Documents with an imported scheme among them."""

    place: Place
    library: Library
    scheme: Scheme
    findings: tuple[Finding, ...]


def merge(settled: Settled, place: Place, library: Library, override: bool = False, at: Location | None = None) -> Merged:
    """Add what a settled file brings to a project's documents.

    An entry of the library that has the id of another one is renamed, unless both say the same. Values of the place that
    were given stay (unless `override`); where the file says otherwise, that is said. Shades that stand for neighbours which
    the place has already are not taken twice.

    Parameters
    ----------
    at : where the climate year of the place lies; latitude and longitude of the file do not take its place unseen.
    """
    data, renamed = _library(settled.library, library)
    scheme = dump(settled.scheme)
    for name, names in renamed.items():
        if names:
            _rename(scheme, name, names)
    around = {f"{NEIGHBOUR}{name}" for name in [*(b.id for b in place.boxes), *(f.id for f in place.footprints)]}
    scheme["shades"] = [s for s in scheme.get("shades", []) if s.get("name") not in around]
    if not scheme["shades"]:
        del scheme["shades"]
    source = settled.received
    scheme["imported_from"] = {
        "file": source.file,
        "format": source.format,
        "digest": source.digest,
        "reference_plane": source.reference_plane,
    }
    where, findings = _place(settled.place, place, override, at, settled.file_north_counts)
    apart = _between(settled.north_deg, where.north_deg)
    if abs(apart) > NORTH_APART:
        scheme["turn_deg"] = round(_between(settled.north_deg + float(scheme.get("turn_deg", 0.0)), where.north_deg), 4)
        scheme["skin"] = {"turn_with": "compass"} | scheme.get("skin", {})
        sentence = (
            f"By the file north lies {settled.north_deg:g}° from the drawing's, by the project {where.north_deg:g}°; the project's counts, "
            f"and the scheme is turned by {apart:g}° so that it looks where the file has it look. "
            "Glass and shades by side keep to the compass."
        )
        findings.append(Finding(code="turned-to-north", object="north_deg", sentence=sentence, mended=True))
    return Merged(where, read_document(Library, data), read_document(Scheme, scheme), tuple(findings))


def _library(new: Library, old: Library) -> tuple[dict[str, Any], dict[str, dict[str, str]]]:
    data = dump(old)
    renamed: dict[str, dict[str, str]] = {}
    for group, name in NAMES.items():
        here = list(data.get(group, []))
        known = {e["id"]: e for e in here}
        renamed[name] = {}
        for entry in dump(new).get(group, []):
            wanted, k = entry["id"], 2
            while wanted in known and {**known[wanted], "id": ""} != {**entry, "id": ""}:
                wanted, k = f"{entry['id'][:60]}-{k}", k + 1
            if wanted != entry["id"]:
                renamed[name][entry["id"]] = wanted
            if wanted not in known:
                known[wanted] = {**entry, "id": wanted}
                here.append(known[wanted])
        if here:
            data[group] = here
    return data, renamed


def _rename(data: Any, key: str, names: Mapping[str, str]) -> None:
    if isinstance(data, dict):
        for name, value in data.items():
            if name == key and isinstance(value, str) and value in names:
                data[name] = names[value]
            else:
                _rename(value, key, names)
    elif isinstance(data, list):
        for item in data:
            _rename(item, key, names)


def _between(here: float, there: float) -> float:
    """The turn from one bearing to another, degrees, from -180 to 180."""
    return (here - there + 180.0) % 360.0 - 180.0


def _place(read: Mapping[str, Any], place: Place, override: bool, at: Location | None, north_counts: bool) -> tuple[Place, list[Finding]]:
    data, findings = dump(place), []
    if at is not None and not override and not {"latitude_deg", "longitude_deg"} & place.model_fields_set and "latitude_deg" in read:
        latitude, longitude = read["latitude_deg"], read["longitude_deg"]
        read = {k: v for k, v in read.items() if k not in ("latitude_deg", "longitude_deg")}
        if max(abs(latitude - at.latitude_deg), abs(longitude - at.longitude_deg)) > SITE_APART:
            sentence = (
                f"The file lies at latitude {latitude:.2f}°, longitude {longitude:.2f}°; the project's place, that of its climate year "
                f"({at.latitude_deg:.2f}°, {at.longitude_deg:.2f}°), stays."
            )
            findings.append(Finding(code="place-differs", object="latitude_deg", sentence=sentence))
    for name, value in read.items():
        counts = override or (name == "north_deg" and north_counts)
        if name not in place.model_fields_set or counts or getattr(place, name) is None:
            data[name] = value
        elif name != "north_deg" and abs(getattr(place, name) - value) > NORTH_APART:
            what = {"ground_level_m": "ground level"}.get(name, name.removesuffix("_deg"))
            sentence = f"The file says {value:g} for {what}; the project's {getattr(place, name):g} stays."
            findings.append(Finding(code="place-differs", object=name, sentence=sentence))
    return read_document(Place, data), findings
