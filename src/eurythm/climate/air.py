"""Moist air and sky: the few correlations that weather needs."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

STEFAN_BOLTZMANN = 5.670374e-8

Series = NDArray[np.float64]


def saturation_pa(air_c: Series) -> Series:
    """Saturation vapour pressure over water, Pa (Magnus form; ISO 13788, annex E constants, unverified)."""
    out: Series = 610.5 * np.exp(17.269 * air_c / (237.3 + air_c))
    return out


def dew_point_c(air_c: Series, humidity_pct: Series) -> Series:
    """Dew point, °C, by the inverse of the Magnus form."""
    ratio = np.log(np.maximum(saturation_pa(air_c) * humidity_pct / 100.0, 1.0) / 610.5)
    out: Series = 237.3 * ratio / (17.269 - ratio)
    return out


def sky_infrared(air_c: Series, dew_c: Series, cloud_tenths: Series) -> Series:
    """Horizontal infrared radiation from the sky, W/m².

    Clear-sky emissivity by Clark and Allen (1978), cloud correction by Walton (1983), as is common use for weather files
    (coefficients unverified).
    """
    clear = 0.787 + 0.764 * np.log((dew_c + 273.15) / 273.0)
    n = np.clip(cloud_tenths, 0, 10)
    out: Series = clear * (1 + 0.0224 * n - 0.0035 * n**2 + 0.00028 * n**3) * STEFAN_BOLTZMANN * (air_c + 273.15) ** 4
    return out


def standard_pressure_pa(altitude_m: float) -> float:
    """Pressure of the standard atmosphere at an altitude, Pa (ISO 2533)."""
    return float(101325.0 * (1 - 2.25577e-5 * altitude_m) ** 5.2559)


def humidity_ratio(air_c: float, pressure_pa: float) -> float:
    """Humidity ratio of saturated air, kg/kg."""
    vapour = float(saturation_pa(np.array(air_c)))
    return 0.622 * vapour / (pressure_pa - vapour)
