"""What a scheme is made of and what that comes to, against a box worked by hand."""

from __future__ import annotations

import numpy as np
import pytest

from eurythm.assess.lifetime import present
from eurythm.assess.worth import held_against
from eurythm.brief.costs import COSTS, costs_of
from eurythm.climate.year import ClimateYear
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.simulate import Run, run
from tests.conftest import make_scheme, volume

PLAIN = {"ready": "gas-radiators"}
BARE = dict.fromkeys(("north", "east", "south", "west"), 0.25)


def made(climate: ClimateYear, factors: dict | None = None, library: dict | None = None, **parts: object) -> Run:
    scheme = make_scheme(**{"volumes": [volume()], "plant": {"main": PLAIN}, **parts})
    return run(Place(), read_document(Library, library or {}), scheme, read_document(Factors, factors or {}), climate)


def entry(one: Run, cost_id: str) -> dict:
    (found,) = [p for p in one.outcome.worth["parts"] if p["cost_id"] == cost_id]
    return dict(found)


def test_a_box_is_made_of_its_areas(merrowhaven: ClimateYear) -> None:
    """20 x 12 x 3.5 m, a quarter glass: 168 m² of wall with 160 mm of insulation, 56 m² of glass, 240 m² of roof; a boiler by its kW."""
    one = made(merrowhaven, skin={"glazing_ratio": BARE, "thermal_bridges": {"surcharge_w_m2k": 0}})
    wall, glass, boiler = entry(one, "wall"), entry(one, "window-2"), entry(one, "heat-boiler-gas")
    assert wall["amount"] == pytest.approx(0.75 * 64 * 3.5)
    thick = sum(layer.thickness_m for layer in one.brief.constructions["wall"].layers if layer.insulation)
    assert wall["cost"] == pytest.approx(168 * (260 + thick * 170))
    assert glass["amount"] == pytest.approx(56.0)
    assert glass["cost"] == pytest.approx(56 * 480)
    assert glass["carbon_kg"] == pytest.approx(56 * 85)
    assert entry(one, "roof")["amount"] == pytest.approx(240.0)
    assert boiler["amount"] == pytest.approx(one.delivered.systems[0]["heat"][0]["rated_kw"])
    worth = one.outcome.worth
    assert worth["investment"] == pytest.approx(sum(p["cost"] or 0 for p in worth["parts"]))
    assert worth["global_cost"] == pytest.approx(
        worth["investment"] + worth["replacements"] + worth["upkeep"] + worth["energy"] - worth["residual"]
    )
    assert worth["whole_life_kg"] == pytest.approx(worth["embodied_kg"] + worth["replacement_kg"] + worth["operation_kg"])
    assert worth["operation_kg"] == pytest.approx(30 * one.outcome.totals["carbon_kg"])
    assert one.outcome.totals["global_cost_per_m2"] == pytest.approx(worth["global_cost"] / one.outcome.totals["conditioned_floor_area_m2"])


def test_what_has_no_cost_or_carbon_is_named(merrowhaven: ClimateYear) -> None:
    stated = {"constructions": [{"id": "flat", "name": "Flat", "element": "roof", "u_value": 0.2}]}
    one = made(merrowhaven, library=stated, skin={"roof": "flat"}, plant={})
    worth = one.outcome.worth
    assert worth["without_cost"] == ["Plant told by seasonal figures"]
    assert {"Plant told by seasonal figures", "Roof: Flat"} <= set(worth["without_carbon"])
    equivalent = 0.036 * (1 / 0.2 - 0.3)
    assert entry(one, "roof")["cost"] == pytest.approx(240 * (230 + equivalent * 170), rel=1e-3)


def test_thicker_insulation_and_shades_cost_more(merrowhaven: ClimateYear) -> None:
    base, thick, shaded = (
        made(merrowhaven, skin=skin).outcome.worth["investment"]
        for skin in ({}, {"wall_insulation_m": 0.30}, {"overhang_depth_m": {"south": 1.0}, "blinds": {"place": "outside"}})
    )
    assert thick > base
    assert shaded > base


def test_given_costs_stand_before_the_table(merrowhaven: ClimateYear) -> None:
    given = {"costs": [{"id": "window-2", "cost": 1000, "life_years": 10}, {"id": "no-such", "cost": 1}], "money": {"horizon_years": 20}}
    table = costs_of(read_document(Factors, given))
    assert (table["window-2"].cost, table["window-2"].given) == (1000, {"cost", "life_years"})
    assert table["roof"] == COSTS["roof"]
    one = made(merrowhaven, given)
    glass = entry(one, "window-2")
    assert glass["cost"] == pytest.approx(1000 * glass["amount"])
    assert one.outcome.worth["horizon_years"] == 20
    assert one.outcome.worth["replacements"] > glass["cost"] / 1.03**10 * 0.999


@pytest.mark.parametrize("wrong", [
    {"money": {"horizon_years": 0}}, {"money": {"horizon_years": 101}}, {"money": {"discount_rate": 0.6}}, {"money": {"discount_rate": -0.01}},
    {"costs": [{"id": "pv", "cost": -1}]}, {"costs": [{"id": "pv", "life_years": 0}]}, {"costs": [{"id": "pv", "upkeep_share": 0.9}]},
])  # fmt: skip
def test_costs_that_cannot_be_are_refused(wrong: dict) -> None:
    with pytest.raises(EurythmError):
        read_document(Factors, wrong)


@pytest.mark.parametrize(("horizon", "rate"), [(1, 0.0), (100, 0.5), (30, 0.0)])
def test_years_and_rates_at_their_ends_give_an_answer(horizon: int, rate: float, merrowhaven: ClimateYear) -> None:
    worth = made(merrowhaven, {"money": {"horizon_years": horizon, "discount_rate": rate}}).outcome.worth
    assert worth["global_cost"] > 0
    assert worth["residual"] < worth["investment"] + worth["replacements"]


def test_one_scheme_against_another_in_words(merrowhaven: ClimateYear) -> None:
    """A ground heat pump against gas: dearer to build, cheaper a year, less carbon; the value is the difference of the global costs."""
    gas, pump = (made(merrowhaven, plant={"main": {"ready": r}}).outcome for r in ("gas-fan-coils", "ground-pump-floor"))
    held = held_against(vars(pump), vars(gas), Factors(), "Gas")
    assert held["net_present_value"] == pytest.approx(gas.worth["global_cost"] - pump.worth["global_cost"])
    assert held["extra"] == pytest.approx(pump.worth["investment"] - gas.worth["investment"])
    assert held["avoided_kg"] == pytest.approx(gas.worth["whole_life_kg"] - pump.worth["whole_life_kg"])
    assert "than Gas" in held["sentence"]
    assert "€ a tonne" in held["sentence"]
    same = held_against(vars(gas), vars(gas), Factors(), "Gas")
    assert same["net_present_value"] == pytest.approx(0, abs=1e-6)
    assert same["sentence"].startswith("As much to build as Gas, as much a year")
    seasonal = made(merrowhaven, plant={}).outcome
    assert "Without the cost of “Plant told by seasonal figures”" in held_against(vars(pump), vars(seasonal), Factors(), "Gas")["sentence"]


def test_a_growing_price_counts_over_the_years(merrowhaven: ClimateYear) -> None:
    plain, growing = (made(merrowhaven, {"gas": {"growth": g}}) for g in (0.0, 0.02))
    gas = plain.outcome.totals["carrier_cost"]["gas"]
    more = growing.outcome.worth["energy"] - plain.outcome.worth["energy"]

    by_hand = present(np.array([0.0, *(gas * (1.02 ** (t - 1) - 1) for t in range(1, 31))]), 0.03)
    assert more == pytest.approx(by_hand)
