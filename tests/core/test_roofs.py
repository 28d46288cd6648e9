"""Pitched roofs: what they enclose, what they meet, and what is refused."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.brief.edits import apply_edit
from eurythm.brief.reshape import CutVolume, Join, Mirror, ToOutline, reshape
from eurythm.exchange.demo import demo_project
from eurythm.geometry.building import Building, Face
from eurythm.geometry.form import internal_areas, make_building
from eurythm.geometry.openings import place_openings
from eurythm.model.errors import EurythmError
from eurythm.model.project import Project
from eurythm.model.reading import dump, read_document
from eurythm.model.scheme import Scheme
from eurythm.sun.samples import sample

TAN30 = math.tan(math.radians(30))


def house(roof: dict[str, Any], form: dict[str, Any] | None = None, **more: Any) -> dict[str, Any]:
    """A volume of two storeys of 3 m."""
    form = form or {"kind": "rectangle", "length": 20.0, "depth": 10.0}
    storeys = [{"id": "s0", "height_m": 3.0}, {"id": "s1", "height_m": 3.0}]
    return {"id": "v", "form": form, "storeys": storeys, "roof": roof, **more}


def scheme_of(*volumes: dict[str, Any], **more: Any) -> Scheme:
    return read_document(Scheme, {"id": "s", "name": "S", "volumes": list(volumes), **more})


def build(*volumes: dict[str, Any], **more: Any) -> Building:
    return make_building(scheme_of(*volumes, **more), 0.0)


def closure(building: Building, zone: str) -> float:
    """How far the area vectors of a zone's faces are from adding up to nothing, m²."""
    total = np.zeros(3)
    for face in building.faces:
        total += face.normal * face.area * (zone == face.zone) - face.normal * face.area * (zone == face.other)
    return float(np.linalg.norm(total))


def roofs(building: Building) -> list[Face]:
    return [f for f in building.faces if f.kind == "ceiling" and f.boundary == "outdoors"]


def test_one_slope_has_the_volume_of_half_a_box_above_the_eaves() -> None:
    building = build(house({"kind": "mono", "pitch_deg": 30}))
    assert sum(z.gross_volume for z in building.zones) == pytest.approx(20 * 10 * 6 + 20 * 10 * 10 * TAN30 / 2)
    (roof,) = roofs(building)
    assert roof.tilt_deg == pytest.approx(30)
    assert roof.azimuth_deg(0) == pytest.approx(180)  # e1, the longest edge, is the south one; the slope looks over it
    assert roof.area == pytest.approx(200 / math.cos(math.radians(30)))
    north = next(f for f in building.faces if f.id == "v/s1/e3")
    assert north.area == pytest.approx(20 * (3 + 10 * TAN30))
    west = next(f for f in building.faces if f.id == "v/s1/e4")
    assert west.area == pytest.approx(10 * (3 + 5 * TAN30))


def test_two_slopes_meet_over_the_middle() -> None:
    building = build(house({"kind": "gable", "pitch_deg": 30, "eaves": "e2"}))
    assert sorted(f.azimuth_deg(0) for f in roofs(building)) == pytest.approx([90, 270])
    top = next(z for z in building.zones if z.storey == "s1")
    assert top.rise == pytest.approx(10 * TAN30)
    assert top.top == pytest.approx(6 + 10 * TAN30)
    assert top.gross_volume == pytest.approx(20 * 10 * 3 + 20 * 10 * 10 * TAN30 / 2)
    gable = next(f for f in building.faces if f.id == "v/s1/e1")
    assert len(gable.loops[0]) == 5
    assert gable.area == pytest.approx(20 * (3 + 5 * TAN30))


@pytest.mark.parametrize("kind", ["mono", "gable"])
@pytest.mark.parametrize(
    "zoning", [{}, {"kind": "perimeter_core", "depth_m": 3}, {"kind": "perimeter_core", "around": "ring", "depth_m": 3}]
)
@pytest.mark.parametrize(
    "form",
    [
        {"kind": "rectangle", "length": 20, "depth": 10},
        {"kind": "l", "length": 30, "depth": 26},
        {"kind": "courtyard", "length": 40, "depth": 36},
    ],
)
def test_every_zone_closes_however_it_is_divided(kind: str, zoning: dict[str, Any], form: dict[str, Any]) -> None:
    whole = build(house({"kind": kind, "pitch_deg": 22}, form))
    parts = build(house({"kind": kind, "pitch_deg": 22}, form, zoning=zoning))
    assert max(closure(parts, z.id) for z in parts.zones) < 0.01
    assert sum(z.gross_volume for z in parts.zones) == pytest.approx(sum(z.gross_volume for z in whole.zones), rel=1e-6)
    assert sum(f.area for f in roofs(parts)) == pytest.approx(sum(f.area for f in roofs(whole)), rel=1e-6)
    outer = [sum(f.area for f in b.faces if f.kind == "wall" and f.boundary == "outdoors") for b in (parts, whole)]
    assert outer[0] == pytest.approx(outer[1], rel=1e-6)


@settings(deadline=None)
@given(
    length=st.floats(6, 60), depth=st.floats(6, 60), pitch=st.floats(2, 60), turn=st.floats(-180, 180), kind=st.sampled_from(["mono", "gable"]),
    eaves=st.sampled_from(["e1", "e2", "e3", "e4"]),
)  # fmt: skip
def test_a_turned_roof_encloses_what_the_formula_says(
    length: float, depth: float, pitch: float, turn: float, kind: str, eaves: str
) -> None:
    form = {"kind": "rectangle", "length": length, "depth": depth}
    building = build(house({"kind": kind, "pitch_deg": pitch, "eaves": eaves}, form), turn_deg=turn)
    span = depth if eaves in ("e1", "e3") else length
    rise = math.tan(math.radians(pitch)) * (span if kind == "mono" else span / 2)
    assert sum(z.gross_volume for z in building.zones) == pytest.approx(length * depth * (6 + rise / 2), rel=1e-4)
    assert max(closure(building, z.id) for z in building.zones) < 0.01 + 1e-6 * length * depth


def test_the_slope_over_a_lower_neighbour_meets_only_its_wall() -> None:
    tall = {"id": "tower", "form": {"kind": "rectangle", "length": 8, "depth": 10}, "x": 20.0, "storeys": [{"id": "t0", "height_m": 12.0}]}
    building = build(house({"kind": "gable", "pitch_deg": 30}), tall)
    shared = sum(f.area for f in building.faces if {f.zone, f.other} == {"v/s1/all", "tower/t0/all"})
    assert shared == pytest.approx(10 * 3 + 10 * 5 * TAN30 / 2)  # the gable end, all of it
    assert max(closure(building, z.id) for z in building.zones) < 0.01
    tower_west = sum(f.area for f in building.faces if f.edge == "tower/t0/e4" and f.boundary == "outdoors")
    assert tower_west == pytest.approx(10 * 12 - 10 * 6 - 10 * 5 * TAN30 / 2)


def test_nothing_stands_within_a_roof() -> None:
    above = {
        "id": "box",
        "form": {"kind": "rectangle", "length": 4, "depth": 4},
        "x": 3,
        "y": 3,
        "base_level_m": 6.0,
        "storeys": [{"id": "b"}],
    }
    with pytest.raises(EurythmError, match=r"share 16\.0 m²") as fault:
        build(house({"kind": "gable"}), above)
    assert fault.value.code == "zones-overlap"
    assert fault.value.path in ("volumes/v", "volumes/box")


def test_an_edge_that_is_not_there_is_named() -> None:
    with pytest.raises(EurythmError) as fault:
        build(house({"kind": "mono", "eaves": "e9"}))
    assert (fault.value.code, fault.value.path) == ("no-such-edge", "volumes/v/roof/eaves")


def test_windows_stay_below_the_slope_and_keep_the_ratio() -> None:
    scheme = scheme_of(house({"kind": "gable", "pitch_deg": 40, "eaves": "e1"}))
    made = place_openings(make_building(scheme, 0.0), scheme.skin, 0.0)
    gable = next(f for f in made.faces if f.id == "v/s1/e2")
    assert gable.window_area == pytest.approx(0.3 * gable.area)
    assert all(w.z + w.height <= 3.0 for w in gable.windows)
    points = sample(gable)
    assert points.wall.sum() == pytest.approx(1)
    # no point that stands for wall lies beside the gable
    height = 3 + (5 - np.abs(points.points[:, 1] - 5)) * math.tan(math.radians(40))
    assert np.all(points.points[points.wall > 0, 2] - 3 <= height[points.wall > 0] + 1e-6)


def test_a_wall_that_is_all_gable_takes_no_window() -> None:
    low = house({"kind": "gable", "pitch_deg": 60}) | {"storeys": [{"id": "s1", "height_m": 0.4}]}
    scheme = scheme_of(low)
    made = place_openings(make_building(scheme, 0.0), scheme.skin, 0.0)
    assert next(f for f in made.faces if f.id == "v/s1/e2").windows == ()


def test_room_under_the_roof_is_counted_in_its_air() -> None:
    thickness = {"wall": 0.3, "roof": 0.3, "intermediate_floor": 0.3, "ground_floor": 0.3, "partition": 0.1, "exposed_floor": 0.3}
    flat, pitched = (internal_areas(build(house(r)), thickness)["v/s1/all"] for r in ({}, {"kind": "gable", "pitch_deg": 30}))
    assert pitched[0] == pytest.approx(flat[0])
    assert pitched[1] / pitched[0] == pytest.approx(3 + 5 * TAN30 / 2 - 0.3 / math.cos(math.radians(30)))
    assert flat[1] / flat[0] == pytest.approx(2.7)


def with_volume(volume: dict[str, Any]) -> tuple[Any, Scheme]:
    project = demo_project()
    data = dump(project)
    data["schemes"][0]["volumes"] = [volume]
    data["schemes"][0].pop("merged", None)
    project = read_document(type(project), data)
    return project, project.schemes[0]


@pytest.mark.parametrize("axis", ["x", "y"])
def test_mirroring_a_slope_turns_it_round(axis: Any) -> None:
    project, scheme = with_volume(house({"kind": "mono", "pitch_deg": 20}))
    mirrored = apply_edit(project, reshape(scheme, Mirror(volume="v", axis=axis))).schemes[0]
    (roof,) = roofs(make_building(mirrored, 0.0))
    assert roof.azimuth_deg(0) == pytest.approx(180 if axis == "x" else 0)


def test_a_free_outline_keeps_its_eaves() -> None:
    project, scheme = with_volume(house({"kind": "mono", "pitch_deg": 20}, {"kind": "rectangle", "length": 10, "depth": 20}))
    free = apply_edit(project, reshape(scheme, ToOutline(volume="v"))).schemes[0]
    assert free.volumes[0].roof.eaves == "e2"
    before, after = (roofs(make_building(s, 0.0))[0].normal for s in (scheme, free))
    assert after == pytest.approx(before)


def gross(scheme: Scheme) -> float:
    return sum(z.gross_volume for z in make_building(scheme, 0.0).zones)


def reshaped(scheme: Scheme, wish: Any) -> Scheme:
    project = read_document(Project, {"name": "p", "schemes": [dump(scheme)], "reference": scheme.id})
    return apply_edit(project, reshape(scheme, wish)).schemes[0]


def lines(ends: st.SearchStrategy[float]) -> st.SearchStrategy[tuple[tuple[float, float], tuple[float, float]]]:
    """Cuts square to the longer sides of 20 by 10 m, along them, and any."""
    square = ends.map(lambda t: ((20 * t, -5.0), (20 * t, 15.0)))
    along = ends.map(lambda t: ((-5.0, 10 * t), (25.0, 10 * t)))
    any_way = st.tuples(ends, ends).map(lambda t: ((20 * t[0], -1.0), (20 * t[1], 11.0)))
    return st.one_of(square, along, any_way, st.just(((-5.0, 5.0), (25.0, 5.0))))


@settings(max_examples=60, deadline=None)
@given(
    kind=st.sampled_from(["mono", "gable"]),
    eaves=st.sampled_from(["e1", "e2", "e3", "e4"]),
    pitch=st.floats(5, 60),
    turn=st.sampled_from([0.0, 30.0]),
    line=lines(st.floats(0.12, 0.88)),
)
def test_a_cut_roof_lies_where_it_lay_and_joins_again(kind: str, eaves: str, pitch: float, turn: float, line: Any) -> None:
    whole = scheme_of(house({"kind": kind, "eaves": eaves, "pitch_deg": pitch}, turn_deg=turn))
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    a, b = ((c * x + s * y, -s * x + c * y) for x, y in line)
    try:
        cut = reshaped(whole, CutVolume(volume="v", a=a, b=b))
    except EurythmError as fault:
        assert fault.code == "roof-parts"  # noqa: PT017
        assert line[0][0] != line[1][0] or eaves in ("e2", "e4")  # square to the eaves always does
        return
    assert gross(cut) == pytest.approx(gross(whole), rel=1e-4)
    areas = [sum(f.area for f in roofs(make_building(s, 0.0))) for s in (whole, cut)]
    assert areas[1] == pytest.approx(areas[0], rel=1e-4)
    first, second = cut.volumes
    joined = reshaped(cut, Join(volume=first.id, other=second.id))
    assert gross(joined) == pytest.approx(gross(whole), rel=1e-4)
    assert max(z.rise for z in make_building(joined, 0.0).zones) == pytest.approx(
        max(z.rise for z in make_building(whole, 0.0).zones), abs=2e-3
    )


def test_a_gable_cut_along_its_ridge_is_two_single_slopes() -> None:
    cut = reshaped(scheme_of(house({"kind": "gable"})), CutVolume(volume="v", a=(-5, 5), b=(25, 5)))
    assert [v.roof.kind for v in cut.volumes] == ["mono", "mono"]
    assert sorted(round(f.azimuth_deg(0)) for f in roofs(make_building(cut, 0.0))) == [0, 180]


@pytest.mark.parametrize("roof", [{"kind": "gable"}, {"kind": "gable", "pitch_deg": 30.0}])
def test_a_pitch_stays_given_or_assumed_as_it_was(roof: dict[str, Any]) -> None:
    cut = reshaped(scheme_of(house(roof)), CutVolume(volume="v", a=(-5, 5), b=(25, 5)))
    assert ["pitch_deg" in v.roof.model_fields_set for v in cut.volumes] == ["pitch_deg" in roof] * 2


def test_the_upper_piece_of_one_slope_stands_on_higher_eaves() -> None:
    cut = reshaped(scheme_of(house({"kind": "mono"})), CutVolume(volume="v", a=(-5, 4), b=(25, 4)))
    assert sorted(v.storeys[-1].height_m for v in cut.volumes) == pytest.approx([3.0, 3.0 + 4 * TAN30], abs=1e-3)
    assert [v.storeys[0].height_m for v in cut.volumes] == [3.0, 3.0]


def test_roofs_that_do_not_go_on_are_refused() -> None:
    beside = house({"kind": "gable", "pitch_deg": 40}, id="w", x=20.0)
    for scheme, wish in (
        (scheme_of(house({"kind": "gable"})), CutVolume(volume="v", a=(-5, 3), b=(25, 3))),
        (scheme_of(house({"kind": "gable"}), beside), Join(volume="v", other="w")),
        (scheme_of(house({"kind": "flat"}), beside), Join(volume="v", other="w")),
    ):
        with pytest.raises(EurythmError) as fault:
            reshape(scheme, wish)
        assert fault.value.code == "roof-parts"
