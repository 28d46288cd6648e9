"""Constructions as tables, layer by layer, and whole sets of them by year."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.brief.resolve import Shelf
from eurythm.exchange.constructions import constructions_csv, constructions_xlsx, read_constructions
from eurythm.fabric.opaque import u_value
from eurythm.fabric.sets import SET_CONSTRUCTIONS, SETS
from eurythm.fabric.shipped import CONSTRUCTIONS, GLAZINGS
from eurythm.model.errors import EurythmError
from eurythm.model.library import Construction, Inlay, Layer, Library

STUDS = Construction(
    id="studs",
    name="Studs",
    element="wall",
    set_name="ours",
    layers=(
        Layer(name="cladding", thickness_m=0.02, conductivity=0.13, air="none"),
        Layer(name="", thickness_m=0.04, air="ventilated"),
        Layer(
            name="wool", thickness_m=0.2, conductivity=0.035, density=40, insulation=True,
            inlay=Inlay(name="timber", share=0.12, conductivity=0.13, density=500, specific_heat=1700, carbon_kg_kg=0.3),
        ),
        Layer(name="board", thickness_m=0.0125, conductivity=0.25, density=800, vapour_resistance=8, carbon_kg_kg=0.2),
    ),
)  # fmt: skip
STATED = Construction(
    id="stated", name="Stated", element="roof", u_value=0.2, thickness_m=0.3, mass="inside", capacity_kj_m2k=90, solar_absorptance=0.8
)


@pytest.mark.parametrize("ip", [False, True], ids=["SI", "IP"])
@pytest.mark.parametrize("as_book", [False, True], ids=["csv", "xlsx"])
def test_constructions_go_out_and_come_in_again(ip: bool, as_book: bool) -> None:
    all_of_them = (*CONSTRUCTIONS, *SET_CONSTRUCTIONS, STUDS, STATED)
    body = constructions_xlsx(all_of_them, ip) if as_book else constructions_csv(all_of_them, ip).encode()
    table = read_constructions(body, "c", ())
    assert table.findings == ()
    assert len(table.constructions) == len(all_of_them)
    for made, was in zip(table.constructions, all_of_them, strict=True):
        assert (made.name, made.element, made.set_name, made.source) == (was.name, was.element, was.set_name, was.source or made.source)
        assert u_value(made) == pytest.approx(u_value(was), rel=1e-9)
        assert [(x.name, x.air, x.insulation) for x in made.layers] == [(x.name, x.air, x.insulation) for x in was.layers]
        assert (made.mass, made.solar_absorptance) == (was.mass, was.solar_absorptance)
    studs = table.constructions[-2].layers[2].inlay
    assert studs is not None
    assert studs.model_dump() == pytest.approx(STUDS.layers[2].inlay.model_dump() if STUDS.layers[2].inlay else {})


HEAD = "Construction;Element;U-value W/m²K;Layer;Thickness mm;Conductivity;Density;Insulation\n"


def test_a_bad_cell_leaves_its_whole_construction_out_and_is_told() -> None:
    text = HEAD.replace("Thickness mm", "Thickness m") + (
        "Good;wall;;brick;0.24;0.7;1600;\n;;;wool;0,1;0.035;40;yes\n"
        "Thin;wall;;brick;thin;0.7;1600;\n;;;wool;0.1;0.035;40;\n"
        "Wet;wall;;brick;0.2;-1;1600;\n"
        "Odd;chimney;;brick;0.2;0.7;1600;\n"
        "Both;wall;0.3;brick;0.2;0.7;1600;\n"
        "Empty;wall;;;;;;\n"
        "Ins;wall;;brick;0.2;0.7;1600;maybe\n"
        "Zero;wall;0;;;;;\nMuch;wall;21;;;;;\nFine;roof;0.2;;;;;\n"
    )
    table = read_constructions(text.encode(), "own.csv", {"good"})
    assert [(c.id, len(c.layers)) for c in table.constructions] == [("good-2", 2), ("fine", 0)]
    told = {f.row: (f.column, f.sentence) for f in table.findings}
    assert told[4] == ("Thickness m", "“thin” is no number")
    assert told[6][0] == "Conductivity"
    assert "chimney" in told[7][1]
    assert "either by layers or by its U-value" in told[8][1]
    assert "either by layers or by its U-value" in told[9][1]
    assert told[10] == ("Insulation", "is yes or no")
    assert {told[11][0], told[12][0]} == {"U-value W/m²K"}


def test_forty_layers_are_taken_and_one_more_is_not() -> None:
    def table(count: int) -> bytes:
        rows = "".join(f"Many;wall;;leaf {k};0.01;0.2;500;\n" for k in range(count))
        return (HEAD.replace("Thickness mm", "Thickness m") + rows).encode()

    assert len(read_constructions(table(40), "x", ()).constructions[0].layers) == 40
    more = read_constructions(table(41), "x", ())
    assert more.constructions == ()
    assert "40" in more.findings[0].sentence


def test_an_unknown_unit_or_no_name_column_is_refused() -> None:
    with pytest.raises(EurythmError, match="the unit of “Thickness lb” is not known; use m or"):
        read_constructions(b"Construction,Layer,Thickness lb\nx,brick,0.1\n", "x", ())
    with pytest.raises(EurythmError, match="no column “Construction”"):
        read_constructions(b"Layer,Thickness m\nbrick,0.1\n", "x", ())


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=300))
def test_no_bytes_do_more_than_be_refused(body: bytes) -> None:
    try:
        table = read_constructions(body, "x", ())
    except EurythmError as fault:
        told = str(fault)
    else:
        told = "read" if not table.constructions else ""
    assert told


def test_sets_run_from_uninsulated_to_the_best_of_today_and_keep_their_word() -> None:
    shelf = Shelf(Library())
    walls = []
    for one in SETS:
        assert set(one.constructions) == {"wall", "roof", "ground_floor", "exposed_floor"}
        assert one.glazing in {g.id for g in GLAZINGS}
        said = float(one.name.rpartition("U ")[2])
        walls.append(u_value(one.constructions["wall"], "wall"))
        assert walls[-1] == pytest.approx(said, rel=0.03)
        for element, made in one.constructions.items():
            assert shelf.constructions[made.id] is made
            assert made.set_name == one.name
            assert "assumption" in made.source
            assert f"{u_value(made, element):.2f}" in made.name
    assert max(walls) > 2
    assert min(walls) == pytest.approx(0.1, rel=0.02)
