"""Polygons without the spikes and slivers that overlay leaves where edges nearly coincide."""

from __future__ import annotations

import shapely
from shapely.geometry import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

GRID = 1e-6
HAIR = 2.5e-4


def polygons_of(geometry: BaseGeometry) -> list[Polygon]:
    """Return the polygons of a geometry, without spikes and slivers below half a millimetre: contact bridges those."""
    whole = geometry.buffer(-HAIR, join_style="mitre", mitre_limit=50).buffer(HAIR, join_style="mitre", mitre_limit=50)
    parts = whole.geoms if hasattr(whole, "geoms") else [whole]
    cleaned = [shapely.set_precision(p, GRID) for p in parts if isinstance(p, Polygon) and p.area > 1e-3]
    return [p for p in cleaned if isinstance(p, Polygon) and not p.is_empty]


def areal(geometry: BaseGeometry) -> MultiPolygon:
    """Return the polygons of a geometry alone: overlay also returns the lines and points in which things touch."""
    parts = getattr(geometry, "geoms", [geometry])
    return MultiPolygon([p for p in parts if isinstance(p, Polygon) and not p.is_empty])


def sound_polygons(geometry: BaseGeometry, least_m2: float) -> list[Polygon]:
    """Return the polygons of a geometry that are larger than `least_m2`; those that rounding makes invalid are cleaned first."""
    parts = [p for p in getattr(geometry, "geoms", [geometry]) if isinstance(p, Polygon) and p.area > least_m2]
    sound: list[Polygon] = []
    for part in parts:
        rounded = shapely.transform(part, lambda points: points.round(6))
        sound += [part] if rounded.is_valid else [p for p in polygons_of(part) if p.area > least_m2]
    return sound
