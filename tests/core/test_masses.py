"""Masses from meshes: units, axes, bodies by their parts, faults that are mended or told, storeys."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.exchange.importing import settled_bundle
from eurythm.exchange.intake.received import Received
from eurythm.exchange.intake.sift import Sift
from eurythm.exchange.mesh.read import UNITS, read_mesh
from eurythm.geometry.building import Building
from eurythm.model.errors import EurythmError
from eurythm.simulate import building_of


def box(length: float, depth: float, height: float, x: float = 0.0, y: float = 0.0, z: float = 0.0) -> trimesh.Trimesh:
    made = trimesh.creation.box((length, depth, height))
    made.apply_translation((x + length / 2, y + depth / 2, z + height / 2))
    return made


def pitched(length: float, depth: float, eaves: float, ridge: float) -> trimesh.Trimesh:
    """A house with a gable roof, its ridge along its length."""
    corners = [(x, y, z) for x in (0, length) for y in (0, depth) for z in (0, eaves)] + [(x, depth / 2, ridge) for x in (0, length)]
    return trimesh.convex.convex_hull(np.array(corners, dtype=float))


def saved(folder: Path, *parts: trimesh.Trimesh, kind: str = "obj") -> Path:
    path = folder / f"mass.{ {'gltf': 'glb'}.get(kind, kind) }"
    scene = trimesh.Scene({f"part-{k}": part for k, part in enumerate(parts)})
    whole: Any = trimesh.util.concatenate(list(parts)) if kind == "stl" else scene
    whole.export(str(path))
    return path


def masses(folder: Path, *parts: trimesh.Trimesh, kind: str = "obj", **ask: str) -> Received:
    path = saved(folder, *parts, kind=kind)
    told = {"unit": "m", "up": "z", **ask} if kind != "gltf" else ask
    return read_mesh(path, path.name, kind, told)


def building(received: Received) -> Building:
    bundle, _ = settled_bundle(received, Sift(), None)
    return building_of(bundle.place, bundle.scheme)


@pytest.mark.parametrize("word", ["o", "g"])
def test_bodies_of_an_obj_bear_the_names_of_its_objects_or_groups(tmp_path: Path, word: str) -> None:
    path = saved(tmp_path, box(20, 10, 7), box(5, 5, 4, x=30), box(5, 5, 4, x=40), pitched(8, 6, 3, 5))
    text = path.read_text().replace("o part-0", f"{word} Long hall").replace("o part-3", f"{word} Boat house")
    path.write_text(text.replace("o part-1", f"{word} Huts").replace("o part-2", "# the same"))
    made = read_mesh(path, path.name, "obj", {"unit": "m", "up": "z"})
    volumes = {s.name: round(s.volume_m3) for s in made.spaces}
    assert volumes["Long hall"] == 1400
    assert [volumes[name] for name in ("Huts 1", "Huts 2")] == [100, 100]
    assert sum(v for name, v in volumes.items() if name.startswith("Boat house")) == 8 * 6 * 4


def test_lines_and_points_between_the_bodies_of_an_obj_are_passed_over(tmp_path: Path) -> None:
    path = saved(tmp_path, box(20, 10, 7), box(5, 5, 4, x=30))
    path.write_text(path.read_text() + "\no Axis\nv 0 0 0\nv 50 0 0\nl 17 18\no Odd\nv nan 0 0\nf 17 18 19\no Nothing\n")
    made = read_mesh(path, path.name, "obj", {"unit": "m", "up": "z"})
    assert {s.name: round(s.volume_m3) for s in made.spaces} == {"part-0": 1400, "part-1": 100}
    assert [f.code for f in made.findings] == ["corner-without-place"]


@pytest.mark.parametrize("unit", UNITS)
def test_every_unit_comes_to_the_same_mass(tmp_path: Path, unit: str) -> None:
    part = box(20, 10, 7)
    part.apply_scale(1 / UNITS[unit])
    (mass,) = masses(tmp_path, part, unit=unit).spaces
    assert (mass.volume_m3, mass.height, mass.properties["storeys"]) == (pytest.approx(1400, rel=1e-4), pytest.approx(7, rel=1e-4), 2)


def test_an_axis_that_looks_up_is_turned_up(tmp_path: Path) -> None:
    part = box(20, 10, 7)
    part.apply_transform(trimesh.transformations.rotation_matrix(-np.pi / 2, (1, 0, 0)))  # z up becomes y up
    (mass,) = masses(tmp_path, part, up="y").spaces
    assert (mass.height, mass.level) == pytest.approx((7, 0), abs=1e-4)


@pytest.mark.parametrize(("size", "unit"), [(20.0, "m"), (20_000.0, "mm")])
def test_what_the_file_does_not_say_is_guessed_and_told(tmp_path: Path, size: float, unit: str) -> None:
    path = saved(tmp_path, box(size, size / 2, size / 4))
    made = read_mesh(path, path.name, "obj", {})
    assert made.length_unit == unit
    assert [f.code for f in made.findings] == ["unit-assumed", "up-assumed"]
    assert made.spaces[0].volume_m3 == pytest.approx(20 * 10 * 5, rel=1e-4)


@pytest.mark.parametrize("kind", ["obj", "stl", "gltf"])
def test_bodies_that_touch_stay_apart_and_know_each_other(tmp_path: Path, kind: str) -> None:
    made = masses(tmp_path, box(10, 8, 3.5), box(6, 8, 3.5, x=10), box(4, 4, 3.5, z=3.5), kind=kind)
    assert len(made.spaces) == 3
    if kind != "gltf":  # whose y is up
        form = building(made)
        contact = [f for f in form.faces if f.boundary == "zone"]
        assert sorted(round(f.area, 3) for f in contact) == [16.0, 28.0]
        assert sum(z.gross_volume for z in form.zones) == pytest.approx(10 * 8 * 3.5 + 6 * 8 * 3.5 + 16 * 3.5)


def test_faces_that_look_inwards_are_turned(tmp_path: Path) -> None:
    part = box(10, 8, 3.5)
    part.invert()
    made = masses(tmp_path, part)
    assert [(f.code, f.mended) for f in made.findings] == [("faces-turned", True)]
    assert made.spaces[0].volume_m3 == pytest.approx(280)


def test_a_small_hole_is_covered_and_drawn(tmp_path: Path) -> None:
    part = box(10, 8, 3.5)
    part.update_faces(np.arange(len(part.faces)) != 3)
    made = masses(tmp_path, part)
    (found,) = made.findings
    assert (found.code, found.mended) == ("space-not-closed", True)
    assert len(found.loops) == 1
    assert made.spaces[0].volume_m3 == pytest.approx(280)


def test_an_open_sheet_is_told_and_left_out(tmp_path: Path) -> None:
    sheet = trimesh.Trimesh([(20, 0, 0), (30, 0, 1), (30, 8, 0), (20, 8, 3)], [(0, 1, 2), (0, 2, 3)])
    made = masses(tmp_path, box(10, 8, 3.5), sheet)
    closed = {s.name: s.closed for s in made.spaces}
    assert sorted(closed.values()) == [False, True]
    assert not next(f for f in made.findings if f.code == "space-not-closed").mended


def test_a_crumb_is_no_mass(tmp_path: Path) -> None:
    made = masses(tmp_path, box(10, 8, 3.5), box(0.5, 0.5, 0.5, x=30))
    assert [f.code for f in made.findings] == ["space-tiny"]
    assert sum(s.closed for s in made.spaces) == 1


@pytest.mark.parametrize(
    ("height", "storey", "count"), [(3.5, "3.5", 1), (7.0, "3.5", 2), (8.5, "3.5", 2), (9.0, "3.0", 3), (30.0, "3.0", 10)]
)
def test_upright_masses_have_storeys_of_one_height(tmp_path: Path, height: float, storey: str, count: int) -> None:
    made = masses(tmp_path, box(20, 10, height), storey_height=storey)
    assert made.spaces[0].properties["storeys"] == count
    form = building(made)
    assert len(form.zones) == count
    assert sum(z.gross_volume for z in form.zones) == pytest.approx(200 * height)
    assert {round(z.height, 6) for z in form.zones} == {round(height / count, 6)}


@pytest.mark.parametrize(("eaves", "zones"), [(3.0, 2), (6.0, 3)])
def test_a_house_with_a_pitched_roof_is_cut_at_storey_heights(tmp_path: Path, eaves: float, zones: int) -> None:
    made = masses(tmp_path, pitched(12, 9, eaves, eaves + 4), storey_height="3.0")
    form = building(made)
    assert len(form.zones) == zones
    assert sum(z.gross_volume for z in form.zones) == pytest.approx(12 * 9 * (eaves + 2), rel=1e-3)
    assert sum(f.area for f in form.faces if f.kind == "floor" and f.boundary == "ground") == pytest.approx(108, rel=1e-3)
    slope = sum(f.area for f in form.faces if f.boundary == "outdoors" and abs(f.normal[2]) > 0.1)
    assert slope == pytest.approx(2 * 12 * np.hypot(4.5, 4), rel=1e-3)


@settings(max_examples=20, deadline=None)
@given(sizes=st.lists(st.tuples(st.floats(4, 20), st.floats(4, 20), st.floats(3, 12)), min_size=1, max_size=5), turn=st.floats(-180, 180))
def test_any_row_of_boxes_keeps_volume_and_floor(tmp_path_factory: pytest.TempPathFactory, sizes: list, turn: float) -> None:
    parts, x = [], 0.0
    for length, depth, height in sizes:
        parts.append(box(length, depth, height, x=x))
        x += length
    for part in parts:
        part.apply_transform(trimesh.transformations.rotation_matrix(np.radians(turn), (0, 0, 1)))
    made = masses(tmp_path_factory.mktemp("row"), *parts)
    form = building(made)
    assert sum(z.gross_volume for z in form.zones) == pytest.approx(sum(a * b * c for a, b, c in sizes), rel=1e-3)
    ground = sum(f.area for f in form.faces if f.boundary == "ground")
    assert ground == pytest.approx(sum(a * b for a, b, _ in sizes), rel=1e-3)


@pytest.mark.parametrize(
    ("ask", "code"),
    [({"unit": "ell"}, "wrong-option"), ({"up": "x"}, "wrong-option"), ({"storey_height": "0.4"}, "wrong-option"), ({"storey_height": "tall"}, "wrong-option")],
)  # fmt: skip
def test_options_that_cannot_be_are_told(tmp_path: Path, ask: dict[str, str], code: str) -> None:
    with pytest.raises(EurythmError) as fault:
        masses(tmp_path, box(10, 8, 3.5), **ask)
    assert fault.value.code == code


@pytest.mark.parametrize(
    "body", [b"", b"v 0 0 0\nv 1 0 0\n", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", b"solid nothing\nendsolid", bytes(range(256)) * 4]
)
@pytest.mark.parametrize("kind", ["obj", "stl", "gltf"])
def test_what_is_no_mesh_gets_one_clear_error(tmp_path: Path, kind: str, body: bytes) -> None:
    (tmp_path / "bad").write_bytes(body)
    with pytest.raises(EurythmError) as fault:
        read_mesh(tmp_path / "bad", "bad", kind, {"unit": "m", "up": "z"})
    assert fault.value.code in ("not-a-mesh", "mesh-without-bodies")
    assert "bad" in fault.value.message


def test_a_mass_500_km_off_is_moved_near(tmp_path: Path) -> None:
    made = masses(tmp_path, box(20, 10, 7, x=500_000, y=300_000), kind="stl")
    assert "moved-to-origin" in [f.code for f in made.findings]
    assert made.spaces[0].volume_m3 == pytest.approx(1400, rel=0.02)


def test_masses_that_overlap_are_counted_after_the_cut(tmp_path: Path) -> None:
    """Two boxes of one storey that share 10 by 10 m: the report tells what is left of the later one, as the building has it."""
    received = masses(tmp_path, box(20, 10, 3.5), box(20, 10, 3.5, x=10))
    bundle, said = settled_bundle(received, Sift(), None)
    built = building_of(bundle.place, bundle.scheme)
    assert sum(s["floor_area_m2"] for s in said["spaces"]) == pytest.approx(300.0)
    assert sum(s["air_volume_m3"] for s in said["spaces"]) == pytest.approx(1050.0)
    assert sum(z.gross_floor for z in built.zones) == pytest.approx(300.0)
