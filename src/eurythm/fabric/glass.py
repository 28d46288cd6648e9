"""Glazing: how the solar factor falls with the angle of incidence."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Series = NDArray[np.float64]
SECONDARY_SHARE = 0.10
"""Part of the g-value that enters as heat given off by the inner pane, not as light: our own assumption."""


def angle_factor(cos_incidence: Series, panes: int, category: float = 4.0) -> Series:
    """Solar factor over its value at normal incidence.

    Polynomial in the angle over 90 degrees by Karlsson and Roos (2000), Solar Energy 69; `category` 4 is uncoated or
    low-emissive float glass (coefficients unverified).
    """
    z = np.arccos(np.clip(cos_incidence, 0.0, 1.0)) / (np.pi / 2)
    a, b = 8.0, 0.25 / category
    c = 1.0 - a - b
    alpha = 5.2 + 0.7 * category
    gamma = (5.26 + 0.06 * panes) + (0.73 + 0.04 * panes) * category
    out: Series = np.clip(1.0 - a * z**alpha - b * z**2 - c * z**gamma, 0.0, 1.0)
    return out


@lru_cache(maxsize=16)
def diffuse_factor(panes: int) -> float:
    """Hemispherical mean of `angle_factor` under uniform light."""
    angle = (np.arange(900) + 0.5) * (np.pi / 2 / 900)
    weight = np.sin(angle) * np.cos(angle)
    return float(np.sum(angle_factor(np.cos(angle), panes) * weight) / np.sum(weight))


def with_blinds(g_value: float, u_value: float, place: str, transmittance: float, reflectance: float) -> float:
    """Total solar factor of a glazing with its blinds closed.

    The simplified method of EN ISO 52022-1 (EN 13363-1; constants 5, 10 and 30 W/m²K unverified).

    Parameters
    ----------
    g_value, u_value : of the glazing alone
    place : "inside" or "outside"
    transmittance, reflectance : of the blind for the sun; what is left it absorbs
    """
    absorptance = max(1.0 - transmittance - reflectance, 0.0)
    if place == "outside":
        through = 1.0 / (1.0 / u_value + 1.0 / 5.0 + 1.0 / 10.0)
        total = transmittance * g_value + absorptance * through / 10.0 + transmittance * (1.0 - g_value) * through / 5.0
    else:
        through = 1.0 / (1.0 / u_value + 1.0 / 30.0)
        total = g_value * (1.0 - g_value * reflectance - absorptance * through / 30.0)
    return min(max(total, 0.0), g_value)
