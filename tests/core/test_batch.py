"""Cases side by side against the same cases one by one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eurythm.climate.standin import standin_year
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme
from eurythm.simulate import Prepared, prepare_case, run_many
from eurythm.study.plan import in_order
from eurythm.study.runner import run_lot
from eurythm.thermal import batch
from eurythm.thermal.balance import balance, course_of
from eurythm.thermal.batch import balance_many, batch_key
from eurythm.thermal.comfort import limits_of
from eurythm.thermal.kernel import Y
from eurythm.thermal.lanes import address_of
from eurythm.thermal.layout import light_of
from tests.conftest import make_scheme, steady_year, volume
from tests.core.test_study import job, spec

LIMITS = read_document(Factors, {"too_warm_c": 25.0, "too_cold_c": 20.0})


def prepared(scheme: Scheme, place: str = "merrowhaven", substeps: int = 1) -> Prepared:
    return prepare_case(Place(), Library(), scheme, Factors(), standin_year(place), substeps)


def ratios(*values: float, **more: object) -> list[Prepared]:
    core = {"volumes": [volume(zoning="perimeter_core")], "method": {"run_in_days": 10}, **more}
    return [prepared(make_scheme(**core, skin={"glazing_ratio": {"south": v}})) for v in values]


def assert_same(cases: list[Prepared], rel: float = 1e-6) -> None:
    together = balance_many([c.arrays for c in cases], [limits_of(c.arrays.zones, LIMITS) for c in cases])
    for case, course in zip(cases, together, strict=True):
        alone = course_of(case.arrays, balance(case.arrays), limits_of(case.arrays.zones, LIMITS))
        for name in ("heating_w", "cooling_w"):
            one, many = getattr(alone, name), getattr(course, name)
            assert np.abs(many - one).max() <= rel * max(float(np.abs(one).max()), 1.0)
        assert course.too_warm_h == pytest.approx(alone.too_warm_h, abs=1.0)  # an hour may lie on the limit itself
        assert course.too_cold_h == pytest.approx(alone.too_cold_h, abs=1.0)
        for name, sums in alone.zones.items():
            assert course.zones[name] == pytest.approx(sums, rel=rel, abs=1e-3), name
        assert course.closure.max() < 1e-5
        assert course.closure == pytest.approx(alone.closure, abs=1e-7)


@pytest.mark.parametrize("count", [3, 8, 9, 33])
def test_any_number_of_cases_agrees_lane_by_lane(count: int) -> None:
    assert_same(ratios(*np.linspace(0.05, 0.9, count)))


def test_order_is_kept_and_results_differ() -> None:
    cases = ratios(0.8, 0.1, 0.5, 0.3)
    courses = balance_many([c.arrays for c in cases], [limits_of(c.arrays.zones, LIMITS) for c in cases])
    cold = [c.cooling_w.sum() for c in courses]
    assert cold[0] > cold[2] > cold[3] > cold[1]


@pytest.mark.parametrize(
    "more",
    [
        {"use": {"zones": [{"id": "f", "zone": "*/core", "conditioned": False}]}},
        {"method": {"films": "standard", "run_in_days": 10}},
        {"volumes": [volume(storeys=2, base_level_m=-2.0), volume("up", base_level_m=5.0, x=2, y=2, form={"length": 9, "depth": 7})]},
        {"volumes": [], "zones": [{"id": "r", "box": {"length": 8, "depth": 6, "height": 2.7}}]},
    ],
    ids=["floating core", "standard films", "stacked in the ground", "a box"],
)
def test_every_kind_of_element_agrees(more: dict) -> None:
    base = {"volumes": [volume(zoning="perimeter_core")], "method": {"run_in_days": 10}, **more}
    leaks = (0.05, 0.2, 0.5, 0.9)
    cases = [prepared(make_scheme(**{**base, "use": {**base.get("use", {}), "infiltration_ach": leak}}), "karsk-basin") for leak in leaks]
    assert len({batch_key(c.arrays) for c in cases}) == 1
    assert_same(cases)


def test_sub_steps_agree() -> None:
    scheme = make_scheme(volumes=[volume()], method={"run_in_days": 3})
    assert_same(
        [prepared(scheme.model_copy(update={"turn_deg": t}), "sorrel-flats", substeps=4) for t in (0.0, 20.0, 40.0)],
    )


def test_light_that_cases_share_is_brought_in_once() -> None:
    """Cases that differ in insulation share all rows of absorbed sun; a row of its own is told apart in its lane only."""
    core = {"volumes": [volume(zoning="perimeter_core")], "method": {"run_in_days": 10}}
    cases = [prepared(make_scheme(**core, skin={"wall_insulation_m": depth})).arrays for depth in (0.1, 0.2, 0.3)]
    suns = len(cases[0].sun_outside)
    cases.append(replace(cases[0], sun_outside=cases[0].sun_outside[::-1]))
    lanes = light_of(cases).reshape(-1, 4)
    assert (lanes[:suns, :3] == lanes[:suns, :1]).all()
    assert (lanes[:suns, 3] == lanes[:suns, 0][::-1]).all()
    assert len(np.unique(lanes[:suns])) == suns
    for lane, case in enumerate(cases):
        for at, series in zip(lanes[:, lane], [*case.sun_outside, *case.solar, case.ground_k], strict=True):
            assert at == address_of(series)


def test_setpoints_and_profiles_may_differ_within_a_batch() -> None:
    uses = [{"heating_c": 19.0}, {"heating_c": 22.0}, {"profile": "office"}, {"cooling_c": 24.0, "lighting_w_m2": 20.0}]
    cases = [prepared(make_scheme(volumes=[volume(zoning="perimeter_core")], use=u, method={"run_in_days": 10})) for u in uses]
    assert len({batch_key(c.arrays) for c in cases}) == 1
    assert_same(cases)


def test_layers_and_glass_may_differ_within_a_batch() -> None:
    skins = [{"wall_insulation_m": 0.1}, {"wall_insulation_m": 0.3}, {"glazing": "triple-clear"}, {"roof_insulation_m": 0.05}]
    cases = [prepared(make_scheme(volumes=[volume(zoning="perimeter_core")], skin=s, method={"run_in_days": 10})) for s in skins]
    assert len({batch_key(c.arrays) for c in cases}) == 1
    assert_same(cases)


def test_what_cannot_stand_side_by_side_goes_apart() -> None:
    plain = ratios(0.2, 0.4, 0.6)
    thick = [
        prepared(make_scheme(volumes=[volume(zoning="perimeter_core")], skin={"wall_insulation_m": t}, method={"run_in_days": 10}))
        for t in (0.1, 0.2)
    ]
    cold = [prepared(make_scheme(volumes=[volume(zoning="perimeter_core")], method={"run_in_days": 10}), "karsk-basin")]
    whole = [prepared(make_scheme(volumes=[volume()]))]
    mixed = [plain[0], thick[0], plain[1], cold[0], thick[1], whole[0], plain[2]]
    assert len({batch_key(c.arrays) for c in mixed}) == 3
    assert_same(mixed)


def test_places_of_one_climate_do_not_share_the_sun_s_shape() -> None:
    """With sub-steps radiation is shaped by the sun over the place, which two cases of one climate may have apart."""
    scheme = make_scheme(volumes=[volume()], method={"run_in_days": 2})
    places = [Place(), Place(latitude_deg=20.0), Place(latitude_deg=-40.0, longitude_deg=60.0)]
    cases = [prepare_case(place, Library(), scheme, Factors(), standin_year("merrowhaven"), 4) for place in places]
    assert len({batch_key(c.arrays) for c in cases}) == 3
    assert_same([*cases, *cases, *cases])


def test_summaries_are_those_of_the_single_run() -> None:
    from eurythm.simulate import simulate

    schemes = [make_scheme(volumes=[volume(storeys=2)], turn_deg=t, plant={"photovoltaics": {"roof_share": 0.4}}) for t in (0, 30, 60, 90)]
    together = run_many([prepared(s) for s in schemes])
    for scheme, summary in zip(schemes, together, strict=True):
        alone = simulate(Place(), Library(), scheme, Factors(), standin_year("merrowhaven"))
        for name in ("eui_kwh_per_m2", "eui_net_kwh_per_m2", "carbon_kg", "cost", "heating_demand_kwh", "cooling_demand_kwh"):
            assert summary.totals[name] == pytest.approx(alone.totals[name], rel=1e-6)
        assert summary.peaks["cooling_at"] == alone.peaks["cooling_at"]
        assert summary.peaks["heating_w"] == pytest.approx(alone.peaks["heating_w"], rel=1e-6)
        assert summary.comfort["occupied_h"] == pytest.approx(alone.comfort["occupied_h"])
        assert summary.totals["energy_kwh"] == pytest.approx(alone.totals["energy_kwh"], rel=1e-6)


def test_nothing_to_run_is_nothing() -> None:
    assert run_many([]) == []
    assert balance_many([], []) == []


def test_a_case_that_gives_no_number_is_named_and_the_others_run(monkeypatch: pytest.MonkeyPatch) -> None:
    year = steady_year(0.0)
    broken = steady_year(1.0)
    broken.records["dry_bulb_c"][100] = np.nan
    scheme = make_scheme(volumes=[volume()])
    bad = prepare_case(Place(), Library(), scheme, Factors(), broken)
    good = prepare_case(Place(), Library(), scheme, Factors(), year)
    with pytest.raises(EurythmError) as fault:
        run_many([bad, bad, bad, good])
    assert (fault.value.code, fault.value.path) == ("not-finite", "zones/v1/s0/all")

    real = batch.balance_many

    def spoilt(cases: list, *limits: float) -> list:
        if len(cases) > 1:
            raise EurythmError("not-finite", "one of them", "zones")
        return real(cases, *limits)

    monkeypatch.setattr("eurythm.simulate.balance_many", spoilt)
    turns = spec({"kind": "turn", "steps": [0, 10, 20, 30]})
    lot = run_lot(job(turns), in_order(turns))
    assert [r.status for r in lot] == ["done"] * 4


def test_air_plant_and_moisture_agree() -> None:
    """Everything that the air, the plant and the moisture do, in lanes and alone."""
    more = {
        "use": {
            "permeability_m3_hm2": 6.0, "control": "operative", "humidity_most_pct": 50, "humidity_least_pct": 35,
            "airing": {"openable_share": 0.1, "night_purge": True, "hours": "always"},
        },
        "plant": {"ventilation": {"economiser": 2.0}, "cooling": {"most_w_m2": 30}, "heating": {"most_w_m2": 40}},
        "air_paths": [{"id": "d", "zone_a": "v1/s0/e1", "zone_b": "v1/s0/core", "opening_m2": 2.0}],
    }  # fmt: skip
    cases = ratios(0.2, 0.5, 0.9, **more)
    assert_same(cases)
    together = balance_many([c.arrays for c in cases], [limits_of(c.arrays.zones, LIMITS) for c in cases])
    for case, course in zip(cases, together, strict=True):
        alone = course_of(case.arrays, balance(case.arrays), limits_of(case.arrays.zones, LIMITS))
        for column in (Y.supplied, Y.dried, Y.wetted):
            one, many = alone.systems[0, int(column)], course.systems[0, int(column)]
            assert one.max() > 0
            assert np.abs(many - one).max() <= 1e-6 * one.max()


def test_documents_of_lots_are_checked_like_single_ones() -> None:
    wrong = read_document(Scheme, {"id": "t", "name": "T", "skin": {"wall": "nothing"}, "volumes": [volume()]})
    with pytest.raises(EurythmError) as fault:
        prepared(wrong)
    assert fault.value.path == "scheme/skin/wall"
