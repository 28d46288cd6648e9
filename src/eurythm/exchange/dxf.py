"""DXF plans: what is drawn, by layer, to trace over; closed outlines and texts, to take rooms from at once."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import BaseModel
from shapely import STRtree, make_valid
from shapely.geometry import Point, Polygon
from shapely.geometry.polygon import orient

from eurythm.exchange.drawing import Drawing, DrawnLayer, DrawnOutline, DrawnText
from eurythm.geometry.clean import polygons_of
from eurythm.geometry.loops import straightened
from eurythm.model.errors import EurythmError

Progress = Callable[[float, str], None]
UNITS: dict[int, tuple[str, float]] = {
    1: ("in", 0.0254), 2: ("ft", 0.3048), 4: ("mm", 0.001), 5: ("cm", 0.01), 6: ("m", 1.0), 14: ("dm", 0.1),
}  # fmt: skip
MOST_BYTES = 150_000_000
MOST_SEGMENTS = 400_000
FAR_M = 4000.0
FLAT = 0.01
SAG = 3.5e-4
"""How far chords may lie off their arc, by its extent: a circle of them lacks less than 0.1% of its area."""
NUMBER = re.compile(r"^[A-Za-z]{0,3}[\d]+([.\-/]\d+[a-z]?)*$")
FIGURE = re.compile(r"^[\d.,\s]+\s*(m2|m²|qm|sqft|ft²|m)?$", re.IGNORECASE)


def read_dxf(path: Path, name: str, progress: Progress = lambda share, what: None) -> Drawing:
    """Read a plan.

    Raises
    ------
    EurythmError
        ``empty-file``, ``too-large``, ``not-dxf`` or ``nothing-drawn``.
    """
    size = path.stat().st_size
    if size == 0:
        raise EurythmError("empty-file", f"“{name}” is empty.", name)
    if size > MOST_BYTES:
        raise EurythmError("too-large", f"“{name}” has {size / 1e6:.0f} MB; up to {MOST_BYTES / 1e6:.0f} MB are read.", name)
    document = _opened(path, name)
    progress(0.3, "lines")
    segments: dict[str, list[np.ndarray[Any, Any]]] = {}
    outlines: list[tuple[str, np.ndarray[Any, Any]]] = []
    texts: list[tuple[str, str, float, float]] = []
    count = 0
    for layer, entity in _entities(document):
        kind = entity.dxftype()
        if kind in ("TEXT", "MTEXT", "ATTRIB"):
            said = entity.plain_text() if kind != "ATTRIB" else entity.dxf.text
            at = _place(entity, kind)
            if said and at is not None and np.all(np.isfinite(tuple(at))):
                texts += [(layer, line.strip()[:120], float(at[0]), float(at[1])) for line in str(said).splitlines() if line.strip()]
            continue
        points, closed = _points(entity, kind)
        if len(points) < 2 or not np.all(np.isfinite(points)):
            continue
        ring = np.vstack([points, points[:1]]) if closed else points
        segments.setdefault(layer, []).append(np.hstack([ring[:-1], ring[1:]]))
        count += len(ring) - 1
        if count > MOST_SEGMENTS:
            raise EurythmError("too-large", f"“{name}” has more than {MOST_SEGMENTS:,} lines; switch layers off and save it again.", name)
        if closed and len(points) >= 3:
            outlines.append((layer, points))
    if not segments:
        raise EurythmError("nothing-drawn", f"“{name}” holds no lines in its model space.", name)
    return _drawing(name, document, segments, outlines, texts)


def _opened(path: Path, name: str) -> Any:
    import ezdxf
    import ezdxf.recover

    try:
        return ezdxf.readfile(str(path))
    except (OSError, ezdxf.DXFError, ValueError, KeyError, IndexError, TypeError, AttributeError, RecursionError):
        pass  # what is damaged may still be recovered, which takes longer
    try:
        document, auditor = ezdxf.recover.readfile(str(path))
    except (OSError, ezdxf.DXFError, ValueError, KeyError, IndexError, TypeError, AttributeError, RecursionError) as fault:
        raise EurythmError("not-dxf", f"“{name}” cannot be read as DXF: {fault!s:.140}.", name) from None
    if not len(document.modelspace()):
        why = f"{auditor.errors[0].message:.140}" if auditor.has_errors else "it seems to be cut off, and nothing of it could be recovered"
        raise EurythmError("not-dxf", f"“{name}” is damaged: {why}.", name)
    return document


def _entities(document: Any) -> Iterable[tuple[str, Any]]:
    """Everything in model space with its layer, blocks taken apart; what a block has on layer 0 lies on the layer that it stands on."""
    from ezdxf import DXFError, disassemble

    for entity in document.modelspace():
        own = str(entity.dxf.get("layer", "0"))[:200]
        if entity.dxftype() != "INSERT":
            yield own, entity
            continue
        try:
            parts = list(disassemble.recursive_decompose([entity]))
        except (DXFError, RecursionError):
            continue
        for part in parts:
            layer = str(part.dxf.get("layer", "0"))[:200]
            yield own if layer == "0" else layer, part


def _place(entity: Any, kind: str) -> Any:
    """Where a text stands in the drawing; all but those of several lines have axes of their own."""
    at = entity.dxf.get("insert")
    return at if at is None or kind == "MTEXT" else entity.ocs().to_wcs(at)


def _points(entity: Any, kind: str) -> tuple[np.ndarray[Any, Any], bool]:
    """The corners of an entity, (n, 2), and whether it closes."""
    from ezdxf import DXFError, disassemble

    nothing = np.zeros((0, 2))
    try:
        if kind == "LINE":
            start, end = entity.dxf.start, entity.dxf.end
            return np.array([[start.x, start.y], [end.x, end.y]]), False
        if kind == "LWPOLYLINE" and not entity.has_arc:
            points = np.array([v.vec2 for v in entity.vertices_in_wcs()], dtype=float).reshape(-1, 2)
            closed = bool(entity.closed)
        elif kind in ("LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE"):
            primitive = disassemble.make_primitive(entity)
            if primitive.path is None:
                return nothing, False
            corners = np.array([tuple(v) for v in primitive.path.control_vertices()])[:, :2]
            extent = max(float(np.ptp(corners, axis=0).max()), 1e-6)
            points = np.array([v.vec2 for v in primitive.path.flattening(extent * SAG)], dtype=float).reshape(-1, 2)
            closed = bool(getattr(entity, "closed", False) or getattr(entity, "is_closed", False) or kind == "CIRCLE")
        else:
            return nothing, False
    except (DXFError, ValueError, TypeError, AttributeError, ZeroDivisionError):
        return nothing, False
    if len(points) > 2 and np.allclose(points[0], points[-1], rtol=0, atol=1e-6 * max(1.0, float(np.ptp(points)))):
        return points[:-1], True
    return points, closed and len(points) > 2


def _drawing(
    name: str, document: Any, segments: dict[str, list[np.ndarray[Any, Any]]], outlines: list[tuple[str, np.ndarray[Any, Any]]],
    texts: list[tuple[str, str, float, float]],
) -> Drawing:  # fmt: skip
    everything = np.concatenate([np.concatenate(parts) for parts in segments.values()]).reshape(-1, 2)
    unit, metres = UNITS.get(int(document.header.get("$INSUNITS", 0) or 0), (None, 0.0))
    low, high = everything.min(axis=0), everything.max(axis=0)
    most = np.percentile(everything, [1, 99], axis=0)
    if np.any(high - low > 3 * (most[1] - most[0])):  # a stray line far off
        low, high = most
    guessed = unit is None
    if guessed:
        wide = float(np.max(high - low))
        metres = 0.001 if wide > 3000 else 0.01 if wide > 700 else 1.0
    middle = (low + high) / 2
    shift = np.floor(middle) if np.linalg.norm(middle) * metres > FAR_M else np.zeros(2)
    layers = []
    for layer in sorted(segments):
        flat = np.concatenate(segments[layer]) - np.tile(shift, 2)
        layers.append(
            DrawnLayer(
                name=layer,
                segments=np.round(flat, 4).ravel().tolist(),
                closed=sum(o == layer for o, _ in outlines),
                texts=sum(t[0] == layer for t in texts),
            )
        )
    known = {layer.name for layer in layers}
    for layer in sorted({t[0] for t in texts} - known):
        layers.append(DrawnLayer(name=layer, segments=[], closed=0, texts=sum(t[0] == layer for t in texts)))
    (x0, y0), (x1, y1) = (low - shift).tolist(), (high - shift).tolist()
    return Drawing(
        name=name, unit=unit, metres=metres, guessed=guessed, moved=(-float(shift[0]), -float(shift[1])), bounds=(x0, y0, x1, y1),
        layers=layers, outlines=[DrawnOutline(layer=o, points=[(float(x), float(y)) for x, y in np.round(p - shift, 4)]) for o, p in outlines],
        texts=[DrawnText(layer=la, text=t, x=round(x - float(shift[0]), 4), y=round(y - float(shift[1]), 4)) for la, t, x, y in texts],
    )  # fmt: skip


class FoundRoom(BaseModel):
    """A room that a closed outline and the texts in it make, in the drawing's units."""

    points: list[tuple[float, float]]
    number: str
    name: str


def rooms_of(drawing: Drawing, layer: str, texts: Iterable[str] | None = None) -> tuple[list[FoundRoom], list[str]]:
    """Return rooms from the closed outlines of a layer, with what was passed over.

    Parameters
    ----------
    texts : layers whose texts name the rooms; all where None. A text that looks like a number is the room's number, one
        that looks like an area is passed over, the rest is its name.

    Raises
    ------
    EurythmError
        ``no-outlines`` where the layer has none.
    """
    remarks: list[str] = []
    shapes: list[Polygon] = []
    for outline in (o for o in drawing.outlines if o.layer == layer):
        whole = Polygon(outline.points)
        parts = [whole] if whole.is_valid else polygons_of(make_valid(whole))
        if not whole.is_valid:
            remarks.append("An outline that crosses itself was mended.")
        for part in parts:
            if part.area * drawing.metres**2 < 0.5:
                continue
            if any(part.symmetric_difference(s).area < 0.01 * part.area for s in shapes):
                remarks.append("An outline that stands twice was taken once.")
                continue
            shapes.append(straightened(orient(part)))
    if not shapes:
        raise EurythmError("no-outlines", f"Layer “{layer}” holds no closed outline; choose another, or trace over it.", layer)
    inside = [k for k, s in enumerate(shapes) if sum(s.contains(o.representative_point()) for j, o in enumerate(shapes) if j != k) >= 2]
    if inside:
        remarks.append(f"{len(inside)} outlines that hold several others were passed over: they look like gross areas.")
    shapes = [s for k, s in enumerate(shapes) if k not in inside]
    tree = STRtree(shapes)
    said: dict[int, list[str]] = {}
    wanted = None if texts is None else set(texts)
    for text in drawing.texts:
        if wanted is None or text.layer in wanted:
            for k in tree.query(Point(text.x, text.y), predicate="within"):
                said.setdefault(int(k), []).append(text.text)
    rooms = []
    for k, polygon in enumerate(shapes):
        words = [w for w in said.get(k, []) if not FIGURE.match(w) or NUMBER.match(w)]
        number = next((w for w in words if NUMBER.match(w)), "")
        name = " ".join(w for w in words if w != number and not NUMBER.match(w))[:120]
        rooms.append(
            FoundRoom(points=[(float(x), float(y)) for x, y in np.asarray(polygon.exterior.coords)[:-1]], number=number, name=name)
        )
    rooms.sort(key=lambda r: (r.number or "~", -r.points[0][1], r.points[0][0]))
    return rooms, list(dict.fromkeys(remarks))
