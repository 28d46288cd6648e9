"""Plant by zone and system, and gains after light: the places that a pipeline with daylight and systems needs."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from pydantic import BaseModel

from eurythm import simulate as pipeline
from eurythm import steps
from eurythm.climate.standin import standin_year
from eurythm.climate.year import HOURS
from eurythm.memo import Made, Memo
from eurythm.model.library import Library
from eurythm.model.part import Excerpt
from eurythm.model.place import Place
from eurythm.model.plant import Plant
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.plant.delivered import FromSun, deliver
from eurythm.plant.seasonal import Seasonal
from eurythm.plant.system import Energy, Wanted
from eurythm.simulate import Prepared, prepare_case, run_many
from eurythm.thermal.balance import balance, course_of
from eurythm.thermal.batch import balance_many
from eurythm.thermal.comfort import limits_of
from eurythm.thermal.demands import Lights
from tests.conftest import make_scheme, run_scheme, volume

MOIST = {"use": {"humidity_most_pct": 50, "humidity_least_pct": 35}}
COSTLY = read_document(Plant, {"heating": {"carrier": "gas", "efficiency": 0.9}, "hot_water": {"carrier": "gas", "efficiency": 0.8}})


def prepared(lights: Made[Lights] | None = None, **more: object) -> Prepared:
    scheme = make_scheme(volumes=[volume(zoning="perimeter_core")], method={"run_in_days": 5}, **more)
    return prepare_case(Place(), Library(), scheme, Factors(), standin_year("merrowhaven"), lights=lights)


def apart_from(case: Prepared) -> tuple[FromSun, Plant, np.ndarray]:
    return case.sun, Plant(), case.brief.climate.air_c


def dimmed(case: Prepared, share: float) -> Made[Lights]:
    return Made(f"dimmed to {share}", Lights(np.full((len(case.arrays.zone_ids), HOURS), share)))


def test_zones_on_systems_of_their_own_ask_for_what_they_ask_for_together() -> None:
    case = prepared(**MOIST)
    limits = limits_of(case.arrays.zones, Factors())
    apart = replace(case.arrays, system=np.array([0, 1, 0, 1, 2], dtype=np.uint64), owner=(0, 1, 2))
    one, many = course_of(case.arrays, balance(case.arrays), limits), course_of(apart, balance(apart), limits)
    assert many.systems.shape == (3, 8, HOURS)
    assert (many.systems.sum(axis=2)[:, :3] > 0).all()
    assert many.systems.sum(axis=0) == pytest.approx(one.systems[0], rel=1e-12, abs=1e-9)
    for course in balance_many([apart] * 9, [limits] * 9):  # side by side
        assert np.abs(course.systems - many.systems).max() <= 1e-6 * many.systems.max()


def test_each_system_answers_for_its_own_zones() -> None:
    case = prepared(**MOIST)
    arrays = replace(case.arrays, system=np.array([0, 1, 0, 1, 1], dtype=np.uint64), owner=(0, 1))
    course = course_of(arrays, balance(arrays), limits_of(arrays.zones, Factors()))
    alike = deliver([Seasonal(COSTLY), Seasonal(COSTLY)], course, arrays, *apart_from(case))
    whole = deliver(
        [Seasonal(COSTLY)], course_of(case.arrays, balance(case.arrays), limits_of(arrays.zones, Factors())), case.arrays, *apart_from(case)
    )
    for use, series in whole.end_use.items():
        assert alike.end_use[use] == pytest.approx(series, rel=1e-9, abs=1e-9), use
    mixed = deliver([Seasonal(COSTLY), Seasonal(Plant())], course, arrays, *apart_from(case))
    heat = course.systems[:, 0].sum(axis=1)
    assert mixed.energy["heating", "gas"].sum() == pytest.approx(heat[0] / 0.9)
    assert mixed.energy["heating", Plant().heating.carrier].sum() == pytest.approx(heat[1] / Plant().heating.efficiency)
    assert mixed.end_use["heating"].sum() == pytest.approx(heat[0] / 0.9 + heat[1] / Plant().heating.efficiency)


def test_a_system_of_ones_own_is_a_class_that_answers() -> None:
    """All from the grid at one to one, half of it lost on the way."""

    class Lossy:
        def takes(self, wanted: Wanted) -> Energy:
            return {("heating", "biomass"): 1.5 * wanted.heating_w, ("cooling", "electricity"): 1.5 * wanted.cooling_w}

    case = prepared()
    course = course_of(case.arrays, balance(case.arrays), limits_of(case.arrays.zones, Factors()))
    found = deliver([Lossy()], course, case.arrays, *apart_from(case))
    assert found.imported["biomass"].sum() == pytest.approx(1.5 * course.heating_w.sum())
    assert found.end_use["hot_water"].sum() == 0


def test_lights_that_are_dimmed_heat_less_alone_and_side_by_side(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(pipeline, "MEMO", Memo())
    full = prepared()
    half = prepared(dimmed(full, 0.5))
    less = prepared(use={"lighting_w_m2": 0.5 * full.arrays.zones[0].profile.lighting_w_m2})
    assert half.arrays.asked.total("lighting") == pytest.approx(less.arrays.asked.total("lighting"))
    assert half.arrays.asked.of is full.arrays.asked.of  # what use asks stays shared
    found = run_many([full, half, less] * 3)
    assert found[1].totals["energy_kwh"] == pytest.approx(found[2].totals["energy_kwh"], rel=1e-6)
    assert found[1].totals["heating_demand_kwh"] > 1.02 * found[0].totals["heating_demand_kwh"]
    alone = balance(half.arrays)
    assert alone.heating_w.sum() / 1000 == pytest.approx(found[1].totals["heating_demand_kwh"], rel=1e-6)


def test_a_step_cannot_read_what_it_does_not_declare() -> None:
    scheme = make_scheme(volumes=[volume()])
    read = Excerpt(scheme, steps.FORM).read
    assert read.volumes[0].form.depth == scheme.volumes[0].form.depth  # type: ignore[union-attr]
    with pytest.raises(AttributeError):
        _ = read.use.heating_c
    openings: BaseModel = Excerpt(scheme, steps.OPENINGS).read.skin
    with pytest.raises(AttributeError):
        _ = openings.wall  # type: ignore[attr-defined]
    changed = scheme.model_copy(update={"use": scheme.use.model_copy(update={"heating_c": 17.0})})
    assert Excerpt(changed, steps.OPENINGS).digest == Excerpt(scheme, steps.OPENINGS).digest
    assert Excerpt(changed, steps.USE).digest != Excerpt(scheme, steps.USE).digest


def test_a_system_whose_zones_are_gone_is_told() -> None:
    plant = {"systems": [{"id": "hall", "name": "Hall", "ready": "all-air-pump", "zones": ["hall/*"]}]}
    remarks = run_scheme(make_scheme(volumes=[volume()], plant=plant)).outcome.remarks
    assert [r["object"] for r in remarks if r["code"] == "system-without-zone"] == ["scheme/plant/systems/hall/zones"]
