"""Photovoltaic panels on a share of the roof."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import pvlib
from numpy.typing import NDArray

from eurythm.climate.year import HOURS, ClimateYear
from eurythm.geometry.building import Building, Face
from eurythm.model.scheme import Photovoltaics
from eurythm.sun.radiation import FaceLight

Series = NDArray[np.float64]
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


def generate(panels: tuple[Face, ...], light: dict[str, FaceLight], pv: Photovoltaics, climate: ClimateYear) -> Generation:
    """Return the panels' yearly output; module temperature after Faiman (2008), through pvlib."""
    output = np.zeros(HOURS)
    area = 0.0
    for panel in panels:
        on_panel = light[panel.id].wall
        module_c = pvlib.temperature.faiman(on_panel, climate.air_c, climate["wind_speed_m_s"])
        efficiency = pv.module_efficiency * np.maximum(1 - LOSS_PER_K * (np.asarray(module_c) - 25.0), 0.0)
        own = min(panel.area * pv.roof_share, panel.area - panel.window_area)
        area += own
        output += on_panel * efficiency * own * (1 - pv.losses) * pv.inverter_efficiency
    return Generation(output, area)
