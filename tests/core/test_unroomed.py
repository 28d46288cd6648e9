"""Models without rooms: zones between walls, or over a storey's outline; and the account of what came of a file."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon

from eurythm.exchange.ifc.read import KINDS
from eurythm.exchange.intake.account import account
from eurythm.exchange.intake.received import Received, ReceivedElement
from eurythm.exchange.intake.sift import Sift, SiftRule
from eurythm.model.errors import EurythmError
from tests.core.test_checks import block, model, room, settled

THICK = 0.3


def walls_around(
    name: str, x0: float, y0: float, x1: float, y1: float, z0: float = 0.0, z1: float = 3.0, storey: str = "ground"
) -> list[ReceivedElement]:
    """Four walls whose inner faces are a rectangle."""
    t = THICK
    sides = [(x0 - t, y0 - t, x1 + t, y0), (x0 - t, y1, x1 + t, y1 + t), (x0 - t, y0, x0, y1), (x1, y0, x1 + t, y1)]
    return [block(f"{name}{k}", "IfcWall", a, b, z0, c, d, z1, storey=storey, external=True) for k, (a, b, c, d) in enumerate(sides)]


def plans(made: Received | None, basis: str | None = None) -> dict[str, float]:
    assert made is not None
    found = settled(made, Sift.model_validate({"basis": basis} if basis else {}))
    return {z.id: round(z.plan.area, 2) for z in found.building.zones if z.plan is not None}


def test_what_four_walls_enclose_is_a_room_to_its_inner_faces() -> None:
    given_model = model(elements=tuple(walls_around("w", 0, 0, 6, 4)))
    found = settled(given_model)
    assert found.basis == "walls"
    (zone,) = found.building.zones
    assert zone.plan.area == pytest.approx(24.0, abs=0.05)
    assert (zone.level, zone.height) == pytest.approx((0.0, 3.0))
    assert [f.code for f in found.findings if f.code.startswith("made-from")] == ["made-from-walls"]


def test_a_partition_makes_two_rooms_that_are_neighbours() -> None:
    partition = block("p", "IfcWall", 2.9, 0, 0, 3.1, 4, 3, storey="ground")
    found = settled(model(elements=(*walls_around("w", 0, 0, 6, 4), partition)))
    assert sorted(round(z.plan.area, 1) for z in found.building.zones) == [11.6, 11.6]
    (contact,) = [f for f in found.building.faces if f.boundary == "zone"]
    assert contact.area == pytest.approx(4 * 3, rel=0.02)


def test_a_door_in_the_gap_of_a_wall_closes_it() -> None:
    """A wall in two parts with a door between them: without the door the rooms run together."""
    left, right = (block(n, "IfcWall", 2.9, a, 0, 3.1, b, 3, storey="ground") for n, a, b in (("p1", 0, 1.5), ("p2", 2.5, 4)))
    door = block("d", "IfcDoor", 2.9, 1.5, 0, 3.1, 2.5, 2.1, storey="ground")
    around = walls_around("w", 0, 0, 6, 4)
    assert len(plans(model(elements=(*around, left, right, door)))) == 2
    assert len(plans(model(elements=(*around, left, right)))) == 1


def test_storeys_have_rooms_of_their_own_and_meet() -> None:
    upper = walls_around("u", 0, 0, 6, 4, 3.3, 6.3, "upper")
    found = settled(model(elements=(*walls_around("w", 0, 0, 6, 4), *upper)))
    assert sorted(round(z.level, 1) for z in found.building.zones) == [0.0, 3.3]
    assert sum(f.area for f in found.building.faces if f.boundary == "zone") == pytest.approx(24.0, rel=0.02)


def test_a_court_without_a_slab_is_no_room() -> None:
    ring = (*walls_around("outer", 0, 0, 20, 20), *walls_around("inner", 8, 8, 12, 12))
    slabs = [
        block(f"s{k}", "IfcSlab", a, b, -0.3, c, d, 0, storey="ground")
        for k, (a, b, c, d) in enumerate([(0, 0, 20, 7.7), (0, 12.3, 20, 20), (0, 7.7, 7.7, 12.3), (12.3, 7.7, 20, 12.3)])
    ]
    assert sum(plans(model(elements=(*ring, *slabs))).values()) == pytest.approx(400 - 4.6**2, rel=0.01)
    assert sum(plans(model(elements=ring)).values()) == pytest.approx(400 - 4.6**2 + 16, rel=0.01)  # nothing says that it is open


def test_a_core_that_stands_free_in_a_hall_is_a_room_of_its_own() -> None:
    found = plans(model(elements=(*walls_around("w", 0, 0, 20, 15), *walls_around("core", 8, 6, 12, 9))))
    assert sorted(found.values()) == pytest.approx([4 * 3, 20 * 15 - 4.6 * 3.6], rel=0.01)


def test_the_outline_makes_one_zone_a_storey() -> None:
    partition = block("p", "IfcWall", 2.9, 0, 0, 3.1, 4, 3, storey="ground")
    (area,) = plans(model(elements=(*walls_around("w", 0, 0, 6, 4), partition)), "outline").values()
    assert area == pytest.approx((6 + 2 * THICK) * (4 + 2 * THICK), rel=0.01)


def test_rooms_of_the_file_stand_before_its_walls() -> None:
    found = settled(model(room("a", 0, 0, 6, 4), elements=tuple(walls_around("w", 0, 0, 6, 4))))
    assert (found.basis, [z.id for z in found.building.zones]) == ("spaces", ["Room-a"])


def test_nothing_that_encloses_is_told() -> None:
    with pytest.raises(EurythmError) as fault:
        settled(model(elements=(block("w", "IfcWall", 0, 0, 0, 5, 0.3, 3, storey="ground"),)))
    assert len(fault.value.message) > 20


@settings(max_examples=20, deadline=None)
@given(wide=st.lists(st.floats(2.5, 8), min_size=1, max_size=4), deep=st.floats(2.5, 8), thick=st.floats(0.1, 0.4))
def test_any_row_of_cells_is_found(wide: list[float], deep: float, thick: float) -> None:
    total = sum(wide) + thick * (len(wide) - 1)
    elements, x = walls_around("w", 0, 0, total, deep), 0.0
    for k, w in enumerate(wide[:-1]):
        x += w
        elements.append(block(f"p{k}", "IfcWall", x, 0, 0, x + thick, deep, 3, storey="ground"))
        x += thick
    found = plans(model(elements=tuple(elements)))
    assert len(found) == len(wide)
    assert sum(found.values()) == pytest.approx(sum(wide) * deep, rel=0.02)


def test_the_account_adds_up() -> None:
    """Outside by true azimuth, roof, ground, neighbours, and what was left out, of two rooms turned against north."""
    chair = block("chair", "IfcFurniture", 1, 1, 0, 2, 2, 1)
    given_model = model(room("a", 0, 0, 5, 4), room("b", 5.2, 0, 9, 4), elements=(chair,), true_north_deg=90.0)
    said = account(settled(given_model))
    walls = {side: round(v["wall_gross_m2"], 6) for side, v in said["orientation"].items()}
    # the drawing's top looks east: its right side south
    assert walls == {"E": 26.4, "W": 26.4, "S": 12.0, "N": 12.0}
    assert (said["roof_m2"], said["ground_m2"]) == pytest.approx((35.2, 35.2))
    assert said["adjacency"] == [{"a": "Room-a", "b": "Room-b", "kind": "wall", "area_m2": pytest.approx(12.0)}]
    assert said["left_out"] == [{"class": "IfcFurniture", "count": 1}]
    assert [(s["id"], s["kept"], s["floor_area_m2"]) for s in said["spaces"]] == [("Room-a", True, 20.0), ("Room-b", True, 15.2)]


def test_a_room_that_a_rule_leaves_out_is_listed_with_its_reason() -> None:
    rule = SiftRule(id="r", by="name", value="*b", keep=False)
    said = account(settled(model(room("a", 0, 0, 5, 4), room("b", 5.2, 0, 9, 4)), Sift(rules=(rule,))))
    out = next(s for s in said["spaces"] if s["source"] == "b")
    assert (out["kept"], out["reason"]) == (False, "rule: name *b")
    assert {"class": "IfcSpace", "count": 1} in said["left_out"]
    assert said["adjacency"] == []


def body(
    name: str, kind: str, ring: list[tuple[float, float]], z0: float, z1: float, hole: list[tuple[float, float]] | None = None
) -> ReceivedElement:
    """An upright body over any outline, by its triangles."""
    plan = Polygon(ring, [hole] if hole else [])
    points, triangles = trimesh.creation.triangulate_polygon(plan, engine="earcut")
    low, high = np.column_stack([points, np.full(len(points), z0)]), np.column_stack([points, np.full(len(points), z1)])
    both = np.vstack([triangles[:, ::-1], triangles + len(points)])
    return ReceivedElement(
        id=name,
        kind=KINDS.get(kind, "other"),
        class_name=kind,
        storey="ground",
        points=np.vstack([low, high]).tolist(),
        triangles=both.tolist(),
    )


L_FORM = [(0.0, 0.0), (10.0, 0.0), (10.0, 4.0), (4.0, 4.0), (4.0, 10.0), (0.0, 10.0)]


def test_a_wall_that_is_one_body_around_a_room_encloses_it() -> None:
    """All outside walls as one body with a hole: its hull would leave no room."""
    outer = [(-0.3, -0.3), (10.3, -0.3), (10.3, 4.3), (4.3, 4.3), (4.3, 10.3), (-0.3, 10.3)]
    found = plans(model(elements=(body("w", "IfcWall", outer, 0, 3, hole=L_FORM),)))
    assert list(found.values()) == [pytest.approx(64.0, abs=0.1)]


def test_a_slab_that_is_no_rectangle_keeps_its_outline() -> None:
    found = plans(model(elements=(body("s", "IfcSlab", L_FORM, 0, 0.3), body("r", "IfcRoof", L_FORM, 3, 3.3))), "outline")
    assert list(found.values()) == [pytest.approx(64.0, abs=0.1)]
