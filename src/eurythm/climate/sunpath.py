"""The sun: where it stands in each hour, and how its light is split (pvlib)."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import pandas as pd
import pvlib
from numpy.typing import NDArray

from eurythm.climate.year import HOURS, Location

Series = NDArray[np.float64]
STEPS = 12
YEAR = 2023  # any year without a leap day; the sun differs by less than 0.3 degrees between years


@dataclass(frozen=True, eq=False)
class SunPath:
    """The sun of every hour.

    Attributes
    ----------
    direction : (8760, 3) unit vectors towards the sun, x east, y true north, z up: the mean over the sunlit part of the hour.
    cos_zenith : (8760,), 0 in dark hours.
    extraterrestrial : (8760,) normal extraterrestrial radiation, W/m².
    up : indices of the hours in which the sun is up for some time.
    """

    direction: Series
    cos_zenith: Series
    extraterrestrial: Series
    up: NDArray[np.int64]


@lru_cache(maxsize=16)
def sun_path(latitude_deg: float, longitude_deg: float, time_zone_h: float) -> SunPath:
    """Return the sun of every hour at a place; positions by pvlib's ephemeris, averaged over five-minute steps."""
    minutes = (np.arange(HOURS * STEPS) + 0.5) * (60.0 / STEPS) - time_zone_h * 60.0
    times = pd.DatetimeIndex(np.datetime64(f"{YEAR}-01-01T00:00") + (minutes * 60).astype("timedelta64[s]")).tz_localize("UTC")
    position = pvlib.solarposition.ephemeris(times, latitude_deg, longitude_deg)
    elevation = np.radians(position["elevation"].to_numpy())
    azimuth = np.radians(position["azimuth"].to_numpy())
    vectors = np.stack([np.cos(elevation) * np.sin(azimuth), np.cos(elevation) * np.cos(azimuth), np.sin(elevation)], axis=1)
    vectors[elevation <= 0.0] = 0.0
    mean = vectors.reshape(HOURS, STEPS, 3).sum(axis=1)
    length = np.linalg.norm(mean, axis=1)
    direction = mean / np.maximum(length, 1e-9)[:, None]
    day = np.arange(HOURS) // 24 + 1
    extra = np.asarray(pvlib.irradiance.get_extra_radiation(day), dtype=float)
    return SunPath(direction, np.maximum(direction[:, 2], 0.0), extra, np.flatnonzero(length > 0))


@lru_cache(maxsize=16)
def substep_shape(latitude_deg: float, longitude_deg: float, time_zone_h: float, substeps: int) -> Series:
    """How an hour's radiation falls on its sub-steps, (8760, substeps), each row with the mean 1.

    By the sine of the sun's height in the middle of each sub-step; flat in hours without sun.
    """
    middles = (np.arange(HOURS * substeps) + 0.5) * (60.0 / substeps) - time_zone_h * 60.0
    times = pd.DatetimeIndex(np.datetime64(f"{YEAR}-01-01T00:00") + (middles * 60).astype("timedelta64[s]")).tz_localize("UTC")
    height = np.radians(pvlib.solarposition.ephemeris(times, latitude_deg, longitude_deg)["elevation"].to_numpy())
    sine = np.maximum(np.sin(height), 0.0).reshape(HOURS, substeps)
    mean = sine.mean(axis=1, keepdims=True)
    shape: Series = np.where(mean > 1e-6, sine / np.maximum(mean, 1e-6), 1.0)
    return shape


def sun_of(location: Location) -> SunPath:
    """Return the sun of every hour at a climate year's location."""
    return sun_path(location.latitude_deg, location.longitude_deg, location.time_zone_h)


def split_global(global_wh: Series, location: Location) -> tuple[Series, Series]:
    """Split global horizontal radiation into direct normal and diffuse horizontal (Erbs et al. 1982, through pvlib)."""
    sun = sun_of(location)
    zenith = np.degrees(np.arccos(np.clip(sun.cos_zenith, 0, 1)))
    parts = pvlib.irradiance.erbs(global_wh, zenith, np.arange(HOURS) // 24 + 1)
    beam, diffuse = np.nan_to_num(np.asarray(parts["dni"])), np.nan_to_num(np.asarray(parts["dhi"]))
    return beam, diffuse
