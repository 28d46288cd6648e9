"""Emission and distribution: heat and cold on their way from sources to rooms, and the temperature of their water."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.systems import EmissionBrief

Series = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class WaterSide:
    """What sources are asked, (H,) each.

    Attributes
    ----------
    heat_w, cold_w : heat and cold that sources give, with what is lost on the way, W
    heat_lost_w, cold_lost_w : of it lost and not recovered, W
    flow_c, return_c : heating water, °C
    cold_flow_c : cooling water, °C
    pump_w : electricity of pumps, W
    """

    heat_w: Series
    cold_w: Series
    heat_lost_w: Series
    cold_lost_w: Series
    flow_c: Series
    return_c: Series
    cold_flow_c: float
    pump_w: Series


def heating_curve(emission: EmissionBrief, outdoor_c: Series, design_c: float) -> Series:
    """Return the temperature of the heating water, °C: as on the coldest day there, falling to the least where heating ends."""
    span = max(emission.ends_above_c - design_c, 1.0)
    part = np.clip((emission.ends_above_c - outdoor_c) / span, 0.0, 1.0)
    out: Series = emission.least_flow_c + part * (emission.flow_c - emission.least_flow_c)
    return out


def distribute(
    heat_w: Series, cold_w: Series, emission: EmissionBrief, outdoor_c: Series, design_c: float, design_heat_w: float
) -> WaterSide:
    """Carry heat and cold to the rooms.

    Of what rooms get a share is lost on the way, and of that a share helps the rooms all the same, so that sources give
    ``1 + loss * (1 - recovered)`` times what rooms get. The return is cooler the less is taken, in proportion to the design load.

    Parameters
    ----------
    design_c : outdoor temperature of the coldest day
    design_heat_w : heat that is asked there
    """
    lost = emission.loss_share * (1.0 - emission.recovered_share)
    flow_c = heating_curve(emission, outdoor_c, design_c)
    load = np.clip(heat_w / max(design_heat_w, 1e-9), 0.0, 1.0)
    return WaterSide(
        heat_w=heat_w * (1 + lost), cold_w=cold_w * (1 + lost), heat_lost_w=heat_w * lost, cold_lost_w=cold_w * lost, flow_c=flow_c,
        return_c=flow_c - (emission.flow_c - emission.return_c) * load, cold_flow_c=emission.cold_flow_c, pump_w=emission.pump_share * (heat_w + cold_w),
    )  # fmt: skip
