"""A climate year: 8760 hourly records with their place and source."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.air import STEFAN_BOLTZMANN, standard_pressure_pa
from eurythm.model.remark import Remark

Series = NDArray[np.float64]
HOURS = 8760
MONTH_DAYS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
MONTH_OF_HOUR: NDArray[np.int64] = np.repeat(np.arange(12), np.array(MONTH_DAYS) * 24)
MONTH_STARTS: NDArray[np.int64] = np.concatenate([[0], np.cumsum(np.array(MONTH_DAYS) * 24)[:-1]])


@dataclass(frozen=True)
class Location:
    """Where a climate year was recorded. Time zone in hours east of Greenwich; no daylight saving."""

    city: str
    region: str
    country: str
    source: str
    station: str
    latitude_deg: float
    longitude_deg: float
    time_zone_h: float
    altitude_m: float


@dataclass(frozen=True, eq=False)
class ClimateYear:
    """Hourly records; hour 0 is 00:00 to 01:00 local standard time of 1 January.

    Attributes
    ----------
    digest : hash of the file's text, which names this year everywhere.
    records : every field of the file by name (see ``climate.epw.FIELDS``), shape (8760,), missing values NaN.
    first_weekday : 0 for Monday; the weekday of 1 January as the header says.
    """

    digest: str
    location: Location
    records: dict[str, Series]
    first_weekday: int
    remarks: tuple[Remark, ...] = ()
    header: tuple[str, ...] = field(default=(), repr=False)

    def at(self, location: Location) -> ClimateYear:
        """Return the year as if recorded at a location: the sun follows its latitude, longitude and time zone, the air pressure
        its altitude (standard atmosphere); temperature, humidity and radiation stay as they were recorded."""
        return self if location == self.location else _moved(self, location)

    def __getitem__(self, name: str) -> Series:
        return self.records[name]

    @property
    def air_c(self) -> Series:
        """Outdoor dry-bulb temperature, °C."""
        return self.records["dry_bulb_c"]

    @cached_property
    def sky_c(self) -> Series:
        """Sky temperature from the horizontal infrared radiation, °C."""
        kelvin: Series = (self.records["horizontal_infrared_w_m2"] / STEFAN_BOLTZMANN) ** 0.25
        return kelvin - 273.15

    @cached_property
    def monthly_air_c(self) -> tuple[float, ...]:
        """Mean outdoor temperature of each month, °C, to a micro-kelvin."""
        return tuple(round(float(self.air_c[m == MONTH_OF_HOUR].mean()), 6) for m in range(12))

    @cached_property
    def december_c(self) -> float:
        """Mean outdoor temperature of the year's last 31 days, °C."""
        return float(self.air_c[-31 * 24 :].mean())

    @cached_property
    def running_mean_c(self) -> Series:
        """Exponentially weighted running mean of the daily outdoor temperature, of every hour, °C (EN 16798-1: alpha 0.8)."""
        daily = self.air_c.reshape(365, 24).mean(axis=1)
        mean = np.empty(365)
        running = float(daily[-7:].mean())
        for day in range(365):
            mean[day] = running
            running = 0.8 * running + 0.2 * daily[day]
        return np.repeat(mean, 24)

    @cached_property
    def vapour_kg_kg(self) -> Series:
        """Humidity ratio of outdoor air, kg/kg of dry air."""
        air, pressure = self.air_c, self.records["pressure_pa"]
        vapour = self.records["relative_humidity_pct"] / 100.0 * 610.5 * np.exp(17.269 * air / (237.3 + air))
        ratio: Series = 0.622 * vapour / (pressure - vapour)
        return ratio

    @cached_property
    def air_density(self) -> float:
        """Density of air at the year's mean pressure and 20 °C, kg/m³ (ideal gas)."""
        return float(np.mean(self.records["pressure_pa"])) / (287.05 * 293.15)


@lru_cache(maxsize=8)
def _moved(year: ClimateYear, location: Location) -> ClimateYear:
    """The year at another location; the same object each time, so that what is kept by it is found again."""
    ratio = standard_pressure_pa(location.altitude_m) / standard_pressure_pa(year.location.altitude_m)
    records = {**year.records, "pressure_pa": year["pressure_pa"] * ratio}
    where = f"{location.latitude_deg} {location.longitude_deg} {location.time_zone_h} {location.altitude_m}"
    return replace(year, digest=f"{year.digest}@{where}", location=location, records=records)
