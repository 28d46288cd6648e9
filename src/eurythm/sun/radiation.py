"""Sun and sky on every outdoor face, hour by hour."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
import pvlib
from numpy.typing import NDArray

from eurythm.climate.sunpath import SunPath, sun_of
from eurythm.climate.year import HOURS, MONTH_OF_HOUR, ClimateYear, Location
from eurythm.fabric.glass import angle_factor, diffuse_factor
from eurythm.geometry.building import Building, Face, Shade, Vec
from eurythm.geometry.outline import rotation
from eurythm.model.place import Place
from eurythm.sun.bounce import Bounce, given_back, look_round
from eurythm.sun.caster import FACES, Cast, Points, cast_all
from eurythm.sun.obstacles import obstacles_of
from eurythm.sun.profile import louvres_diffuse, louvres_free
from eurythm.sun.samples import FaceSamples, sample

Series = NDArray[np.float64]
PANEL_LIFT_M = 0.3
BESIDE_M = 0.5
"""A shade no further than this from a face hangs on it, whoever placed it."""


@dataclass(frozen=True, eq=False)
class SkyLight:
    """Hourly sky of a climate year after Perez et al. (1990), through pvlib; all (8760,), W/m².

    Diffuse light is divided into an isotropic part, a circumsolar part (per unit of ``max(0, cos i)``) and a horizon part
    (per unit of the sine of the tilt).
    """

    beam: Series
    isotropic: Series
    circumsolar: Series
    horizon: Series
    total_horizontal: Series


_SKY: dict[str, SkyLight] = {}


def sky_light(climate: ClimateYear) -> SkyLight:
    """Return the divided sky of a climate year; kept per year and place."""
    if climate.digest not in _SKY:
        if len(_SKY) > 16:
            _SKY.clear()
        _SKY[climate.digest] = _sky_light(climate, sun_of(climate.location))
    return _SKY[climate.digest]


def _sky_light(climate: ClimateYear, sun: SunPath) -> SkyLight:
    lit = sun.cos_zenith > 0
    beam = np.where(lit, climate["direct_normal_wh_m2"], 0.0)
    diffuse = np.where(lit, climate["diffuse_horizontal_wh_m2"], 0.0)
    zenith = np.degrees(np.arccos(np.clip(sun.cos_zenith, 0, 1)))
    azimuth = np.degrees(np.arctan2(sun.direction[:, 0], sun.direction[:, 1])) % 360
    airmass = np.nan_to_num(np.asarray(pvlib.atmosphere.get_relative_airmass(np.minimum(zenith, 89.9))), nan=30.0)
    parts = [
        pvlib.irradiance.perez(tilt, 180.0, diffuse, beam, sun.extraterrestrial, zenith, azimuth, airmass, return_components=True)
        for tilt in (0.0, 90.0)
    ]
    isotropic = np.clip(np.nan_to_num(np.asarray(parts[0]["poa_isotropic"], dtype=float)), 0.0, diffuse)
    horizon = np.nan_to_num(np.asarray(parts[1]["poa_horizon"], dtype=float))
    lowest = np.maximum(sun.cos_zenith, np.cos(np.radians(85.0)))
    circumsolar = (diffuse - isotropic) / lowest
    return SkyLight(beam, isotropic, circumsolar, horizon, diffuse + beam * sun.cos_zenith)


@dataclass(frozen=True, eq=False)
class FaceLight:
    """Light on one outdoor face.

    Attributes
    ----------
    wall : (8760,) W/m² on the opaque part, everything included; wall_beam : of it beam and circumsolar, shaded.
    beam : (8760,) W/m² of beam and circumsolar on the windows, shaded.
    diffuse : (8760,) W/m² of sky, ground and obstacles on the windows.
    cos_incidence : (8760,) of the sun on the face, 0 behind it.
    sky_view, glass_sky_view : share of the half-space before wall and windows that is open sky, for longwave exchange.
    """

    wall: Series
    wall_beam: Series
    beam: Series
    diffuse: Series
    cos_incidence: Series
    sky_view: float
    glass_sky_view: float
    _by_angle: dict[int, Series] = field(default_factory=dict, repr=False)
    _glazed: dict[int, Series] = field(default_factory=dict, repr=False)
    _absorbed: dict[float, Series] = field(default_factory=dict, repr=False)

    def on_glass(self, panes: int) -> Series:
        """Light on windows weighted by how a glazing of so many panes takes it in at its angle, (8760,) W/m²; kept by panes."""
        if panes not in self._glazed:
            if panes not in self._by_angle:
                self._by_angle[panes] = angle_factor(self.cos_incidence, panes)
            self._glazed[panes] = self.beam * self._by_angle[panes] + self.diffuse * diffuse_factor(panes)
        return self._glazed[panes]

    def veiled(self, closes_w_m2: float) -> Series:
        """How far blinds are down that the light on the windows closes, 0 to 1, (8760,).

        A ramp of a tenth around the threshold, so that no hour hangs on a rounding error.
        """
        veiled: Series = np.clip((self.beam + self.diffuse - closes_w_m2) / (0.1 * closes_w_m2 + 1.0) + 0.5, 0.0, 1.0)
        return veiled

    def absorbed(self, absorptance: float) -> Series:
        """Light that a wall of some absorptance takes in, (8760,) W/m²; kept, so that cases share what is alike in them."""
        if absorptance not in self._absorbed:
            self._absorbed[absorptance] = self.wall * absorptance
        return self._absorbed[absorptance]


@lru_cache(maxsize=16)
def _patched(north_deg: float, at: Location) -> tuple[SunPath, Vec]:
    """The sun path and its directions in the drawing's axes at sunlit hours."""
    sun = sun_of(at)
    lit = sun.direction[sun.up].copy()
    lit[:, :2] = lit[:, :2] @ rotation(-north_deg).T
    return sun, lit


def sun_in_drawing(north_deg: float, at: Location) -> tuple[NDArray[np.int64], Vec]:
    """Return the sunlit hours of the year, (S,), and unit vectors towards the sun in them, (S, 3), in the drawing's axes."""
    sun, lit = _patched(north_deg, at)
    return sun.up, lit


@lru_cache(maxsize=64)
def _incidence(normal: tuple[float, float, float], north_deg: float, at: Location) -> tuple[Series, Series, dict[int, Series]]:
    """Cosine of the angle at which the sun meets what looks one way, 0 behind it: in the sunlit hours, (S,), and over the year, (8760,);
    and room for what glazings make of it by their panes.
    """
    sun, lit = _patched(north_deg, at)
    facing = np.maximum(lit @ np.array(normal), 0.0)
    year = np.zeros(HOURS)
    year[sun.up] = facing
    return facing, year, {}


def light_on_faces(building: Building, place: Place, climate: ClimateYear) -> dict[str, FaceLight]:
    """Return the light on every outdoor face by its id.

    Beam and circumsolar light are shaded hour by hour with exact sun positions; diffuse light by 577 sky patches, the horizon's
    band by the lowest of them. What hides the sky and what lies below the horizon gives back what it receives itself (`sun.bounce`).
    """
    outdoor = [f for f in building.faces if f.boundary == "outdoors"]
    shaded = shaded_faces(outdoor, building.shades)
    return light_on(building, place, climate, [(f, sample(f, f.id in shaded)) for f in outdoor])


def light_on(building: Building, place: Place, climate: ClimateYear, looking: Sequence[tuple[Face, FaceSamples]]) -> dict[str, FaceLight]:
    """Return the light on faces, or on panels that look from points of their own, by id; see `light_on_faces`."""
    if not looking:
        return {}
    view = look(building, place, climate, [s.seen for _, s in looking])
    if view.dark:
        return {face.id: _unlit(face, points, k, view) for k, (face, points) in enumerate(looking)}
    parts = [(k, w, (1 - float(f.normal[2])) / 2) for k, (f, s) in enumerate(looking) for w in (s.wall, s.window)]
    hidden, below = view.bounced(parts, view.given_back)
    back = [(hidden[k : k + 2], below[k : k + 2]) for k in range(0, len(parts), 2)]
    return {face.id: _face_light(face, points, k, view, *back[k]) for k, (face, points) in enumerate(looking)}


def light_in_the_open(normal: Vec, place: Place, climate: ClimateYear) -> tuple[Series, Series]:
    """Return the light on a plane that nothing hides, over level ground, and what of it the ground gives back; (8760,) W/m² each."""
    sky = sky_light(climate)
    _, ahead, _ = _incidence((float(normal[0]), float(normal[1]), float(normal[2])), place.north_deg, climate.location)
    light = (sky.beam + sky.circumsolar) * ahead + sky.isotropic * (1 + normal[2]) / 2 + sky.horizon * float(np.hypot(normal[0], normal[1]))
    ground: Series = sky.total_horizontal * ground_reflectance(place) * (1 - normal[2]) / 2
    return np.maximum(light, 0.0) + ground, ground


def shaded_faces(faces: Sequence[Face], shades: Sequence[Shade]) -> set[str]:
    """Ids of the faces with windows that shades hang on, or stand right before."""
    found = {s.face for s in shades}
    boxes = [(s.corners.min(axis=0) - BESIDE_M, s.corners.max(axis=0) + BESIDE_M) for s in shades]
    for face in faces:
        if face.windows and face.id not in found:
            low, high = face.loops[0].min(axis=0), face.loops[0].max(axis=0)
            if any((low <= top).all() and (high >= foot).all() for foot, top in boxes):
                found.add(face.id)
    return found


@dataclass(frozen=True, eq=False)
class View:
    """What points on some faces see over a year.

    Attributes
    ----------
    casts : for each face, sun bits and form factors of its points
    bounce, given_back : what gives light back, and how much in each sunlit hour, (G, S) W/m²
    up : sunlit hours of the year, (S,)
    lit : unit vectors towards the sun in them, (S, 3)
    sky : the divided sky
    crown : light through crowns in the sunlit hours, (S,); None without trees
    where : true azimuth of the drawing's +Y, and the location
    """

    casts: tuple[Cast, ...]
    bounce: Bounce
    given_back: NDArray[np.float32]
    up: NDArray[np.int64]
    lit: Vec
    sky: SkyLight
    crown: Series | None
    where: tuple[float, Location]

    @property
    def dark(self) -> bool:
        """Whether no light comes from anywhere all year, such as on a heating design day."""
        return not self.sky.total_horizontal.any() and not self.sky.beam.any()

    @property
    def mean_crown(self) -> float:
        """Mean light through crowns; one without trees."""
        return 1.0 if self.crown is None else float(self.crown.mean())

    def open_sky(self, face: int) -> Series:
        """Form factors of free sky at the points of a face, crowns by what they let through on the mean."""
        open_sky: Series = self.casts[face].sky - self.casts[face].crowned * (1 - self.mean_crown)
        return open_sky

    def open_band(self, face: int) -> Series:
        """Share of the horizon's band that is free at the points of a face."""
        open_band: Series = self.casts[face].band - self.casts[face].band_crowned * (1 - self.mean_crown)
        return open_band

    def bounced(self, parts: Sequence[tuple[int, Vec, float]], given_back: NDArray[np.float32]) -> tuple[Series, Series]:
        """Light given back to parts of faces, (N, H) W/m²: for each unit of form factor that hides sky, and from below.

        Parameters
        ----------
        parts : for each part its face, the weights of the face's points in it, and the form factor of what lies below the horizon
        given_back : (G, H) what the groups give back in the hours that are asked for, or over them
        """
        shares = [self.bounce.shares(face, weights) for face, weights, _ in parts]
        both = np.concatenate([[above for above, _ in shares], [below * by for (_, by), (_, _, below) in zip(shares, parts, strict=True)]])
        # of all at once: what is given back is large, and is read once
        light: Series = (both.astype(np.float32) @ given_back).astype(np.float64)
        return light[: len(parts)], light[len(parts) :]


def look(building: Building, place: Place, climate: ClimateYear, faces: Sequence[Points]) -> View:
    """Cast from points on faces: what they see of sun, sky, ground and obstacles, and what light these give back."""
    sun, lit = _patched(place.north_deg, climate.location)
    sky = sky_light(climate)
    crown = crown_transmittance(place, climate.location.latitude_deg)[sun.up] if place.standing_trees else None
    obstacles = obstacles_of(building, place)
    bounce = look_round(obstacles, faces, place.ground_level_m)
    light = ((sky.beam + sky.circumsolar)[sun.up], sky.isotropic[sun.up], sky.horizon[sun.up])
    reflectances = ground_reflectance(place)[sun.up], place.obstacle_reflectance
    back = given_back(bounce, obstacles, lit, light, crown, reflectances) if any(of.any() for of in light) else NOTHING
    where = place.north_deg, climate.location
    return View(tuple(cast_all(obstacles, faces, lit, FACES)), bounce, back, sun.up, lit, sky, crown, where)


def crown_transmittance(place: Place, latitude: float) -> Series:
    """Mean light through the crowns that count by the hour of the year, (8760,); seasons are half a year later south of the equator."""
    shift = 0 if latitude >= 0 else 6
    month = (np.arange(12) + shift) % 12 + 1
    courses = []
    for t in place.standing_trees:
        first, last = t.leaf_first, t.leaf_last
        in_leaf = (month >= first) & (month <= last) if first <= last else (month >= first) | (month <= last)
        courses.append(np.where(in_leaf, t.leaf_transmittance, t.bare_transmittance))
    out: Series = np.mean(courses, axis=0)[MONTH_OF_HOUR]
    return out


def ground_reflectance(place: Place) -> Series:
    """Reflectance of the ground by the hour of the year, (8760,)."""
    months = place.ground_by_month
    return np.full(HOURS, place.ground_reflectance) if months is None else np.asarray(months)[MONTH_OF_HOUR]


def _face_light(face: Face, points: FaceSamples, number: int, view: View, hidden: Series, below: Series) -> FaceLight:
    """Light on a face by what is given back to its wall and its windows, (2, S) each: for each unit that hides sky, and from below."""
    seen, up, sky = view.casts[number], view.up, view.sky
    weights = np.stack([points.wall, points.window])
    clear, through_crowns = seen.lit(weights)
    sunlit = clear.copy() if through_crowns is None else clear + through_crowns * (1.0 if view.crown is None else view.crown)
    open_sky, band, blocked = weights @ view.open_sky(number), weights @ view.open_band(number), weights @ seen.blocked
    facing, cos_incidence, by_angle = _incidence(tuple(face.normal.tolist()), *view.where)
    direct = (sky.beam + sky.circumsolar)[up] * facing
    sine = float(np.hypot(face.normal[0], face.normal[1]))
    isotropic, horizon = sky.isotropic[up], sky.horizon[up]

    def diffuse(k: int) -> Series:
        """Everything but the sun itself on wall (0) or windows (1) in the sunlit hours."""
        light: Series = np.maximum(isotropic * open_sky[k] + horizon * (sine * band[k]), 0.0) + hidden[k] * blocked[k] + below[k]
        return light

    year = np.zeros((4, HOURS))
    wall_beam = sunlit[0] * direct
    year[0, up], year[1, up] = wall_beam + diffuse(0), wall_beam
    has_window = bool(points.window.any())
    if has_window:
        through_louvres = 1.0
        if face.louvres.depth > 0:
            sunlit[1] *= louvres_free(face.normal, view.lit, *face.louvres)
            through_louvres = louvres_diffuse(face.normal, *face.louvres)
        year[2, up], year[3, up] = sunlit[1] * direct, diffuse(1) * through_louvres
    return FaceLight(
        wall=year[0],
        wall_beam=year[1],
        beam=year[2],
        diffuse=year[3],
        cos_incidence=cos_incidence,
        sky_view=float(open_sky[0] if points.wall.any() else open_sky[1]),
        glass_sky_view=float(open_sky[1] if has_window else open_sky[0]),
        _by_angle=by_angle,
    )


def _unlit(face: Face, points: FaceSamples, number: int, view: View) -> FaceLight:
    """A face that only sees the sky."""
    none = np.zeros(HOURS)
    wall, window = (float(weights @ view.open_sky(number)) for weights in (points.wall, points.window))
    cos_incidence = _incidence(tuple(face.normal.tolist()), *view.where)[1]
    return FaceLight(none, none, none, none, cos_incidence, wall if points.wall.any() else window, window if points.window.any() else wall)


NOTHING = np.zeros((0, 0), dtype=np.float32)
PLANES = {"north": (0.0, 1.0, 0.0), "east": (1.0, 0.0, 0.0), "south": (0.0, -1.0, 0.0), "west": (-1.0, 0.0, 0.0), "level": (0.0, 0.0, 1.0)}
"""Outward normals of upright planes to each side, and of a level one."""


def monthly_on_planes(climate: ClimateYear, reflectance: float = 0.2) -> dict[str, list[float]]:
    """Return kWh/m2 by month on open upright planes to each side and on the level, the ground before them as given."""
    sun = sun_of(climate.location)
    sky = sky_light(climate)
    found = {}
    for name, normal in PLANES.items():
        ahead = np.maximum(sun.direction @ np.array(normal), 0.0)
        upright = normal[2] == 0
        light = (sky.beam + sky.circumsolar) * ahead + sky.isotropic * (0.5 if upright else 1.0)
        light = np.maximum(light + (sky.horizon if upright else 0.0), 0.0) + sky.total_horizontal * (reflectance / 2 if upright else 0.0)
        found[name] = [round(float(light[m == MONTH_OF_HOUR].sum()) / 1000, 2) for m in range(12)]
    return found
