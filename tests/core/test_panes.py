"""Glass by panes and gaps: by hand, by the closed form for two panes, and by figures of common use."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eurythm.fabric.panes import PANES, GlassAccount, gap_conductance, glass_account, through_and_absorbed
from eurythm.model.errors import EurythmError
from eurythm.model.library import Gap, GlazingBuild
from eurythm.model.reading import dump, read_document


def built(*panes: str, gas: str = "air", mm: float = 16, **more: Any) -> GlassAccount:
    gaps = [{"thickness_m": mm / 1000, "gas": gas}] * (len(panes) - 1)
    return glass_account(read_document(GlazingBuild, {"panes": [dump(PANES[p]) for p in panes], "gaps": gaps, **more}))


def test_a_single_pane_by_hand() -> None:
    """1/25 + 0.004 + 1/7.7: U 5.75; g is what goes through and the inward part of what is absorbed."""
    made = built("clear", frame_share=0, edge_w_mk=0)
    total = 1 / 25 + 0.004 + 1 / 7.7
    assert made.glass_u == pytest.approx(1 / total)
    assert made.window_u == made.glass_u
    assert made.g == pytest.approx(0.83 + (1 - 0.83 - 0.075) * (1 / 25 + 0.002) / total)
    assert made.visible == pytest.approx(0.90)


def test_two_panes_by_the_closed_form() -> None:
    """EN 410 for two panes: the series of reflections between them summed."""
    one, two = PANES["clear"], PANES["lowe-out"]
    made = built("clear", "lowe-out", frame_share=0, edge_w_mk=0, gas="argon")
    between = 1 - one.solar_in * two.solar_out
    assert made.direct == pytest.approx(one.solar_through * two.solar_through / between)
    outer = (1 - one.solar_through - one.solar_out) + (1 - one.solar_through - one.solar_in) * one.solar_through * two.solar_out / between
    inner = (1 - two.solar_through - two.solar_out) * one.solar_through / between
    gap = 1 / gap_conductance(Gap(thickness_m=0.016, gas="argon"), (0.837, 0.03), 15.0)
    total = 1 / 25 + 0.008 + gap + 1 / 7.7
    q = outer * (1 / 25 + 0.002) / total + inner * (1 / 25 + 0.004 + gap + 0.002) / total
    assert made.g == pytest.approx(made.direct + q)
    assert made.glass_u == pytest.approx(1 / total)


@pytest.mark.parametrize(
    ("panes", "gas", "mm", "u"),
    [(("clear", "clear"), "air", 16, 2.7), (("clear", "clear"), "air", 12, 2.8), (("clear", "lowe-out"), "argon", 16, 1.1),
     (("lowe-in", "clear", "lowe-out"), "argon", 12, 0.7)],
)  # fmt: skip
def test_glass_as_it_is_commonly_sold(panes: tuple[str, ...], gas: str, mm: float, u: float) -> None:
    assert round(built(*panes, gas=gas, mm=mm).glass_u, 1) == pytest.approx(u, abs=0.051)


def test_coatings_and_gases_in_their_order() -> None:
    plain, coated, argon, krypton = (
        built("clear", p, gas=g, mm=10) for p, g in (("clear", "air"), ("lowe-out", "air"), ("lowe-out", "argon"), ("lowe-out", "krypton"))
    )
    assert plain.glass_u > coated.glass_u > argon.glass_u > krypton.glass_u
    assert built("solar-in", "clear").g < built("clear", "lowe-out").g < built("clear", "clear").g


def test_frame_and_edge_weigh_in_the_window() -> None:
    made = built("clear", "lowe-out", gas="argon", frame_share=0.3, frame_u=1.5, edge_w_mk=0.06, edge_m_m2=2.5)
    assert made.window_u == pytest.approx(0.7 * made.glass_u + 0.3 * 1.5 + 2.5 * 0.06)


@given(st.lists(st.tuples(st.floats(0, 0.9), st.floats(0, 1), st.floats(0, 1)), min_size=1, max_size=4))
def test_no_light_is_lost(parts: list[tuple[float, float, float]]) -> None:
    through = [t for t, _, _ in parts]
    outward, inward = ([r * (1 - t) for (t, *both) in parts for r in (both[k],)] for k in (0, 1))
    if any(a > 0.98 for a in (*outward, *inward)):
        return  # mirrors that face each other
    passed, back, absorbed = through_and_absorbed(through, outward, inward)
    assert passed + back + sum(absorbed) == pytest.approx(1)
    assert min(passed, back, *absorbed) >= -1e-12


@pytest.mark.parametrize(
    ("change", "said"),
    [({"gaps": []}, "one gap between"), ({"panes": []}, "at least 1"), ({"frame_share": 1.0}, "less than or equal")],
)
def test_odd_builds_are_refused(change: dict[str, Any], said: str) -> None:
    sound = {"panes": [dump(PANES["clear"])] * 2, "gaps": [{"thickness_m": 0.016}]}
    with pytest.raises(EurythmError, match=said):
        read_document(GlazingBuild, sound | change)


def test_a_pane_that_gives_more_than_it_gets_is_refused() -> None:
    with pytest.raises(EurythmError, match="more than 1"):
        read_document(GlazingBuild, {"panes": [dump(PANES["clear"]) | {"solar_out": 0.4}]})
