"""The compiled kernel against the same balance in one dense matrix an hour."""

from __future__ import annotations

import numpy as np
import pytest

from eurythm.climate.standin import standin_year
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme
from tests.conftest import make_scheme, run_scheme, volume
from tests.reference import dense_hours

HOURS = 24 * 6


def office(**more: object) -> Scheme:
    skin = {"glazing_ratio": {"south": 0.5, "west": 0.4}, "overhang_depth_m": {"south": 0.8}}
    return make_scheme(volumes=[volume(zoning="perimeter_core")], skin=skin, method={"run_in_days": 4}, **more)


SCHEMES = {
    "perimeter and core": office(),
    "two storeys": make_scheme(volumes=[volume(storeys=2)], method={"run_in_days": 4}),
    "standard films": make_scheme(volumes=[volume()], method={"run_in_days": 4, "films": "standard"}),
    "a zone that floats": office(use={"zones": [{"id": "c", "zone": "*/core", "conditioned": False}]}),
    "leaky, stopped at its limits": office(
        use={
            "permeability_m3_hm2": 8.0,
            "control": "operative",
            "zones": [{"id": "p", "zone": "*", "heating_most_w_m2": 15, "cooling_most_w_m2": 8}],
        },
        plant={"ventilation": {"economiser": 2.5}},
    ),
    "aired, then cooled": office(
        use={"cooling_c": 23.0, "airing": {"openable_share": 0.2, "hours": "always", "night_purge": True, "opens_above_c": 21}}
    ),
    "aired beside cooling, doors open": office(
        use={
            "cooling_c": 23.0,
            "airing": {"openable_share": 0.1, "hours": "always", "opens_above_c": 21, "two_sided": True, "beside_cooling": True},
        },
        air_paths=[
            {"id": "d", "zone_a": "v1/s0/e1", "zone_b": "v1/s0/core", "opening_m2": 2.0},
            {"id": "f", "zone_a": "v1/s0/e2", "zone_b": "v1/s0/core", "flow_m3_h": 300},
        ],
    ),
    "bridges, inner walls, a warm neighbour": make_scheme(
        volumes=[volume()],
        skin={
            "thermal_bridges": {"surcharge_w_m2k": 0.1, "rims_w_mk": 0.05, "edges_w_mk": 0.1},
            "inner_walls_m2_m2": 0.8,
            "overrides": [{"id": "n", "face": "v1/s0/e2", "boundary": "fixed", "boundary_c": 14}],
        },
        method={"run_in_days": 4},
    ),
    "stacked": make_scheme(
        volumes=[volume("a"), volume("b", base_level_m=3.5, x=2, y=2, form={"length": 9, "depth": 7})], method={"run_in_days": 4}
    ),
}


@pytest.mark.parametrize("name", SCHEMES)
@pytest.mark.parametrize("place", ["karsk-basin", "sorrel-flats"])
def test_kernel_equals_the_dense_solve(name: str, place: str) -> None:
    made = run_scheme(SCHEMES[name], standin_year(place))
    air, load = dense_hours(made.arrays, HOURS)
    assert np.abs(made.demand.air_c[:, :HOURS] - air).max() < 2e-3
    signed = made.demand.heating_w[:, :HOURS] - made.demand.cooling_w[:, :HOURS]
    size = max(float(np.abs(load).max()), 100.0)
    assert np.abs(signed - load).max() < 1e-4 * size
    assert np.abs(load).sum() > 0


def test_what_the_comparison_is_about_happens() -> None:
    """Windows open, plants stop at their limits and the economiser runs, in the very hours that are compared."""
    warm = standin_year("sorrel-flats")
    aired = run_scheme(SCHEMES["aired, then cooled"], warm).demand
    shut_and_cooled = (aired.cooling_w[:, :HOURS] > 0) & (aired.open_wk[:, :HOURS] == 0)
    assert (aired.open_wk[:, :HOURS] > 0).sum() > 100
    assert shut_and_cooled.sum() > 5
    beside = run_scheme(SCHEMES["aired beside cooling, doors open"], warm).demand
    assert ((beside.open_wk > 0) & (beside.cooling_w > 0)).any()
    leaky = run_scheme(SCHEMES["leaky, stopped at its limits"], warm)
    at_limit = leaky.demand.cooling_w[:, :HOURS] >= 8 * leaky.arrays.floor_area[:, None] * (1 - 1e-9)
    assert at_limit.sum() > 5
    assert (leaky.demand.supply_wk > 1.5 * leaky.arrays.series["fresh"] + 1e-9).any()


def test_dense_solve_would_notice_a_wrong_film() -> None:
    """The comparison has teeth: a film that is off by a hundredth shows."""
    made = run_scheme(SCHEMES["two storeys"], standin_year("karsk-basin"))
    other = run_scheme(
        read_document(Scheme, {**SCHEMES["two storeys"].model_dump(mode="json", exclude_unset=True), "use": {"infiltration_ach": 0.1515}}),
        standin_year("karsk-basin"),
    )
    _, load = dense_hours(other.arrays, HOURS)
    signed = made.demand.heating_w[:, :HOURS] - made.demand.cooling_w[:, :HOURS]
    assert np.abs(signed - load).max() > 1e-4 * float(np.abs(load).max())
