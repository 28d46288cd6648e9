"""The ground floor of the court sample as a DXF plan: walls, room outlines with numbers and names, furniture, far off its origin."""

from __future__ import annotations

from pathlib import Path

import ezdxf

from eurythm.exchange.samples.court import CELLS, openings, stretches

LAYERS = ("A-WALL", "A-ROOM", "A-ROOM-TEXT", "A-GLAZ", "A-FURN")
UNITS = {"mm": (4, 1000.0), "m": (6, 1.0), "ft": (2, 1 / 0.3048)}


def write_court(path: Path, unit: str = "mm", say_unit: bool = True, origin_m: tuple[float, float] = (0.0, 0.0), hatching: int = 0) -> None:
    """Write the plan.

    Parameters
    ----------
    unit : of the drawing; `say_unit` tells whether the file says so.
    origin_m : where the building stands, m.
    hatching : so many lines more, as drawings have them.
    """
    code, scale = UNITS[unit]
    ezdxf.options.write_fixed_meta_data_for_testing = True  # the same file each time
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = code if say_unit else 0
    for name in LAYERS:
        document.layers.add(name)
    space = document.modelspace()

    def at(x: float, y: float) -> tuple[float, float]:
        return (x + origin_m[0]) * scale, (y + origin_m[1]) * scale

    for cell in CELLS:
        corners = [(cell.x0, cell.y0), (cell.x1, cell.y0), (cell.x1, cell.y1), (cell.x0, cell.y1)]
        space.add_lwpolyline([at(*c) for c in corners], close=True, dxfattribs={"layer": "A-ROOM"})
        for k, corner in enumerate(corners):
            space.add_line(at(*corner), at(*corners[k - 3]), dxfattribs={"layer": "A-WALL"})
        for row, text in enumerate((f"0.{cell.key}", cell.name, f"{cell.area:.1f} m2")):
            place = at(cell.x0 + 1.0, (cell.y0 + cell.y1) / 2 - 0.6 * row)
            space.add_text(text, height=0.35 * scale, dxfattribs={"layer": "A-ROOM-TEXT", "insert": place})
    for x0, y0, x1, y1 in ((0.0, 0.0, 40.0, 38.0), (13.0, 13.0, 27.0, 25.0)):
        corners = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
        for k, corner in enumerate(corners):
            space.add_line(at(*corner), at(*corners[k - 3]), dxfattribs={"layer": "A-WALL"})
    for o in openings(1):
        c, side = o.stretch.room.cell, o.stretch.side
        line = {"south": c.y0, "north": c.y1, "west": c.x0, "east": c.x1}[side]
        a, b = o.at - o.width / 2, o.at + o.width / 2
        first, last = ((a, line), (b, line)) if side in ("south", "north") else ((line, a), (line, b))
        space.add_line(at(*first), at(*last), dxfattribs={"layer": "A-GLAZ"})
    table = document.blocks.new("TABLE")
    table.add_lwpolyline([(0, 0), (1.2 * scale, 0), (1.2 * scale, 0.7 * scale), (0, 0.7 * scale)], close=True)
    table.add_circle((0.6 * scale, -0.4 * scale), 0.25 * scale)
    for stretch in stretches(1):
        c = stretch.room.cell
        space.add_blockref("TABLE", at(c.x0 + 1.5, c.y0 + 1.5), dxfattribs={"layer": "A-FURN"})
    for k in range(hatching):
        x, y = (k % 400) * 0.1, (k // 400) * 0.25
        space.add_line(at(x, y), at(x + 0.08, y + 0.08), dxfattribs={"layer": "A-FURN"})
    document.saveas(path)
