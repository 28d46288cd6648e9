"""Tables of materials: out and in again in SI and inch-pound, bad cells told, odd files refused."""

from __future__ import annotations

import io
from typing import Any

import pytest
from openpyxl import Workbook

from eurythm.exchange.grid import sheets_of
from eurythm.exchange.materials import COLUMNS, materials_csv, materials_xlsx, read_materials
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
        (b"Material,Conductivity W/m\xc2\xb2K,Density\nx,1,1\n", "the unit of “Conductivity W/m²K” is not known"),
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


UNITS = [
    ("W/mK", 1.0), ("W/(m K)", 1.0), ("W/(m·K)", 1.0), ("W/m·K", 1.0), ("W m-1 K-1", 1.0), ("W·m⁻¹·K⁻¹", 1.0), ("W/m/K", 1.0), ("W/m-K", 1.0),
    ("w/mk", 1.0), ("W/cm K", 100.0), ("kcal/mhK", 1.163), ("BTU/(h ft F)", 1.730735), ("Btu/h·ft·°F", 1.730735), ("BTU in/(h ft2 F)", 0.1442279),
    ("Btu·in/h·ft²·°F", 0.1442279), ("BTU/(hr-ft²-°F/in)", 0.1442279),
]  # fmt: skip


@pytest.mark.parametrize(("unit", "factor"), UNITS)
@pytest.mark.parametrize("head", ["Conductivity {}", "Conductivity ({})", "Thermal conductivity [{}]", "λ {}"])
def test_units_in_every_usual_spelling(unit: str, factor: float, head: str) -> None:
    table = read_materials(f"Material;{head.format(unit)};Density kg/m3\nOwn;0.5;2000\n".encode(), "own.csv", ())
    assert table.materials[0].conductivity == pytest.approx(0.5 * factor, rel=1e-5)


@pytest.mark.parametrize(
    ("unit", "factor"), [("J/(kg K)", 1.0), ("kJ/kg·K", 1000.0), ("Btu/lb·°F", 4186.8), ("BTU/(lb F)", 4186.8), ("kcal/kgK", 4186.8)]
)
def test_units_of_specific_heat(unit: str, factor: float) -> None:
    table = read_materials(
        f"Material;Conductivity;Density (g/cm³);Specific heat ({unit})\nOwn;0.5;2;{1000 / factor}\n".encode(), "own.csv", ()
    )
    assert (table.materials[0].specific_heat, table.materials[0].density) == pytest.approx((1000.0, 2000.0), rel=1e-4)


@pytest.mark.parametrize("unit", ["W/(m K", "W/m)K", "m K/W", "furlong", "W/m²K", "K)"])
def test_a_unit_of_something_else_is_none(unit: str) -> None:
    with pytest.raises(EurythmError, match="is not known"):
        read_materials(f"Material;Conductivity {unit};Density\nOwn;0.5;2000\n".encode(), "own.csv", ())


def workbook(**sheets: list[list[Any]]) -> bytes:
    book = Workbook()
    book.remove(book.worksheets[0])
    for title, rows in sheets.items():
        sheet = book.create_sheet(title)
        for row in rows:
            sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_all_sheets_are_offered_and_the_fitting_one_is_read() -> None:
    head = ["Material", "Conductivity", "Density"]
    book = workbook(Cover=[["Our materials"]], Walls=[head, ["Loam", 0.8, 1700]], Roofs=[head, ["Slate", 2.0, 2700]])
    assert sheets_of(book, "own.xlsx", COLUMNS) == (["Cover", "Walls", "Roofs"], "Walls")
    assert [m.name for m in read_materials(book, "own.xlsx", ()).materials] == ["Loam"]
    assert [m.name for m in read_materials(book, "own.xlsx", (), "Roofs").materials] == ["Slate"]
    with pytest.raises(EurythmError, match="has no column"):
        read_materials(book, "own.xlsx", (), "Cover")
    with pytest.raises(EurythmError, match="no sheet “Floors”"):
        read_materials(book, "own.xlsx", (), "Floors")


def test_slips_in_a_table_are_questioned_as_when_typed() -> None:
    """Taken as they stand, but asked about at their row, with the value that a slip explains."""
    table = read_materials(b"Material,Conductivity,Density\nSoftwood,1.3,480\nMineral wool,0.035,40\n", "own.csv", ())
    assert len(table.materials) == 2
    (asked,) = table.questions
    assert (asked.row, asked.column) == (2, "Conductivity")
    assert "unusual for timber" in asked.sentence
    assert "0.13?" in asked.sentence
