"""DXF plans: units, layers, far origins, closed outlines and texts, damaged files."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon

from eurythm.exchange.drawing import Drawing
from eurythm.exchange.dxf import read_dxf, rooms_of
from eurythm.exchange.samples import dxf
from eurythm.exchange.samples.court import CELLS
from eurythm.model.errors import EurythmError


@pytest.mark.parametrize(("unit", "metres"), [("mm", 0.001), ("m", 1.0), ("ft", 0.3048)])
def test_a_plan_far_off_comes_near_in_its_own_unit(tmp_path: Path, unit: str, metres: float) -> None:
    dxf.write_court(tmp_path / "plan.dxf", unit, origin_m=(512_000.0, 5_400_000.0))
    drawing = read_dxf(tmp_path / "plan.dxf", "plan.dxf")
    assert (drawing.unit, drawing.metres, drawing.guessed) == (unit, metres, False)
    x0, y0, x1, y1 = (v * metres for v in drawing.bounds)
    assert (x1 - x0, y1 - y0) == pytest.approx((40, 38), abs=0.01)
    assert abs(x0) < 100
    assert {layer.name for layer in drawing.layers} == set(dxf.LAYERS)


def test_closed_outlines_and_texts_make_rooms(tmp_path: Path) -> None:
    dxf.write_court(tmp_path / "plan.dxf")
    rooms, remarks = rooms_of(read_dxf(tmp_path / "plan.dxf", "plan.dxf"), "A-ROOM")
    assert {r.number: r.name for r in rooms} == {f"0.{c.key}": c.name for c in CELLS}
    assert remarks == []


def test_gross_doubled_and_crossing_outlines_are_passed_over_or_mended(tmp_path: Path) -> None:
    document = ezdxf.new()
    space = document.modelspace()
    for x in (0, 5):
        space.add_lwpolyline([(x, 0), (x + 4.8, 0), (x + 4.8, 4), (x, 4)], close=True)
    space.add_lwpolyline([(0, 0), (4.8, 0), (4.8, 4), (0, 4)], close=True)
    space.add_lwpolyline([(-1, -1), (11, -1), (11, 5), (-1, 5)], close=True)
    space.add_lwpolyline([(20, 0), (24, 4), (24, 0), (20, 4)], close=True)
    document.saveas(tmp_path / "odd.dxf")
    rooms, remarks = rooms_of(read_dxf(tmp_path / "odd.dxf", "odd.dxf"), "0")
    assert len(rooms) == 4
    assert len(remarks) == 3


def test_arcs_splines_and_blocks_are_lines_too(tmp_path: Path) -> None:
    document = ezdxf.new()
    space = document.modelspace()
    space.add_arc((0, 0), 5, 0, 90)
    space.add_circle((10, 0), 2)
    space.add_spline([(0, 0), (1, 2), (3, 1)])
    block = document.blocks.new("B")
    block.add_line((0, 0), (1, 0))
    space.add_blockref("B", (50, 50), dxfattribs={"layer": "FURNITURE"})
    document.saveas(tmp_path / "round.dxf")
    drawing = read_dxf(tmp_path / "round.dxf", "round.dxf")
    lines = {layer.name: len(layer.segments) // 4 for layer in drawing.layers}
    assert lines["0"] > 20
    assert lines["FURNITURE"] == 1


@pytest.mark.parametrize(
    ("body", "code"), [(b"", "empty-file"), (b"\x00\x01", "not-dxf"), (b"0\nSECTION\n2\nENT", "not-dxf"), (b"just words\n" * 9, "not-dxf")]
)
def test_what_is_no_plan_is_told(tmp_path: Path, body: bytes, code: str) -> None:
    (tmp_path / "bad.dxf").write_bytes(body)
    with pytest.raises(EurythmError) as fault:
        read_dxf(tmp_path / "bad.dxf", "bad.dxf")
    assert fault.value.code in (code, "nothing-drawn")
    assert "bad.dxf" in fault.value.message


def test_a_plan_without_lines_is_told(tmp_path: Path) -> None:
    ezdxf.new().saveas(tmp_path / "blank.dxf")
    with pytest.raises(EurythmError, match="holds no lines"):
        read_dxf(tmp_path / "blank.dxf", "blank.dxf")


@pytest.mark.parametrize(("limit", "value", "said"), [("MOST_BYTES", 1000, "MB are read"), ("MOST_SEGMENTS", 50, "more than 50 lines")])
def test_a_plan_that_is_too_large_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, limit: str, value: int, said: str) -> None:
    dxf.write_court(tmp_path / "plan.dxf")
    monkeypatch.setattr(f"eurythm.exchange.dxf.{limit}", value)
    with pytest.raises(EurythmError, match=said) as fault:
        read_dxf(tmp_path / "plan.dxf", "plan.dxf")
    assert fault.value.code == "too-large"


@pytest.mark.parametrize("share", [0.3, 0.6, 0.9])
def test_a_plan_that_was_cut_off_says_so(tmp_path: Path, share: float) -> None:
    dxf.write_court(tmp_path / "plan.dxf")
    text = (tmp_path / "plan.dxf").read_text()
    (tmp_path / "cut.dxf").write_text(text[: int(share * len(text))])
    with pytest.raises(EurythmError, match=r"“cut\.dxf” (is damaged|cannot be read)") as fault:
        read_dxf(tmp_path / "cut.dxf", "cut.dxf")
    assert fault.value.code == "not-dxf"


def drawn(folder: Path, *draw: Any, unit: int = 6) -> Drawing:
    """A plan with what the callbacks draw into its model space."""
    document = ezdxf.new()
    document.header["$INSUNITS"] = unit
    for call in draw:
        call(document, document.modelspace())
    document.saveas(folder / "plan.dxf")
    return read_dxf(folder / "plan.dxf", "plan.dxf")


def square(x: float, y: float, size: float = 4.0, layer: str = "ROOM") -> Any:
    corners = [(x, y), (x + size, y), (x + size, y + size), (x, y + size)]
    return lambda _, space: space.add_lwpolyline(corners, close=True, dxfattribs={"layer": layer})


def words(text: str, x: float, y: float, layer: str = "TEXT") -> Any:
    return lambda _, space: space.add_text(text, dxfattribs={"layer": layer, "insert": (x, y)})


@pytest.mark.parametrize(("size", "metres"), [(8.0, 1.0), (900.0, 0.01), (40_000.0, 0.001)])
def test_a_plan_without_a_unit_is_guessed_by_its_size_and_says_so(tmp_path: Path, size: float, metres: float) -> None:
    drawing = drawn(tmp_path, square(0, 0, size), unit=0)
    assert (drawing.unit, drawing.guessed, drawing.metres) == (None, True, metres)


@pytest.mark.parametrize(
    ("code", "name", "metres"), [(1, "in", 0.0254), (2, "ft", 0.3048), (4, "mm", 0.001), (5, "cm", 0.01), (14, "dm", 0.1)]
)
def test_units_that_the_file_names_are_taken(tmp_path: Path, code: int, name: str, metres: float) -> None:
    drawing = drawn(tmp_path, square(0, 0, 10), unit=code)
    assert (drawing.unit, drawing.metres, drawing.guessed) == (name, metres, False)


def test_texts_are_told_apart_into_number_name_and_area(tmp_path: Path) -> None:
    says = [words("1.07", 1, 3), words("Seminar", 1, 2.5), words("room", 1, 2), words("24.3 m²", 1, 1), words("elsewhere", 20, 20)]
    (room,) = rooms_of(drawn(tmp_path, square(0, 0), *says), "ROOM")[0]
    assert (room.number, room.name) == ("1.07", "Seminar room")


def test_only_texts_of_the_chosen_layers_name_rooms(tmp_path: Path) -> None:
    says = [words("1.07", 1, 3, "NUMBERS"), words("do not build", 1, 2, "NOTES")]
    drawing = drawn(tmp_path, square(0, 0), *says)
    assert rooms_of(drawing, "ROOM", ["NUMBERS"])[0][0].name == ""
    assert rooms_of(drawing, "ROOM")[0][0].name == "do not build"


def test_a_text_of_several_lines_is_read_line_by_line(tmp_path: Path) -> None:
    def multi(_: Any, space: Any) -> None:
        space.add_mtext("2.11\\PArchive", dxfattribs={"layer": "TEXT", "insert": (1, 3)})

    (room,) = rooms_of(drawn(tmp_path, square(0, 0), multi), "ROOM")[0]
    assert (room.number, room.name) == ("2.11", "Archive")


def test_rooms_come_in_the_order_of_their_numbers(tmp_path: Path) -> None:
    parts = [part for k, n in enumerate(("0.3", "0.1", "0.2")) for part in (square(5 * k, 0), words(n, 5 * k + 1, 1))]
    assert [r.number for r in rooms_of(drawn(tmp_path, *parts), "ROOM")[0]] == ["0.1", "0.2", "0.3"]


@pytest.mark.parametrize(("scale", "turn"), [((1, 1), 0), ((2, 2), 0), ((1, 1), 90), ((-1, 1), 0)])
def test_blocks_are_placed_turned_scaled_and_mirrored(tmp_path: Path, scale: tuple[float, float], turn: float) -> None:
    def block(document: Any, space: Any) -> None:
        made = document.blocks.new("DOOR")
        made.add_line((0, 0), (3, 1), dxfattribs={"layer": "0"})
        attributes = {"layer": "DOORS", "xscale": scale[0], "yscale": scale[1], "rotation": turn}
        space.add_blockref("DOOR", (10, 20), dxfattribs=attributes)

    drawing = drawn(tmp_path, block, square(0, 0, 30, "FRAME"))
    (layer,) = [la for la in drawing.layers if la.name == "DOORS"]
    ends = np.array(layer.segments).reshape(2, 2)
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    x, y = 3 * scale[0], 1 * scale[1]
    assert ends.tolist() == [pytest.approx([10, 20]), pytest.approx([10 + c * x - s * y, 20 + s * x + c * y], abs=1e-3)]


def test_blocks_within_blocks_are_taken_apart(tmp_path: Path) -> None:
    def nested(document: Any, space: Any) -> None:
        inner, outer = document.blocks.new("INNER"), document.blocks.new("OUTER")
        inner.add_line((0, 0), (1, 0))
        outer.add_blockref("INNER", (5, 0))
        outer.add_blockref("INNER", (0, 5), dxfattribs={"rotation": 90})
        space.add_blockref("OUTER", (100, 100), dxfattribs={"layer": "FURNITURE"})

    drawing = drawn(tmp_path, nested)
    (layer,) = drawing.layers
    found = {tuple(np.round(v, 3)) for v in np.array(layer.segments).reshape(-1, 4).tolist()}
    assert found == {(105, 100, 106, 100), (100, 105, 100, 106)}


def test_an_outline_with_arcs_keeps_its_area(tmp_path: Path) -> None:
    def rounded(_: Any, space: Any) -> None:
        # a square with a half circle on its right side
        space.add_lwpolyline([(0, 0, 0), (4, 0, 1), (4, 4, 0), (0, 4, 0)], format="xyb", close=True, dxfattribs={"layer": "ROOM"})

    (room,) = rooms_of(drawn(tmp_path, rounded), "ROOM")[0]
    assert Polygon(room.points).area == pytest.approx(16 + math.pi * 2**2 / 2, rel=1e-3)


def test_a_polyline_that_returns_to_its_start_is_closed(tmp_path: Path) -> None:
    def returning(_: Any, space: Any) -> None:
        space.add_lwpolyline([(0, 0), (4, 0), (4, 3), (0, 3), (0, 0)], dxfattribs={"layer": "ROOM"})
        space.add_lwpolyline([(10, 0), (14, 0), (14, 3)], dxfattribs={"layer": "ROOM"})

    drawing = drawn(tmp_path, returning)
    assert [la.closed for la in drawing.layers] == [1]
    assert len(rooms_of(drawing, "ROOM")[0]) == 1


def test_a_layer_without_closed_outlines_says_so(tmp_path: Path) -> None:
    drawing = drawn(tmp_path, lambda _, space: space.add_line((0, 0), (4, 0), dxfattribs={"layer": "ROOM"}))
    with pytest.raises(EurythmError) as fault:
        rooms_of(drawing, "ROOM")
    assert (fault.value.code, fault.value.path) == ("no-outlines", "ROOM")


def test_a_stray_line_far_off_does_not_move_the_plan(tmp_path: Path) -> None:
    def stray(_: Any, space: Any) -> None:
        for k in range(300):
            space.add_line((k % 20, k // 20), (k % 20 + 1, k // 20))
        space.add_line((9e5, 9e5), (9e5 + 1, 9e5))

    drawing = drawn(tmp_path, stray)
    assert drawing.moved == (0.0, 0.0)
    assert max(abs(b) for b in drawing.bounds) < 50


@settings(deadline=None, max_examples=20, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(st.integers(0, 6), st.integers(0, 6)), min_size=1, max_size=12, unique=True))
def test_any_set_of_squares_makes_as_many_rooms(tmp_path: Path, cells: list[tuple[int, int]]) -> None:
    rooms, remarks = rooms_of(drawn(tmp_path, *[square(5.0 * i, 5.0 * j) for i, j in cells]), "ROOM")
    assert remarks == []
    assert sum(Polygon(r.points).area for r in rooms) == pytest.approx(16.0 * len(cells))


@pytest.mark.parametrize("how", ["mirrored", "downward"])
def test_what_is_mirrored_or_extruded_downward_lands_where_it_is_drawn(tmp_path: Path, how: str) -> None:
    """Outlines, circles and names in a block turned over along its y axis; their own axes are turned over with it."""

    def block(document: Any, space: Any) -> None:
        made = document.blocks.new("UNIT")
        made.add_lwpolyline([(1, 0), (5, 0), (5, 3), (1, 3)], close=True, dxfattribs={"layer": "ROOM"})
        made.add_circle((3, 1), 0.5, dxfattribs={"layer": "COLUMN"})
        made.add_text("0.01", dxfattribs={"layer": "NAME", "insert": (2, 2)})
        turned = {"xscale": -1} if how == "mirrored" else {"extrusion": (0, 0, -1)}
        space.add_blockref("UNIT", (20, 10) if how == "mirrored" else (-20, 10), dxfattribs=turned)

    drawing = drawn(tmp_path, block, square(0, 0, 40, "FRAME"))
    outline = next(o for o in drawing.outlines if o.layer == "ROOM")
    assert Polygon(outline.points).bounds == pytest.approx((15, 10, 19, 13), abs=1e-3)
    column = next(o for o in drawing.outlines if o.layer == "COLUMN")
    assert np.mean(column.points, axis=0) == pytest.approx((17, 11), abs=1e-3)
    (text,) = drawing.texts
    assert (text.x, text.y) == pytest.approx((18, 12), abs=1e-3)


def test_attributes_of_a_block_are_read_once(tmp_path: Path) -> None:
    def block(document: Any, space: Any) -> None:
        made = document.blocks.new("TAG")
        made.add_attdef("NUMBER", (0, 0), dxfattribs={"layer": "TEXT"})
        made.add_line((0, 0), (1, 0))
        placed = space.add_blockref("TAG", (1, 1), dxfattribs={"layer": "TEXT"})
        placed.add_auto_attribs({"NUMBER": "0.07"})

    drawing = drawn(tmp_path, square(0, 0), block)
    assert [t.text for t in drawing.texts] == ["0.07"]
    assert [r.number for r in rooms_of(drawing, "ROOM")[0]] == ["0.07"]


@pytest.mark.parametrize("at", [(0.0, 0.0), (512_000.0, 5_410_000.0)])
def test_circles_and_arcs_keep_their_area(tmp_path: Path, at: tuple[float, float]) -> None:
    def round_room(_: Any, space: Any) -> None:
        space.add_circle(at, 5, dxfattribs={"layer": "ROOM"})
        x, y = at[0] + 20, at[1]
        space.add_lwpolyline(
            [(x, y, 0), (x + 4, y, 1), (x + 4, y + 4, 0), (x, y + 4, 0)], format="xyb", close=True, dxfattribs={"layer": "ROOM"}
        )

    areas = sorted(Polygon(o.points).area for o in drawn(tmp_path, round_room).outlines)
    assert areas == pytest.approx([16 + math.pi * 2**2 / 2, math.pi * 25], rel=1e-3)
