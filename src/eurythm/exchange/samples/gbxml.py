"""The court sample as gbXML in SI or inch-pound units, with planted faults, and what an import must find in it.

Partitions lie on their centre lines, outside walls on their inner faces, storeys reach from floor to floor; areas and
volumes stated for the spaces are the rooms' inner ones.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from lxml import etree

from eurythm.exchange.samples.court import CELLS, CLEAR, INNER, NORTH_DEG, STOREY, Cell, Side, openings, overlap

NAMESPACE = "http://www.gbxml.org/schema"
STOREYS = 2
FAULTS = {"faces-turned": 1, "points-doubled": 1, "space-not-closed": 1}
TURNED, DOUBLED, MISSING = ("0.01", "south"), ("0.05", "east"), ("1.12", "top")
"""Surfaces with a planted fault, by room and side: looks inwards, names a point twice, is missing."""
Corner = tuple[float, float, float]


@dataclass(frozen=True)
class _Piece:
    """A stretch of a room's side on the file's plane, and the cell behind it, if any."""

    side: Side
    start: float
    end: float
    beyond: Cell | None


def bounds(cell: Cell) -> tuple[float, float, float, float]:
    """A room on the file's plane: grown to the centre line where a partition stands, x0, y0, x1, y1."""
    x0, y0, x1, y1 = cell.x0, cell.y0, cell.x1, cell.y1
    for other in CELLS:
        if overlap(cell.y0, cell.y1, other.y0, other.y1) > 0.01:
            x0 = cell.x0 - INNER / 2 if abs(other.x1 + INNER - cell.x0) < 1e-6 else x0
            x1 = cell.x1 + INNER / 2 if abs(other.x0 - INNER - cell.x1) < 1e-6 else x1
        if overlap(cell.x0, cell.x1, other.x0, other.x1) > 0.01:
            y0 = cell.y0 - INNER / 2 if abs(other.y1 + INNER - cell.y0) < 1e-6 else y0
            y1 = cell.y1 + INNER / 2 if abs(other.y0 - INNER - cell.y1) < 1e-6 else y1
    return x0, y0, x1, y1


def _pieces(cell: Cell) -> list[_Piece]:
    x0, y0, x1, y1 = bounds(cell)
    found = []
    lines: tuple[tuple[Side, float, tuple[float, float]], ...] = (
        ("south", y0, (x0, x1)),
        ("north", y1, (x0, x1)),
        ("west", x0, (y0, y1)),
        ("east", x1, (y0, y1)),
    )
    for side, line, (low, high) in lines:
        taken = []
        for other in CELLS:
            if other is cell:
                continue
            a0, b0, a1, b1 = bounds(other)
            opposite = {"south": b1, "north": b0, "west": a1, "east": a0}[side]
            span = (a0, a1) if side in ("south", "north") else (b0, b1)
            if abs(opposite - line) < 1e-6 and overlap(low, high, *span) > 1e-6:
                taken.append((max(low, span[0]), min(high, span[1]), other))
        at = low
        for start, end, other in sorted(taken, key=lambda t: t[0]):
            if start - at > 1e-6:
                found.append(_Piece(side, at, start, None))
            found.append(_Piece(side, start, end, other))
            at = end
        if high - at > 1e-6:
            found.append(_Piece(side, at, high, None))
    return found


def truth() -> dict[str, Any]:
    """Return what an import must find: on the file's planes, floor to floor."""
    walls: dict[str, float] = defaultdict(float)
    windows: dict[str, float] = defaultdict(float)
    pairs: dict[tuple[str, str, str], float] = defaultdict(float)
    for storey in range(STOREYS):
        for cell in CELLS:
            for piece in _pieces(cell):
                area = (piece.end - piece.start) * STOREY
                if piece.beyond is None:
                    walls[piece.side[0].upper()] += area
                elif cell.key < piece.beyond.key:
                    pairs[f"{storey}.{cell.key}", f"{storey}.{piece.beyond.key}", "wall"] += area
            x0, y0, x1, y1 = bounds(cell)
            if storey + 1 < STOREYS:
                pairs[f"{storey}.{cell.key}", f"{storey + 1}.{cell.key}", "floor"] += (x1 - x0) * (y1 - y0)
    for o in openings(STOREYS):
        windows[o.stretch.side[0].upper()] += o.width * o.height
    floor = sum((x1 - x0) * (y1 - y0) for x0, y0, x1, y1 in map(bounds, CELLS))
    return {
        "spaces": {f"{s}.{c.key}": {"floor_area_m2": c.area, "air_volume_m3": c.area * CLEAR} for s in range(STOREYS) for c in CELLS},
        "orientation": {side: {"wall_gross_m2": walls[side], "window_m2": windows[side]} for side in "NESW"},
        "roof_m2": floor,
        "ground_m2": floor,
        "adjacency": [{"a": a, "b": b, "kind": kind, "area_m2": area} for (a, b, kind), area in pairs.items()],
        "true_north_deg": NORTH_DEG,
    }


def write_court(path: Path, system: Literal["SI", "IP"] = "SI", faults: bool = True, far_m: float = 0.0) -> None:
    """Write the sample; `far_m` puts it that far off its origin."""
    etree.ElementTree(_Writer(system, faults, far_m).written()).write(str(path), xml_declaration=True, encoding="UTF-8")


class _Writer:
    def __init__(self, system: Literal["SI", "IP"], faults: bool, far_m: float) -> None:
        self.si, self.faults, self.far = system == "SI", faults, far_m
        self.foot = 1.0 if self.si else 0.3048
        unit = ("Meters", "SquareMeters", "CubicMeters", "C") if self.si else ("Feet", "SquareFeet", "CubicFeet", "F")
        self.root = etree.Element(f"{{{NAMESPACE}}}gbXML", nsmap={None: NAMESPACE})
        for name, value in zip(("lengthUnit", "areaUnit", "volumeUnit", "temperatureUnit"), unit, strict=True):
            self.root.set(name, value)
        self.root.set("useSIUnitsForResults", "true" if self.si else "false")
        self.root.set("version", "6.01")
        self.root.set("SurfaceReferenceLocation", "Centerline")

    def add(self, parent: Any, tag: str, text: object = None, **attributes: str) -> Any:
        element = etree.SubElement(parent, f"{{{NAMESPACE}}}{tag}", attributes)
        element.text = None if text is None else str(text)
        return element

    def length(self, metres: float) -> str:
        return f"{metres / self.foot:.7f}"

    def written(self) -> Any:
        campus = self.add(self.root, "Campus", id="campus")
        where = self.add(campus, "Location")
        self.add(where, "Name", "Rope Quay, Merrowhaven")
        self.add(where, "ZipcodeOrPostalCode", "none")
        self.add(where, "Longitude", -2.25)
        self.add(where, "Latitude", 53.5)
        self.add(where, "CADModelAzimuth", 360.0 + NORTH_DEG)
        building = self.add(campus, "Building", id="library", buildingType="Library")
        self.add(building, "Area", f"{STOREYS * sum(c.area for c in CELLS) / self.foot**2:.5f}")
        for s in range(STOREYS):
            level = self.add(building, "BuildingStorey", id=f"storey-{s}")
            self.add(level, "Name", f"Storey {s}")
            self.add(level, "Level", self.length(s * STOREY))
        for s in range(STOREYS):
            for cell in CELLS:
                space = self.add(
                    building, "Space", id=f"space-{s}-{cell.key}", buildingStoreyIdRef=f"storey-{s}", conditionType="HeatedAndCooled"
                )
                self.add(space, "Name", cell.name)
                self.add(space, "Description", f"number {s}.{cell.key}")
                self.add(space, "Area", f"{cell.area / self.foot**2:.6f}")
                self.add(space, "Volume", f"{cell.area * CLEAR / self.foot**3:.6f}")
        for s in range(STOREYS):
            for cell in CELLS:
                self._surfaces(campus, s, cell)
        self._fabric()
        return self.root

    def _surfaces(self, campus: Any, s: int, cell: Cell) -> None:
        low, high = s * STOREY, (s + 1) * STOREY
        x0, y0, x1, y1 = bounds(cell)
        room = f"{s}.{cell.key}"
        for number, piece in enumerate(_pieces(cell)):
            if piece.beyond is not None and cell.key > piece.beyond.key:
                continue
            a, b = self._ends(piece, (x0, y0, x1, y1))
            loop: list[Corner] = [(*a, low), (*b, low), (*b, high), (*a, high)]
            if self.faults and (room, piece.side) == TURNED and piece.beyond is None:
                loop.reverse()
            if self.faults and (room, piece.side) == DOUBLED and piece.beyond is None:
                loop.insert(2, loop[1])
            kind = "ExteriorWall" if piece.beyond is None else "InteriorWall"
            beyond = None if piece.beyond is None else f"space-{s}-{piece.beyond.key}"
            surface = self._surface(campus, f"{room} {piece.side} {number}", kind, f"space-{s}-{cell.key}", beyond, loop)
            if piece.beyond is None:
                self._openings(surface, s, cell, piece)
        floor: list[Corner] = [(x0, y0, low), (x0, y1, low), (x1, y1, low), (x1, y0, low)]
        if s == 0:
            self._surface(campus, f"{room} floor", "SlabOnGrade", f"space-{s}-{cell.key}", None, floor)
        top = [(x, y, high) for x, y, _ in reversed(floor)]
        if self.faults and (room, "top") == MISSING:
            return
        above = f"space-{s + 1}-{cell.key}" if s + 1 < STOREYS else None
        self._surface(campus, f"{room} top", "InteriorFloor" if above else "Roof", f"space-{s}-{cell.key}", above, top)

    def _ends(self, piece: _Piece, box: tuple[float, float, float, float]) -> tuple[tuple[float, float], tuple[float, float]]:
        """Where a piece starts and ends, walking with the room on the left."""
        x0, y0, x1, y1 = box
        return {
            "south": ((piece.start, y0), (piece.end, y0)), "east": ((x1, piece.start), (x1, piece.end)),
            "north": ((piece.end, y1), (piece.start, y1)), "west": ((x0, piece.end), (x0, piece.start)),
        }[piece.side]  # fmt: skip

    def _surface(self, campus: Any, name: str, kind: str, space: str, beyond: str | None, loop: list[Corner]) -> Any:
        construction = {"ExteriorWall": "AW-1", "InteriorWall": "IW-1", "SlabOnGrade": "GF-1", "InteriorFloor": "IF-1", "Roof": "RO-1"}[
            kind
        ]
        surface = self.add(
            campus, "Surface", id="s-" + name.replace(" ", "-").replace(".", "-"), surfaceType=kind, constructionIdRef=construction
        )
        self.add(surface, "Name", name)
        for ref in (space, beyond):
            if ref is not None:
                self.add(surface, "AdjacentSpaceId", spaceIdRef=ref)
        self._polygon(surface, loop)
        return surface

    def _polygon(self, parent: Any, loop: list[Corner]) -> None:
        polygon = self.add(self.add(parent, "PlanarGeometry"), "PolyLoop")
        for x, y, z in loop:
            point = self.add(polygon, "CartesianPoint")
            for value in (x + self.far, y, z):
                self.add(point, "Coordinate", self.length(value))

    def _openings(self, surface: Any, s: int, cell: Cell, piece: _Piece) -> None:
        x0, y0, x1, y1 = bounds(cell)
        for number, o in enumerate(openings(STOREYS)):
            if (o.stretch.room.storey, o.stretch.room.cell, o.stretch.side) != (s, cell, piece.side) or not piece.start < o.at < piece.end:
                continue
            a, b = self._ends(_Piece(piece.side, o.at - o.width / 2, o.at + o.width / 2, None), (x0, y0, x1, y1))
            low = s * STOREY + o.sill
            kind = "NonSlidingDoor" if o.kind == "door" else "FixedWindow"
            glass = "D-1" if o.kind == "door" else "W-1"
            opening = self.add(surface, "Opening", id=f"o-{number}", openingType=kind, windowTypeIdRef=glass)
            self.add(opening, "Name", f"{o.kind} {number}")
            self._polygon(opening, [(*a, low), (*b, low), (*b, low + o.height), (*a, low + o.height)])

    def _fabric(self) -> None:
        from eurythm.exchange.samples.ifc import LAYERS, MATERIALS

        for name, layers in LAYERS.items():
            ref = name.split()[0]
            construction = self.add(self.root, "Construction", id=ref)
            self.add(construction, "Name", name)
            listed = layers[::-1] if ref in ("RO-1",) else layers
            for k, _ in enumerate(listed):
                self.add(construction, "LayerId", layerIdRef=f"{ref}-layer-{k}")
            for k, (material, thick) in enumerate(listed):
                conductivity, density, heat = MATERIALS[material]
                layer = self.add(self.root, "Layer", id=f"{ref}-layer-{k}")
                self.add(layer, "MaterialId", materialIdRef=f"{ref}-material-{k}")
                sheet = self.add(self.root, "Material", id=f"{ref}-material-{k}")
                self.add(sheet, "Name", material)
                self.add(sheet, "Thickness", f"{thick / self.foot:.8f}", unit="Meters" if self.si else "Feet")
                values = (
                    ("Conductivity", conductivity, 1.730735, "WPerMeterK", "BtuPerHourFtF"), ("Density", density, 16.018463, "KgPerCubicM", "LbsPerCubicFt"),
                    ("SpecificHeat", heat, 4186.8, "JPerKgK", "BTUPerLbF"),
                )  # fmt: skip
                for tag, value, factor, metric, imperial in values:
                    self.add(sheet, tag, f"{value if self.si else value / factor:.8f}", unit=metric if self.si else imperial)
        for ref, u, g in (("W-1", 1.1, 0.52), ("D-1", 1.6, 0.0)):
            kind = self.add(self.root, "WindowType", id=ref)
            self.add(kind, "Name", "Triple glass" if ref == "W-1" else "Outside door")
            self.add(
                kind, "U-value", f"{u if self.si else u / 5.678263:.8f}", unit="WPerSquareMeterK" if self.si else "BtuPerHourSquareFtF"
            )
            self.add(kind, "SolarHeatGainCoeff", g, unit="Fraction")


__all__ = ["FAULTS", "truth", "write_court"]
