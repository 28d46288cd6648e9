"""Checks of what a file holds, each with a proposal: what to leave out, what to mend."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import MultiPoint, Polygon
from shapely.geometry.base import BaseGeometry

from eurythm.exchange.intake.received import Finding, Received, ReceivedElement, ReceivedSpace
from eurythm.model.amount import amount

TINY_M2, TINY_M3 = 0.5, 1.0
SHARED = 0.2
"""Share of the smaller of two spaces from which on they overlap, not touch."""
SHADOW_GRID = 1e-4
BESIDE = "it is left out; walls and slabs towards it are neither outside nor lose heat."
OUTDOORS = "outdoors"
"""Why a terrace or a parking place is left out."""


@dataclass
class Checked:
    """What the checks found, what they propose to leave out (reason by reference) and what to fill in."""

    findings: list[Finding] = field(default_factory=list)
    leave_out: dict[str, str] = field(default_factory=dict)
    storeys: dict[str, str] = field(default_factory=dict)

    def add(self, code: str, thing: str, sentence: str, mended: bool = False) -> None:
        """Note a finding."""
        self.findings.append(Finding(code=code, object=thing, sentence=sentence, mended=mended))


def check(received: Received, tested: set[str]) -> Checked:
    """Check spaces and elements; only those among `tested` (what would otherwise count) are looked at."""
    found = Checked()
    spaces = [s for s in received.spaces if s.id in tested]
    elements = [e for e in received.elements if e.id in tested]
    _doubled(spaces, elements, found)
    _forms(spaces, found)
    _overlaps([s for s in spaces if s.id not in found.leave_out and s.kind != "mass"], found)
    left = [s for s in spaces if s.id not in found.leave_out]
    _names([s for s in left if s.kind != "mass"], found)
    _storeys(received, left, found)
    for wall in elements:
        if wall.kind == "wall" and wall.external is None and wall.id not in found.leave_out:
            found.add("wall-without-side", wall.id, f"“{called(wall)}” does not say whether it is outside; contact decides.", True)
    return found


def called(thing: ReceivedSpace | ReceivedElement) -> str:
    """Name a thing for a sentence."""
    if isinstance(thing, ReceivedSpace):
        return " ".join(part for part in (thing.number, thing.name) if part) or thing.id
    return thing.tag or thing.name or thing.id


def plan_of(space: ReceivedSpace) -> BaseGeometry:
    """A space's plan: its rings where it is upright, else what its floors cover, m²."""
    if space.rings:
        return Polygon(space.rings[0], space.rings[1:]).buffer(0)
    loops = [np.asarray(f.loop) for f in space.faces]
    floors = [Polygon(p[:, :2]).buffer(0) for p in loops if np.cross(p[1] - p[0], p[2] - p[1])[2] < 0]
    return shapely.union_all(floors)


def levels_of(space: ReceivedSpace) -> tuple[float, float]:
    """Lowest and highest point of a space, m."""
    if space.rings:
        return space.level, space.level + space.height
    heights = [c[2] for f in space.faces for c in f.loop]
    return (min(heights), max(heights)) if heights else (0.0, 0.0)


def _doubled(spaces: list[ReceivedSpace], elements: list[ReceivedElement], found: Checked) -> None:
    seen: dict[object, str] = {}
    for element in elements:
        if not element.points:
            continue
        points = np.round(np.asarray(element.points), 2)
        key = (element.class_name, len(points), points[np.lexsort(points.T)].tobytes())
        if key in seen:
            found.leave_out[element.id] = "doubled"
            found.add("doubled-object", element.id, f"“{called(element)}” stands a second time in the same place; one is left out.", True)
        seen.setdefault(key, element.id)
    twins: dict[object, ReceivedSpace] = {}
    for space in spaces:
        box = tuple(np.round([*plan_of(space).bounds, *levels_of(space), space.floor_area_m2], 2))
        if space.faces and box in twins:
            found.leave_out[space.id] = "doubled"
            found.add("doubled-object", space.id, f"“{called(space)}” is the same room as “{called(twins[box])}”; one is left out.", True)
        twins.setdefault(box, space)


def _forms(spaces: list[ReceivedSpace], found: Checked) -> None:
    for space in spaces:
        if space.id in found.leave_out:
            continue
        if space.external:
            found.leave_out[space.id] = OUTDOORS
            found.add("space-outdoors", space.id, f"“{called(space)}” lies outdoors by the file; it is left out.", True)
        elif not space.faces:
            found.leave_out[space.id] = "without form"
            found.add("space-without-form", space.id, f"“{called(space)}” has no form; it is left out.")
        elif not space.closed:
            found.leave_out[space.id] = "not closed"
        elif space.floor_area_m2 < TINY_M2 or space.volume_m3 < TINY_M3:
            found.leave_out[space.id] = "tiny"
            found.add("space-tiny", space.id, f"“{called(space)}” has {amount(space.floor_area_m2, 'm²', 2)} of floor; {BESIDE}", True)


def _overlaps(spaces: list[ReceivedSpace], found: Checked) -> None:
    """Spaces over others: one that takes in several is a gross area; of two, the larger one is left out."""
    plans = [plan_of(s) for s in spaces]
    if not plans:
        return
    over: dict[int, set[int]] = defaultdict(set)
    for i, j in STRtree(plans).query(plans, predicate="intersects").T:
        if i < j:
            low_a, high_a = levels_of(spaces[i])
            low_b, high_b = levels_of(spaces[j])
            if min(high_a, high_b) - max(low_a, low_b) < 0.1:
                continue
            if shapely.intersection(plans[i], plans[j]).area > SHARED * min(plans[i].area, plans[j].area):
                over[int(i)].add(int(j))
                over[int(j)].add(int(i))
    while over:
        worst = max(over, key=lambda k: (len(over[k]), plans[k].area))
        others = over.pop(worst)
        space = spaces[worst]
        what = f"{len(others)} other rooms" if len(others) > 1 else f"“{called(spaces[next(iter(others))])}”"
        found.leave_out[space.id] = f"overlaps {what}"
        found.add(
            "space-overlaps", space.id, f"“{called(space)}” ({amount(plans[worst].area, 'm²', 0)}) lies over {what}; it is left out.", True
        )
        for other in others:
            over[other].discard(worst)
            if not over[other]:
                del over[other]


def _names(spaces: list[ReceivedSpace], found: Checked) -> None:
    for space in spaces:
        if not space.name:
            found.add("space-without-name", space.id, f"“{called(space)}” has no name; “{proposed_name(space)}” is proposed.", True)


def proposed_name(space: ReceivedSpace) -> str:
    """A name for a room without one: its use, else its number, else just a room."""
    return space.use or (f"Room {space.number}" if space.number else "Room")


def _storeys(received: Received, spaces: list[ReceivedSpace], found: Checked) -> None:
    known = {s.id: s for s in received.storeys}
    if not known or all(s.kind == "mass" for s in spaces):
        return
    for space in spaces:
        if space.storey not in known:
            low, _ = levels_of(space)
            nearest = min(received.storeys, key=lambda s: abs(s.elevation_m - low))
            found.storeys[space.id] = nearest.id
            found.add(
                "space-outside-storey", space.id, f"“{called(space)}” is in no storey; by its level it belongs to “{nearest.name}”.", True
            )


def footprint_of(element: ReceivedElement) -> BaseGeometry:
    """What an element covers in plan: the shadow of its triangles; that of its points where it has none."""
    points = np.asarray(element.points)[:, :2]
    if not element.triangles:
        return MultiPoint(points).convex_hull
    shadows = shapely.polygons(points[np.asarray(element.triangles)])
    shadows = shadows[shapely.area(shadows) > 1e-6]  # upright ones cast none
    return shapely.union_all(shadows, grid_size=SHADOW_GRID) if len(shadows) else MultiPoint(points).convex_hull
