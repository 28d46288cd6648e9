"""The radiant star against exact exchange where there is one."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from eurythm.fabric.glass import inward_share
from eurythm.fabric.panes import PANES, glass_account
from eurythm.fabric.shipped import GLAZINGS
from eurythm.model.library import Gap, Glazing, GlazingBuild
from eurythm.thermal.elements import RADIANT_H
from eurythm.thermal.radiant import plane_factors, star_conductances
from tests.conftest import make_scheme, run_scheme, volume


def between(first: float, second: float) -> float:
    """Two conductances one after the other."""
    return 1 / (1 / first + 1 / second)


@pytest.mark.parametrize("emissivity", [0.9, 0.5])
def test_two_parallel_planes_exchange_as_the_closed_form_says(emissivity: float) -> None:
    """h = 4 sigma T³ / (2/e - 1) between two endless planes."""
    one, other = star_conductances(np.array([0, 0]), ["a", "b"], np.array([10.0, 10.0]), np.full(2, emissivity))
    assert between(one, other) == pytest.approx(RADIANT_H / (2 / emissivity - 1), rel=1e-6)


def test_a_cube_s_floor_sees_its_other_sides_and_not_itself() -> None:
    """Black cube: from one side to the five others as one, the view factor is one."""
    side = star_conductances(np.zeros(6), list("abcdef"), np.ones(6), np.full(6, 0.999999))
    assert between(side[0], 5 * side[1]) == pytest.approx(RADIANT_H, rel=1e-3)


def test_a_small_plane_before_a_large_one_sees_nothing_else() -> None:
    """A dominating plane has no finite factor; what the small one loses to it is its own area's."""
    h = star_conductances(np.zeros(2), ["large", "small"], np.array([100.0, 5.0]), np.full(2, 0.9))
    exchanged = 1 / (1 / (5 * h[1]) + 1 / (100 * h[0]))
    assert exchanged == pytest.approx(5 * RADIANT_H / (1 + 0.1 / 0.9 + 5 / 100 * 0.1 / 0.9), rel=0.02)


def test_parts_of_one_plane_do_not_see_each_other() -> None:
    """A floor in two parts exchanges with the rest as the whole floor does; a window lies in its wall's plane."""
    whole = star_conductances(np.zeros(3), ["f", "c", "w"], np.array([20.0, 20.0, 30.0]), np.full(3, 0.9))
    parts = star_conductances(np.zeros(4), ["f", "f", "c", "w"], np.array([8.0, 12.0, 20.0, 30.0]), np.full(4, 0.9))
    assert parts[0] == pytest.approx(whole[0])
    assert parts[1] == pytest.approx(whole[0])
    made = run_scheme(make_scheme(volumes=[volume()]))
    by_face = {}
    for spec in made.arrays.elements:
        by_face.setdefault(spec.face, []).append(spec.plane)
    assert all(len(set(planes)) == 1 for planes in by_face.values())


@given(areas=st.lists(st.floats(0.5, 200), min_size=2, max_size=12))
def test_factors_are_finite_and_at_least_one(areas: list[float]) -> None:
    factors = plane_factors(np.array(areas))
    assert np.isfinite(factors).all()
    assert (factors >= 1.0).all()


def test_glass_gives_inward_what_its_panes_absorb() -> None:
    """From the panes where they are given (EN 410), near it from panes and g-value else; more where glass absorbs more."""
    for names in (("clear",), ("clear", "clear"), ("lowe-in", "clear"), ("solar-in", "clear"), ("clear", "clear", "lowe-out")):
        gaps = tuple(Gap(thickness_m=0.016, gas="argon") for _ in names[1:])
        build = GlazingBuild(panes=tuple(PANES[n] for n in names), gaps=gaps, frame_share=0.0)
        known = glass_account(build)
        plain = Glazing(id="g", name="G", u_value=known.window_u, g_value=known.g, panes=len(names))
        exact = inward_share(plain.model_copy(update={"build": build}))
        assert exact == pytest.approx(1 - known.direct / known.g)
        assert inward_share(plain) == pytest.approx(exact, abs=0.05)
    shares = {g.id: inward_share(g) for g in GLAZINGS}
    assert shares["double-clear"] < shares["double-lowe"] <= shares["double-solar"]
    assert shares["door-opaque"] == 0.0
