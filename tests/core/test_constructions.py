"""Constructions against hand-worked cases: ISO 6946 limits and air layers, ISO 13786 swings, ISO 13788 moisture, slips."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from eurythm.fabric.materials import MATERIALS
from eurythm.fabric.moisture import Climate, moisture, room_climate, saturated_at_c, saturation_pa
from eurythm.fabric.opaque import (
    BuildUp,
    build_up,
    heat_capacity,
    layer_resistances,
    limits_of,
    slab_nodes,
    thickness,
    u_value,
)
from eurythm.fabric.periodic import DAY_S, periodic
from eurythm.fabric.shipped import CONSTRUCTIONS
from eurythm.fabric.usual import FAMILIES, KINDS, kind_of, material_questions, question, questions
from eurythm.model.errors import EurythmError
from eurythm.model.library import Construction, Library, Material
from eurythm.model.reading import read_document
from tests.conftest import make_scheme, run_scheme, volume


def layer(name: str, mm: float, conductivity: float | None, **more: Any) -> dict[str, Any]:
    return {"name": name, "thickness_m": mm / 1000} | ({"conductivity": conductivity} if conductivity else {}) | more


def made(*layers: dict[str, Any], element: str = "wall", **more: Any) -> Construction:
    return read_document(Construction, {"id": "c", "name": "C", "element": element, "layers": list(layers), **more})


STUDS = {"name": "softwood", "share": 0.12, "conductivity": 0.13, "density": 480, "specific_heat": 1600}
TIMBER_WALL = made(
    layer("wood fibre board", 60, 0.045, vapour_resistance=5),
    layer("mineral wool", 160, 0.035, density=40, specific_heat=1030, inlay=STUDS, vapour_resistance=1),
    layer("gypsum board", 12.5, 0.25, vapour_resistance=8),
)


def test_studs_by_upper_and_lower_limit() -> None:
    """The case of the reference figures: R'T 5.3539, R''T 5.0016, U 0.1931."""
    limits = limits_of(TIMBER_WALL)
    assert limits.upper == pytest.approx(5.3539, abs=5e-4)
    assert limits.lower == pytest.approx(5.0016, abs=5e-4)
    assert u_value(TIMBER_WALL) == pytest.approx(0.1931, abs=5e-5)
    assert limits.error == pytest.approx((5.3539 - 5.0016) / (2 * 5.1777), abs=1e-4)


def test_crossing_studs_meet_in_four_sections() -> None:
    cross = {"name": "softwood", "share": 0.1, "conductivity": 0.13}
    wall = made(layer("wool", 100, 0.04, inlay=STUDS), layer("wool", 50, 0.04, inlay=cross))
    a, b = 0.1 / 0.04, 0.05 / 0.04
    c, d = 0.1 / 0.13, 0.05 / 0.13
    upper = 1 / sum(s * t / (0.17 + r + q) for s, r in ((0.88, a), (0.12, c)) for t, q in ((0.9, b), (0.1, d)))
    lower = 0.17 + 1 / (0.88 / a + 0.12 / c) + 1 / (0.9 / b + 0.1 / d)
    assert (limits_of(wall).upper, limits_of(wall).lower) == pytest.approx((upper, lower))


@pytest.mark.parametrize(
    ("element", "mm", "resistance"), [("wall", 25, 0.18), ("roof", 50, 0.16), ("exposed_floor", 100, 0.22), ("wall", 12.5, 0.16)]
)
def test_a_still_air_layer_resists_by_thickness_and_flow(element: str, mm: float, resistance: float) -> None:
    wall = made(
        layer("brick", 100, 0.5), {"name": "air", "thickness_m": mm / 1000, "air": "still"}, layer("brick", 100, 0.5), element=element
    )
    assert layer_resistances(wall, wall.element)[1] == pytest.approx(resistance)


def test_beyond_a_ventilated_layer_nothing_counts_and_the_film_is_still() -> None:
    inner = layer("wool", 200, 0.04)
    wall = made(layer("cladding", 20, 0.13), {"name": "air", "thickness_m": 0.04, "air": "ventilated"}, inner)
    assert u_value(wall) == pytest.approx(1 / (0.13 + 5.0 + 0.13))
    built = build_up(wall, "wall")
    assert built.resistance + 0.04 + 0.13 == pytest.approx(1 / u_value(wall))
    assert built.thickness == pytest.approx(0.26) == thickness(wall)


@given(st.floats(0.02, 0.5), st.floats(0.03, 0.2), st.floats(0.02, 0.4))
def test_the_heat_balance_gets_the_resistance_of_the_standard(thick: float, conductivity: float, share: float) -> None:
    studs = STUDS | {"share": share}
    wall = made(layer("board", 15, 0.13), layer("wool", thick * 1000, conductivity, inlay=studs))
    limits = limits_of(wall)
    assert limits.lower <= limits.upper + 1e-9
    assert build_up(wall, "wall").resistance + 0.17 == pytest.approx(limits.resistance)


@pytest.mark.parametrize("mass", ["inside", "outside", "divided", "distributed"])
def test_mass_of_a_stated_u_value_lies_where_it_is_said(mass: str) -> None:
    wall = read_document(Construction, {"id": "c", "name": "C", "u_value": 0.3, "mass": mass, "capacity_kj_m2k": 200, "thickness_m": 0.3})
    built = build_up(wall, "wall")
    assert built.resistance == pytest.approx(1 / 0.3 - 0.17)
    assert built.capacity == pytest.approx(200e3)
    assert (heat_capacity(wall), built.thickness) == (200, 0.3)
    conductance, nodes = slab_nodes(built.layers)
    depth = np.concatenate([[0.0], np.cumsum(1 / conductance)]) / built.resistance
    inside = (nodes * depth).sum() / nodes.sum()
    assert inside == pytest.approx({"inside": 1.0, "outside": 0.0, "divided": 0.5}.get(mass, 0.5), abs=0.1)


def test_mass_inside_lowers_the_swing_of_a_year_and_mass_outside_hardly() -> None:
    peaks = {}
    for mass in ("none", "inside", "outside"):
        wall = {"id": "w", "name": "W", "u_value": 0.3, "mass": mass, "capacity_kj_m2k": 250}
        run = run_scheme(make_scheme(volumes=[volume()], skin={"wall": "w"}), library=read_document(Library, {"constructions": [wall]}))
        peaks[mass] = run.outcome.totals["heating_demand_kwh"] + run.outcome.totals["cooling_demand_kwh"]
    assert peaks["inside"] < peaks["outside"] < peaks["none"] * 1.001


# ISO 13786


def by_parts(built: BuildUp, films: tuple[float, float], refine: int = 60) -> tuple[complex, complex]:
    """Admittance inside and transmittance of a daily sine, by a chain of many small resistances and capacities."""
    omega = 2 * math.pi / DAY_S
    chain = np.eye(2, dtype=complex)

    def add(resistance: float, capacity: float) -> None:
        nonlocal chain
        half = np.array([[1, -resistance / 2], [0, 1]], dtype=complex)
        store = np.array([[1, 0], [-1j * omega * capacity, 1]], dtype=complex)
        chain = half @ store @ half @ chain

    add(films[1], 0.0)
    for resistance, capacity in reversed(built.layers):
        for _ in range(refine):
            add(resistance / refine, capacity / refine)
    add(films[0], 0.0)
    return (chain[0, 0] - 1) / chain[0, 1], -1 / chain[0, 1]


@pytest.mark.parametrize("construction", [c for c in CONSTRUCTIONS if c.element in ("wall", "roof")], ids=lambda c: c.id)
def test_a_daily_swing_equals_a_fine_chain(construction: Construction) -> None:
    built = build_up(construction, construction.element)
    films = (0.04, 0.13) if construction.element == "wall" else (0.04, 0.10)
    store, through = by_parts(built, films)
    found = periodic(built, construction.element)
    assert found.inside_kj_m2k == pytest.approx(abs(store) * DAY_S / (2 * math.pi) / 1000, rel=0.01)
    assert found.transmittance == pytest.approx(abs(through), rel=0.01)
    assert found.shift_h == pytest.approx((-np.angle(through) % (2 * math.pi)) * 24 / (2 * math.pi), abs=0.1)
    assert found.decrement == pytest.approx(found.transmittance * (sum(films) + built.resistance))


def test_a_thick_wall_stores_what_its_effusivity_and_film_say() -> None:
    """A half space behind a film: Y = 1/(R + 1/(b sqrt(jw))), worked by hand for concrete."""
    b, omega = math.sqrt(2.0 * 2400 * 1000), 2 * math.pi / DAY_S
    admittance = 1 / (0.13 + 1 / (b * np.sqrt(1j * omega)))
    found = periodic(build_up(made(layer("concrete", 2000, 2.0, density=2400, specific_heat=1000)), "wall"), "wall")
    assert found.inside_kj_m2k == pytest.approx(abs(admittance) / omega / 1000, rel=0.01)
    assert found.decrement < 1e-4


def test_a_light_construction_neither_stores_nor_lags() -> None:
    found = periodic(build_up(made(layer("wool", 100, 0.04)), "wall"), "wall")
    assert (found.decrement, found.shift_h, found.inside_kj_m2k) == pytest.approx((1.0, 0.0, 0.0), abs=1e-9)


def test_a_very_deep_construction_stays_finite() -> None:
    found = periodic(build_up(made(layer("earth", 5000, 0.002, density=25000, specific_heat=10000)), "wall"), "wall")
    assert all(math.isfinite(v) for v in vars(found).values())


# ISO 13788


def steady(outside_c: float, outside_pct: float, inside_c: float, inside_pct: float) -> Climate:
    outside, inside = np.full(12, outside_c), np.full(12, inside_c)
    return Climate(outside, saturation_pa(outside) * outside_pct / 100, inside, saturation_pa(inside) * inside_pct / 100)


def test_saturation_by_hand_and_back() -> None:
    assert saturation_pa(np.array([20.0]))[0] == pytest.approx(610.5 * math.exp(17.269 * 20 / 257.3))  # 2337 Pa
    assert saturation_pa(np.array([20.0]))[0] == pytest.approx(2337, abs=2)
    assert saturation_pa(np.array([-10.0]))[0] == pytest.approx(260, abs=1)
    temperatures = np.linspace(-25, 35, 61)
    assert saturated_at_c(saturation_pa(temperatures)) == pytest.approx(temperatures, abs=1e-9)


def test_condensate_of_a_month_by_hand() -> None:
    """Wool inside of a tight board at 0 °C and 80% outside, 20 °C and 50% inside: it condenses on the board.

    R: 0.04 | board 20 mm 0.13: 0.1538 | wool 100 mm 0.04: 2.5 | 0.13; sum 2.8238. The border is at 20 (0.1938/2.8238) =
    1.3728 °C, saturated at 674.5 Pa. Sd: board 4 m, wool 0.1 m. In: (1168.5 - 674.5)/0.1, out: (674.5 - 488.4)/4, times 2e-10.
    """
    wall = made(layer("board", 20, 0.13, vapour_resistance=200), layer("wool", 100, 0.04, vapour_resistance=1))
    at = 20 * 0.1938461538 / 2.8238461538
    held = 610.5 * math.exp(17.269 * at / (237.3 + at))
    inside, outside = 0.5 * 610.5 * math.exp(17.269 * 20 / 257.3), 0.8 * 610.5
    rate = 2e-10 * ((inside - held) / 0.1 - (held - outside) / 4)
    found = moisture(wall, "wall", steady(0, 80, 20, 50))
    assert found.places[-1][0] == pytest.approx(0.02)
    by_month = np.diff(found.condensate_kg_m2)
    assert by_month[1] == pytest.approx(rate * 31 * 86400, rel=0.01)  # March
    assert not found.dries


def test_what_condenses_in_winter_dries_in_summer() -> None:
    wall = made(layer("board", 15, 0.13, vapour_resistance=20), layer("wool", 160, 0.04, vapour_resistance=1))
    months = 10 - 12 * np.cos(2 * np.pi * np.arange(12) / 12)
    found = moisture(wall, "wall", room_climate(months, saturation_pa(months) * 0.8, 20.0, "3"))
    assert found.condensate_kg_m2.max() > 0.05
    assert found.dries
    assert found.condensate_kg_m2.min() == 0
    assert found.coldest.vapour_pa == pytest.approx(np.minimum(found.coldest.vapour_pa, found.coldest.saturation_pa))


def test_a_barrier_inside_keeps_it_dry() -> None:
    board, wool = layer("board", 15, 0.13, vapour_resistance=200), layer("wool", 160, 0.04, vapour_resistance=1)
    barrier = layer("vapour barrier", 0.2, 0.33, vapour_resistance=1e6)
    months = 4 - 14 * np.cos(2 * np.pi * np.arange(12) / 12)
    year = room_climate(months, saturation_pa(months) * 0.8, 20.0, "3")
    assert moisture(made(board, wool), "wall", year).condensate_kg_m2.max() > 0.1
    assert moisture(made(board, wool, barrier), "wall", year).condensate_kg_m2.max() == 0


def test_mould_factor_by_hand() -> None:
    """0 °C outside, 20 °C and 60% inside: 80% at the surface at 15.44 °C, factor needed 0.772; single brick has 0.62."""
    wall = made(layer("brick", 240, 0.65))
    found = moisture(wall, "wall", steady(0, 80, 20, 60))
    surface = saturated_at_c(np.array([0.6 * 610.5 * math.exp(17.269 * 20 / 257.3) / 0.8]))[0]
    assert found.factor_needed == pytest.approx(surface / 20)
    assert found.factor == pytest.approx(1 - 0.25 / (0.04 + 0.24 / 0.65 + 0.25))
    assert found.mould
    assert found.unknown == ("brick",)


# what is usual


def test_a_slipped_decimal_is_asked_about() -> None:
    wall = made(layer("Mineral wool slab", 160, 0.35), layer("concrete", 200, 2.1, density=235))
    asked = questions(wall, u_value(wall))
    assert [(q.field, q.proposed) for q in asked] == [("layers/0/conductivity", 0.035), ("layers/1/density", 2350)]
    assert asked[0].sentence() == "0.35 W/mK is unusual for mineral wool (0.03 to 0.046); 0.035?"
    assert asked[0].sentence(ip=True) == "2.43 Btu·in/h·ft²·°F is unusual for mineral wool (0.208 to 0.319); 0.243?"


def test_another_unit_is_guessed() -> None:
    found = question("conductivity", 0.25, (0.03, 0.046), "mineral wool", "W/mK")
    assert found is not None
    assert "Btu·in" in found.sentence()
    assert found.proposed == pytest.approx(0.0361, abs=1e-4)


@pytest.mark.parametrize("u", [0.002, 15.0])
def test_an_unheard_of_u_value_is_questioned_not_refused(u: float) -> None:
    wall = read_document(Construction, {"id": "c", "name": "C", "u_value": u})
    assert [q.field for q in questions(wall, u)] == ["u_value"]


def test_shipped_things_raise_no_question_and_materials_are_of_their_kind() -> None:
    """Every shipped material is of a kind that its name tells of, and lies within what is usual for it and for its family."""
    assert [q for c in CONSTRUCTIONS for q in questions(c, u_value(c))] == []
    for material in MATERIALS:
        assert kind_of(material.name) is not None, material.name
        for usual in (kind_of(material.name), FAMILIES.get(material.family)):
            if usual is not None:
                assert usual.conductivity[0] <= material.conductivity <= usual.conductivity[1], material.name
                assert usual.density[0] <= material.density <= usual.density[1], material.name
        assert material_questions(material) == []
    assert len({k.name for k in KINDS}) == len(KINDS)


def test_a_slip_is_questioned_by_family_where_the_name_tells_nothing() -> None:
    """A made-up name of a family: its conductivity ten times too high is asked about, with the value that was meant."""
    odd = read_document(Material, {"id": "m", "name": "Zorbo 35", "family": "insulation", "conductivity": 0.35, "density": 30})
    (asked,) = material_questions(odd)
    assert (asked.field, asked.proposed) == ("conductivity", 0.035)
    assert material_questions(odd.model_copy(update={"family": "other"})) == []


@pytest.mark.parametrize(
    ("layers", "reason"),
    [
        ([{"name": "x", "thickness_m": 0.1}], "conductivity"),
        ([{"name": "x", "thickness_m": 0.1, "conductivity": -0.04}], "greater than"),
        ([{"name": "x", "thickness_m": 0.1, "conductivity": "good"}], "number"),
        ([{"name": "x", "thickness_m": 0.1, "air": "still", "inlay": STUDS}], "not interrupted"),
        ([{"name": "x", "thickness_m": 0.1, "air": "ventilated"}], "not open to the outside"),
        ([{"name": "x", "thickness_m": 0.01, "conductivity": 0.1}] * 41, "at most 40"),
        ([], "either by layers or by its U-value"),
    ],
)
def test_bad_layers_are_refused_with_a_reason(layers: list[dict[str, Any]], reason: str) -> None:
    with pytest.raises(EurythmError, match=reason):
        made(*layers)


# what must hold for any construction

some_layers = st.lists(
    st.builds(
        lambda mm, c, d, mu, studs: layer("x", mm, c, density=d, vapour_resistance=mu, **({"inlay": STUDS} if studs else {})),
        st.floats(2, 400), st.floats(0.02, 3), st.floats(0, 2500), st.floats(1, 5000), st.booleans(),
    ),
    min_size=1,
    max_size=5,
)  # fmt: skip


@given(some_layers)
def test_limits_swing_and_capacity_of_any_layers(layers: list[dict[str, Any]]) -> None:
    wall = made(*layers)
    limits = limits_of(wall)
    assert -1e-12 <= limits.error < 1
    assert limits.lower - 1e-9 <= limits.resistance <= limits.upper + 1e-9
    found = periodic(build_up(wall, "wall"), "wall")
    assert 0 <= found.decrement <= 1
    assert found.transmittance <= u_value(wall) * (1 + 1e-9)
    assert 0 <= found.shift_h <= 24
    assert found.inside_kj_m2k >= 0
    turned = made(*reversed(layers))
    assert u_value(turned) == pytest.approx(u_value(wall))
    assert heat_capacity(turned) == pytest.approx(heat_capacity(wall))


@given(some_layers, st.floats(0.01, 0.3))
def test_more_insulation_never_conducts_or_swings_more(layers: list[dict[str, Any]], thick: float) -> None:
    plain = [{k: v for k, v in one.items() if k != "inlay"} for one in layers]
    bare, clad = made(*plain), made(layer("wool", thick * 1000, 0.035), *plain)
    assert u_value(clad) < u_value(bare)
    assert periodic(build_up(clad, "wall"), "wall").transmittance <= periodic(build_up(bare, "wall"), "wall").transmittance + 1e-9


@given(some_layers, st.integers(-15, 15), st.floats(30, 95))
def test_vapour_stays_below_saturation_and_what_is_held_is_never_negative(
    layers: list[dict[str, Any]], coldest: int, inside: float
) -> None:
    months = coldest + 10 - 10 * np.cos(2 * np.pi * np.arange(12) / 12)
    year = Climate(months, saturation_pa(months) * 0.8, np.full(12, 20.0), np.full(12, saturation_pa(np.array([20.0]))[0] * inside / 100))
    found = moisture(made(*layers), "wall", year)
    assert found.condensate_kg_m2.min() >= 0
    assert np.all(found.coldest.vapour_pa <= found.coldest.saturation_pa * (1 + 1e-9))
    assert np.all(np.diff(found.coldest.sd) > 0)
    assert all(0 <= x <= thickness(made(*layers)) + 1e-9 for x, _ in found.places)
    dry = moisture(made(*layers), "wall", Climate(months, saturation_pa(months) * 0.2, np.full(12, 20.0), np.full(12, 200.0)))
    if months.min() > 0:
        assert dry.condensate_kg_m2.max() == 0


def test_the_swing_of_a_symmetric_wall_is_the_same_from_both_sides() -> None:
    skin = layer("plaster", 15, 0.5, density=1100)
    core = layer("brick", 240, 0.7, density=1600)
    found = periodic(build_up(made(skin, core, skin, element="partition"), "partition"), "partition")
    assert found.inside_kj_m2k == pytest.approx(found.outside_kj_m2k, rel=1e-9)


def test_units_taken_for_others_and_kinds_told_by_words() -> None:
    assert kind_of("Extruded polystyrene, 80 mm").name == "extruded polystyrene"  # type: ignore[union-attr]
    assert kind_of("aerated concrete block").name == "aerated concrete"  # type: ignore[union-attr]
    assert kind_of("spureless") is None  # “pur” is no word of it
    asked = question("density", 147, (1800, 2600), "concrete", "kg/m³")
    assert asked is not None
    assert asked.proposed is not None
    assert 1800 <= asked.proposed <= 2600
    far = question("conductivity", 4000.0, (0.03, 0.046), "mineral wool", "W/mK")
    assert far is not None
