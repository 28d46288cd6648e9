"""What a climate sheet shows: bands by month, degree days, design days as they are in this year."""

from __future__ import annotations

import numpy as np
from typing_extensions import TypedDict

from eurythm.climate.year import HOURS, MONTH_OF_HOUR, ClimateYear, Location

HEATING_BASE_C = 15.5
COOLING_BASE_C = 22.0
RARE_HOUR = 33  # 0.4% of the year, rounded down to whole hours


def hour_name(index: int) -> str:
    """Spell the start of an hour as ``MM-DDThh`` in local standard time."""
    day = np.datetime64("2023-01-01T00", "h") + index
    return str(day)[5:]


class TemperatureBands(TypedDict):
    """Temperatures by month, °C: mean, 1st and 99th percentile of hours, mean daily extremes."""

    mean: list[float]
    low: list[float]
    high: list[float]
    daily_low: list[float]
    daily_high: list[float]


class RadiationSums(TypedDict):
    """Radiation by month, kWh/m²."""

    global_horizontal: list[float]
    direct_normal: list[float]
    diffuse_horizontal: list[float]


class DegreeDays(TypedDict):
    """Degree days of the year, K·d, with their bases, °C."""

    heating: float
    heating_base_c: float
    cooling: float
    cooling_base_c: float


class DesignHour(TypedDict):
    """A rare hour and the course of its day."""

    what: str
    hour: str
    air_c: float
    profile_c: list[float]


class DesignHours(TypedDict):
    """A rare cold hour and a rare warm one."""

    cold: DesignHour
    warm: DesignHour


class ClimateSheet(TypedDict):
    """What a climate sheet shows; see `climate_sheet`."""

    location: Location
    temperature_c: TemperatureBands
    year_mean_c: float
    radiation_kwh_m2: RadiationSums
    humidity_pct: list[float]
    wind_m_s: list[float]
    degree_days: DegreeDays
    design_days: DesignHours


def climate_sheet(year: ClimateYear) -> ClimateSheet:
    """Return the statistics of a climate year, °C, W/m², kWh/m², K·d; months as lists of twelve.

    Degree days count daily means against stated bases. Design hours are what they are: the 33rd coldest and warmest hour
    of this year, with the course of their day.
    """
    air = year.air_c
    months = [air[m == MONTH_OF_HOUR] for m in range(12)]
    daily = air.reshape(365, 24)
    daily_mean = daily.mean(axis=1)
    day_month = MONTH_OF_HOUR[::24]

    def monthly_kwh(name: str) -> list[float]:
        return [round(float(year[name][m == MONTH_OF_HOUR].sum()) / 1000, 1) for m in range(12)]

    order = np.argsort(air, kind="stable")
    cold, warm = int(order[RARE_HOUR - 1]), int(order[HOURS - RARE_HOUR])
    return {
        "location": year.location,
        "temperature_c": {
            "mean": [round(float(m.mean()), 1) for m in months],
            "low": [round(float(np.percentile(m, 1)), 1) for m in months],
            "high": [round(float(np.percentile(m, 99)), 1) for m in months],
            "daily_low": [round(float(daily.min(axis=1)[day_month == m].mean()), 1) for m in range(12)],
            "daily_high": [round(float(daily.max(axis=1)[day_month == m].mean()), 1) for m in range(12)],
        },
        "year_mean_c": round(float(air.mean()), 1),
        "radiation_kwh_m2": {
            "global_horizontal": monthly_kwh("global_horizontal_wh_m2"),
            "direct_normal": monthly_kwh("direct_normal_wh_m2"),
            "diffuse_horizontal": monthly_kwh("diffuse_horizontal_wh_m2"),
        },
        "humidity_pct": [round(float(year["relative_humidity_pct"][m == MONTH_OF_HOUR].mean())) for m in range(12)],
        "wind_m_s": [round(float(year["wind_speed_m_s"][m == MONTH_OF_HOUR].mean()), 1) for m in range(12)],
        "degree_days": {
            "heating": round(float(np.maximum(HEATING_BASE_C - daily_mean, 0).sum())),
            "heating_base_c": HEATING_BASE_C,
            "cooling": round(float(np.maximum(daily_mean - COOLING_BASE_C, 0).sum())),
            "cooling_base_c": COOLING_BASE_C,
        },
        "design_days": {
            "cold": _design(year, cold, "33rd coldest hour of this year"),
            "warm": _design(year, warm, "33rd warmest hour of this year"),
        },
    }


def _design(year: ClimateYear, hour: int, what: str) -> DesignHour:
    day = hour // 24
    return {
        "what": what,
        "hour": hour_name(hour),
        "air_c": float(year.air_c[hour]),
        "profile_c": [float(t) for t in year.air_c[day * 24 : day * 24 + 24]],
    }
