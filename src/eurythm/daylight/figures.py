"""What a year's illuminance amounts to in the hours in which someone is there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Series = NDArray[np.float64]
TARGET_LX = 300.0
USEFUL_LX = (100.0, 3000.0)
"""Illuminance that is wanted, and the range in which daylight is useful: usual values (unverified)."""


@dataclass(frozen=True)
class DaylightYear:
    """Of one place: mean illuminance by day, hours a year above the target, and shares of the occupied hours above it, in the useful range and beyond."""

    mean_lx: float
    hours_above_target: int
    autonomy: float
    useful: float
    beyond_useful: float


def year_of(lux: Series, occupied: NDArray[np.bool_], target_lx: float = TARGET_LX) -> DaylightYear:
    """Return the figures of a place's year; without occupied hours its shares are zero.

    Parameters
    ----------
    lux : (8760,)
    occupied : (8760,) whether someone is there
    """
    count, own, lit = max(int(occupied.sum()), 1), lux[occupied], lux[lux > 0]
    return DaylightYear(
        mean_lx=float(lit.mean()) if len(lit) else 0.0,
        hours_above_target=int((lux >= target_lx).sum()),
        autonomy=int((own >= target_lx).sum()) / count,
        useful=int(((own >= USEFUL_LX[0]) & (own <= USEFUL_LX[1])).sum()) / count,
        beyond_useful=int((own > USEFUL_LX[1]).sum()) / count,
    )
