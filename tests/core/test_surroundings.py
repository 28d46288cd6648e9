"""Neighbours and trees: what they hide, what counts, and how crowns and ground behave over the year."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from eurythm.climate.year import MONTH_OF_HOUR, ClimateYear
from eurythm.explain.case import Case
from eurythm.explain.surroundings import what_hides
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.sun.obstacles import crown_triangles, neighbours
from eurythm.sun.radiation import crown_transmittance, ground_reflectance
from tests.conftest import make_scheme, run_scheme, volume

NEAR = {"id": "near", "x": 0, "y": -14, "length": 20, "depth": 5, "height": 12}
FAR = {"id": "far", "x": 900, "y": 900, "length": 5, "depth": 5, "height": 3}
TREE = {"id": "t", "x": 26, "y": 5, "height": 9, "crown": 6}


def place(**parts: Any) -> Place:
    return read_document(Place, parts)


def case(where: Place, climate: ClimateYear) -> Case:
    return Case(where, Library(), make_scheme(volumes=[volume()]), Factors(), climate)


def test_what_stands_near_hides_and_what_is_far_can_be_left_out(merrowhaven: ClimateYear) -> None:
    told = what_hides(case(place(boxes=[NEAR, FAR], trees=[TREE]), merrowhaven))
    assert next(t.id for t in told.things) == "near"
    near = told.things[0]
    assert near.kwh > 500
    assert 0.01 < near.share < 0.5
    assert near.energy_kwh_m2 != 0
    assert told.idle == ("far",)
    assert abs(told.change_kwh_m2) < 0.01


def test_what_does_not_count_shades_nothing_and_stays_in_the_document(merrowhaven: ClimateYear) -> None:
    out = place(boxes=[NEAR | {"counts": False}], trees=[TREE | {"counts": False}])
    assert neighbours(out) == []
    assert out.standing_trees == ()
    scheme = make_scheme(volumes=[volume()])
    bare, left = (run_scheme(scheme, place=p).outcome.totals["eui_kwh_per_m2"] for p in (Place(), out))
    assert left == pytest.approx(bare)
    told = what_hides(case(out, merrowhaven))
    assert told.things[0].id == "near"
    assert not told.things[0].counts


@pytest.mark.parametrize("form", ["round", "column", "cone"])
def test_crowns_are_as_high_and_wide_as_given(form: str) -> None:
    corners = crown_triangles(np.array([3.0, 4.0, 5.0]), 6.0, 8.0, form).reshape(-1, 3)
    assert corners[:, 2].min() == pytest.approx(1.0)
    assert corners[:, 2].max() == pytest.approx(9.0)
    assert np.ptp(corners[:, 0]) == pytest.approx(6.0)


def test_a_column_shades_more_than_a_cone(merrowhaven: ClimateYear) -> None:
    tree = {"id": "t", "x": 10, "y": -4, "height": 12, "crown": 6, "leaf_transmittance": 0.0, "bare_transmittance": 0.0}
    kwh = {f: what_hides(case(place(trees=[tree | {"form": f}]), merrowhaven)).things[0].kwh for f in ("round", "column", "cone")}
    assert kwh["column"] > kwh["round"] > 0
    assert kwh["column"] > kwh["cone"] > 0


def test_months_in_leaf_may_pass_new_year_and_turn_in_the_south() -> None:
    tree = {**TREE, "leaf_transmittance": 0.1, "bare_transmittance": 0.9}
    summer = crown_transmittance(place(trees=[tree | {"leaf_first": 4, "leaf_last": 6}]), 50.0)
    assert {m + 1 for m in range(12) if summer[m == MONTH_OF_HOUR][0] < 0.5} == {4, 5, 6}
    winter = crown_transmittance(place(trees=[tree | {"leaf_first": 11, "leaf_last": 1}]), 50.0)
    assert {m + 1 for m in range(12) if winter[m == MONTH_OF_HOUR][0] < 0.5} == {11, 12, 1}
    south = crown_transmittance(place(trees=[tree | {"leaf_first": 4, "leaf_last": 6}]), -30.0)
    assert {m + 1 for m in range(12) if south[m == MONTH_OF_HOUR][0] < 0.5} == {10, 11, 12}


def test_snow_on_the_ground_brightens_walls_in_its_months_only() -> None:
    months = [0.7, 0.7] + [0.2] * 10
    assert ground_reflectance(place(ground_by_month=months))[[0, 5000]].tolist() == [0.7, 0.2]
    scheme = make_scheme(volumes=[volume()])
    plain, snow = (run_scheme(scheme, place=p).light["v1/s0/e1"].wall for p in (Place(), place(ground_by_month=months)))
    january, june = (MONTH_OF_HOUR == 0), (MONTH_OF_HOUR == 5)
    assert snow[january].sum() > plain[january].sum() * 1.05
    assert snow[june].sum() == pytest.approx(plain[june].sum())
