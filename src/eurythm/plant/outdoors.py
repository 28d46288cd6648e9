"""The weather that plant works in."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.year import ClimateYear
from eurythm.plant.air_side import Outdoors

Series = NDArray[np.float64]


def wet_bulb_c(air_c: Series, humidity_pct: Series) -> Series:
    """Return the wet bulb by temperature and relative humidity near sea level, °C: Stull (2011), within 1 K (constants unverified)."""
    rh = np.clip(humidity_pct, 5.0, 99.0)
    out: Series = (
        air_c * np.arctan(0.151977 * np.sqrt(rh + 8.313659))
        + np.arctan(air_c + rh)
        - np.arctan(rh - 1.676331)
        + 0.00391838 * rh**1.5 * np.arctan(0.023101 * rh)
        - 4.686035
    )
    return np.minimum(out, air_c)


@lru_cache(maxsize=8)
def _year(climate: ClimateYear) -> Outdoors:
    humidity = climate["relative_humidity_pct"]
    return Outdoors(climate.air_c, climate.vapour_kg_kg, wet_bulb_c(climate.air_c, humidity), humidity)


def outdoors_of(climate: ClimateYear, span: slice = slice(None)) -> Outdoors:
    """Return the weather of some hours of a year."""
    whole = _year(climate)
    return Outdoors(whole.air_c[span], whole.vapour_kg_kg[span], whole.wet_bulb_c[span], whole.humidity_pct[span])
