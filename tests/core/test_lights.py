"""Light sensors, and lights that follow them."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely

from eurythm import simulate as pipeline
from eurythm import steps
from eurythm.brief.profiles import PROFILES
from eurythm.climate.year import HOURS
from eurythm.daylight.control import power_share
from eurythm.daylight.figures import year_of
from eurythm.daylight.illuminance import Illuminance
from eurythm.daylight.sensors import proposed, section_of
from eurythm.fabric.shipped import CONSTRUCTIONS
from eurythm.memo import Memo
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library, LightControl
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme
from eurythm.simulate import building_of, prepare_case, run_many
from eurythm.sun.radiation import sun_in_drawing
from tests.conftest import make_scheme, run_scheme, volume
from tests.daylit import BENT, FIVE, GLASS, SOUTH, YEAR, room


def test_a_narrow_zone_has_one_sensor_for_all_its_lights() -> None:
    building = building_of(Place(), room(8, 0.9))
    (only,) = proposed(building, building.zones[0])
    assert only.share == 1.0
    wide = building_of(Place(), room(4, 5))
    assert [s.share for s in proposed(wide, wide.zones[0])] == [0.5, 0.5]


def test_sensors_stand_inside_their_zone() -> None:
    building = building_of(Place(), make_scheme(volumes=[volume(kind="l", form=BENT, zoning="perimeter_core")]))
    for zone in building.zones:
        for sensor in proposed(building, zone):
            assert zone.plan is not None
            assert zone.plan.contains_properly(shapely.Point(sensor.at[:2]))
            assert sensor.at[2] == pytest.approx(zone.level + 0.8)


def test_figures_of_a_year_count_occupied_hours() -> None:
    lux, there = np.zeros(HOURS), np.zeros(HOURS, dtype=bool)
    lux[:4], there[1:5] = [4000, 300, 150, 50], True
    found = year_of(lux, there)
    assert (found.hours_above_target, found.autonomy, found.useful, found.beyond_useful) == (2, 0.25, 0.5, 0.0)
    assert found.mean_lx == pytest.approx(1125)
    assert year_of(lux, np.zeros(HOURS, dtype=bool)).autonomy == 0.0


def control(kind: str = "dimmed", **more: Any) -> LightControl:
    return read_document(LightControl, {"kind": kind, **more})


def test_dimmed_lights_follow_a_line_between_two_illuminances() -> None:
    lux = np.array([0.0, 100.0, 300.0, 500.0, 5000.0])
    assert power_share(lux, control(full_lx=100, enough_lx=500, least_share=0.2)) == pytest.approx([1, 1, 0.6, 0.2, 0.2])
    assert power_share(lux, control("none")) == pytest.approx(1.0)


def test_switched_lights_go_out_at_once_or_in_parts() -> None:
    lux = np.array([0.0, 150.0, 180.0, 350.0, 440.0, 500.0, 530.0])
    assert power_share(lux, control("switched", enough_lx=500)) == pytest.approx([1, 1, 1, 1, 1, 0.5, 0])
    assert power_share(lux, control("stepped", enough_lx=500, steps=3)) == pytest.approx([1, 1, 2 / 3, 1 / 3, 1 / 3, 1 / 6, 0])


def lit_by(lights: dict[str, Any], **more: Any) -> Scheme:
    return make_scheme(**(FIVE | more), use={"lights": lights})


def test_lights_that_follow_daylight_take_less_and_heat_less() -> None:
    """Lighting falls by what the zones' hours leave on, cooling with it, heating rises; nobody's lights burn more than they are asked to."""
    plain, dimmed = (run_scheme(lit_by({"kind": kind})) for kind in ("none", "dimmed"))
    before, after = plain.outcome.totals, dimmed.outcome.totals
    assert after["energy_kwh"]["lighting"] < 0.8 * before["energy_kwh"]["lighting"]
    assert after["cooling_demand_kwh"] < before["cooling_demand_kwh"]
    assert after["heating_demand_kwh"] > before["heating_demand_kwh"]
    was, now = (made.arrays.asked.gains["lighting"] / made.arrays.floor_area[:, None] for made in (plain, dimmed))
    assert (now <= was + 1e-12).all()
    up, _ = sun_in_drawing(0.0, YEAR.location)
    night = np.setdiff1d(np.arange(HOURS), up)
    assert (now[:, night] == was[:, night]).all()
    core = [z.id for z in dimmed.building.zones].index("v1/s0/core")
    assert (now[core] == was[core]).all()
    saved = sum(float((b - a) @ np.ones(HOURS)) * area for a, b, area in zip(now, was, dimmed.arrays.asked.floor_area, strict=True)) / 1000
    assert before["energy_kwh"]["lighting"] - after["energy_kwh"]["lighting"] == pytest.approx(saved, rel=1e-9)


def test_cases_side_by_side_dim_as_one_alone() -> None:
    kinds = [lit_by({"kind": kind}, skin={"glazing_ratio": {"south": ratio}}) for kind in ("none", "dimmed") for ratio in (0.2, 0.5, 0.7)]
    cases = [prepare_case(Place(), Library(), scheme, Factors(), YEAR) for scheme in kinds]
    for scheme, case, summary in zip(kinds, cases, run_many(cases), strict=True):
        alone = run_scheme(scheme).outcome.totals
        assert summary.totals["eui_kwh_per_m2"] == pytest.approx(alone["eui_kwh_per_m2"], rel=1e-6), case.brief.scheme.use.lights.kind


CHANGES: dict[str, dict[str, Any]] = {
    "another kind": {"use": {"lights": {"kind": "stepped"}}},
    "more light": {"use": {"lights": {"kind": "dimmed", "enough_lx": 300}}},
    "other glass": {"skin": {"glazing": "triple-solar"}},
    "more glass": {"skin": {"glazing_ratio": {"south": 0.7}}},
    "an overhang": {"skin": {"overhang_depth_m": {"south": 1.5}}},
    "louvres": {"skin": {"louvre_depth_m": {"south": 0.2}}},
    "turned": {"turn_deg": 30},
}


@pytest.mark.parametrize("name", CHANGES)
def test_a_change_is_the_same_from_a_warm_and_from_an_empty_memory(monkeypatch: pytest.MonkeyPatch, name: str) -> None:
    changed = make_scheme(**({**FIVE, "use": {"lights": {"kind": "dimmed"}}} | CHANGES[name]))
    before = run_scheme(lit_by({"kind": "dimmed"})).outcome.totals["energy_kwh"]["lighting"]
    warm = run_scheme(changed).outcome
    monkeypatch.setattr(pipeline, "MEMO", Memo())
    assert run_scheme(changed).outcome.totals["eui_kwh_per_m2"] == pytest.approx(warm.totals["eui_kwh_per_m2"], rel=1e-12)
    assert abs(warm.totals["energy_kwh"]["lighting"] / before - 1) > 1e-4


def test_daylight_is_worked_out_only_where_light_changes(monkeypatch: pytest.MonkeyPatch) -> None:
    made: list[int] = []
    real = steps.illuminance
    monkeypatch.setattr(steps, "illuminance", lambda *asked: made.append(1) or real(*asked))
    monkeypatch.setattr(pipeline, "MEMO", Memo())
    run_scheme(make_scheme(**FIVE))
    assert not made
    run_scheme(lit_by({"kind": "dimmed"}))
    for more in ({"enough_lx": 300}, {"least_share": 0.3}):
        run_scheme(lit_by({"kind": "dimmed", **more}))
    run_scheme(make_scheme(**FIVE, use={"lights": {"kind": "dimmed"}, "heating_c": 21}))
    run_scheme(make_scheme(**FIVE, use={"lights": {"kind": "dimmed"}}, skin={"wall_insulation_m": 0.3}))
    assert len(made) == 1
    run_scheme(make_scheme(**FIVE, use={"lights": {"kind": "dimmed"}}, skin={"glazing": "triple-solar"}))
    assert len(made) == 2


def test_crossed_figures_are_refused() -> None:
    with pytest.raises(EurythmError) as refused:
        run_scheme(lit_by({"kind": "dimmed", "full_lx": 600, "enough_lx": 500}))
    assert refused.value.code == "lights-crossed"
    assert refused.value.path == "scheme/use/lights/full_lx"


def placed(id: str = "a", zone: str = "v1/s0/all", **more: Any) -> dict[str, Any]:
    return {"id": id, "zone": zone, "x": 2.0, "y": 1.5, **more}


def with_sensors(*sensors: dict[str, Any], skin: Any = SOUTH, **more: Any) -> Scheme:
    return make_scheme(
        volumes=[volume(form={"length": 4, "depth": 5}, height=3)],
        skin=skin,
        use={"lights": {"kind": "dimmed"}, "sensors": sensors},
        **more,
    )


def at_sensors(scheme: Scheme, place: Place = Place()) -> Illuminance:
    return pipeline.daylight(place, Library(), scheme, YEAR)


def test_placed_sensors_stand_for_the_proposed_ones() -> None:
    found = at_sensors(with_sensors(placed(), placed("b", y=4.0, height_m=2.4, looks="down", share=0.3)))
    assert [s.share for s in found.sensors] == [0.7, 0.3]
    assert [tuple(s.at) for s in found.sensors] == [(2.0, 1.5, 0.8), (2.0, 4.0, 2.4)]
    assert found.sensors[1].normal[2] == -1
    assert 0 < found.lux[1].mean() < found.lux[0].mean()


def test_sensors_turn_with_their_scheme() -> None:
    every = {"glazing_ratio": dict.fromkeys(("south", "north", "east", "west"), 0.4)}
    straight, turned = (at_sensors(with_sensors(placed(x=1.0), turn_deg=t, skin=every), Place(north_deg=-t)) for t in (0.0, 90.0))
    assert turned.sensors[0].at != pytest.approx(straight.sensors[0].at)
    assert turned.lux.mean() == pytest.approx(straight.lux.mean(), rel=0.02)


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({"x": 9.0}, "stands in a wall"),
        ({"x": 4.0}, "stands in a wall"),
        ({"height_m": 3.0}, "not below the ceiling"),
        ({"zone": "gone"}, "no longer exists"),
    ],
)
def test_a_sensor_outside_its_zone_does_not_count_and_says_so(wrong: dict[str, Any], says: str) -> None:
    made = run_scheme(with_sensors(placed(**wrong)))
    (remark,) = [r for r in made.outcome.remarks if r["code"] == "sensor-misplaced"]
    assert says in remark["sentence"]
    assert remark["object"] == "scheme/use/sensors/a"
    proposal = run_scheme(with_sensors()).outcome.totals["energy_kwh"]["lighting"]
    assert made.outcome.totals["energy_kwh"]["lighting"] == pytest.approx(proposal, rel=1e-12)


def test_sensors_that_rule_more_than_all_lights_are_refused() -> None:
    with pytest.raises(EurythmError) as refused:
        run_scheme(with_sensors(placed(share=0.7), placed("b", y=3.0, share=0.4)))
    assert refused.value.code == "sensors-rule-too-much"
    assert refused.value.path == "scheme/use/sensors/b/share"


def lighting(**use: Any) -> float:
    energy = run_scheme(make_scheme(**FIVE, use=use)).outcome.totals["energy_kwh"]["lighting"]
    assert energy is not None
    return energy


def test_control_by_rule_and_by_use_profile() -> None:
    every = {"zone": "*", "lights": "dimmed"}
    bare, all_dimmed = lighting(), lighting(lights={"kind": "dimmed"})
    assert lighting(zones=[{"id": "r", **every}]) == pytest.approx(all_dimmed, rel=1e-12)
    assert all_dimmed < lighting(zones=[{"id": "r", "zone": "v1/s0/e1", "lights": "dimmed"}]) < bare
    assert lighting(lights={"kind": "dimmed"}, zones=[{"id": "r", "zone": "*", "lights": "none"}]) == pytest.approx(bare, rel=1e-12)
    assert lighting(lights={"kind": "dimmed"}, zones=[{"id": "r", "zone": "*", "enough_lx": 300}]) < all_dimmed
    own = next(p for p in PROFILES if p.id == "office").model_copy(update={"id": "own", "lights": control("dimmed")})
    by_profile = run_scheme(make_scheme(**FIVE, use={"profile": "own", "lights": {"kind": "profile"}}), library=Library(profiles=(own,)))
    plain = lighting(profile="office", lights={"kind": "dimmed"})
    assert by_profile.outcome.totals["energy_kwh"]["lighting"] == pytest.approx(plain, rel=1e-12)


def test_a_rule_that_crosses_figures_is_refused() -> None:
    with pytest.raises(EurythmError, match="In “v1, storey 0, south”: Lights burn fully"):
        lighting(lights={"kind": "dimmed", "full_lx": 350}, zones=[{"id": "r", "zone": "v1/s0/e1", "enough_lx": 300}])


def test_reflectances_of_scheme_and_construction() -> None:
    plain = at_sensors(with_sensors())
    for value in (0.0, 1.0):
        whole = at_sensors(room(4, 5, ceiling_reflectance=value, wall_reflectance=value, floor_reflectance=value))
        assert np.isfinite(whole.lux).all()
        assert (whole.lux.mean(axis=1) < plain.lux.mean(axis=1)).all() == (value == 0.0)
    light = next(c for c in CONSTRUCTIONS if c.id == "roof-good").model_copy(update={"id": "own", "light_reflectance": 0.3})
    stated = pipeline.daylight(Place(), Library(constructions=(light,)), room(4, 5, roof="own"), YEAR)
    same = at_sensors(room(4, 5, ceiling_reflectance=0.3))
    assert stated.lux == pytest.approx(same.lux, rel=1e-9)


def test_blinds_that_are_down_for_heat_are_down_for_light() -> None:
    bare = at_sensors(room(4, 5))
    veiled = at_sensors(room(4, 5, blinds={"place": "outside", "closes_w_m2": 150.0, "transmittance": 0.1}))
    share = veiled.lux / np.maximum(bare.lux, 1e-9)
    bright = bare.lux[0] > 50
    assert share[0][bright].min() == pytest.approx(0.1)
    assert share[0][bright].max() == pytest.approx(1.0)
    assert 0.05 < (share[0][bright] < 0.5).mean() < 0.8
    assert veiled.daylight_factor == pytest.approx(bare.daylight_factor)


@pytest.mark.parametrize(
    ("kind", "given", "path"),
    [
        (Library, {"glazings": [{**GLASS.model_dump(mode="json", exclude_none=True), "visible": 1.2}]}, "visible"),
        (Scheme, {"id": "t", "name": "t", "skin": {"wall_reflectance": 1.2}}, "wall_reflectance"),
        (Scheme, {"id": "t", "name": "t", "skin": {"floor_reflectance": -0.1}}, "floor_reflectance"),
        (Scheme, {"id": "t", "name": "t", "use": {"sensors": [placed(height_m=-0.5)]}}, "height_m"),
        (Scheme, {"id": "t", "name": "t", "use": {"lights": {"kind": "dimmed", "least_share": 2}}}, "least_share"),
    ],
)
def test_what_light_cannot_be_is_refused_with_its_path(kind: Any, given: dict[str, Any], path: str) -> None:
    with pytest.raises(EurythmError) as refused:
        read_document(kind, given)
    assert path in refused.value.path


def test_a_sensor_behind_a_window_placed_by_hand_has_plain_light() -> None:
    """At the height of the glass, a hand's breadth behind it, and with windows that stand beside each other on the wall."""
    windows = [{"id": "a", "x": 0.5, "z": 0.5, "width": 1.2, "height": 1.5}, {"id": "b", "x": 2.2, "z": 0.6, "width": 1.4, "height": 1.2}]
    own = {
        "glazing_ratio": dict.fromkeys(("north", "east", "south", "west"), 0),
        "overrides": [{"id": "o", "face": "v1/s0/e1", "windows": windows}],
    }
    found = at_sensors(with_sensors(placed(x=1.1, y=0.1, height_m=1.2), placed("b", y=4.0), skin=own))
    assert np.isfinite(found.lux).all()
    assert found.lux[0].max() < 130_000
    assert found.daylight_factor[0] > 10 * found.daylight_factor[1] > 0


def test_the_section_of_a_sensor_tells_glass_depth_and_where_the_storey_goes_on() -> None:
    building = building_of(Place(), make_scheme(volumes=[volume(zoning="perimeter_core")], skin={"sill_m": 0.9}))
    zone = next(z for z in building.zones if z.id == "v1/s0/e1")
    middle, inner = proposed(building, zone)
    for sensor in (middle, inner):
        cut = section_of(building, sensor)
        assert cut is not None
        assert cut.way == pytest.approx((0.0, 1.0), abs=1e-9)
        assert cut.end - cut.start == pytest.approx(4.5, abs=0.01)
        assert cut.open_ends == (False, True)
        ((far, low, high),) = cut.openings
        assert far == pytest.approx(cut.start, abs=0.01)
        assert (low, cut.top) == (pytest.approx(0.9), 3.5)
        assert low < high < 3.5
