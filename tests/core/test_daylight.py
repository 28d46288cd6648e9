"""Daylight against closed forms, and against a path tracer that shares no method with it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely
from scipy.integrate import dblquad

from eurythm import simulate as pipeline
from eurythm.climate.standin import standin_year
from eurythm.climate.year import HOURS, ClimateYear
from eurythm.daylight import enclosure, illuminance
from eurythm.daylight.control import power_share
from eurythm.daylight.efficacy import BEAM_LM_W, DIFFUSE_LM_W, Lux, light_of
from eurythm.daylight.enclosure import Enclosure, enclosure_of
from eurythm.daylight.figures import year_of
from eurythm.daylight.illuminance import Illuminance
from eurythm.daylight.sensors import Sensor, proposed
from eurythm.fabric.shipped import GLAZINGS
from eurythm.geometry.building import Building
from eurythm.memo import Memo
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.model.scheme import LightControl, Scheme
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


def lit(building: Building, place: Place, sensors: Any, glass: Any = GLASS) -> Illuminance:
    return illuminance.illuminance(building, place, YEAR, sensors, lambda face, number: glass)


@pytest.fixture
def under(monkeypatch: pytest.MonkeyPatch) -> Any:
    """Let the sky of the year be another."""
    return lambda sky: monkeypatch.setattr(illuminance, "light_of", lambda climate: sky)


@pytest.fixture
def black(monkeypatch: pytest.MonkeyPatch) -> None:
    """A room that gives nothing back, with holes for windows, over black ground."""
    monkeypatch.setattr(enclosure, "REFLECTANCE", {"ceiling": 0.0, "wall": 0.0, "floor": 0.0})
    monkeypatch.setattr(enclosure, "GLASS_REFLECTANCE", 0.0)
    monkeypatch.setattr(illuminance, "let_through", lambda glazing, face, toward: np.ones(len(toward)))


BLACK_GROUND = Place(ground_reflectance=0.0)


@pytest.mark.parametrize("away", [1.0, 2.5, 4.5])
@pytest.mark.usefixtures("black")
def test_an_open_hole_before_an_even_and_an_overcast_sky(under: Any, away: float) -> None:
    """The sky component by integration over the hole, which for the even sky is the textbook's form factor."""
    building = building_of(BLACK_GROUND, room(4, 5))
    zone = building.zones[0]
    face = next(f for f in building.faces if f.windows)
    at = np.array([2.0, away, 0.8])
    under(Lux(DARK, ONE, DARK, "test"))
    found = lit(building, BLACK_GROUND, [Sensor(zone.id, at, UP)])

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
    return enclosure_of(building, building.zones[0].id)


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


def test_a_furnace(inside: Enclosure, monkeypatch: pytest.MonkeyPatch) -> None:
    """In a closed room of one reflectance whose surfaces are all lit alike, light grows by 1 / (1 - reflectance)."""
    monkeypatch.setattr(enclosure, "REFLECTANCE", {"ceiling": 0.6, "wall": 0.6, "floor": 0.6})
    monkeypatch.setattr(enclosure, "GLASS_REFLECTANCE", 0.6)
    seen = illuminance._seen(inside, np.array([1.2, 3.1, 0.8]), UP)[None]
    assert seen.sum() == pytest.approx(1.0)
    assert inside.answer(seen).sum() == pytest.approx(0.6 / (1 - 0.6), rel=1e-6)


def test_what_enters_falls_on_surfaces() -> None:
    """Of what enters through a cell nothing is lost on the way to the patches."""
    building = building_of(Place(), room(4, 5))
    own = illuminance._room(building, building.zones[0].id, [0], [Sensor(building.zones[0].id, np.array([2.0, 2.0, 0.8]), UP)])
    counted = replace(own, answer=own.enclosure.areas[None])
    ways = counted.ways()[-1]
    assert np.bincount(ways.cell, ways.weight[0]) == pytest.approx(1.0, abs=5e-3)


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
    under(replace(real, band=DARK))
    year = lit(building, place, sensors).lux[:, up].mean(axis=1)
    for k, sensor in enumerate(sensors):
        alone = traced(building, zone.id, outside, GLASS, place, sensor.at, ([1e4], [0.0], [UP]), rays=150_000)
        assert even[k] == pytest.approx(alone, rel=0.05)
        whole = traced(building, zone.id, outside, GLASS, place, sensor.at, (real.even[up], real.sun[up], toward), rays=100_000)
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
