"""Outlines: forms as rings of named edges, their place in the drawing, the ids that results hang on."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from eurythm.geometry.clean import polygons_of, sound_polygons
from eurythm.geometry.form import make_building
from eurythm.geometry.outline import form_outline, rotation, scheme_outlines
from eurythm.geometry.zoning import divide
from eurythm.model.errors import EurythmError
from eurythm.model.reading import read_document
from eurythm.model.shape import Volume, Zoning
from tests.conftest import make_scheme, volume

AREAS = {
    "rectangle": ({"length": 20, "depth": 12}, 240.0, 4),
    "l": ({"length": 20, "depth": 16, "wing_length": 6, "wing_depth": 5}, 20 * 5 + 6 * 11, 6),
    "t": ({"length": 20, "depth": 16, "bar_depth": 5, "stem_length": 6}, 20 * 5 + 6 * 11, 8),
    "u": ({"length": 20, "depth": 16, "wing_length": 6, "base_depth": 5}, 20 * 5 + 2 * 6 * 11, 8),
    "courtyard": ({"length": 20, "depth": 16, "court_length": 8, "court_depth": 6}, 20 * 16 - 48, 4),
}


def outline(kind: str, sizes: dict):
    return form_outline(read_document(Volume, volume(kind=kind, form={"kind": kind, **sizes})), "volumes/v1")


@pytest.mark.parametrize("kind", AREAS)
def test_forms_have_their_area_and_named_edges(kind: str) -> None:
    sizes, area, edges = AREAS[kind]
    made = outline(kind, sizes)
    assert made.polygon.is_valid
    assert made.polygon.area == pytest.approx(area)
    assert made.edges[0] == tuple(f"e{i + 1}" for i in range(edges))
    assert len(made.edges) == (2 if kind == "courtyard" else 1)
    names = [n for ring in made.edges for n in ring]
    assert len(set(names)) == len(names)


@pytest.mark.parametrize("kind", AREAS)
def test_rings_run_the_right_way_round(kind: str) -> None:
    made = outline(kind, AREAS[kind][0])
    for r, ring in enumerate(made.rings):
        x, y = ring[:, 0], ring[:, 1]
        signed = float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y)) / 2
        assert (signed > 0) == (r == 0)


@pytest.mark.parametrize(
    ("kind", "sizes", "part"),
    [
        ("l", {"length": 10, "depth": 16, "wing_length": 10, "wing_depth": 5}, "wing_length"),
        ("l", {"length": 20, "depth": 5, "wing_length": 6, "wing_depth": 5}, "wing_depth"),
        ("t", {"length": 20, "depth": 16, "bar_depth": 16, "stem_length": 6}, "bar_depth"),
        ("u", {"length": 11, "depth": 16, "wing_length": 6, "base_depth": 5}, "wing_length"),
        ("courtyard", {"length": 20, "depth": 16, "court_length": 20, "court_depth": 6}, "court_length"),
    ],
)
def test_parts_that_do_not_fit_are_named(kind: str, sizes: dict, part: str) -> None:
    with pytest.raises(EurythmError) as fault:
        outline(kind, sizes)
    assert fault.value.path == f"volumes/v1/form/{part}"


def polygon(*corners: tuple[float, float], courts: tuple = ()) -> Volume:
    points = [{"id": f"p{i}", "x": x, "y": y} for i, (x, y) in enumerate(corners)]
    holes = [[{"id": f"c{k}{i}", "x": x, "y": y} for i, (x, y) in enumerate(ring)] for k, ring in enumerate(courts)]
    return read_document(Volume, {"id": "v", "form": {"kind": "polygon", "points": points, "courts": holes}, "storeys": [{"id": "s"}]})


def test_an_outline_drawn_clockwise_keeps_its_edges_names() -> None:
    """An edge is named by the corner at which it starts as drawn; turning the ring round must not rename it."""
    forth = form_outline(polygon((0, 0), (10, 0), (10, 6), (0, 6)))
    back = form_outline(polygon((0, 6), (10, 6), (10, 0), (0, 0)))

    def edges(made) -> dict:
        ring, names = made.rings[0], made.edges[0]
        return {n: {tuple(a), tuple(b)} for n, a, b in zip(names, ring, np.roll(ring, -1, axis=0), strict=True)}

    assert edges(forth)["p0"] == {(0, 0), (10, 0)}
    assert edges(back)["p0"] == {(0, 6), (10, 6)}
    assert edges(back)["p1"] == {(10, 6), (10, 0)}


def test_a_court_that_leaves_its_outline_is_refused() -> None:
    with pytest.raises(EurythmError) as fault:
        form_outline(polygon((0, 0), (10, 0), (10, 6), (0, 6), courts=(((8, 2), (12, 2), (12, 4), (8, 4)),)), "volumes/v")
    assert (fault.value.code, fault.value.path) == ("outline-crosses-itself", "volumes/v/form")


def test_a_line_is_no_outline() -> None:
    with pytest.raises(EurythmError) as fault:
        form_outline(polygon((0, 0), (10, 0), (10, 0.01), (0, 0.01)))
    assert fault.value.code == "outline-without-area"


def test_doubled_edge_ids_are_refused() -> None:
    twice = {"id": "a", "x": 0, "y": 0}
    form = {"kind": "polygon", "points": [twice, {"id": "b", "x": 9, "y": 0}, {**twice, "x": 9, "y": 9}]}
    with pytest.raises(EurythmError) as fault:
        form_outline(read_document(Volume, {"id": "v", "form": form, "storeys": [{"id": "s"}]}))
    assert fault.value.code == "doubled-edge-id"


@pytest.mark.parametrize("turns", range(-8, 9))
def test_right_angles_are_exact(turns: int) -> None:
    matrix = rotation(90.0 * turns)
    assert set(np.abs(matrix).ravel()) <= {0.0, 1.0}
    assert matrix @ matrix.T == pytest.approx(np.eye(2), abs=0)


@given(st.floats(-360, 360))
def test_turning_is_clockwise_and_keeps_lengths(angle: float) -> None:
    north = rotation(angle) @ np.array([0.0, 1.0])
    assert np.hypot(*north) == pytest.approx(1.0)
    assert np.degrees(np.arctan2(north[0], north[1])) % 360 == pytest.approx(angle % 360, abs=1e-6) or abs(angle % 360 - 360) < 1e-6


@given(st.floats(-180, 180))
def test_a_scheme_turns_about_the_middle_of_its_footprint(turn: float) -> None:
    volumes = [volume("a"), volume("b", x=20, y=3, form={"length": 8, "depth": 5})]
    plain, turned = (scheme_outlines(make_scheme(volumes=volumes, turn_deg=t)) for t in (0.0, turn))

    def middle(outlines: dict) -> np.ndarray:
        areas = np.array([o.placed.polygon.area for o in outlines.values()])
        centres = np.array([o.placed.polygon.centroid.coords[0] for o in outlines.values()])
        return areas @ centres / areas.sum()

    assert middle(turned) == pytest.approx(middle(plain), abs=1e-4)


@pytest.mark.parametrize("depth", [0.5, 3.0, 5.9, 6.1, 30.0])
def test_deep_perimeters_leave_no_core(depth: float) -> None:
    made = outline("rectangle", AREAS["rectangle"][0])
    parts = divide(made, Zoning(kind="perimeter_core", depth_m=depth))
    keys = {p.key for p in parts}
    assert ("core" in keys) == (depth < 6.0 and (20 - 2 * depth) * (12 - 2 * depth) >= 4)
    assert sum(p.polygon.area for p in parts) == pytest.approx(240.0, rel=1e-5)


def test_ids_of_zones_and_walls_hang_on_volume_storey_and_edge() -> None:
    building = make_building(make_scheme(volumes=[volume("bar", storeys=2, zoning="perimeter_core")]), 0.0)
    assert {z.id for z in building.zones} >= {"bar/s0/core", "bar/s0/e1", "bar/s1/e4"}
    outer = [f.id for f in building.faces if f.kind == "wall" and f.boundary == "outdoors"]
    assert sorted(outer) == sorted(f"bar/{s}/e{i}" for s in ("s0", "s1") for i in range(1, 5))
    longer = make_building(make_scheme(volumes=[volume("bar", storeys=2, zoning="perimeter_core", form={"length": 33})]), 0.0)
    assert {z.id for z in longer.zones} == {z.id for z in building.zones}  # a size changes no id


def test_names_of_zones_say_where_they_lie() -> None:
    building = make_building(make_scheme(volumes=[volume("bar", name="Bar", zoning="perimeter_core", turn_deg=0)]), 0.0)
    assert {z.name.split(", ")[-1] for z in building.zones} == {"south", "east", "north", "west", "core"}
    named = make_scheme(volumes=[{**volume("bar", name="Bar"), "storeys": [{"id": "s0", "name": "Reading room"}]}])
    assert make_building(named, 0.0).zones[0].name == "Bar, Reading room"


def test_spikes_are_taken_off_and_area_kept() -> None:
    from shapely.geometry import Polygon

    spiked = Polygon([(0, 0), (10, 0), (10, 5), (10.00001, 9), (9.99999, 5), (0, 5)])
    cleaned = polygons_of(spiked)
    assert len(cleaned) == 1
    assert cleaned[0].is_valid
    assert cleaned[0].area == pytest.approx(50.0, abs=0.01)
    assert cleaned[0].bounds == pytest.approx((0, 0, 10, 5), abs=1e-3)
    plain = Polygon([(0, 0), (4, 0), (4, 3), (0, 3)])
    assert sound_polygons(plain, 1e-3) == [plain]
    assert sound_polygons(Polygon([(0, 0), (0.01, 0), (0.01, 0.01)]), 1e-3) == []


ROOM = [("a", 0, 0), ("b", 6, 0), ("c", 6, 4), ("d", 0, 4)]


def room_of(corners: list[tuple[str, float, float]], faces: tuple[dict, ...] = (), courts: tuple = ()) -> dict:
    outline = {"points": [{"id": n, "x": x, "y": y} for n, x, y in corners], "z": 0, "height": 3}
    if courts:
        outline["courts"] = [[{"id": n, "x": x, "y": y} for n, x, y in ring] for ring in courts]
    return {"id": "r", "name": "Room", "outline": outline, "faces": list(faces)}


@pytest.mark.parametrize(
    ("room", "code", "path"),
    [
        (room_of([*ROOM[:3], ("a", 0, 4)]), "doubled-edge-id", "zones/r/outline"),
        (room_of([*ROOM[:3], ("floor", 0, 4)]), "doubled-edge-id", "zones/r/outline"),
        (room_of(ROOM, courts=([("a", 1, 1), ("f", 2, 1), ("g", 2, 2)],)), "doubled-edge-id", "zones/r/outline"),
        (room_of([ROOM[0], ROOM[2], ROOM[1], ROOM[3]]), "outline-crosses-itself", "zones/r/outline"),
        (room_of([("a", 0, 0), ("b", 0.1, 0), ("c", 0.1, 0.05)]), "outline-without-area", "zones/r/outline"),
        (room_of(ROOM, ({"id": "f", "side": "e", "boundary": "adiabatic"},)), "face-without-side", "zones/r/faces"),
        (room_of(ROOM, ({"id": "f", "side": "a", "windows": [{"id": "w", "x": 4, "z": 1, "width": 3, "height": 1}]},)), "window-outside-face", "zones/r/faces/f/windows"),
        (room_of(ROOM, ({"id": "f", "side": "roof", "windows": [{"id": "w", "x": 0, "z": 0, "width": 8, "height": 4}]},)), "window-outside-face", "zones/r/faces/f/windows"),
    ],
)  # fmt: skip
def test_rooms_that_cannot_be_are_refused_where_they_are_wrong(room: dict, code: str, path: str) -> None:
    with pytest.raises(EurythmError) as fault:
        make_building(make_scheme(zones=[room]), 0.0)
    assert (fault.value.code, fault.value.path) == (code, path)


@pytest.mark.parametrize("turn", [0.0, 30.0, -90.0])
def test_a_room_with_a_court_has_walls_all_around_and_turns_with_its_scheme(turn: float) -> None:
    court = [("w", 2, 1), ("x", 4, 1), ("y", 4, 3), ("z", 2, 3)]
    building = make_building(make_scheme(zones=[room_of(ROOM, courts=(court,))], turn_deg=turn), 0.0)
    (zone,) = building.zones
    assert zone.gross_floor == pytest.approx(24 - 4)
    assert zone.gross_volume == pytest.approx(60)
    walls = {f.edge or f.id.split("/")[-1]: f for f in building.faces if f.kind == "wall"}
    assert sum(f.area for f in walls.values()) == pytest.approx((20 + 8) * 3)
    assert sum(f.area * f.normal for f in walls.values()) == pytest.approx(np.zeros(3), abs=1e-6)
    assert sorted(round(f.area) for f in walls.values()) == [6, 6, 6, 6, 12, 12, 18, 18]
