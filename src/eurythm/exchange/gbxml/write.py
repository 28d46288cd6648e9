"""Writing a scheme as gbXML 6.01, in SI or inch-pound units."""

from __future__ import annotations

import re
from typing import Any, Literal

import numpy as np
from lxml import etree
from numpy.typing import NDArray

from eurythm.brief.calendar import hourly
from eurythm.brief.resolve import Brief, Shelf, ZoneBrief, days_of, zone_brief
from eurythm.brief.systems import zone_airs
from eurythm.exchange.gbxml import units
from eurythm.exchange.gbxml.schedules import write_schedule
from eurythm.fabric.opaque import FLOW, conductivity_of
from eurythm.geometry.building import Building, Face, Zone
from eurythm.geometry.polygons import loops_of, window_loops
from eurythm.model.library import Construction, Glazing, Profile
from eurythm.sun.obstacles import neighbours

NAMESPACE = "http://www.gbxml.org/schema"
VERSION = "6.01"
System = Literal["SI", "IP"]
NAMES = {
    "SI": {"length": "Meters", "area": "SquareMeters", "volume": "CubicMeters", "u": "WPerSquareMeterK", "conductivity": "WPerMeterK",
           "density": "KgPerCubicM", "heat": "JPerKgK", "power": "WattPerSquareMeter", "person": "SquareMPerPerson",
           "flow": "LPerSec", "flow_area": "LPerSecPerSquareM", "temperature": "C", "person_power": "WattPerPerson"},
    "IP": {"length": "Feet", "area": "SquareFeet", "volume": "CubicFeet", "u": "BtuPerHourSquareFtF", "conductivity": "BtuPerHourFtF",
           "density": "LbsPerCubicFt", "heat": "BTUPerLbF", "power": "WattPerSquareFoot", "person": "SquareFtPerPerson",
           "flow": "CFM", "flow_area": "CFMPerSquareFoot", "temperature": "F", "person_power": "BtuPerHourPerson"},
}  # fmt: skip
NEIGHBOUR = "Neighbour "
"""How names of shades begin that stand for a box or footprint of the surroundings; its id follows."""
LATENT_J_G = 2430.0
"""Heat of evaporation at skin temperature, J/g."""


def write_gbxml(brief: Brief, building: Building, inside: dict[str, tuple[float, float]], system: System = "SI") -> bytes:
    """Return a scheme as gbXML: geometry, constructions, window types, schedules, use and zones.

    Overhangs, fins and the boxes and footprints around are shades; trees are left out. Zones that were merged are spaces of one
    zone with surfaces of air where it is open between them; floor area and air volume are shared among them as their gross ones are.
    A boundary that is neither outdoors, ground nor a zone is written as an inside surface with the same space on both
    sides; a temperature given beyond it stands in its description.

    Parameters
    ----------
    inside : internal floor area (m²) and air volume (m³) by zone.
    system : units of the file.
    """
    return _Writer(brief, building, inside, system).written()


class _Writer:
    def __init__(self, brief: Brief, building: Building, inside: dict[str, tuple[float, float]], system: System) -> None:
        self.brief, self.building, self.inside = brief, building, inside
        self.unit = NAMES[system]
        self.days = days_of(brief.place, brief.climate)
        self.used: dict[str, str] = {}
        self.constructions: dict[str, str] = {}
        self.glazings: dict[str, str] = {}
        self.root = etree.Element(f"{{{NAMESPACE}}}gbXML", nsmap={None: NAMESPACE})
        for name, value in (
            ("temperatureUnit", self.unit["temperature"]), ("lengthUnit", self.unit["length"]), ("areaUnit", self.unit["area"]),
            ("volumeUnit", self.unit["volume"]), ("useSIUnitsForResults", "true" if system == "SI" else "false"), ("version", VERSION),
        ):  # fmt: skip
            self.root.set(name, value)

    def id(self, kind: str, name: str) -> str:
        """A name that is sound as an XML id and borne by one thing only."""
        key = f"{kind} {name}"
        if key not in self.used:
            base = f"{kind}-{re.sub(r'[^A-Za-z0-9_.-]+', '_', name)}"
            made, k = base, 2
            while made in self.used.values():
                made, k = f"{base}_{k}", k + 1
            self.used[key] = made
        return self.used[key]

    def add(self, parent: Any, tag: str, text: object = None, **attributes: str) -> Any:
        element = etree.SubElement(parent, f"{{{NAMESPACE}}}{tag}", {k.replace("_", "-"): v for k, v in attributes.items()})
        if text is not None:
            element.text = _decimal(text) if isinstance(text, float) else _printable(str(text))
        return element

    def length(self, metres: float) -> float:
        return round(metres / units.LENGTH[self.unit["length"]], 7) + 0.0

    def written(self) -> bytes:
        scheme, place = self.brief.scheme, self.brief.place
        campus = self.add(self.root, "Campus", id="campus")
        self.add(campus, "Name", place.name or scheme.name)
        where = self.add(campus, "Location")
        self.add(where, "Name", place.name or self.brief.climate.location.city)
        self.add(where, "ZipcodeOrPostalCode", "none")
        self.add(where, "Longitude", round(self.brief.climate.location.longitude_deg, 6))
        self.add(where, "Latitude", round(self.brief.climate.location.latitude_deg, 6))
        self.add(where, "CADModelAzimuth", float(place.north_deg % 360.0))
        building = self.add(campus, "Building", id="building", buildingType="Unknown")
        self.add(building, "Name", scheme.name)
        self.add(building, "Area", sum(a for a, _ in self.inside.values()) / units.AREA[self.unit["area"]], unit=self.unit["area"])
        for storey in self._storeys():
            level = self.add(building, "BuildingStorey", id=self.id("storey", storey[0]))
            self.add(level, "Name", storey[0])
            self.add(level, "Level", self.length(storey[1]))
        for zone in self.building.zones:
            for part in zone.parts or (zone,):
                self._space(building, zone, part)
        for face in self.building.faces:
            self._surface(campus, face, _kind(face))
        for face in self.building.inner:
            self._surface(campus, face, "Air" if face.air else _kind(face))
        for number, shade in enumerate(self.building.shades):
            self._shade(campus, f"{number + 1}", f"Shade {number + 1}", shade.corners)
        for name, loops in neighbours(place):
            for number, loop in enumerate(loops):
                self._shade(campus, f"{name} {number + 1}", f"{NEIGHBOUR}{name}", loop)
        for name, ref in self.constructions.items():
            self._construction(name, ref)
        for name, ref in self.glazings.items():
            self._glazing(name, ref)
        self._use()
        body: bytes = etree.tostring(self.root, xml_declaration=True, encoding="UTF-8", pretty_print=True)
        return body

    def _storey_of(self, zone: Any) -> str:
        volume = next((v for v in self.brief.scheme.volumes if v.id == zone.volume), None)
        if volume is None:
            return str(zone.storey) if zone.given and zone.storey != "0" else f"Level {zone.level:.2f}"
        storey = next((s for s in volume.storeys if s.id == zone.storey), None)
        return (storey.name if storey and storey.name else f"{volume.name or volume.id} {zone.storey}") if storey else zone.storey

    def _storeys(self) -> list[tuple[str, float]]:
        found: dict[str, float] = {}
        for zone in (part for z in self.building.zones for part in z.parts or (z,)):
            name = self._storey_of(zone)
            found[name] = min(found.get(name, zone.level), zone.level)
        return sorted(found.items(), key=lambda pair: pair[1])

    def asked(self, zone: Any) -> ZoneBrief:
        """What a zone is asked by its use."""
        return zone_brief(
            self.brief.shelf,
            self.brief.scheme,
            self.brief.climate,
            self.days,
            zone.id,
            zone.name,
            zone.profile,
            zone_airs(self.brief.scheme.plant, [zone.id])[0],
        )

    def _profile(self, zone: Any) -> Profile:
        return self.asked(zone).profile

    def _space(self, parent: Any, zone: Zone, part: Zone) -> None:
        """A zone, or one of the parts that it was merged of."""
        asked = self.asked(zone)
        profile, use = asked.profile, self.brief.scheme.use
        area, volume = self.inside[zone.id]
        area *= part.gross_floor / zone.gross_floor if zone.gross_floor > 0 else 0.0
        volume *= part.gross_volume / zone.gross_volume
        ref = self.id("profile", profile.id)
        condition = "HeatedAndCooled" if asked.conditioned else "Unconditioned"
        space = self.add(
            parent, "Space", id=self.id("space", part.id), zoneIdRef=self.id("zone", zone.id), conditionType=condition,
            buildingStoreyIdRef=self.id("storey", self._storey_of(part)), peopleScheduleIdRef=f"{ref}-people", lightScheduleIdRef=f"{ref}-light",
            equipmentScheduleIdRef=f"{ref}-equipment",
        )  # fmt: skip
        given = next((z for z in self.brief.scheme.zones if z.id == part.id), None)
        self.add(space, "Name", given.name if given is not None and given.name else part.name)
        if given is not None and given.number:
            self.add(space, "Description", f"number {given.number}")
        per_area = units.AREA[self.unit["area"]]
        self.add(space, "PeopleNumber", profile.person_area / per_area, unit=self.unit["person"])
        power = units.PERSON_POWER[self.unit["person_power"]]
        latent = profile.person_moisture_g_h * LATENT_J_G / 3600.0
        self.add(space, "PeopleHeatGain", profile.person_w / power, unit=self.unit["person_power"], heatGainType="Sensible")
        self.add(space, "PeopleHeatGain", latent / power, unit=self.unit["person_power"], heatGainType="Latent")
        light = profile.lighting_w_m2 if use.lighting_w_m2 is None else use.lighting_w_m2
        equipment = profile.equipment_w_m2 if use.equipment_w_m2 is None else use.equipment_w_m2
        self.add(space, "LightPowerPerArea", light / units.POWER_AREA[self.unit["power"]], unit=self.unit["power"])
        self.add(space, "EquipPowerPerArea", equipment / units.POWER_AREA[self.unit["power"]], unit=self.unit["power"])
        self.add(space, "AirChangesPerHour", float(asked.infiltration_ach.mean()))
        self.add(space, "Area", area / per_area, unit=self.unit["area"])
        self.add(space, "Volume", volume / units.VOLUME[self.unit["volume"]], unit=self.unit["volume"])
        self.add(space, "CADObjectId", given.source if given is not None and given.source else part.id)
        self.add(space, "TypeCode", profile.id)

    def _surface(self, parent: Any, face: Face, kind: str) -> None:
        name = face.construction or self.brief.constructions[face.element].id
        key = name if face.construction else f"{name} {face.element}"
        ref = self.constructions.setdefault(key, self.id("construction", name))
        for number, loop in enumerate(loops_of(face)):
            mark = face.id if number == 0 else f"{face.id}~{number + 1}"
            surface = self.add(
                parent, "Surface", id=self.id("surface", mark), surfaceType=kind, constructionIdRef=ref,
                exposedToSun="true" if face.boundary == "outdoors" else "false",
            )  # fmt: skip
            self.add(surface, "Name", mark)
            if face.boundary == "fixed":
                self.add(surface, "Description", f"boundary fixed {face.boundary_c:g} C")
            mine, beyond = face.part or face.zone, face.other_part or face.other
            if beyond is None and face.boundary in ("adiabatic", "fixed"):
                beyond = mine
            for zone in (mine, beyond):
                if zone is not None:
                    self.add(surface, "AdjacentSpaceId", spaceIdRef=self.id("space", zone))
            self._geometry(surface, loop)
            if number == 0:
                for k, (window, corners) in enumerate(zip(face.windows, window_loops(face), strict=True)):
                    glass = window.glazing or self.brief.glazing.id
                    opaque = self.brief.shelf.glazing(glass, "scheme/skin/glazing").g_value == 0.0
                    kind = "NonSlidingDoor" if opaque else "FixedSkylight" if face.kind == "ceiling" else "OperableWindow"
                    opening = self.add(
                        surface, "Opening", id=self.id("opening", f"{mark}/{k + 1}"), openingType=kind,
                        windowTypeIdRef=self.glazings.setdefault(glass, self.id("window", glass)),
                    )  # fmt: skip
                    self.add(opening, "Name", f"{mark} opening {k + 1}")
                    self._geometry(opening, corners)
            self.add(surface, "CADObjectId", mark)

    def _shade(self, parent: Any, mark: str, name: str, corners: NDArray[np.float64]) -> None:
        ref = self.constructions.setdefault("shade", self.id("construction", "shade"))
        surface = self.add(parent, "Surface", id=self.id("shade", mark), surfaceType="Shade", constructionIdRef=ref, exposedToSun="true")
        self.add(surface, "Name", name)
        self._geometry(surface, corners)

    def _geometry(self, parent: Any, loop: NDArray[np.float64]) -> None:
        vector = np.sum(np.cross(loop, np.roll(loop, -1, axis=0)), axis=0)
        normal = vector / max(float(np.linalg.norm(vector)), 1e-12)
        azimuth = float(np.degrees(np.arctan2(normal[0], normal[1])) % 360.0)
        tilt = float(np.degrees(np.arccos(np.clip(normal[2], -1, 1))))
        flat = np.array([-normal[1], normal[0], 0.0])
        along = flat / np.linalg.norm(flat) if np.linalg.norm(flat) > 1e-6 else np.array([1.0, 0.0, 0.0])
        s, t = loop @ along, loop @ np.cross(normal, along)
        corner = loop[0] + along * (s.min() - s[0]) + np.cross(normal, along) * (t.min() - t[0])
        box = self.add(parent, "RectangularGeometry")
        self.add(box, "Azimuth", round(azimuth, 6) % 360.0)
        self._point(box, corner)
        self.add(box, "Tilt", round(tilt, 6))
        self.add(box, "Height", self.length(float(np.ptp(t))))
        self.add(box, "Width", self.length(float(np.ptp(s))))
        polygon = self.add(self.add(parent, "PlanarGeometry"), "PolyLoop")
        for point in loop:
            self._point(polygon, point)

    def _point(self, parent: Any, point: NDArray[np.float64]) -> None:
        made = self.add(parent, "CartesianPoint")
        for value in point:
            self.add(made, "Coordinate", self.length(float(value)))

    def _construction(self, key: str, ref: str) -> None:
        if any(e.get("id") == ref for e in self.root):
            return
        element = self.add(self.root, "Construction", id=ref)
        if key == "shade":
            self.add(element, "Name", "Shade")
            return
        name, _, kind = key.partition(" ")
        found: Construction = self.brief.constructions[kind] if kind else self.brief.shelf.construction(name, "construction")  # type: ignore[index]
        self.add(element, "Name", found.name)
        self.add(element, "Description", f"reference {found.id}")
        if found.u_value is not None:
            self.add(element, "U-value", found.u_value / units.U_VALUE[self.unit["u"]], unit=self.unit["u"])
        self.add(element, "Absorptance", float(found.solar_absorptance), unit="Fraction", type="ExtSolar")
        inside, beyond = self.brief.scheme.skin.reflected(found)
        self.add(element, "Reflectance", float(inside), unit="Fraction", type="IntVisible", surfaceType="2")
        if beyond is not None:
            self.add(element, "Reflectance", float(beyond), unit="Fraction", type="ExtVisible", surfaceType="1")
        for number, layer in enumerate(found.layers):
            mark = self.id("layer", f"{ref}/{number + 1}")
            self.add(element, "LayerId", layerIdRef=mark)
            sheet = self.add(self.root, "Layer", id=mark)
            self.add(sheet, "Name", layer.name or f"Layer {number + 1}")
            stuff = self.id("material", f"{ref}/{number + 1}")
            self.add(sheet, "MaterialId", materialIdRef=stuff)
            material = self.add(self.root, "Material", id=stuff)
            self.add(material, "Name", layer.name or f"Layer {number + 1}")
            self.add(material, "Thickness", self.length(layer.thickness_m), unit=self.unit["length"])
            through = conductivity_of(layer, FLOW[found.element])
            self.add(material, "Conductivity", through / units.CONDUCTIVITY[self.unit["conductivity"]], unit=self.unit["conductivity"])
            self.add(material, "Density", layer.density / units.DENSITY[self.unit["density"]], unit=self.unit["density"])
            self.add(material, "SpecificHeat", layer.specific_heat / units.SPECIFIC_HEAT[self.unit["heat"]], unit=self.unit["heat"])

    def _glazing(self, name: str, ref: str) -> None:
        found: Glazing = self.brief.shelf.glazing(name, "glazing")
        kind = self.add(self.root, "WindowType", id=ref)
        self.add(kind, "Name", found.name)
        self.add(kind, "Description", f"reference {found.id}; frame share {found.frame_share:g}; panes {found.panes}")
        self.add(kind, "U-value", found.u_value / units.U_VALUE[self.unit["u"]], unit=self.unit["u"])
        self.add(kind, "SolarHeatGainCoeff", float(found.g_value), unit="Fraction")
        self.add(kind, "Transmittance", float(found.visible), unit="Fraction", type="Visible", surfaceType="Both")

    def _use(self) -> None:
        profiles = {p.id: p for p in (self._profile(z) for z in self.building.zones)}
        for profile in profiles.values():
            ref = self.id("profile", profile.id)
            for what, schedule in (("people", profile.occupancy), ("light", profile.lighting), ("equipment", profile.equipment)):
                self._schedule(f"{ref}-{what}", f"{profile.name}, {what}", "Fraction", hourly(schedule, self.days))
        to_file = np.vectorize(lambda v: units.from_celsius(float(v), self.unit["temperature"]))
        for zone in self.building.zones:
            asked = self.asked(zone)
            ref = self.id("zone", zone.id)
            series = (to_file(np.clip(s, -50, 99)) for s in (asked.heating_c, asked.cooling_c))
            names = [self._shared(what, course) for what, course in zip(("heating", "cooling"), series, strict=True)]
            made = self.add(self.root, "Zone", id=ref, heatSchedIdRef=names[0], coolSchedIdRef=names[1])
            self.add(made, "Name", zone.name)
            profile = asked.profile
            self.add(made, "OAFlowPerArea", profile.fresh_air_ls_m2 / units.FLOW_AREA[self.unit["flow_area"]], unit=self.unit["flow_area"])
            self.add(made, "OAFlowPerPerson", profile.fresh_air_ls_person / units.FLOW[self.unit["flow"]], unit=self.unit["flow"])

    def _shared(self, what: str, series: NDArray[np.float64]) -> str:
        """A temperature schedule, written once for all zones that have it."""
        key = f"{what} {np.round(series, 3).tobytes().hex()}"
        new = f"schedule {key}" not in self.used
        count = sum(k.startswith(f"schedule {what}") for k in self.used)
        if new:
            self.used[f"schedule {key}"] = f"{what}-{count + 1}"
            self._schedule(f"{what}-{count + 1}", f"{what} {count + 1}", "Temp", series)
        return self.used[f"schedule {key}"]

    def _schedule(self, ref: str, name: str, kind: str, series: NDArray[np.float64]) -> None:
        write_schedule(self.add, self.root, ref, name, kind, series, int(self.days.weekday[0]))


def _kind(face: Face) -> str:
    if face.boundary in ("adiabatic", "fixed"):
        return "InteriorWall" if face.kind == "wall" else "InteriorFloor" if face.kind == "floor" else "Ceiling"
    if face.boundary == "zone":
        return "InteriorWall" if face.kind == "wall" else "InteriorFloor"
    if face.boundary == "ground":
        return {"wall": "UndergroundWall", "floor": "SlabOnGrade", "ceiling": "UndergroundCeiling"}[face.kind]
    return {"wall": "ExteriorWall", "floor": "ExposedFloor", "ceiling": "Roof"}[face.kind]


def _decimal(value: float) -> str:
    """A number as the schema's decimal, which knows no exponent."""
    return str(np.format_float_positional(value, precision=10, fractional=False, trim="-"))


def _printable(text: str) -> str:
    return re.sub(r"[\x00-\x08\x0b\x0c\x0e-\x1f]", "", text)


__all__ = ["Shelf", "write_gbxml"]
