"""The stand-in climate service: plausible years for invented places, made from monthly statistics and written as EPW.

It stands in for an outside weather-file service, so that everything runs without a network. No place here exists.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.air import dew_point_c, saturation_pa, sky_infrared, standard_pressure_pa
from eurythm.climate.epw import FIELDS, read_epw
from eurythm.climate.sunpath import split_global, sun_of
from eurythm.climate.year import HOURS, MONTH_DAYS, ClimateYear, Location
from eurythm.model.errors import NotFound

Series = NDArray[np.float64]
SOURCE = "stand-in climate of an invented place"


@dataclass(frozen=True)
class InventedPlace:
    """Monthly statistics of a place that does not exist.

    Attributes
    ----------
    mean_c, range_k : monthly mean temperature and mean daily range.
    humidity_pct, clearness, wind_m_s : monthly means; clearness is global over extraterrestrial horizontal radiation.
    swing_k : standard deviation of daily mean temperature about its season.
    """

    id: str
    name: str
    kind: str
    latitude_deg: float
    longitude_deg: float
    time_zone_h: float
    altitude_m: float
    mean_c: tuple[float, ...]
    range_k: tuple[float, ...]
    humidity_pct: tuple[float, ...]
    clearness: tuple[float, ...]
    wind_m_s: tuple[float, ...]
    swing_k: float
    seed: int


PLACES: tuple[InventedPlace, ...] = (
    InventedPlace(
        "merrowhaven",
        "Merrowhaven",
        "cool maritime",
        54.2,
        -2.6,
        0.0,
        12.0,
        (4.6, 4.7, 6.3, 8.4, 11.5, 14.2, 16.1, 16.0, 13.9, 10.9, 7.4, 5.2),
        (4.6, 5.2, 6.4, 7.6, 8.2, 8.0, 7.8, 7.4, 6.8, 5.6, 4.8, 4.4),
        (86, 84, 81, 78, 76, 77, 78, 80, 82, 84, 86, 87),
        (0.30, 0.35, 0.39, 0.43, 0.45, 0.44, 0.43, 0.42, 0.40, 0.36, 0.31, 0.28),
        (6.2, 5.9, 5.6, 5.0, 4.7, 4.4, 4.3, 4.3, 4.8, 5.3, 5.6, 6.0),
        2.6,
        541,
    ),
    InventedPlace(
        "sorrel-flats",
        "Sorrel Flats",
        "hot-dry",
        31.4,
        47.8,
        3.0,
        310.0,
        (11.0, 13.6, 18.0, 23.6, 29.6, 33.8, 35.8, 35.4, 31.8, 26.0, 18.2, 12.4),
        (12.0, 12.8, 13.6, 14.4, 15.0, 15.8, 15.6, 15.4, 15.2, 14.2, 12.8, 11.8),
        (62, 52, 42, 33, 24, 17, 17, 18, 22, 32, 47, 60),
        (0.58, 0.61, 0.62, 0.63, 0.66, 0.71, 0.70, 0.70, 0.69, 0.65, 0.60, 0.57),
        (2.8, 3.1, 3.5, 3.6, 3.7, 4.3, 4.4, 4.0, 3.3, 2.9, 2.7, 2.6),
        2.4,
        314,
    ),
    InventedPlace(
        "karsk-basin",
        "Karsk Basin",
        "cold continental",
        50.6,
        72.4,
        5.0,
        390.0,
        (-15.2, -14.4, -7.0, 5.4, 13.8, 19.4, 21.0, 18.6, 12.2, 4.0, -5.8, -12.6),
        (8.6, 9.4, 9.6, 11.4, 13.0, 13.0, 12.6, 13.0, 12.8, 10.2, 8.0, 8.2),
        (78, 77, 78, 63, 53, 53, 58, 57, 58, 67, 77, 79),
        (0.52, 0.56, 0.58, 0.55, 0.55, 0.56, 0.54, 0.54, 0.53, 0.48, 0.47, 0.48),
        (5.0, 5.0, 5.0, 4.8, 4.7, 4.0, 3.6, 3.6, 3.8, 4.5, 4.8, 4.9),
        4.8,
        506,
    ),
    InventedPlace(
        "port-calder",
        "Port Calder",
        "hot-humid",
        9.6,
        104.8,
        7.0,
        6.0,
        (26.2, 26.8, 27.9, 28.9, 28.6, 28.2, 27.8, 27.8, 27.5, 27.2, 26.9, 26.3),
        (7.6, 8.2, 8.6, 8.4, 7.4, 6.8, 6.6, 6.4, 6.6, 6.8, 7.0, 7.2),
        (78, 76, 75, 76, 81, 83, 84, 85, 86, 86, 83, 80),
        (0.52, 0.55, 0.55, 0.52, 0.46, 0.43, 0.43, 0.42, 0.42, 0.43, 0.46, 0.48),
        (3.0, 3.2, 3.2, 2.9, 2.6, 3.0, 3.1, 3.2, 2.7, 2.3, 2.6, 2.9),
        1.0,
        96,
    ),
    InventedPlace(
        "vallarena",
        "Vallarena",
        "mediterranean",
        38.2,
        14.9,
        1.0,
        35.0,
        (11.2, 11.4, 12.8, 15.2, 19.2, 23.2, 26.0, 26.4, 23.4, 19.8, 15.6, 12.4),
        (6.8, 7.2, 7.8, 8.4, 9.0, 9.4, 9.6, 9.4, 8.8, 7.8, 7.0, 6.6),
        (73, 71, 70, 68, 65, 62, 60, 63, 66, 70, 73, 74),
        (0.44, 0.47, 0.51, 0.54, 0.58, 0.62, 0.64, 0.62, 0.58, 0.52, 0.46, 0.43),
        (4.0, 4.1, 4.0, 3.8, 3.3, 3.2, 3.2, 3.1, 3.1, 3.3, 3.6, 4.0),
        1.8,
        382,
    ),
    InventedPlace(
        "norrvik-fell",
        "Norrvik Fell",
        "subarctic",
        65.1,
        21.4,
        1.0,
        60.0,
        (-10.4, -9.8, -5.4, 0.2, 6.4, 12.4, 15.2, 13.0, 7.8, 1.8, -4.2, -8.4),
        (7.4, 7.8, 8.8, 8.6, 9.2, 9.4, 9.0, 8.4, 7.4, 5.6, 5.6, 6.8),
        (86, 84, 79, 73, 66, 65, 71, 77, 82, 86, 89, 88),
        (0.30, 0.42, 0.49, 0.50, 0.50, 0.50, 0.48, 0.45, 0.42, 0.36, 0.28, 0.22),
        (3.2, 3.1, 3.3, 3.4, 3.6, 3.6, 3.3, 3.1, 3.2, 3.4, 3.3, 3.2),
        4.4,
        651,
    ),
)


def find_place(name: str) -> InventedPlace:
    """Return an invented place by id. Raises NotFound."""
    for place in PLACES:
        if place.id == name:
            return place
    known = ", ".join(p.id for p in PLACES)
    raise NotFound("no-such-climate", f"The stand-in climate service knows no “{name}”; it has {known}.", "place/climate/id")


@lru_cache(maxsize=8)
def standin_year(name: str) -> ClimateYear:
    """Return the climate year of an invented place."""
    return read_epw(standin_epw(name))


def _through_months(monthly: tuple[float, ...]) -> Series:
    """A smooth daily course through monthly means, shape (365,)."""
    ends = np.cumsum((0, *MONTH_DAYS))
    middles = (ends[:-1] + ends[1:]) / 2
    x = np.concatenate([[middles[-1] - 365], middles, [middles[0] + 365]])
    y = np.array([monthly[-1], *monthly, monthly[0]])
    out: Series = np.interp(np.arange(365) + 0.5, x, y)
    return out


def _persistent(rng: np.random.Generator, count: int, memory: float) -> Series:
    """First-order autoregressive noise of unit variance."""
    noise = rng.standard_normal(count)
    out = np.empty(count)
    out[0] = noise[0]
    for i in range(1, count):
        out[i] = memory * out[i - 1] + np.sqrt(1 - memory**2) * noise[i]
    return out


def _centred(daily: Series) -> Series:
    """Take most of its mean out of each month, so that a year keeps to its statistics."""
    month = np.repeat(np.arange(12), MONTH_DAYS)
    means = np.bincount(month, weights=daily) / np.array(MONTH_DAYS)
    out: Series = daily - 0.8 * means[month]
    return out


@lru_cache(maxsize=8)
def standin_epw(name: str) -> str:
    """Return a plausible year of an invented place as EPW text; the same every time.

    Daily clearness and temperature follow first-order autoregressive courses about monthly means (the approach of Graham
    and Hollands 1990, simplified: our own assumption); the day's temperature course is a sinusoid between sunrise minimum
    and mid-afternoon maximum, wider on clear days; global radiation is split by Erbs et al. (1982).
    """
    place = find_place(name)
    rng = np.random.default_rng(place.seed)
    location = Location(
        place.name,
        "-",
        "Invented",
        SOURCE,
        str(900000 + place.seed),
        place.latitude_deg,
        place.longitude_deg,
        place.time_zone_h,
        place.altitude_m,
    )
    sun = sun_of(location)
    clear_noise = _centred(_persistent(rng, 365, 0.45))
    clearness = np.clip(_through_months(place.clearness) * (1 + 0.38 * clear_noise), 0.08, 0.76)
    hourly_noise = np.exp(0.22 * _persistent(rng, HOURS, 0.6))
    day = np.arange(HOURS) // 24
    hour = np.arange(HOURS) % 24 + 0.5
    airmass_dim = 1 - 0.35 * np.exp(-sun.cos_zenith / 0.18)
    kt = np.clip(clearness[day] * hourly_noise * airmass_dim * 1.08, 0.03, 0.80)
    total = sun.extraterrestrial * sun.cos_zenith * kt
    beam, diffuse = split_global(total, location)
    low_sun = sun.cos_zenith < 0.05
    beam = np.where(low_sun, 0.0, np.minimum(beam, 0.82 * sun.extraterrestrial))
    diffuse = np.where(low_sun, total, np.maximum(total - beam * sun.cos_zenith, 0.0))
    swing = place.swing_k * _centred(_persistent(rng, 365, 0.78))
    relative = clearness / np.maximum(_through_months(place.clearness), 0.05)
    spread = _through_months(place.range_k) * np.clip(0.45 + 0.55 * relative, 0.4, 1.4)
    course = np.cos(2 * np.pi * (hour - 15.0) / 24) - 0.12 * np.cos(4 * np.pi * (hour - 15.0) / 24)
    daily = _through_months(place.mean_c) + swing
    smooth = np.interp(np.arange(HOURS) / 24, np.arange(-1, 366) + 0.5, np.concatenate([[daily[-1]], daily, [daily[0]]]))
    air = smooth + 0.5 * spread[day] * course + 0.3 * _persistent(rng, HOURS, 0.9)
    humidity_day = np.clip(_through_months(place.humidity_pct) - 10 * (relative - 1) + 4 * rng.standard_normal(365), 8, 99)
    dew_day = dew_point_c(smooth, humidity_day[day]) + 0.6
    humidity = np.clip(100 * saturation_pa(np.minimum(dew_day, air)) / saturation_pa(air), 5, 100)
    wind_shape = np.abs(1.0 + 0.52 * _persistent(rng, HOURS, 0.93) + 0.12 * course)
    wind = _through_months(place.wind_m_s)[day] * wind_shape / 1.02
    direction = (230 + 60 * _persistent(rng, HOURS, 0.97)) % 360
    cloud = np.clip(10 * (1 - (clearness[day] - 0.10) / 0.62), 0, 10)
    infrared = sky_infrared(air, np.minimum(dew_day, air), cloud)
    pressure = standard_pressure_pa(place.altitude_m) + 700 * _persistent(rng, HOURS, 0.99)
    columns = {
        "dry_bulb_c": np.round(air, 1),
        "dew_point_c": np.round(dew_point_c(air, humidity), 1),
        "relative_humidity_pct": np.round(humidity),
        "pressure_pa": np.round(pressure),
        "extraterrestrial_horizontal_wh_m2": np.round(sun.extraterrestrial * sun.cos_zenith),
        "extraterrestrial_normal_wh_m2": np.round(np.where(sun.cos_zenith > 0, sun.extraterrestrial, 0)),
        "horizontal_infrared_w_m2": np.round(infrared),
        "global_horizontal_wh_m2": np.round(total),
        "direct_normal_wh_m2": np.round(beam),
        "diffuse_horizontal_wh_m2": np.round(diffuse),
        "wind_direction_deg": np.round(direction),
        "wind_speed_m_s": np.round(wind, 1),
        "total_sky_cover_tenths": np.round(cloud),
        "opaque_sky_cover_tenths": np.round(cloud * 0.9),
    }
    return _written(location, columns)


def _written(location: Location, columns: dict[str, Series]) -> str:
    """Write header and records; columns that are not given bear their missing code."""
    head = [
        f"LOCATION,{location.city},{location.region},{location.country},{location.source},{location.station},"
        f"{location.latitude_deg:.2f},{location.longitude_deg:.2f},{location.time_zone_h:.1f},{location.altitude_m:.1f}",
        "DESIGN CONDITIONS,0",
        "TYPICAL/EXTREME PERIODS,0",
        "GROUND TEMPERATURES,0",
        "HOLIDAYS/DAYLIGHT SAVINGS,No,0,0,0",
        f"COMMENTS 1,{SOURCE}; made by Eurythm from monthly statistics",
        "COMMENTS 2,no measurement stands behind this file",
        "DATA PERIODS,1,1,Data,Monday,1/1,12/31",
    ]
    blank = [f"{c.missing:g}" if c.missing is not None else "9" for c in FIELDS]
    formats = {"dry_bulb_c": ".1f", "dew_point_c": ".1f", "wind_speed_m_s": ".1f"}
    texts = [[format(v, formats.get(c.name, ".0f")) for v in columns[c.name]] if c.name in columns else None for c in FIELDS]
    dates = [(m + 1, d + 1, h + 1) for m, days in enumerate(MONTH_DAYS) for d in range(days) for h in range(24)]
    rows = []
    for i, (month, day, hour) in enumerate(dates):
        fields = ",".join(t[i] if t is not None else blank[k] for k, t in enumerate(texts))
        rows.append(f"2023,{month},{day},{hour},60,*,{fields}")
    return "\n".join([*head, *rows]) + "\n"
