"""DXF plans: units, layers, far origins, closed outlines and texts, damaged files."""

from __future__ import annotations

from pathlib import Path

import ezdxf
import pytest

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
