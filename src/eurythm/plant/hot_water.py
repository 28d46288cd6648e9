"""Hot water: what is drawn, what is lost in store and pipes, and what heats it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.systems import WaterBrief

Series = NDArray[np.float64]
WATER_J_LK = 4186.0


@dataclass(frozen=True, eq=False)
class HotWaterYear:
    """Heat for hot water, (H,) W: drawn, lost from the store, lost in circulation, and what the sun gives of it."""

    drawn_w: Series
    stored_w: Series
    circulated_w: Series
    sun_w: Series

    @property
    def asked_w(self) -> Series:
        """What its source gives."""
        return self.drawn_w + self.stored_w + self.circulated_w - self.sun_w


def drawn_w(litres_h: Series, rise_k: float) -> Series:
    """Return the heat in water drawn, W, from litres an hour."""
    return litres_h * (WATER_J_LK * rise_k / 3600.0)


def hot_water_year(litres_h: Series, spared: Series, rise_k: float, water: WaterBrief) -> HotWaterYear:
    """Return what hot water asks; a store and pipes lose nothing where nobody draws any all year.

    Parameters
    ----------
    spared : share of what is drawn that the sun heats
    """
    drawn = drawn_w(litres_h, rise_k)
    any_drawn = bool(drawn.max(initial=0.0) > 0)
    stored = np.full_like(drawn, water.storage_loss_kwh_day * 1000.0 / 24.0 * any_drawn)
    return HotWaterYear(drawn, stored, np.full_like(drawn, water.circulation_share * float(drawn.mean())), drawn * spared)
