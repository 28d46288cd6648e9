"""Glazing: how the solar factor falls with the angle of incidence."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from eurythm.fabric.panes import glass_account
from eurythm.model.library import Glazing

Series = NDArray[np.float64]
INWARD = {1: (0.853, 0.027, 0.50, 0.26), 2: (0.790, 0.050, 0.90, 0.14), 3: (0.676, 0.141, 0.50, 0.24)}
"""By panes: g of clear glass, the inward share there, by how much it grows as g falls, and at most. Our own fit to stacks of the
shipped panes after EN 410 (within 0.05)."""


def inward_share(glazing: Glazing) -> float:
    """Part of the g-value that enters as heat of the inner pane, not as light.

    From what the glass is built of (EN 410), else from its panes and g-value.
    """
    if glazing.g_value <= 0:
        return 0.0
    if glazing.build is not None:
        built = glass_account(glazing.build)
        return 1.0 - built.direct / built.g if built.g > 0 else 0.0
    clear, least, grows, most = INWARD[min(glazing.panes, 3)]
    return float(np.clip(least + grows * (clear - glazing.g_value), 0.005, most))


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
