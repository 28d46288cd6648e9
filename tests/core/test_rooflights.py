"""Rooflights, egg-crates, blinds of one face, and what cuts into the building."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon

from eurythm.brief.readiness import cutting_remarks
from eurythm.climate.standin import standin_year
from eurythm.geometry.building import Building, Face
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.simulate import building_of, prepare_case, simulate
from eurythm.sun.profile import louvres_diffuse, louvres_free
from tests.conftest import make_scheme, volume

SOUTH = np.array([0.0, -1.0, 0.0])


def built(place: Place | None = None, volumes: list[Any] | None = None, **skin: Any) -> Building:
    return building_of(place or Place(), make_scheme(volumes=volumes or [volume("bar")], skin=skin))


def roofs(building: Building) -> list[Face]:
    return [f for f in building.faces if f.kind == "ceiling" and f.boundary == "outdoors"]


def corners(face: Face) -> list[np.ndarray]:
    upward = np.cross(face.normal, face.along)
    out = []
    for w in face.windows:
        foot = face.origin + face.along * w.s + upward * w.z
        out.append(np.array([foot, foot + face.along * w.width, foot + face.along * w.width + upward * w.height, foot + upward * w.height]))
    return out


@pytest.mark.parametrize(
    "roof", [None, {"kind": "mono", "pitch_deg": 20}, {"kind": "gable", "pitch_deg": 35}], ids=["flat", "mono", "gable"]
)
@pytest.mark.parametrize("ratio", [0.03, 0.12, 0.5])
def test_rooflights_make_up_the_ratio_and_lie_in_their_roof(roof: dict | None, ratio: float) -> None:
    bar = volume("bar") | ({"roof": roof} if roof else {})
    for face in roofs(built(volumes=[bar], rooflight_ratio=ratio)):
        assert face.window_area == pytest.approx(ratio * face.area, rel=2e-3)
        flat = Polygon(face.loops[0][:, :2])
        for square in corners(face):
            assert square @ face.normal == pytest.approx(np.full(4, face.loops[0][0] @ face.normal), abs=1e-6)  # in the roof's plane
            assert flat.contains(Polygon(square[:, :2]))


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.tuples(st.integers(0, 30), st.integers(0, 30)), min_size=3, max_size=9, unique=True),
    st.floats(0.01, 0.6),
    st.floats(0.6, 20),
)
def test_rooflights_never_leave_or_overlap_on_any_roof(points: list[tuple[int, int]], ratio: float, module: float) -> None:
    middle = np.mean(points, axis=0)
    ring = sorted(points, key=lambda p: np.arctan2(p[1] - middle[1], p[0] - middle[0]))
    outline = Polygon(ring)
    if not outline.is_valid or outline.area < 4 or outline.minimum_clearance < 0.3:
        return
    form = {"kind": "polygon", "points": [{"id": f"e{k}", "x": x, "y": y} for k, (x, y) in enumerate(ring)]}
    for face in roofs(built(volumes=[{**volume("bar"), "form": form}], rooflight_ratio=ratio, rooflight_module_m=module)):
        squares = [Polygon(c[:, :2]) for c in corners(face)]
        roof = Polygon(face.loops[0][:, :2], [loop[:, :2] for loop in face.loops[1:]])
        assert all(roof.buffer(1e-6).contains(q) for q in squares)
        assert shapely.union_all(squares).area == pytest.approx(sum(q.area for q in squares), rel=1e-6, abs=1e-9)
        assert face.window_area <= ratio * face.area * 1.003


def test_light_from_above_warms_and_lights_and_shows_as_rooflights() -> None:
    def outcome(ratio: float, glazing: str | None = None) -> Any:
        scheme = make_scheme(volumes=[volume("bar")], skin={"rooflight_ratio": ratio, "rooflight_glazing": glazing})
        return simulate(Place(), Library(), scheme, Factors(), standin_year("merrowhaven"))

    bare, open_, solar = outcome(0.0), outcome(0.1), outcome(0.1, "triple-solar")
    assert (bare.totals["rooflight_m2"], open_.totals["rooflight_m2"]) == (0, pytest.approx(0.1 * 240, rel=0.01))
    assert open_.totals["window_m2"] == bare.totals["window_m2"]  # those of the walls
    gained = [o.totals["cooling_demand_kwh"] for o in (bare, solar, open_)]
    assert gained[0] < gained[1] < gained[2]


def test_an_unknown_rooflight_glass_is_named() -> None:
    scheme = make_scheme(volumes=[volume("bar")], skin={"rooflight_ratio": 0.1, "rooflight_glazing": "crystal"})
    with pytest.raises(EurythmError, match="crystal"):
        simulate(Place(), Library(), scheme, Factors(), standin_year("merrowhaven"))


def test_an_egg_crate_passes_what_its_two_sets_of_leaves_pass_and_even_light_as_through_square_tubes() -> None:
    sun = np.array([[0.5, -1.0, 0.4], [0.0, -1.0, 0.4], [1.2, -1.0, 0.2], [0.2, 1.0, 0.5]])
    level, crossed = louvres_free(SOUTH, sun, 0.3, 0.3), louvres_free(SOUTH, sun, 0.3, 0.3, True)
    assert crossed == pytest.approx(level * [0.5, 1.0, 0.0, 0.0])  # side tangents 0.5, 0, 1.2; behind the wall
    assert crossed[0] == pytest.approx(0.6 * 0.5)
    # view factor of the ends of a cube, parallel unit squares a unit apart: 0.1998 (Incropera, closed form)
    assert louvres_diffuse(SOUTH, 0.3, 0.3, True) == pytest.approx(0.1998, rel=0.03)


def test_a_face_has_its_own_crate_and_blinds_and_the_year_follows() -> None:
    own = {"id": "o", "face": "bar/s0/e1", "louvre_m": 0.3, "louvre_kind": "crossed", "blinds": "outside"}
    faces = {f.edge: f for f in built(overrides=[own]).faces if f.edge}
    assert faces["bar/s0/e1"].louvres == (0.3, 0.3, True)
    assert (faces["bar/s0/e1"].blinds, faces["bar/s0/e2"].blinds) == ("outside", None)
    assert faces["bar/s0/e2"].louvres.depth == 0

    def sun(**face: Any) -> float:
        scheme = make_scheme(volumes=[volume("bar")], skin={"overrides": [{"id": "o", "face": "bar/s0/e1", **face}] if face else []})
        return float(prepare_case(Place(), Library(), scheme, Factors(), standin_year("merrowhaven")).arrays.solar.sum())

    plain = sun()
    assert sun(blinds="outside") < sun(blinds="inside") < plain
    assert sun(louvre_m=0.3, louvre_kind="crossed") < sun(louvre_m=0.3, louvre_kind="level") < plain
    inside_everywhere = make_scheme(
        volumes=[volume("bar")], skin={"blinds": {"place": "inside"}, "overrides": [{"id": "o", "face": "bar/s0/e1", "blinds": "none"}]}
    )
    made = prepare_case(Place(), Library(), inside_everywhere, Factors(), standin_year("merrowhaven"))
    assert float(made.arrays.solar.sum()) < plain


def codes(place: dict[str, Any], **more: Any) -> list[tuple[str, str]]:
    where = read_document(Place, place)
    scheme = make_scheme(volumes=more.pop("volumes", [volume("bar")]), **more)
    return [(r.code, r.object) for r in cutting_remarks(building_of(where, scheme), where)]


def test_what_stands_into_the_building_is_told_and_what_touches_it_is_not() -> None:
    beside = {"id": "n", "x": 20, "y": 0, "length": 5, "depth": 12, "height": 9}
    assert codes({"boxes": [beside]}) == []  # wall to wall
    assert codes({"boxes": [{**beside, "x": 19}]}) == [("cuts-the-building", "place/boxes/n")]
    assert codes({"boxes": [{**beside, "x": 19, "counts": False}]}) == []
    points = [{"x": 5, "y": -5}, {"x": 9, "y": -5}, {"x": 9, "y": 3}]
    assert codes({"footprints": [{"id": "f", "points": points, "height": 4}]}) == [("cuts-the-building", "place/footprints/f")]
    assert codes({"trees": [{"id": "t", "x": 6, "y": 6, "height": 9, "crown": 4}]}) == [("cuts-the-building", "place/trees/t")]
    assert codes({"trees": [{"id": "t", "x": 6, "y": -1, "height": 9, "crown": 4}]}) == []


def test_a_shade_that_reaches_into_the_building_is_told_and_harmless_ones_are_not() -> None:
    wing = volume("wing", x=8, y=-4, form={"length": 6, "depth": 4})
    deep = {"overhang_depth_m": {"south": 1.5}}
    assert codes({}, skin=deep) == []
    told = codes({}, volumes=[volume("bar"), wing], skin={"overhang_depth_m": {"east": 1.0, "west": 1.0, "south": 1.0}})
    assert all(code == "shade-cuts-the-building" for code, _ in told)
    high = volume("tower", x=20.5, y=0, form={"length": 6, "depth": 12})
    assert ("shade-cuts-the-building", "scheme/skin") in codes({}, volumes=[volume("bar"), high], skin={"overhang_depth_m": {"east": 3.0}})


def test_panels_leave_room_for_rooflights() -> None:
    def modules(ratio: float) -> float:
        scheme = make_scheme(volumes=[volume("bar")], skin={"rooflight_ratio": ratio}, plant={"photovoltaics": {"roof_share": 0.9}})
        return float(simulate(Place(), Library(), scheme, Factors(), standin_year("merrowhaven")).totals["module_area_m2"])

    assert modules(0.0) == pytest.approx(0.9 * 240)
    assert modules(0.3) == pytest.approx(0.7 * 240, rel=0.01)
