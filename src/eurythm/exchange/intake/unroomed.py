"""Zones for models without rooms: what walls enclose, or the whole outline of a storey."""

from __future__ import annotations

from collections import defaultdict

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from eurythm.exchange.intake.checks import footprint_of
from eurythm.exchange.intake.received import Kind, Received, ReceivedElement, ReceivedFace, ReceivedSpace
from eurythm.geometry.clean import polygons_of
from eurythm.geometry.loops import straightened

CLOSE = 0.06
LEAST_M2 = 1.5
ENCLOSES: frozenset[Kind] = frozenset({"wall", "curtain_wall", "window", "door", "column"})
SLABS: frozenset[Kind] = frozenset({"slab", "roof"})


def rooms_from_walls(received: Received) -> list[ReceivedSpace]:
    """Return a room for each area that the walls of a storey enclose, from its floor to the top of its walls."""
    rooms = []
    for storey, walls in _by_storey(received, ENCLOSES).items():
        solid = shapely.union_all([footprint_of(w).buffer(CLOSE, join_style="mitre") for w in walls])
        filled = shapely.union_all([Polygon(p.exterior) for p in polygons_of(solid)])
        enclosed = polygons_of(filled.difference(solid))  # what stands free within a room is cut out of it
        low, high = _span([w for w in walls if w.kind == "wall"] or walls)
        plans = [p.buffer(CLOSE, join_style="mitre") for p in enclosed]
        rooms += _rooms(storey, [p for p in plans if p.area >= LEAST_M2 and not _courtyard(p, received, low)], low, high)
    return rooms


def rooms_from_outline(received: Received) -> list[ReceivedSpace]:
    """Return one room a storey, over all that its walls and slabs cover."""
    rooms = []
    for storey, things in _by_storey(received, ENCLOSES | SLABS).items():
        walls = [t for t in things if t.kind == "wall"] or things
        whole = shapely.union_all([footprint_of(t).buffer(CLOSE, join_style="mitre") for t in walls]).buffer(-CLOSE, join_style="mitre")
        plans = [_filled(p, received, _span(walls)[0]) for p in polygons_of(whole)]
        rooms += _rooms(storey, [p for p in plans if p.area >= LEAST_M2], *_span(walls))
    return rooms


def _filled(plan: Polygon, received: Received, low: float) -> Polygon:
    """A plan without its holes, but for courtyards."""
    holes = [Polygon(ring) for ring in plan.interiors]
    return Polygon(plan.exterior, [h.exterior.coords for h in holes if h.area >= LEAST_M2 and _courtyard(h, received, low)])


def _by_storey(received: Received, kinds: frozenset[Kind]) -> dict[str | None, list[ReceivedElement]]:
    found: dict[str | None, list[ReceivedElement]] = defaultdict(list)
    for element in received.elements:
        if element.kind in kinds and element.points:
            found[element.storey].append(element)
    return found


def _span(things: list[ReceivedElement]) -> tuple[float, float]:
    heights = np.array([[min(p[2] for p in t.points), max(p[2] for p in t.points)] for t in things])
    return float(np.median(heights[:, 0])), float(np.median(heights[:, 1]))


def _courtyard(plan: Polygon, received: Received, low: float) -> bool:
    """An enclosed area with no slab under or over it lies under the sky."""
    slabs = [e for e in received.elements if e.kind in SLABS and e.points]
    if not slabs:
        return False
    middle = plan.representative_point()
    return not any(_covers(e, middle) for e in slabs)


def _covers(element: ReceivedElement, point: BaseGeometry) -> bool:
    corners = np.asarray(element.points)[:, :2][np.asarray(element.triangles)]
    return bool(shapely.intersects(shapely.polygons(corners), point).any())


def _rooms(storey: str | None, plans: list[Polygon], low: float, high: float) -> list[ReceivedSpace]:
    rooms = []
    for k, plan in enumerate(sorted(plans, key=lambda p: (round(p.centroid.y, 1), p.centroid.x))):
        turned = shapely.geometry.polygon.orient(straightened(shapely.set_precision(plan, 1e-4)))
        rings = [[(float(x), float(y)) for x, y in np.asarray(r.coords)[:-1]] for r in (turned.exterior, *turned.interiors)]
        floor = ReceivedFace(id="floor", loop=[(x, y, low) for x, y in reversed(rings[0])])
        rooms.append(
            ReceivedSpace(
                id=f"made-{storey or 'none'}-{k + 1}",
                kind="room",
                class_name="Room",
                name=f"Room {k + 1}",
                storey=storey,
                faces=[floor],
                rings=rings,
                level=low,
                height=high - low,
                volume_m3=plan.area * (high - low),
                floor_area_m2=plan.area,
            )
        )
    return rooms
