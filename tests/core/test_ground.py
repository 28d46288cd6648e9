"""Slabs, basements and buried roofs against ISO 13370 by hand, and the ground's state at the start of the year."""

from __future__ import annotations

import numpy as np
import pytest

from eurythm.brief.readiness import building_remarks
from eurythm.climate.standin import standin_year
from eurythm.geometry.form import make_building
from eurythm.simulate import Run
from eurythm.thermal.elements import GROUND
from eurythm.thermal.ground import CONDUCTIVITY, SOIL, basement_wall, periodic_starts, slab, slabs
from tests.conftest import make_scheme, run_scheme, steady_year, volume

SIDES = ("north", "east", "south", "west")
BLIND = {"glazing_ratio": dict.fromkeys(SIDES, 0.0)}


def cellar(storeys: int = 1, height: float = 3.0, base: float = -3.0, **more: object) -> Run:
    scheme = make_scheme(volumes=[volume(storeys=storeys, height=height, base_level_m=base)], skin=BLIND, **more)
    return run_scheme(scheme, steady_year(5.0))


def by_hand(area: float, perimeter: float, depth: float, wall_m: float, floor_r: float, wall_r: float) -> tuple[float, float]:
    """U of a basement's floor and walls, heated basement of ISO 13370, soil of 2.0 W/mK."""
    size = area / (perimeter / 2)
    floor = wall_m + 2.0 * (0.17 + floor_r + 0.04)
    wall = 2.0 * (0.13 + wall_r + 0.04)
    if floor + depth / 2 < size:
        u_floor = 2 * 2.0 / (np.pi * size + floor + depth / 2) * np.log(np.pi * size / (floor + depth / 2) + 1)
    else:
        u_floor = 2.0 / (0.457 * size + floor + depth / 2)
    within = min(floor, wall)
    return u_floor, 2 * 2.0 / (np.pi * depth) * (1 + 0.5 * within / (within + depth)) * np.log(depth / wall + 1)


def total_u(made: Run, kind: str) -> float:
    """U from inside to outside air of the ground elements of a kind, standard inside film, by area."""
    ids = {f.id for f in made.building.faces if f.boundary == "ground" and f.kind == kind}
    film = {"floor": 0.17, "wall": 0.13}[kind]
    found = [
        (s.area, 1 / (film + sum(r for r, _ in s.layers) + 1 / s.ground_h))
        for s in made.arrays.elements
        if s.kind == GROUND and s.face in ids
    ]
    return sum(a * u for a, u in found) / sum(a for a, _ in found)


def test_a_basement_loses_what_the_standard_says() -> None:
    made = cellar()
    wall, floor = made.brief.build_ups["basement_wall"], made.brief.build_ups["ground_floor"]
    u_floor, u_wall = by_hand(20 * 12, 64, 3.0, made.brief.build_ups["wall"].thickness, floor.resistance, wall.resistance)
    assert total_u(made, "floor") == pytest.approx(u_floor, rel=0.02)
    assert total_u(made, "wall") == pytest.approx(u_wall, rel=0.02)
    assert u_wall > 0.1


def test_a_slab_on_sand_or_gravel_by_hand() -> None:
    """Area 100 m², perimeter 40 m: B' 5 m, d_t 0.3 + 2 (0.17 + 2 + 0.04) = 4.72 m; the periodic part of edges falls off with 3.2 m."""
    coupled = slab(100.0, 40.0, 0.3, 2.0)
    assert coupled.u == pytest.approx(2 * 2.0 / (np.pi * 5 + 4.72) * np.log(np.pi * 5 / 4.72 + 1), rel=1e-9)
    assert coupled.u * coupled.ratio == pytest.approx(0.37 * 40 * 2.0 * np.log(3.2 / 4.72 + 1) / 100, rel=1e-9)
    deep = slab(100.0, 40.0, 0.3, 2.0, 3.0)
    assert deep.u * deep.ratio == pytest.approx(0.37 * 40 * 2.0 * np.exp(-3.0 / 3.2) * np.log(3.2 / 4.72 + 1) / 100, rel=1e-9)
    assert SOIL == (0.25, 1.0e6)  # half a metre of it


def test_deeper_storeys_share_out_what_the_whole_wall_loses() -> None:
    """Two storeys below ground lose through their walls what one as deep as both loses, the upper one more."""
    two, one = cellar(storeys=2, base=-6.0), cellar(height=6.0, base=-6.0)
    assert total_u(two, "wall") == pytest.approx(total_u(one, "wall"), rel=1e-6)
    upper, lower = (basement_wall(a, b, 3.0, 8.0) for a, b in ((0.0, 3.0), (3.0, 6.0)))
    whole = basement_wall(0.0, 6.0, 3.0, 8.0)
    assert (upper.u + lower.u) / 2 == pytest.approx(whole.u)
    assert upper.u > lower.u
    assert upper.ratio > lower.ratio  # the year's swing does not reach down


def test_a_storey_half_sunk_is_split_at_ground_level() -> None:
    made = cellar(height=4.0, base=-1.5)
    depths = {f.boundary: f.size[1] for f in made.building.faces if f.kind == "wall"}
    assert depths == {"ground": pytest.approx(1.5), "outdoors": pytest.approx(2.5)}
    walls = [s for s in made.arrays.elements if s.kind == GROUND and s.area < 200]
    assert len(walls) == 4
    assert building_remarks(made.building, made.brief.scheme, 0.0) is not None


def test_a_slab_s_perimeter_counts_edges_towards_air_or_earth() -> None:
    """A basement's slab has its whole edge; a slab beside a basement counts not its edge over the basement's rooms; apart ones are apart."""
    deep = make_building(make_scheme(volumes=[volume(base_level_m=-3.0)]), 0.0)
    (one,) = set(slabs(deep, 0.0).values())
    assert (one.area, one.perimeter, one.depth) == (pytest.approx(240), pytest.approx(64), pytest.approx(3))
    cut = make_building(make_scheme(volumes=[volume(zoning="perimeter_core")]), 0.0)
    (whole,) = set(slabs(cut, 0.0).values())
    assert (whole.area, whole.perimeter) == (pytest.approx(240), pytest.approx(64))
    two = make_building(make_scheme(volumes=[volume(), volume("far", x=60)]), 0.0)
    assert {(round(s.area), round(s.perimeter)) for s in slabs(two, 0.0).values()} == {(240, 64)}
    touching = make_building(make_scheme(volumes=[volume(), volume("next", x=20)]), 0.0)
    assert {(round(s.area), round(s.perimeter)) for s in slabs(touching, 0.0).values()} == {(480, 104)}


def test_a_basement_is_warmer_in_winter_than_a_slab_on_the_ground() -> None:
    plain, sunk = (slab(240, 64, 0.4, 2.0, depth) for depth in (0.0, 3.0))
    assert sunk.u < plain.u
    assert sunk.ratio < plain.ratio


def test_a_thin_slab_starts_as_the_closed_form_of_a_year_says() -> None:
    """One layer of capacity C between two films, the outer one swinging: mean and swing by hand."""
    year = standin_year("karsk-basin")
    layers = ((1e-3, 1.0e6),)
    (state,) = periodic_starts(layers, np.array([0.5]), np.array([0.4]), year, np.full((1, 12), 20.0), hour=0)
    months = np.array(year.monthly_air_c)
    angle = 2 * np.pi * (np.arange(12) + 0.5) / 12
    swing = np.sum((months - months.mean()) * np.exp(-1j * angle)) / 6 * np.exp(-2j * np.pi / 12)
    film = 1 / 0.17
    mean = (0.5 * months.mean() + film * 20.0) / (0.5 + film)
    answer = 0.5 * 0.4 * swing / (0.5 + film + 1j * 2 * np.pi / (8760 * 3600) * 1.0e6)
    assert state.mean() == pytest.approx(mean + answer.real, abs=0.01)


@pytest.mark.parametrize("place", ["merrowhaven", "karsk-basin", "sorrel-flats"])
def test_the_year_ends_as_it_began(place: str) -> None:
    """What the building holds more at the end than at the start, over the heat that went through it."""
    made = run_scheme(make_scheme(volumes=[volume(storeys=2, zoning="perimeter_core")]), standin_year(place))
    assert abs(made.outcome.drift) < 3e-4
    assert CONDUCTIVITY == 2.0
