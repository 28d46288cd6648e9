"""Which operative temperatures are comfortable in each zone."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.resolve import ZoneBrief
from eurythm.climate.year import ClimateYear
from eurythm.model.project import Factors

Series = NDArray[np.float64]
PER_K, AT_ZERO_C, RANGE_C = 0.33, 18.8, (10.0, 30.0)
"""Comfortable operative temperature by the running mean of outdoor temperature (EN 16798-1, annex B, unverified)."""
ABOVE_K = 3.0
"""Width of the adaptive band upward, category II (unverified)."""


@dataclass(frozen=True, eq=False)
class Limits:
    """Comfort limits of all zones.

    Attributes
    ----------
    warm_c : (Z,) too warm above, °C; where `adapts` is one, K above the adaptive temperature of the day
    adapts : (Z,) one where the upper limit follows the outdoor temperature, else zero
    cold_c : (Z,) too cold below, °C
    """

    warm_c: Series
    adapts: Series
    cold_c: Series

    def too_warm_above(self, adaptive_c: Series) -> Series:
        """Return the upper limits by the hour, (Z, 8760) °C."""
        above: Series = self.warm_c[:, None] + self.adapts[:, None] * adaptive_c
        return above


def limits_of(zones: tuple[ZoneBrief, ...], factors: Factors) -> Limits:
    """Return each zone's limits: its profile's own range, else the project's; adaptive upward where it is not cooled."""
    adapts = np.array([float(not z.cooled) for z in zones])
    warm = [factors.too_warm_c if z.profile.comfort_high_c is None else z.profile.comfort_high_c for z in zones]
    cold = [factors.too_cold_c if z.profile.comfort_low_c is None else z.profile.comfort_low_c for z in zones]
    return Limits(np.where(adapts > 0, ABOVE_K, warm), adapts, np.array(cold, dtype=float))


def adaptive_c(climate: ClimateYear) -> Series:
    """Return the adaptive temperature by the hour, °C, (8760,)."""
    course: Series = PER_K * np.clip(climate.running_mean_c, *RANGE_C) + AT_ZERO_C
    return course
