"""Reading gbXML: spaces with their surfaces, openings, constructions, window types, schedules and use.

Elements are taken by their local names, so that files of any version, with or without a namespace, are read alike.
"""

from __future__ import annotations

import re
from collections import defaultdict
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from eurythm.exchange.gbxml import units
from eurythm.exchange.gbxml.document import Document, first_of, name_of, tag_of, text_of
from eurythm.exchange.gbxml.use import Uses
from eurythm.exchange.intake.received import (
    Finding,
    Received,
    ReceivedConstruction,
    ReceivedFace,
    ReceivedGlazing,
    ReceivedHole,
    ReceivedLayer,
    ReceivedShade,
    ReceivedSpace,
    ReceivedStorey,
)  # fmt: skip
from eurythm.exchange.xml import parse_xml
from eurythm.geometry.building import Vec
from eurythm.geometry.loops import area_vector
from eurythm.geometry.soup import body_of
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError

OUTDOORS = frozenset({"ExteriorWall", "Roof", "ExposedFloor", "RaisedFloor"})
GROUND = frozenset({"UndergroundWall", "UndergroundSlab", "UndergroundCeiling", "SlabOnGrade"})
INSIDE = frozenset({"InteriorWall", "InteriorFloor", "Ceiling", "Air"})
DOORS = frozenset({"SlidingDoor", "NonSlidingDoor"})
ROOFLIGHTS = frozenset({"FixedSkylight", "OperableSkylight"})
FAR = 5000.0
ON_SURFACE = 0.05
"""How far a rectangle may reach beyond its surface, or lie off it, and still be on it, m."""
OLDEST = 0.32


@dataclass
class _Side:
    """A surface as one of its spaces sees it."""

    surface: Any
    loop: Vec
    boundary: str
    other: str | None
    construction: str | None
    holes: list[ReceivedHole] = field(default_factory=list)
    void_m2: float = 0.0
    """Openings of nothing but air in it, m²."""


def read_gbxml(path: Path, name: str) -> Received:
    """Read a gbXML file.

    Raises
    ------
    EurythmError
        ``not-gbxml``, ``unknown-unit`` or ``wrong-number``, with the element.
    """
    root = parse_xml(path, name)
    if tag_of(root) != "gbXML":
        raise EurythmError("not-gbxml", f"“{name}” is XML, but its root is “{tag_of(root)}”, not gbXML.", name)
    return _Reader(root, name).received()


class _Reader:
    def __init__(self, root: Any, name: str) -> None:
        self.root, self.name = root, name
        self.document = Document(root)
        self.made = Received(
            file=name, format="gbxml", version=root.get("version", ""), length_unit=root.get("lengthUnit", "Meters"), reference_plane="the surfaces of the file"
        )  # fmt: skip
        self.shift = np.zeros(3)

    def received(self) -> Received:
        """Read everything."""
        made, root = self.made, self.root
        if root.get("SurfaceReferenceLocation"):
            made.reference_plane += {"Centerline": ": centre lines of walls", "InteriorSurface": ": inner faces"}.get(
                root.get("SurfaceReferenceLocation"), ""
            )
        campus = first_of(root, "Campus")
        if campus is None:
            raise EurythmError("not-gbxml", f"“{self.name}” holds no Campus, so no building.", self.name)
        self._place(campus)
        surfaces = [e for e in campus.iter() if tag_of(e) == "Surface"]
        self._recentre(surfaces)
        for storey in (e for e in campus.iter() if tag_of(e) == "BuildingStorey"):
            level = first_of(storey, "Level")
            height = 0.0 if level is None else self.document.number(level) * self.document.length(level) - float(self.shift[2])
            made.storeys.append(
                ReceivedStorey(id=storey.get("id", ""), name=text_of(storey, "Name") or storey.get("id", ""), elevation_m=round(height, 5))
            )
        self._constructions()
        self._glazings()
        sides = self._sides(surfaces)
        uses = Uses(self.document, made.findings)
        spaces = [e for e in campus.iter() if tag_of(e) == "Space"]
        for space in spaces:
            made.spaces.append(self._space(space, sides.get(space.get("id", ""), [])))
            uses.take(space)
        made.extra.infiltration_ach = uses.common_leak(len(made.spaces))
        made.extra.profiles, made.extra.zone_use, made.extra.zones = list(uses.profiles.values()), uses.of_zones, self._zones(spaces)
        return made

    def _place(self, campus: Any) -> None:
        made = self.made
        where = first_of(campus, "Location")
        if where is not None:
            made.place = text_of(where, "Name")
            for tag, name in (("Latitude", "latitude_deg"), ("Longitude", "longitude_deg")):
                element = first_of(where, tag)
                if element is not None:
                    setattr(made, name, self.document.number(element))
            azimuth = first_of(where, "CADModelAzimuth")
            if azimuth is not None:
                degrees = self.document.number(azimuth)
                made.true_north_deg = degrees - 360.0 if degrees > 180.0 else degrees
            elevation = first_of(where, "Elevation")
            if elevation is not None:
                made.elevation_m = round(self.document.number(elevation) * self.document.length(elevation), 4)
        building = first_of(campus, "Building")
        made.project = text_of(campus, "Name") or ("" if building is None else text_of(building, "Name"))

    def _loop(self, thing: Any) -> Vec | None:
        """The polygon of a surface or opening, m; the rectangle where it has nothing else."""
        planar = first_of(thing, "PlanarGeometry")
        polygon = None if planar is None else first_of(planar, "PolyLoop")
        if polygon is not None:
            factor = self.document.length(planar)
            points = [[self.document.number(c) for c in p if tag_of(c) == "Coordinate"] for p in polygon if tag_of(p) == "CartesianPoint"]
            if any(len(p) != 3 for p in points):
                raise EurythmError("wrong-point", f"A point of “{name_of(thing)}” has not three coordinates.", f"line {polygon.sourceline}")
            return np.array(points, dtype=float) * factor - self.shift if len(points) >= 3 else None
        box = first_of(thing, "RectangularGeometry")
        if box is None:
            return None
        normal, size, corner = self._normal(box), self._rectangle_size(thing), first_of(box, "CartesianPoint")
        at = [] if corner is None else [self.document.number(c) for c in corner if tag_of(c) == "Coordinate"]
        if normal is None or size is None or len(at) != 3:
            return None
        level = np.hypot(normal[0], normal[1]) <= 1e-6
        flat = np.array([1.0, 0.0, 0.0]) if level else np.array([-normal[1], normal[0], 0.0]) / np.hypot(normal[0], normal[1])
        up = np.cross(normal, flat)
        start = np.array(at) * self.document.length(box) - self.shift
        return np.array([start, start + flat * size[0], start + flat * size[0] + up * size[1], start + up * size[1]])

    def _recentre(self, surfaces: list[Any]) -> None:
        loops = [loop for loop in (self._loop(s) for s in surfaces) if loop is not None]
        if not loops:
            return
        middle = np.median(np.array([loop.mean(axis=0) for loop in loops]), axis=0)
        away = float(np.linalg.norm(middle[:2]))
        if away > FAR or abs(middle[2]) > FAR:
            self.shift = np.floor(np.array([*middle[:2], middle[2] if abs(middle[2]) > FAR else 0.0]))
            self.made.moved_m = tuple(float(-s) for s in self.shift)  # type: ignore[assignment]
            self._find("moved-to-origin", "", f"The model lay {away / 1000:.0f} km off its origin; it was moved near it.", True)

    def _find(self, code: str, thing: str, sentence: str, mended: bool, loops: list[Any] | None = None) -> None:
        self.made.findings.append(Finding(code=code, object=thing, sentence=sentence, mended=mended, loops=loops or []))

    def _sides(self, surfaces: list[Any]) -> dict[str, list[_Side]]:
        """Surfaces by the spaces that they enclose; the second space of one sees it from behind."""
        found: dict[str, list[_Side]] = defaultdict(list)
        shades = []
        for surface in surfaces:
            kind = surface.get("surfaceType", "")
            loop = self._loop(surface)
            if loop is None:
                self._find(
                    "surface-without-form", surface.get("id", ""), f"Surface “{name_of(surface)}” has no polygon; it is left out.", False
                )
                continue
            spaces = [e.get("spaceIdRef") for e in surface if tag_of(e) == "AdjacentSpaceId"]
            if kind == "Shade" or (not spaces and kind not in OUTDOORS):
                shades.append(ReceivedShade(name=name_of(surface), corners=[tuple(p) for p in loop.round(5).tolist()]))
                continue
            unknown = [s for s in spaces if self.document.by_id.get(s) is None]
            if unknown or not spaces:
                what = f"names the space “{unknown[0]}”, which is not in the file" if unknown else "names no space"
                lost = [name_of(e) for e in surface if tag_of(e) == "Opening"]
                windows = f", with {', '.join(f'“{n}”' for n in lost[:5])}{', …' if len(lost) > 5 else ''}" if lost else ""
                sentence = f"Surface “{name_of(surface)}” {what}; it is left out{windows}."
                self._find("surface-without-space", surface.get("id", ""), sentence, False)
                continue
            holes, void = self._openings(surface, loop)
            construction = surface.get("constructionIdRef") or None
            distinct = list(dict.fromkeys(spaces))
            if len(distinct) == 2:
                first, second = distinct
                found[first].append(_Side(surface, loop, "zone", second, construction, holes, void))
                found[second].append(_Side(surface, loop[::-1], "zone", first, construction, void_m2=void))
                if kind == "Air":
                    self.made.extra.open.append((first, second))
            else:
                boundary = "outdoors" if kind in OUTDOORS else "ground" if kind in GROUND else "adiabatic"
                found[distinct[0]].append(_Side(surface, loop, boundary, None, construction, holes, void))
        if shades:
            self.made.extra.shades = shades
        return found

    def _openings(self, surface: Any, outline: Vec) -> tuple[list[ReceivedHole], float]:
        """The windows and doors of a surface, and the area of what is only air in it, m²."""
        holes, void = [], 0.0
        for opening in (e for e in surface if tag_of(e) == "Opening"):
            kind = opening.get("openingType", "")
            loop = self._opening_loop(opening, surface, outline)
            if loop is None:
                size = self._rectangle_size(opening)
                told = "without a form" if size is None else f"of {amount(size[0] * size[1], 'm²', 2)}"
                sentence = f"Opening “{name_of(opening)}” {told} cannot be placed on “{name_of(surface)}”; it is left out."
                self._find("opening-unplaced", opening.get("id", ""), sentence, False)
                continue
            if kind == "Air":
                void += float(np.linalg.norm(area_vector(loop)))
                continue
            glazing = opening.get("windowTypeIdRef") or self._own_glazing(opening)
            known = next((g for g in self.made.glazings if g.id == glazing), None)
            opaque = kind in DOORS and (known is None or not known.g_value)
            holes.append(
                ReceivedHole(
                    id=opening.get("id", ""),
                    name=name_of(opening),
                    kind="door" if opaque else "rooflight" if kind in ROOFLIGHTS else "window",
                    loop=[tuple(p) for p in loop.tolist()],
                    glazing=glazing,
                )
            )
        return holes, void

    def _rectangle_size(self, thing: Any) -> tuple[float, float] | None:
        """Width and height of a rectangle, m."""
        box = first_of(thing, "RectangularGeometry")
        high, wide = (None if box is None else first_of(box, t) for t in ("Height", "Width"))
        if high is None or wide is None:
            return None
        return self.document.number(wide) * self.document.length(wide, box), self.document.number(high) * self.document.length(high, box)

    def _opening_loop(self, opening: Any, surface: Any, outline: Vec) -> Vec | None:
        """The polygon of an opening; where it is a rectangle only, from the lower left corner of its surface seen from outside, or in the building."""
        planar = first_of(opening, "PlanarGeometry")
        if planar is not None and first_of(planar, "PolyLoop") is not None:
            return self._loop(opening)
        box, size = first_of(opening, "RectangularGeometry"), self._rectangle_size(opening)
        corner = None if box is None else first_of(box, "CartesianPoint")
        if corner is None or size is None:
            return None
        at = [self.document.number(c) * self.document.length(box) for c in corner if tag_of(c) == "Coordinate"]
        own = first_of(surface, "RectangularGeometry")
        normal = None if own is None else self._normal(own)
        normal = area_vector(outline) / max(float(np.linalg.norm(area_vector(outline))), 1e-12) if normal is None else normal
        flat = np.array([-normal[1], normal[0], 0.0])
        along = flat / np.linalg.norm(flat) if np.linalg.norm(flat) > 1e-6 else np.array([1.0, 0.0, 0.0])
        up = np.cross(normal, along)
        across, rise = outline @ along, outline @ up
        origin = outline[0] + along * (across.min() - across[0]) + up * (rise.min() - rise[0])
        starts = [origin + along * at[0] + up * at[1]] if len(at) >= 2 else []
        starts += [np.array(at) - self.shift] if len(at) == 3 else []
        for start in starts:
            loop: Vec = np.array([start, start + along * size[0], start + along * size[0] + up * size[1], start + up * size[1]])
            s, t, away = (loop - origin) @ along, (loop - origin) @ up, (loop - origin) @ normal
            wide, high = float(np.ptp(across)), float(np.ptp(rise))
            if min(s.min(), t.min(), wide - s.max(), high - t.max()) > -ON_SURFACE and float(np.abs(away).max()) < ON_SURFACE:
                return loop
        return None

    def _normal(self, box: Any) -> Vec | None:
        """Outward normal of a rectangle by its azimuth and tilt."""
        azimuth, tilt = first_of(box, "Azimuth"), first_of(box, "Tilt")
        if azimuth is None or tilt is None:
            return None
        a, t = np.radians(self.document.number(azimuth)), np.radians(self.document.number(tilt))
        return np.array([np.sin(a) * np.sin(t), np.cos(a) * np.sin(t), np.cos(t)])

    def _own_glazing(self, opening: Any) -> str | None:
        """A window type of an opening that carries its values itself, or a construction of a door."""
        u = self._u_value(opening)
        if u is None and opening.get("constructionIdRef"):
            held = self.document.by_id.get(opening.get("constructionIdRef"))
            u = None if held is None else self._u_value(held)
        if u is None:
            return None
        shgc = first_of(opening, "SolarHeatGainCoeff")
        g = 0.0 if shgc is None and opening.get("openingType") in DOORS else self._share(shgc)
        name = f"u{u:.3f}-g{'x' if g is None else f'{g:.2f}'}"
        if all(known.id != name for known in self.made.glazings):
            self.made.glazings.append(ReceivedGlazing(id=name, name=f"U {u:.2f}", u_value=u, g_value=g, visible=0.0 if g == 0.0 else None))
        return name

    def _u_value(self, thing: Any) -> float | None:
        element = first_of(thing, "U-value")
        return None if element is None else self.document.number(element) * units.factor(units.U_VALUE, element.get("unit"), "U-value")

    def _share(self, element: Any) -> float | None:
        return None if element is None else self.document.number(element) * units.SHARE.get(element.get("unit", "Fraction"), 1.0)

    def _constructions(self) -> None:
        for element in (e for e in self.root if tag_of(e) == "Construction"):
            layers: list[ReceivedLayer] = []
            for ref in (e for e in element if tag_of(e) == "LayerId"):
                held = self.document.by_id.get(ref.get("layerIdRef"))
                for part in () if held is None else (e for e in held if tag_of(e) == "MaterialId"):
                    material = self.document.by_id.get(part.get("materialIdRef"))
                    if material is not None:
                        layers += self._material(material)
            absorptance = next((self._share(e) for e in element if tag_of(e) == "Absorptance" and e.get("type") == "ExtSolar"), None)
            inside, beyond = (
                next((self._share(e) for e in element if tag_of(e) == "Reflectance" and e.get("type") == kind), None)
                for kind in ("IntVisible", "ExtVisible")
            )
            self.made.constructions.append(
                ReceivedConstruction(
                    id=element.get("id", ""),
                    name=text_of(element, "Name") or element.get("id", ""),
                    layers=layers,
                    u_value=self._u_value(element),
                    absorptance=absorptance,
                    reflected=(inside, beyond),
                )
            )

    def _material(self, material: Any) -> list[ReceivedLayer]:
        """A material as a layer; without a thickness only its resistance counts, as one centimetre of it."""
        thickness = first_of(material, "Thickness")
        resistance = first_of(material, "R-value")
        r = (
            None
            if resistance is None
            else self.document.number(resistance) * units.factor(units.RESISTANCE, resistance.get("unit"), "R-value")
        )
        thick = 0.01 if thickness is None else self.document.number(thickness) * self.document.length(thickness)
        if thick <= 0 or (thickness is None and not r):
            return []

        def value(tag: str, table: dict[str, float]) -> float | None:
            found = first_of(material, tag)
            made = None if found is None else self.document.number(found) * units.factor(table, found.get("unit"), tag)
            return made if made is not None and made > 0 else None

        return [
            ReceivedLayer(
                name=text_of(material, "Name") or material.get("id", ""),
                thickness_m=thick,
                conductivity=value("Conductivity", units.CONDUCTIVITY),
                density=value("Density", units.DENSITY),
                specific_heat=value("SpecificHeat", units.SPECIFIC_HEAT),
                resistance=r if r and r > 0 else None,
            )
        ]

    def _glazings(self) -> None:
        more: dict[str, dict[str, Any]] = {}
        for element in (e for e in self.root if tag_of(e) == "WindowType"):
            visible = next((self._share(e) for e in element if tag_of(e) == "Transmittance" and e.get("type") == "Visible"), None)
            panes = sum(tag_of(e) == "Glaze" for e in element) or None
            said = text_of(element, "Description")
            share, count = (re.search(rf"{what} ([\d.]+)", said) for what in ("frame share", "panes"))
            name = element.get("id", "")
            self.made.glazings.append(
                ReceivedGlazing(
                    id=name,
                    name=text_of(element, "Name") or name,
                    u_value=self._u_value(element),
                    g_value=self._share(first_of(element, "SolarHeatGainCoeff")),
                    visible=visible,
                    panes=int(count[1]) if count else min(panes, 4) if panes else None,
                )
            )
            if share and float(share[1]) <= 0.9:
                more[name] = {"frame_share": float(share[1])}
        if more:
            self.made.extra.glazings = more

    def _zones(self, spaces: list[Any]) -> dict[str, tuple[str, str]]:
        """Id and name of the zone that each space is in."""
        found = {}
        for space in spaces:
            zone = self.document.by_id.get(space.get("zoneIdRef"))
            if zone is not None:
                found[space.get("id", "")] = (zone.get("id", ""), name_of(zone))
        return found

    def _space(self, space: Any, sides: list[_Side]) -> ReceivedSpace:
        ref = space.get("id", "")
        name = text_of(space, "Name")
        number = re.search(r"number (\S+)", text_of(space, "Description"))
        made = ReceivedSpace(
            id=ref, kind="room", class_name="Space", name=name, number=number[1] if number else "", storey=space.get("buildingStoreyIdRef"),
            use=space.get("spaceType", "") or text_of(space, "TypeCode"), conditioned=space.get("conditionType", "") not in ("Unconditioned", "Vented"),
            properties={"TypeCode": text_of(space, "TypeCode")} if text_of(space, "TypeCode") else {},
        )  # fmt: skip
        if not sides:
            made.closed = False
            return made
        body = body_of([s.loop for s in sides])
        called = name or ref
        for k in body.thinned:
            surface = sides[k].surface
            if sides[k].other is None or sides[k].holes or not self._told("points-doubled", surface.get("id", "")):
                self._find(
                    "points-doubled", surface.get("id", ""), f"Surface “{name_of(surface)}” names a point twice; one was dropped.", True
                )
        for k in body.turned:
            surface = sides[k].surface
            if sides[k].other is None:
                self._find("faces-turned", surface.get("id", ""), f"Surface “{name_of(surface)}” looked inwards; it was turned.", True)
        kept = list(body.loops)
        for hole in body.holes:
            area = 0.5 * float(np.linalg.norm(np.sum(np.cross(hole, np.roll(hole, -1, axis=0)), axis=0)))
            how = "the hole was covered with a flat face" if body.closed else "it is left out"
            self._find(
                "space-not-closed",
                ref,
                f"“{called}” does not close: {amount(area, 'm²', 1)} are missing; {how}.",
                body.closed,
                [hole.round(4).tolist()],
            )
        for number_, loop in enumerate(kept):
            corners = [tuple(p) for p in np.round(loop, 6).tolist()]
            if number_ >= len(sides):
                made.faces.append(ReceivedFace(id=f"cover-{number_ - len(sides) + 1}", loop=corners))
                continue
            side = sides[number_]
            made.faces.append(
                ReceivedFace(
                    id=name_of(side.surface) or side.surface.get("id", ""),
                    loop=corners,
                    boundary=side.boundary,
                    other=side.other,
                    open=side.surface.get("surfaceType") == "Air",
                    construction=side.construction,
                    holes=side.holes,
                )
            )
        made.closed = body.closed and body.volume > 0
        area, volume = first_of(space, "Area"), first_of(space, "Volume")
        made.floor_area_m2 = sum(
            -float(area_vector(loop)[2]) for loop in kept if area_vector(loop)[2] < -0.5 * np.linalg.norm(area_vector(loop))
        )
        voids = [s.void_m2 for s, loop in zip(sides, kept, strict=False) if area_vector(loop)[2] < -0.5 * np.linalg.norm(area_vector(loop))]
        if sum(voids) > 0:  # over a stair: no floor
            made.floor_area_m2 -= sum(voids)
            self._find("floor-void", ref, f"Openings of {amount(sum(voids), 'm²', 1)} in the floor of “{called}” are no floor.", True)
        made.volume_m3 = body.volume
        if area is not None and self.document.number(area) >= 0:
            said, drawn = self.document.size(area, "areaUnit"), made.floor_area_m2
            open_floor = sum(
                max(-float(area_vector(loop)[2]), 0.0)
                for s, loop in zip(sides, kept, strict=False)
                if s.surface.get("surfaceType") == "Air"
            )
            # our own assumption: where the area falls short of what is drawn by most of the floor that is only air, it leaves that out
            left_out = open_floor if drawn - said > open_floor / 2 else 0.0
            made.floor_area_m2 = said + left_out or drawn
        if volume is not None and self.document.number(volume) > 0:
            made.volume_m3 = self.document.size(volume, "volumeUnit")
        return made

    def _told(self, code: str, thing: str) -> bool:
        return not any(f.code == code and f.object == thing for f in self.made.findings)
