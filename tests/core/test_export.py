"""Out and in again: gbXML, IFC, glTF; masses and surroundings in."""

from __future__ import annotations

import csv
import importlib.util
import io
import json
from pathlib import Path
from typing import Any

import ifcopenshell
import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from ifcopenshell.util import element
from lxml import etree

from eurythm.climate.year import ClimateYear
from eurythm.exchange.demo import demo_project
from eurythm.exchange.exporting import export
from eurythm.exchange.geojson import read_geojson
from eurythm.exchange.importing import import_file, settled_bundle
from eurythm.exchange.intake.sift import Sift
from eurythm.exchange.readers import read
from eurythm.exchange.samples import gbxml, massing
from eurythm.fabric.shipped import GLAZINGS
from eurythm.geometry.mesh import solid_of, upright_of
from eurythm.geometry.soup import body_of
from eurythm.model.cells import plain
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Bundle, Factors
from eurythm.model.reading import read_document
from eurythm.model.scheme import Lights, Scheme
from eurythm.simulate import building_of, run
from eurythm.sun.obstacles import obstacles_of
from tests.conftest import make_scheme, volume

PROJECT = demo_project()


@pytest.fixture(scope="session")
def schema() -> Any:
    """The official schema, which a package ships."""
    folder = importlib.util.find_spec("xgbxml").submodule_search_locations[0]
    return etree.XMLSchema(etree.parse(f"{folder}/schemas/GreenBuildingXML_Ver6.01.xsd"))


def exported(scheme: Any, year: ClimateYear, kind: str) -> bytes:
    return export(PROJECT.place, PROJECT.library, scheme, PROJECT.factors, year, kind)


def without_control(scheme: Scheme) -> Scheme:
    """A scheme whose lights do not follow daylight, with one system for all zones: gbXML says nothing of these."""
    plant = scheme.plant.model_copy(update={"systems": ()})
    zones = tuple(z.model_copy(update={"lights": None}) for z in scheme.use.zones)
    return scheme.model_copy(update={"use": scheme.use.model_copy(update={"lights": Lights(), "zones": zones}), "plant": plant})


@pytest.mark.parametrize("kind", ["gbxml", "gbxml-ip"])
@pytest.mark.parametrize("name", ["quay", "terraces"])
def test_gbxml_out_and_in_again_is_the_same_model(name: str, kind: str, merrowhaven: ClimateYear, schema: Any, tmp_path: Path) -> None:
    scheme = without_control(PROJECT.scheme(name))
    body = exported(scheme, merrowhaven, kind)
    assert schema.validate(etree.fromstring(body)), list(schema.error_log)[:3]
    (tmp_path / "out.xml").write_bytes(body)
    base = Bundle(place=PROJECT.place, library=PROJECT.library, factors=PROJECT.factors, scheme=scheme)
    bundle, said = settled_bundle(read(tmp_path / "out.xml", "out.xml"), Sift(), base)
    assert said["remarks"] == []
    before = run(PROJECT.place, PROJECT.library, scheme, PROJECT.factors, merrowhaven).outcome.totals
    after = run(bundle.place, bundle.library, bundle.scheme, bundle.factors, merrowhaven).outcome.totals
    for figure in (
        "heating_demand_kwh",
        "cooling_demand_kwh",
        "eui_kwh_per_m2",
        "conditioned_floor_area_m2",
        "window_m2",
        "wall_m2",
        "roof_m2",
    ):
        assert after[figure] == pytest.approx(before[figure], rel=0.005), figure


PITCHED = {
    "mono": make_scheme(volumes=[volume(roof={"kind": "mono", "pitch_deg": 20})], turn_deg=25.0),
    "gable": make_scheme(volumes=[volume(roof={"kind": "gable", "pitch_deg": 35}, zoning="perimeter_core")]),
    "gable with rooflights": make_scheme(volumes=[volume(roof={"kind": "gable", "pitch_deg": 35})], skin={"rooflight_ratio": 0.08}),
    "flat with rooflights": make_scheme(volumes=[volume(zoning="perimeter_core")], skin={"rooflight_ratio": 0.12}),
}


@pytest.mark.parametrize("kind", ["gbxml", "ifc", "glb"])
@pytest.mark.parametrize("roof", list(PITCHED))
def test_a_pitched_roof_goes_out_and_comes_in_again(roof: str, kind: str, merrowhaven: ClimateYear, schema: Any, tmp_path: Path) -> None:
    scheme = PITCHED[roof]
    path = tmp_path / f"out.{'xml' if kind == 'gbxml' else kind}"
    path.write_bytes(exported(scheme, merrowhaven, kind))
    if kind == "gbxml":
        assert schema.validate(etree.parse(path)), list(schema.error_log)[:3]
    base = Bundle(place=PROJECT.place, library=PROJECT.library, factors=PROJECT.factors, scheme=scheme)
    bundle, said = settled_bundle(read(path, path.name), Sift(), base)
    before, after = building_of(PROJECT.place, scheme), building_of(bundle.place, bundle.scheme)
    assert len(after.zones) == len(before.zones)
    for boundary in ("outdoors", "ground"):
        for what in ("wall", "floor", "ceiling"):
            area = [sum(f.area for f in b.faces if (f.boundary, f.kind) == (boundary, what)) for b in (before, after)]
            assert area[1] == pytest.approx(area[0], rel=1e-3, abs=0.1), (boundary, what)
    glass = [sum(f.window_area for f in b.faces if f.kind == "ceiling") for b in (before, after)]
    assert glass[1] == pytest.approx(glass[0], rel=0.01 if kind != "glb" else 1.0), "rooflights"  # glTF has the form alone
    if kind != "gbxml":  # which gives the volume of the air, not of the form
        assert sum(z.gross_volume for z in after.zones) == pytest.approx(sum(z.gross_volume for z in before.zones), rel=1e-3)
    else:
        assert said["remarks"] == []
        totals = [run(PROJECT.place, b.library, b.scheme, PROJECT.factors, merrowhaven).outcome.totals for b in (base, bundle)]
        for figure in ("heating_demand_kwh", "cooling_demand_kwh", "eui_kwh_per_m2"):
            assert totals[1][figure] == pytest.approx(totals[0][figure], rel=0.005), figure


def test_gbxml_alone_carries_use_constructions_and_shades(merrowhaven: ClimateYear, tmp_path: Path) -> None:
    (tmp_path / "out.xml").write_bytes(exported(PROJECT.scheme("terraces"), merrowhaven, "gbxml"))
    bundle, _ = settled_bundle(read(tmp_path / "out.xml", "out.xml"), Sift(), None)
    assert len(bundle.scheme.shades) == 5 + 5 * len(PROJECT.place.boxes)  # of each box its roof and four walls
    names = {p.id: p.name for p in bundle.library.profiles}
    assert {names.get(z.profile or "", z.profile) for z in bundle.scheme.zones} == {"rope-quay-library", "workshop"}
    assert {c.element for c in bundle.library.constructions} >= {"wall", "roof", "ground_floor", "partition", "intermediate_floor"}
    assert bundle.place.north_deg == pytest.approx(PROJECT.place.north_deg)


def test_neighbours_go_along_as_shades_and_are_not_taken_twice(merrowhaven: ClimateYear, tmp_path: Path) -> None:
    scheme = PROJECT.scheme("terraces")
    (tmp_path / "out.xml").write_bytes(exported(scheme, merrowhaven, "gbxml"))
    received = read(tmp_path / "out.xml", "out.xml")
    alone, _ = settled_bundle(received, Sift(), None)
    into, _ = settled_bundle(received, Sift(), Bundle(place=PROJECT.place, scheme=scheme))
    named = {s.name for s in alone.scheme.shades if s.name.startswith("Neighbour ")}
    assert named == {f"Neighbour {b.id}" for b in PROJECT.place.boxes}
    assert not any(s.name.startswith("Neighbour ") for s in into.scheme.shades)
    # what stands in the light is the same, whether as boxes or as shades
    with_boxes, with_shades = (
        obstacles_of(building_of(place, s), place) for place, s in ((PROJECT.place, into.scheme), (alone.place, alone.scheme))
    )
    triangles = np.concatenate([with_boxes.solids, with_boxes.shades]), np.concatenate([with_shades.solids, with_shades.shades])
    areas = [np.linalg.norm(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]), axis=1).sum() / 2 for t in triangles]
    assert areas[1] == pytest.approx(areas[0], rel=1e-4)


MERGED = {
    "a hall over two storeys": make_scheme(
        volumes=[volume(storeys=3)], merged=[{"id": "hall", "name": "Hall", "zones": ["v1/s0/all", "v1/s1/all"]}]
    ),
    "a stair and what is beside it": make_scheme(
        volumes=[volume(storeys=2, zoning="perimeter_core"), volume("low", x=20)],
        merged=[{"id": "stair", "name": "Stair", "zones": ["v1/s0/core", "v1/s1/core", "v1/s1/e1"]}],
    ),
    "a hall half below another": make_scheme(
        volumes=[volume(), volume("upper", base_level_m=3.5, x=10)],
        merged=[{"id": "both", "name": "Both", "zones": ["v1/s0/all", "upper/s0/all"]}],
    ),
}


@pytest.mark.parametrize("kind", ["gbxml", "gbxml-ip"])
@pytest.mark.parametrize("form", list(MERGED))
def test_merged_zones_go_out_as_spaces_with_air_between_them(
    form: str, kind: str, merrowhaven: ClimateYear, schema: Any, tmp_path: Path
) -> None:
    scheme = MERGED[form]
    body = export(Place(), Library(), scheme, Factors(), merrowhaven, kind)
    assert schema.validate(etree.fromstring(body)), list(schema.error_log)[:3]
    (tmp_path / "out.xml").write_bytes(body)
    bundle, said = settled_bundle(read(tmp_path / "out.xml", "out.xml"), Sift(), Bundle(place=Place(), scheme=scheme))
    assert said["remarks"] == []
    (group,) = bundle.scheme.merged
    assert (group.name, len(group.zones)) == (scheme.merged[0].name, len(scheme.merged[0].zones))
    before = run(Place(), Library(), scheme, Factors(), merrowhaven).outcome.totals
    after = run(bundle.place, bundle.library, bundle.scheme, bundle.factors, merrowhaven).outcome.totals
    for figure in ("heating_demand_kwh", "cooling_demand_kwh", "eui_kwh_per_m2", "conditioned_floor_area_m2", "air_volume_m3"):
        assert after[figure] == pytest.approx(before[figure], rel=0.005), figure


def test_rooms_that_only_air_parts_come_as_one_zone(merrowhaven: ClimateYear, tmp_path: Path) -> None:
    """The same file with one inside wall told as air: two rooms fewer, one zone more, nothing of the outside changed."""
    scheme = PROJECT.scheme("quay")
    root = etree.fromstring(exported(scheme, merrowhaven, "gbxml"))
    tag = "{http://www.gbxml.org/schema}"
    wall = next(e for e in root.iter(f"{tag}Surface") if e.get("surfaceType") == "InteriorWall")
    rooms = [e.get("spaceIdRef") for e in wall.iter(f"{tag}AdjacentSpaceId")]
    wall.set("surfaceType", "Air")
    (tmp_path / "air.xml").write_bytes(etree.tostring(root))
    bundle, said = settled_bundle(read(tmp_path / "air.xml", "air.xml"), Sift(), Bundle(place=PROJECT.place, scheme=scheme))
    (group,) = bundle.scheme.merged
    assert len(group.zones) == 2 == len(set(rooms))
    (remark,) = [r for r in said["remarks"] if r["code"] == "open-to-each-other"]
    assert remark["mended"]
    before, after = building_of(PROJECT.place, scheme), building_of(bundle.place, bundle.scheme)
    assert len(after.zones) == len(before.zones) - 1
    for b in ("outdoors", "ground"):
        assert sum(f.area for f in after.faces if f.boundary == b) == pytest.approx(
            sum(f.area for f in before.faces if f.boundary == b), rel=1e-4
        )


def test_a_profile_of_strangers_is_read_from_its_schedules(merrowhaven: ClimateYear, tmp_path: Path) -> None:
    body = exported(PROJECT.scheme("quay"), merrowhaven, "gbxml-ip").replace(
        b"<TypeCode>rope-quay-library</TypeCode>", b"<TypeCode>Reading</TypeCode>"
    )
    (tmp_path / "out.xml").write_bytes(body)
    bundle, _ = settled_bundle(read(tmp_path / "out.xml", "out.xml"), Sift(), None)
    (profile,) = bundle.library.profiles
    assert profile.name == "Reading"
    assert profile.person_area == pytest.approx(8.0, rel=1e-4)
    assert profile.lighting_w_m2 == pytest.approx(7.5, rel=1e-3)
    assert max(profile.occupancy.values) == pytest.approx(0.8)
    use = next(z for z in bundle.scheme.use.zones if z.heating_c is not None)
    assert max(use.heating_c.values) == pytest.approx(20.5)


@pytest.mark.parametrize("kind", ["ifc", "gltf", "glb"])
def test_ifc_and_gltf_out_and_in_again_have_the_same_form(kind: str, merrowhaven: ClimateYear, tmp_path: Path) -> None:
    scheme = PROJECT.scheme("terraces")
    path = tmp_path / f"out.{kind}"
    path.write_bytes(exported(scheme, merrowhaven, kind))
    bundle, said = settled_bundle(read(path, path.name), Sift(), Bundle(place=PROJECT.place, scheme=scheme))
    assert all(s["kept"] for s in said["spaces"])
    before, after = building_of(PROJECT.place, scheme), building_of(bundle.place, bundle.scheme)
    for boundary in ("outdoors", "ground", "zone"):
        for what in ("wall", "floor", "ceiling"):
            area = [
                sum(
                    f.area
                    for f in b.faces
                    if f.boundary == boundary and (f.kind == what or (boundary == "zone" and what != "wall" and f.kind != "wall"))
                )
                for b in (before, after)
            ]
            assert area[1] == pytest.approx(area[0], rel=1e-3, abs=0.1), (boundary, what)
    windows = [sum(f.window_area for f in b.faces) for b in (before, after)]
    assert windows[1] == pytest.approx(windows[0], rel=1e-3)
    assert len(after.zones) == len(before.zones)


@pytest.mark.parametrize("kind", ["gbxml", "ifc"])
def test_what_glass_lets_through_and_surfaces_reflect_of_light_goes_out_and_comes_in(
    kind: str, merrowhaven: ClimateYear, tmp_path: Path, schema: Any
) -> None:
    scheme = make_scheme(volumes=[volume(storeys=2)], skin={"glazing": "triple-solar", "ceiling_reflectance": 0.8})
    path = tmp_path / f"out.{'xml' if kind == 'gbxml' else kind}"
    path.write_bytes(export(Place(), Library(), scheme, Factors(), merrowhaven, kind))
    bundle, _ = settled_bundle(read(path, path.name), Sift(), None)
    held = {w.glazing for z in bundle.scheme.zones for f in z.faces for w in f.windows or ()} | {bundle.scheme.skin.glazing}
    seen = {g.visible for g in bundle.library.glazings if g.id in held}
    solar = next(g for g in GLAZINGS if g.id == "triple-solar")
    assert seen == {solar.visible}
    if kind == "gbxml":
        assert schema.validate(etree.parse(path)), list(schema.error_log)[:3]
        told = {c.element: (c.light_reflectance, c.light_reflectance_beyond) for c in bundle.library.constructions}
        assert told["wall"] == (0.5, None)
        assert told["roof"] == (0.8, None)
        assert set(told["intermediate_floor"]) == {0.8, 0.2}
        return
    model = ifcopenshell.open(path)
    walls = {w.Name: element.get_pset(w, "Eurythm_Surfaces") for w in model.by_type("IfcSlab")}
    assert {round(p["VisibleReflectanceInside"], 6) for p in walls.values()} == {0.8, 0.2}
    between = [p for p in walls.values() if "VisibleReflectanceBeyond" in p]
    assert [round(p["VisibleReflectanceBeyond"], 6) for p in between] == [0.2]


def test_rooms_as_a_table_cannot_turn_into_formulas(merrowhaven: ClimateYear) -> None:
    scheme = make_scheme(volumes=[volume(name="=1+1")])
    body = export(Place(), PROJECT.library, scheme, Factors(), merrowhaven, "csv").decode()
    (row,) = csv.DictReader(io.StringIO(body))
    assert row["name"].startswith("'=1+1")
    assert float(row["floor_area_m2"]) > 200
    assert plain("") == ""


def test_a_scheme_without_form_or_an_unknown_format_is_told(merrowhaven: ClimateYear) -> None:
    with pytest.raises(EurythmError, match="Nothing is drawn"):
        export(Place(), PROJECT.library, make_scheme(), Factors(), merrowhaven, "ifc")
    with pytest.raises(EurythmError) as fault:
        export(Place(), PROJECT.library, make_scheme(volumes=[volume()]), Factors(), merrowhaven, "dwg")
    assert fault.value.code == "no-such-format"


# masses


def box(length: float, depth: float, height: float, at: tuple[float, float, float] = (0, 0, 0)) -> trimesh.Trimesh:
    made = trimesh.creation.box((length, depth, height))
    made.apply_translation(np.array([length, depth, height]) / 2 + at)
    return made


def write(path: Path, *bodies: trimesh.Trimesh) -> Path:
    (trimesh.Scene(list(bodies)) if path.suffix == ".glb" else trimesh.util.concatenate(list(bodies))).export(path)
    return path


@pytest.mark.parametrize("ending", ["obj", "stl"])
def test_upright_masses_become_volumes_that_touch(tmp_path: Path, ending: str) -> None:
    path = write(tmp_path / f"mass.{ending}", box(20, 12, 7), box(8, 8, 4, (20, 2, 0)))
    bundle, said = import_file(path, ask={"unit": "m", "up": "z"})
    assert [len(v.storeys) for v in bundle.scheme.volumes] == [2, 1]
    assert said["remarks"] == []
    assert [(a["kind"], a["area_m2"]) for a in said["adjacency"]] == [("wall", pytest.approx(8 * 4, rel=1e-3))]
    assert said["ground_m2"] == pytest.approx(20 * 12 + 64, rel=1e-3)


def test_unit_and_upward_axis_are_told_or_said_to_be_assumed(tmp_path: Path) -> None:
    big = write(tmp_path / "mm.obj", box(20_000, 12_000, 7_000))
    _, said = import_file(big)
    assert {r["code"] for r in said["remarks"]} == {"unit-assumed", "up-assumed"}
    assert said["units"]["length"] == "mm"
    assert said["ground_m2"] == pytest.approx(240, rel=1e-3)
    lying = write(tmp_path / "y.obj", box(20, 7, 12))
    _, said = import_file(lying, ask={"unit": "m", "up": "y"})
    assert said["ground_m2"] == pytest.approx(240, rel=1e-3)
    with pytest.raises(EurythmError) as fault:
        import_file(lying, ask={"unit": "cubit"})
    assert fault.value.code == "wrong-option"


def test_masses_that_overlap_are_cut_once(tmp_path: Path) -> None:
    path = write(tmp_path / "two.stl", box(10, 10, 7), box(10, 10, 3.5, (5, 0, 0)))
    bundle, said = import_file(path, ask={"unit": "m", "up": "z"})
    building = building_of(bundle.place, bundle.scheme)
    assert sum(z.gross_volume for z in building.zones) == pytest.approx(700 + 175, rel=1e-3)
    assert {r["code"] for r in said["remarks"]} == {"masses-overlap"}


def gable() -> trimesh.Trimesh:
    points = [[0, 0, 0], [10, 0, 0], [10, 8, 0], [0, 8, 0], [0, 0, 5], [10, 0, 5], [10, 8, 5], [0, 8, 5], [0, 4, 8], [10, 4, 8]]
    faces = [[0, 2, 1], [0, 3, 2], [0, 1, 5], [0, 5, 4], [2, 3, 7], [2, 7, 6], [1, 2, 6], [1, 6, 9], [1, 9, 5], [3, 0, 4], [3, 4, 8], [3, 8, 7],
             [4, 5, 9], [4, 9, 8], [6, 7, 8], [6, 8, 9]]  # fmt: skip
    return trimesh.Trimesh(np.array(points, dtype=float), faces)


def test_a_gable_is_cut_at_storey_heights_and_its_slopes_are_roof(tmp_path: Path) -> None:
    bundle, said = import_file(write(tmp_path / "gable.stl", gable()), ask={"unit": "m", "up": "z"})
    building = building_of(bundle.place, bundle.scheme)
    assert sum(z.gross_volume for z in building.zones) == pytest.approx(520, rel=1e-3)
    assert said["roof_m2"] == pytest.approx(2 * 10 * 5, rel=1e-3)
    assert [a["area_m2"] for a in said["adjacency"]] == [pytest.approx(80, rel=1e-3)]


def test_turned_and_open_bodies_are_mended_or_reported(tmp_path: Path) -> None:
    inward = box(10, 8, 4)
    inward.invert()
    lidless = box(6, 6, 4, (20, 0, 0))
    lidless.update_faces(lidless.face_normals[:, 2] < 0.5)
    torn = box(6, 6, 4, (40, 0, 0))
    torn.update_faces(np.arange(12) > 2)
    path = write(tmp_path / "odd.stl", inward, lidless, torn)
    bundle, said = import_file(path, ask={"unit": "m", "up": "z"})
    codes = sorted((r["code"], r["mended"]) for r in said["remarks"])
    assert codes == [("faces-turned", True), ("space-not-closed", False), ("space-not-closed", True)]
    assert len(bundle.scheme.volumes) == 2


sizes = st.floats(1, 40)


@settings(max_examples=40, deadline=None)
@given(size=st.tuples(sizes, sizes, st.floats(2, 20)), turn=st.floats(0, 360), flip=st.booleans(), drop=st.booleans())
def test_any_box_is_welded_closed_and_turned(size: tuple[float, float, float], turn: float, flip: bool, drop: bool) -> None:
    body = box(*size)
    body.apply_transform(trimesh.transformations.rotation_matrix(np.radians(turn), [0, 0, 1]))
    faces = body.faces[:, ::-1] if flip else body.faces
    if drop:
        top = body.face_normals[:, 2] > 0.5
        faces = faces[~top]
    solid = solid_of(body.vertices, faces)
    assert solid.closed
    assert solid.volume == pytest.approx(np.prod(size), rel=1e-4)
    assert len(solid.faces) == 6
    upright = upright_of(solid)
    assert upright is not None
    assert upright.height == pytest.approx(size[2], abs=1e-3)


@settings(max_examples=40, deadline=None)
@given(size=st.tuples(sizes, sizes, st.floats(2, 20)), turned=st.sets(st.integers(0, 5), max_size=3), missing=st.none() | st.integers(0, 5))
def test_loose_polygons_are_turned_and_closed(size: tuple[float, float, float], turned: set[int], missing: int | None) -> None:
    loops = list(solid_of(box(*size).vertices, box(*size).faces).faces)
    soup = [loop[::-1] if k in turned else loop for k, loop in enumerate(loops) if k != missing]
    body = body_of(soup)
    assert body.closed
    assert body.volume == pytest.approx(np.prod(size), rel=1e-4)
    assert body.covered == (missing is not None)


@pytest.mark.parametrize("ending", ["obj", "stl", "glb"])
def test_the_sample_masses_come_to_what_their_generator_knows(tmp_path: Path, ending: str) -> None:
    massing.write_masses(tmp_path / f"masses.{ending}")
    bundle, said = import_file(tmp_path / f"masses.{ending}", ask={} if ending == "glb" else {"unit": "m", "up": "z"})
    truth = massing.truth()
    building = building_of(bundle.place, bundle.scheme)
    assert sum(z.gross_volume for z in building.zones) == pytest.approx(truth["volume_m3"], rel=0.005)
    assert (said["ground_m2"], said["roof_m2"]) == pytest.approx((truth["ground_m2"], truth["roof_m2"]), rel=0.005)
    shared = {p["kind"]: p["area_m2"] for p in said["adjacency"]}
    assert shared == pytest.approx({"wall": truth["shared_wall_m2"], "floor": truth["shared_floor_m2"]}, rel=0.005)
    assert said["remarks"] == []
    names = {v.name for v in bundle.scheme.volumes}
    assert names == (set(massing.MASSES) if ending != "stl" else {f"masses.stl {k}" for k in (1, 2, 3)})


# surroundings


def test_the_sample_neighbours_stand_where_the_demo_has_them(tmp_path: Path) -> None:
    massing.write_neighbours(tmp_path / "neighbours.geojson")
    place = HERE.model_copy(update={"north_deg": PROJECT.place.north_deg})
    found = read_geojson((tmp_path / "neighbours.geojson").read_bytes(), "neighbours.geojson", place)
    assert found.findings == ()
    for flat in found.footprints:
        x, y, length, depth, height = massing.NEIGHBOURS[flat.name]
        xs, ys = [p.x for p in flat.points], [p.y for p in flat.points]
        assert (min(xs), max(xs), min(ys), max(ys)) == pytest.approx((x, x + length, y, y + depth), abs=0.02)
        assert flat.height == height


def feature(points: list[tuple[float, float]], **properties: Any) -> dict[str, Any]:
    return {"type": "Feature", "properties": properties, "geometry": {"type": "Polygon", "coordinates": [[*points, points[0]]]}}


def at(x: float, y: float, latitude: float = 53.5, longitude: float = -2.25) -> tuple[float, float]:
    return longitude + x / 66_406.0, latitude + y / 111_286.0


def collection(*features: dict[str, Any], **more: Any) -> bytes:
    return json.dumps({"type": "FeatureCollection", "features": list(features), **more}).encode()


HERE = Place(latitude_deg=53.5, longitude_deg=-2.25)
SQUARE = [at(10, 0), at(30, 0), at(30, 20), at(10, 20)]


def test_footprints_are_laid_out_round_the_site_in_the_drawings_axes() -> None:
    (flat,) = read_geojson(collection(feature(SQUARE, height=12, name="Salt warehouse")), "a.geojson", HERE).footprints
    xs, ys = [p.x for p in flat.points], [p.y for p in flat.points]
    assert (min(xs), max(xs), min(ys), max(ys)) == pytest.approx((10, 30, 0, 20), abs=0.1)
    assert flat.name == "Salt warehouse"
    turned = HERE.model_copy(update={"north_deg": 90.0})  # the drawing's top looks east
    (lying,) = read_geojson(collection(feature(SQUARE, height=12)), "a.geojson", turned).footprints
    assert min(p.y for p in lying.points) == pytest.approx(10, abs=0.1)
    assert min(p.x for p in lying.points) == pytest.approx(-20, abs=0.1)


def test_heights_as_text_overlaps_and_crossings_are_mended_and_told() -> None:
    bow = [at(60, 0), at(80, 20), at(80, 0), at(60, 20)]
    over = [at(20, 10), at(50, 10), at(50, 30), at(20, 30)]
    found = read_geojson(
        collection(feature(SQUARE, height="12,5 m"), feature(over, levels="2"), feature(bow, height=9), feature(SQUARE)), "a", HERE
    )
    assert {f.code for f in found.findings} == {"footprints-overlap", "outline-mended", "footprint-without-height"}
    assert {(f.height, f.assumed) for f in found.footprints} == {(6.0, ("height",)), (9.0, ()), (12.5, ())}


@pytest.mark.parametrize(
    ("said", "metres"),
    [
        ({"height": 8}, 8.0),
        ({"Height": "40 ft"}, 12.192),
        ({"building:height": " 7,5 m "}, 7.5),
        ({"building:levels": 3}, 9.0),
        ({"height": "tall", "levels": "2"}, 6.0),
        ({"height": True, "levels": 1}, 3.0),
        ({"height": "1.2.3"}, None),
        ({"height": -4}, None),
        ({"height": 5000}, None),
    ],
)
def test_heights_are_read_as_people_write_them(said: dict[str, Any], metres: float | None) -> None:
    found = read_geojson(collection(feature(SQUARE, **said), feature([at(60, 0), at(70, 0), at(70, 9)], height=1)), "a", HERE)
    assert [f.height for f in found.footprints] == ([1.0] if metres is None else [pytest.approx(metres, abs=1e-3), 1.0])
    assert [f.code for f in found.findings] == (["footprint-without-height"] if metres is None else [])


def test_courtyards_several_parts_and_other_shapes_are_told() -> None:
    hole = [at(15, 5), at(25, 5), at(25, 15)]
    ring = {"type": "Polygon", "coordinates": [[*SQUARE, SQUARE[0]], [*hole, hole[0]]]}
    far = [
        [at(60 + x, y) for x, y in ((0, 0), (9, 0), (9, 9), (0, 9), (0, 0))],
        [at(80 + x, y) for x, y in ((0, 0), (9, 0), (9, 9), (0, 9), (0, 0))],
    ]
    shapes = [
        {"type": "Feature", "id": "ring", "properties": {"height": 4}, "geometry": ring},
        {"type": "Feature", "properties": {"height": 5}, "geometry": {"type": "MultiPolygon", "coordinates": [[part] for part in far]}},
        {"type": "Feature", "properties": {"height": 6}, "geometry": {"type": "Point", "coordinates": at(0, 0)}},
        {"type": "Feature", "properties": {"height": 6}, "geometry": {"type": "Polygon", "coordinates": [[[0, "north"]]]}},
    ]
    found = read_geojson(collection(*shapes), "a", HERE, taken=["footprint-1"])
    assert [(f.id, f.name, f.height) for f in found.footprints] == [
        ("footprint-2", "ring", 4.0), ("footprint-3", "Footprint 2", 5.0), ("footprint-4", "Footprint 2", 5.0),
    ]  # fmt: skip
    assert [f.code for f in found.findings] == ["courtyard-filled", "no-outline", "no-outline"]
    area = shapely.Polygon([(p.x, p.y) for p in found.footprints[0].points]).area
    assert area == pytest.approx(400, rel=0.01)


@pytest.mark.parametrize(
    ("place", "code"),
    [(Place(), "site-unknown"), (Place(latitude_deg=10.0, longitude_deg=20.0), "footprints-far"), (HERE, None)],
)
def test_outlines_go_to_the_site_wherever_it_is_said_to_be(place: Place, code: str | None) -> None:
    lone = json.dumps(feature(SQUARE, height=9)).encode()
    found = read_geojson(lone, "a", place)
    assert [f.code for f in found.findings] == ([] if code is None else [code])
    xs = [p.x for p in found.footprints[0].points]
    assert max(xs) - min(xs) == pytest.approx(20, abs=0.1)
    assert (min(xs) + max(xs)) / 2 == pytest.approx(20 if code is None else 0, abs=5)


@pytest.mark.parametrize(
    ("body", "code"),
    [
        (b"{", "not-json"),
        (b'{"type": "Topology"}', "not-geojson"),
        (collection(feature([(500000.0, 5400000.0), (500020.0, 5400000.0), (500020.0, 5400020.0)], height=9)), "wrong-reference-system"),
        (collection(feature(SQUARE, height=9), crs={"type": "name", "properties": {"name": "EPSG:25832"}}), "wrong-reference-system"),
        (collection(feature(SQUARE)), "no-footprints"),
        (
            collection({"type": "Feature", "properties": {"height": 3}, "geometry": {"type": "Polygon", "coordinates": "here"}}),
            "no-footprints",
        ),
    ],
)
def test_surroundings_that_cannot_be_used_are_refused(body: bytes, code: str) -> None:
    with pytest.raises(EurythmError) as fault:
        read_geojson(body, "a.geojson", HERE)
    assert fault.value.code == code


def test_footprints_shade(merrowhaven: ClimateYear) -> None:
    scheme = make_scheme(volumes=[volume()])
    points = [{"x": -5, "y": -8}, {"x": 25, "y": -8}, {"x": 25, "y": -6}, {"x": -5, "y": -6}]
    walled = read_document(Place, {"footprints": [{"id": "wall", "points": points, "height": 15}]})
    free, shaded = (run(p, PROJECT.library, scheme, Factors(), merrowhaven).outcome.totals for p in (Place(), walled))
    assert shaded["cooling_demand_kwh"] < 0.9 * free["cooling_demand_kwh"]


def test_the_samples_of_gbxml_hold_to_the_schema(schema: Any, tmp_path: Path) -> None:
    for system in ("SI", "IP"):
        gbxml.write_court(tmp_path / "court.xml", system, faults=False)
        assert schema.validate(etree.parse(str(tmp_path / "court.xml"))), list(schema.error_log)[:3]
