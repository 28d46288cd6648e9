"""Surroundings from GeoJSON (RFC 7946): footprints with heights, projected round the site."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
import shapely
from shapely.geometry import Polygon, shape

from eurythm.exchange.intake.received import Finding
from eurythm.geometry.clean import areal
from eurythm.geometry.outline import rotation
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError
from eurythm.model.place import Footprint, Place
from eurythm.model.reading import parse_json, read_document

HEIGHTS = ("height", "height_m", "building_height", "building:height")
LEVELS = ("levels", "storeys", "building:levels")
LEVEL_M = 3.0
FAR_M = 3000.0
LEAST_M2 = 2.0
RADIUS_M = 6378137.0
FLATTENING = 1 / 298.257223563
MOST = 5000


@dataclass(frozen=True)
class Surroundings:
    """Footprints in the drawing's axes, and what was mended or passed over."""

    footprints: tuple[Footprint, ...]
    findings: tuple[Finding, ...]


class _Body(NamedTuple):
    """A neighbour that was read: its height, m, and whether that was only counted from its storeys."""

    label: str
    outline: Polygon
    height: float
    counted: bool


def read_geojson(text: bytes, name: str, place: Place, taken: Iterable[str] = ()) -> Surroundings:
    """Read footprints; longitude and latitude are laid out round the place's own, turned into the drawing's axes.

    Parameters
    ----------
    taken : ids that footprints may not have.

    Raises
    ------
    EurythmError
        ``not-json``, ``not-geojson``, ``no-footprints`` or ``wrong-reference-system``.
    """
    data = parse_json(text, name)
    features = _features(data, name)
    outlines = sum(map(_counted, features))
    if outlines > MOST:
        raise EurythmError("too-large", f"“{name}” holds {outlines:,} outlines; up to {MOST:,} are read.", name)
    findings: list[Finding] = []
    bodies: list[_Body] = []
    for number, feature in enumerate(features):
        label = _label(feature, number)
        body = _outlines(feature, label, findings)
        height = _height(feature.get("properties") or {})
        if body and height is None:
            findings.append(_said("footprint-without-height", label, f"“{label}” has no height; it is left out."))
        elif height is not None:
            bodies += [_Body(label, polygon, *height) for polygon in body]
    if not bodies:
        raise EurythmError("no-footprints", f"“{name}” holds no outline with a height.", name)
    placed = _placed(bodies, place, name, findings)
    placed = _apart(placed, findings)
    used = set(taken)
    footprints: list[Footprint] = []
    for label, polygon, metres, counted in placed:
        k = len(footprints) + 1
        while f"footprint-{k}" in used:
            k += 1
        used.add(f"footprint-{k}")
        ring = np.round(np.asarray(shapely.geometry.polygon.orient(polygon).exterior.coords)[:-1], 3)
        points = [{"x": float(x), "y": float(y)} for x, y in ring]
        item = {"id": f"footprint-{k}", "name": label, "points": points, "height": round(metres, 3)}
        footprints.append(read_document(Footprint, item | ({"assumed": ["height"]} if counted else {})))
    return Surroundings(tuple(footprints), tuple(findings))


def _said(code: str, label: str, sentence: str, mended: bool = False) -> Finding:
    return Finding(code=code, object=label, sentence=sentence, mended=mended)


def _features(data: Any, name: str) -> list[dict[str, Any]]:
    if isinstance(data, dict) and data.get("type") == "FeatureCollection" and isinstance(data.get("features"), list):
        found = [f for f in data["features"] if isinstance(f, dict)]
    elif isinstance(data, dict) and data.get("type") == "Feature":
        found = [data]
    elif isinstance(data, dict) and data.get("type") in ("Polygon", "MultiPolygon"):
        found = [{"type": "Feature", "geometry": data, "properties": {}}]
    else:
        raise EurythmError("not-geojson", f"“{name}” is JSON, but no GeoJSON feature collection.", name)
    crs = data.get("crs")
    if crs is not None and not re.search(r"(CRS84|4326)", str(crs)):
        raise EurythmError(
            "wrong-reference-system", f"“{name}” uses another reference system than WGS84: {str(crs)[:80]}. Save it in WGS84.", name
        )
    return found


def _counted(feature: dict[str, Any]) -> int:
    """How many outlines a feature holds, before any is made."""
    geometry = feature.get("geometry")
    parts = geometry.get("coordinates") if isinstance(geometry, dict) else None
    return len(parts) if isinstance(parts, list) and isinstance(geometry, dict) and geometry.get("type") == "MultiPolygon" else 1


def _label(feature: dict[str, Any], number: int) -> str:
    properties = feature.get("properties") or {}
    return str(properties.get("name") or feature.get("id") or f"Footprint {number + 1}")[:120]


def _outlines(feature: dict[str, Any], label: str, findings: list[Finding]) -> list[Polygon]:
    """The outlines of a feature; one that crosses itself is mended, a courtyard is passed over."""
    geometry = feature.get("geometry")
    if not isinstance(geometry, dict) or geometry.get("type") not in ("Polygon", "MultiPolygon"):
        findings.append(_said("no-outline", label, f"“{label}” is no polygon; it is left out."))
        return []
    try:
        whole = shape(geometry)
        sound = bool(np.all(np.isfinite(shapely.get_coordinates(whole))))
    except (ValueError, TypeError, KeyError, IndexError, AttributeError, shapely.errors.GEOSException):
        sound = False
    if not sound:
        findings.append(_said("no-outline", label, f"The outline of “{label}” cannot be read; it is left out."))
        return []
    if not whole.is_valid:
        whole = shapely.make_valid(whole)
        findings.append(_said("outline-mended", label, f"The outline of “{label}” crossed itself; it was mended.", True))
    found = []
    for polygon in areal(whole).geoms:
        if polygon.interiors:
            findings.append(
                _said("courtyard-filled", label, f"The courtyard of “{label}” was filled: it hides nothing from outside.", True)
            )
        found.append(Polygon(polygon.exterior))
    return found


def _height(properties: dict[str, Any]) -> tuple[float, bool] | None:
    """A height in metres, also where it is written as text or with a unit; and whether it is a number of storeys times `LEVEL_M`."""
    lower = {str(k).casefold(): v for k, v in properties.items()}
    for names, factor in ((HEIGHTS, 1.0), (LEVELS, LEVEL_M)):
        for name in names:
            value = lower.get(name)
            if isinstance(value, bool) or value is None:
                continue
            match = re.fullmatch(r"\s*([\d.]+)\s*(m|ft|')?\s*", str(value).replace(",", "."))
            if match:
                try:
                    metres = float(match[1]) * factor * (0.3048 if match[2] in ("ft", "'") else 1.0)
                except ValueError:
                    continue
                if 0 < metres <= 1000:
                    return metres, names is LEVELS
    return None


def _placed(bodies: Sequence[_Body], place: Place, name: str, findings: list[Finding]) -> list[_Body]:
    points = np.concatenate([shapely.get_coordinates(b.outline) for b in bodies])
    if np.abs(points[:, 0]).max() > 180 or np.abs(points[:, 1]).max() > 90:
        raise EurythmError(
            "wrong-reference-system", f"“{name}” holds coordinates that are no longitude and latitude; save it in WGS84.", name
        )
    middle = points.mean(axis=0)
    here = (
        np.array([place.longitude_deg, place.latitude_deg], dtype=float)
        if place.latitude_deg is not None and place.longitude_deg is not None
        else None
    )
    if here is None or _metres(middle[None, :], here)[0] @ _metres(middle[None, :], here)[0] > FAR_M**2:
        if here is not None:
            far = float(np.linalg.norm(_metres(middle[None, :], here)[0])) / 1000
            findings.append(
                _said(
                    "footprints-far",
                    "",
                    f"The outlines lie {far:.0f} km from the site's latitude and longitude; their middle was put there.",
                    True,
                )
            )
        else:
            findings.append(
                _said(
                    "site-unknown",
                    "",
                    "The site has no latitude and longitude of its own; the middle of the outlines was put at its origin.",
                    True,
                )
            )
        here = middle
    turn = rotation(-place.north_deg)
    return [b._replace(outline=shapely.transform(b.outline, lambda c: _metres(c, here) @ turn.T)) for b in bodies]


def _metres(points: np.ndarray[Any, Any], here: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
    """East and north of a point on the ellipsoid's tangent plane, m; within 3 km its error stays below a centimetre."""
    latitude = math.radians(float(here[1]))
    e2 = FLATTENING * (2 - FLATTENING)
    w = math.sqrt(1 - e2 * math.sin(latitude) ** 2)
    east = np.radians(points[:, 0] - here[0]) * RADIUS_M / w * math.cos(latitude)
    north = np.radians(points[:, 1] - here[1]) * RADIUS_M * (1 - e2) / w**3
    return np.column_stack([east, north])


def _apart(bodies: list[_Body], findings: list[Finding]) -> list[_Body]:
    """Take from lower bodies what higher ones cover, so that no place stands twice."""
    order = sorted(range(len(bodies)), key=lambda k: (-bodies[k].height, k))
    tree = shapely.STRtree([b.outline for b in bodies])
    rank = {k: r for r, k in enumerate(order)}
    done = []
    for k, body in enumerate(bodies):
        label, polygon = body.label, body.outline
        higher = [bodies[j].outline for j in tree.query(polygon, predicate="intersects") if rank[int(j)] < rank[k]]
        rest = polygon.difference(shapely.union_all(higher)) if higher else polygon
        if rest.area < polygon.area - 0.5:
            findings.append(
                _said(
                    "footprints-overlap",
                    label,
                    f"“{label}” overlaps a higher neighbour by {amount(polygon.area - rest.area, 'm²', 0)}; it was cut.",
                    True,
                )
            )
        done += [body._replace(outline=Polygon(part.exterior)) for part in areal(rest).geoms if part.area >= LEAST_M2]
    return done
