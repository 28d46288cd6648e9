"""Constructions, glass and the ground by hand-worked figures."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from eurythm.climate.standin import standin_year
from eurythm.climate.year import MONTH_OF_HOUR
from eurythm.fabric.glass import angle_factor, diffuse_factor
from eurythm.fabric.opaque import STANDARD_FILMS, STATED_U_FILMS, build_up, heat_capacity, slab_nodes, u_value, with_insulation
from eurythm.fabric.shipped import CONSTRUCTIONS, GLAZINGS
from eurythm.model.errors import EurythmError
from eurythm.model.library import Construction, Glazing, Library
from eurythm.model.reading import read_document
from eurythm.thermal.chains import factored, modes_of
from eurythm.thermal.elements import FILM_REF, RADIANT_H
from eurythm.thermal.ground import ground_swing, slab
from tests.conftest import make_scheme, run_scheme, steady_year, volume


def wall(*layers: tuple[float, float, float, float], **more: object) -> Construction:
    keys = ("thickness_m", "conductivity", "density", "specific_heat")
    build = [dict(zip(keys, layer, strict=True)) for layer in layers]
    return read_document(Construction, {"id": "w", "name": "W", "element": "wall", "layers": build, **more})


def test_u_value_of_layers_by_hand() -> None:
    made = wall((0.1, 0.5, 1600, 1000), (0.2, 0.04, 30, 1450))
    assert u_value(made) == pytest.approx(1 / (0.04 + 0.2 + 5.0 + 0.13))
    assert heat_capacity(made) == pytest.approx((0.1 * 1600 + 0.2 * 30 * 1.45) * 1000 / 1000)


@pytest.mark.parametrize(("element", "films"), STANDARD_FILMS.items())
def test_films_follow_the_element(element, films: tuple[float, float]) -> None:
    made = wall((0.1, 0.1, 0, 1000))
    assert u_value(made, element) == pytest.approx(1 / (1.0 + sum(films)))


@given(st.floats(0.1, 4.0))
def test_a_stated_u_value_comes_back_with_the_standard_films(u: float) -> None:
    made = build_up(read_document(Construction, {"id": "w", "name": "W", "element": "wall", "u_value": u}), "wall")
    assert 1 / (made.resistance + STATED_U_FILMS["wall"]) == pytest.approx(u, rel=1e-9)
    assert made.capacity == 0


@pytest.mark.parametrize("element", STATED_U_FILMS)
def test_a_u_value_beyond_the_films_is_refused_where_it_stands(element) -> None:
    high = 1 / STATED_U_FILMS[element] + 0.01
    made = read_document(Construction, {"id": "w", "name": "W", "element": "wall", "u_value": high})
    with pytest.raises(EurythmError) as fault:
        build_up(made, element)
    assert fault.value.path == "library/constructions/w/u_value"


def test_insulation_changes_only_the_marked_layer() -> None:
    made = next(c for c in CONSTRUCTIONS if c.id == "wall-good")
    thick = with_insulation(made, 0.30)
    changed = [(a.thickness_m, b.thickness_m) for a, b in zip(made.layers, thick.layers, strict=True) if a != b]
    assert changed == [(0.16, 0.30)]
    with pytest.raises(EurythmError, match="no layer marked as insulation"):
        with_insulation(wall((0.1, 0.5, 1600, 1000)), 0.2)


@given(st.lists(st.tuples(st.floats(0.001, 8.0), st.floats(0.0, 900_000.0)), min_size=1, max_size=6), st.integers(1, 3))
def test_nodes_keep_resistance_and_capacity_however_cut(layers: list[tuple[float, float]], refine: int) -> None:
    conductance, capacity = slab_nodes(tuple(layers), refine)
    assert len(capacity) == len(conductance) + 1
    assert np.sum(1 / conductance) == pytest.approx(sum(r for r, _ in layers), rel=1e-9)
    assert capacity.sum() == pytest.approx(sum(c for _, c in layers), rel=1e-9, abs=1e-9)
    assert (conductance > 0).all()


@given(st.lists(st.tuples(st.floats(0.01, 5.0), st.floats(0.0, 500_000.0)), min_size=1, max_size=5))
def test_factored_chains_solve_their_matrix(layers: list[tuple[float, float]]) -> None:
    dt = 3600.0
    capacity, lower, pivot, upper, to_outer, to_inner = factored(tuple(layers), dt)
    conductance, _ = slab_nodes(tuple(layers))
    n = len(capacity)
    matrix = np.diag(capacity / dt)
    for i, g in enumerate(conductance):
        matrix[i : i + 2, i : i + 2] += g * np.array([[1, -1], [-1, 1]])
    matrix[0, 0] += 5.0
    matrix[-1, -1] += 5.0
    assert matrix @ to_outer == pytest.approx(np.eye(n)[0], abs=1e-8)
    assert matrix @ to_inner == pytest.approx(np.eye(n)[-1], abs=1e-8)
    assert upper[:-1] == pytest.approx(-conductance)
    assert (pivot > 0).all()
    assert lower[0] == 0


@pytest.mark.parametrize("panes", [1, 2, 3, 4])
def test_glass_dims_with_the_angle_and_never_brightens(panes: int) -> None:
    angles = np.linspace(0, np.pi / 2, 91)
    factor = angle_factor(np.cos(angles), panes)
    assert factor[0] == pytest.approx(1.0)
    assert factor[-1] == pytest.approx(0.0, abs=1e-9)
    assert (np.diff(factor) <= 1e-12).all()
    assert 0.75 < diffuse_factor(panes) < 0.95


def test_more_panes_dim_more() -> None:
    assert diffuse_factor(3) < diffuse_factor(2) < diffuse_factor(1)


def test_shipped_entries_are_in_their_usual_ranges() -> None:
    from eurythm.brief.readiness import odd_values

    for entry in (*CONSTRUCTIONS, *(g for g in GLAZINGS if g.id != "door-opaque")):
        assert odd_values(entry, entry.id, "skin") == []
        assert entry.source


def test_a_better_glass_by_name_is_better_by_figures() -> None:
    by_id = {g.id: g for g in GLAZINGS}
    assert by_id["triple-clear"].u_value < by_id["double-lowe"].u_value < by_id["double-clear"].u_value < by_id["single"].u_value
    assert by_id["double-solar"].g_value < by_id["double-lowe"].g_value


def test_window_given_by_u_loses_by_u() -> None:
    """With standard films the steady loss of a window is its U-value's; glass is a massless layer."""
    library = read_document(
        Library,
        {
            "glazings": [{"id": "g", "name": "G", "u_value": 2.0, "g_value": 0.0}],
            "constructions": [{"id": "tight", "name": "T", "element": "wall", "layers": [{"thickness_m": 1.0, "conductivity": 0.0015}]}],
        },
    )
    sides = ("east", "north", "west", "roof", "floor")
    walls = [{"id": s, "side": s, "construction": "tight", "boundary": "adiabatic"} for s in sides]
    pane = {
        "id": "south",
        "side": "south",
        "construction": "tight",
        "windows": [{"x": 1, "z": 0.3, "width": 6, "height": 2, "glazing": "g"}],
    }
    use = {"zones": [{"id": "u", "zone": "*", "air_changes": 0.0, "gains_w": 0.0, "heating_c": {"weekday": [20.0] * 24}}]}
    box = {"id": "room", "box": {"length": 8, "depth": 6, "height": 2.7}, "faces": [*walls, pane]}
    made = run_scheme(make_scheme(zones=[box], use=use, method={"films": "standard"}), steady_year(0.0), library=library)
    pane_spec = next(s for s in made.arrays.elements if s.glass)
    convective, radiant = pane_spec.standard_in, 0.84 * RADIANT_H
    assert convective + radiant == pytest.approx(1 / 0.13)
    air, star = 20.0, 2 * made.demand.operative_c[0, -1] - made.demand.air_c[0, -1]
    room = (convective * air + radiant * star) / (convective + radiant)
    assert made.demand.heating_w[0, -1] == pytest.approx(2.0 * 12 * room, rel=0.02)  # and the little through the tight wall


def test_ground_by_the_standard_s_two_branches() -> None:
    """Slab on ground by hand: B' = A/(P/2), total equivalent thickness; well insulated and not."""
    area, perimeter, wall_m = 300.0, 74.0, 0.4
    size = area / (perimeter / 2)
    for resistance in (0.1, 12.0):
        d = wall_m + 2.0 * (0.17 + resistance + 0.04)
        expected = 2 * 2.0 / (np.pi * size + d) * np.log(np.pi * size / d + 1) if d < size else 2.0 / (0.457 * size + d)
        assert slab(area, perimeter, wall_m, resistance).u == pytest.approx(expected)
    assert slab(area, perimeter, wall_m, 0.1).u > slab(area, perimeter, wall_m, 4.0).u


def test_ground_is_smooth_damped_and_late() -> None:
    year = standin_year("karsk-basin")
    course = np.mean(year.monthly_air_c) + 0.4 * ground_swing(year)
    months = [course[m == MONTH_OF_HOUR].mean() for m in range(12)]
    outdoors = list(year.monthly_air_c)
    assert course.mean() == pytest.approx(np.mean(outdoors), abs=0.01)
    assert np.ptp(months) < 0.45 * np.ptp(outdoors)
    assert np.argmax(months) == (int(np.argmax(outdoors)) + 1) % 12
    assert np.abs(np.diff(course)).max() < 0.05


def test_a_deeper_slab_loses_less_per_area() -> None:
    def loss(length: float, depth: float) -> float:
        skin = {"glazing_ratio": dict.fromkeys(("north", "east", "south", "west"), 0.0)}
        made = run_scheme(make_scheme(volumes=[volume(form={"length": length, "depth": depth})], skin=skin), steady_year(5.0))
        floor = next(s for s in made.arrays.elements if s.ground_h)
        return floor.ground_h

    assert loss(60, 40) < loss(12, 10)


def test_glazing_without_room_for_films_is_refused() -> None:
    library = {"glazings": [{"id": "thin", "name": "Thin", "u_value": 5.87, "g_value": 0.8}]}
    assert read_document(Library, library).glazings[0] == Glazing(id="thin", name="Thin", u_value=5.87, g_value=0.8)
    with pytest.raises(EurythmError) as fault:
        read_document(Library, {"glazings": [{"id": "thin", "name": "Thin", "u_value": 6.0, "g_value": 0.8}]})
    assert fault.value.path == "glazings/thin/u_value"


@given(layers=st.lists(st.tuples(st.floats(0.01, 5.0), st.floats(0, 5e5)), min_size=1, max_size=5), dt=st.sampled_from([900.0, 3600.0]))
def test_modes_answer_as_the_nodes_do(layers: list[tuple[float, float]], dt: float) -> None:
    """A hundred steps of changing fluxes: surface temperatures and stored heat by modes against the nodes' matrix."""
    stack = tuple(layers)
    capacity, _, _, upper, _, _ = factored(stack, dt)
    modes = modes_of(stack, dt)
    n = len(capacity)
    matrix = np.diag(capacity / dt)
    for i, g in enumerate(-upper[:-1]):
        matrix[i : i + 2, i : i + 2] += [[g, -g], [-g, g]]
    matrix[0, 0] += FILM_REF
    matrix[-1, -1] += FILM_REF
    x = np.linspace(3.0, 20.0, n)
    y = modes.project @ x
    for step in range(100):
        q_out, q_in = 60 * np.sin(step / 7), 40 * np.cos(step / 5)
        own_out, own_in = modes.by_out @ y, modes.by_in @ y
        forced = capacity / dt * x
        forced[0] += q_out
        forced[-1] += q_in
        x = np.linalg.solve(matrix, forced)
        g11, g12, g21, g22 = modes.answers
        assert own_out + g11 * q_out + g12 * q_in == pytest.approx(x[0], abs=1e-6)
        assert own_in + g21 * q_out + g22 * q_in == pytest.approx(x[-1], abs=1e-6)
        y = modes.decay * y + modes.by_out * q_out + modes.by_in * q_in
    assert modes.holds @ y == pytest.approx(capacity @ x, rel=1e-6, abs=1.0)
