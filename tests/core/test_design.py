"""Design days: what they are, and what is sized by them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eurythm.climate.design import design_days
from eurythm.climate.standin import standin_year
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.simulate import run, size
from tests.conftest import make_scheme, volume

HEADER = "DESIGN CONDITIONS,1,made up,,Heating,1,-21.5,-18.0,3,Cooling,7,11.0,33.5,19.0,Extremes,1"


@pytest.mark.parametrize("place", ["merrowhaven", "karsk-basin", "sorrel-flats"])
def test_days_are_the_rare_hours_of_the_year(place: str) -> None:
    climate = standin_year(place)
    heating, cooling = design_days(climate)
    order = np.sort(climate.air_c)
    assert heating.highest_c == pytest.approx(order[32])
    assert cooling.highest_c == pytest.approx(order[-33])
    assert "33rd coldest" in heating.what
    assert heating.year["global_horizontal_wh_m2"].max() == 0
    day = cooling.year.air_c[cooling.first : cooling.first + 24]
    assert day.max() == pytest.approx(cooling.highest_c)
    assert np.ptp(day) == pytest.approx(cooling.range_k)
    assert 600 < cooling.year["direct_normal_wh_m2"][cooling.first : cooling.last].max() < 1050
    assert (cooling.year["relative_humidity_pct"] <= 100 + 1e-9).all()
    assert cooling.last - cooling.first == 7 * 24


def test_conditions_in_the_file_are_taken_at_their_word() -> None:
    climate = replace(standin_year("merrowhaven"), header=("LOCATION,x", HEADER), digest="with-conditions")
    heating, cooling = design_days(climate)
    assert (heating.highest_c, cooling.highest_c, cooling.range_k) == (-21.5, 33.5, 11.0)
    assert "weather file" in heating.what


@pytest.mark.parametrize(
    "line",
    ["DESIGN CONDITIONS,0", "DESIGN CONDITIONS,1,x,,Heating", "DESIGN CONDITIONS,1,x,,Heating,1,cold,Cooling,7,9,nan", "DESIGN CONDITIONS"],
)
def test_a_header_without_conditions_falls_back_to_the_year(line: str) -> None:
    climate = replace(standin_year("merrowhaven"), header=(line,), digest=line)
    heating, cooling = design_days(climate)
    assert "this year" in heating.what
    assert "this year" in cooling.what


def test_heating_is_sized_by_what_leaves_a_warm_empty_dark_building() -> None:
    always = {"weekday": [20.0] * 24}
    box = [{"id": "r", "box": {"length": 8, "depth": 6, "height": 3}}]
    zone = {"id": "z", "zone": "*", "gains_w": 900.0, "heating_c": always, "air_changes": 0.5}
    scheme = make_scheme(zones=box, use={"zones": [zone]}, method={"films": "standard"})
    climate = standin_year("karsk-basin")
    sized = size(Place(), Library(), scheme, Factors(), climate)["heating"]
    made = run(Place(), Library(), scheme, Factors(), design_days(climate)[0].year)
    apart = 20.0 - sized["highest_c"]
    air = 0.5 * 144 / 3600 * made.arrays.heat_per_m3 * apart
    opaque = sum(s.area / (0.17 + sum(r for r, _ in s.layers)) for s in made.arrays.elements if s.ground_h == 0) * apart
    ground = float(sized["load_w"]) - air - opaque
    assert 0 < ground < 0.6 * sized["load_w"]  # what is left goes to the ground and by the films' detail
    assert sized["load_w"] > made.demand.heating_w.max()  # gains are not counted on
    assert sized["at"] is None
    assert sum(z["load_w"] for z in sized["zones"]) == pytest.approx(sized["load_w"], rel=0.01)


def test_cooling_is_sized_in_the_warm_season_with_people_and_sun() -> None:
    scheme = make_scheme(volumes=[volume(zoning="perimeter_core")])
    climate = standin_year("merrowhaven")
    sized = size(Place(), Library(), scheme, Factors(), climate)["cooling"]
    year = run(Place(), Library(), scheme, Factors(), climate, 4).outcome.peaks
    assert sized["at"].startswith(("06-", "07-", "08-"))
    assert 0.6 * year["cooling_w"] < sized["load_w"] < 1.8 * year["cooling_w"]
