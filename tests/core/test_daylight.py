"""Daylight against closed forms, and against a path tracer that shares no method with it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from scipy.integrate import dblquad

from eurythm.climate.year import HOURS, ClimateYear
from eurythm.daylight import enclosure, glass, illuminance, outlook
from eurythm.daylight import room as room_module
from eurythm.daylight.control import power_share
from eurythm.daylight.efficacy import BEAM_LM_W, DIFFUSE_LM_W, Lux, light_of
from eurythm.daylight.enclosure import Enclosure, enclosure_of, spaces_of
from eurythm.daylight.illuminance import Skin
from eurythm.daylight.sensors import Sensor, proposed
from eurythm.model.library import LightControl
from eurythm.model.place import Place
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme
from eurythm.simulate import building_of
from eurythm.sun.obstacles import obstacles_of
from eurythm.sun.radiation import sun_in_drawing
from tests.conftest import make_scheme, volume
from tests.daylit import GLASS, LIKE, SOUTH, UP, USUAL, YEAR, lit, room, skin_of
from tests.tracer import traced

DARK, ONE = np.zeros(HOURS), np.ones(HOURS)


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
    assert enclosure_of(straight, "v1/s1/core").enclosure.key in shapes  # an open storey is one space


def divided(borders: str = "open", **more: Any) -> Scheme:
    zoning = {"kind": "perimeter_core", "depth_m": 4, "borders": borders}
    return make_scheme(volumes=[volume(form={"length": 16, "depth": 12}, height=3) | {"zoning": zoning}], skin=SOUTH, **more)


def test_light_passes_between_perimeter_and_core() -> None:
    """An open storey is as bright as the same storey in one zone; behind walls the core is dark and the perimeter is a room of its own."""
    places = {"e1": (8.0, 2.0), "core": (8.0, 6.0), "e3": (8.0, 10.5)}
    whole = building_of(Place(), make_scheme(volumes=[volume(form={"length": 16, "depth": 12}, height=3)], skin=SOUTH))
    there = [Sensor("v1/s0/all", np.array([*at, 0.8]), UP) for at in places.values()]
    alone = lit(whole, Place(), there).lux.mean(axis=1)
    sensors = [Sensor(f"v1/s0/{zone}", np.array([*at, 0.8]), UP) for zone, at in places.items()]
    passes, walls = (lit(building_of(Place(), divided(borders)), Place(), sensors).lux.mean(axis=1) for borders in ("open", "walls"))
    assert passes == pytest.approx(alone, rel=0.02)
    assert walls[1] == walls[2] == 0
    assert walls[0] > 1.05 * passes[0]  # its inner wall gives light back


@pytest.mark.parametrize("roof", [{"kind": "flat"}, {"kind": "gable", "pitch_deg": 30}])
def test_a_storey_is_open_whatever_its_roof(roof: dict[str, Any]) -> None:
    one, many = (
        building_of(Place(), make_scheme(volumes=[volume(zoning=zoning, roof=roof)], skin=SOUTH)) for zoning in ("one", "perimeter_core")
    )
    assert set(spaces_of(many)["v1/s0/core"]) == {z.id for z in many.zones}
    whole, open_storey = enclosure_of(one, "v1/s0/all").enclosure, enclosure_of(many, "v1/s0/core").enclosure
    assert open_storey.areas.sum() == pytest.approx(whole.areas.sum(), rel=1e-4)


def test_walls_that_stand_in_an_open_storey_are_seen_from_both_sides() -> None:
    """Zones merged across an open border leave nothing of it; a room drawn into the storey keeps its walls."""
    members = [f"v1/s0/{k}" for k in ("e1", "core", "e2")]
    merged = building_of(Place(), divided(merged=[{"id": "hall", "name": "Hall", "zones": members}]))
    bare = building_of(Place(), divided())
    assert enclosure_of(merged, "hall").enclosure.key == enclosure_of(bare, "v1/s0/e1").enclosure.key
    assert enclosure_of(merged, "v1/s0/e3").enclosure.key == enclosure_of(merged, "hall").enclosure.key


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


@pytest.mark.parametrize("name", LIKE)
def test_daylight_factors_against_a_path_tracer(name: str) -> None:
    """Under the overcast sky within 5%."""
    scheme, around = LIKE[name]
    place = read_document(Place, around)
    building = building_of(place, scheme)
    zone, outside = building.zones[0], obstacles_of(building, place)
    sensors = proposed(building, zone)
    found = lit(building, place, sensors).daylight_factor
    for sensor, factor in zip(sensors, found, strict=True):
        alone = traced(building, zone.id, outside, GLASS, place, sensor.at, ([0.0], [0.0], [UP], [0.0], [1.0]), rays=200_000)
        assert factor == pytest.approx(alone, rel=0.05)


@pytest.mark.parametrize("name", LIKE)
def test_what_control_leaves_on_against_a_path_tracer(name: str) -> None:
    """The share of lighting energy within 2 points, by every 23rd hour of the working day."""
    scheme, around = LIKE[name]
    place = read_document(Place, around)
    building, real = building_of(place, scheme), light_of(YEAR)
    zone, outside = building.zones[0], obstacles_of(building, place)
    up, toward = sun_in_drawing(place.north_deg, YEAR.location)
    some = np.flatnonzero((up % 24 >= 8) & (up % 24 < 18))[::23]
    hours, dims = up[some], read_document(LightControl, {"kind": "dimmed"})
    sensors = proposed(building, zone)
    for sensor, lux in zip(sensors, lit(building, place, sensors).lux, strict=True):
        skies = zip(real.even[hours], real.sun[hours], toward[some], real.band[hours], strict=True)
        alone = [
            traced(building, zone.id, outside, GLASS, place, sensor.at, ([e], [s], [t], [b]), rays=3_000, seed=5 + k)
            for k, (e, s, t, b) in enumerate(skies)
        ]
        assert power_share(lux[hours], dims).mean() == pytest.approx(power_share(np.array(alone), dims).mean(), abs=0.02)


def test_nights_and_zones_without_windows_are_dark() -> None:
    zoning = {"kind": "perimeter_core", "borders": "walls"}
    building = building_of(Place(), make_scheme(volumes=[volume() | {"zoning": zoning}]))
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
