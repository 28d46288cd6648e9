"""Daylight against closed forms, and against a path tracer that shares no method with it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely
from scipy.integrate import dblquad

from eurythm import simulate as pipeline
from eurythm.brief.profiles import PROFILES
from eurythm.climate.standin import standin_year
from eurythm.climate.year import HOURS, ClimateYear
from eurythm.daylight import enclosure, glass, illuminance, outlook
from eurythm.daylight import room as room_module
from eurythm.daylight.control import power_share
from eurythm.daylight.efficacy import BEAM_LM_W, DIFFUSE_LM_W, Lux, light_of
from eurythm.daylight.enclosure import Enclosure, enclosure_of
from eurythm.daylight.figures import measured, year_of
from eurythm.daylight.floors import FloorLight
from eurythm.daylight.illuminance import Illuminance, Skin
from eurythm.daylight.sensors import Sensor, proposed
from eurythm.fabric.shipped import CONSTRUCTIONS, GLAZINGS
from eurythm.geometry.building import Building
from eurythm.memo import Memo
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library, LightControl
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme, Use
from eurythm.simulate import building_of, prepare_case, run_many
from eurythm.sun.obstacles import obstacles_of
from eurythm.sun.radiation import sun_in_drawing
from tests.conftest import make_scheme, run_scheme, volume
from tests.tracer import traced

UP = np.array([0.0, 0.0, 1.0])
YEAR = standin_year("merrowhaven")
GLASS = next(g for g in GLAZINGS if g.id == "double-lowe")
SOUTH = {"glazing_ratio": {"south": 0.4, "north": 0, "east": 0, "west": 0}}
DARK, ONE = np.zeros(HOURS), np.ones(HOURS)


def room(length: float, depth: float, **skin: Any) -> Scheme:
    return make_scheme(volumes=[volume(form={"length": length, "depth": depth}, height=3)], skin=SOUTH | skin)


USUAL = {"ceiling": 0.7, "wall": 0.5, "floor": 0.2}


def skin_of(glass: Any = GLASS, reflectances: dict[str, float] = USUAL) -> Skin:
    return Skin(lambda face, number: glass, lambda face, zone, kind: reflectances[kind], {})


def lit(building: Building, place: Place, sensors: Any, skin: Skin | None = None) -> Illuminance:
    return illuminance.illuminance(building, place, YEAR, sensors, skin or skin_of())


@pytest.fixture
def under(monkeypatch: pytest.MonkeyPatch) -> Any:
    """Let the sky of the year be another."""
    return lambda sky: monkeypatch.setattr(illuminance, "light_of", lambda climate: sky)


@pytest.fixture
def black(monkeypatch: pytest.MonkeyPatch) -> Iterator[Skin]:
    """A room that gives nothing back, with holes for windows, over black ground; what was seen through them is forgotten afterwards."""
    monkeypatch.setattr(enclosure, "GLASS_REFLECTANCE", 0.0)
    monkeypatch.setattr(glass, "angle_factor", lambda cosine, panes: np.ones(len(cosine)))
    illuminance.forget()
    yield skin_of(GLASS.model_copy(update={"visible": 1.0}), dict.fromkeys(USUAL, 0.0))
    illuminance.forget()


BLACK_GROUND = Place(ground_reflectance=0.0)


@pytest.mark.parametrize("away", [1.0, 2.5, 4.5])
def test_an_open_hole_before_an_even_and_an_overcast_sky(under: Any, black: Skin, away: float) -> None:
    """The sky component by integration over the hole, which for the even sky is the textbook's form factor."""
    building = building_of(BLACK_GROUND, room(4, 5))
    zone = building.zones[0]
    face = next(f for f in building.faces if f.windows)
    at = np.array([2.0, away, 0.8])
    under(Lux(DARK, ONE, DARK, "test"))
    found = lit(building, BLACK_GROUND, [Sensor(zone.id, at, UP)], black)

    def form(z: float, x: float) -> float:
        far2 = (x - at[0]) ** 2 + at[1] ** 2 + z**2
        return z * at[1] / (np.pi * far2**2)

    def overcast(z: float, x: float) -> float:
        return form(z, x) * 3 / 7 * (1 + 2 * z / np.sqrt((x - at[0]) ** 2 + at[1] ** 2 + z**2))

    for brightness, value in ((form, found.lux[0].max()), (overcast, found.daylight_factor[0])):
        whole = sum(dblquad(brightness, w.s, w.s + w.width, max(w.z - at[2], 0.0), w.z + w.height - at[2])[0] for w in face.windows)
        assert value == pytest.approx(whole, rel=0.01)


def test_a_corner_of_a_hole_has_the_closed_form(under: Any) -> None:
    """A quarter: (atan(w/d) - d/r atan(w/r)) / 2π with r² = d² + h², by which the integration above is checked."""
    w, h, d = 1.5, 2.0, 3.0
    r = np.hypot(d, h)
    whole = dblquad(lambda z, x: z * d / (np.pi * (x**2 + d**2 + z**2) ** 2), 0, w, 0, h)[0]
    assert whole == pytest.approx((np.arctan(w / d) - d / r * np.arctan(w / r)) / (2 * np.pi), rel=1e-9)


@pytest.fixture(scope="module")
def inside() -> Enclosure:
    building = building_of(Place(), room(4, 5))
    return enclosure_of(building, building.zones[0].id).enclosure


def test_form_factors_are_whole_and_reciprocal(inside: Enclosure) -> None:
    factors, areas = inside.form_factors, inside.areas
    assert areas.sum() == pytest.approx(2 * (4 * 5 + 4 * 3 + 5 * 3))
    assert factors.sum(axis=1) == pytest.approx(1.0, abs=1e-6)
    exchange = factors * areas[:, None]
    assert np.abs(exchange - exchange.T).max() <= 1e-9 * exchange.max()


def test_form_factors_between_floor_and_ceiling_are_the_textbooks(inside: Enclosure) -> None:
    """Two parallel rectangles 4 by 5 m, 3 m apart (Incropera, table 13.2; the formula unverified against the book)."""
    floor, ceiling = (
        np.concatenate([s.first + np.arange(len(s.grid.cells)) for s in inside.surfaces if s.kind == kind]) for kind in ("floor", "ceiling")
    )
    found = float(inside.areas[floor] @ inside.form_factors[np.ix_(floor, ceiling)].sum(axis=1)) / 20.0
    x, y = 4 / 3, 5 / 3
    x1, y1 = 1 + x**2, 1 + y**2
    closed = np.log(np.sqrt(x1 * y1 / (1 + x**2 + y**2)))
    closed += (
        x * np.sqrt(y1) * np.arctan(x / np.sqrt(y1)) + y * np.sqrt(x1) * np.arctan(y / np.sqrt(x1)) - x * np.arctan(x) - y * np.arctan(y)
    )
    assert found == pytest.approx(2 / (np.pi * x * y) * closed, rel=0.01)


def test_a_furnace(inside: Enclosure) -> None:
    """In a closed room of one reflectance whose surfaces are all lit alike, light grows by 1 / (1 - reflectance)."""
    seen = room_module.seen_from(inside, np.array([0.7, 1.1, 0.0]), UP)[None]
    assert seen.sum() == pytest.approx(1.0)
    assert inside.answer(seen, np.full(len(inside.areas), 0.6)).sum() == pytest.approx(0.6 / (1 - 0.6), rel=1e-6)


def test_what_enters_falls_on_surfaces() -> None:
    """Of what enters through a cell nothing is lost on the way to the patches."""
    building = building_of(Place(), room(4, 5))
    (own,) = room_module.rooms_of(building, [Sensor(building.zones[0].id, np.array([2.0, 2.0, 0.8]), UP)])
    rays = next(r for r in own.inside.rays if not r.straight)
    assert np.bincount(rays.cell, rays.form * (rays.to >= 0)) == pytest.approx(1.0, abs=5e-3)


def test_rooms_alike_share_their_shape() -> None:
    """Storeys of one form, and the same form turned, are one enclosure; a changed glazing ratio casts nothing."""
    scheme = make_scheme(volumes=[volume(storeys=4, zoning="perimeter_core")])
    turned = make_scheme(volumes=[volume(storeys=4, zoning="perimeter_core")], turn_deg=33)
    straight, askew = building_of(Place(), scheme), building_of(Place(), turned)
    shapes = {enclosure_of(b, f"v1/s{k}/e1").enclosure.key for b in (straight, askew) for k in (1, 2)}
    assert len(shapes) == 1
    assert enclosure_of(straight, "v1/s1/e2").enclosure.key not in shapes


def test_more_glass_casts_no_ray(monkeypatch: pytest.MonkeyPatch) -> None:
    building = building_of(Place(), room(4, 5))
    sensors = proposed(building, building.zones[0])
    before = lit(building, Place(), sensors)

    def cast(*asked: Any, **more: Any) -> None:
        raise AssertionError("a ray was cast")

    wider = building_of(Place(), room(4, 5, glazing_ratio={"south": 0.7, "north": 0, "east": 0, "west": 0}))
    for where, name in ((Enclosure, "meet"), (outlook, "look_along"), (outlook._Scene, "blocked")):
        monkeypatch.setattr(where, name, cast)
    after = lit(wider, Place(), sensors, skin_of(GLASS, USUAL | {"wall": 0.3}))
    assert after.lux.mean() > 1.2 * before.lux.mean()


def test_a_mirrored_place_has_the_same_light(under: Any) -> None:
    building = building_of(Place(), room(6, 5))
    under(Lux(DARK, 1e4 * ONE, DARK, "test"))
    left, right = lit(building, Place(), [Sensor(building.zones[0].id, np.array([x, 2.0, 0.8]), UP) for x in (1.0, 5.0)]).lux.max(axis=1)
    assert left == pytest.approx(right, rel=0.02)


OPPOSITE = {"boxes": [{"id": "b", "x": -20, "y": -16, "length": 44, "depth": 8, "height": 12}]}
BENT = {"kind": "l", "length": 9, "depth": 9, "wing_length": 4, "wing_depth": 4}
LIKE = {
    "side-lit": (room(4, 5), {}),
    "deep": (room(4, 12), {}),
    "under an overhang": (room(4, 5, overhang_depth_m={"south": 1.2}), {}),
    "opposite a building": (room(4, 5), OPPOSITE),
    "at a corner": (room(6, 6, glazing_ratio={"south": 0.4, "north": 0, "east": 0.4, "west": 0}), {}),
    "bent": (make_scheme(volumes=[volume(kind="l", form=BENT, height=3)], skin=SOUTH), {}),
    "merged of five": (
        make_scheme(
            volumes=[volume(form={"length": 12, "depth": 9}, height=3, zoning="perimeter_core")],
            skin=SOUTH,
            merged=[{"id": "hall", "name": "Hall", "zones": [f"v1/s0/{k}" for k in ("e1", "e2", "e3", "e4", "core")]}],
        ),
        {},
    ),
    "rooflit": (room(6, 6, glazing_ratio={"south": 0, "north": 0, "east": 0, "west": 0}, rooflight_ratio=0.1), {}),
}


@pytest.mark.parametrize("name", LIKE)
def test_rooms_against_a_path_tracer(under: Any, name: str) -> None:
    """An even sky within 5%, the mean of the year's daylight within 10%, at mid depth and at the inner edge."""
    scheme, around = LIKE[name]
    place = read_document(Place, around)
    building, real = building_of(place, scheme), light_of(YEAR)
    zone, outside = building.zones[0], obstacles_of(building, place)
    sensors = proposed(building, zone)
    up, toward = sun_in_drawing(place.north_deg, YEAR.location)
    under(Lux(DARK, 1e4 * ONE, DARK, "test"))
    even = lit(building, place, sensors).lux[:, up].mean(axis=1)
    under(real)
    year = lit(building, place, sensors).lux[:, up].mean(axis=1)
    for k, sensor in enumerate(sensors):
        alone = traced(building, zone.id, outside, GLASS, place, sensor.at, ([1e4], [0.0], [UP]), rays=150_000)
        assert even[k] == pytest.approx(alone, rel=0.05)
        whole = traced(
            building, zone.id, outside, GLASS, place, sensor.at, (real.even[up], real.sun[up], toward, real.band[up]), rays=100_000
        )
        assert year[k] == pytest.approx(whole, rel=0.10)


def test_nights_and_zones_without_windows_are_dark() -> None:
    building = building_of(Place(), make_scheme(volumes=[volume(zoning="perimeter_core")]))
    sensors = [s for zone in building.zones for s in proposed(building, zone)]
    assert len(sensors) == 8
    assert not [s for s in sensors if s.zone.endswith("core")]
    found = lit(building, Place(), [*sensors, Sensor("v1/s0/core", np.array([10.0, 6.0, 0.8]), UP)])
    up, _ = sun_in_drawing(0.0, YEAR.location)
    night = np.setdiff1d(np.arange(HOURS), up)
    assert np.isfinite(found.lux).all()
    assert (found.lux[:, night] == 0).all()
    assert (found.lux[-1] == 0).all()
    assert found.daylight_factor[-1] == 0
    assert (found.daylight_factor[:-1] > 0.005).all()


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


def told(factor: float) -> ClimateYear:
    """The year with illuminance columns of 120 and 100 lm/W, in units of so many lux."""
    records = dict(YEAR.records)
    records["diffuse_illuminance_lx"] = YEAR["diffuse_horizontal_wh_m2"] * 120 / factor
    records["direct_illuminance_lx"] = YEAR["direct_normal_wh_m2"] * 100 / factor
    return replace(YEAR, digest=f"told-{factor}", records=records)


@pytest.mark.parametrize(("factor", "source"), [(1.0, "file"), (100.0, "file, hundreds of lux"), (7.0, "assumed")])
def test_efficacy_by_the_file_where_it_is_plausible(factor: float, source: str) -> None:
    found = light_of(told(factor))
    assert found.source == source
    by_sky, by_sun = (120.0, 100.0) if source != "assumed" else (DIFFUSE_LM_W, BEAM_LM_W)
    plain = light_of(YEAR)
    assert plain.source == "assumed"
    bright = plain.even > 5000
    assert found.even[bright] / plain.even[bright] == pytest.approx(by_sky / DIFFUSE_LM_W)
    sunny = YEAR["direct_normal_wh_m2"] > 300
    least, most = sorted((by_sky / DIFFUSE_LM_W, by_sun / BEAM_LM_W))
    ratio = found.sun[sunny] / plain.sun[sunny]
    assert least - 1e-9 <= ratio.min() <= ratio.max() <= most + 1e-9


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


FIVE = {"volumes": [volume(zoning="perimeter_core")], "method": {"run_in_days": 5}}


def lit_by(lights: dict[str, Any], **more: Any) -> Scheme:
    return make_scheme(**(FIVE | more), use={"lights": lights})


def test_lights_that_follow_daylight_take_less_and_heat_less() -> None:
    """Lighting falls by what the zones' hours leave on, cooling with it, heating rises; nobody's lights burn more than they are asked to."""
    plain, dimmed = (run_scheme(lit_by({"kind": kind})) for kind in ("none", "dimmed"))
    before, after = plain.outcome.totals, dimmed.outcome.totals
    assert after["energy_kwh"]["lighting"] < 0.8 * before["energy_kwh"]["lighting"]
    assert after["cooling_demand_kwh"] < before["cooling_demand_kwh"]
    assert after["heating_demand_kwh"] > before["heating_demand_kwh"]
    was, now = (made.arrays.asked.by.by_kind["lighting"] for made in (plain, dimmed))
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
    real = pipeline.illuminance
    monkeypatch.setattr(pipeline, "illuminance", lambda *asked: made.append(1) or real(*asked))
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
    with pytest.raises(EurythmError, match="v1/s0/e1"):
        lighting(lights={"kind": "dimmed", "full_lx": 350}, zones=[{"id": "r", "zone": "v1/s0/e1", "enough_lx": 300}])


def test_reflectances_of_scheme_and_construction() -> None:
    plain = at_sensors(with_sensors())
    for value in (0.0, 1.0):
        whole = at_sensors(with_sensors_and(ceiling_reflectance=value, wall_reflectance=value, floor_reflectance=value))
        assert np.isfinite(whole.lux).all()
        assert (whole.lux.mean(axis=1) < plain.lux.mean(axis=1)).all() == (value == 0.0)
    light = next(c for c in CONSTRUCTIONS if c.id == "roof-good").model_copy(update={"id": "own", "light_reflectance": 0.3})
    stated = pipeline.daylight(Place(), Library(constructions=(light,)), with_sensors_and(roof="own"), YEAR)
    same = at_sensors(with_sensors_and(ceiling_reflectance=0.3))
    assert stated.lux == pytest.approx(same.lux, rel=1e-9)


def with_sensors_and(**skin: Any) -> Scheme:
    return room(4, 5, **skin)


def test_blinds_that_are_down_for_heat_are_down_for_light() -> None:
    bare = at_sensors(room(4, 5))
    veiled = at_sensors(room(4, 5, blinds={"place": "outside", "closes_w_m2": 150.0, "transmittance": 0.1}))
    share = veiled.lux / np.maximum(bare.lux, 1e-9)
    bright = bare.lux[0] > 50
    assert share[0][bright].min() == pytest.approx(0.1)
    assert share[0][bright].max() == pytest.approx(1.0)
    assert 0.05 < (share[0][bright] < 0.5).mean() < 0.8
    assert veiled.daylight_factor == pytest.approx(bare.daylight_factor)


def floors(scheme: Scheme, spacing: float = 0.5, zones: tuple[str, ...] = ("v1/s0/all",), place: Place = Place()) -> FloorLight:
    return pipeline.daylit_floors(place, Library(), scheme, YEAR, zones, spacing)


@pytest.mark.parametrize("name", ["side-lit", "deep", "bent", "under an overhang", "opposite a building", "rooflit"])
def test_floors_and_sensors_tell_the_same(name: str) -> None:
    """At the places of a grid sensors have the same light: the method's parts differ (whole windows for cells, a net for each place)."""
    scheme, around = LIKE[name]
    place = read_document(Place, around)
    made = floors(scheme, 1.0, place=place)
    some = np.linspace(0, len(made.lux) - 1, 9).astype(int)
    points = made.floors[0].grid.points[some]
    building = building_of(place, scheme)
    alone = illuminance.illuminance(building, place, YEAR, [Sensor("v1/s0/all", at, UP) for at in points], skin_of())
    year, factor = made.lux[some].mean(axis=1), made.daylight_factor[some]
    assert year == pytest.approx(alone.lux[:, made.up].mean(axis=1), rel=0.08)
    assert year.mean() == pytest.approx(alone.lux[:, made.up].mean(), rel=0.02)
    assert factor == pytest.approx(alone.daylight_factor, rel=0.08)


def test_figures_of_floors() -> None:
    scheme = room(4, 5)
    made, there = floors(scheme), {"v1/s0/all": np.arange(HOURS) % 24 == 12}
    noon = 24 * 171 + 12
    at_noon = made.at_hour(noon)
    assert at_noon.min() > 0
    assert made.at_hour(24 * 171).max() == 0
    lux = np.zeros((len(made.lux), HOURS))
    lux[:, made.up] = made.lux
    mine = lux[:, there["v1/s0/all"]]
    assert measured(made, "hour", there, 300, noon) == pytest.approx(at_noon)
    assert measured(made, "autonomy", there, 300, 0) == pytest.approx((mine >= 300).mean(axis=1) * 100)
    assert measured(made, "useful", there, 300, 0) == pytest.approx(((mine >= 100) & (mine <= 3000)).mean(axis=1) * 100)
    assert measured(made, "beyond", there, 300, 0) == pytest.approx((mine > 3000).sum(axis=1))
    assert measured(made, "mean", there, 300, 0) == pytest.approx(mine.mean(axis=1), rel=1e-4)
    assert measured(made, "factor", there, 300, 0) == pytest.approx(made.daylight_factor * 100)
    window = made.floors[0].grid.points[:, 1]
    assert at_noon[window < 1].mean() > 3 * at_noon[window > 4].mean()


def test_floors_without_glass_are_dark_and_too_fine_a_grid_is_refused() -> None:
    core = make_scheme(volumes=[volume(zoning="perimeter_core")])
    dark = floors(core, 1.0, ("v1/s0/core",))
    assert dark.lux.max() == 0
    with pytest.raises(EurythmError) as refused:
        floors(core, 0.02, ("v1/s0/core", "v1/s0/e1"))
    assert refused.value.code == "too-fine"
    with pytest.raises(EurythmError) as nothing:
        floors(core, 1.0, ("gone",))
    assert nothing.value.code == "no-zones"


ODD: dict[str, tuple[Scheme, str]] = {
    "a room of 200 m": (
        make_scheme(volumes=[volume(form={"length": 200, "depth": 15})], skin={"glazing_ratio": {"south": 0.5}}),
        "merrowhaven",
    ),
    "a courtyard": (make_scheme(volumes=[volume(kind="courtyard", form={"court_length": 12, "court_depth": 10})]), "merrowhaven"),
    "an atrium over storeys": (
        make_scheme(
            volumes=[volume(storeys=3)],
            skin={"rooflight_ratio": 0.2},
            merged=[{"id": "hall", "name": "Hall", "zones": [f"v1/s{k}/all" for k in range(3)]}],
        ),
        "merrowhaven",
    ),
    "polar night": (make_scheme(volumes=[volume()]), "norrvik-fell"),
    "glass down to the floor": (room(4, 5, sill_m=0.0, head_m=2.9, glazing_ratio={"south": 0.9}), "merrowhaven"),
    "glass that lets nothing through": (room(4, 5, glazing="dark"), "merrowhaven"),
}


@pytest.mark.parametrize("name", ODD)
def test_odd_rooms_have_plain_figures(name: str) -> None:
    scheme, where = ODD[name]
    dark = GLASS.model_copy(update={"id": "dark", "visible": 0.0})
    library, climate = Library(glazings=(dark,)), standin_year(where)
    found = pipeline.daylight(Place(), library, scheme, climate)
    assert found.sensors
    assert np.isfinite(found.lux).all()
    assert np.isfinite(found.daylight_factor).all()
    assert found.lux.min() >= 0
    assert found.lux.max() < 150_000
    assert (found.lux.max() == 0) == (name == "glass that lets nothing through")
    zones = [zone.id for zone in building_of(Place(), scheme).zones]
    all_over = pipeline.daylit_floors(Place(), library, scheme, climate, zones, 3.0)
    assert np.isfinite(all_over.lux).all()
    assert all_over.daylight_factor.max() < 1.0
    made = run_scheme(
        scheme.model_copy(update={"use": read_document(Use, {"lights": {"kind": "dimmed"}})}), climate=climate, library=library
    )
    assert np.isfinite(made.outcome.totals["eui_kwh_per_m2"])


def test_how_bright_floors_are_is_a_figure_where_it_is_asked_for() -> None:
    """By few points and every fourth hour, within 3 points of a fine grid; nothing of it hangs on the control of lights."""
    plain = run_scheme(make_scheme(**FIVE)).outcome.totals
    assert plain["daylit_share"] == plain["useful_daylight_share"] == 0
    for ratio in (0.15, 0.4):
        scheme = make_scheme(**FIVE, skin={"glazing_ratio": {"south": ratio, "east": 0.2}}, use={"lights": {"floors": True}})
        made = run_scheme(scheme)
        totals = made.outcome.totals
        zones = [zone.id for zone in made.building.zones]
        fine = floors(scheme, 0.5, tuple(zones))
        used = {zone.id: of.occupied for zone, of in zip(made.building.zones, made.arrays.zones, strict=True)}
        areas = np.concatenate([f.grid.areas for f in fine.floors])
        bright = measured(fine, "autonomy", used, 300, 0) >= 50
        useful = measured(fine, "useful", used, 300, 0)
        assert totals["daylit_share"] == pytest.approx(areas @ bright / areas.sum(), abs=0.05)
        assert totals["useful_daylight_share"] == pytest.approx(areas @ useful / areas.sum() / 100, abs=0.03)
        assert (
            totals["eui_kwh_per_m2"]
            == run_scheme(make_scheme(**FIVE, skin={"glazing_ratio": {"south": ratio, "east": 0.2}})).outcome.totals["eui_kwh_per_m2"]
        )
    less = run_scheme(make_scheme(**FIVE, use={"lights": {"floors": True, "bright_lx": 1000}})).outcome.totals
    assert less["daylit_share"] < run_scheme(make_scheme(**FIVE, use={"lights": {"floors": True}})).outcome.totals["daylit_share"]
