"""What a year of energy costs, emits and takes of primary energy, by the carriers' factors."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.calendar import YearDays, hourly
from eurythm.climate.year import MONTH_STARTS
from eurythm.model.plant import Carrier
from eurythm.model.project import CarrierFactors, Factors
from eurythm.model.schedule import Schedule

Series = NDArray[np.float64]


@dataclass(frozen=True)
class CarrierBill:
    """One carrier's year: kWh bought, the highest hour in kW, € for energy, standing and demand, kg of carbon, kWh of primary energy."""

    kwh: float
    peak_kw: float
    energy_cost: float
    standing_cost: float
    demand_cost: float
    carbon_kg: float
    primary_kwh: float
    primary_nonrenewable_kwh: float

    @property
    def cost(self) -> float:
        """All that it costs, €."""
        return self.energy_cost + self.standing_cost + self.demand_cost


@dataclass(frozen=True)
class Bill:
    """A year's bill: by carrier, and what is sold, €."""

    carriers: dict[Carrier, CarrierBill]
    sold: float

    @property
    def cost(self) -> float:
        """What is paid, less what is sold, €."""
        return sum(one.cost for one in self.carriers.values()) - self.sold

    def total(self, what: str) -> float:
        """Return the sum of one of the carriers' figures."""
        return float(sum(getattr(one, what) for one in self.carriers.values()))


def _by_hours(series: Series, one: float, hours: Schedule | None, days: YearDays) -> float:
    """Energy by the hour, W, times a factor a kWh."""
    if hours is None:
        return float(series.sum()) / 1000.0 * one
    return float(series @ hourly(hours, days)) / 1000.0


def carrier_bill(series: Series, factors: CarrierFactors, days: YearDays) -> CarrierBill:
    """Return the bill of one carrier.

    The demand charge is on the highest hourly mean of each month; the standing charge is paid where anything is bought at all.

    Parameters
    ----------
    series : what is bought, (8760,) W
    """
    kwh = float(series.sum()) / 1000.0
    peaks = np.maximum.reduceat(series, MONTH_STARTS) / 1000.0
    return CarrierBill(
        kwh=kwh,
        peak_kw=float(peaks.max()),
        energy_cost=_by_hours(series, factors.price, factors.price_hours, days),
        standing_cost=factors.standing_charge if kwh > 0 else 0.0,
        demand_cost=float(peaks.sum()) * factors.demand_charge,
        carbon_kg=_by_hours(series, factors.carbon, factors.carbon_hours, days),
        primary_kwh=kwh * factors.primary,
        primary_nonrenewable_kwh=kwh * factors.primary_nonrenewable,
    )


def bill_of(imported: Mapping[Carrier, Series], exported: Series, factors: Factors, days: YearDays) -> Bill:
    """Return the bill of a year: what is bought of each carrier, (8760,) W, and what is sold of electricity. What is sold earns money, no carbon."""
    carriers = {name: carrier_bill(series, getattr(factors, name), days) for name, series in imported.items()}
    return Bill(carriers, float(exported.sum()) / 1000.0 * factors.export_price)
