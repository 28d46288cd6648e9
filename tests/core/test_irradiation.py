"""Irradiation on a grid, hours of direct sun, shadows by hand geometry, and how deep a shade should be."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.climate.standin import standin_year
from eurythm.climate.sunpath import sun_of, sun_path
from eurythm.climate.year import ClimateYear, Location
from eurythm.explain.depth import Span, how_deep
from eurythm.geometry.building import Building, Face
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.model.reading import read_document
from eurythm.simulate import building_of
from eurythm.sun.bits import sum_of_bits, weighted_sums
from eurythm.sun.irradiation import Irradiation, day_of_sun, direct_hours, grid_on, hours_between, irradiation, see
from eurythm.sun.profile import profile_tangent
from eurythm.sun.radiation import light_on_faces, sun_in_drawing
from tests.conftest import make_scheme, volume

YEAR = hours_between(0, 364, 0, 23)
BARE = dict.fromkeys(("north", "east", "south", "west"), 0)


def located(latitude: float) -> Location:
    """Somewhere on the meridian of Greenwich."""
    return replace(standin_year("merrowhaven").location, latitude_deg=latitude, longitude_deg=0.0, time_zone_h=0.0)


def place(**more: Any) -> Place:
    return read_document(Place, more)


def box(**skin: Any) -> Building:
    return building_of(Place(), make_scheme(volumes=[volume("bar")], skin={"glazing_ratio": BARE} | skin))


def face_of(building: Building, edge: str) -> Face:
    return next(f for f in building.faces if f.edge == f"bar/s0/{edge}")


def fallen(
    building: Building, where: Place, faces: list[Face], climate: ClimateYear, measure: str = "sum", hours: Any = YEAR
) -> list[Irradiation]:
    return irradiation(see(building, where, climate, faces, 1.0), hours, measure)


def test_the_year_on_open_faces_is_that_of_the_heat_balance_and_cells_add_up(merrowhaven: ClimateYear) -> None:
    building, where = box(), Place()
    outdoor = [f for f in building.faces if f.boundary == "outdoors"]
    light = light_on_faces(building, where, merrowhaven)
    for made in fallen(building, where, outdoor, merrowhaven):
        assert made.grid.areas.sum() == pytest.approx(made.grid.face.area)
        assert made.mean == pytest.approx(
            light[made.grid.face.id].wall.sum() / 1000, rel=0.01
        )  # other points look round at what gives light back
        assert made.values == pytest.approx(np.full(len(made.values), made.mean), rel=1e-4)


def test_an_unshaded_slope_gets_what_pvlib_says(merrowhaven: ClimateYear) -> None:
    """Independent of our division of the sky: pvlib's own total on the plane, hour by hour, at the same sun."""
    import pvlib

    roofed = volume("bar") | {"roof": {"kind": "mono", "pitch_deg": 30}}
    building = building_of(Place(), make_scheme(volumes=[roofed], skin={"glazing_ratio": BARE}))
    slope = next(f for f in building.faces if f.kind == "ceiling" and 1 < f.tilt_deg < 89)
    (made,) = fallen(building, place(ground_reflectance=0.0), [slope], merrowhaven)
    sun = sun_of(merrowhaven.location)
    zenith = np.degrees(np.arccos(np.clip(sun.cos_zenith, 0, 1)))
    azimuth = np.degrees(np.arctan2(sun.direction[:, 0], sun.direction[:, 1])) % 360
    mass = pvlib.atmosphere.get_relative_airmass(np.minimum(zenith, 89.9))
    lit = sun.cos_zenith > 0
    beam, diffuse = (np.where(lit, merrowhaven[n], 0.0) for n in ("direct_normal_wh_m2", "diffuse_horizontal_wh_m2"))
    tilt, towards = slope.tilt_deg, slope.azimuth_deg(0.0)
    sky = np.nan_to_num(np.asarray(pvlib.irradiance.perez(tilt, towards, diffuse, beam, sun.extraterrestrial, zenith, azimuth, mass)))
    ahead = np.maximum(np.asarray(pvlib.irradiance.aoi_projection(tilt, towards, zenith, azimuth)), 0.0)
    assert made.mean == pytest.approx((sky + beam * ahead).sum() / 1000, rel=0.005)


def test_spans_add_up_and_the_strongest_hour_is_one_of_them(merrowhaven: ClimateYear) -> None:
    building, where = box(), place(boxes=[{"id": "n", "x": -5, "y": -12, "length": 12, "depth": 4, "height": 9}])
    south = [face_of(building, "e1")]
    halves = [fallen(building, where, south, merrowhaven, hours=hours_between(a, b, 0, 23))[0] for a, b in ((0, 180), (181, 364))]
    (whole,) = fallen(building, where, south, merrowhaven)
    assert halves[0].values + halves[1].values == pytest.approx(whole.values, rel=1e-4)
    (mean,) = fallen(building, where, south, merrowhaven, "mean")
    assert mean.mean * 8.76 == pytest.approx(whole.mean, rel=1e-6)
    (best,) = fallen(building, where, south, merrowhaven, "strongest")
    assert best.hour is not None
    one = np.zeros(8760, dtype=bool)
    one[best.hour] = True
    (again,) = fallen(building, where, south, merrowhaven, "mean", one)
    assert again.values == pytest.approx(best.values, rel=1e-4)
    assert whole.values.min() < 0.8 * whole.values.max()  # the neighbour shades its end of the wall


def test_trees_dim_and_night_gives_nothing(merrowhaven: ClimateYear) -> None:
    building = box()
    tree = {"id": "t", "x": 8, "y": -4, "height": 9, "crown": 8}
    open_, planted = (fallen(building, place(trees=t), [face_of(building, "e1")], merrowhaven)[0].mean for t in ([], [tree]))
    assert planted < open_ * 0.97
    assert fallen(building, Place(), [face_of(building, "e1")], merrowhaven, hours=hours_between(0, 20, 0, 2))[0].mean == 0
    assert fallen(building, Place(), [face_of(building, "e1")], merrowhaven, "strongest", hours_between(0, 20, 0, 2))[0].mean == 0


def test_too_many_points_no_faces_and_no_hours_are_told(merrowhaven: ClimateYear) -> None:
    building = box()
    outdoor = [f for f in building.faces if f.boundary == "outdoors"]
    with pytest.raises(EurythmError, match="stay below"):
        see(building, Place(), merrowhaven, outdoor, 0.05)
    with pytest.raises(EurythmError, match="No face"):
        see(building, Place(), merrowhaven, [], 1.0)
    with pytest.raises(EurythmError, match="No hour"):
        irradiation(see(building, Place(), merrowhaven, outdoor, 2.0), hours_between(5, 5, 9, 8))


@settings(max_examples=40, deadline=None)
@given(st.integers(1, 40), st.integers(1, 70), st.integers(0, 2**32 - 1))
def test_sums_over_bits(rows: int, hours: int, seed: int) -> None:
    rng = np.random.default_rng(seed)
    bits = rng.random((rows, hours)) < 0.5
    course = np.where(rng.random(hours) < 0.4, rng.random(hours), 0.0)
    assert sum_of_bits(np.packbits(bits, axis=1), course) == pytest.approx(bits @ course)
    weights = np.stack([np.linspace(0, 1, len(bits)), np.zeros(len(bits))])
    assert weighted_sums(np.packbits(bits, axis=1), weights, bits.shape[1]) == pytest.approx(weights @ bits)


# shadows


@pytest.mark.parametrize("day", [171, 354], ids=["summer", "winter"])
def test_the_shadow_of_a_long_neighbour_at_noon_of_the_solstices(day: int, merrowhaven: ClimateYear) -> None:
    """A ridge 8 m high and 6 m before the south wall shades it up to 8 - 6 tan(height), the sun due south."""
    lat = merrowhaven.location.latitude_deg
    declination = math.radians(23.44 if day == 171 else -23.44)
    noon = math.pi / 2 - (math.radians(lat) - declination)
    edge = 8 - 6 * math.tan(noon)
    hours, toward = day_of_sun(located(lat), 0.0, day)
    k = int(np.argmax(toward[:, 2]))
    assert math.asin(toward[k, 2]) == pytest.approx(noon, abs=0.004)
    assert hours[k] == pytest.approx(12, abs=0.35)
    from eurythm.sun.caster import Points, cast
    from eurythm.sun.obstacles import obstacles_of

    building = box()
    where = place(boxes=[{"id": "n", "x": -400, "y": -10, "length": 800, "depth": 4, "height": 8}])
    heights = np.linspace(0.02, 3.48, 174)
    wall = face_of(building, "e1")
    points = Points(np.column_stack([np.full(174, 10.0), np.zeros(174), heights]), wall.normal)
    south = np.array([[0.0, -math.cos(noon), math.sin(noon)]])
    lit = np.unpackbits(cast(obstacles_of(building, where), points, south).sun, axis=1, count=1)[:, 0]
    found = heights[lit == 1].min() if lit.any() else math.inf
    assert found == pytest.approx(edge, abs=0.05) if 0 < edge < 3.4 else (lit.all() if edge <= 0 else not lit.any())


def test_hours_of_direct_sun_on_an_open_south_wall_and_above_the_polar_circle(merrowhaven: ClimateYear) -> None:
    building = box()
    grids = [grid_on(face_of(building, e), 1.0) for e in ("e1", "e3")]
    south, north = direct_hours(building, Place(), located(merrowhaven.location.latitude_deg), grids, 79)
    assert south == pytest.approx(np.full(len(south), 12.0), abs=0.35)  # equinox: from six to six
    assert north.max() < 0.5
    south, north = direct_hours(building, Place(), located(70.0), grids, 171)
    assert south[0] + north[0] == pytest.approx(24, abs=0.4)  # the midnight sun
    assert direct_hours(building, Place(), located(70.0), grids, 354)[0].max() == 0


# how deep

SUMMER = Span(120, 243, 10, 16)


def glazed(**skin: Any) -> Face:
    building = building_of(Place(), make_scheme(volumes=[volume("bar")], skin={"glazing_ratio": {"south": 0.3, "east": 0.3}} | skin))
    return next(f for f in building.faces if f.edge == "bar/s0/e1")


def test_the_depth_that_keeps_all_sun_out_is_that_of_the_lowest_profile_angle(merrowhaven: ClimateYear) -> None:
    face = glazed(window_pattern="ribbon")
    found = how_deep(face, Place(), merrowhaven, "overhang", SUMMER, 0.3)
    up, toward = sun_in_drawing(0.0, merrowhaven.location)
    beam = merrowhaven["direct_normal_wh_m2"][up]
    unwanted = SUMMER.hours()[up] & (toward @ face.normal > 1e-3) & (beam > 0)
    by_hand = face.windows[0].height / profile_tangent(face.normal, toward[unwanted]).min()
    assert found.least_m is not None
    assert by_hand <= found.least_m <= by_hand + 0.06
    assert found.depths[0].kept_out == 0
    assert found.depths[0].let_in == 1
    kept, let = (np.array([getattr(d, n) for d in found.depths]) for n in ("kept_out", "let_in"))
    assert np.all(np.diff(kept) >= -1e-12)
    assert np.all(np.diff(let) <= 1e-12)
    assert found.unwanted_kwh_m2 > 10


def test_fins_serve_an_east_wall_better_than_an_overhang_early(merrowhaven: ClimateYear) -> None:
    building = building_of(Place(), make_scheme(volumes=[volume("bar")], skin={"glazing_ratio": {"east": 0.3}}))
    east = next(f for f in building.faces if f.edge == "bar/s0/e2")
    for kind in ("overhang", "fins", "louvres"):
        found = how_deep(east, Place(), merrowhaven, kind, Span(120, 243, 5, 9), 0.3)
        assert 0 <= found.proposed_m <= 4
        assert 0 < found.depths[-1].kept_out <= 1
    with pytest.raises(EurythmError, match="does not shine"):
        how_deep(east, Place(), merrowhaven, "fins", Span(0, 364, 18, 22), 0.3)
    with pytest.raises(EurythmError, match="no windows"):
        how_deep(face_of(box(), "e2"), Place(), merrowhaven, "fins", SUMMER, 0.3)


def test_sun_path_far_north_has_no_hour_to_shade_in_winter() -> None:
    year = standin_year("merrowhaven")
    with pytest.raises(EurythmError, match="does not shine"):
        how_deep(
            glazed(), Place(), year.at(replace(year.location, latitude_deg=78.0, longitude_deg=15.0)), "overhang", Span(340, 10, 0, 23), 0.3
        )
    assert len(sun_path(78.0, 15.0, 1.0).up) > 3000
