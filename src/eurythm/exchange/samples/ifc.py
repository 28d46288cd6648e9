"""The court sample as IFC, with clutter and planted faults, in any schema from IFC2x3 to IFC4x3."""

from __future__ import annotations

import math
import uuid
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.guid

from eurythm.exchange.samples import court
from eurythm.exchange.samples.court import (
    CELLS,
    CLEAR,
    COURT,
    DEPTH,
    INNER,
    LENGTH,
    NORTH_DEG,
    OUT,
    OUTER,
    SLAB,
    STOREY,
    Cell,
    Opening,
    Room,
    Stretch,
)  # fmt: skip

Corner = tuple[float, float, float]
MATERIALS: dict[str, tuple[float, float, float]] = {
    "Brick": (0.81, 1700, 840), "Mineral wool": (0.035, 40, 1030), "Concrete": (2.1, 2400, 1000), "Lime plaster": (0.7, 1400, 1000),
    "Plasterboard": (0.25, 900, 1000), "Screed": (1.4, 2000, 1000), "Rigid insulation": (0.03, 30, 1400),
}  # fmt: skip
"""Conductivity W/mK, density kg/m³, specific heat J/kgK."""
LAYERS: dict[str, tuple[tuple[str, float], ...]] = {
    "AW-1 brick": (("Brick", 0.115), ("Mineral wool", 0.12), ("Concrete", 0.15), ("Lime plaster", 0.015)),
    "IW-1 plasterboard": (("Plasterboard", 0.025), ("Mineral wool", 0.10), ("Plasterboard", 0.025)),
    "GF-1 ground slab": (("Rigid insulation", 0.10), ("Concrete", 0.20), ("Screed", 0.05)),
    "IF-1 floor slab": (("Concrete", 0.28), ("Screed", 0.07)),
    "RO-1 roof": (("Concrete", 0.22), ("Rigid insulation", 0.18)),
}
"""Walls from outside to inside, slabs from below to above."""
FAULTS: dict[str, int] = {
    "doubled-object": 1, "space-overlaps": 2, "space-without-name": 1, "space-not-closed": 1, "space-tiny": 1, "space-outside-storey": 1,
    "wall-without-side": 3, "window-without-wall": 1,
}  # fmt: skip
"""Codes of the planted faults and how many of each an import must name."""


@dataclass(frozen=True)
class Options:
    """What the sample is written with: schema, unit of length, storeys, shift of the origin, clutter and faults."""

    schema: str = "IFC4"
    millimetres: bool = False
    storeys: int = 2
    shift: tuple[float, float] = (0.0, 0.0)
    clutter: bool = True
    faults: bool = True
    lintel: float = 0.0
    """Added to the windows' width, for a later state of the same model."""


def write_court(path: Path, options: Options | None = None) -> None:
    """Write the sample to a file."""
    _Writer(options or Options()).written().write(str(path))


class _Writer:
    def __init__(self, options: Options) -> None:
        self.options = options
        self.file = ifcopenshell.file(schema=options.schema)
        self.file.header.file_name.time_stamp = "2026-01-01T00:00:00"  # the same file each time
        self.scale = 1000.0 if options.millimetres else 1.0
        self.named = 0
        self.history = None
        self.layer_sets: dict[str, Any] = {}
        self.walls: dict[tuple[str, str, int], Any] = {}

    def make(self, entity: str, *values: Any, **attributes: Any) -> Any:
        return self.file.create_entity(entity, *values, **attributes)

    def root(self, entity: str, key: str, **attributes: Any) -> Any:
        guid = ifcopenshell.guid.compress(uuid.uuid5(uuid.NAMESPACE_URL, f"eurythm/court/{key}").hex)
        return self.make(entity, GlobalId=guid, OwnerHistory=self.history, **attributes)

    def point(self, *xyz: float) -> Any:
        return self.make("IfcCartesianPoint", Coordinates=[float(c) * self.scale for c in xyz])

    def direction(self, *xyz: float) -> Any:
        return self.make("IfcDirection", DirectionRatios=[float(c) for c in xyz])

    def axes(self, at: Corner = (0, 0, 0), x: Corner = (1, 0, 0)) -> Any:
        return self.make("IfcAxis2Placement3D", Location=self.point(*at), Axis=self.direction(0, 0, 1), RefDirection=self.direction(*x))

    def placed(self, at: Corner, x: Corner = (1, 0, 0), within: Any = None) -> Any:
        return self.make("IfcLocalPlacement", PlacementRelTo=within, RelativePlacement=self.axes(at, x))

    def body(self, *items: Any, kind: str = "SweptSolid") -> Any:
        shape = self.make(
            "IfcShapeRepresentation",
            ContextOfItems=self.context,
            RepresentationIdentifier="Body",
            RepresentationType=kind,
            Items=list(items),
        )
        return self.make("IfcProductDefinitionShape", Representations=[shape])

    def block(self, x0: float, y0: float, x1: float, y1: float, height: float, z: float = 0.0) -> Any:
        """A rectangle in plan pulled up by its height."""
        middle = self.make("IfcAxis2Placement2D", Location=self.point((x0 + x1) / 2, (y0 + y1) / 2))
        profile = self.make(
            "IfcRectangleProfileDef", ProfileType="AREA", Position=middle, XDim=(x1 - x0) * self.scale, YDim=(y1 - y0) * self.scale
        )
        return self.make(
            "IfcExtrudedAreaSolid", SweptArea=profile, Position=self.axes((0, 0, z)), ExtrudedDirection=self.direction(0, 0, 1), Depth=height * self.scale
        )  # fmt: skip

    def pulled(self, corners: Sequence[tuple[float, float]], height: float, holes: Iterable[Sequence[tuple[float, float]]] = ()) -> Any:
        """Any outline in plan pulled up by its height."""

        def line(points: Sequence[tuple[float, float]]) -> Any:
            return self.make("IfcPolyline", Points=[self.point(*p) for p in [*points, points[0]]])

        inner = [line(h) for h in holes]
        kind = "IfcArbitraryProfileDefWithVoids" if inner else "IfcArbitraryClosedProfileDef"
        more = {"InnerCurves": inner} if inner else {}
        profile = self.make(kind, ProfileType="AREA", OuterCurve=line(corners), **more)
        return self.make(
            "IfcExtrudedAreaSolid", SweptArea=profile, Position=self.axes(), ExtrudedDirection=self.direction(0, 0, 1), Depth=height * self.scale
        )  # fmt: skip

    def properties(self, thing: Any, name: str, **values: Any) -> None:
        kinds = {bool: "IfcBoolean", float: "IfcReal", str: "IfcLabel"}
        singles = [self.make("IfcPropertySingleValue", Name=n, NominalValue=self.make(kinds[type(v)], v)) for n, v in values.items()]
        self.named += 1
        held = self.root("IfcPropertySet", f"set {self.named}", Name=name, HasProperties=singles)
        self.root("IfcRelDefinesByProperties", f"defines {self.named}", RelatedObjects=[thing], RelatingPropertyDefinition=held)

    def written(self) -> Any:
        self._frame()
        for name, layers in LAYERS.items():
            made = [self.make("IfcMaterialLayer", Material=self._material(m), LayerThickness=t * self.scale) for m, t in layers]
            self.layer_sets[name] = self.make("IfcMaterialLayerSet", MaterialLayers=made, LayerSetName=name)
        self._spaces()
        self._walls()
        self._slabs()
        self._openings()
        if self.options.clutter:
            self._clutter()
        if self.options.faults:
            self._faults()
        return self.file

    def _frame(self) -> None:
        person = self.make("IfcPerson", FamilyName="Drawing office")
        firm = self.make("IfcOrganization", Name="Sample office")
        both = self.make("IfcPersonAndOrganization", ThePerson=person, TheOrganization=firm)
        program = self.make(
            "IfcApplication", ApplicationDeveloper=firm, Version="1", ApplicationFullName="Sample writer", ApplicationIdentifier="sample"
        )
        self.history = self.make("IfcOwnerHistory", OwningUser=both, OwningApplication=program, ChangeAction="ADDED", CreationDate=0)
        length = {"Prefix": "MILLI"} if self.options.millimetres else {}
        units = [
            self.make("IfcSIUnit", UnitType="LENGTHUNIT", Name="METRE", **length),
            self.make("IfcSIUnit", UnitType="AREAUNIT", Name="SQUARE_METRE"),
            self.make("IfcSIUnit", UnitType="VOLUMEUNIT", Name="CUBIC_METRE"),
            self.make("IfcSIUnit", UnitType="PLANEANGLEUNIT", Name="RADIAN"),
        ]
        bearing = math.radians(-NORTH_DEG)
        self.context = self.make(
            "IfcGeometricRepresentationContext", ContextType="Model", CoordinateSpaceDimension=3, Precision=1e-5,
            WorldCoordinateSystem=self.axes(), TrueNorth=self.direction(math.sin(bearing), math.cos(bearing)),
        )  # fmt: skip
        project = self.root(
            "IfcProject", "project", Name="Merrowhaven Library", RepresentationContexts=[self.context],
            UnitsInContext=self.make("IfcUnitAssignment", Units=units),
        )  # fmt: skip
        self.site_place = self.placed((*self.options.shift, 0.0))
        site = self.root(
            "IfcSite", "site", Name="Rope Quay", CompositionType="ELEMENT", ObjectPlacement=self.site_place,
            RefLatitude=_sexagesimal(court.LATITUDE), RefLongitude=_sexagesimal(court.LONGITUDE), RefElevation=4.0 * self.scale,
        )  # fmt: skip
        self.building = self.root(
            "IfcBuilding",
            "building",
            Name="Library",
            CompositionType="ELEMENT",
            ObjectPlacement=self.placed((0, 0, 0), within=self.site_place),
        )
        self.places = [self.placed((0, 0, s * STOREY), within=self.building.ObjectPlacement) for s in range(self.options.storeys)]
        self.storeys = [
            self.root(
                "IfcBuildingStorey",
                f"storey {s}",
                Name=f"Storey {s}",
                CompositionType="ELEMENT",
                ObjectPlacement=place,
                Elevation=s * STOREY * self.scale,
            )
            for s, place in enumerate(self.places)
        ]
        for parent, parts in ((project, [site]), (site, [self.building]), (self.building, self.storeys)):
            self.root("IfcRelAggregates", f"parts of {parent.Name} {parent.is_a()}", RelatingObject=parent, RelatedObjects=parts)
        self.held: dict[int, list[Any]] = {s: [] for s in range(self.options.storeys)}
        self.inside = [
            self.root("IfcRelContainedInSpatialStructure", f"in storey {s}", RelatingStructure=storey, RelatedElements=[])
            for s, storey in enumerate(self.storeys)
        ]

    def hold(self, storey: int, *things: Any) -> None:
        """Put things into a storey."""
        self.held[storey] += things
        self.inside[storey].RelatedElements = self.held[storey]

    def _material(self, name: str) -> Any:
        found = next((m for m in self.file.by_type("IfcMaterial") if m.Name == name), None)
        if found is not None:
            return found
        made = self.make("IfcMaterial", Name=name)
        conductivity, density, heat = MATERIALS[name]
        if self.options.schema == "IFC2X3":
            self.make("IfcThermalMaterialProperties", Material=made, SpecificHeatCapacity=heat, ThermalConductivity=conductivity)
            self.make("IfcGeneralMaterialProperties", Material=made, MassDensity=density)
        else:
            for group, values in (
                ("Pset_MaterialThermal", {"ThermalConductivity": ("IfcThermalConductivityMeasure", conductivity), "SpecificHeatCapacity": ("IfcSpecificHeatCapacityMeasure", heat)}),
                ("Pset_MaterialCommon", {"MassDensity": ("IfcMassDensityMeasure", density)}),
            ):  # fmt: skip
                singles = [self.make("IfcPropertySingleValue", Name=n, NominalValue=self.make(kind, v)) for n, (kind, v) in values.items()]
                self.make("IfcMaterialProperties", Name=group, Properties=singles, Material=made)
        return made

    def clad(self, thing: Any, name: str, direction: str, sense: str = "POSITIVE") -> None:
        """Give a thing its layers: from its reference line or plane onward."""
        use = self.make(
            "IfcMaterialLayerSetUsage",
            ForLayerSet=self.layer_sets[name],
            LayerSetDirection=direction,
            DirectionSense=sense,
            OffsetFromReferenceLine=0.0,
        )
        self.named += 1
        self.root("IfcRelAssociatesMaterial", f"material {self.named}", RelatedObjects=[thing], RelatingMaterial=use)

    def _spaces(self) -> None:
        faults = self.options.faults
        by_storey: dict[int, list[Any]] = {s: [] for s in range(self.options.storeys)}
        for room in court.rooms(self.options.storeys):
            c = room.cell
            key = (room.storey, c.key)
            if faults and key == court.UNCLOSED:
                body = self.body(self._open_box(c), kind="SurfaceModel")
            else:
                body = self.body(self.block(c.x0, c.y0, c.x1, c.y1, CLEAR))
            name = room.name if faults else c.name
            space = self._space(f"space {room.number}", room.number, name or None, c.use, room.storey, body)
            self.properties(space, "Pset_SpaceCommon", IsExternal=False)
            if faults and key == court.OUTSIDE:
                self.root("IfcRelAggregates", "loose space", RelatingObject=self.building, RelatedObjects=[space])
            else:
                by_storey[room.storey].append(space)
        for s, spaces in by_storey.items():
            self.root("IfcRelAggregates", f"spaces of storey {s}", RelatingObject=self.storeys[s], RelatedObjects=spaces)

    def _space(self, key: str, number: str, name: str | None, use: str | None, storey: int, body: Any) -> Any:
        inner = {"InteriorOrExteriorSpace": "INTERNAL"} if self.options.schema == "IFC2X3" else {"PredefinedType": "INTERNAL"}
        place = self.placed((0, 0, 0), within=self.places[storey])
        return self.root(
            "IfcSpace",
            key,
            Name=number,
            LongName=name,
            ObjectType=use,
            CompositionType="ELEMENT",
            ObjectPlacement=place,
            Representation=body,
            **inner,
        )

    def _open_box(self, c: Cell) -> Any:
        """A room's faces as a surface without its east side: a space that does not close."""
        a, b, d, e = (c.x0, c.y0), (c.x1, c.y0), (c.x1, c.y1), (c.x0, c.y1)
        low, high = [(*p, 0.0) for p in (a, b, d, e)], [(*p, CLEAR) for p in (a, b, d, e)]
        loops = [low[::-1], high, *([low[k], low[(k + 1) % 4], high[(k + 1) % 4], high[k]] for k in (0, 2, 3))]
        faces = [
            self.make("IfcFace", Bounds=[self.make("IfcFaceOuterBound", Bound=self.make("IfcPolyLoop", Polygon=[self.point(*p) for p in loop]), Orientation=True)])
            for loop in loops
        ]  # fmt: skip
        return self.make("IfcFaceBasedSurfaceModel", FbsmFaces=[self.make("IfcConnectedFaceSet", CfsFaces=faces)])

    def _wall(self, key: str, name: str, start: tuple[float, float], x: Corner, long: float, thick: float, storey: int) -> Any:
        """A wall from its start along x, its thickness to the left of that."""
        kind = "IfcWallStandardCase" if self.options.schema == "IFC2X3" else "IfcWall"
        place = self.placed((*start, 0.0), x, self.places[storey])
        wall = self.root(
            kind, key, Name=name, ObjectPlacement=place, Representation=self.body(self.block(0, 0, long, thick, CLEAR)), Tag=key
        )
        self.hold(storey, wall)
        return wall

    def _walls(self) -> None:
        unsaid = 0
        for s in court.stretches(self.options.storeys):
            rim = INNER / 2
            wall = self._wall(
                f"wall {s.room.number} {s.side}", "Outside wall", *_along(s, s.start - rim, s.end + rim), OUTER, s.room.storey
            )
            self.clad(wall, "AW-1 brick", "AXIS2")
            if self.options.faults and s.court and unsaid < FAULTS["wall-without-side"]:
                unsaid += 1
            else:
                self.properties(wall, "Pset_WallCommon", IsExternal=True, Reference="AW-1")
            self.walls[s.room.number, s.side, 0] = wall
        for storey in range(self.options.storeys):
            for a, b, _ in court.party_walls():
                if abs(max(a.x0, b.x0) - min(a.x1, b.x1) - INNER) < 1e-6:
                    x, y0, y1 = max(a.x0, b.x0), max(a.y0, b.y0), min(a.y1, b.y1)
                    start, along, long = (x, y0), (0.0, 1.0, 0.0), y1 - y0
                else:
                    y, x0, x1 = min(a.y1, b.y1), max(a.x0, b.x0), min(a.x1, b.x1)
                    start, along, long = (x0, y), (1.0, 0.0, 0.0), x1 - x0
                wall = self._wall(f"partition {storey}.{a.key}-{b.key}", "Partition", start, along, long, INNER, storey)
                self.clad(wall, "IW-1 plasterboard", "AXIS2")
                self.properties(wall, "Pset_WallCommon", IsExternal=False, Reference="IW-1")
                self._door(wall, f"{storey}.{a.key}-{b.key}", long, INNER, 0.9, 2.1, storey, outside=False)

    def _slabs(self) -> None:
        outline = [(0.0, 0.0), (LENGTH, 0.0), (LENGTH, DEPTH), (0.0, DEPTH)]
        x0, y0, x1, y1 = COURT
        hole = [(x0, y0), (x0, y1), (x1, y1), (x1, y0)]
        levels = [(0, -SLAB, "GF-1 ground slab", "BASESLAB")]
        levels += [(s, -SLAB, "IF-1 floor slab", "FLOOR") for s in range(1, self.options.storeys)]
        levels.append((self.options.storeys - 1, CLEAR, "RO-1 roof", "ROOF"))
        for number, (storey, z, layers, kind) in enumerate(levels):
            place = self.placed((0, 0, z), within=self.places[storey])
            body = self.body(self.pulled(outline, sum(t for _, t in LAYERS[layers]), [hole]))
            slab = self.root("IfcSlab", f"slab {number}", Name=layers, ObjectPlacement=place, Representation=body, PredefinedType=kind)
            self.hold(storey, slab)
            self.clad(slab, layers, "AXIS3")
            self.properties(slab, "Pset_SlabCommon", IsExternal=kind != "FLOOR")

    def _openings(self) -> None:
        for number, o in enumerate(court.openings(self.options.storeys)):
            s = o.stretch
            wall = self.walls[s.room.number, s.side, 0]
            (start, _, _) = _along(s, s.start - INNER / 2, s.end + INNER / 2)
            middle = abs(o.at - (start[0] if s.side in ("south", "north") else start[1]))
            wide = o.width + (self.options.lintel if o.kind == "window" else 0.0)
            if o.kind == "curtain":
                self._curtain(o, start, middle)
                continue
            hole = self._hole(wall, f"{number}", middle - wide / 2, o.sill, wide, o.height, OUTER)
            entity = "IfcWindow" if o.kind == "window" else "IfcDoor"
            place = self.placed((middle - wide / 2, 0.15, o.sill), within=wall.ObjectPlacement)
            pane = self.root(
                entity, f"opening {number}", Name="Window" if o.kind == "window" else "Outside door", ObjectPlacement=place,
                Representation=self.body(self.block(0, 0, wide, 0.08, o.height)), OverallWidth=wide * self.scale, OverallHeight=o.height * self.scale,
            )  # fmt: skip
            self.hold(s.room.storey, pane)
            group, u = ("Pset_WindowCommon", 1.1) if o.kind == "window" else ("Pset_DoorCommon", 1.6)
            self.properties(pane, group, IsExternal=True, ThermalTransmittance=u)
            self.root("IfcRelFillsElement", f"fills {number}", RelatingOpeningElement=hole, RelatedBuildingElement=pane)

    def _hole(self, wall: Any, key: str, x: float, z: float, wide: float, high: float, thick: float) -> Any:
        place = self.placed((x, 0, z), within=wall.ObjectPlacement)
        body = self.body(self.block(0, -0.05, wide, thick + 0.05, high))
        more = {} if self.options.schema == "IFC2X3" else {"PredefinedType": "OPENING"}
        hole = self.root("IfcOpeningElement", f"hole {key}", Name="Opening", ObjectPlacement=place, Representation=body, **more)
        self.root("IfcRelVoidsElement", f"voids {key}", RelatingBuildingElement=wall, RelatedOpeningElement=hole)
        return hole

    def _door(self, wall: Any, key: str, long: float, thick: float, wide: float, high: float, storey: int, outside: bool) -> None:
        at = (long - wide) / 2
        hole = self._hole(wall, f"door {key}", at, 0.0, wide, high, thick)
        place = self.placed((at, thick / 2 - 0.02, 0), within=wall.ObjectPlacement)
        door = self.root(
            "IfcDoor", f"door {key}", Name="Door", ObjectPlacement=place, Representation=self.body(self.block(0, 0, wide, 0.04, high)),
            OverallWidth=wide * self.scale, OverallHeight=high * self.scale,
        )  # fmt: skip
        self.properties(door, "Pset_DoorCommon", IsExternal=outside)
        self.hold(storey, door)
        self.root("IfcRelFillsElement", f"fills door {key}", RelatingOpeningElement=hole, RelatedBuildingElement=door)

    def _curtain(self, o: Opening, start: tuple[float, float], middle: float) -> None:
        s = o.stretch
        wall = self.walls[s.room.number, s.side, 0]
        self._hole(wall, f"curtain {s.room.number}", middle - o.width / 2, o.sill, o.width, o.height, OUTER)
        place = self.placed((middle - o.width / 2, 0.1, o.sill), within=wall.ObjectPlacement)
        body = self.body(self.block(0, 0, o.width, 0.12, o.height))
        glass = self.root("IfcCurtainWall", f"curtain {s.room.number}", Name="Foyer glazing", ObjectPlacement=place, Representation=body)
        self.properties(glass, "Pset_CurtainWallCommon", IsExternal=True, ThermalTransmittance=1.0)
        self.hold(s.room.storey, glass)

    def _thing(self, entity: str, key: str, name: str, storey: int, x: float, y: float, size: Corner, **more: Any) -> Any:
        place = self.placed((x, y, 0), within=self.places[storey])
        thing = self.root(
            entity, key, Name=name, ObjectPlacement=place, Representation=self.body(self.block(0, 0, size[0], size[1], size[2])), **more
        )
        self.hold(storey, thing)
        return thing

    def _clutter(self) -> None:
        furniture = "IfcFurnishingElement" if self.options.schema == "IFC2X3" else "IfcFurniture"
        lamp = "IfcFlowTerminal" if self.options.schema == "IFC2X3" else "IfcLightFixture"
        for room in court.rooms(self.options.storeys):
            c = room.cell
            for k in range(6):
                self._thing(furniture, f"table {room.number} {k}", "Table", room.storey, c.x0 + 0.6 + 0.8 * k, c.y0 + 1.0, (0.7, 1.2, 0.75))
            for k in range(2):
                self._thing(lamp, f"lamp {room.number} {k}", "Lamp", room.storey, c.x0 + 1 + k, c.y0 + 3, (0.3, 0.3, 0.1))
            self._thing("IfcColumn", f"column {room.number}", "Column", room.storey, c.x0 + 2.5, c.y1 - 2.5, (0.3, 0.3, CLEAR))
        for s in range(self.options.storeys):
            for k in range(4):
                self._thing("IfcRailing", f"railing {s} {k}", "Railing", s, 28.0 + k, 4.0, (0.05, 3.0, 0.9))
                self._thing("IfcBuildingElementProxy", f"plant {s} {k}", "Plant", s, 14.0 + 3 * k, 18.0, (0.4, 0.4, 1.2))
            self._thing("IfcStair", f"stair {s}", "Stair", s, 28.0, 4.0, (1.2, 4.0, STOREY))

    def _faults(self) -> None:
        first = next(s for s in court.stretches(1) if not s.court)
        rim = INNER / 2
        twin = self._wall("doubled wall", "Outside wall", *_along(first, first.start - rim, first.end + rim), OUTER, 0)
        self.clad(twin, "AW-1 brick", "AXIS2")
        self.properties(twin, "Pset_WallCommon", IsExternal=True, Reference="AW-1")
        x0, y0, x1, y1 = COURT
        outline = [(OUTER, OUTER), (LENGTH - OUTER, OUTER), (LENGTH - OUTER, DEPTH - OUTER), (OUTER, DEPTH - OUTER)]
        hole = [(x0 - OUTER, y0 - OUTER), (x0 - OUTER, y1 + OUTER), (x1 + OUTER, y1 + OUTER), (x1 + OUTER, y0 - OUTER)]
        extra: dict[int, list[Any]] = {}
        for s in range(min(2, self.options.storeys)):
            body = self.body(self.pulled(outline, CLEAR, [hole]))
            extra.setdefault(s, []).append(self._space(f"gross {s}", f"G{s}", "Gross area", None, s, body))
        duct = self.body(self.block(12.62, 12.65, 12.73, 12.9, CLEAR))
        extra[0].append(self._space("duct", "0.99", "Duct", None, 0, duct))
        for s, spaces in extra.items():
            self.root("IfcRelAggregates", f"more spaces of storey {s}", RelatingObject=self.storeys[s], RelatedObjects=spaces)
        lost = self._thing("IfcWindow", "lost window", "Window", 0, 20.0, -6.0, (1.8, 0.08, 1.6))
        self.properties(lost, "Pset_WindowCommon", IsExternal=True)


def _along(s: Stretch, start: float, end: float) -> tuple[tuple[float, float], Corner, float]:
    """Start, direction and length of an outside wall, its thickness to the left and its outer face on the reference line."""
    c, long = s.room.cell, end - start
    edge = {"south": c.y0 - OUTER, "north": c.y1 + OUTER, "west": c.x0 - OUTER, "east": c.x1 + OUTER}[s.side]
    x, y = OUT[s.side]
    along = (-y, x)  # outward is to the right of the wall's direction
    if s.side in ("south", "north"):
        return (start if along[0] > 0 else end, edge), (float(along[0]), 0.0, 0.0), long
    return (edge, start if along[1] > 0 else end), (0.0, float(along[1]), 0.0), long


def _sexagesimal(degrees: float) -> tuple[int, int, int, int]:
    whole = abs(degrees) * 3600
    parts = (int(whole // 3600), int(whole % 3600 // 60), int(whole % 60), round(whole % 1 * 1e6))
    sign = -1 if degrees < 0 else 1
    return tuple(sign * p for p in parts)  # type: ignore[return-value]


__all__ = ["CELLS", "FAULTS", "Options", "Room", "write_court"]
