"""What a year of energy costs, emits and takes of primary energy, worked by hand."""

from __future__ import annotations

import numpy as np
import pytest

from eurythm.assess.bill import bill_of, carrier_bill
from eurythm.brief.calendar import year_days
from eurythm.climate.year import ClimateYear
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import CarrierFactors, Factors
from eurythm.model.reading import read_document
from eurythm.model.schedule import Calendar
from eurythm.simulate import run
from tests.conftest import make_scheme, volume

DAYS = year_days(Calendar(), 0)
BANDS = {
    "days": [{"id": "night", "values": [0.10] * 24}, {"id": "work", "values": [0.10] * 7 + [0.30] * 13 + [0.10] * 4}],
    "rules": [
        {"id": "weekdays", "day": "work", "weekdays": ["monday", "tuesday", "wednesday", "thursday", "friday"], "first": "10-01", "last": "03-31"},
    ],
}  # fmt: skip


def factors(**given: object) -> CarrierFactors:
    return read_document(CarrierFactors, given)


def test_one_price_and_one_factor() -> None:
    made = carrier_bill(np.full(8760, 2000.0), factors(price=0.25, carbon=0.2, primary=2.0, primary_nonrenewable=1.5), DAYS)
    assert made.kwh == pytest.approx(17520.0)
    assert made.cost == pytest.approx(4380.0)
    assert made.carbon_kg == pytest.approx(3504.0)
    assert (made.primary_kwh, made.primary_nonrenewable_kwh) == pytest.approx((35040.0, 26280.0))


def test_bands_by_hour_and_season() -> None:
    """1 kW all year: 13 hours of winter's weekdays at 0.30, all else at 0.10."""
    winter = [d for d in range(365) if (d <= 89 or d >= 273) and d % 7 < 5]
    made = carrier_bill(np.full(8760, 1000.0), factors(price_hours=BANDS), DAYS)
    assert made.energy_cost == pytest.approx(8760 * 0.10 + len(winter) * 13 * 0.20)


def test_standing_and_demand_charges() -> None:
    """5 kW in one hour of January and 2 kW in one of July: 7 kW-months at 12 € and 100 € a year; nothing bought costs nothing."""
    series = np.zeros(8760)
    series[10], series[190 * 24] = 5000.0, 2000.0
    made = carrier_bill(series, factors(price=0.0, standing_charge=100.0, demand_charge=12.0), DAYS)
    assert made.cost == pytest.approx(100.0 + 7 * 12.0)
    assert made.peak_kw == 5.0
    assert carrier_bill(np.zeros(8760), factors(standing_charge=100.0, demand_charge=12.0), DAYS).cost == 0


def test_carbon_by_the_hour() -> None:
    noon = {"days": [{"id": "d", "values": [0.4] * 11 + [0.1] * 4 + [0.4] * 9}]}
    series = np.zeros(8760)
    series[12::24] = 1000.0
    assert carrier_bill(series, factors(carbon_hours=noon), DAYS).carbon_kg == pytest.approx(36.5)


def test_what_is_sold_earns_and_negative_prices_count() -> None:
    given = read_document(Factors, {"electricity": {"price": -0.05}, "export_price": 0.07})
    made = bill_of({"electricity": np.full(8760, 1000.0)}, np.full(8760, 500.0), given, DAYS)
    assert made.cost == pytest.approx(-0.05 * 8760 - 0.07 * 4380)


@pytest.mark.parametrize("wrong", [
    {"price": 6}, {"price_hours": {"weekday": [9.0] * 24}}, {"price_hours": {"weekday": [0.1] * 23}}, {"standing_charge": -1}, {"demand_charge": -1},
    {"growth": 0.5},
])  # fmt: skip
def test_prices_beyond_what_can_be_are_refused(wrong: dict) -> None:
    with pytest.raises(EurythmError):
        factors(**wrong)


def test_a_years_bill_is_the_carriers(merrowhaven: ClimateYear) -> None:
    given = read_document(
        Factors, {"electricity": {"price_hours": BANDS, "standing_charge": 90, "demand_charge": 3}, "gas": {"price": 0.09, "primary": 1.2}}
    )  # fmt: skip
    scheme = make_scheme(volumes=[volume()], plant={"main": {"ready": "gas-radiators"}})
    totals = run(Place(), Library(), scheme, given, merrowhaven).outcome.totals
    assert totals["cost"] == pytest.approx(sum(totals["carrier_cost"].values()))
    assert totals["carrier_cost"]["gas"] == pytest.approx(0.09 * totals["carrier_kwh"]["gas"])
    assert totals["carrier_peak_kw"]["gas"] > 0
    power = totals["carrier_kwh"]["electricity"]
    assert totals["primary_kwh"] == pytest.approx(1.2 * totals["carrier_kwh"]["gas"] + 2.1 * power)
    assert totals["primary_kwh_per_m2"] == pytest.approx(totals["primary_kwh"] / totals["conditioned_floor_area_m2"])
