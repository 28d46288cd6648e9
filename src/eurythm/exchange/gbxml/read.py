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
from lxml import etree

from eurythm.brief.profiles import PROFILES
from eurythm.exchange.gbxml import units
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
from eurythm.geometry.mesh import area_vector
from eurythm.geometry.soup import body_of
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError
from eurythm.model.reading import dump

OUTDOORS = frozenset({"ExteriorWall", "Roof", "ExposedFloor", "RaisedFloor"})
GROUND = frozenset({"UndergroundWall", "UndergroundSlab", "UndergroundCeiling", "SlabOnGrade"})
INSIDE = frozenset({"InteriorWall", "InteriorFloor", "Ceiling", "Air"})
DOORS = frozenset({"SlidingDoor", "NonSlidingDoor"})
ROOFLIGHTS = frozenset({"FixedSkylight", "OperableSkylight"})
PROFILE_OF = {p.id: p for p in PROFILES}
LATENT_J_G = 2430.0
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
    if _tag(root) != "gbXML":
        raise EurythmError("not-gbxml", f"“{name}” is XML, but its root is “{_tag(root)}”, not gbXML.", name)
    return _Reader(root, name).received()


class _Reader:
    def __init__(self, root: Any, name: str) -> None:
        self.root, self.name = root, name
        self.metre = units.factor(units.LENGTH, root.get("lengthUnit", "Meters"), "lengthUnit")
        self.celsius = root.get("temperatureUnit", "C")
        self.by_id = {e.get("id"): e for e in root.iter() if isinstance(e.tag, str) and e.get("id")}
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
        campus = _first(root, "Campus")
        if campus is None:
            raise EurythmError("not-gbxml", f"“{self.name}” holds no Campus, so no building.", self.name)
        self._place(campus)
        surfaces = [e for e in campus.iter() if _tag(e) == "Surface"]
        self._recentre(surfaces)
        for storey in (e for e in campus.iter() if _tag(e) == "BuildingStorey"):
            level = _first(storey, "Level")
            height = 0.0 if level is None else self._number(level) * self._length(level) - float(self.shift[2])
            made.storeys.append(
                ReceivedStorey(id=storey.get("id", ""), name=_said(storey, "Name") or storey.get("id", ""), elevation_m=round(height, 5))
            )
        self._constructions()
        self._glazings()
        sides = self._sides(surfaces)
        profiles: dict[str, dict[str, Any]] = {}
        use: dict[str, dict[str, Any]] = {}
        spaces = [e for e in campus.iter() if _tag(e) == "Space"]
        for space in spaces:
            made.spaces.append(self._space(space, sides.get(space.get("id", ""), [])))
            self._loads(space, profiles, use)
        leaks = {u.pop("infiltration_ach") for u in use.values() if "infiltration_ach" in u}
        if len(leaks) == 1 and len(use) == len(made.spaces):
            made.extra.infiltration_ach = leaks.pop()
        made.extra.profiles, made.extra.zone_use, made.extra.zones = list(profiles.values()), use, self._zones(spaces)
        return made

    def _place(self, campus: Any) -> None:
        made = self.made
        where = _first(campus, "Location")
        if where is not None:
            made.place = _said(where, "Name")
            for tag, name in (("Latitude", "latitude_deg"), ("Longitude", "longitude_deg")):
                element = _first(where, tag)
                if element is not None:
                    setattr(made, name, self._number(element))
            azimuth = _first(where, "CADModelAzimuth")
            if azimuth is not None:
                degrees = self._number(azimuth)
                made.true_north_deg = degrees - 360.0 if degrees > 180.0 else degrees
            elevation = _first(where, "Elevation")
            if elevation is not None:
                made.elevation_m = round(self._number(elevation) * self._length(elevation), 4)
        building = _first(campus, "Building")
        made.project = _said(campus, "Name") or ("" if building is None else _said(building, "Name"))

    def _number(self, element: Any) -> float:
        try:
            value = float(element.text)
        except (TypeError, ValueError):
            text = (element.text or "").strip()
            raise EurythmError(
                "wrong-number", f"{_tag(element)} should be a number; it is “{text[:40]}”.", f"line {element.sourceline}"
            ) from None
        if not np.isfinite(value) or abs(value) > 1e12:
            raise EurythmError("wrong-number", f"{_tag(element)} is {value}, which is no sound number.", f"line {element.sourceline}")
        return value

    def _length(self, element: Any, *around: Any) -> float:
        """Factor to metres of an element: its own unit, that of what is around it, or the file's."""
        for candidate in (element, *around):
            if candidate is not None and candidate.get("unit"):
                return units.factor(units.LENGTH, candidate.get("unit"), _tag(candidate))
        return self.metre

    def _size(self, element: Any, attribute: str) -> float:
        """An area or a volume in m² or m³: in its own unit, the file's for such, or the power of the file's lengths."""
        square = attribute == "areaUnit"
        table, word = (units.AREA, "Square") if square else (units.VOLUME, "Cubic")
        unit = element.get("unit") or self.root.get(attribute) or f"{word}{self.root.get('lengthUnit', 'Meters')}"
        return self._number(element) * units.factor(table, unit, _tag(element))

    def _loop(self, thing: Any) -> Vec | None:
        """The polygon of a surface or opening, m; the rectangle where it has nothing else."""
        planar = _first(thing, "PlanarGeometry")
        polygon = None if planar is None else _first(planar, "PolyLoop")
        if polygon is not None:
            factor = self._length(planar)
            points = [[self._number(c) for c in p if _tag(c) == "Coordinate"] for p in polygon if _tag(p) == "CartesianPoint"]
            if any(len(p) != 3 for p in points):
                raise EurythmError("wrong-point", f"A point of “{_name(thing)}” has not three coordinates.", f"line {polygon.sourceline}")
            return np.array(points, dtype=float) * factor - self.shift if len(points) >= 3 else None
        box = _first(thing, "RectangularGeometry")
        if box is None:
            return None
        normal, size, corner = self._normal(box), self._rectangle_size(thing), _first(box, "CartesianPoint")
        at = [] if corner is None else [self._number(c) for c in corner if _tag(c) == "Coordinate"]
        if normal is None or size is None or len(at) != 3:
            return None
        level = np.hypot(normal[0], normal[1]) <= 1e-6
        flat = np.array([1.0, 0.0, 0.0]) if level else np.array([-normal[1], normal[0], 0.0]) / np.hypot(normal[0], normal[1])
        up = np.cross(normal, flat)
        start = np.array(at) * self._length(box) - self.shift
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
                    "surface-without-form", surface.get("id", ""), f"Surface “{_name(surface)}” has no polygon; it is left out.", False
                )
                continue
            spaces = [e.get("spaceIdRef") for e in surface if _tag(e) == "AdjacentSpaceId"]
            if kind == "Shade" or (not spaces and kind not in OUTDOORS):
                shades.append(ReceivedShade(name=_name(surface), corners=[tuple(p) for p in loop.round(5).tolist()]))
                continue
            unknown = [s for s in spaces if self.by_id.get(s) is None]
            if unknown or not spaces:
                what = f"names the space “{unknown[0]}”, which is not in the file" if unknown else "names no space"
                lost = [_name(e) for e in surface if _tag(e) == "Opening"]
                windows = f", with {', '.join(f'“{n}”' for n in lost[:5])}{', …' if len(lost) > 5 else ''}" if lost else ""
                sentence = f"Surface “{_name(surface)}” {what}; it is left out{windows}."
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
        for opening in (e for e in surface if _tag(e) == "Opening"):
            kind = opening.get("openingType", "")
            loop = self._opening_loop(opening, surface, outline)
            if loop is None:
                size = self._rectangle_size(opening)
                told = "without a form" if size is None else f"of {amount(size[0] * size[1], 'm²', 2)}"
                sentence = f"Opening “{_name(opening)}” {told} cannot be placed on “{_name(surface)}”; it is left out."
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
                    name=_name(opening),
                    kind="door" if opaque else "rooflight" if kind in ROOFLIGHTS else "window",
                    loop=[tuple(p) for p in loop.tolist()],
                    glazing=glazing,
                )
            )
        return holes, void

    def _rectangle_size(self, thing: Any) -> tuple[float, float] | None:
        """Width and height of a rectangle, m."""
        box = _first(thing, "RectangularGeometry")
        high, wide = (None if box is None else _first(box, t) for t in ("Height", "Width"))
        if high is None or wide is None:
            return None
        return self._number(wide) * self._length(wide, box), self._number(high) * self._length(high, box)

    def _opening_loop(self, opening: Any, surface: Any, outline: Vec) -> Vec | None:
        """The polygon of an opening; where it is a rectangle only, from the lower left corner of its surface seen from outside, or in the building."""
        planar = _first(opening, "PlanarGeometry")
        if planar is not None and _first(planar, "PolyLoop") is not None:
            return self._loop(opening)
        box, size = _first(opening, "RectangularGeometry"), self._rectangle_size(opening)
        corner = None if box is None else _first(box, "CartesianPoint")
        if corner is None or size is None:
            return None
        at = [self._number(c) * self._length(box) for c in corner if _tag(c) == "Coordinate"]
        own = _first(surface, "RectangularGeometry")
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
        azimuth, tilt = _first(box, "Azimuth"), _first(box, "Tilt")
        if azimuth is None or tilt is None:
            return None
        a, t = np.radians(self._number(azimuth)), np.radians(self._number(tilt))
        return np.array([np.sin(a) * np.sin(t), np.cos(a) * np.sin(t), np.cos(t)])

    def _own_glazing(self, opening: Any) -> str | None:
        """A window type of an opening that carries its values itself, or a construction of a door."""
        u = self._u_value(opening)
        if u is None and opening.get("constructionIdRef"):
            held = self.by_id.get(opening.get("constructionIdRef"))
            u = None if held is None else self._u_value(held)
        if u is None:
            return None
        shgc = _first(opening, "SolarHeatGainCoeff")
        g = 0.0 if shgc is None and opening.get("openingType") in DOORS else self._share(shgc)
        name = f"u{u:.3f}-g{'x' if g is None else f'{g:.2f}'}"
        if all(known.id != name for known in self.made.glazings):
            self.made.glazings.append(ReceivedGlazing(id=name, name=f"U {u:.2f}", u_value=u, g_value=g, visible=0.0 if g == 0.0 else None))
        return name

    def _u_value(self, thing: Any) -> float | None:
        element = _first(thing, "U-value")
        return None if element is None else self._number(element) * units.factor(units.U_VALUE, element.get("unit"), "U-value")

    def _share(self, element: Any) -> float | None:
        return None if element is None else self._number(element) * units.SHARE.get(element.get("unit", "Fraction"), 1.0)

    def _constructions(self) -> None:
        for element in (e for e in self.root if _tag(e) == "Construction"):
            layers: list[ReceivedLayer] = []
            for ref in (e for e in element if _tag(e) == "LayerId"):
                held = self.by_id.get(ref.get("layerIdRef"))
                for part in () if held is None else (e for e in held if _tag(e) == "MaterialId"):
                    material = self.by_id.get(part.get("materialIdRef"))
                    if material is not None:
                        layers += self._material(material)
            absorptance = next((self._share(e) for e in element if _tag(e) == "Absorptance" and e.get("type") == "ExtSolar"), None)
            self.made.constructions.append(
                ReceivedConstruction(
                    id=element.get("id", ""),
                    name=_said(element, "Name") or element.get("id", ""),
                    layers=layers,
                    u_value=self._u_value(element),
                    absorptance=absorptance,
                )
            )

    def _material(self, material: Any) -> list[ReceivedLayer]:
        """A material as a layer; without a thickness only its resistance counts, as one centimetre of it."""
        thickness = _first(material, "Thickness")
        resistance = _first(material, "R-value")
        r = None if resistance is None else self._number(resistance) * units.factor(units.RESISTANCE, resistance.get("unit"), "R-value")
        thick = 0.01 if thickness is None else self._number(thickness) * self._length(thickness)
        if thick <= 0 or (thickness is None and not r):
            return []

        def value(tag: str, table: dict[str, float]) -> float | None:
            found = _first(material, tag)
            made = None if found is None else self._number(found) * units.factor(table, found.get("unit"), tag)
            return made if made is not None and made > 0 else None

        return [
            ReceivedLayer(
                name=_said(material, "Name") or material.get("id", ""),
                thickness_m=thick,
                conductivity=value("Conductivity", units.CONDUCTIVITY),
                density=value("Density", units.DENSITY),
                specific_heat=value("SpecificHeat", units.SPECIFIC_HEAT),
                resistance=r if r and r > 0 else None,
            )
        ]

    def _glazings(self) -> None:
        more: dict[str, dict[str, Any]] = {}
        for element in (e for e in self.root if _tag(e) == "WindowType"):
            visible = next((self._share(e) for e in element if _tag(e) == "Transmittance" and e.get("type") == "Visible"), None)
            panes = sum(_tag(e) == "Glaze" for e in element) or None
            said = _said(element, "Description")
            share, count = (re.search(rf"{what} ([\d.]+)", said) for what in ("frame share", "panes"))
            name = element.get("id", "")
            self.made.glazings.append(
                ReceivedGlazing(
                    id=name,
                    name=_said(element, "Name") or name,
                    u_value=self._u_value(element),
                    g_value=self._share(_first(element, "SolarHeatGainCoeff")),
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
            zone = self.by_id.get(space.get("zoneIdRef"))
            if zone is not None:
                found[space.get("id", "")] = (zone.get("id", ""), _name(zone))
        return found

    def _space(self, space: Any, sides: list[_Side]) -> ReceivedSpace:
        ref = space.get("id", "")
        name = _said(space, "Name")
        number = re.search(r"number (\S+)", _said(space, "Description"))
        made = ReceivedSpace(
            id=ref, kind="room", class_name="Space", name=name, number=number[1] if number else "", storey=space.get("buildingStoreyIdRef"),
            use=space.get("spaceType", "") or _said(space, "TypeCode"), conditioned=space.get("conditionType", "") not in ("Unconditioned", "Vented"),
            properties={"TypeCode": _said(space, "TypeCode")} if _said(space, "TypeCode") else {},
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
                    "points-doubled", surface.get("id", ""), f"Surface “{_name(surface)}” names a point twice; one was dropped.", True
                )
        for k in body.turned:
            surface = sides[k].surface
            if sides[k].other is None:
                self._find("faces-turned", surface.get("id", ""), f"Surface “{_name(surface)}” looked inwards; it was turned.", True)
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
                    id=_name(side.surface) or side.surface.get("id", ""),
                    loop=corners,
                    boundary=side.boundary,
                    other=side.other,
                    open=side.surface.get("surfaceType") == "Air",
                    construction=side.construction,
                    holes=side.holes,
                )
            )
        made.closed = body.closed and body.volume > 0
        area, volume = _first(space, "Area"), _first(space, "Volume")
        made.floor_area_m2 = sum(
            -float(area_vector(loop)[2]) for loop in kept if area_vector(loop)[2] < -0.5 * np.linalg.norm(area_vector(loop))
        )
        voids = [s.void_m2 for s, loop in zip(sides, kept, strict=False) if area_vector(loop)[2] < -0.5 * np.linalg.norm(area_vector(loop))]
        if sum(voids) > 0:  # over a stair: no floor
            made.floor_area_m2 -= sum(voids)
            self._find("floor-void", ref, f"Openings of {amount(sum(voids), 'm²', 1)} in the floor of “{called}” are no floor.", True)
        made.volume_m3 = body.volume
        if area is not None and self._number(area) >= 0:
            said, drawn = self._size(area, "areaUnit"), made.floor_area_m2
            open_floor = sum(
                max(-float(area_vector(loop)[2]), 0.0)
                for s, loop in zip(sides, kept, strict=False)
                if s.surface.get("surfaceType") == "Air"
            )
            # our own assumption: where the area falls short of what is drawn by most of the floor that is only air, it leaves that out
            left_out = open_floor if drawn - said > open_floor / 2 else 0.0
            made.floor_area_m2 = said + left_out or drawn
        if volume is not None and self._number(volume) > 0:
            made.volume_m3 = self._size(volume, "volumeUnit")
        return made

    def _told(self, code: str, thing: str) -> bool:
        return not any(f.code == code and f.object == thing for f in self.made.findings)

    def _loads(self, space: Any, profiles: dict[str, dict[str, Any]], use: dict[str, dict[str, Any]]) -> None:
        """What a space says about people, light, equipment, air and temperatures, as a profile and a use of its zone."""
        mine: dict[str, Any] = {}
        people, light, equipment = (_first(space, t) for t in ("PeopleNumber", "LightPowerPerArea", "EquipPowerPerArea"))
        values: dict[str, Any] = {}
        area = _first(space, "Area")
        if people is not None and self._number(people) > 0:
            unit, count = people.get("unit", ""), self._number(people)
            per = {"SquareMPerPerson": 1.0, "SquareFtPerPerson": units.FOOT**2}.get(unit)
            if per is not None:
                values["person_area"] = count * per
            elif area is not None and self._number(area) > 0:
                values["person_area"] = self._size(area, "areaUnit") / count
        for gain in (e for e in space if _tag(e) == "PeopleHeatGain"):
            watts = self._number(gain) * units.factor(units.PERSON_POWER, gain.get("unit"), "PeopleHeatGain")
            if gain.get("heatGainType") == "Sensible":
                values["person_w"] = watts
            elif gain.get("heatGainType") == "Latent":
                values["person_moisture_g_h"] = watts * 3600.0 / LATENT_J_G
        for element, name in ((light, "lighting_w_m2"), (equipment, "equipment_w_m2")):
            if element is not None:
                values[name] = self._number(element) * units.factor(units.POWER_AREA, element.get("unit"), _tag(element))
        zone = self.by_id.get(space.get("zoneIdRef"))
        if zone is not None:
            for tag, name, table in (
                ("OAFlowPerPerson", "fresh_air_ls_person", units.FLOW),
                ("OAFlowPerArea", "fresh_air_ls_m2", units.FLOW_AREA),
            ):
                element = _first(zone, tag)
                if element is not None:
                    values[name] = self._number(element) * units.factor(table, element.get("unit"), tag)
            for attribute, name in (("heatSchedIdRef", "heating_c"), ("coolSchedIdRef", "cooling_c")):
                days = self._days(zone.get(attribute))
                if days is not None:
                    mine[name] = {d: [round(units.celsius(v, self.celsius), 4) for v in values_] for d, values_ in days.items()}
        schedules = {}
        for attribute, name in (
            ("peopleScheduleIdRef", "occupancy"),
            ("lightScheduleIdRef", "lighting"),
            ("equipmentScheduleIdRef", "equipment"),
        ):
            days = self._days(space.get(attribute))
            if days is not None:
                schedules[name] = days
        told = {"person_area", "lighting_w_m2", "equipment_w_m2"} & values.keys()
        if told or len(schedules) == 3:
            usual = PROFILE_OF.get(_said(space, "TypeCode")) or PROFILE_OF["office"]
            if len(schedules) < 3 or len(told) < 3:
                called = _said(space, "Name") or space.get("id", "")
                sentence = f"“{called}” does not say all of its use; what is missing is as in “{usual.name}”."
                self._find("use-completed", space.get("id", ""), sentence, True)
            body = {k: v for k, v in dump(usual).items() if k not in ("id", "name", "source")} | values | schedules
            known = next(
                (n for n, p in profiles.items() if {k: v for k, v in p.items() if k not in ("id", "name", "source")} == body), None
            )
            if known is None:
                known = f"use-{len(profiles) + 1}"
                profiles[known] = {
                    "id": known,
                    "name": _said(space, "TypeCode") or space.get("spaceType") or f"Use {len(profiles) + 1}",
                    "source": "read from the file",
                    **body,
                }
            mine["profile"] = known
        air = _first(space, "AirChangesPerHour")
        if air is not None:
            mine["infiltration_ach"] = self._number(air)
        if space.get("conditionType") in ("Unconditioned", "Vented"):
            mine["conditioned"] = False
        if mine:
            use[space.get("id", "")] = mine

    def _days(self, ref: str | None) -> dict[str, list[float]] | None:
        """The weekday, Saturday and Sunday of a schedule's first week, 24 values each."""
        schedule = self.by_id.get(ref)
        if schedule is None:
            return None
        week_ref = next(
            (e.get("weekScheduleIdRef") for y in schedule if _tag(y) == "YearSchedule" for e in y if _tag(e) == "WeekScheduleId"), None
        )
        week = self.by_id.get(week_ref)
        if week is None:
            return None
        found: dict[str, list[float]] = {}
        for day in (e for e in week if _tag(e) == "Day"):
            held = self.by_id.get(day.get("dayScheduleIdRef"))
            values = [] if held is None else [self._number(e) for e in held if _tag(e) == "ScheduleValue"]
            if not values or 24 % len(values):
                continue
            hours = [v for v in values for _ in range(24 // len(values))]
            kind = day.get("dayType", "")
            for name, kinds in (
                ("weekday", ("Weekday", "All", "Mon", "Tue", "Wed", "Thu", "Fri")), ("saturday", ("Sat", "Weekend", "WeekendOrHoliday", "All")),
                ("sunday", ("Sun", "Weekend", "WeekendOrHoliday", "All")),
            ):  # fmt: skip
                if kind in kinds:
                    found.setdefault(name, hours)
        return found if "weekday" in found else None


def _tag(element: Any) -> str:
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def _first(parent: Any, tag: str) -> Any:
    return next((e for e in parent if _tag(e) == tag), None)


def _said(parent: Any, tag: str) -> str:
    found = _first(parent, tag)
    return (found.text or "").strip()[:200] if found is not None else ""


def _name(thing: Any) -> str:
    return _said(thing, "Name") or thing.get("id", "")
