"""Windows, shades and what single faces do differently; zones given outright."""

from __future__ import annotations

import numpy as np
import pytest

from eurythm.brief.readiness import building_remarks
from eurythm.geometry.building import Building, Face
from eurythm.geometry.form import internal_areas, make_building
from eurythm.geometry.openings import MARGIN_M, lost_overrides, place_openings
from eurythm.model.errors import EurythmError
from tests.conftest import make_scheme, run_scheme, volume


def built(north: float = 0.0, **parts: object) -> Building:
    scheme = make_scheme(**{"volumes": [volume(storeys=2)], **parts})
    return place_openings(make_building(scheme, 0.0), scheme.skin, north, scheme.zones)


def walls(building: Building, edge: str) -> list[Face]:
    return [f for f in building.faces if f.kind == "wall" and f.edge.endswith(f"/{edge}")]


def test_only_outdoor_walls_get_windows() -> None:
    pair = built(volumes=[volume("a", base_level_m=-2.0), volume("b", x=20)])
    for face in pair.faces:
        if face.boundary != "outdoors" or face.kind != "wall":
            assert face.window_area == 0
    assert any(f.window_area for f in pair.faces)


def test_each_side_takes_its_own_ratio_by_true_orientation() -> None:
    ratios = {"north": 0.1, "east": 0.2, "south": 0.3, "west": 0.4}
    for north, of_edge in ((0.0, ("south", "east", "north", "west")), (90.0, ("west", "south", "east", "north"))):
        building = built(north, skin={"glazing_ratio": ratios})
        for edge, side in zip(("e1", "e2", "e3", "e4"), of_edge, strict=True):
            for face in walls(building, edge):
                assert face.window_area / face.area == pytest.approx(ratios[side])


def test_sill_and_head_hold_where_the_ratio_leaves_room() -> None:
    for face in walls(built(skin={"sill_m": 1.0, "head_m": 2.6, "glazing_ratio": {"south": 0.3}}), "e1"):
        assert all(w.z == pytest.approx(1.0) and w.z + w.height == pytest.approx(2.6) for w in face.windows)
        assert len(face.windows) == 7  # twenty metres in modules of about three
        gaps = np.diff([w.s for w in face.windows])
        assert gaps == pytest.approx(face.module)


def test_head_is_raised_before_the_sill_is_lowered() -> None:
    face = walls(built(skin={"sill_m": 0.9, "head_m": 2.4, "glazing_ratio": {"south": 0.6}}), "e1")[0]
    window = face.windows[0]
    assert window.z == pytest.approx(0.9)
    assert window.z + window.height > 2.4


def test_no_ratio_no_window() -> None:
    assert sum(f.window_area for f in built(skin={"glazing_ratio": dict.fromkeys(("north", "east", "south", "west"), 0)}).faces) == 0


def test_overhang_spans_the_wall_at_the_head() -> None:
    building = built(skin={"overhang_depth_m": {"south": 1.2}, "head_m": 2.7})
    assert len(building.shades) == 2  # one a storey
    corners = building.shades[0].corners
    assert np.ptp(corners[:, 0]) == pytest.approx(20)
    assert np.ptp(corners[:, 1]) == pytest.approx(1.2)
    assert corners[:, 2] == pytest.approx(2.7)


def test_fins_stand_between_windows_and_at_the_ends() -> None:
    building = built(skin={"fin_depth_m": {"west": 0.5}}, volumes=[volume()])
    face = walls(building, "e4")[0]
    assert len(building.shades) == len(face.windows) + 1
    for shade in building.shades:
        assert np.ptp(shade.corners[:, 0]) == pytest.approx(0.5)
        assert np.ptp(shade.corners[:, 2]) == pytest.approx(3.5)


def test_a_face_does_what_it_is_told_and_its_storey_alone() -> None:
    overrides = [{"id": "o", "face": "v1/s1/e1", "glazing_ratio": 0.75}]
    lower, upper = sorted(walls(built(skin={"overrides": overrides, "glazing_ratio": {"south": 0.2}}), "e1"), key=lambda f: f.id)
    assert lower.window_area / lower.area == pytest.approx(0.2)
    assert upper.window_area / upper.area == pytest.approx(0.75)


def test_a_party_wall_on_all_storeys_has_no_windows_and_no_sun() -> None:
    overrides = [{"id": "o", "face": "v1/*/e2", "boundary": "adiabatic"}]
    party = walls(built(skin={"overrides": overrides}), "e2")
    assert [f.boundary for f in party] == ["adiabatic", "adiabatic"]
    assert sum(f.window_area for f in party) == 0
    plain, closed = (run_scheme(make_scheme(volumes=[volume(storeys=2)], skin={"overrides": o})).outcome for o in ([], overrides))
    assert closed.totals["wall_m2"] == pytest.approx(plain.totals["wall_m2"] - 2 * 12 * 3.5)
    assert closed.closure < 1e-5


def test_an_override_without_its_face_is_kept_and_remarked_on() -> None:
    scheme = make_scheme(volumes=[volume()], skin={"overrides": [{"id": "gone", "face": "v1/s9/e1", "glazing_ratio": 0.5}]})
    building = make_building(scheme, 0.0)
    assert [o.id for o in lost_overrides(building, scheme.skin)] == ["gone"]
    remark = building_remarks(building, scheme, 0.0)[0]
    assert (remark.code, remark.object) == ("override-without-face", "scheme/skin/overrides/gone")


def test_a_volume_in_the_air_is_doubted() -> None:
    scheme = make_scheme(volumes=[volume("high", base_level_m=5.0)])
    codes = [r.code for r in building_remarks(make_building(scheme, 0.0), scheme, 0.0)]
    assert codes == ["volume-in-the-air"]
    stacked = make_scheme(volumes=[volume("low"), volume("high", base_level_m=3.5)])
    assert building_remarks(make_building(stacked, 0.0), stacked, 0.0) == []


def box(**more: object) -> dict:
    return {"id": "room", "box": {"length": 8, "depth": 6, "height": 2.7}, **more}


def test_a_box_meets_the_ground_below_and_outdoors_around() -> None:
    faces = make_building(make_scheme(zones=[box()]), 0.0).faces
    assert sorted(f.boundary for f in faces) == ["ground"] + ["outdoors"] * 5
    assert sum(f.area for f in faces) == pytest.approx(2 * (48 + 8 * 2.7 + 6 * 2.7))


def test_two_boxes_side_by_side_share_a_wall() -> None:
    other = {"id": "next", "box": {"x": 8, "length": 4, "depth": 6, "height": 2.7}}
    shared = [f for f in make_building(make_scheme(zones=[box(), other]), 0.0).faces if f.boundary == "zone"]
    assert [(f.zone, f.other, round(f.area, 6)) for f in shared] == [("room", "next", 16.2)]


def test_windows_and_shades_of_a_box_lie_on_its_face() -> None:
    face = {"id": "s", "side": "south", "windows": [{"x": 0.5, "z": 0.2, "width": 3, "height": 2}], "overhang_depth_m": 1, "fin_depth_m": 1}
    building = built(volumes=[], zones=[box(faces=[face])])
    south = next(f for f in building.faces if f.id == "room/s")
    assert south.window_area == 6
    assert south.orientation(0.0) == "south"
    assert len(building.shades) == 3  # the overhang at the top and a fin at each end
    assert max(s.corners[:, 2].max() for s in building.shades) == pytest.approx(2.7)


@pytest.mark.parametrize(
    ("faces", "code"),
    [
        ([{"id": "s", "side": "south", "windows": [{"x": 6, "z": 0.2, "width": 3, "height": 2}]}], "window-outside-face"),
        ([{"id": "s", "side": "south", "windows": [{"x": 0, "z": 1.0, "width": 3, "height": 2}]}], "window-outside-face"),
        ([{"id": "a", "side": "south"}, {"id": "b", "side": "south"}], "face-without-side"),
    ],
)
def test_faces_that_do_not_fit_their_box_are_refused(faces: list[dict], code: str) -> None:
    with pytest.raises(EurythmError) as fault:
        make_building(make_scheme(zones=[box(faces=faces)]), 0.0)
    assert fault.value.code == code
    assert fault.value.path.startswith("zones/room/faces")


def test_doubled_zone_ids_are_refused() -> None:
    with pytest.raises(EurythmError, match="Two things bear the id") as fault:
        make_building(make_scheme(zones=[box(), {**box(), "box": {"x": 20, "length": 2, "depth": 2, "height": 2}}]), 0.0)
    assert fault.value.code == "doubled-id"


def test_sizes_of_partitions_are_shared_and_floors_lose_nothing_else() -> None:
    scheme = make_scheme(volumes=[volume(zoning="perimeter_core", storeys=2)])
    building = make_building(scheme, 0.0)
    thin = internal_areas(building, {})
    thick = internal_areas(building, {"partition": 0.2})
    assert sum(a for a, _ in thin.values()) == pytest.approx(2 * 240)
    lost = sum(a for a, _ in thin.values()) - sum(a for a, _ in thick.values())
    runs = sum(f.size[0] for f in building.faces if f.kind == "wall" and f.boundary == "zone")
    assert lost == pytest.approx(0.2 * runs, rel=0.05)


def test_windows_keep_a_rim_below_the_ceiling() -> None:
    low = walls(built(volumes=[volume(height=2.6)], skin={"head_m": 3.5, "glazing_ratio": {"south": 0.3}}), "e1")[0]
    assert max(w.z + w.height for w in low.windows) <= 2.6 - MARGIN_M + 1e-9
