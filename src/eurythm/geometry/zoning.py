"""Dividing a storey's outline into zones: one, or perimeter and core."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from eurythm.geometry.clean import GRID, HAIR, areal, polygons_of
from eurythm.geometry.outline import Outline, Points
from eurythm.model.shape import Zoning

SLIVER_M2 = 1.0


@dataclass(frozen=True)
class Part:
    """A zone's plan: a key within its storey (``all``, ``core`` or the edge that it lies along) and its polygon."""

    key: str
    polygon: Polygon


def divide(outline: Outline, zoning: Zoning) -> list[Part]:
    """Divide an outline; the parts fill it exactly and do not overlap.

    Perimeter and core: each edge gets the strip of its depth behind it, cut from corner to corner where the strips meet;
    what lies deeper is the core. Strips that would overlap in narrow places are shared out in the order of the edges, and
    slivers below 1 m² go to the neighbour with which they share the longest border. As a ring, all strips are one zone
    (one for each piece where they do not hang together).
    """
    whole = outline.polygon
    if zoning.kind == "one":
        return [Part("all", whole)]
    own = {e.id: e.depth_m for e in zoning.edges}
    depths = [[own.get(name, zoning.depth_m) for name in names] for names in outline.edges]
    wedges = [
        wedge
        for points, names, deep in zip(outline.rings, outline.edges, depths, strict=True)
        for wedge in _wedges(points, names, np.array(deep))
    ]
    if len({d for ring in depths for d in ring}) == 1:
        inside = whole.buffer(-depths[0][0], join_style="mitre", mitre_limit=20)
    else:
        inside = whole.difference(shapely.union_all([wedge for _, wedge in wedges]))
    core = MultiPolygon([p for p in polygons_of(shapely.set_precision(inside, GRID)) if p.area >= 4 * SLIVER_M2])
    ring = shapely.set_precision(whole.difference(core), GRID)
    pieces: list[tuple[str, Polygon]] = []
    left: BaseGeometry = areal(ring)
    for name, wedge in wedges if zoning.around == "by_edge" else []:
        got = shapely.intersection(left, wedge, grid_size=GRID)
        left = areal(shapely.difference(left, wedge, grid_size=GRID))
        pieces += [(name, p) for p in polygons_of(got)]
    pieces += [("" if zoning.around == "by_edge" else "ring", p) for p in polygons_of(left)]
    pieces += [("core", p) for p in polygons_of(core)]
    return _named(_without_slivers(pieces))


def _wedges(points: Points, names: tuple[str, ...], depth: Points) -> list[tuple[str, Polygon]]:
    """The strip behind each edge that has a depth, from corner to corner. Material lies left of each edge."""
    along = np.roll(points, -1, axis=0) - points
    length = np.hypot(along[:, 0], along[:, 1])
    along = along / length[:, None]
    inward = np.stack([-along[:, 1], along[:, 0]], axis=1)
    before, depth_before = np.roll(inward, 1, axis=0), np.roll(depth, 1)
    # where the lines at their depth behind the two edges of a corner meet, from the corner
    cosine = np.sum(inward * before, axis=1)
    sine2 = np.maximum(1.0 - cosine**2, 1e-12)
    k, k_before = (depth - cosine * depth_before) / sine2, (depth_before - cosine * depth) / sine2
    meeting = inward * k[:, None] + before * k_before[:, None]
    straight = (sine2 < 1e-6) & (cosine > 0)
    meeting[straight] = (inward * np.maximum(depth, depth_before)[:, None])[straight]
    most = 20 * np.maximum(depth, depth_before)
    far = np.hypot(meeting[:, 0], meeting[:, 1])
    meeting *= np.where(far > most, most / np.maximum(far, 1e-12), 1.0)[:, None]
    wedges = []
    for i, name in enumerate(names):
        if depth[i] < HAIR:
            continue
        j = (i + 1) % len(names)
        p, q, a, b = points[i], points[j], meeting[i] / depth[i], meeting[j] / depth[i]
        closing = float(np.dot(a - b, along[i]))  # how fast the two ends of the strip approach each other with its depth
        meet = length[i] / closing if closing > 1e-9 else np.inf
        corners = [p, q, p + a * meet] if meet <= depth[i] else [p, q, q + b * depth[i], p + a * depth[i]]
        wedge = Polygon(corners)
        wedges.append((name, wedge if wedge.is_valid else wedge.buffer(0)))
    return wedges


def _without_slivers(pieces: list[tuple[str, Polygon]]) -> list[tuple[str, Polygon]]:
    """Give pieces below the sliver size, or without an edge of their own, to the neighbour with the longest shared border."""
    done = sorted(pieces, key=lambda piece: piece[1].area)
    while len(done) > 1:
        small = next((i for i, (key, p) in enumerate(done) if (p.area < SLIVER_M2 or key == "") and not key.startswith("rest")), None)
        if small is None:
            break
        _, sliver = done.pop(small)
        borders = [sliver.boundary.intersection(p.boundary).length for _, p in done]
        best = int(np.argmax(borders))
        near = done[best][1].buffer(2 * HAIR, join_style="mitre").intersection(sliver)
        joined = polygons_of(shapely.union_all([done[best][1], sliver, near]))
        if borders[best] <= 0 or len(joined) != 1:
            done.append((f"rest{len(done)}", sliver))
            continue
        done[best] = (done[best][0], joined[0])
    return done


def _named(pieces: list[tuple[str, Polygon]]) -> list[Part]:
    """Sort for stable order, simplify doubled points away, and number pieces that share an edge's name."""
    pieces = sorted(pieces, key=lambda piece: (piece[0] == "core", piece[0], *np.round(piece[1].bounds, 3)))
    count: dict[str, int] = {}
    parts = []
    for key, polygon in pieces:
        count[key] = count.get(key, 0) + 1
        name = key if count[key] == 1 else f"{key}.{count[key]}"
        parts.append(Part(name, shapely.geometry.polygon.orient(polygon)))
    return parts
