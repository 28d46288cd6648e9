"""Design days: what a year, or its file, offers to size a plant by, as climate years in which that day repeats.

Days from one year are what they are: its 33rd coldest and warmest hour (0.4% of the year). A file that brings design
conditions of its own in its header is taken at its word (99.6% heating, 0.4% cooling dry bulb).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pvlib
from numpy.typing import NDArray

from eurythm.climate.air import dew_point_c, saturation_pa, sky_infrared
from eurythm.climate.statistics import RARE_HOUR
from eurythm.climate.sunpath import sun_of
from eurythm.climate.year import HOURS, MONTH_DAYS, MONTH_OF_HOUR, MONTH_STARTS, ClimateYear

Series = NDArray[np.float64]
CLEAR_AEROSOL, CLEAR_WATER_CM = 0.1, 1.5
"""Aerosol optical depth and precipitable water of the clear design day: our own assumption."""
WARMEST_HOUR = 15
DAY_OF_MONTH = 21
MONTH_NAMES = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December")


@dataclass(frozen=True, eq=False)
class DesignDay:
    """One design day.

    Attributes
    ----------
    use : heating or cooling
    what : where it comes from, in words
    highest_c, range_k : of the day's sinusoidal course; a heating day is steady
    year : every day of it has the design day's weather, radiation by its own date
    first, last : hours of the year between which a peak counts
    """

    use: str
    what: str
    highest_c: float
    range_k: float
    year: ClimateYear
    first: int
    last: int


_DAYS: dict[str, tuple[DesignDay, DesignDay]] = {}


def design_days(climate: ClimateYear) -> tuple[DesignDay, DesignDay]:
    """Return the heating and the cooling design day of a climate year; kept by year and place."""
    if climate.digest not in _DAYS:
        if len(_DAYS) > 8:
            _DAYS.clear()
        _DAYS[climate.digest] = _design_days(climate)
    return _DAYS[climate.digest]


def _design_days(climate: ClimateYear) -> tuple[DesignDay, DesignDay]:
    order = np.argsort(climate.air_c, kind="stable")
    cold, warm = int(order[RARE_HOUR - 1]), int(order[HOURS - RARE_HOUR])
    stated = _stated(climate)
    low = stated.get("heating", float(climate.air_c[cold]))
    high = stated.get("cooling", float(climate.air_c[warm]))
    month = int(MONTH_OF_HOUR[warm])
    within = climate.air_c[month == MONTH_OF_HOUR].reshape(-1, 24)
    swing = stated.get("range", float(np.mean(within.max(axis=1) - within.min(axis=1))))
    coldest = order[:RARE_HOUR]
    wind = float(climate["wind_speed_m_s"][coldest].mean())
    return _heating(climate, low, wind, "heating" in stated), _cooling(climate, high, swing, month, "cooling" in stated)


def _heating(climate: ClimateYear, low: float, wind: float, stated: bool) -> DesignDay:
    steady = np.full(HOURS, low)
    dark = np.zeros(HOURS)
    year = _year(climate, "heating", steady, np.full(HOURS, low - 2.0), dark, dark, wind)
    what = "99.6% heating temperature of the weather file" if stated else f"{RARE_HOUR}rd coldest hour of this year"
    return DesignDay("heating", f"{what}; steady, no sun, nobody there", low, 0.0, year, 0, 24)


def _cooling(climate: ClimateYear, high: float, swing: float, month: int, stated: bool) -> DesignDay:
    hour = np.arange(HOURS) % 24
    course = high - swing * (1 - np.cos((hour - WARMEST_HOUR) * np.pi / 12)) / 2
    warm = climate.air_c >= np.sort(climate.air_c)[HOURS - RARE_HOUR]
    vapour = (climate["relative_humidity_pct"] / 100.0 * saturation_pa(climate.air_c))[warm].mean()
    humidity = np.minimum(100.0 * vapour / saturation_pa(course), 100.0)
    sun = sun_of(climate.location)
    elevation = np.degrees(np.arcsin(np.clip(sun.cos_zenith, 0, 1)))
    pressure = float(climate["pressure_pa"].mean())
    clear = pvlib.clearsky.simplified_solis(np.maximum(elevation, 0.5), CLEAR_AEROSOL, CLEAR_WATER_CM, pressure, sun.extraterrestrial)
    up = sun.cos_zenith > 0
    beam, diffuse = np.where(up, clear["dni"], 0.0), np.where(up, clear["dhi"], 0.0)
    wind = float(climate["wind_speed_m_s"][warm].mean())
    year = _year(climate, "cooling", course, dew_point_c(course, humidity), beam, diffuse, wind)
    first = int(MONTH_STARTS[month]) + (min(DAY_OF_MONTH, MONTH_DAYS[month] - 3) - 4) * 24
    what = "0.4% cooling temperature of the weather file" if stated else f"{RARE_HOUR}rd warmest hour of this year"
    said = f"{what}; nights as cool against days as that month's, clear sky, the week round {DAY_OF_MONTH} {MONTH_NAMES[month]}"
    return DesignDay("cooling", said, high, swing, year, first, first + 7 * 24)


def _year(climate: ClimateYear, use: str, air: Series, dew: Series, beam: Series, diffuse: Series, wind: float) -> ClimateYear:
    sun = sun_of(climate.location)
    records = dict(climate.records)
    records["dry_bulb_c"] = air
    records["dew_point_c"] = np.minimum(dew, air)
    records["relative_humidity_pct"] = 100.0 * saturation_pa(records["dew_point_c"]) / saturation_pa(air)
    records["pressure_pa"] = np.full(HOURS, float(climate["pressure_pa"].mean()))
    records["horizontal_infrared_w_m2"] = sky_infrared(air, records["dew_point_c"], np.zeros(HOURS))
    records["direct_normal_wh_m2"] = beam
    records["diffuse_horizontal_wh_m2"] = diffuse
    records["global_horizontal_wh_m2"] = diffuse + beam * sun.cos_zenith
    records["wind_speed_m_s"] = np.full(HOURS, wind)
    return ClimateYear(f"{climate.digest}-{use}", climate.location, records, climate.first_weekday)


def _stated(climate: ClimateYear) -> dict[str, float]:
    """Design conditions of the file's header: 99.6% heating, 0.4% cooling, daily range; nothing where there are none."""
    line = next((line for line in climate.header if line.upper().startswith("DESIGN CONDITIONS")), "")
    cells = [cell.strip() for cell in line.split(",")]
    found: dict[str, float] = {}
    for word, places in (("heating", {"heating": 2}), ("cooling", {"range": 2, "cooling": 3})):
        at = next((i for i, cell in enumerate(cells) if cell.lower() == word), None)
        for name, step in places.items():
            try:
                value = float(cells[at + step]) if at is not None else np.nan
            except (ValueError, IndexError):
                value = np.nan
            if np.isfinite(value) and -90 <= value <= 70:
                found[name] = value
    return found if {"range", "cooling"} <= found.keys() or "cooling" not in found else {k: v for k, v in found.items() if k == "heating"}
