"""Outlines of volumes: parametric forms and free polygons as rings of named edges."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError
from eurythm.model.scheme import Scheme
from eurythm.model.shape import CourtForm, Form, LForm, PolygonForm, Rectangle, TForm, UForm, Volume

Points = NDArray[np.float64]
MICRO = 1e-6


@dataclass(frozen=True)
class Outline:
    """A polygon in plan with one name per edge; ring 0 is the outer one (counter-clockwise), the others courtyards.

    Attributes
    ----------
    rings : tuple of (n, 2) arrays, m
    edges : tuple of tuples of str; ``edges[r][i]`` starts at ``rings[r][i]``
    """

    rings: tuple[Points, ...]
    edges: tuple[tuple[str, ...], ...]

    @property
    def polygon(self) -> Polygon:
        """The outline as a Shapely polygon, m."""
        return Polygon(self.rings[0], self.rings[1:])


def rotation(deg: float) -> Points:
    """Return the 2x2 matrix that turns plan points clockwise by `deg`; exact at right angles."""
    turns = deg / 90.0
    if turns == round(turns):
        c, s = ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[round(turns) % 4]
    else:
        c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    return np.array([[c, s], [-s, c]])


def _inside(form: Form, path: str, **parts: tuple[float, float]) -> None:
    for name, (part, whole) in parts.items():
        if part >= whole - 0.1:
            raise EurythmError(
                "form-part-too-wide",
                f"{name.replace('_', ' ')} {amount(part, 'm')} does not fit into {amount(whole, 'm')} of the form.",
                f"{path}/form/{name}",
            )


def corners(form: Form, path: str = "") -> tuple[list[list[tuple[float, float]]], list[list[str]]]:
    """Return the rings and edge ids of a form in its own axes. Raises EurythmError where its parts do not fit."""
    rings: list[list[tuple[float, float]]]
    if isinstance(form, PolygonForm):
        rings = [[(p.x, p.y) for p in ring] for ring in (form.points, *form.courts)]
        return rings, [[p.id for p in ring] for ring in (form.points, *form.courts)]
    length, depth = form.length, form.depth
    if isinstance(form, Rectangle):
        rings = [[(0, 0), (length, 0), (length, depth), (0, depth)]]
    elif isinstance(form, LForm):
        _inside(form, path, wing_length=(form.wing_length, length), wing_depth=(form.wing_depth, depth))
        a, b = form.wing_length, form.wing_depth
        rings = [[(0, 0), (length, 0), (length, b), (a, b), (a, depth), (0, depth)]]
    elif isinstance(form, TForm):
        _inside(form, path, stem_length=(form.stem_length, length), bar_depth=(form.bar_depth, depth))
        a, b = (length - form.stem_length) / 2, depth - form.bar_depth
        c = a + form.stem_length
        rings = [[(a, 0), (c, 0), (c, b), (length, b), (length, depth), (0, depth), (0, b), (a, b)]]
    elif isinstance(form, UForm):
        _inside(form, path, wing_length=(2 * form.wing_length, length), base_depth=(form.base_depth, depth))
        a, b = form.wing_length, form.base_depth
        rings = [[(0, 0), (length, 0), (length, depth), (length - a, depth), (length - a, b), (a, b), (a, depth), (0, depth)]]
    else:
        assert isinstance(form, CourtForm)
        _inside(form, path, court_length=(form.court_length, length), court_depth=(form.court_depth, depth))
        a, b = (length - form.court_length) / 2, (depth - form.court_depth) / 2
        court = [(a, b), (a, depth - b), (length - a, depth - b), (length - a, b)]
        rings = [[(0, 0), (length, 0), (length, depth), (0, depth)], court]
    names = [[f"{'e' if r == 0 else 'c'}{i + 1}" for i in range(len(ring))] for r, ring in enumerate(rings)]
    return rings, names


def oriented_ring(ring: Points, names: list[str], ccw: bool) -> tuple[Points, tuple[str, ...]]:
    """Return a ring with its edges' names, turned round where it runs the wrong way."""
    x, y = ring[:, 0], ring[:, 1]
    area = float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y)) / 2
    if (area > 0) == ccw:
        return ring, tuple(names)
    flipped = list(reversed(names))  # the edge that started at i now starts at its former end
    return ring[::-1].copy(), (*flipped[1:], flipped[0])


def form_outline(volume: Volume, path: str = "") -> Outline:
    """Return a volume's outline in its own axes.

    Raises
    ------
    EurythmError
        ``outline-crosses-itself``, ``outline-without-area`` or ``doubled-edge-id``, with the volume's path.
    """
    rings, names = corners(volume.form, path)
    everything = [n for ring in names for n in ring]
    if len(set(everything)) != len(everything):
        raise EurythmError("doubled-edge-id", "Two edges of this outline bear the same id.", f"{path}/form")
    own = [np.asarray(ring, dtype=float) for ring in rings]
    polygon = Polygon(own[0], own[1:])
    if not polygon.is_valid:
        reason = shapely.is_valid_reason(polygon)
        raise EurythmError(
            "outline-crosses-itself", f"The outline of “{volume.name or volume.id}” crosses or touches itself ({reason}).", f"{path}/form"
        )
    if polygon.area < 0.5:
        raise EurythmError("outline-without-area", f"The outline of “{volume.name or volume.id}” encloses no area.", f"{path}/form")
    pairs = [oriented_ring(ring, ids, ccw=i == 0) for i, (ring, ids) in enumerate(zip(own, names, strict=True))]
    return Outline(tuple(p for p, _ in pairs), tuple(n for _, n in pairs))


@dataclass(frozen=True)
class PlacedOutline:
    """A volume's outline in its own axes, and how it lies in the drawing: ``points @ turn.T + shift``."""

    own: Outline
    turn: Points
    shift: Points

    def place(self, points: Points) -> Points:
        """Return points of the volume's axes in the drawing's, rounded to a micrometre."""
        out: Points = np.round(points @ self.turn.T + self.shift, 6) + 0.0
        return out

    @property
    def placed(self) -> Outline:
        """The outline in the drawing's axes."""
        return Outline(tuple(self.place(ring) for ring in self.own.rings), self.own.edges)


def scheme_outlines(scheme: Scheme) -> dict[str, PlacedOutline]:
    """Return the outline of every volume, the scheme's turn applied.

    The scheme turns about its turning point, the middle (centroid) of its footprint unless given, so that it stays where it stands.
    """
    flat = _unturned(scheme)
    turn, middle = rotation(scheme.turn_deg), turning_point(scheme)
    return {name: PlacedOutline(o.own, turn @ o.turn, turn @ (o.shift - middle) + middle) for name, o in flat.items()}


def turning_point(scheme: Scheme) -> Points:
    """Return the point about which a scheme is turned, (2,) m: as given, else the middle of its footprint before it is turned."""
    if scheme.turned_about is not None:
        return np.array([scheme.turned_about.x, scheme.turned_about.y])
    plans = [o.placed.polygon for o in _unturned(scheme).values()]
    for zone in scheme.zones:
        if zone.box is not None:
            plans.append(shapely.box(zone.box.x, zone.box.y, zone.box.x + zone.box.length, zone.box.y + zone.box.depth))
        elif zone.outline is not None:
            plans.append(Polygon([(p.x, p.y) for p in zone.outline.points]).buffer(0))
        else:
            plans.append(shapely.MultiPoint([c[:2] for face in zone.faces for c in face.corners]).convex_hull)
    plans = [p for p in plans if p.area > 0]
    return np.asarray(shapely.union_all(plans).centroid.coords[0]) if plans else np.zeros(2)


def _unturned(scheme: Scheme) -> dict[str, PlacedOutline]:
    return {v.id: PlacedOutline(form_outline(v, f"volumes/{v.id}"), rotation(v.turn_deg), np.array([v.x, v.y])) for v in scheme.volumes}
