"""Light of a climate year: sun and sky in lux, by the file's own illuminance where it is plausible."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.year import ClimateYear
from eurythm.sun.radiation import sky_light

Series = NDArray[np.float64]
DIFFUSE_LM_W, BEAM_LM_W = 110.0, 105.0
"""Luminous efficacy where the file says nothing: our own assumption."""
PLAUSIBLE = (60.0, 180.0)
"""Efficacy by which a file's illuminance is believed, lm/W."""
LEAST_W = 20.0
"""Hours with less sun than this say nothing about it, W/m²."""


@dataclass(frozen=True, eq=False)
class Lux:
    """Sun and sky in lux, (8760,): sun with what surrounds it at normal incidence, the even part of the sky and the horizon's band.

    `source` tells where efficacies come from: "file", "file, hundreds of lux" or "assumed".
    """

    sun: Series
    even: Series
    band: Series
    source: str


@lru_cache(maxsize=4)
def light_of(climate: ClimateYear) -> Lux:
    """Return sun and sky of a climate year in lux; efficacies hour by hour by the file's columns, else constant."""
    sky = sky_light(climate)
    diffuse, by_sky = _by_hour(climate, "diffuse_illuminance_lx", "diffuse_horizontal_wh_m2", DIFFUSE_LM_W)
    beam, by_sun = _by_hour(climate, "direct_illuminance_lx", "direct_normal_wh_m2", BEAM_LM_W)
    source = by_sky if by_sky == by_sun else "assumed"
    if source == "assumed":
        diffuse, beam = np.full_like(diffuse, DIFFUSE_LM_W), np.full_like(beam, BEAM_LM_W)
    return Lux(sky.beam * beam + sky.circumsolar * diffuse, sky.isotropic * diffuse, sky.horizon * diffuse, source)


def _by_hour(climate: ClimateYear, lux: str, watts: str, assumed: float) -> tuple[Series, str]:
    """Efficacy by the hour, lm/W, and where it is from; hours that say nothing have the file's median."""
    records = climate.records
    told, power = np.asarray(records.get(lux, np.zeros(len(climate[watts])))), climate[watts]
    counts = (power >= LEAST_W) & (told > 0) & (told < 999_900)
    if counts.sum() < 0.5 * max(int((power >= LEAST_W).sum()), 1):
        return np.full(len(power), assumed), "assumed"
    ratio = told[counts] / power[counts]
    for factor, source in ((1.0, "file"), (100.0, "file, hundreds of lux")):
        usual = float(np.median(ratio)) * factor
        if PLAUSIBLE[0] <= usual <= PLAUSIBLE[1]:
            found = np.full(len(power), usual)
            found[counts] = np.clip(ratio * factor, 0.5 * usual, 1.5 * usual)
            return found, source
    return np.full(len(power), assumed), "assumed"
