"""Writing a scheme as IFC4: storeys, spaces, and second-level space boundaries with the elements that they lie on."""

from __future__ import annotations

import math
import uuid
from typing import Any

import ifcopenshell
import ifcopenshell.guid
import numpy as np

from eurythm.geometry.building import Building, Face, Vec, Zone
from eurythm.geometry.polygons import loops_of, window_loops
from eurythm.model.place import Place
from eurythm.model.scheme import Scheme

ELEMENTS = {"wall": "IfcWall", "floor": "IfcSlab", "ceiling": "IfcSlab"}
SIDES = {"outdoors": "EXTERNAL", "ground": "EXTERNAL_EARTH", "zone": "INTERNAL", "adiabatic": "INTERNAL", "fixed": "INTERNAL"}


def write_ifc(building: Building, scheme: Scheme, place: Place, inside: dict[str, tuple[float, float]]) -> str:
    """Return a scheme as the text of an IFC4 file.

    Parameters
    ----------
    inside : internal floor area (m²) and air volume (m³) by zone, written as base quantities.
    """
    return _Writer(building, scheme, place, inside).written()


class _Writer:
    def __init__(self, building: Building, scheme: Scheme, place: Place, inside: dict[str, tuple[float, float]]) -> None:
        self.building, self.scheme, self.place, self.inside = building, scheme, place, inside
        self.file = ifcopenshell.file(schema="IFC4")

    def make(self, entity: str, *values: Any, **attributes: Any) -> Any:
        return self.file.create_entity(entity, *values, **attributes)

    def root(self, entity: str, key: str, **attributes: Any) -> Any:
        name = f"eurythm/{self.scheme.id}/{entity}/{key}"
        return self.make(entity, GlobalId=ifcopenshell.guid.compress(uuid.uuid5(uuid.NAMESPACE_URL, name).hex), **attributes)

    def point(self, xyz: Any) -> Any:
        return self.make("IfcCartesianPoint", Coordinates=[round(float(c), 6) for c in xyz])

    def direction(self, *xyz: float) -> Any:
        return self.make("IfcDirection", DirectionRatios=[float(c) for c in xyz])

    def axes(self, at: Any = (0.0, 0.0, 0.0)) -> Any:
        return self.make("IfcAxis2Placement3D", Location=self.point(at))

    def written(self) -> str:
        units = [
            self.make("IfcSIUnit", UnitType=kind, Name=name)
            for kind, name in (
                ("LENGTHUNIT", "METRE"),
                ("AREAUNIT", "SQUARE_METRE"),
                ("VOLUMEUNIT", "CUBIC_METRE"),
                ("PLANEANGLEUNIT", "RADIAN"),
            )
        ]
        bearing = math.radians(-self.place.north_deg)
        self.context = self.make(
            "IfcGeometricRepresentationContext", ContextType="Model", CoordinateSpaceDimension=3, Precision=1e-5,
            WorldCoordinateSystem=self.axes(), TrueNorth=self.direction(math.sin(bearing), math.cos(bearing)),
        )  # fmt: skip
        project = self.root(
            "IfcProject",
            "project",
            Name=self.scheme.name,
            RepresentationContexts=[self.context],
            UnitsInContext=self.make("IfcUnitAssignment", Units=units),
        )
        where: dict[str, Any] = {}
        for name, value in (("RefLatitude", self.place.latitude_deg), ("RefLongitude", self.place.longitude_deg)):
            if value is not None:
                where[name] = _sexagesimal(value)
        self.origin = self.make("IfcLocalPlacement", RelativePlacement=self.axes())
        site = self.root("IfcSite", "site", Name=self.place.name or "Site", ObjectPlacement=self.origin, CompositionType="ELEMENT", **where)
        house = self.root("IfcBuilding", "building", Name=self.scheme.name, ObjectPlacement=self.origin, CompositionType="ELEMENT")
        storeys = self._storeys()
        for parent, parts in ((project, [site]), (site, [house]), (house, list(storeys.values()))):
            self.root("IfcRelAggregates", f"parts {parent.is_a()}", RelatingObject=parent, RelatedObjects=parts)
        spaces = {zone.id: self._space(zone) for zone in self.building.zones}
        by_storey: dict[str, list[Any]] = {}
        for zone in self.building.zones:
            by_storey.setdefault(_storey(zone), []).append(spaces[zone.id])
        for name, held in by_storey.items():
            self.root("IfcRelAggregates", f"spaces {name}", RelatingObject=storeys[name], RelatedObjects=held)
        elements: dict[str, list[Any]] = {name: [] for name in storeys}
        names = {z.id: _storey(z) for z in self.building.zones}
        for face in self.building.faces:
            elements[names[face.zone]] += self._boundaries(face, spaces)
        for name, held in elements.items():
            if held:
                self.root("IfcRelContainedInSpatialStructure", f"in {name}", RelatingStructure=storeys[name], RelatedElements=held)
        text: str = self.file.to_string()
        return text

    def _storeys(self) -> dict[str, Any]:
        found: dict[str, float] = {}
        for zone in self.building.zones:
            found[_storey(zone)] = min(found.get(_storey(zone), zone.level), zone.level)
        return {
            name: self.root("IfcBuildingStorey", name, Name=name, ObjectPlacement=self.origin, CompositionType="ELEMENT", Elevation=level)
            for name, level in sorted(found.items(), key=lambda pair: pair[1])
        }

    def _loop(self, loop: Vec) -> Any:
        return self.make("IfcPolyLoop", Polygon=[self.point(p) for p in loop])

    def _face(self, loop: Vec) -> Any:
        return self.make("IfcFace", Bounds=[self.make("IfcFaceOuterBound", Bound=self._loop(loop), Orientation=True)])

    def _space(self, zone: Zone) -> Any:
        given = next((z for z in self.scheme.zones if z.id == zone.id), None)
        loops = [
            loop if f.zone == zone.id else loop[::-1] for f in self.building.faces if zone.id in (f.zone, f.other) for loop in loops_of(f)
        ]
        shell = self.make("IfcClosedShell", CfsFaces=[self._face(loop) for loop in loops])
        shape = self.make(
            "IfcShapeRepresentation", ContextOfItems=self.context, RepresentationIdentifier="Body", RepresentationType="Brep",
            Items=[self.make("IfcFacetedBrep", Outer=shell)],
        )  # fmt: skip
        space = self.root(
            "IfcSpace", zone.id, Name=given.number if given is not None and given.number else zone.id,
            LongName=given.name if given is not None and given.name else zone.name, ObjectType=given.use if given is not None and given.use else None,
            ObjectPlacement=self.origin, Representation=self.make("IfcProductDefinitionShape", Representations=[shape]),
            CompositionType="ELEMENT", PredefinedType="INTERNAL",
        )  # fmt: skip
        area, volume = self.inside[zone.id]
        quantities = [
            self.make("IfcQuantityArea", Name="NetFloorArea", AreaValue=float(area)), self.make("IfcQuantityVolume", Name="NetVolume", VolumeValue=float(volume)),
        ]  # fmt: skip
        held = self.root("IfcElementQuantity", f"quantities {zone.id}", Name="Qto_SpaceBaseQuantities", Quantities=quantities)
        self.root("IfcRelDefinesByProperties", f"quantities of {zone.id}", RelatedObjects=[space], RelatingPropertyDefinition=held)
        return space

    def _boundaries(self, face: Face, spaces: dict[str, Any]) -> list[Any]:
        """One boundary a side, each with the other as its counterpart; windows hang on the first."""
        kind = "IfcRoof" if face.element == "roof" else ELEMENTS[face.kind]
        element = self.root(kind, face.id, Name=face.id, Tag=face.construction or face.element)
        self._external(element, face.boundary in ("outdoors", "ground"))
        made = [element]
        for number, loop in enumerate(loops_of(face)):
            mark = f"{face.id} {number + 1}"
            near = self._boundary(mark, spaces[face.zone], element, loop, SIDES[face.boundary])
            if face.other is not None:
                far = self._boundary(f"{mark} beyond", spaces[face.other], element, loop[::-1], "INTERNAL")
                near.CorrespondingBoundary, far.CorrespondingBoundary = far, near
            if number == 0:
                for k, (window, corners) in enumerate(zip(face.windows, window_loops(face), strict=True)):
                    entity = "IfcDoor" if window.glazing and "door" in window.glazing else "IfcWindow"
                    pane = self.root(
                        entity, f"{mark} {k}", Name=f"{face.id} {k + 1}", OverallWidth=window.width, OverallHeight=window.height
                    )
                    made.append(pane)
                    part = self._boundary(f"{mark} opening {k + 1}", spaces[face.zone], pane, corners, SIDES[face.boundary])
                    part.ParentBoundary = near
        return made

    def _external(self, element: Any, outside: bool) -> None:
        single = self.make("IfcPropertySingleValue", Name="IsExternal", NominalValue=self.make("IfcBoolean", outside))
        group = {"IfcWall": "Pset_WallCommon", "IfcSlab": "Pset_SlabCommon", "IfcRoof": "Pset_RoofCommon"}[element.is_a()]
        held = self.root("IfcPropertySet", f"external {element.Name}", Name=group, HasProperties=[single])
        self.root("IfcRelDefinesByProperties", f"external of {element.Name}", RelatedObjects=[element], RelatingPropertyDefinition=held)

    def _boundary(self, key: str, space: Any, element: Any, loop: Vec, side: str) -> Any:
        vector = np.sum(np.cross(loop, np.roll(loop, -1, axis=0)), axis=0)
        normal = vector / max(float(np.linalg.norm(vector)), 1e-12)
        along = (loop[1] - loop[0]) / max(float(np.linalg.norm(loop[1] - loop[0])), 1e-12)
        flat = np.column_stack([(loop - loop[0]) @ along, (loop - loop[0]) @ np.cross(normal, along)])
        position = self.make(
            "IfcAxis2Placement3D",
            Location=self.point(loop[0]),
            Axis=self.direction(*normal.tolist()),
            RefDirection=self.direction(*along.tolist()),
        )
        line = self.make("IfcPolyline", Points=[self.point(p) for p in [*flat, flat[0]]])
        plane = self.make(
            "IfcCurveBoundedPlane", BasisSurface=self.make("IfcPlane", Position=position), OuterBoundary=line, InnerBoundaries=[]
        )
        return self.root(
            "IfcRelSpaceBoundary2ndLevel", key, Name="2ndLevel", RelatingSpace=space, RelatedBuildingElement=element,
            ConnectionGeometry=self.make("IfcConnectionSurfaceGeometry", SurfaceOnRelatingElement=plane),
            PhysicalOrVirtualBoundary="PHYSICAL", InternalOrExternalBoundary=side,
        )  # fmt: skip


def _storey(zone: Zone) -> str:
    return zone.storey if zone.given and zone.storey != "0" else f"Level {zone.level:.2f}"


def _sexagesimal(degrees: float) -> tuple[int, ...]:
    whole, sign = abs(degrees) * 3600, -1 if degrees < 0 else 1
    return tuple(sign * p for p in (int(whole // 3600), int(whole % 3600 // 60), int(whole % 60), round(whole % 1 * 1e6)))
