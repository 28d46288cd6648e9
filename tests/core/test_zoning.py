"""Storeys divided into zones: what the parts are, and that together they are the storey."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.brief.readiness import building_remarks
from eurythm.geometry.form import make_building
from eurythm.geometry.outline import Outline, form_outline
from eurythm.geometry.zoning import Part, divide
from eurythm.model.reading import read_document
from eurythm.model.shape import Volume, Zoning
from tests.conftest import make_scheme, volume

FORMS = {
    "rectangle": {"length": 30, "depth": 20},
    "l": {"length": 40, "depth": 34, "wing_length": 14, "wing_depth": 15},
    "t": {"length": 40, "depth": 36, "bar_depth": 13, "stem_length": 16},
    "u": {"length": 48, "depth": 30, "wing_length": 14, "base_depth": 13},
    "courtyard": {"length": 50, "depth": 44, "court_length": 20, "court_depth": 16},
}


def outline(kind: str) -> Outline:
    return form_outline(read_document(Volume, {"id": "v", "form": {"kind": kind, **FORMS[kind]}, "storeys": [{"id": "s"}]}))


def star(count: int, radii: list[float]) -> Outline:
    """A star-shaped free outline, often concave."""
    angles = np.linspace(0, 2 * math.pi, count, endpoint=False)
    points = [
        {"id": f"p{i}", "x": round(r * math.cos(t), 3), "y": round(r * math.sin(t), 3)}
        for i, (t, r) in enumerate(zip(angles, radii, strict=True))
    ]
    return form_outline(read_document(Volume, {"id": "v", "form": {"kind": "polygon", "points": points}, "storeys": [{"id": "s"}]}))


def zoning(**more: object) -> Zoning:
    return Zoning.model_validate({"kind": "perimeter_core", "depth_m": 4.0, **more})


def fills(made: Outline, parts: list[Part]) -> None:
    """The parts cover the outline and do not overlap."""
    whole = made.polygon
    assert sum(p.polygon.area for p in parts) == pytest.approx(whole.area, rel=1e-4)
    assert shapely.union_all([p.polygon for p in parts]).symmetric_difference(whole).area < 1e-3 * whole.area
    for a, b in itertools.combinations(parts, 2):
        assert a.polygon.intersection(b.polygon).area < 0.01
    assert len({p.key for p in parts}) == len(parts)


@pytest.mark.parametrize("kind", FORMS)
@pytest.mark.parametrize("around", ["by_edge", "ring"])
def test_every_form_is_filled_by_its_zones(kind: str, around: str) -> None:
    made = outline(kind)
    fills(made, divide(made, zoning(around=around)))


@pytest.mark.parametrize("kind", FORMS)
def test_each_edge_has_one_strip_and_the_middle_one_core(kind: str) -> None:
    made = outline(kind)
    keys = [p.key for p in divide(made, zoning())]
    assert sorted(keys) == sorted(["core", *itertools.chain(*made.edges)])


@pytest.mark.parametrize(("kind", "rings"), [("rectangle", 1), ("l", 1), ("courtyard", 2)])
def test_a_ring_is_one_zone_for_each_piece_that_hangs_together(kind: str, rings: int) -> None:
    made = outline(kind)
    parts = divide(made, zoning(around="ring"))
    assert [p.key for p in parts] == [*["ring", "ring.2"][:rings], "core"]
    inside = made.polygon.buffer(-4.0, join_style="mitre")
    assert parts[-1].polygon.area == pytest.approx(inside.area, rel=1e-6)


def test_a_strip_lies_along_its_edge_to_its_depth() -> None:
    parts = {p.key: p.polygon for p in divide(outline("rectangle"), zoning())}
    # 30 x 20 m, 4 m deep: trapezia from corner to corner
    assert {k: round(p.area, 6) for k, p in parts.items()} == {"e1": 104.0, "e2": 64.0, "e3": 104.0, "e4": 64.0, "core": 264.0}
    assert parts["e1"].bounds == (0, 0, 30, 4)


def test_one_edge_may_be_deeper_than_the_others() -> None:
    made = outline("rectangle")
    parts = {p.key: p.polygon for p in divide(made, zoning(edges=[{"id": "e1", "depth_m": 7.0}]))}
    fills(made, [Part(k, p) for k, p in parts.items()])
    assert parts["core"].bounds == pytest.approx((4, 7, 26, 16))
    assert parts["e1"].bounds == pytest.approx((0, 0, 30, 7))
    # the seam between the two runs from the corner to the core's corner
    seam = parts["e1"].boundary.intersection(parts["e4"].boundary)
    assert seam.length == pytest.approx(math.hypot(4, 7), abs=0.01)


def test_an_edge_of_no_depth_has_no_strip_and_the_core_reaches_it() -> None:
    made = outline("rectangle")
    parts = {p.key: p.polygon for p in divide(made, zoning(edges=[{"id": "e2", "depth_m": 0}, {"id": "e4", "depth_m": 0}]))}
    assert set(parts) == {"core", "e1", "e3"}
    assert parts["core"].bounds == pytest.approx((0, 4, 30, 16))
    assert parts["e1"].area == pytest.approx(120.0)


def test_no_depth_anywhere_is_one_core() -> None:
    parts = divide(outline("rectangle"), zoning(edges=[{"id": f"e{i}", "depth_m": 0} for i in range(1, 5)]))
    assert [p.key for p in parts] == ["core"]
    assert parts[0].polygon.area == pytest.approx(600.0)


def test_an_edge_that_is_gone_changes_nothing() -> None:
    made = outline("rectangle")
    known, unknown = divide(made, zoning()), divide(made, zoning(edges=[{"id": "e9", "depth_m": 8}]))
    assert [(p.key, p.polygon.wkt) for p in known] == [(p.key, p.polygon.wkt) for p in unknown]


def test_a_depth_for_an_edge_that_is_gone_is_told_and_kept() -> None:
    bar = volume("bar", zoning="perimeter_core", storeys=2)
    bar["zoning"] = {**bar["zoning"], "edges": [{"id": "e9", "depth_m": 8}, {"id": "e1", "depth_m": 6}]}
    bar["storeys"][1] = {**bar["storeys"][1], "zoning": {"kind": "perimeter_core", "edges": [{"id": "c1", "depth_m": 2}]}}
    scheme = make_scheme(volumes=[bar])
    told = [(r.code, r.object) for r in building_remarks(make_building(scheme, 0.0), scheme, 0.0)]
    storey = bar["storeys"][1]["id"]
    assert told == [
        ("edge-lost", "scheme/volumes/bar/zoning/edges/e9"),
        ("edge-lost", f"scheme/volumes/bar/storeys/{storey}/zoning/edges/c1"),
    ]


def test_a_courtyard_may_have_a_depth_of_its_own() -> None:
    made = outline("courtyard")
    parts = divide(made, zoning(edges=[{"id": f"c{i}", "depth_m": 2.5} for i in range(1, 5)]))
    fills(made, parts)
    core = next(p.polygon for p in parts if p.key == "core")
    assert core.bounds == pytest.approx((4, 4, 46, 40))
    assert shapely.Polygon(core.interiors[0]).bounds == pytest.approx((12.5, 11.5, 37.5, 32.5))


def test_a_storey_may_be_divided_in_its_own_way() -> None:
    given = volume("bar", zoning="perimeter_core", storeys=2)
    given["storeys"][1] = {**given["storeys"][1], "zoning": {"kind": "perimeter_core", "around": "ring", "depth_m": 3}}
    building = make_building(make_scheme(volumes=[given]), 0.0)
    assert {z.id for z in building.zones if "/s1/" in z.id} == {"bar/s1/ring", "bar/s1/core"}
    assert "bar/s0/e1" in {z.id for z in building.zones}
    # the strips of the lower storey carry parts of the ring and of the core
    slabs = [f for f in building.faces if f.kind != "wall" and f.boundary == "zone"]
    plan = sum(z.plan.area for z in building.zones if "/s1/" in z.id)
    assert sum(f.area for f in slabs) == pytest.approx(plan, rel=1e-4)


@settings(deadline=None, max_examples=60)
@given(
    radii=st.lists(st.floats(6, 40), min_size=4, max_size=14),
    depth=st.floats(0.5, 12),
    around=st.sampled_from(["by_edge", "ring"]),
)
def test_any_star_is_filled_by_its_zones(radii: list[float], depth: float, around: str) -> None:
    made = star(len(radii), radii)
    fills(made, divide(made, zoning(depth_m=depth, around=around)))


@settings(deadline=None, max_examples=60)
@given(
    kind=st.sampled_from(sorted(FORMS)),
    depths=st.lists(st.one_of(st.just(0.0), st.floats(0.5, 9)), min_size=8, max_size=8),
)
def test_any_depths_by_edge_fill_the_form(kind: str, depths: list[float]) -> None:
    made = outline(kind)
    names = list(itertools.chain(*made.edges))
    own = [{"id": n, "depth_m": d} for n, d in zip(names, depths, strict=False)]
    fills(made, divide(made, zoning(edges=own)))


@settings(deadline=None, max_examples=25)
@given(
    length=st.floats(12, 60),
    depth=st.floats(10, 40),
    turn=st.floats(-90, 90),
    perimeter=st.floats(1, 8),
    around=st.sampled_from(["by_edge", "ring"]),
)
def test_zones_of_stacked_storeys_keep_floor_area_and_volume(
    length: float, depth: float, turn: float, perimeter: float, around: str
) -> None:
    bar = volume("bar", storeys=3, form={"length": length, "depth": depth}, turn_deg=turn)
    bar["zoning"] = {"kind": "perimeter_core", "depth_m": perimeter, "around": around}
    building = make_building(make_scheme(volumes=[bar]), 0.0)
    assert sum(z.plan.area for z in building.zones) == pytest.approx(3 * length * depth, rel=1e-4)
    outside = sum(f.area for f in building.faces if f.kind == "wall" and f.boundary == "outdoors")
    assert outside == pytest.approx(2 * (length + depth) * sum(z["height_m"] for z in _heights(bar)), rel=1e-4)
    roof = sum(f.area for f in building.faces if f.kind == "ceiling" and f.boundary == "outdoors")
    assert roof == pytest.approx(length * depth, rel=1e-4)


def _heights(given: dict) -> list[dict]:
    return [{"height_m": s.get("height_m", 3.5)} for s in given["storeys"]]
