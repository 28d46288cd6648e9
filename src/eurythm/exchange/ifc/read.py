"""Reading IFC models: spaces, building elements, materials, north and place.

Geometry comes from ifcopenshell in metres and world coordinates; every space is welded, closed and cut into flat faces.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element as elements
import ifcopenshell.util.placement as placement
import ifcopenshell.util.unit as unit
import numpy as np

from eurythm.exchange.ifc.boundaries import name_counterparts, open_pairs, stated_faces
from eurythm.exchange.intake.received import (
    Finding,
    Kind,
    Received,
    ReceivedConstruction,
    ReceivedElement,
    ReceivedFace,
    ReceivedLayer,
    ReceivedSpace,
    ReceivedStorey,
)  # fmt: skip
from eurythm.geometry.building import Vec
from eurythm.geometry.loops import area_vector
from eurythm.geometry.mesh import Solid, solid_of, upright_of
from eurythm.geometry.soup import body_of
from eurythm.model.errors import EurythmError

Progress = Callable[[float, str], None]
FAR = 5000.0
SCHEMAS = ("IFC2X3", "IFC4", "IFC4X3")
NO_SHAPE = ("IfcOpeningElement", "IfcVirtualElement", "IfcAnnotation", "IfcGrid", "IfcPort")


def read_ifc(path: Path, name: str, progress: Progress = lambda share, what: None) -> Received:
    """Read an IFC file.

    Raises
    ------
    EurythmError
        ``not-ifc``, ``ifc-schema`` or ``ifc-empty``, with what was found.
    """
    head = path.open("rb").read(4096)
    if b"ISO-10303-21" not in head:
        raise EurythmError("not-ifc", f"“{name}” is no IFC file: it does not begin with ISO-10303-21.", name)
    progress(0.02, "reading")
    try:
        model = ifcopenshell.open(str(path))
    except Exception as fault:
        raise EurythmError("not-ifc", f"“{name}” cannot be read as IFC: {fault!s:.160}.", name) from None
    if not str(model.schema).startswith(SCHEMAS):
        raise EurythmError("ifc-schema", f"“{name}” is {model.schema}; IFC2x3, IFC4 and IFC4x3 are read.", name)
    if not model.by_type("IfcProject"):
        raise EurythmError("ifc-empty", f"“{name}” holds no project; it may have been cut off.", name)
    return _Reader(model, name, progress).received()


class _Reader:
    """Goes through one model."""

    def __init__(self, model: Any, name: str, progress: Progress) -> None:
        self.model, self.name, self.progress = model, name, progress
        self.scale = float(unit.calculate_unit_scale(model))
        self.made = Received(file=name, format="ifc", version=str(model.schema))
        self.constructions: dict[str, ReceivedConstruction] = {}
        self.shift = np.zeros(3)
        self.counterparts = name_counterparts(model)
        self.bounded = 0

    def received(self) -> Received:
        """Read everything."""
        self._place()
        storeys = {s.id(): s for s in self.model.by_type("IfcBuildingStorey")}
        levels = {key: float(placement.get_local_placement(s.ObjectPlacement)[2, 3]) * self.scale for key, s in storeys.items()}
        meshes = self._meshes()
        self._recentre(meshes)
        for key, level in sorted(levels.items(), key=lambda pair: pair[1]):
            elevation = round(level - float(self.shift[2]), 4)
            self.made.storeys.append(ReceivedStorey(id=storeys[key].GlobalId, name=_text(storeys[key].Name), elevation_m=elevation))
        spaces = self.model.by_type("IfcSpace")
        for number, space in enumerate(spaces):
            self.progress(0.6 + 0.2 * number / len(spaces), "rooms")
            self.made.spaces.append(self._space(space, meshes.get(space.id())))
        pairs = open_pairs(self.model)
        if pairs:
            self.made.extra.open = pairs
        if self.bounded:
            sentence = f"The faces of {self.bounded} of {len(spaces)} rooms were taken from the file's space boundaries."
            self.made.findings.append(Finding(code="boundaries-used", object="", sentence=sentence, mended=True))
        things = [e for e in self.model.by_type("IfcElement") if not any(e.is_a(kind) for kind in NO_SHAPE)]
        for number, thing in enumerate(things):
            if number % 50 == 0:
                self.progress(0.8 + 0.19 * number / len(things), "elements")
            self.made.elements.append(self._element(thing, meshes.get(thing.id())))
        self.made.constructions = list(self.constructions.values())
        return self.made

    def _place(self) -> None:
        made, model = self.made, self.model
        project = model.by_type("IfcProject")[0]
        made.project = _text(project.Name) or _text(project.LongName)
        made.length_unit = _unit_name(project)
        for context in model.by_type("IfcGeometricRepresentationContext", include_subtypes=False):
            north = getattr(context, "TrueNorth", None)
            if north is not None and len(north.DirectionRatios) >= 2:
                x, y = north.DirectionRatios[:2]
                made.true_north_deg = round(-math.degrees(math.atan2(x, y)), 4) + 0.0
                break
        site = next(iter(model.by_type("IfcSite")), None)
        if site is not None:
            made.place = _text(site.Name)
            made.latitude_deg, made.longitude_deg = _degrees(site.RefLatitude), _degrees(site.RefLongitude)
            made.elevation_m = None if site.RefElevation is None else round(float(site.RefElevation) * self.scale, 3)

    def _meshes(self) -> dict[int, tuple[Vec, Any]]:
        """Points (n, 3) in metres and triangles of every product with a form; what fails is a finding, no more."""
        settings = ifcopenshell.geom.settings()
        settings.set("use-world-coords", True)
        settings.set("disable-opening-subtractions", True)
        wanted = [p for p in self.model.by_type("IfcProduct") if p.Representation is not None and not any(p.is_a(k) for k in NO_SHAPE)]
        found: dict[int, tuple[Vec, Any]] = {}
        if not wanted:
            return found
        shapes = ifcopenshell.geom.iterator(settings, self.model, 2, include=wanted)
        if shapes.initialize():
            while True:
                shape = shapes.get()
                points = np.array(shape.geometry.verts, dtype=float).reshape(-1, 3)
                triangles = np.array(shape.geometry.faces, dtype=np.int64).reshape(-1, 3)
                if len(points) and np.all(np.isfinite(points)):
                    found[shape.id] = (points, triangles)
                if len(found) % 20 == 0:
                    self.progress(0.05 + 0.55 * len(found) / len(wanted), "forms")
                if not shapes.next():
                    break
        for product in wanted:
            if (product.id() not in found and product.is_a("IfcElement")) or (product.is_a("IfcSpace") and product.id() not in found):
                self._find("no-form", product, f"“{_name(product)}” has a form that cannot be worked out; it is left out.")
        return found

    def _recentre(self, meshes: dict[int, tuple[Vec, Any]]) -> None:
        """Move a model that lies far off to the origin, by whole metres."""
        if not meshes:
            return
        middle = np.median(np.array([points.mean(axis=0) for points, _ in meshes.values()]), axis=0)
        away = np.array([*middle[:2], middle[2] if abs(middle[2]) > FAR else 0.0])
        if np.linalg.norm(away[:2]) > FAR or away[2]:
            self.shift = np.floor(away)
            self.made.moved_m = tuple(float(-s) for s in self.shift)  # type: ignore[assignment]
            far = float(np.linalg.norm(away[:2])) / 1000
            self.made.findings.append(
                Finding(
                    code="moved-to-origin",
                    object="",
                    sentence=f"The model lay {far:.0f} km off its origin; it was moved near it.",
                    mended=True,
                )
            )
        for key, (points, triangles) in meshes.items():
            meshes[key] = (points - self.shift, triangles)

    def _find(self, code: str, product: Any, sentence: str, mended: bool = False, loops: list[Any] | None = None) -> None:
        self.made.findings.append(Finding(code=code, object=product.GlobalId, sentence=sentence, mended=mended, loops=loops or []))

    def _space(self, space: Any, mesh: tuple[Vec, Any] | None) -> ReceivedSpace:
        name, number = _text(getattr(space, "LongName", None)), _text(space.Name)
        properties = _properties(space)
        made = ReceivedSpace(
            id=space.GlobalId, kind="room", class_name=space.is_a(), name=name, number=number, storey=_storey_of(space),
            use=_text(space.ObjectType) or _classified(space) or _text(properties.get("Pset_SpaceOccupancyRequirements.OccupancyType")),
            properties=properties, closed=mesh is not None,
            external=True if _outdoors(space) else _external(properties),
        )  # fmt: skip
        if mesh is None:
            return made
        solid = solid_of(*mesh)
        made.closed, made.volume_m3 = solid.closed, round(solid.volume, 4)
        made.faces = [ReceivedFace(id=f"f{k + 1}", loop=[tuple(p) for p in loop.tolist()]) for k, loop in enumerate(solid.faces)]
        for loop in solid.open_edges:
            self._find(
                "space-not-closed",
                space,
                f"“{_name(space)}” does not close: an edge of its faces is open.",
                loops=[loop.tolist()] if len(loop) > 2 else [],
            )
        if solid.capped:
            loops = [loop.round(4).tolist() for loop in solid.capped]
            self._find("space-not-closed", space, f"“{_name(space)}” did not close; the hole was covered with a flat face.", True, loops)
        if solid.turned and not solid.capped:
            self._find("faces-turned", space, f"Faces of “{_name(space)}” looked inwards; they were turned.", True)
        stated = self._stated(space, solid) if solid.closed else None
        if stated is not None:
            made.faces = stated
        upright = upright_of(solid) if solid.closed and stated is None else None
        if upright is not None:
            made.rings = [[tuple(p) for p in ring.tolist()] for ring in upright.rings]
            made.level, made.height = upright.level, upright.height
        made.floor_area_m2 = round(_floor_area(solid.faces), 4)
        made.person_area = _person_area(properties, made.floor_area_m2)
        return made

    def _stated(self, space: Any, solid: Solid) -> list[ReceivedFace] | None:
        """The faces that the file states as space boundaries, all of them looking out of the room, where they close."""
        surface = sum(0.5 * float(np.linalg.norm(np.sum(np.cross(p, np.roll(p, -1, axis=0)), axis=0))) for p in solid.faces)
        faces = stated_faces(space, surface, self.scale, self.shift, self.counterparts)
        if faces is None:
            return None
        body = body_of([np.asarray(f.loop) for f in faces])
        if not body.closed or body.covered or abs(body.volume - solid.volume) > 0.02 * solid.volume:
            return None
        self.bounded += 1
        made = []
        for face, loop in zip(faces, body.loops, strict=True):
            # slabs on the ground are called external too: what lies under a floor is for contact to say
            under = face.boundary == "outdoors" and area_vector(loop)[2] < -0.5 * np.linalg.norm(area_vector(loop))
            made.append(face.model_copy(update={"loop": [tuple(p) for p in loop.tolist()]} | ({"boundary": None} if under else {})))
        return made

    def _element(self, thing: Any, mesh: tuple[Vec, Any] | None) -> ReceivedElement:
        properties = _properties(thing)
        construction, inward = self._build_up(thing)
        called = _class_of(thing)
        made = ReceivedElement(
            id=thing.GlobalId, kind=KINDS.get(called, "other"), class_name=called, name=_text(thing.Name), tag=_text(thing.Tag), storey=_storey_of(thing),
            external=_external(properties), construction=construction, inward=inward, host=_host(thing), properties=properties,
            u_value=_number(properties, "ThermalTransmittance"), **_glass(properties),
        )  # fmt: skip
        if thing.is_a("IfcWindow") or thing.is_a("IfcDoor"):
            made.wide, made.high = (None if v is None else float(v) * self.scale for v in (thing.OverallWidth, thing.OverallHeight))
        if mesh is not None:
            made.points = [tuple(p) for p in np.round(mesh[0], 4).tolist()]
            made.triangles = [tuple(t) for t in mesh[1].tolist()]
        return made

    def _build_up(self, thing: Any) -> tuple[str | None, tuple[float, float, float] | None]:
        """The construction of an element by its layers, and the direction in which they follow each other."""
        material = elements.get_material(thing)
        if material is None:
            return None, None
        inward: tuple[float, float, float] | None = None
        if material.is_a("IfcMaterialLayerSetUsage"):
            axis = {"AXIS1": 0, "AXIS2": 1, "AXIS3": 2}[material.LayerSetDirection]
            sign = 1.0 if material.DirectionSense == "POSITIVE" else -1.0
            matrix = placement.get_local_placement(thing.ObjectPlacement)
            x, y, z = np.round(matrix[:3, axis] * sign, 6)
            inward = (float(x), float(y), float(z))
            material = material.ForLayerSet
        if material.is_a("IfcMaterialLayerSet"):
            name = _text(material.LayerSetName) or "-".join(_text(m.Material.Name) for m in material.MaterialLayers if m.Material)
            layers = [self._layer(layer) for layer in material.MaterialLayers if layer.LayerThickness]
        elif material.is_a("IfcMaterial") and thing.is_a("IfcWall"):
            name, layers = _text(material.Name), []
        else:
            return None, None
        key = f"{material.is_a()} {material.id()}"
        if key not in self.constructions:
            self.constructions[key] = ReceivedConstruction(id=key, name=name or f"Layers {material.id()}", layers=layers)
        return key, inward

    def _layer(self, layer: Any) -> ReceivedLayer:
        values: dict[str, Any] = {}
        material = layer.Material
        if material is not None:
            for group in elements.get_psets(material).values() if self.model.schema != "IFC2X3" else ():
                values |= group
            for properties in getattr(material, "HasProperties", None) or ():
                values |= {k: v for k, v in properties.get_info().items() if isinstance(v, (int, float))}
            if self.model.schema == "IFC2X3":
                for properties in self.model.get_inverse(material):
                    if properties.is_a("IfcMaterialProperties"):
                        values |= {k: v for k, v in properties.get_info().items() if isinstance(v, float)}
        return ReceivedLayer(
            name=_text(material.Name) if material is not None else "",
            thickness_m=round(float(layer.LayerThickness) * self.scale, 5),
            conductivity=_positive(values.get("ThermalConductivity")),
            density=_positive(values.get("MassDensity")),
            specific_heat=_positive(values.get("SpecificHeatCapacity")),
        )


def _text(value: Any) -> str:
    return str(value).strip()[:200] if value is not None else ""


def _name(thing: Any) -> str:
    long = _text(getattr(thing, "LongName", None))
    return " ".join(part for part in (_text(thing.Name), long) if part) or thing.GlobalId


def _positive(value: Any) -> float | None:
    return float(value) if isinstance(value, (int, float)) and not isinstance(value, bool) and 0 < value < 1e9 else None


def _unit_name(project: Any) -> str:
    if project.UnitsInContext is None:
        return "m"
    for entry in project.UnitsInContext.Units:
        if getattr(entry, "UnitType", None) == "LENGTHUNIT":
            if entry.is_a("IfcSIUnit"):
                return {"MILLI": "mm", "CENTI": "cm", "DECI": "dm", None: "m"}.get(entry.Prefix, f"{entry.Prefix} m".lower())
            return str(entry.Name).lower()
    return "m"


def _degrees(parts: Any) -> float | None:
    if not parts:
        return None
    degrees = sum(p / d for p, d in zip(parts, (1, 60, 3600, 3.6e9), strict=False))
    return round(float(degrees), 6)


def _properties(thing: Any) -> dict[str, Any]:
    """All property sets as one table, "Set.Property"."""
    flat: dict[str, Any] = {}
    for group, values in elements.get_psets(thing).items():
        for name, value in values.items():
            if name != "id" and isinstance(value, (str, int, float, bool)):
                flat[f"{group}.{name}"[:160]] = value[:200] if isinstance(value, str) else value
    return flat


def _external(properties: dict[str, Any]) -> bool | None:
    found = [v for k, v in properties.items() if k.endswith(".IsExternal") and isinstance(v, bool)]
    return found[0] if found else None


GLASS = "Pset_DoorWindowGlazingType"


def _glass(properties: dict[str, Any]) -> dict[str, Any]:
    """What a window or door says about its glass; shares beyond 0 and 1 are none."""
    share = {
        ours: value
        for ours, theirs in (("g_value", "SolarHeatGainTransmittance"), ("visible", "VisibleLightTransmittance"))
        if isinstance(value := properties.get(f"{GLASS}.{theirs}"), float) and 0 <= value <= 1
    }
    found: dict[str, Any] = dict(share)
    panes = properties.get(f"{GLASS}.GlassLayers")
    if isinstance(panes, (int, float)) and panes in (1, 2, 3, 4):  # a count may be any number in IFC4
        found["panes"] = int(panes)
    glazed = _number(properties, "GlazingAreaFraction")
    if glazed is not None and 0.1 <= glazed <= 1:
        found["frame_share"] = round(1 - glazed, 4)
    if found and _number(properties, "ThermalTransmittance") is None:
        found["u_value"] = _number(properties, "ThermalTransmittanceWinter")
    return found


def _person_area(properties: dict[str, Any], floor_m2: float) -> float | None:
    """Floor area per person as stated, or by the number of people."""
    area, count = _number(properties, "AreaPerOccupant"), _number(properties, "OccupancyNumber")
    return area if area is not None else round(floor_m2 / count, 2) if count is not None and floor_m2 > 0 else None


def _outdoors(space: Any) -> bool:
    """Whether a space is stated to be outdoors: by its type from IFC4 on, by its place in IFC2x3."""
    return "EXTERNAL" in (getattr(space, "PredefinedType", None), getattr(space, "InteriorOrExteriorSpace", None))


def _number(properties: dict[str, Any], name: str) -> float | None:
    return next((p for k, v in properties.items() if k.endswith(f".{name}") and (p := _positive(v)) is not None), None)


KINDS: dict[str, Kind] = {
    "IfcWall": "wall", "IfcCurtainWall": "curtain_wall", "IfcSlab": "slab", "IfcRoof": "roof", "IfcCovering": "covering",
    "IfcWindow": "window", "IfcDoor": "door", "IfcPlate": "panel", "IfcColumn": "column",
}  # fmt: skip
"""What a class is; all others are nothing that an energy model knows."""


def _class_of(thing: Any) -> str:
    return (
        "IfcWall" if thing.is_a("IfcWall") else "IfcRoof" if thing.is_a("IfcSlab") and thing.PredefinedType == "ROOF" else str(thing.is_a())
    )


def _classified(thing: Any) -> str:
    for relation in getattr(thing, "HasAssociations", None) or ():
        if relation.is_a("IfcRelAssociatesClassification"):
            reference = relation.RelatingClassification
            return _text(getattr(reference, "Name", None))
    return ""


def _storey_of(thing: Any) -> str | None:
    """The storey that holds a thing, through whatever it is a part of."""
    here, seen = thing, 0
    while here is not None and seen < 20:
        if here.is_a("IfcBuildingStorey"):
            return str(here.GlobalId)
        here, seen = elements.get_container(here) or elements.get_aggregate(here), seen + 1
    return None


def _host(thing: Any) -> str | None:
    for filled in getattr(thing, "FillsVoids", None) or ():
        for voided in filled.RelatingOpeningElement.VoidsElements or ():
            return str(voided.RelatingBuildingElement.GlobalId)
    return None


def _floor_area(faces: tuple[Vec, ...]) -> float:
    total = 0.0
    for loop in faces:
        vector = 0.5 * np.sum(np.cross(loop, np.roll(loop, -1, axis=0)), axis=0)
        if vector[2] < -0.5 * np.linalg.norm(vector):
            total -= float(vector[2])
    return total
