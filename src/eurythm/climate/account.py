"""What a climate year is like, beyond its months: by hour, by side of the sky, by wind, in the air's own diagram; and what is doubtful."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from eurythm.climate.air import saturation_pa
from eurythm.climate.sunpath import sun_of
from eurythm.climate.year import HOURS, MONTH_OF_HOUR, ClimateYear

Series = NDArray[np.float64]
SECTORS = 16
CALM_M_S = 0.5
SPEEDS_M_S = (0.5, 2.0, 4.0, 6.0, 9.0)
"""Lower ends of the classes of a wind rose."""
SEASONS = {"winter": (11, 0, 1), "spring": (2, 3, 4), "summer": (5, 6, 7), "autumn": (8, 9, 10)}
"""Months of each season north of the equator; half a year apart south of it."""
FROZEN_H = 12
CLOSE = 0.15


def humidity_ratio(year: ClimateYear) -> Series:
    """Water in the air, g per kg of dry air, (8760,), at the year's own pressure."""
    vapour = year["relative_humidity_pct"] / 100 * saturation_pa(year.air_c)
    out: Series = 622.0 * vapour / np.maximum(year["pressure_pa"] - vapour, 1.0)
    return out


def by_month_and_hour(values: Series) -> list[list[float]]:
    """Means by month (12) and hour of the day (24)."""
    hour = np.arange(HOURS) % 24
    sums = np.zeros((12, 24))
    counts = np.zeros((12, 24))
    np.add.at(sums, (MONTH_OF_HOUR, hour), values)
    np.add.at(counts, (MONTH_OF_HOUR, hour), 1)
    return [[round(float(v), 2) for v in row] for row in sums / counts]


def psychrometric(year: ClimateYear) -> list[tuple[float, float, int]]:
    """Hours in cells of the air's diagram: temperature °C and water g/kg at the cell's middle, and how many; 1 K by 0.5 g/kg."""
    air, water = np.floor(year.air_c), np.floor(humidity_ratio(year) * 2) / 2
    cells, counts = np.unique(np.column_stack([air, water]), axis=0, return_counts=True)
    return [(float(t) + 0.5, float(w) + 0.25, int(n)) for (t, w), n in zip(cells, counts, strict=True)]


class Rose(TypedDict):
    """Shares of hours by sector and class of speed, and of calm ones."""

    shares: list[list[float]]
    calm: float


class WindRoses(TypedDict):
    """Lower ends of the classes of speed, m/s, and the rose of the year and of each season."""

    speeds_m_s: list[float]
    roses: dict[str, Rose]


class ClimateAccount(TypedDict):
    """What a climate year is like beyond its months; see `climate_account`."""

    temperature_by_hour: list[list[float]]
    humidity_by_hour: list[list[float]]
    cloud_tenths: list[float]
    psychrometric: list[tuple[float, float, int]]
    pressure_pa: float
    wind: WindRoses
    doubts: list[str]


def wind_rose(year: ClimateYear) -> WindRoses:
    """Share of hours by sector (16, from north clockwise, whence it blows) and class of speed, for the year and each season."""
    speed, direction = year["wind_speed_m_s"], year["wind_direction_deg"]
    sector = np.round(direction / (360 / SECTORS)).astype(int) % SECTORS
    kind = np.clip(np.searchsorted(SPEEDS_M_S, speed, side="right") - 1, 0, len(SPEEDS_M_S) - 1)
    shift = 0 if year.location.latitude_deg >= 0 else 6
    roses: dict[str, Rose] = {}
    for name, months in {"year": tuple(range(12)), **SEASONS}.items():
        mine = np.isin((MONTH_OF_HOUR + shift) % 12, months) if name != "year" else np.ones(HOURS, dtype=bool)
        blows = mine & (speed >= CALM_M_S)
        table = np.zeros((SECTORS, len(SPEEDS_M_S)))
        np.add.at(table, (sector[blows], kind[blows]), 1)
        roses[name] = {"shares": np.round(table / mine.sum(), 5).tolist(), "calm": round(float((mine & ~blows).sum() / mine.sum()), 4)}
    return {"speeds_m_s": list(SPEEDS_M_S), "roses": roses}


def doubts(year: ClimateYear) -> list[str]:
    """Records that can hardly be right: frozen sensors, sun at night, radiation that does not close, air beyond saturation."""
    found = []
    for name, said in (("dry_bulb_c", "temperature"), ("relative_humidity_pct", "humidity"), ("wind_speed_m_s", "wind speed")):
        run, first = _longest_run(year[name])
        if run > FROZEN_H and not (name == "relative_humidity_pct" and year[name][first] >= 99):
            found.append(f"The {said} stands still at {year[name][first]:g} for {run} hours from {_when(first)}.")
    sun = sun_of(year.location)
    beam, diffuse, total = (year[n] for n in ("direct_normal_wh_m2", "diffuse_horizontal_wh_m2", "global_horizontal_wh_m2"))
    dark = np.ones(HOURS, dtype=bool)
    dark[sun.up] = False
    night = np.flatnonzero(dark & (beam + diffuse > 1.0))
    if len(night):
        found.append(f"The sun shines in {len(night)} hours in which it is down, first on {_when(int(night[0]))}.")
    made = beam * sun.cos_zenith + diffuse
    bright = total > 150
    off = bright & (np.abs(made - total) > CLOSE * total)
    if off.sum() > 24:
        found.append(f"Direct and diffuse light miss the global one by more than {CLOSE:.0%} in {int(off.sum())} bright hours.")
    return found


def _longest_run(values: Series) -> tuple[int, int]:
    """Length and start of the longest stretch of one value."""
    starts = np.flatnonzero(np.concatenate([[True], np.diff(values) != 0]))
    lengths = np.diff(np.concatenate([starts, [len(values)]]))
    best = int(lengths.argmax())
    return int(lengths[best]), int(starts[best])


def _when(hour: int) -> str:
    day = np.datetime64("2023-01-01T00", "h") + hour
    return str(day)[5:].replace("T", " ") + ":00"


def climate_account(year: ClimateYear) -> ClimateAccount:
    """Return all of it, for the climate sheet."""
    cloud = year["total_sky_cover_tenths"]
    return {
        "temperature_by_hour": by_month_and_hour(year.air_c),
        "humidity_by_hour": by_month_and_hour(year["relative_humidity_pct"]),
        "cloud_tenths": [round(float(np.nanmean(cloud[m == MONTH_OF_HOUR])), 2) for m in range(12)],
        "psychrometric": psychrometric(year),
        "pressure_pa": round(float(year["pressure_pa"].mean())),
        "wind": wind_rose(year),
        "doubts": doubts(year),
    }
