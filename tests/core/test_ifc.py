"""IFC as others write it: units, placements, forms that are no prisms, what is missing. Small models made by hand, one matter each."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.guid
import numpy as np
import pytest

from eurythm.exchange.ifc.read import read_ifc
from eurythm.exchange.importing import settled_bundle
from eurythm.exchange.intake.received import Received
from eurythm.exchange.intake.settle import settle
from eurythm.exchange.intake.sift import Sift
from eurythm.geometry.building import Building
from eurythm.geometry.form import make_building
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.simulate import building_of


class Model:
    """A project with one storey, to which rooms and things are added; lengths are given in metres."""

    def __init__(self, schema: str = "IFC4", prefix: str | None = None, foot: bool = False) -> None:
        self.file = ifcopenshell.file(schema=schema)
        self.scale = {"MILLI": 1000.0, "CENTI": 100.0, None: 1.0}[prefix] / (0.3048 if foot else 1.0)
        metre = self.make("IfcSIUnit", UnitType="LENGTHUNIT", Prefix=prefix, Name="METRE")
        unit = metre
        if foot:
            none = self.make("IfcDimensionalExponents", 1, 0, 0, 0, 0, 0, 0)
            measure = self.make("IfcMeasureWithUnit", ValueComponent=self.make("IfcLengthMeasure", 0.3048), UnitComponent=metre)
            unit = self.make("IfcConversionBasedUnit", Dimensions=none, UnitType="LENGTHUNIT", Name="FOOT", ConversionFactor=measure)
        self.context = self.make(
            "IfcGeometricRepresentationContext",
            ContextType="Model",
            CoordinateSpaceDimension=3,
            Precision=1e-5,
            WorldCoordinateSystem=self.axes(),
        )
        self.project = self.root(
            "IfcProject", Name="Boxes", RepresentationContexts=[self.context], UnitsInContext=self.make("IfcUnitAssignment", [unit])
        )
        self.site = self.root("IfcSite", Name="Merrowhaven", ObjectPlacement=self.placed())
        self.house = self.root("IfcBuilding", Name="House", ObjectPlacement=self.placed(within=self.site.ObjectPlacement))
        self.storey = self.root("IfcBuildingStorey", Name="Ground floor", ObjectPlacement=self.placed(within=self.house.ObjectPlacement))
        for whole, part in ((self.project, self.site), (self.site, self.house), (self.house, self.storey)):
            self.root("IfcRelAggregates", RelatingObject=whole, RelatedObjects=[part])

    def make(self, entity: str, *values: Any, **attributes: Any) -> Any:
        return self.file.create_entity(entity, *values, **attributes)

    def root(self, entity: str, **attributes: Any) -> Any:
        return self.make(entity, GlobalId=ifcopenshell.guid.new(), **attributes)

    def point(self, *xyz: float) -> Any:
        return self.make("IfcCartesianPoint", [float(v) * self.scale for v in xyz])

    def axes(self, at: tuple[float, ...] = (0, 0, 0), turn: float = 0.0) -> Any:
        x = [math.cos(math.radians(turn)), math.sin(math.radians(turn)), 0.0]
        return self.make(
            "IfcAxis2Placement3D", self.point(*at), self.make("IfcDirection", [0.0, 0.0, 1.0]), self.make("IfcDirection", x)
        )  # fmt: skip

    def placed(self, at: tuple[float, ...] = (0, 0, 0), turn: float = 0.0, within: Any = None) -> Any:
        return self.make("IfcLocalPlacement", within, self.axes(at, turn))

    def shape(self, item: Any, kind: str = "SweptSolid") -> Any:
        body = self.make("IfcShapeRepresentation", self.context, "Body", kind, [item])
        return self.make("IfcProductDefinitionShape", None, None, [body])

    def prism(self, ring: list[tuple[float, float]], height: float) -> Any:
        line = self.make("IfcPolyline", [self.point(*p) for p in [*ring, ring[0]]])
        profile = self.make("IfcArbitraryClosedProfileDef", "AREA", None, line)
        return self.shape(
            self.make("IfcExtrudedAreaSolid", profile, self.axes(), self.make("IfcDirection", [0.0, 0.0, 1.0]), height * self.scale)
        )

    def faceted(self, loops: list[list[tuple[float, float, float]]]) -> Any:
        faces = [
            self.make("IfcFace", [self.make("IfcFaceOuterBound", self.make("IfcPolyLoop", [self.point(*p) for p in loop]), True)])
            for loop in loops
        ]
        return self.shape(self.make("IfcFacetedBrep", self.make("IfcClosedShell", faces)), "Brep")

    def space(
        self, name: str, shape: Any = None, at: tuple[float, ...] = (0, 0, 0), turn: float = 0.0, storey: bool = True, **more: Any
    ) -> Any:
        place = self.placed(at, turn, self.storey.ObjectPlacement)
        made = self.root(
            "IfcSpace", Name=name, LongName=more.pop("LongName", f"Room {name}"), ObjectPlacement=place, Representation=shape, **more
        )
        if storey:
            self.root("IfcRelAggregates", RelatingObject=self.storey, RelatedObjects=[made])
        return made

    def thing(self, entity: str, name: str, shape: Any = None, at: tuple[float, ...] = (0, 0, 0), **more: Any) -> Any:
        place = self.placed(at, 0.0, self.storey.ObjectPlacement)
        made = self.root(entity, Name=name, ObjectPlacement=place, Representation=shape, **more)
        self.root("IfcRelContainedInSpatialStructure", RelatedElements=[made], RelatingStructure=self.storey)
        return made

    def says(self, thing: Any, group: str, **values: Any) -> None:
        kinds = {bool: "IfcBoolean", float: "IfcReal", str: "IfcLabel"}
        properties = [self.make("IfcPropertySingleValue", k, None, self.make(kinds[type(v)], v), None) for k, v in values.items()]
        held = self.root("IfcPropertySet", Name=group, HasProperties=properties)
        self.root("IfcRelDefinesByProperties", RelatedObjects=[thing], RelatingPropertyDefinition=held)


BOX = [(0.0, 0.0), (6.0, 0.0), (6.0, 4.0), (0.0, 4.0)]


@pytest.fixture
def reading(tmp_path: Path) -> Callable[[Model], Received]:
    def read(model: Model) -> Received:
        model.file.write(str(tmp_path / "model.ifc"))
        return read_ifc(tmp_path / "model.ifc", "model.ifc")

    return read


def settled(received: Received) -> tuple[Any, Building, dict[str, Any]]:
    bundle, said = settled_bundle(received, Sift(), None)
    return bundle, building_of(bundle.place, bundle.scheme), said


def codes(received: Received) -> list[str]:
    return sorted({f.code for f in received.findings})


@pytest.mark.parametrize("schema", ["IFC2X3", "IFC4", "IFC4X3"])
@pytest.mark.parametrize(
    ("prefix", "foot", "unit"), [(None, False, "m"), ("MILLI", False, "mm"), ("CENTI", False, "cm"), (None, True, "foot")]
)
def test_every_unit_and_schema_comes_to_the_same_room(reading: Any, schema: str, prefix: str | None, foot: bool, unit: str) -> None:
    model = Model(schema, prefix, foot)
    model.space("0.01", model.prism(BOX, 3.0))
    made = reading(model)
    (space,) = made.spaces
    assert made.length_unit == unit
    assert (space.volume_m3, space.floor_area_m2) == pytest.approx((72.0, 24.0), rel=1e-4)
    assert (space.level, space.height) == pytest.approx((0.0, 3.0), abs=1e-4)
    assert (space.number, space.name) == ("0.01", "Room 0.01")


@pytest.mark.parametrize("turn", [0.0, 30.0, 90.0, -135.0])
def test_placements_within_placements_are_followed(reading: Any, turn: float) -> None:
    model = Model()
    model.storey.ObjectPlacement.RelativePlacement = model.axes((10, 20, 3.2))
    model.space("1.01", model.prism(BOX, 3.0), at=(5, 1, 0.1), turn=turn)
    made = reading(model)
    (space,) = made.spaces
    assert made.storeys[0].elevation_m == pytest.approx(3.2)
    assert space.level == pytest.approx(3.3)
    ring = np.array(space.rings[0])
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    middle = np.array([15 + c * 3 - s * 2, 21 + s * 3 + c * 2])
    assert (ring.min(axis=0) + ring.max(axis=0)) / 2 == pytest.approx(middle, abs=1e-3)
    assert space.volume_m3 == pytest.approx(72.0)


def test_a_room_under_a_slope_keeps_its_volume(reading: Any) -> None:
    """Given by its faces: no prism, so its faces stay as they are."""
    low, high = (
        [(0.0, 0.0, 0.0), (6.0, 0.0, 0.0), (6.0, 4.0, 0.0), (0.0, 4.0, 0.0)],
        [(0.0, 0.0, 2.0), (6.0, 0.0, 2.0), (6.0, 4.0, 4.0), (0.0, 4.0, 4.0)],
    )
    walls = [[low[i], low[(i + 1) % 4], high[(i + 1) % 4], high[i]] for i in range(4)]
    model = Model()
    model.space("1.01", model.faceted([low[::-1], high, *walls]))
    received = reading(model)
    (space,) = received.spaces
    assert (space.closed, space.rings) == (True, [])
    assert space.volume_m3 == pytest.approx(72.0)
    _, building, _ = settled(received)
    slope = next(f for f in building.faces if f.kind == "ceiling")
    assert slope.area == pytest.approx(6 * math.hypot(4, 2))


def test_a_room_that_lacks_a_face_says_where(reading: Any) -> None:
    low, high = (
        [(0.0, 0.0, 0.0), (6.0, 0.0, 0.0), (6.0, 4.0, 0.0), (0.0, 4.0, 0.0)],
        [(0.0, 0.0, 3.0), (6.0, 0.0, 3.0), (6.0, 4.0, 3.0), (0.0, 4.0, 3.0)],
    )
    walls = [[low[i], low[(i + 1) % 4], high[(i + 1) % 4], high[i]] for i in range(4)]
    model = Model()
    model.space("0.01", model.faceted([low[::-1], *walls]))
    received = reading(model)
    (found,) = received.findings
    assert (found.code, found.mended) == ("space-not-closed", True)
    assert {round(z, 3) for loop in found.loops for _, _, z in loop} == {3.0}
    assert received.spaces[0].volume_m3 == pytest.approx(72.0)


@pytest.mark.parametrize(("direction", "north"), [((0.0, 1.0), 0.0), ((-0.5, math.sqrt(0.75)), 30.0), ((1.0, 0.0), -90.0)])
def test_true_north_is_the_azimuth_of_the_drawings_top(reading: Any, direction: tuple[float, float], north: float) -> None:
    model = Model()
    model.context.TrueNorth = model.make("IfcDirection", direction)
    model.space("0.01", model.prism(BOX, 3.0))
    assert reading(model).true_north_deg == pytest.approx(north, abs=1e-3)


def test_latitude_and_longitude_of_the_site(reading: Any) -> None:
    model = Model()
    model.site.RefLatitude, model.site.RefLongitude, model.site.RefElevation = (54, 30, 36, 0), (-3, -15, 0, 0), 12.5
    model.space("0.01", model.prism(BOX, 3.0))
    made = reading(model)
    assert (made.latitude_deg, made.longitude_deg, made.elevation_m) == pytest.approx((54.51, -3.25, 12.5))


def test_properties_reach_the_sift_and_the_walls_side(reading: Any) -> None:
    model = Model()
    space = model.space("0.01", model.prism(BOX, 3.0))
    model.says(space, "Pset_SpaceCommon", Category="Archive", IsExternal=False)
    wall = model.thing("IfcWall", "W-1", model.prism([(0, -0.3), (6, -0.3), (6, 0), (0, 0)], 3.0))
    model.says(wall, "Pset_WallCommon", IsExternal=True, ThermalTransmittance=0.24)
    made = reading(model)
    assert made.spaces[0].properties["Pset_SpaceCommon.Category"] == "Archive"
    (element,) = made.elements
    assert (element.external, element.u_value) == (True, pytest.approx(0.24))


def test_things_without_form_are_listed_and_break_nothing(reading: Any) -> None:
    model = Model()
    model.space("0.01", model.prism(BOX, 3.0))
    model.space("0.02")
    model.thing("IfcWall", "ghost")
    made = reading(model)
    assert [(s.number, s.closed) for s in made.spaces] == [("0.01", True), ("0.02", False)]
    _, building, said = settled(made)
    assert len(building.zones) == 1
    assert "space-without-form" in [r["code"] for r in said["remarks"]]


@pytest.mark.parametrize("ring", [[(0, 0), (6, 0)], [(0, 0), (6, 0), (3, 0)], [(0, 0), (0, 0), (0, 0)]])
def test_a_form_without_extent_is_a_remark_and_no_crash(reading: Any, ring: list[tuple[float, float]]) -> None:
    model = Model()
    model.space("0.01", model.prism(BOX, 3.0))
    model.space("0.02", model.prism(ring, 3.0))
    made = reading(model)
    bad = next(s for s in made.spaces if s.number == "0.02")
    assert not bad.closed or bad.volume_m3 < 0.01
    _, building, said = settled(made)
    assert len(building.zones) == 1
    assert [s["kept"] for s in said["spaces"] if s["number"] == "0.02"] == [False]


def test_a_model_without_anything_to_stand_on_is_told(reading: Any, tmp_path: Path) -> None:
    model = Model()
    model.thing("IfcFurniture", "chair", model.prism([(0, 0), (1, 0), (1, 1), (0, 1)], 1.0))
    with pytest.raises(EurythmError) as fault:
        settled(reading(model))
    assert fault.value.code
    assert len(fault.value.message) > 20


def test_a_room_in_no_storey_goes_to_the_nearest(reading: Any) -> None:
    model = Model()
    model.space("0.01", model.prism(BOX, 3.0))
    model.space("0.02", model.prism(BOX, 3.0), at=(8, 0, 0), storey=False)
    bundle, _, said = settled(reading(model))
    assert "space-outside-storey" in [r["code"] for r in said["remarks"]]
    assert {z.storey for z in bundle.scheme.zones} == {"Ground floor"}


def test_layers_and_their_side_make_a_construction(reading: Any) -> None:
    model = Model()
    model.space("0.01", model.prism(BOX, 3.0))
    wall = model.thing("IfcWall", "W-1", model.prism([(0, 0), (6, 0), (6, 0.3), (0, 0.3)], 3.0), at=(0, -0.3, 0))
    model.says(wall, "Pset_WallCommon", IsExternal=True)
    sheets = []
    for name, thick, conductivity in (("Brick", 0.12, 0.8), ("Wool", 0.18, 0.035)):
        material = model.make("IfcMaterial", name)
        model.make("IfcMaterialProperties", Name="Pset_MaterialThermal", Material=material, Properties=[model.make("IfcPropertySingleValue", "ThermalConductivity", None, model.make("IfcReal", conductivity), None)])  # fmt: skip
        sheets.append(model.make("IfcMaterialLayer", material, thick))
    usage = model.make("IfcMaterialLayerSetUsage", model.make("IfcMaterialLayerSet", sheets, "AW"), "AXIS2", "POSITIVE", 0.0)
    model.root("IfcRelAssociatesMaterial", RelatedObjects=[wall], RelatingMaterial=usage)
    received = reading(model)
    (construction,) = received.constructions
    assert [(la.name, la.thickness_m, la.conductivity) for la in construction.layers] == [("Brick", 0.12, 0.8), ("Wool", 0.18, 0.035)]
    assert received.elements[0].inward == (0.0, 1.0, 0.0)
    bundle, building, _ = settled(received)
    (own,) = bundle.library.constructions
    assert [la.thickness_m for la in own.layers] == [0.12, 0.18]  # from outside to inside, as the room lies to the north of it
    south = next(f for f in building.faces if f.kind == "wall" and f.normal[1] < -0.9)
    assert south.construction == own.id


def test_a_model_without_a_project_or_of_another_schema_is_refused(tmp_path: Path) -> None:
    empty = ifcopenshell.file(schema="IFC4")
    empty.write(str(tmp_path / "empty.ifc"))
    with pytest.raises(EurythmError) as fault:
        read_ifc(tmp_path / "empty.ifc", "empty.ifc")
    assert fault.value.code == "ifc-empty"
    (tmp_path / "words.ifc").write_bytes(b"just words")
    with pytest.raises(EurythmError) as fault:
        read_ifc(tmp_path / "words.ifc", "words.ifc")
    assert fault.value.code == "not-ifc"


def test_rooms_across_a_wall_are_neighbours_and_windows_go_to_their_room(reading: Any) -> None:
    model = Model()
    model.space("0.01", model.prism(BOX, 3.0))
    model.space("0.02", model.prism(BOX, 3.0), at=(6.2, 0, 0))
    pane = model.prism([(1, -0.25), (3, -0.25), (3, -0.05), (1, -0.05)], 1.5)
    model.thing("IfcWindow", "F-1", pane, at=(0, 0, 0.9), OverallWidth=2.0, OverallHeight=1.5)
    _, building, said = settled(reading(model))
    assert said["adjacency"][0]["area_m2"] == pytest.approx(12.0, rel=1e-3)
    (face,) = [f for f in building.faces if f.windows]
    assert face.normal[1] == pytest.approx(-1.0)
    assert sum(w.width * w.height for w in face.windows) == pytest.approx(3.0, rel=1e-3)
    assert said["orientation"]["S"]["window_m2"] == pytest.approx(3.0, rel=1e-3)


def parted(model: Model, by: str) -> None:
    """Three rooms in a row; between the first two nothing but a virtual boundary, told in one of the ways that there are."""
    rooms = [model.space(f"0.0{k + 1}", model.prism(BOX, 3.0), at=(6.0 * k, 0.0, 0.0)) for k in range(3)]
    entity = "IfcRelSpaceBoundary2ndLevel" if by == "counterparts" else "IfcRelSpaceBoundary"
    element = model.thing("IfcVirtualElement", "parting") if by == "element" else None
    shared = {"InternalOrExternalBoundary": "INTERNAL", "RelatedBuildingElement": element}
    virtual = {"PhysicalOrVirtualBoundary": "PHYSICAL" if by == "element" else "VIRTUAL"}
    made = [model.root(entity, RelatingSpace=room, **shared, **virtual) for room in rooms[:2]]
    if by == "counterparts":
        made[0].CorrespondingBoundary, made[1].CorrespondingBoundary = made[1], made[0]


@pytest.mark.parametrize(
    ("schema", "by"), [("IFC4", "counterparts"), ("IFC4X3", "counterparts"), ("IFC4", "element"), ("IFC2X3", "element")]
)
def test_rooms_that_only_a_virtual_boundary_parts_are_one_zone(reading: Any, schema: str, by: str) -> None:
    model = Model(schema)
    parted(model, by)
    bundle, building, said = settled(reading(model))
    (group,) = bundle.scheme.merged
    assert set(group.zones) == {"0.01", "0.02"}
    assert len(building.zones) == 2
    (contact,) = [f for f in building.faces if f.boundary == "zone"]
    assert contact.area == pytest.approx(12.0)
    (open_face,) = building.inner
    assert open_face.air
    assert open_face.area == pytest.approx(12.0)
    assert [r["code"] for r in said["remarks"] if r["code"].startswith("open")] == ["open-to-each-other"]


def test_a_virtual_boundary_without_a_counterpart_joins_nothing(reading: Any) -> None:
    model = Model("IFC4")
    parted(model, "nobody knows")
    bundle, building, _ = settled(reading(model))
    assert bundle.scheme.merged == ()
    assert len(building.zones) == 3


HIGH = 3.0
WAYS = {
    "floor": [(0, 0, 0), (0, 4, 0), (6, 4, 0), (6, 0, 0)],
    "roof": [(0, 0, HIGH), (6, 0, HIGH), (6, 4, HIGH), (0, 4, HIGH)],
    **{
        f"wall {k + 1}": [(*a, 0.0), (*b, 0.0), (*b, HIGH), (*a, HIGH)]
        for k, (a, b) in enumerate(zip(BOX, [*BOX[1:], BOX[0]], strict=True))
    },
}
"""Faces of a room of 6 by 4 m, counter-clockwise seen from outside."""


def surface(model: Model, loop: list[tuple[float, ...]], how: str) -> Any:
    """A boundary's surface as programs write it: a plane within a curve of points or of indices, or a line that is extruded."""
    corners = np.array(loop, dtype=float)
    along = (corners[1] - corners[0]) / np.linalg.norm(corners[1] - corners[0])
    normal = np.cross(corners[1] - corners[0], corners[2] - corners[1])
    normal = normal / np.linalg.norm(normal)
    direction = lambda v: model.make("IfcDirection", [float(c) for c in v])  # noqa: E731
    frame = model.make("IfcAxis2Placement3D", model.point(*loop[0]), direction(normal), direction(along))
    away = corners - corners[0]
    flat = np.column_stack([away @ along, away @ np.cross(normal, along)])
    if how == "extruded" and abs(normal[2]) < 0.5:
        line = model.make("IfcPolyline", [model.point(0, 0), model.point(float(flat[1][0]), 0)])
        profile = model.make("IfcArbitraryOpenProfileDef", "CURVE", None, line)
        upright = model.make("IfcAxis2Placement3D", model.point(*loop[0]), direction((0, 0, 1)), direction(along))
        return model.make("IfcSurfaceOfLinearExtrusion", profile, upright, direction((0, 0, 1)), HIGH * model.scale)
    if how == "indexed":
        points = model.make("IfcCartesianPointList2D", [[float(c) * model.scale for c in p] for p in [*flat, flat[0]]])
        curve = model.make("IfcIndexedPolyCurve", points)
    elif how == "curved":
        curve = model.make("IfcCircle", model.make("IfcAxis2Placement2D", model.point(0, 0)), 1.0 * model.scale)
    else:
        curve = model.make("IfcPolyline", [model.point(*map(float, p)) for p in [*flat, flat[0]]])
    return model.make("IfcCurveBoundedPlane", model.make("IfcPlane", frame), curve, [])


def bounded(how: str, sides: dict[str, str], schema: str = "IFC4", prefix: str | None = None) -> tuple[Model, Any, dict[str, Any]]:
    """A room with second-level boundaries all around; `sides` says what lies beyond where it is not outside air."""
    model = Model(schema, prefix)
    room = model.space("0.01", model.prism(BOX, HIGH))
    made = {}
    for name, loop in WAYS.items():
        geometry = model.make("IfcConnectionSurfaceGeometry", surface(model, loop, how))
        entity = "IfcRelSpaceBoundary" if schema == "IFC2X3" else "IfcRelSpaceBoundary2ndLevel"
        made[name] = model.root(
            entity, Name="2ndLevel", RelatingSpace=room, ConnectionGeometry=geometry, PhysicalOrVirtualBoundary="PHYSICAL",
            RelatedBuildingElement=model.thing("IfcWall" if "wall" in name else "IfcSlab", name), InternalOrExternalBoundary=sides.get(name, "EXTERNAL"),
        )  # fmt: skip
    return model, room, made


@pytest.mark.parametrize("how", ["points", "indexed", "extruded"])
@pytest.mark.parametrize("prefix", [None, "MILLI"])
def test_boundaries_of_the_file_are_the_faces_of_the_room(reading: Any, how: str, prefix: str | None) -> None:
    model, _, _ = bounded(how, {"floor": "EXTERNAL_EARTH"}, prefix=prefix)
    (space,) = reading(model).spaces
    assert sorted(f.boundary for f in space.faces) == ["ground", *["outdoors"] * 5]
    _, building, said = settled(reading(model))
    assert sorted(round(f.area, 2) for f in building.faces) == [12.0, 12.0, 18.0, 18.0, 24.0, 24.0]
    assert building.zones[0].gross_volume == pytest.approx(72.0)
    assert (said["ground_m2"], said["roof_m2"]) == pytest.approx((24.0, 24.0))


def test_boundaries_in_the_older_schema_are_known_by_their_name(reading: Any) -> None:
    model, _, _ = bounded("points", {"wall 2": "INTERNAL"}, schema="IFC2X3")
    (space,) = reading(model).spaces
    assert [f.boundary for f in space.faces].count("outdoors") == 4  # what lies behind the sixth, and under the floor, is found by contact
    assert [f.boundary for f in space.faces].count(None) == 2


def test_a_floor_that_is_called_external_lies_on_the_ground_where_it_does(reading: Any) -> None:
    """The older schema has one word for air and ground; the floor at ground level loses to the ground, one in the air outdoors."""
    received = reading(bounded("points", {}, schema="IFC2X3")[0])
    scheme = settle(received, Sift(), {"id": "t", "name": "T"}, Place()).scheme
    under = {ground: next(f.boundary for f in make_building(scheme, ground).faces if f.kind == "floor") for ground in (0.0, -3.0)}
    assert under == {0.0: "ground", -3.0: "outdoors"}


def test_a_curved_or_missing_boundary_leaves_all_to_the_rooms_own_form(reading: Any) -> None:
    whole = reading(bounded("points", {})[0]).spaces[0]
    curved = reading(bounded("curved", {})[0]).spaces[0]
    model, _, made = bounded("points", {})
    model.file.remove(made["wall 3"])
    holey = reading(model).spaces[0]
    assert {f.boundary for f in whole.faces} == {"outdoors", None}  # all but the floor
    for space in (curved, holey):
        assert {f.boundary for f in space.faces} <= {None}
        assert space.volume_m3 == pytest.approx(72.0)


@pytest.mark.parametrize("told", [True, False])
def test_a_window_goes_to_its_parent_boundary_or_where_it_lies(reading: Any, told: bool) -> None:
    model, room, made = bounded("points", {})
    pane = [(1.0, 0.0, 1.0), (3.0, 0.0, 1.0), (3.0, 0.0, 2.5), (1.0, 0.0, 2.5)]
    window = model.thing("IfcWindow", "South window")
    model.root(
        "IfcRelSpaceBoundary2ndLevel", Name="2ndLevel", RelatingSpace=room, RelatedBuildingElement=window, PhysicalOrVirtualBoundary="PHYSICAL",
        InternalOrExternalBoundary="EXTERNAL", ConnectionGeometry=model.make("IfcConnectionSurfaceGeometry", surface(model, pane, "points")),
        ParentBoundary=made["wall 1"] if told else None,
    )  # fmt: skip
    (space,) = reading(model).spaces
    hosts = [f for f in space.faces if f.holes]
    assert [(h.name, h.kind) for f in hosts for h in f.holes] == [("South window", "window")]
    assert {c[1] for c in hosts[0].loop} == {0.0}  # the wall at y = 0
    _, building, said = settled(reading(model))
    assert sum(w.area for f in building.faces for w in f.windows) == pytest.approx(3.0)
    assert said["orientation"]["S"]["window_m2"] == pytest.approx(3.0)


def test_glass_by_its_own_values_and_use_by_the_rooms_own_words(reading: Any) -> None:
    """g, light and panes of a window, the use and people of a room; what is not known is told."""
    model = Model()
    office = model.space("0.01", model.prism(BOX, 3.0), LongName="North")
    lab = model.space("0.02", model.prism(BOX, 3.0), at=(12, 0, 0), LongName="South")
    model.says(office, "Pset_SpaceOccupancyRequirements", OccupancyType="Office work", AreaPerOccupant=8.0)
    model.says(lab, "Pset_SpaceOccupancyRequirements", OccupancyType="Clean room")
    pane = model.prism([(1, -0.25), (3, -0.25), (3, -0.05), (1, -0.05)], 1.5)
    window = model.thing("IfcWindow", "F-1", pane, at=(0, 0, 0.9), OverallWidth=2.0, OverallHeight=1.5)
    model.says(window, "Pset_WindowCommon", ThermalTransmittance=1.0, GlazingAreaFraction=0.8)
    model.says(window, "Pset_DoorWindowGlazingType", SolarHeatGainTransmittance=0.35, VisibleLightTransmittance=0.62)
    bundle, building, said = settled(reading(model))
    (glass,) = bundle.library.glazings
    assert (glass.u_value, glass.g_value, glass.visible, glass.frame_share) == (1.0, 0.35, 0.62, 0.2)
    assert glass.source == "U, g and light read from the file"
    assert [w.glazing for f in building.faces for w in f.windows] == [glass.id]
    by_id = {z.id: z for z in bundle.scheme.zones}
    (people,) = bundle.library.profiles
    assert by_id["0.01"].profile == people.id
    assert people.person_area == 8.0
    assert by_id["0.02"].profile is None
    (told,) = [r for r in said["remarks"] if r["code"] == "use-not-known"]
    assert "Clean room" in told["sentence"]
