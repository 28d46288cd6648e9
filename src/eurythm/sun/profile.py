"""Angles of the sun against a wall, and what overhangs, fins and louvres without end do at them (closed form)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from eurythm.geometry.building import Vec
from eurythm.sun.caster import sky_patches

Series = NDArray[np.float64]


def profile_tangent(normal: Vec, toward_sun: Vec) -> Series:
    """Tangent of the vertical shadow angle of the sun on an upright wall, (S,); infinite where the sun is not in front of it.

    The angle between the horizontal and the sun, seen along the wall: an overhang of depth D throws a shadow of D times this.
    """
    ahead = toward_sun @ normal
    with np.errstate(divide="ignore", invalid="ignore"):
        out: Series = np.where(ahead > 1e-9, toward_sun[:, 2] / ahead, np.inf)
    return out


def side_tangent(normal: Vec, toward_sun: Vec) -> Series:
    """Tangent of the horizontal shadow angle, (S,), positive for sun from the right seen from outside; infinite behind the wall."""
    ahead = toward_sun @ normal
    right = np.cross([0.0, 0.0, 1.0], normal)
    with np.errstate(divide="ignore", invalid="ignore"):
        out: Series = np.where(ahead > 1e-9, toward_sun @ right / ahead, np.inf)
    return out


def shaded_by_overhang(tangent: Series, depth: float, above: float, height: float) -> Series:
    """Share of a window shaded by an overhang without end, 0 to 1: `above` over the head, m; the window `height` m tall."""
    with np.errstate(invalid="ignore"):
        drop = np.where(np.isinf(tangent), np.inf, depth * np.maximum(tangent, 0.0))
    out: Series = np.clip((drop - above) / height, 0.0, 1.0)
    return out


def shaded_by_fins(tangent: Series, depth: float, beside: float, width: float) -> Series:
    """Share of a window shaded by fins on both its sides, tall without end; `beside` its edges, m; the window `width` m wide."""
    with np.errstate(invalid="ignore"):
        reach = np.where(np.isinf(tangent), np.inf, depth * np.abs(tangent))
    out: Series = np.clip((reach - beside) / width, 0.0, 1.0)
    return out


def louvres_free(normal: Vec, toward_sun: Vec, depth: float, spacing: float, crossed: bool = False) -> Series:
    """Share of the sun that passes horizontal, dark louvres without end, (S,); crossed by upright ones as far apart, an egg-crate."""
    free = 1.0 - shaded_by_overhang(profile_tangent(normal, toward_sun), depth, 0.0, spacing)
    if crossed:
        free = free * (1.0 - shaded_by_fins(side_tangent(normal, toward_sun), depth, 0.0, spacing))
    return free


def louvres_diffuse(normal: Vec, depth: float, spacing: float, crossed: bool = False) -> float:
    """Share of even light from before an upright wall that passes the same louvres; light from below is cut as that from above."""
    directions, angles = sky_patches()
    facing = np.maximum(directions @ normal, 0.0) * angles
    return float(facing @ louvres_free(normal, directions, depth, spacing, crossed) / facing.sum())
