"""Photovoltaic panels on a share of the roof."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import pvlib
from numpy.typing import NDArray

from eurythm.climate.year import HOURS, ClimateYear, Location
from eurythm.geometry.building import Building, Face
from eurythm.geometry.mesh import area_vector
from eurythm.model.plant import Photovoltaics
from eurythm.sun.caster import Points, cast
from eurythm.sun.obstacles import Obstacles, triangles_of
from eurythm.sun.radiation import FaceLight, sun_in_drawing

Series = NDArray[np.float64]
ROW_M, ROW_POINTS, ROWS_AHEAD, ROW_LENGTH_M = 1.1, 12, 4, 400.0
"""Height of a row up its slope (a module on its long side: our own assumption), points up it, rows before it, and their length."""
FLAT_SINE, LAID_FLAT = 0.01, 1e-3
"""Panels flatter than this, or as steep as their roof, stand in no rows."""
LEAST_SHARE = 1e-3
"""Module area per roof area below which rows stand a kilometre apart and shade nothing."""
LOSS_PER_K = 0.0035
"""Loss of crystalline modules per kelvin above 25 °C: order of size of data sheets (unverified)."""


@dataclass(frozen=True, eq=False)
class Generation:
    """Alternating-current output, W, (8760,), and the module area, m²."""

    output_w: Series
    module_area_m2: float


def roofs(building: Building) -> list[Face]:
    """Return the faces that look at the sky."""
    return [f for f in building.faces if f.kind == "ceiling" and f.boundary == "outdoors"]


PITCHED = float(np.cos(np.radians(5.0)))
"""Upward part of a roof's normal below which it is pitched: steeper than 5°."""


def panel_faces(building: Building, pv: Photovoltaics, north_deg: float) -> tuple[Face, ...]:
    """Return one panel per roof face, its normal by true tilt and azimuth; on a pitched roof panels lie in the slope."""
    if pv.roof_share <= 0:
        return ()
    tilt, azimuth = np.radians(pv.tilt_deg), np.radians(pv.azimuth_deg - north_deg)
    normal = np.array([np.sin(tilt) * np.sin(azimuth), np.sin(tilt) * np.cos(azimuth), np.cos(tilt)])
    return tuple(
        replace(f, id=f"panels/{f.id}", normal=np.round(normal if f.normal[2] > PITCHED else f.normal, 9)) for f in roofs(building)
    )


@dataclass(frozen=True, eq=False)
class Rows:
    """What rows of tilted panels leave each other: of the sun by the hour, (8760,), and of the light from everywhere else."""

    sun: Series
    diffuse: float


@lru_cache(maxsize=32)
def rows_shading(normal: tuple[float, float, float], share: float, north_deg: float, at: Location) -> Rows:
    """Return how endless rows of panels on a flat roof shade each other, cast from points up the slope of one of them.

    Parameters
    ----------
    normal : of the panels, in the drawing's axes
    share : module area per roof area, which sets the rows apart; never so close that they would overlap in plan
    north_deg : of the drawing
    """
    facing = np.array(normal)
    flat = np.hypot(facing[0], facing[1])
    hours, toward = sun_in_drawing(north_deg, at)
    sun = np.ones(HOURS)
    if flat < FLAT_SINE or share < LEAST_SHARE:
        return Rows(sun, 1.0)
    ahead = np.array([facing[0], facing[1], 0.0]) / flat
    along = np.array([-ahead[1], ahead[0], 0.0]) * ROW_LENGTH_M / 2
    uphill = np.cross(facing, np.cross(facing, [0.0, 0.0, -1.0]))
    uphill = uphill / np.linalg.norm(uphill) * (1.0 if uphill[2] > 0 else -1.0)
    pitch = max(ROW_M / share, ROW_M * float(facing[2]))
    places = (np.arange(ROW_POINTS) + 0.5) / ROW_POINTS * ROW_M
    points = Points(np.outer(places, uphill), facing)
    feet = [ahead * pitch * k for k in range(1, ROWS_AHEAD + 1)]
    rows = [triangles_of((np.array([f - along, f + along, f + along + uphill * ROW_M, f - along + uphill * ROW_M]),)) for f in feet]
    none = np.zeros((0, 3, 3))
    seen = cast(Obstacles(none, np.concatenate(rows), none), points, toward)
    sun[hours] = np.unpackbits(seen.sun, axis=1, count=len(toward)).mean(axis=0)
    return Rows(sun, float(seen.sky.sum() / (seen.sky + seen.blocked).sum()))


def generate(
    panels: tuple[Face, ...], light: dict[str, FaceLight], pv: Photovoltaics, climate: ClimateYear, north_deg: float
) -> Generation:
    """Return the panels' yearly output.

    Losses by the angle of incidence after De Soto et al. (2006) for the sun and Marion (2017) for the rest, module temperature after Faiman
    (2008), all through pvlib. Rows on flat roofs shade each other; what a shadow does within a module is left out.
    """
    output = np.zeros(HOURS)
    area = 0.0
    for panel in panels:
        here = light[panel.id]
        tilt = panel.tilt_deg
        beam, rest = here.wall_beam, here.wall - here.wall_beam
        if abs(float(panel.normal[2]) - _roof_normal(panel)) > LAID_FLAT:  # set up on the roof, not laid on it
            normal = (float(panel.normal[0]), float(panel.normal[1]), float(panel.normal[2]))
            rows = rows_shading(normal, round(pv.roof_share, 6), north_deg, climate.location)
            beam, rest = beam * rows.sun, rest * rows.diffuse
        by_angle = np.nan_to_num(pvlib.iam.physical(np.degrees(np.arccos(np.clip(here.cos_incidence, 0.0, 1.0)))))
        taken_in = beam * by_angle + rest * _diffuse_taken_in(round(tilt, 3))
        module_c = pvlib.temperature.faiman(taken_in, climate.air_c, climate["wind_speed_m_s"])
        efficiency = pv.module_efficiency * np.maximum(1 - LOSS_PER_K * (np.asarray(module_c) - 25.0), 0.0)
        own = min(panel.area * pv.roof_share, panel.area - panel.window_area)
        area += own
        output += taken_in * efficiency * own * (1 - pv.losses) * pv.inverter_efficiency
    return Generation(output, area)


def _roof_normal(panel: Face) -> float:
    """Upward part of the normal of the roof that a panel lies on."""
    vector = area_vector(panel.loops[0])
    return float(vector[2] / np.linalg.norm(vector))


@lru_cache(maxsize=64)
def _diffuse_taken_in(tilt_deg: float) -> float:
    """Share of even light from the sky before a panel that its glass takes in."""
    return float(pvlib.iam.marion_diffuse("physical", min(tilt_deg, 90.0))["sky"])
