"""What use asks of each zone, hour by hour: gains, fresh air and setpoints as the kernel wants them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.resolve import ZoneBrief
from eurythm.climate.year import HOURS

Series = NDArray[np.float64]
NO_HEATING, NO_COOLING = -273.0, 1000.0
RADIANT_SHARE = {"people": 0.5, "lighting": 0.6, "equipment": 0.3}
"""Radiant part of gains by kind, order of size of common use (unverified); that of fixed gains is given."""


@dataclass(frozen=True, eq=False)
class Demands:
    """Series of shape (Z, 8760).

    Attributes
    ----------
    gains : by kind, W: people, lighting, equipment, fixed
    fixed_radiant : radiant part of fixed gains, W
    convective, radiant : the two parts of all gains, W
    fresh_m3_s : mechanical outdoor air
    leak_m3_s : infiltration, or fixed air changes
    heat_c, cool_c : setpoints, °C; out of reach where a zone is not conditioned
    bypass_c : room temperature above which heat recovery is bypassed, °C
    open_c : room temperature above which windows open, °C
    moisture_kg_s : given off by people
    occupied : 1 while someone is there
    """

    gains: dict[str, Series]
    fixed_radiant: Series
    convective: Series
    radiant: Series
    fresh_m3_s: Series
    leak_m3_s: Series
    heat_c: Series
    cool_c: Series
    bypass_c: Series
    open_c: Series
    moisture_kg_s: Series
    occupied: Series


def demands_of(zones: tuple[ZoneBrief, ...], floor_area: Series, air_volume: Series) -> Demands:
    """Expand the briefs of all zones. Floor area and air volume are internal, (Z,) m² and m³."""
    per_m2 = np.array([z.gains_w is None for z in zones], dtype=float)[:, None] * floor_area[:, None]
    gains = {kind: np.stack([getattr(z, kind) for z in zones]) * per_m2 for kind in RADIANT_SHARE}
    gains["fixed"] = np.stack([np.zeros(HOURS) if z.gains_w is None else z.gains_w for z in zones])
    fixed_radiant = np.array([z.gains_radiant_share for z in zones])[:, None] * gains["fixed"]
    radiant = fixed_radiant.copy()
    for kind, share in RADIANT_SHARE.items():
        radiant += share * gains[kind]
    heat = np.stack([z.heating_c if z.conditioned else np.full(HOURS, NO_HEATING) for z in zones])
    cool = np.stack([z.cooling_c if z.conditioned else np.full(HOURS, NO_COOLING) for z in zones])
    return Demands(
        gains=gains,
        fixed_radiant=fixed_radiant,
        convective=sum(gains.values(), np.zeros_like(radiant)) - radiant,
        radiant=radiant,
        fresh_m3_s=np.stack([z.fresh_air for z in zones]) * floor_area[:, None] / 1000,
        leak_m3_s=np.stack([z.infiltration_ach for z in zones]) * air_volume[:, None] / 3600,
        heat_c=heat,
        cool_c=cool,
        bypass_c=(np.clip(heat, 15, 24) + np.clip(cool, 22, 30)) / 2,
        open_c=np.stack([z.open_c for z in zones]),
        moisture_kg_s=np.stack([z.moisture_g_h for z in zones]) * floor_area[:, None] / 3.6e6,
        occupied=np.stack([z.occupied for z in zones]).astype(float),
    )
