"""What a climate year is like by hour, side, wind and in the air's diagram; what it gives; and what is doubtful in it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eurythm.climate.account import by_month_and_hour, climate_account, doubts, humidity_ratio, psychrometric, wind_rose
from eurythm.climate.standin import PLACES, standin_year
from eurythm.climate.year import ClimateYear
from eurythm.explain.gives import comfortable, what_it_gives
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.reading import read_document
from eurythm.sun.radiation import monthly_on_planes
from tests.conftest import make_scheme, run_scheme, volume


def changed(year: ClimateYear, **columns: np.ndarray) -> ClimateYear:
    return replace(year, records={**year.records, **columns})


def test_water_in_the_air_by_hand(merrowhaven: ClimateYear) -> None:
    """20 °C, 50%, 101325 Pa: 1168 Pa of vapour, 622 * 1168 / (101325 - 1168) = 7.26 g/kg."""
    whole = np.ones(8760)
    year = changed(merrowhaven, dry_bulb_c=20 * whole, relative_humidity_pct=50 * whole, pressure_pa=101325 * whole)
    assert humidity_ratio(year) == pytest.approx(7.26 * whole, abs=0.02)
    assert psychrometric(year) == [(20.5, 7.25, 8760)]


def test_means_by_month_and_hour_average_to_the_year(merrowhaven: ClimateYear) -> None:
    table = np.array(by_month_and_hour(merrowhaven.air_c))
    days = np.array([31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31])
    assert (table.mean(axis=1) @ days) / 365 == pytest.approx(merrowhaven.air_c.mean(), abs=0.01)


@pytest.mark.parametrize("place", [p.id for p in PLACES])
def test_wind_roses_and_cells_count_every_hour_and_stand_ins_raise_no_doubt(place: str) -> None:
    year = standin_year(place)
    for rose in wind_rose(year)["roses"].values():
        assert sum(map(sum, rose["shares"])) + rose["calm"] == pytest.approx(1, abs=2e-3)
    assert sum(n for _, _, n in climate_account(year)["psychrometric"]) == 8760
    assert doubts(year) == []


def test_doubtful_records_are_named(merrowhaven: ClimateYear) -> None:
    frozen = merrowhaven.air_c.copy()
    frozen[1000:1030] = 7.7
    beam = merrowhaven["direct_normal_wh_m2"].copy()
    beam[0:3] = 300
    beam[np.arange(12, 8760, 24)] += 400
    said = doubts(changed(merrowhaven, dry_bulb_c=frozen, direct_normal_wh_m2=beam))
    assert any("temperature stands still at 7.7 for 30 hours" in s for s in said)
    assert any("shines in 3 hours in which it is down, first on 01-01 00:00" in s for s in said)
    assert any("miss the global one" in s for s in said)


def test_radiation_on_planes_is_that_on_open_walls(merrowhaven: ClimateYear) -> None:
    """Over black ground: a building shades the ground before it, an open plane does not."""
    black = read_document(Place, {"ground_reflectance": 0.0, "obstacle_reflectance": 0.0})
    light = run_scheme(make_scheme(volumes=[volume()]), place=black).light
    planes = monthly_on_planes(merrowhaven, 0.0)
    for edge, side in (("e1", "south"), ("e2", "east"), ("e3", "north"), ("e4", "west"), ("roof", "level")):
        face = next((f for name, f in light.items() if name.endswith(f"/{edge}")), None)
        if face is not None:
            assert sum(planes[side]) == pytest.approx(face.wall.sum() / 1000, rel=0.002)
    assert sum(planes["south"]) > sum(planes["east"]) > sum(planes["north"])


def test_comfort_is_the_band_of_the_standard() -> None:
    """0.31 of the running mean and 17.8, 3.5 K either side (ANSI/ASHRAE 55 at 80%); its ends are kept beyond its range."""
    mean = np.array([20.0, 20.0, 20.0, 0.0, 0.0])
    inside = np.array([24.0 - 3.4, 24.0 + 3.4, 24.0 + 3.7, 20.9 - 3.4, 20.9 + 3.7])
    assert comfortable(inside, mean).tolist() == [True, True, False, True, False]


def test_night_air_gives_hours_where_it_is_hot_and_sun_where_it_is_cold() -> None:
    scheme = make_scheme(volumes=[volume()])
    hot = {g.id: g.hours for g in what_it_gives(Library(), scheme, standin_year("sorrel-flats"))}
    assert hot["night"] > hot["shade"] + 1000
    assert all(0 <= h <= 8760 for h in hot.values())
