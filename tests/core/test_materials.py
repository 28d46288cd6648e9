"""Tables of materials: out and in again in SI and inch-pound, bad cells told, odd files refused."""

from __future__ import annotations

import io

import pytest
from openpyxl import Workbook

from eurythm.exchange.materials import materials_csv, materials_xlsx, read_materials
from eurythm.fabric.materials import MATERIALS
from eurythm.model.errors import EurythmError


@pytest.mark.parametrize("ip", [False, True], ids=["SI", "IP"])
@pytest.mark.parametrize("as_book", [False, True], ids=["csv", "xlsx"])
def test_out_and_in_again(ip: bool, as_book: bool) -> None:
    body = materials_xlsx(MATERIALS, ip) if as_book else materials_csv(MATERIALS, ip).encode()
    table = read_materials(body, "m", ())
    assert table.findings == ()
    assert len(table.materials) == len(MATERIALS)
    for made, was in zip(table.materials, MATERIALS, strict=True):
        assert (made.name, made.family, made.source) == (was.name, was.family, was.source)
        for field in ("conductivity", "density", "specific_heat", "vapour_resistance", "carbon_kg_kg"):
            assert getattr(made, field) == pytest.approx(getattr(was, field), rel=1e-6), field


def test_bad_cells_are_listed_and_their_rows_left_out() -> None:
    text = "Material;Conductivity W/mK;Density kg/m³\nhemp;0,045;60\nslag;-1;900\nfoam;good;30\n;0.1;5\nbrick;0.6;\n\nhemp;0.05;70\n"
    table = read_materials(text.encode(), "own.csv", {"hemp"})
    assert [(m.id, m.conductivity) for m in table.materials] == [("hemp-2", 0.045), ("hemp-3", 0.05)]
    told = {(f.row, f.column): f.sentence for f in table.findings}
    assert told[4, "Conductivity W/mK"] == "“good” is no number"
    assert "greater than" in told[3, "Conductivity W/mK"]
    assert told[5, "Material"] == "is empty"
    assert told[6, "Density kg/m³"] == "is empty"


@pytest.mark.parametrize(
    ("body", "said"),
    [
        (b"", "holds no rows"),
        (b"Name,Density kg/m\xc2\xb3\nx,1\n", "no column “Conductivity”"),
        (b"Material,Conductivity kcal/mhK,Density\nx,1,1\n", "the unit of “Conductivity kcal/mhK” is not known"),
        (b"PK\x03\x04broken", "no workbook"),
        (b"\x00\x01\x02", "neither CSV nor XLSX"),
        (b"Material,Conductivity,Density\n" + b"x,1,1\n" * 5001, "at most 5000"),
    ],
    ids=["empty", "column", "unit", "zip", "binary", "long"],
)
def test_odd_files_say_what_is_wrong(body: bytes, said: str) -> None:
    with pytest.raises(EurythmError, match=said):
        read_materials(body, "own.csv", ())


def test_a_formula_in_a_cell_is_text_when_it_goes_out() -> None:
    book = Workbook()
    book.worksheets[0].append(["Material", "Conductivity", "Density"])
    book.worksheets[0].append(["'=1+1", 0.1, 100])
    out = io.BytesIO()
    book.save(out)
    (made,) = read_materials(out.getvalue(), "x", ()).materials
    assert made.name == "=1+1"
    assert "\n'=1+1," in materials_csv([made])
