"""Lights that follow daylight: what their control leaves on."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from eurythm.daylight.illuminance import Illuminance
from eurythm.model.library import LightControl

Series = NDArray[np.float64]
RAMP = 0.05
"""Switching is spread over this part of its illuminance to either side: within an hour light passes it at some time, and no hour hangs on a rounding error."""


def power_share(lux: Series, control: LightControl) -> Series:
    """Return the share of their full power at which lights burn beside some daylight.

    Dimmed ones burn fully up to one illuminance and at their least from another on, linear in between (the idea of EN 15193-1,
    unverified); in steps, equal parts go out one after another up to the illuminance that is enough.
    """
    if control.kind == "none":
        return np.ones_like(lux)
    if control.kind == "dimmed":
        way = np.clip((lux - control.full_lx) / (control.enough_lx - control.full_lx), 0.0, 1.0)
        dimmed: Series = 1.0 - way * (1.0 - control.least_share)
        return dimmed
    count = control.steps if control.kind == "stepped" else 1
    off = [np.clip((lux / (control.enough_lx * (k + 1) / count) - 1.0) / (2 * RAMP) + 0.5, 0.0, 1.0) for k in range(count)]
    switched: Series = 1.0 - np.mean(off, axis=0)
    return switched


def left_on(zones: Sequence[str], controls: Sequence[LightControl], light: Illuminance) -> Series:
    """Return what their control leaves on of the lights of each zone, (Z, 8760); lights that no sensor rules burn as they are asked to."""
    left = np.ones((len(zones), light.lux.shape[1]))
    index = {zone: k for k, zone in enumerate(zones)}
    for sensor, lux in zip(light.sensors, light.lux, strict=True):
        left[index[sensor.zone]] -= sensor.share * (1.0 - power_share(lux, controls[index[sensor.zone]]))
    return left
