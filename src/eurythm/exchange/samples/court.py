"""The library around its court: rooms, walls and openings in plain figures, and what an import must find.

Everything is worked out here by hand from the cells below, without the geometry that reads it back, so that tests can
hold an import's report against it.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from typing import Literal

OUTER, INNER, SLAB, STOREY = 0.40, 0.15, 0.35, 4.0
CLEAR = STOREY - SLAB
LENGTH, DEPTH = 40.0, 38.0
COURT = (13.0, 13.0, 27.0, 25.0)
NORTH_DEG = -11.0
"""True azimuth of the drawing's north."""
LATITUDE, LONGITUDE = 53.5, -2.25
WINDOW = (1.8, 1.6, 0.9)
"""Width, height and sill of a window, m."""
MODULE = 3.0
CURTAIN = (5.0, 3.0)
Side = Literal["south", "east", "north", "west"]
OUT: dict[Side, tuple[int, int]] = {"south": (0, -1), "east": (1, 0), "north": (0, 1), "west": (-1, 0)}


@dataclass(frozen=True)
class Cell:
    """A room by the inner faces of its walls, m."""

    key: str
    name: str
    use: str
    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def area(self) -> float:
        """Floor area, m²."""
        return (self.x1 - self.x0) * (self.y1 - self.y0)


@dataclass(frozen=True)
class Room:
    """A cell on a storey."""

    cell: Cell
    storey: int

    @property
    def number(self) -> str:
        """Running number, storey first."""
        return f"{self.storey}.{self.cell.key}"

    @property
    def name(self) -> str:
        """Name as written in the drawing; one room bears none."""
        return "" if (self.storey, self.cell.key) == NAMELESS else self.cell.name

    @property
    def level(self) -> float:
        """Floor level, m."""
        return self.storey * STOREY


CELLS = (
    Cell("01", "Reading room", "Library", 0.4, 0.4, 12.6, 12.6),
    Cell("02", "Foyer", "Library", 12.75, 0.4, 19.925, 12.6),
    Cell("03", "Lending desk", "Library", 20.075, 0.4, 27.25, 12.6),
    Cell("04", "Stair", "Circulation", 27.4, 0.4, 33.425, 12.6),
    Cell("05", "Workshop wood", "Workshop", 33.575, 0.4, 39.6, 12.6),
    Cell("06", "Workshop print", "Workshop", 27.4, 12.75, 39.6, 18.925),
    Cell("07", "Workshop metal", "Workshop", 27.4, 19.075, 39.6, 25.25),
    Cell("08", "Seminar east", "Teaching", 27.4, 25.4, 39.6, 31.425),
    Cell("09", "Seminar north", "Teaching", 27.4, 31.575, 39.6, 37.6),
    Cell("10", "Children's library", "Library", 20.075, 25.4, 27.25, 37.6),
    Cell("11", "Newspapers", "Library", 12.75, 25.4, 19.925, 37.6),
    Cell("12", "Offices", "Office", 6.575, 25.4, 12.6, 37.6),
    Cell("13", "Store", "Storage", 0.4, 25.4, 6.425, 37.6),
    Cell("14", "Local history", "Library", 0.4, 19.075, 12.6, 25.25),
    Cell("15", "Open shelves", "Library", 0.4, 12.75, 12.6, 18.925),
)
NAMELESS = (1, "13")
UNCLOSED = (1, "12")
OUTSIDE = (1, "14")
"""Rooms with a planted fault: without name, not closed, in no storey."""


@dataclass(frozen=True)
class Stretch:
    """Where a room's wall faces outdoors: from the room's lower left corner of that side, seen from outside, m."""

    room: Room
    side: Side
    start: float
    end: float
    court: bool


@dataclass(frozen=True)
class Opening:
    """A window, curtain wall or outside door in a stretch; `at` is the middle along x or y of the drawing."""

    stretch: Stretch
    kind: Literal["window", "curtain", "door"]
    at: float
    width: float
    height: float
    sill: float


def rooms(storeys: int = 2) -> list[Room]:
    """Return all rooms of the sample."""
    return [Room(cell, s) for s in range(storeys) for cell in CELLS]


def stretches(storeys: int = 2) -> list[Stretch]:
    """Return where rooms look outdoors, to the street or into the court: the whole inner face of an outside wall."""
    found = []
    cx0, cy0, cx1, cy1 = COURT
    for room in rooms(storeys):
        c = room.cell
        for side, on_edge in (
            ("south", c.y0 == OUTER),
            ("north", c.y1 == DEPTH - OUTER),
            ("west", c.x0 == OUTER),
            ("east", c.x1 == LENGTH - OUTER),
        ):
            if on_edge:
                found.append(Stretch(room, side, *((c.x0, c.x1) if side in ("south", "north") else (c.y0, c.y1)), False))  # type: ignore[arg-type]
        along_x, along_y = overlap(c.x0, c.x1, cx0, cx1) > 0.5, overlap(c.y0, c.y1, cy0, cy1) > 0.5
        looks: tuple[tuple[Side, bool], ...] = (
            ("north", along_x and abs(c.y1 - (cy0 - OUTER)) < 1e-9),
            ("south", along_x and abs(c.y0 - (cy1 + OUTER)) < 1e-9),
            ("east", along_y and abs(c.x1 - (cx0 - OUTER)) < 1e-9),
            ("west", along_y and abs(c.x0 - (cx1 + OUTER)) < 1e-9),
        )
        found += [Stretch(room, s, *((c.x0, c.x1) if s in ("south", "north") else (c.y0, c.y1)), True) for s, touches in looks if touches]
    return found


def openings(storeys: int = 2) -> list[Opening]:
    """Return windows at a module, a curtain wall and a door in the foyer's court side, a door in the workshop's east side."""
    found = []
    for s in stretches(storeys):
        if s.room.cell.key == "02" and s.court:
            middle = (s.start + s.end) / 2
            found.append(Opening(s, "curtain", middle, *CURTAIN, 0.0))
            continue
        count = int((s.end - s.start) // MODULE)
        step = (s.end - s.start) / max(count, 1)
        for k in range(count):
            at = s.start + (k + 0.5) * step
            if s.room.storey == 0 and s.room.cell.key == "06" and s.side == "east" and k == 0:
                found.append(Opening(s, "door", at, 1.2, 2.2, 0.0))
            else:
                found.append(Opening(s, "window", at, *WINDOW))
    return found


def overlap(a0: float, a1: float, b0: float, b1: float) -> float:
    """Return the length that two spans share, negative where they stand apart."""
    return min(a1, b1) - max(a0, b0)


def party_walls() -> list[tuple[Cell, Cell, float]]:
    """Return pairs of cells with a partition between them and the length that they share, m."""
    found = []
    for i, a in enumerate(CELLS):
        for b in CELLS[i + 1 :]:
            side = min(abs(a.x1 - b.x0), abs(b.x1 - a.x0))
            ahead = min(abs(a.y1 - b.y0), abs(b.y1 - a.y0))
            if (abs(side - INNER) < 1e-6 and (long := overlap(a.y0, a.y1, b.y0, b.y1)) > 0.01) or (
                abs(ahead - INNER) < 1e-6 and (long := overlap(a.x0, a.x1, b.x0, b.x1)) > 0.01
            ):
                found.append((a, b, long))
    return found


def truth(storeys: int = 2) -> dict[str, object]:
    """Return what an import must find, on the inner faces of the rooms."""
    walls: dict[str, float] = defaultdict(float)
    windows: dict[str, float] = defaultdict(float)
    for s in stretches(storeys):
        walls[s.side[0].upper()] += (s.end - s.start) * CLEAR
    for o in openings(storeys):
        windows[o.stretch.side[0].upper()] += o.width * o.height
    pairs = [
        {"a": Room(a, s).number, "b": Room(b, s).number, "kind": "wall", "area_m2": long * CLEAR}
        for s in range(storeys)
        for a, b, long in party_walls()
    ]
    pairs += [
        {"a": Room(c, s).number, "b": Room(c, s + 1).number, "kind": "floor", "area_m2": c.area} for s in range(storeys - 1) for c in CELLS
    ]
    floor = sum(c.area for c in CELLS)
    return {
        "spaces": {r.number: {"floor_area_m2": r.cell.area, "air_volume_m3": r.cell.area * CLEAR} for r in rooms(storeys)},
        "orientation": {side: {"wall_gross_m2": walls[side], "window_m2": windows[side]} for side in "NESW"},
        "roof_m2": floor,
        "ground_m2": floor,
        "adjacency": pairs,
        "true_north_deg": NORTH_DEG,
    }
