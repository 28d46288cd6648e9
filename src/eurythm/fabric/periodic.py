"""A construction under a daily swing: heat capacity, decrement and time shift (ISO 13786)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.fabric.opaque import STANDARD_FILMS, BuildUp
from eurythm.model.library import Element

DAY_S = 86400.0
DEEPEST = 60.0
"""Beyond this many penetration depths nothing of a swing is left; numbers stay finite."""
Matrix = NDArray[np.complex128]


@dataclass(frozen=True)
class Periodic:
    """What a sine of one day does to a construction.

    Attributes
    ----------
    inside_kj_m2k, outside_kj_m2k : areal heat capacity seen from either side
    transmittance : periodic thermal transmittance, W/m2K
    decrement : periodic over steady transmittance, 0 to 1
    shift_h : by how much the inner flow lags behind the outer temperature
    """

    inside_kj_m2k: float
    outside_kj_m2k: float
    transmittance: float
    decrement: float
    shift_h: float


def layer_matrix(resistance: float, capacity: float, period_s: float = DAY_S) -> Matrix:
    """Heat transfer matrix of one layer, (2, 2), from temperature and flow at one side to those at the other.

    Parameters
    ----------
    resistance : m2K/W
    capacity : areal, J/m2K; a layer without one only resists
    """
    if resistance * capacity < 1e-9:
        return np.array([[1, -resistance], [0, 1]], dtype=complex)
    depth = (1 + 1j) * np.sqrt(np.pi * resistance * capacity / period_s)  # (1 + j) times thickness over penetration depth
    bounded = min(depth.real, DEEPEST) * (1 + 1j)
    cosh, sinh = np.cosh(bounded), np.sinh(bounded)
    return np.array([[cosh, -resistance / depth * sinh], [-depth / resistance * sinh, cosh]])


def periodic(made: BuildUp, element: Element, period_s: float = DAY_S) -> Periodic:
    """Return how a construction answers a sine, with standard films (ISO 13786, clause 7; unverified)."""
    outside, inside = STANDARD_FILMS[element]
    whole: Matrix = layer_matrix(inside, 0.0)
    for resistance, capacity in reversed(made.layers):
        whole = layer_matrix(resistance, capacity, period_s) @ whole
    whole = layer_matrix(outside, 0.0) @ whole
    (z11, z12), (_, z22) = whole
    through = -1 / z12
    steady = 1 / (outside + made.resistance + inside)
    lag = -np.angle(through) % (2 * np.pi)
    return Periodic(
        inside_kj_m2k=float(period_s / (2 * np.pi) * abs((z11 - 1) / z12)) / 1000,
        outside_kj_m2k=float(period_s / (2 * np.pi) * abs((z22 - 1) / z12)) / 1000,
        transmittance=float(abs(through)),
        decrement=float(min(abs(through) / steady, 1.0)),
        shift_h=float(lag / (2 * np.pi) * period_s / 3600) if abs(through) < steady * (1 - 1e-12) else 0.0,
    )
