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
