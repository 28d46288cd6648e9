"""Writing a scheme as IFC4: storeys, spaces, and second-level space boundaries with the elements that they lie on."""

from __future__ import annotations

import math
import uuid
from typing import Any

import ifcopenshell
import ifcopenshell.guid
import numpy as np

from eurythm.brief.resolve import Brief, chosen_construction
from eurythm.geometry.building import Building, Face, Vec, Zone
from eurythm.geometry.polygons import loops_of, window_loops

ELEMENTS = {"wall": "IfcWall", "floor": "IfcSlab", "ceiling": "IfcSlab"}
SIDES = {"outdoors": "EXTERNAL", "ground": "EXTERNAL_EARTH", "zone": "INTERNAL", "adiabatic": "INTERNAL", "fixed": "INTERNAL"}


def write_ifc(building: Building, brief: Brief, inside: dict[str, tuple[float, float]]) -> str:
    """Return a scheme as the text of an IFC4 file, with what its glass lets through of sun and light and what its surfaces reflect.

    Parameters
    ----------
    inside : internal floor area (m²) and air volume (m³) by zone, written as base quantities.
    """
    return _Writer(building, brief, inside).written()


class _Writer:
    def __init__(self, building: Building, brief: Brief, inside: dict[str, tuple[float, float]]) -> None:
        self.building, self.brief, self.inside = building, brief, inside
        self.scheme, self.place = brief.scheme, brief.place
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
        group = {"IfcWall": "Pset_WallCommon", "IfcSlab": "Pset_SlabCommon", "IfcRoof": "Pset_RoofCommon"}[element.is_a()]
        self._properties(element, group, IsExternal=self.make("IfcBoolean", face.boundary in ("outdoors", "ground")))
        self._properties(element, "Eurythm_Surfaces", **self._reflected(face))
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
                    self._glass(pane, window.glazing or self.scheme.skin.glazing)
                    part = self._boundary(f"{mark} opening {k + 1}", spaces[face.zone], pane, corners, SIDES[face.boundary])
                    part.ParentBoundary = near
        return made

    def _properties(self, element: Any, group: str, **values: Any) -> None:
        held = [self.make("IfcPropertySingleValue", Name=name, NominalValue=value) for name, value in values.items()]
        made = self.root("IfcPropertySet", f"{group} {element.GlobalId}", Name=group, HasProperties=held)
        self.root("IfcRelDefinesByProperties", f"{group} of {element.GlobalId}", RelatedObjects=[element], RelatingPropertyDefinition=made)

    def _ratio(self, value: float) -> Any:
        return self.make("IfcPositiveRatioMeasure", float(value))

    def _share(self, value: float) -> Any:
        return self.make("IfcNormalisedRatioMeasure", float(value))

    def _reflected(self, face: Face) -> dict[str, Any]:
        name = face.construction or chosen_construction(self.scheme.skin, face.element)
        found = self.brief.shelf.construction(name, "construction")
        inside, beyond = self.scheme.skin.reflected(found.model_copy(update={"element": face.element}))
        told = {"VisibleReflectanceInside": inside, "VisibleReflectanceBeyond": beyond if face.other is not None else None}
        return {name: self._share(value) for name, value in told.items() if value is not None}

    def _glass(self, pane: Any, name: str) -> None:
        found = self.brief.shelf.glazing(name, "glazing")
        self._properties(
            pane, "Pset_DoorCommon" if pane.is_a("IfcDoor") else "Pset_WindowCommon",
            ThermalTransmittance=self.make("IfcThermalTransmittanceMeasure", float(found.u_value)), GlazingAreaFraction=self._ratio(1.0 - found.frame_share),
        )  # fmt: skip
        self._properties(
            pane, "Pset_DoorWindowGlazingType", VisibleLightTransmittance=self._share(found.visible),
            SolarHeatGainTransmittance=self._share(found.g_value), GlassLayers=self.make("IfcCountMeasure", found.panes),
        )  # fmt: skip

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
