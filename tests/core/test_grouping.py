"""Zones grouped by use or storey, and what a face's construction comes from."""

from __future__ import annotations

from typing import Any

import pytest

from eurythm.brief.grouping import GroupZones, grouped
from eurythm.brief.resolve import construction_origin, profile_of
from eurythm.geometry.building import Building
from eurythm.geometry.cladding import clad
from eurythm.geometry.form import make_building
from eurythm.model.errors import EurythmError
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme
from tests.conftest import make_scheme, volume


def rooms(**more: Any) -> Scheme:
    """Two storeys of three rooms in a row; the outer rooms of the lower storey are offices, as are all of the upper one."""
    zones = []
    for storey in (0, 1):
        for k in range(3):
            x = 5.0 * k
            corners = [(x, 0), (x + 5, 0), (x + 5, 4), (x, 4)]
            points = [{"id": f"e{i}", "x": a, "y": b} for i, (a, b) in enumerate(corners)]
            use = "office" if storey == 1 or k != 1 else "classroom"
            zones.append({"id": f"r{storey}{k}", "outline": {"points": points, "z": 3.0 * storey, "height": 3.0}, "profile": use})
    return make_scheme(volumes=[], zones=zones, **more)


def groups(scheme: Scheme, by: str) -> dict[str, set[str]]:
    edit = grouped(scheme, make_building(scheme.model_copy(update={"merged": ()}), 0.0), GroupZones.model_validate({"by": by}))
    assert edit.path == f"schemes/{scheme.id}/merged"
    return {g["id"]: set(g["zones"]) for g in edit.value}


def merged(scheme: Scheme, by: str) -> Building:
    made = groups(scheme, by)
    new = scheme.model_copy(
        update={
            "merged": read_document(
                Scheme, {"id": "x", "name": "x", "merged": [{"id": i, "zones": sorted(z)} for i, z in made.items()]}
            ).merged
        }
    )
    return make_building(new, 0.0)


def test_rooms_of_one_use_are_grouped_where_they_touch() -> None:
    """The two offices of the lower storey stand apart: each stays by itself."""
    assert list(groups(rooms(), "use").values()) == [{"r10", "r11", "r12"}]


def test_across_storeys_what_is_stacked_hangs_together() -> None:
    assert list(groups(rooms(), "use_across_storeys").values()) == [{"r00", "r02", "r10", "r11", "r12"}]


def test_a_storey_is_one_zone_whatever_its_uses() -> None:
    assert list(groups(rooms(), "storey").values()) == [{"r00", "r01", "r02"}, {"r10", "r11", "r12"}]


@pytest.mark.parametrize("by", ["use", "use_across_storeys", "storey"])
def test_grouping_keeps_floor_volume_and_outside(by: str) -> None:
    apart, together = make_building(rooms(), 0.0), merged(rooms(), by)
    assert len(together.zones) < len(apart.zones)
    assert sum(z.gross_volume for z in together.zones) == pytest.approx(sum(z.gross_volume for z in apart.zones))

    def outside(b: Building) -> float:
        return sum(f.area for f in b.faces if f.boundary != "zone")

    assert outside(together) == pytest.approx(outside(apart))


def test_groups_made_by_hand_stay() -> None:
    hand = rooms(merged=[{"id": "stair", "name": "Stair", "zones": ["r00", "r10"]}])
    assert list(groups(hand, "storey").values()) == [{"r00", "r10"}, {"r01", "r02"}, {"r11", "r12"}]


def test_all_are_ungrouped_at_once() -> None:
    assert groups(rooms(merged=[{"id": "stair", "zones": ["r01", "r11"]}]), "none") == {}


def test_nothing_to_group_is_said() -> None:
    single = make_scheme(volumes=[volume("bar")])
    with pytest.raises(EurythmError) as fault:
        groups(single, "use")
    assert fault.value.code == "nothing-to-group"


def test_names_of_groups_do_not_meet_names_of_zones() -> None:
    scheme = rooms()
    taken = [
        {"id": "level-0-m", **z.model_dump(exclude={"id"}, exclude_unset=True)} if z.id == "r00" else z.model_dump(exclude_unset=True)
        for z in scheme.zones
    ]
    made = groups(make_scheme(volumes=[], zones=taken), "storey")
    assert set(made) == {"level-0-m-2", "level-3-m"}


def test_the_use_of_a_zone_is_by_place_then_its_own_then_the_schemes() -> None:
    scheme = rooms(
        use={
            "profile": "library",
            "zones": [{"id": "a", "zone": "r0*", "profile": "gallery"}, {"id": "b", "zone": "r02", "profile": "office"}],
        }
    )
    of = {z.id: profile_of(scheme, z.id, z.profile) for z in scheme.zones}
    assert of == {"r00": "gallery", "r01": "gallery", "r02": "office", "r10": "office", "r11": "office", "r12": "office"}
    assert profile_of(scheme, "elsewhere", None) == "library"


def test_origin_of_a_construction() -> None:
    scheme = make_scheme(
        volumes=[volume("bar")], skin={"roof": "roof_2020", "overrides": [{"id": "o", "face": "bar/s0/e1", "construction": "wall_1975"}]}
    )
    building = clad(make_building(scheme, 0.0), scheme, 0.0)
    found = {f.id: construction_origin(scheme, f) for f in building.faces}
    by_kind = {f.id.rpartition("/")[2]: found[f.id] for f in building.faces}
    assert by_kind["e1"] == "given"
    assert by_kind["e2"] == "assumed"
    assert {found[f.id] for f in building.faces if f.kind == "ceiling"} == {"given"}
    assert {found[f.id] for f in building.faces if f.kind == "floor"} == {"assumed"}


@pytest.mark.parametrize(
    ("imported", "construction", "expected"),
    [
        (None, "w-12", "given"),
        ({"file": "a.ifc"}, "w-12", "imported"),
        ({"file": "a.ifc"}, "wall-good", "given"),  # no file brings a shipped one
    ],
)
def test_constructions_that_came_with_a_file_are_imported(imported: dict | None, construction: str, expected: str) -> None:
    corners = [(0, 0), (6, 0), (6, 5), (0, 5)]
    points = [{"id": f"e{i}", "x": x, "y": y} for i, (x, y) in enumerate(corners)]
    room = {"id": "r", "outline": {"points": points, "height": 3}, "faces": [{"id": "e0", "side": "e0", "construction": construction}]}
    scheme = make_scheme(volumes=[], zones=[room], **({"imported_from": imported} if imported else {}))
    building = make_building(scheme, 0.0)
    assert {construction_origin(scheme, f) for f in building.faces if f.construction} == {expected}
