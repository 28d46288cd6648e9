"""Irradiation on faces, point by point on a grid: sums over any hours, means, the strongest hour; hours of direct sun on a date."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import pandas as pd
import pvlib
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from eurythm.climate.sunpath import YEAR
from eurythm.climate.year import HOURS, ClimateYear, Location
from eurythm.geometry.building import Building, Face, Vec
from eurythm.geometry.outline import rotation
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.model.scheme import SunPicture
from eurythm.sun.bits import sum_of_bits
from eurythm.sun.caster import Cast, Points, cast_all
from eurythm.sun.obstacles import obstacles_of
from eurythm.sun.radiation import View, crown_transmittance, look

Series = NDArray[np.float64]
MOST_POINTS = 60_000
DATE_STEP_MIN = 10


@dataclass(frozen=True, eq=False)
class Grid:
    """Cells on one flat face.

    Attributes
    ----------
    face : the face
    base, along, upward : the plane: a corner below and left of the face, unit vectors, (3,)
    step : width and height of a cell, m
    shape : columns, rows
    cells : (n, 2) column and row of the cells that lie on the face, at least in part
    points : (n, 3) middle of each cell's part on the face
    areas : (n,) of these parts, m2
    """

    face: Face
    base: Vec
    along: Vec
    upward: Vec
    step: tuple[float, float]
    shape: tuple[int, int]
    cells: NDArray[np.int64]
    points: Vec
    areas: Vec

    @property
    def seen(self) -> Points:
        """The points as rays leave them."""
        return Points(np.round(self.points, 6), self.face.normal)


def grid_on(face: Face, spacing_m: float) -> Grid:
    """Lay a grid on a face; its cells are as near to the spacing as the face's size allows."""
    along = face.along if abs(float(np.dot(face.along, face.normal))) < 1e-6 else np.array([1.0, 0.0, 0.0])
    upward: Vec = np.cross(face.normal, along)
    rings = [np.column_stack([(loop - face.loops[0][0]) @ along, (loop - face.loops[0][0]) @ upward]) for loop in face.loops]
    flat = Polygon(rings[0], rings[1:]).buffer(0)
    x0, y0, x1, y1 = flat.bounds
    columns, rows = (max(1, round(size / spacing_m)) for size in (x1 - x0, y1 - y0))
    step = ((x1 - x0) / columns, (y1 - y0) / rows)
    i, j = (a.ravel() for a in np.meshgrid(np.arange(columns), np.arange(rows), indexing="ij"))
    boxes = shapely.box(x0 + i * step[0], y0 + j * step[1], x0 + (i + 1) * step[0], y0 + (j + 1) * step[1])
    parts = boxes if abs(flat.area - (x1 - x0) * (y1 - y0)) < 1e-6 * flat.area else shapely.intersection(boxes, flat)
    areas = shapely.area(parts)
    on = areas > 1e-3 * step[0] * step[1]
    middles = shapely.get_coordinates(shapely.centroid(parts[on]))
    inside = shapely.contains_xy(flat, middles)
    if not inside.all():  # a part bent round a corner
        middles[~inside] = shapely.get_coordinates(shapely.point_on_surface(parts[on][~inside]))
    base = face.loops[0][0] + along * x0 + upward * y0
    points = face.loops[0][0] + np.outer(middles[:, 0], along) + np.outer(middles[:, 1], upward)
    return Grid(face, base, along, upward, step, (columns, rows), np.column_stack([i, j])[on], points, areas[on])


@dataclass(frozen=True, eq=False)
class Seen:
    """What the grids of some faces see of sun, sky and what gives light back; one grid a face, in the order of the view's."""

    grids: tuple[Grid, ...]
    view: View


def refuse_too_fine(area_m2: float, spacing_m: float, most: int) -> None:
    """Refuse a grid of more points than are worked out at once.

    Raises
    ------
    EurythmError
        ``too-fine``
    """
    count = area_m2 / spacing_m**2
    if count > most:
        raise EurythmError(
            "too-fine", f"A grid of {amount(spacing_m, 'm')} makes about {count:,.0f} points; stay below {most:,}.", "spacing_m"
        )


def see(building: Building, place: Place, climate: ClimateYear, faces: Sequence[Face], spacing_m: float) -> Seen:
    """Cast sun and sky from grids on faces.

    Raises
    ------
    EurythmError
        ``no-faces`` where none is chosen, ``too-fine`` where the grid has more points than are worked out at once.
    """
    if not faces:
        raise EurythmError("no-faces", "No face under the open sky fits this choice.", "faces")
    refuse_too_fine(sum(face.area for face in faces), spacing_m, MOST_POINTS)
    grids = tuple(grid_on(face, spacing_m) for face in faces)
    return Seen(grids, look(building, place, climate, [g.seen for g in grids]))


@dataclass(frozen=True, eq=False)
class Irradiation:
    """What falls on each cell of one face.

    Attributes
    ----------
    grid : the face and its cells
    values : (n,) kWh/m2, W/m2 for a mean or the strongest hour
    mean : of the face, weighted by area
    hour : hour of the year in which the face as a whole gets most, for the strongest hour; else None
    """

    grid: Grid
    values: Series
    mean: float
    hour: int | None


def irradiation(seen: Seen, hours: NDArray[np.bool_], measure: str = "sum") -> list[Irradiation]:
    """Return what falls on each face over some hours of the year.

    Beam and circumsolar light by exact hourly sun, the rest by the sky's patches, ground and obstacles as in
    `eurythm.sun.radiation`; the sky after Perez et al. (1990). What gives light back is that of the face as a whole.

    Parameters
    ----------
    hours : (8760,) which hours count
    measure : ``sum`` (kWh/m2), ``mean`` (W/m2 over the hours, dark ones among them) or ``strongest`` (W/m2 in the hour of
        the face's highest mean)

    Raises
    ------
    EurythmError
        ``no-hours`` where no hour is chosen.
    """
    if not hours.any():
        raise EurythmError("no-hours", "No hour of the year lies in this span.", "hours")
    columns = np.flatnonzero(hours[seen.view.up])
    given_back = seen.view.given_back[:, columns]
    if measure != "strongest":
        given_back = given_back.sum(axis=1, keepdims=True)
    return [_of_face(seen, k, hours, columns, measure, given_back) for k in range(len(seen.grids))]


def _of_face(
    seen: Seen, k: int, hours: NDArray[np.bool_], columns: NDArray[np.int64], measure: str, given_back: NDArray[np.float32]
) -> Irradiation:
    grid, view = seen.grids[k], seen.view
    seen_here, sky, normal = view.casts[k], view.sky, grid.face.normal
    weights = grid.areas / grid.areas.sum()
    open_sky, band, blocked = view.open_sky(k), view.open_band(k), seen_here.blocked
    hidden, below = (course[0] for course in view.bounced([(k, weights, (1 - normal[2]) / 2)], given_back))
    at = view.up[columns]
    sine = float(np.hypot(normal[0], normal[1]))
    direct = (sky.beam + sky.circumsolar)[at] * np.maximum(view.lit[columns] @ normal, 0.0)
    isotropic, horizon = sky.isotropic[at], sky.horizon[at] * sine
    if measure == "strongest":
        bits = _bits(seen_here, view.crown, columns)
        course = (weights.astype(np.float32) @ bits) * direct
        course = course + np.maximum(isotropic * float(weights @ open_sky) + horizon * float(weights @ band), 0)
        course = course + hidden * float(weights @ blocked) + below
        if not len(course):
            return Irradiation(grid, np.zeros(len(grid.points)), 0.0, None)
        best = int(course.argmax())
        values = bits[:, best] * direct[best] + np.maximum(isotropic[best] * open_sky + horizon[best] * band, 0)
        values = values + hidden[best] * blocked + below[best]
        return Irradiation(grid, values, float(weights @ values), int(at[best]))
    course = np.zeros(len(view.up))
    course[columns] = direct
    total = _summed(seen_here, view.crown, course) + np.maximum(isotropic.sum() * open_sky + horizon.sum() * band, 0.0)
    total = total + hidden * blocked + below
    values = total / 1000 if measure == "sum" else total / hours.sum()
    return Irradiation(grid, values, float(weights @ values), None)


def _summed(seen: Cast, crown: Series | None, course: Series) -> Series:
    """Sum what comes straight from the sun over the sunlit hours at each point, (P,), from the packed bits, eight hours at a time."""
    if crown is None:
        return sum_of_bits(seen.sun, course)
    return sum_of_bits(seen.sun & seen.crown_free, course) + sum_of_bits(seen.sun & ~seen.crown_free, course * crown)


def _bits(seen: Cast, crown: Series | None, columns: NDArray[np.int64]) -> NDArray[np.float32]:
    """Part of the sun that meets each point in some sunlit hours, (P, len(columns))."""
    if len(columns) == 0:
        return np.zeros((len(seen.sun), 0), dtype=np.float32)
    first, last = int(columns[0]) // 8, int(columns[-1]) // 8 + 1
    wanted = columns - first * 8

    def unpacked(packed: NDArray[np.uint8]) -> NDArray[np.uint8]:
        whole = np.unpackbits(packed[:, first:last], axis=1)
        return whole[:, : wanted[-1] + 1] if len(wanted) == wanted[-1] + 1 else whole[:, wanted]

    sees = unpacked(seen.sun).astype(np.float32)
    if crown is not None:
        sees *= np.where(unpacked(seen.crown_free), np.float32(1.0), crown[columns].astype(np.float32))
    return sees


def day_of_sun(at: Location, north_deg: float, day: int, step_min: int = DATE_STEP_MIN) -> tuple[Series, Vec]:
    """Return the hours of a day at which the sun is up, at even steps, and unit vectors towards it in the drawing's axes."""
    middle = (np.arange(0, 1440, step_min) + step_min / 2) / 60
    stamps = np.datetime64(f"{YEAR}-01-01T00:00") + ((day * 24 + middle - at.time_zone_h) * 3600).astype("timedelta64[s]")
    position = pvlib.solarposition.ephemeris(pd.DatetimeIndex(stamps).tz_localize("UTC"), at.latitude_deg, at.longitude_deg)
    height, azimuth = np.radians(position["elevation"].to_numpy()), np.radians(position["azimuth"].to_numpy())
    vectors = np.stack([np.cos(height) * np.sin(azimuth), np.cos(height) * np.cos(azimuth), np.sin(height)], axis=1)
    vectors[:, :2] = vectors[:, :2] @ rotation(-north_deg).T
    return middle[height > 0], vectors[height > 0]


def direct_hours(building: Building, place: Place, at: Location, grids: Sequence[Grid], day: int) -> list[Series]:
    """Return the hours of direct sun on a date at each cell of each grid, clear sky taken; crowns count as what they let through."""
    _, toward = day_of_sun(at, place.north_deg, day)
    if len(toward) == 0:
        return [np.zeros(len(g.points)) for g in grids]
    casts = cast_all(obstacles_of(building, place), [Points(g.points, g.face.normal) for g in grids], toward)
    through = crown_transmittance(place, at.latitude_deg)[day * 24 + 12] if place.standing_trees else 1.0
    out = []
    for grid, seen in zip(grids, casts, strict=True):
        sun = np.unpackbits(seen.sun, axis=1, count=len(toward)).astype(float)
        free = np.unpackbits(seen.crown_free, axis=1, count=len(toward))
        ahead = toward @ grid.face.normal > 1e-3
        out.append((sun * np.where(free, 1.0, through))[:, ahead].sum(axis=1) * DATE_STEP_MIN / 60)
    return out


def hours_between(first_day: int, last_day: int, first_hour: int, last_hour: int) -> NDArray[np.bool_]:
    """The hours of days of the year and hours of the day, first to last, both within; days may pass New Year. (8760,)."""
    day, hour = np.divmod(np.arange(HOURS), 24)
    in_days = (day >= first_day) & (day <= last_day) if first_day <= last_day else (day >= first_day) | (day <= last_day)
    out: NDArray[np.bool_] = in_days & (hour >= first_hour) & (hour <= last_hour)
    return out


KINDS = {"wall": "wall", "roof": "ceiling", "floor": "floor"}


def faces_of(building: Building, picture: SunPicture, north_deg: float) -> list[Face]:
    """Return the faces under the open sky that a picture shows: by kind, walls by the quarter of the compass that they look to."""
    kinds = {KINDS[k] for k in picture.kinds}
    return [
        f
        for f in building.faces
        if f.boundary == "outdoors"
        and f.kind in kinds
        and (f.kind != "wall" or not picture.orientations or f.orientation(north_deg) in picture.orientations)
    ]


def taken(picture: SunPicture, building: Building, place: Place, climate: ClimateYear, seen: Seen) -> list[Irradiation]:
    """Return what a picture shows of faces that `see` looked from; hours of direct sun are those of its first day.

    Raises
    ------
    EurythmError
        ``wrong-span`` where its last hour lies before the first.
    """
    if picture.first_hour > picture.last_hour:
        raise EurythmError("wrong-span", "The last hour of the day lies before the first.", "span/last_hour")
    if picture.measure == "direct_hours":
        values = direct_hours(building, place, climate.location, seen.grids, picture.first_day)
        return [Irradiation(g, v, float(g.areas @ v / g.areas.sum()), None) for g, v in zip(seen.grids, values, strict=True)]
    hours = hours_between(picture.first_day, picture.last_day, picture.first_hour, picture.last_hour)
    return irradiation(seen, hours, picture.measure)
