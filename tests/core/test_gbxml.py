"""gbXML as others write it: units, sides, faults in surfaces, openings, use. Small files made by hand, one matter each."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree

from eurythm.brief.profiles import PROFILES
from eurythm.climate.standin import standin_year
from eurythm.exchange.exporting import export
from eurythm.exchange.gbxml.read import read_gbxml
from eurythm.exchange.importing import settled_bundle
from eurythm.exchange.intake.received import Received
from eurythm.exchange.intake.sift import Sift
from eurythm.geometry.building import Building
from eurythm.geometry.form import make_building
from eurythm.model.amount import said
from eurythm.model.errors import EurythmError
from eurythm.simulate import run

Loop = list[tuple[float, float, float]]


def box(x0: float, y0: float, x1: float, y1: float, z0: float = 0.0, z1: float = 3.0) -> dict[str, Loop]:
    """The faces of a box by name, counter-clockwise seen from outside."""
    plan = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
    faces: dict[str, Loop] = {"floor": [(x, y, z0) for x, y in plan[::-1]], "roof": [(x, y, z1) for x, y in plan]}
    for i, side in enumerate(("south", "east", "north", "west")):
        a, b = plan[i], plan[(i + 1) % 4]
        faces[side] = [(*a, z0), (*b, z0), (*b, z1), (*a, z1)]
    return faces


KINDS = {"floor": "SlabOnGrade", "roof": "Roof"}


def polygon(loop: Loop, factor: float = 1.0) -> str:
    points = "".join(f"<CartesianPoint>{''.join(f'<Coordinate>{v * factor:.6f}</Coordinate>' for v in p)}</CartesianPoint>" for p in loop)
    return f"<PlanarGeometry><PolyLoop>{points}</PolyLoop></PlanarGeometry>"


def surface(name: str, loop: Loop, *spaces: str, kind: str = "ExteriorWall", inside: str = "", factor: float = 1.0) -> str:
    refs = "".join(f'<AdjacentSpaceId spaceIdRef="{s}"/>' for s in spaces)
    return f'<Surface id="{name}" surfaceType="{kind}"><Name>{name}</Name>{refs}{polygon(loop, factor)}{inside}</Surface>'


def walls_of(space: str, faces: dict[str, Loop], factor: float = 1.0, leave: tuple[str, ...] = (), **inside: str) -> str:
    return "".join(
        surface(f"{space}-{side}", loop, space, kind=KINDS.get(side, "ExteriorWall"), inside=inside.get(side, ""), factor=factor)
        for side, loop in faces.items()
        if side not in leave
    )


def document(
    surfaces: str,
    spaces: str = '<Space id="a"><Name>Hall</Name></Space>',
    head: str = 'lengthUnit="Meters"',
    more: str = "",
    campus: str = "",
) -> str:
    return (
        f'<gbXML xmlns="http://www.gbxml.org/schema" {head}><Campus id="c">{campus}<Building id="b">{spaces}</Building>{surfaces}</Campus>{more}</gbXML>'
    )  # fmt: skip


def received(folder: Path, text: str) -> Received:
    (folder / "model.xml").write_text(text, encoding="utf-8")
    return read_gbxml(folder / "model.xml", "model.xml")


def settled(folder: Path, text: str) -> tuple[Any, Building, dict[str, Any]]:
    bundle, said = settled_bundle(received(folder, text), Sift(), None)
    return bundle, make_building(bundle.scheme, bundle.place.ground_level_m), said


def codes(said: Received) -> list[str]:
    return [f.code for f in said.findings]


def area(loop: Any) -> float:
    corners = np.asarray(loop)
    return float(np.linalg.norm(np.sum(np.cross(corners, np.roll(corners, -1, axis=0)), axis=0)) / 2)


@pytest.mark.parametrize(
    ("unit", "metres"),
    [("Meters", 1.0), ("Millimeters", 0.001), ("Centimeters", 0.01), ("Feet", 0.3048), ("Inches", 0.0254), ("Kilometers", 1000.0)],
)
def test_every_unit_comes_to_the_same_room(tmp_path: Path, unit: str, metres: float) -> None:
    text = document(walls_of("a", box(0, 0, 6, 4), 1 / metres), head=f'lengthUnit="{unit}"')
    made = received(tmp_path, text)
    assert codes(made) == []
    (space,) = made.spaces
    assert (space.floor_area_m2, space.volume_m3) == pytest.approx((24.0, 72.0), rel=2e-3)


def test_a_unit_at_the_element_stands_before_the_files(tmp_path: Path) -> None:
    said = '<Space id="a"><Name>Hall</Name><Area unit="SquareFeet">258.334</Area><Volume unit="CubicFeet">2542.65</Volume></Space>'
    (space,) = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4)), said)).spaces
    assert (space.floor_area_m2, space.volume_m3) == pytest.approx((24.0, 72.0), rel=1e-4)


def test_a_surface_of_two_spaces_is_one_contact(tmp_path: Path) -> None:
    left, right = box(0, 0, 5, 4), box(5, 0, 9, 4)
    surfaces = walls_of("a", left, leave=("east",)) + walls_of("b", right, leave=("west",))
    surfaces += surface("between", left["east"], "a", "b", kind="InteriorWall")
    _, building, said = settled(tmp_path, document(surfaces, '<Space id="a"/><Space id="b"/>'))
    (contact,) = [f for f in building.faces if f.boundary == "zone"]
    assert contact.area == pytest.approx(12.0)
    assert sorted(z.gross_volume for z in building.zones) == pytest.approx([48.0, 60.0])
    assert sum(f.area for f in building.faces if f.kind == "wall" and f.boundary == "outdoors") == pytest.approx((9 + 9 + 4 + 4) * 3)
    assert said["adjacency"][0]["area_m2"] == pytest.approx(12.0)


@settings(max_examples=25, deadline=None)
@given(wrong=st.sets(st.sampled_from(["floor", "roof", "south", "east", "north", "west"]), max_size=6))
def test_any_faces_that_look_inwards_are_turned(tmp_path_factory: pytest.TempPathFactory, wrong: set[str]) -> None:
    faces = {side: loop[::-1] if side in wrong else loop for side, loop in box(0, 0, 6, 4).items()}
    made = received(tmp_path_factory.mktemp("turned"), document(walls_of("a", faces)))
    (space,) = made.spaces
    assert space.closed
    assert space.volume_m3 == pytest.approx(72.0)
    assert {f.object for f in made.findings if f.code == "faces-turned"} == {f"a-{side}" for side in wrong}


def test_points_named_twice_are_dropped_and_said(tmp_path: Path) -> None:
    faces = box(0, 0, 6, 4)
    faces["roof"] = [faces["roof"][0], *faces["roof"]]
    made = received(tmp_path, document(walls_of("a", faces)))
    assert [(f.code, f.object, f.mended) for f in made.findings] == [("points-doubled", "a-roof", True)]
    assert made.spaces[0].volume_m3 == pytest.approx(72.0)


def test_a_missing_face_is_covered_and_the_hole_can_be_drawn(tmp_path: Path) -> None:
    made = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4), leave=("roof",))))
    (found,) = made.findings
    assert (found.code, found.object, found.mended) == ("space-not-closed", "a", True)
    assert area(found.loops[0]) == pytest.approx(24.0)
    assert "24.0 m²" in said(found.sentence)
    assert made.spaces[0].volume_m3 == pytest.approx(72.0)


def test_a_space_of_two_walls_is_no_room(tmp_path: Path) -> None:
    two = walls_of("a", box(0, 0, 6, 4), leave=("roof", "floor", "east", "north"))
    made = received(tmp_path, document(two + walls_of("b", box(10, 0, 16, 4)), '<Space id="a"/><Space id="b"/>'))
    by_id = {s.id: s for s in made.spaces}
    assert (by_id["a"].closed, by_id["b"].closed) == (False, True)
    assert "space-not-closed" in codes(made)


def test_a_space_without_surfaces_is_not_closed(tmp_path: Path) -> None:
    made = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4)), '<Space id="a"/><Space id="void"/>'))
    assert [s.closed for s in made.spaces] == [True, False]


def test_surfaces_that_lead_nowhere_are_told(tmp_path: Path) -> None:
    stray = surface("stray", box(20, 0, 21, 1)["roof"], "nobody", kind="Roof")
    formless = '<Surface id="formless" surfaceType="Roof"><AdjacentSpaceId spaceIdRef="a"/></Surface>'
    made = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4)) + stray + formless))
    assert {(f.code, f.object) for f in made.findings} == {("surface-without-space", "stray"), ("surface-without-form", "formless")}


def test_shades_and_surfaces_of_nobody_stand_in_the_light(tmp_path: Path) -> None:
    shade = surface("louvre", [(0, -1, 3), (6, -1, 3), (6, 0, 3), (0, 0, 3)], kind="Shade")
    bundle, building, _ = settled(tmp_path, document(walls_of("a", box(0, 0, 6, 4)) + shade))
    assert [s.name for s in bundle.scheme.shades] == ["louvre"]
    assert len(building.shades) == 1


def test_a_rectangle_stands_in_for_a_missing_polygon(tmp_path: Path) -> None:
    """South wall by azimuth, tilt, corner, height and width: the same polygon."""
    rectangle = (
        "<RectangularGeometry><Azimuth>180</Azimuth><CartesianPoint><Coordinate>0</Coordinate><Coordinate>0</Coordinate>"
        "<Coordinate>0</Coordinate></CartesianPoint><Tilt>90</Tilt><Height>3</Height><Width>6</Width></RectangularGeometry>"
    )
    south = f'<Surface id="a-south" surfaceType="ExteriorWall"><AdjacentSpaceId spaceIdRef="a"/>{rectangle}</Surface>'
    made = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4), leave=("south",)) + south))
    assert codes(made) == []
    assert made.spaces[0].volume_m3 == pytest.approx(72.0)


def opening(name: str, loop: Loop, kind: str = "FixedWindow", more: str = "") -> str:
    return f'<Opening id="{name}" openingType="{kind}"{more}>{polygon(loop)}</Opening>'


PANE: Loop = [(1, 0, 1), (3, 0, 1), (3, 0, 2.5), (1, 0, 2.5)]


def test_windows_doors_and_rooflights_by_their_kind(tmp_path: Path) -> None:
    door: Loop = [(4, 0, 0), (5, 0, 0), (5, 0, 2.1), (4, 0, 2.1)]
    light: Loop = [(1, 1, 3), (2, 1, 3), (2, 2, 3), (1, 2, 3)]
    walls = walls_of(
        "a", box(0, 0, 6, 4), south=opening("w", PANE) + opening("d", door, "NonSlidingDoor"), roof=opening("r", light, "FixedSkylight")
    )
    made = received(tmp_path, document(walls))
    holes = {h.id: h.kind for f in made.spaces[0].faces for h in f.holes}
    assert holes == {"w": "window", "d": "door", "r": "rooflight"}
    _, building, said = settled(tmp_path, document(walls))
    glass = {f.kind: sum(w.width * w.height for w in f.windows) for f in building.faces if f.windows}
    assert glass == pytest.approx({"wall": 3.0 + 2.1, "ceiling": 1.0})
    assert said["orientation"]["S"]["window_m2"] == pytest.approx(3.0 + 2.1, abs=2.2)


def rectangle(name: str, wide: float, high: float, *at: float) -> str:
    point = "".join(f"<Coordinate>{v}</Coordinate>" for v in at)
    size = f"<Height>{high}</Height><Width>{wide}</Width>"
    return f'<Opening id="{name}" openingType="FixedWindow"><RectangularGeometry><CartesianPoint>{point}</CartesianPoint>{size}</RectangularGeometry></Opening>'


@pytest.mark.parametrize("side", ["south", "east", "north", "west"])
@pytest.mark.parametrize("at", [(1.0, 0.8), (1.0, 0.8, 0.0)])
def test_an_opening_by_its_rectangle_alone_is_placed_on_its_surface(tmp_path: Path, side: str, at: tuple[float, ...]) -> None:
    """Its point counts from the lower left corner of its surface, seen from outside."""
    text = document(walls_of("a", box(10, 20, 16, 24), **{side: rectangle("w", 1.5, 1.2, *at)}))
    assert codes(received(tmp_path, text)) == []
    _, building, _ = settled(tmp_path, text)
    (face,) = [f for f in building.faces if f.windows]
    (window,) = face.windows
    assert face.id.endswith(side)
    assert (window.s, window.z, window.width, window.height) == pytest.approx((1.0, 0.8, 1.5, 1.2))


def test_an_opening_by_its_rectangle_in_the_building_is_placed_too(tmp_path: Path) -> None:
    _, building, _ = settled(tmp_path, document(walls_of("a", box(10, 20, 16, 24), south=rectangle("w", 1.5, 1.2, 11, 20, 0.8))))
    (window,) = [w for f in building.faces for w in f.windows]
    assert (window.s, window.z) == pytest.approx((1.0, 0.8))


def test_an_opening_that_cannot_be_placed_is_told_with_its_area(tmp_path: Path) -> None:
    made = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4), south=rectangle("w", 1.5, 1.2, 50, 0.8))))
    assert [(f.code, f.object) for f in made.findings] == [("opening-unplaced", "w")]
    assert "1.80 m²" in said(made.findings[0].sentence)


def test_a_void_over_a_stair_is_no_floor(tmp_path: Path) -> None:
    """The upper room's floor is what one can stand on; nothing is taken off the ceiling below."""
    low, high = box(0, 0, 6, 4), box(0, 0, 6, 4, 3, 6)
    void = opening("v", [(1, 1, 3), (3, 1, 3), (3, 2, 3), (1, 2, 3)], "Air")
    slab = surface("slab", low["roof"], "a", "b", kind="InteriorFloor", inside=void)
    text = document(
        walls_of("a", low, leave=("roof",)) + walls_of("b", high, leave=("floor",)) + slab,
        spaces='<Space id="a"><Name>Hall</Name></Space><Space id="b"><Name>Loft</Name></Space>',
    )
    made = received(tmp_path, text)
    assert {s.id: s.floor_area_m2 for s in made.spaces} == pytest.approx({"a": 24.0, "b": 22.0})
    assert [(f.code, f.object) for f in made.findings] == [("floor-void", "b")]


def test_windows_of_a_surface_without_a_space_are_named(tmp_path: Path) -> None:
    stray = surface("stray", box(20, 0, 26, 4)["south"], "nobody", inside=opening("lost", [(21, 0, 1), (23, 0, 1), (23, 0, 2), (21, 0, 2)]))
    made = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4)) + stray))
    assert "“lost”" in made.findings[0].sentence


def test_glass_without_a_u_value_keeps_its_g_value_and_its_light(tmp_path: Path) -> None:
    """What a window type says is read and told as read; only what it leaves open is assumed."""
    kind = (
        '<WindowType id="sun"><Name>Sun glass</Name><SolarHeatGainCoeff unit="Fraction">0.28</SolarHeatGainCoeff>'
        '<Transmittance unit="Fraction" type="Visible">0.6</Transmittance></WindowType>'
    )
    text = document(walls_of("a", box(0, 0, 6, 4), south=opening("w", PANE, more=' windowTypeIdRef="sun"')), more=kind)
    bundle, building, said = settled(tmp_path, text)
    (glass,) = bundle.library.glazings
    assert (glass.g_value, glass.visible) == (0.28, 0.6)
    assert glass.source.startswith("g and light read from the file; U as")
    assert [w.glazing for f in building.faces for w in f.windows] == ["sun"]
    assert said["glazings"][0]["visible"] == 0.6


def test_an_opening_of_air_is_no_window(tmp_path: Path) -> None:
    made = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4), south=opening("gap", PANE, "Air"))))
    assert not any(f.holes for f in made.spaces[0].faces)


OWN = '<U-value unit="WPerSquareMeterK">{u}</U-value><SolarHeatGainCoeff unit="{unit}">{g}</SolarHeatGainCoeff>'


@pytest.mark.parametrize(("kind", "u", "unit", "g", "share"), [
    ("FixedWindow", 1.3, "Fraction", 0.55, 0.55), ("OperableWindow", 0.9, "Percent", 42, 0.42), ("NonSlidingDoor", 1.8, "Fraction", 0.0, 0.0),
])  # fmt: skip
def test_an_opening_may_carry_its_values_itself(tmp_path: Path, kind: str, u: float, unit: str, g: float, share: float) -> None:
    pane = opening("w", PANE, kind).replace("</Opening>", OWN.format(u=u, unit=unit, g=g) + "</Opening>")
    twin = opening("x", [(x + 2.2, y, z) for x, y, z in PANE], kind).replace("</Opening>", OWN.format(u=u, unit=unit, g=g) + "</Opening>")
    made = received(tmp_path, document(walls_of("a", box(0, 0, 8, 4), south=pane + twin)))
    (glazing,) = made.glazings  # two that are alike are one
    assert (glazing.u_value, glazing.g_value) == pytest.approx((u, share))
    assert {(h.kind, h.glazing) for f in made.spaces[0].faces for h in f.holes} == {("window" if share else "door", glazing.id)}


def test_a_door_takes_the_u_value_of_its_construction(tmp_path: Path) -> None:
    door: Loop = [(4, 0, 0), (5, 0, 0), (5, 0, 2.1), (4, 0, 2.1)]
    leaf = opening("d", door, "NonSlidingDoor").replace("<Opening ", '<Opening constructionIdRef="leaf" ')
    more = '<Construction id="leaf"><Name>Leaf</Name><U-value unit="BtuPerHourSquareFtF">0.3</U-value></Construction>'
    made = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4), south=leaf), more=more))
    (glazing,) = made.glazings
    assert (glazing.u_value, glazing.g_value) == (pytest.approx(0.3 * 5.678263, rel=1e-4), 0.0)


@pytest.mark.parametrize(("unit", "value", "u"), [("WPerSquareMeterK", 1.1, 1.1), ("BtuPerHourSquareFtF", 0.2, 0.2 * 5.678263)])
def test_window_types_in_both_systems(tmp_path: Path, unit: str, value: float, u: float) -> None:
    kind = (
        f'<WindowType id="g"><Name>Triple</Name><U-value unit="{unit}">{value}</U-value><SolarHeatGainCoeff unit="Fraction">0.5</SolarHeatGainCoeff>'
        '<Transmittance unit="Percent" type="Visible" surfaceType="Both">68</Transmittance></WindowType>'
    )
    walls = walls_of("a", box(0, 0, 6, 4), south=opening("w", PANE, more=' windowTypeIdRef="g"'))
    made = received(tmp_path, document(walls, more=kind))
    (glass,) = made.glazings
    assert (glass.u_value, glass.g_value, glass.visible) == pytest.approx((u, 0.5, 0.68), rel=1e-4)
    bundle, _, _ = settled(tmp_path, document(walls, more=kind))
    (own,) = bundle.library.glazings
    assert own.u_value == pytest.approx(u, rel=1e-4)


def test_layers_of_a_construction_in_inch_pound_come_to_si(tmp_path: Path) -> None:
    sheet = """<Construction id="k"><Name>Wall</Name><LayerId layerIdRef="l"/></Construction>
    <Layer id="l"><MaterialId materialIdRef="m"/></Layer>
    <Material id="m"><Name>Brick</Name><Thickness unit="Feet">0.5</Thickness><Conductivity unit="BtuPerHourFtF">0.4</Conductivity>
    <Density unit="LbsPerCubicFt">112.4</Density><SpecificHeat unit="BTUPerLbF">0.2</SpecificHeat></Material>"""
    made = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4)), more=sheet))
    (layer,) = made.constructions[0].layers
    assert layer.thickness_m == pytest.approx(0.1524)
    assert layer.conductivity == pytest.approx(0.4 * 1.730735, rel=1e-4)
    assert layer.density == pytest.approx(112.4 * 16.01846, rel=1e-4)
    assert layer.specific_heat == pytest.approx(0.2 * 4186.8, rel=1e-3)


@pytest.mark.parametrize(("azimuth", "north"), [(0, 0), (30, 30), (200, -160), (359.5, -0.5)])
def test_true_north_latitude_and_longitude(tmp_path: Path, azimuth: float, north: float) -> None:
    where = f"<Location><Name>Merrowhaven</Name><Longitude>-3.25</Longitude><Latitude>54.5</Latitude><CADModelAzimuth>{azimuth}</CADModelAzimuth></Location>"
    made = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4)), campus=where))
    assert (made.true_north_deg, made.latitude_deg, made.longitude_deg) == pytest.approx((north, 54.5, -3.25))
    assert made.place == "Merrowhaven"


def test_a_model_far_off_is_moved_near_and_keeps_its_form(tmp_path: Path) -> None:
    made = received(tmp_path, document(walls_of("a", box(500_000, 200_000, 500_006, 200_004))))
    assert codes(made) == ["moved-to-origin"]
    assert made.spaces[0].volume_m3 == pytest.approx(72.0, rel=1e-6)
    assert max(abs(v) for f in made.spaces[0].faces for p in f.loop for v in p) < 100


@pytest.mark.parametrize(
    ("text", "code"),
    [
        (document(walls_of("a", box(0, 0, 6, 4)), head='lengthUnit="Furlongs"'), "unknown-unit"),
        (document(walls_of("a", box(0, 0, 6, 4))).replace("<Coordinate>6.000000", "<Coordinate>six", 1), "wrong-number"),
        (document(walls_of("a", box(0, 0, 6, 4))).replace("<Coordinate>6.000000", "<Coordinate>1e300", 1), "wrong-number"),
        (document(walls_of("a", box(0, 0, 6, 4))).replace("<Coordinate>6.000000</Coordinate>", "", 1), "wrong-point"),
    ],
)
def test_what_cannot_be_read_names_its_place(tmp_path: Path, text: str, code: str) -> None:
    with pytest.raises(EurythmError) as fault:
        received(tmp_path, text)
    assert fault.value.code == code
    assert fault.value.path


@pytest.mark.parametrize(
    ("unit", "count", "person"), [("NumberOfPeople", 4, 6.0), ("SquareMPerPerson", 8, 8.0), ("SquareFtPerPerson", 100, 9.290304)]
)
def test_people_by_number_or_by_area(tmp_path: Path, unit: str, count: float, person: float) -> None:
    said = (
        f'<Space id="a"><Name>Hall</Name><PeopleNumber unit="{unit}">{count}</PeopleNumber>'
        '<LightPowerPerArea unit="WattPerSquareMeter">9</LightPowerPerArea><Area>24</Area></Space>'
    )
    bundle, _, report = settled(tmp_path, document(walls_of("a", box(0, 0, 6, 4)), said))
    (profile,) = bundle.library.profiles
    assert profile.person_area == pytest.approx(person, rel=1e-4)
    assert profile.lighting_w_m2 == pytest.approx(9.0)
    # the file says nothing of equipment and hours: those of an office, and that is told
    office = next(p for p in PROFILES if p.id == "office")
    assert (profile.equipment_w_m2, profile.occupancy) == (office.equipment_w_m2, office.occupancy)
    assert [r["code"] for r in report["remarks"]] == ["use-completed"]


def test_an_unheated_space_floats(tmp_path: Path) -> None:
    said = '<Space id="a" conditionType="Unconditioned"><Name>Store</Name></Space>'
    made = received(tmp_path, document(walls_of("a", box(0, 0, 6, 4)), said))
    assert made.spaces[0].conditioned is False


def test_storeys_and_numbers_stay_with_their_rooms(tmp_path: Path) -> None:
    spaces = (
        '<BuildingStorey id="s1"><Name>First floor</Name><Level>3.2</Level></BuildingStorey>'
        '<Space id="a" buildingStoreyIdRef="s1"><Name>Archive</Name><Description>number 1.07</Description></Space>'
    )
    bundle, _, said = settled(tmp_path, document(walls_of("a", box(0, 0, 6, 4, 3.2, 6.2)), spaces))
    (zone,) = bundle.scheme.zones
    assert (zone.name, zone.number, zone.storey) == ("Archive", "1.07", "First floor")
    assert said["storeys"] == [{"name": "First floor", "elevation_m": pytest.approx(3.2)}]


def hall(upper_area: float | None, opening: float = 1.0, zones: str = "", ids: tuple[str, str] = ("", "")) -> str:
    """A room of 6 by 4 m over another one, air between them over a share of the slab."""
    low, high = box(0, 0, 6, 4, 0, 3), box(0, 0, 6, 4, 3, 6)
    surfaces = walls_of("low", low, leave=("roof",)) + walls_of("high", high, leave=("floor",))
    edge = 6 * opening
    through = [(0.0, 0.0, 3.0), (edge, 0.0, 3.0), (edge, 4.0, 3.0), (0.0, 4.0, 3.0)]
    surfaces += surface("gap", through, "low", "high", kind="Air")
    if opening < 1:
        rest = [(edge, 0.0, 3.0), (6.0, 0.0, 3.0), (6.0, 4.0, 3.0), (edge, 4.0, 3.0)]
        surfaces += surface("slab", rest, "low", "high", kind="InteriorFloor")
    said = "" if upper_area is None else f"<Area>{upper_area}</Area>"
    spaces = f'<Space id="low"{ids[0]}><Name>Hall</Name></Space><Space id="high"{ids[1]}><Name>Gallery</Name>{said}</Space>'
    return document(surfaces, spaces, more=zones)


@pytest.mark.parametrize(
    ("opening", "upper_area", "floor"),
    [
        (1.0, None, 24.0),  # nothing said: the floor that is only air is none
        (1.0, 0.0, 24.0),  # said to have no floor of its own
        (1.0, 24.0, 24.0),  # said with the floor that is only air
        (0.5, None, 36.0),
        (0.5, 12.0, 36.0),
        (0.5, 24.0, 36.0),
        (0.25, 18.0, 42.0),
        (0.25, 24.0, 42.0),
    ],
)
def test_floor_that_is_only_air_is_counted_once_whatever_the_file_counts(
    tmp_path: Path, opening: float, upper_area: float | None, floor: float
) -> None:
    _, building, _ = settled(tmp_path, hall(upper_area, opening))
    (zone,) = building.zones
    assert zone.gross_floor == pytest.approx(floor, rel=1e-6)
    assert zone.gross_volume == pytest.approx(6 * 4 * 6, rel=1e-6)
    assert sum(f.area for f in building.inner if f.air) == pytest.approx(24.0 * opening)
    assert sum(f.area for f in building.inner) == pytest.approx(24.0)
    assert {f.boundary for f in building.faces} == {"outdoors", "ground"}


def test_a_hall_with_a_gallery_goes_out_and_comes_in_again(tmp_path: Path) -> None:
    zones = '<Zone id="z"><Name>Hall and gallery</Name></Zone>'
    ids = (' zoneIdRef="z"', ' zoneIdRef="z"')
    year = standin_year("merrowhaven")
    once, _, _ = settled(tmp_path, hall(12.0, 0.5, zones, ids))
    body = export(once.place, once.library, once.scheme, once.factors, year, "gbxml")
    kinds = [s.get("surfaceType") for s in etree.fromstring(body).iter("{http://www.gbxml.org/schema}Surface")]
    assert (kinds.count("Air"), kinds.count("InteriorFloor")) == (1, 1)
    twice, building, said = settled(tmp_path, body.decode())
    assert said["remarks"] == []
    assert building.zones[0].gross_floor == pytest.approx(36.0, rel=1e-6)
    first, second = (run(b.place, b.library, b.scheme, b.factors, year).outcome.totals for b in (once, twice))
    for figure in ("conditioned_floor_area_m2", "heating_demand_kwh", "cooling_demand_kwh"):
        assert second[figure] == pytest.approx(first[figure], rel=0.005), figure


def test_spaces_of_one_zone_take_its_name_and_need_no_remark(tmp_path: Path) -> None:
    zones = '<Zone id="z"><Name>Atrium</Name></Zone>'
    ids = (' zoneIdRef="z"', ' zoneIdRef="z"')
    bundle, _, said = settled(tmp_path, hall(None, zones=zones, ids=ids))
    (group,) = bundle.scheme.merged
    assert group.name == "Atrium"
    assert said["remarks"] == []


@pytest.mark.parametrize("ids", [("", ' zoneIdRef="z"'), (' zoneIdRef="y"', ' zoneIdRef="z"'), ("", "")])
def test_spaces_of_several_zones_that_only_air_parts_are_told(tmp_path: Path, ids: tuple[str, str]) -> None:
    zones = '<Zone id="z"><Name>Atrium</Name></Zone><Zone id="y"><Name>Foyer</Name></Zone>'
    bundle, _, said = settled(tmp_path, hall(None, zones=zones, ids=ids))
    (group,) = bundle.scheme.merged
    assert group.name != "Atrium" or ids[0] == ""
    assert [r["code"] for r in said["remarks"]] == ["open-to-each-other"]
