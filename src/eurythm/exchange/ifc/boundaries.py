"""Space boundaries of an IFC model: faces of rooms as the file itself states them, with what lies beyond and the openings in them."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import ifcopenshell.util.placement as placement
import numpy as np
from shapely.geometry import Polygon

from eurythm.exchange.intake.received import ReceivedFace, ReceivedHole
from eurythm.geometry.building import Vec
from eurythm.geometry.loops import frame_of

COMPLETE = 0.03
"""How far the boundaries' area may be off that of the room's own faces for them to be used."""
BESIDE = 0.3
OPENINGS = ("IfcWindow", "IfcDoor", "IfcOpeningElement")


def stated_faces(space: Any, surface_m2: float, scale: float, shift: Vec, counterparts: bool) -> list[ReceivedFace] | None:
    """Return a room's faces by its second-level boundaries, or None where the file has none, or not all of them.

    Parameters
    ----------
    surface_m2 : area of the room's faces by its own form.
    counterparts : whether boundaries in this file name what corresponds to them on the other side.
    """
    sides: list[tuple[Any, Vec]] = []
    panes: list[tuple[Any, Vec]] = []
    for boundary in getattr(space, "BoundedBy", None) or ():
        if not _second_level(boundary):
            continue
        loop = _loop(boundary, space, scale, shift)
        if loop is None:
            return None
        element = boundary.RelatedBuildingElement
        opening = element is not None and any(element.is_a(kind) for kind in OPENINGS)
        (
            panes if opening and (getattr(boundary, "ParentBoundary", None) is not None or element.is_a() != "IfcOpeningElement") else sides
        ).append((boundary, loop))
    if not sides or abs(sum(_area(loop) for _, loop in sides) - surface_m2) > COMPLETE * surface_m2:
        return None
    faces = [_face(f"b{k + 1}", boundary, loop, counterparts) for k, (boundary, loop) in enumerate(sides)]
    for boundary, loop in panes:
        host = _host(boundary, loop, sides)
        if host is not None:
            element = boundary.RelatedBuildingElement
            kind = "door" if element.is_a("IfcDoor") else "window"
            corners = [(float(x), float(y), float(z)) for x, y, z in loop]
            faces[host].holes.append(ReceivedHole(id=element.GlobalId, name=str(element.Name or ""), kind=kind, loop=corners))
    return faces


def name_counterparts(model: Any) -> bool:
    """Tell whether any boundary of a model names its counterpart."""
    if str(model.schema) == "IFC2X3":
        return False
    return any(getattr(b, "CorrespondingBoundary", None) is not None for b in model.by_type("IfcRelSpaceBoundary2ndLevel"))


def open_pairs(model: Any) -> list[tuple[str, str]]:
    """Return pairs of rooms that only air parts: their virtual boundaries correspond, or share one virtual element."""
    pairs: list[tuple[str, str]] = []
    by_element: dict[int, list[str]] = {}
    for boundary in model.by_type("IfcRelSpaceBoundary"):
        space, element = boundary.RelatingSpace, boundary.RelatedBuildingElement
        if space is None or not space.is_a("IfcSpace") or not _virtual(boundary):
            continue
        beyond = getattr(boundary, "CorrespondingBoundary", None)
        if beyond is not None:
            pairs.append((space.GlobalId, beyond.RelatingSpace.GlobalId))
        elif element is not None:
            by_element.setdefault(element.id(), []).append(space.GlobalId)
    return pairs + [pair for spaces in by_element.values() for pair in pairwise(dict.fromkeys(spaces))]


def _virtual(boundary: Any) -> bool:
    element = boundary.RelatedBuildingElement
    return str(boundary.PhysicalOrVirtualBoundary or "") == "VIRTUAL" or (element is not None and element.is_a("IfcVirtualElement"))


def _second_level(boundary: Any) -> bool:
    return boundary.is_a("IfcRelSpaceBoundary2ndLevel") or str(boundary.Name or "").casefold() in ("2ndlevel", "2nd level")


def _face(name: str, boundary: Any, loop: Vec, counterparts: bool) -> ReceivedFace:
    side = str(boundary.InternalOrExternalBoundary or "")
    beyond = getattr(boundary, "CorrespondingBoundary", None)
    corners = [(float(x), float(y), float(z)) for x, y, z in loop]
    if beyond is not None:
        return ReceivedFace(id=name, loop=corners, boundary="zone", other=beyond.RelatingSpace.GlobalId, open=_virtual(boundary))
    if side == "EXTERNAL":
        return ReceivedFace(id=name, loop=corners, boundary="outdoors")
    if side.startswith("EXTERNAL_"):
        return ReceivedFace(id=name, loop=corners, boundary="ground")
    return ReceivedFace(id=name, loop=corners, boundary="adiabatic" if side == "INTERNAL" and counterparts else None)


def _host(boundary: Any, loop: Vec, sides: list[tuple[Any, Vec]]) -> int | None:
    parent = getattr(boundary, "ParentBoundary", None)
    for k, (side, _) in enumerate(sides):
        if parent is not None and side.id() == parent.id():
            return k
    middle = loop.mean(axis=0)
    for k, (_, face) in enumerate(sides):
        normal = _normal(face)
        if abs(float((middle - face[0]) @ normal)) > BESIDE:
            continue
        across, up = frame_of(normal)
        if (
            Polygon(np.column_stack([face @ across, face @ up]))
            .buffer(0.01)
            .covers(Polygon(np.column_stack([loop @ across, loop @ up])).centroid)
        ):
            return k
    return None


def _loop(boundary: Any, space: Any, scale: float, shift: Vec) -> Vec | None:
    """The polygon of a boundary in the world, m, looking out of its room; None for curved ones and those with holes."""
    geometry = boundary.ConnectionGeometry
    surface = getattr(geometry, "SurfaceOnRelatingElement", None)
    points: Vec | None = None
    if surface is not None and surface.is_a("IfcCurveBoundedPlane") and not surface.InnerBoundaries:
        flat = _polyline(surface.OuterBoundary)
        if flat is not None:
            matrix = placement.get_axis2placement(surface.BasisSurface.Position)
            points = np.column_stack([flat, np.zeros((len(flat), 4 - flat.shape[1] - 1)), np.ones(len(flat))]) @ matrix.T
            points = points[:, :3]
    elif surface is not None and surface.is_a("IfcSurfaceOfLinearExtrusion"):
        curve = getattr(surface.SweptCurve, "Curve", None)
        line = None if curve is None else _polyline(curve, closed=False)
        if line is not None and len(line) == 2:
            matrix = np.eye(4) if surface.Position is None else placement.get_axis2placement(surface.Position)
            way = np.array(surface.ExtrudedDirection.DirectionRatios, dtype=float)
            way = way / np.linalg.norm(way) * float(surface.Depth)
            foot = np.column_stack([line, np.zeros((len(line), 3 - line.shape[1]))])
            local = np.array([foot[0], foot[1], foot[1] + way, foot[0] + way])
            points = (np.column_stack([local, np.ones(4)]) @ matrix.T)[:, :3]
    if points is None or len(points) < 3:
        return None
    world = placement.get_local_placement(space.ObjectPlacement)
    out: Vec = (np.column_stack([points, np.ones(len(points))]) @ world.T)[:, :3] * scale - shift
    return np.round(out, 5)


def _polyline(curve: Any, closed: bool = True) -> Vec | None:
    if curve.is_a("IfcPolyline"):
        points = np.array([p.Coordinates for p in curve.Points], dtype=float)
    elif curve.is_a("IfcIndexedPolyCurve") and all(s.is_a("IfcLineIndex") for s in curve.Segments or ()):
        points = np.array(curve.Points.CoordList, dtype=float)
    else:
        return None
    if closed and len(points) > 1 and np.allclose(points[0], points[-1]):
        points = points[:-1]
    return points


def _normal(loop: Vec) -> Vec:
    vector = np.sum(np.cross(loop, np.roll(loop, -1, axis=0)), axis=0)
    out: Vec = vector / max(float(np.linalg.norm(vector)), 1e-12)
    return out


def _area(loop: Vec) -> float:
    return 0.5 * float(np.linalg.norm(np.sum(np.cross(loop, np.roll(loop, -1, axis=0)), axis=0)))
