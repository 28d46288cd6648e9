"""What is checked of a file before it counts, and what becomes of it: hand-made rooms, one fault each."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.exchange.ifc.read import KINDS
from eurythm.exchange.intake.checks import check, levels_of, plan_of
from eurythm.exchange.intake.received import Received, ReceivedElement, ReceivedFace, ReceivedSpace, ReceivedStorey
from eurythm.exchange.intake.settle import Settled, settle
from eurythm.exchange.intake.sift import COUNTS, Mend, Sift, SiftRule, lost_mends, mended, met, verdicts
from eurythm.model.place import Place

BARE = {"id": "s", "name": "S"}


def box_loops(x0: float, y0: float, x1: float, y1: float, z0: float, z1: float) -> list[list[tuple[float, float, float]]]:
    """The six faces of a box, counter-clockwise seen from outside."""
    plan = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
    walls = [[(*plan[i], z0), (*plan[(i + 1) % 4], z0), (*plan[(i + 1) % 4], z1), (*plan[i], z1)] for i in range(4)]
    return [[(x, y, z0) for x, y in plan[::-1]], [(x, y, z1) for x, y in plan], *walls]


def room(ref: str, x0: float, y0: float, x1: float, y1: float, level: float = 0.0, height: float = 3.0, **more: Any) -> ReceivedSpace:
    faces = [ReceivedFace(id=f"{ref}-{k}", loop=loop) for k, loop in enumerate(box_loops(x0, y0, x1, y1, level, level + height))]
    area = (x1 - x0) * (y1 - y0)
    data = {
        "id": ref, "kind": "room", "class_name": "IfcSpace", "name": f"Room {ref}", "storey": "ground" if level < 2.9 else "upper", "faces": faces,
        "rings": [[(x0, y0), (x1, y0), (x1, y1), (x0, y1)]], "level": level, "height": height, "volume_m3": area * height, "floor_area_m2": area,
    }  # fmt: skip
    return ReceivedSpace.model_validate(data | more)


def block(name: str, kind: str, x0: float, y0: float, z0: float, x1: float, y1: float, z1: float, **more: Any) -> ReceivedElement:
    points = list(itertools.product((x0, x1), (y0, y1), (z0, z1)))
    sides = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    triangles = [t for a, b, c, d in sides for t in ((a, b, c), (a, c, d))]
    return ReceivedElement.model_validate(
        {"id": name, "kind": KINDS.get(kind, "other"), "class_name": kind, "name": name, "points": points, "triangles": triangles} | more
    )


def model(*spaces: ReceivedSpace, elements: tuple[ReceivedElement, ...] = (), **more: Any) -> Received:
    storeys = [
        ReceivedStorey(id="ground", name="Ground floor", elevation_m=0.0),
        ReceivedStorey(id="upper", name="Upper floor", elevation_m=3.0),
    ]
    return Received(file="model.ifc", format="IFC", storeys=storeys, spaces=list(spaces), elements=list(elements), **more)


def checked(given: Received) -> tuple[dict[str, str], list[tuple[str, str]]]:
    """What the checks leave out, and what they remark on."""
    found = check(given, {t.id for t in (*given.spaces, *given.elements)})
    return found.leave_out, [(f.code, f.object) for f in found.findings]


def settled(given: Received, sift: Sift | None = None) -> Settled:
    return settle(given, sift or Sift(), BARE, Place())


def test_a_sound_model_is_left_in_peace() -> None:
    assert checked(model(room("a", 0, 0, 5, 4), room("b", 5.2, 0, 9, 4), room("c", 0, 0, 9, 4, level=3.3))) == ({}, [])


def test_a_room_that_stands_twice_counts_once() -> None:
    out, said = checked(model(room("a", 0, 0, 5, 4), room("again", 0, 0, 5, 4), room("above", 0, 0, 5, 4, level=3.0)))
    assert out == {"again": "doubled"}
    assert said == [("doubled-object", "again")]


def test_a_gross_area_over_several_rooms_is_left_out_and_the_rooms_stay() -> None:
    rooms = [room(f"r{k}", 4 * k, 0, 4 * k + 3.8, 5) for k in range(4)]
    out, said = checked(model(room("gross", -0.3, -0.3, 16.3, 5.3), *rooms))
    assert list(out) == ["gross"]
    assert "4 other rooms" in out["gross"]
    assert said == [("space-overlaps", "gross")]


def test_of_two_rooms_over_each_other_the_larger_goes() -> None:
    out, _ = checked(model(room("small", 0, 0, 4, 4), room("large", 2, 0, 12, 4)))
    assert list(out) == ["large"]


def test_rooms_that_touch_or_overlap_by_a_plaster_layer_stay() -> None:
    assert checked(model(room("a", 0, 0, 5, 4), room("b", 4.98, 0, 9, 4)))[0] == {}


def test_rooms_over_each_other_on_different_levels_do_not_overlap() -> None:
    assert checked(model(room("a", 0, 0, 5, 4), room("b", 0, 0, 5, 4, level=3.0), room("hall", 6, 0, 9, 4, height=6.0)))[0] == {}


@pytest.mark.parametrize(
    ("fault", "reason", "code"),
    [
        ({"faces": [], "rings": []}, "without form", "space-without-form"),
        ({"closed": False}, "not closed", None),  # the reader has said so, with the hole
        ({"floor_area_m2": 0.2}, "tiny", "space-tiny"),
        ({"volume_m3": 0.4}, "tiny", "space-tiny"),
    ],
)
def test_rooms_that_can_be_no_zone_are_left_out(fault: dict, reason: str, code: str | None) -> None:
    out, said = checked(model(room("good", 10, 0, 15, 4), room("bad", 0, 0, 5, 4, **fault)))
    assert out == {"bad": reason}
    assert said == ([(code, "bad")] if code else [])


@pytest.mark.parametrize(
    ("fields", "name"),
    [({"use": "Archive"}, "Archive"), ({"number": "0.7"}, "Room 0.7"), ({"number": "0.7", "use": "Archive"}, "Archive"), ({}, "Room")],
)
def test_a_name_is_proposed_for_a_room_without_one(fields: dict, name: str) -> None:
    given = model(room("a", 0, 0, 5, 4, **{"name": "", **fields}))
    assert checked(given)[1] == [("space-without-name", "a")]
    assert settled(given).scheme.zones[0].name == name


def test_a_room_in_no_storey_goes_to_the_one_at_its_level() -> None:
    given = model(room("a", 0, 0, 5, 4), room("b", 0, 0, 5, 4, level=3.2, storey=None), room("c", 6, 0, 9, 4, level=0.2, storey="gone"))
    assert checked(given)[1] == [("space-outside-storey", "b"), ("space-outside-storey", "c")]
    assert {z.id: z.storey for z in settled(given).scheme.zones}["Room-b"] == "Upper floor"


def test_walls_that_do_not_say_their_side_and_doubled_furniture() -> None:
    wall = block("w1", "IfcWall", 0, -0.3, 0, 5, 0, 3)
    sided = block("w2", "IfcWall", 0, 4, 0, 5, 4.3, 3, external=True)
    twice = [block(n, "IfcWindow", 1, -0.3, 1, 2, 0, 2) for n in ("p1", "p2")]
    out, said = checked(model(room("a", 0, 0, 5, 4), elements=(wall, sided, *twice)))
    assert out == {"p2": "doubled"}
    assert said == [("doubled-object", "p2"), ("wall-without-side", "w1")]


def test_plans_and_levels_come_from_faces_where_no_ring_is_told() -> None:
    whole = room("a", 1, 2, 6, 5, level=1.0)
    loose = whole.model_copy(update={"rings": [], "level": 0.0, "height": 0.0})
    assert plan_of(loose).area == pytest.approx(plan_of(whole).area) == pytest.approx(15.0)
    assert levels_of(loose) == levels_of(whole) == (1.0, 4.0)


def test_rules_hold_in_their_order_and_the_hand_before_all() -> None:
    given = model(
        room("a", 0, 0, 5, 4, properties={"Energy.Heated": "no"}), room("b", 6, 0, 9, 4, name="Duct"), elements=(block("chair", "IfcFurniture", 1, 1, 0, 2, 2, 1),)
    )  # fmt: skip

    def keep(*rules: tuple[str, str, bool], proposals: dict[str, str] | None = None) -> set[str]:
        sift = Sift(
            rules=tuple(SiftRule.model_validate({"id": f"r{k}", "by": b, "value": v, "keep": on}) for k, (b, v, on) in enumerate(rules))
        )
        return {name for name, v in verdicts(given, sift, proposals or {}).items() if v.keep}

    assert keep() == {"a", "b"}
    assert keep(("class", "IfcFurniture", True)) == {"a", "b", "chair"}
    assert keep(("name", "duct*", False)) == {"a"}
    assert keep(("name", "*", False), ("name", "duct*", True)) == {"b"}  # the last that matches
    assert keep(("property", "Energy.Heated=no", False)) == {"b"}
    assert keep(("property", "Energy.*", False)) == {"b"}
    assert keep(("storey", "ground", False)) == set()
    assert keep(proposals={"a": "tiny"}) == {"b"}
    assert keep(("name", "*", True), proposals={"a": "tiny"}) == {"a", "b", "chair"} - {"a"}
    assert keep(("object", "a", True), ("class", "IfcSpace", False), proposals={"a": "tiny"}) == {"a"}


def test_a_rule_tells_how_many_it_speaks_of() -> None:
    given = model(room("a", 0, 0, 5, 4), room("b", 6, 0, 9, 4, name="Duct"), elements=(block("chair", "IfcFurniture", 1, 1, 0, 2, 2, 1),))
    rules = (
        ("rooms", "class", "IfcSpace"),
        ("ducts", "name", "duct*"),
        ("slip", "name", "dcut*"),
        ("one", "object", "chair"),
        ("gone", "object", "table"),
    )
    sift = Sift.model_validate({"rules": [{"id": name, "by": by, "value": value, "keep": False} for name, by, value in rules]})
    assert met(given, sift) == {"rooms": 2, "ducts": 1, "slip": 0, "one": 1, "gone": 0}


def test_kinds_that_count_are_those_of_a_building() -> None:
    assert {KINDS[name] for name in ("IfcWall", "IfcWindow", "IfcCurtainWall", "IfcPlate")} | {"room", "mass"} <= COUNTS
    assert not {KINDS.get(name, "other") for name in ("IfcFurniture", "IfcRailing", "IfcStair", "IfcColumn")} & COUNTS


def test_mends_reach_their_field_and_what_is_gone_is_listed() -> None:
    given = model(room("a", 0, 0, 5, 4), elements=(block("w", "IfcWall", 0, -0.3, 0, 5, 0, 3),))
    mends = [("a", "name", "Archive"), ("a", "use", "office"), ("w", "external", True), ("w", "number", "7"), ("gone", "name", "x")]
    sift = Sift(mends=tuple(Mend.model_validate({"id": f"m{k}", "object": o, "field": f, "value": v}) for k, (o, f, v) in enumerate(mends)))
    made = mended(given, sift)
    assert (made.spaces[0].name, made.spaces[0].use, made.elements[0].external) == ("Archive", "office", True)
    assert given.spaces[0].name == "Room a"  # what was received stays
    assert [m.object for m in lost_mends(given, sift)] == ["gone"]


def test_neighbours_across_a_wall_and_a_slab_are_found_within_the_gap() -> None:
    given = model(room("a", 0, 0, 5, 4), room("b", 5.2, 0, 9, 4), room("c", 0, 0, 9, 4, level=3.3))
    building = settled(given).building
    pairs = {frozenset((f.zone, f.other)) for f in building.faces if f.other}
    assert pairs == {frozenset(p) for p in (("Room-a", "Room-b"), ("Room-a", "Room-c"), ("Room-b", "Room-c"))}
    apart = settled(given, Sift(gap_m=0.1)).building
    assert not [f for f in apart.faces if f.other]


def test_a_window_goes_to_the_face_of_the_room_behind_it() -> None:
    pane = block("p", "IfcWindow", 1.0, -0.3, 0.9, 2.5, -0.1, 2.2, wide=1.5, high=1.3)
    chair = block("chair", "IfcFurniture", 1, 1, 0, 2, 2, 1)
    made = settled(model(room("a", 0, 0, 5, 4), room("b", 0, 4.2, 5, 8), elements=(pane, chair)))
    (face,) = [f for f in made.building.faces if f.windows] or [None]
    zone = next(z for z in made.scheme.zones if any(f.windows for f in z.faces))
    (side,) = [f for f in zone.faces if f.windows]
    assert zone.id == "Room-a"
    (window,) = side.windows
    assert (window.width, window.height, window.z) == pytest.approx((1.5, 1.3, 0.9))
    assert face is None or face.zone == "Room-a"


def test_a_window_far_from_every_room_is_told_and_left_out() -> None:
    pane = block("lost", "IfcWindow", 1.0, -4.3, 0.9, 2.5, -4.1, 2.2, wide=1.5, high=1.3)
    made = settled(model(room("a", 0, 0, 5, 4), elements=(pane,)))
    assert not any(f.windows for z in made.scheme.zones for f in z.faces)
    assert [f.object for f in made.findings if f.object == "lost"] == ["lost"]


@settings(max_examples=30, deadline=None)
@given(
    wide=st.lists(st.floats(2, 9), min_size=1, max_size=5), deep=st.lists(st.floats(2, 9), min_size=1, max_size=4), wall=st.floats(0.05, 0.45),
)  # fmt: skip
def test_any_grid_of_rooms_comes_whole(wide: list[float], deep: list[float], wall: float) -> None:
    """Rooms apart by a wall: none lost, areas kept, each pair of neighbours found, no fault seen."""
    xs, ys = (np.cumsum([0.0, *(w + wall for w in sizes)]) for sizes in (wide, deep))
    rooms = [room(f"{i}.{j}", xs[i], ys[j], xs[i] + wide[i], ys[j] + deep[j]) for i in range(len(wide)) for j in range(len(deep))]
    given = model(*rooms)
    assert checked(given) == ({}, [])
    made = settled(given)
    assert len(made.scheme.zones) == len(rooms)
    plan = sum(z.plan.area for z in made.building.zones)
    assert plan == pytest.approx(sum(wide) * sum(deep), rel=1e-6)
    pairs = {frozenset((f.zone, f.other)) for f in made.building.faces if f.other}
    assert len(pairs) == (len(wide) - 1) * len(deep) + len(wide) * (len(deep) - 1)
