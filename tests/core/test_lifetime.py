"""Money and carbon over the years against numbers worked by hand."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from eurythm.assess.lifetime import (
    Bought,
    Years,
    against,
    carbon_of,
    internal_rate,
    left_over,
    present,
    replaced_in,
    said,
    without,
    years_of,
)


def test_present_value_by_hand() -> None:
    """100 now, and 110 and 121 in one and two years at 10%: 300."""
    assert present(np.array([100.0, 110.0, 121.0]), 0.1) == pytest.approx(300.0)
    assert present(np.array([100.0, 110.0, 121.0]), 0.0) == pytest.approx(331.0)


@pytest.mark.parametrize(("life", "horizon", "years", "left"), [
    (20, 30, [20], 0.5), (15, 30, [15], 0.0), (10, 30, [10, 20], 0.0), (60, 30, [], 0.5), (30, 30, [], 0.0), (1, 3, [1, 2], 0.0), (7, 20, [7, 14], 1 / 7),
    (100, 1, [], 0.99), (25, 100, [25, 50, 75], 0.0),
])  # fmt: skip
def test_parts_are_replaced_when_their_life_is_over(life: int, horizon: int, years: list[int], left: float) -> None:
    assert list(replaced_in(life, horizon)) == years
    assert left_over(life, horizon) == pytest.approx(left)


def test_what_is_paid_over_the_years() -> None:
    """10,000 € for 20 years with 2% upkeep; 1,000 € of energy a year that grows by 3%; 30 years: replaced once, half of it left."""
    made = years_of([Bought("pump", 10_000.0, None, 20, 0.02)], {"electricity": 1000.0}, {"electricity": 0.03}, 30)
    assert made.investment[0] == 10_000
    assert made.replacements[20] == 10_000
    assert made.replacements.sum() == 10_000
    assert made.upkeep[1:] == pytest.approx(np.full(30, 200.0))
    assert made.energy[1] == 1000
    assert made.energy[3] == pytest.approx(1000 * 1.03**2)
    assert made.residual == pytest.approx(5000)
    by_hand = 10_000 + 10_000 / 1.04**20 + sum((200 + 1000 * 1.03 ** (t - 1)) / 1.04**t for t in range(1, 31)) - 5000 / 1.04**30
    assert present(made.paid, 0.04) == pytest.approx(by_hand)


def measure(extra: float, saved: float, horizon: int = 10) -> tuple[Years, Years]:
    """A case that costs more and saves every year, and its reference, of parts that live as long as one looks."""
    return (
        years_of([Bought("a", 1000.0 + extra, None, horizon)], {"gas": 500.0 - saved}, {}, horizon),
        years_of([Bought("a", 1000.0, None, horizon)], {"gas": 500.0}, {}, horizon),
    )


def test_payback_value_and_rate_by_hand() -> None:
    """400 € more, 100 € saved a year, 10 years at 5%: simple 4 years; 100 x 7.7217 - 400 = 372.17 €; discounted 4.57 years; rate 21.4%; 2 t avoided cost -186 € each."""
    held = against(*measure(400.0, 100.0), 0.05, 2000.0)
    assert (held.extra, held.saving, held.payback_years) == pytest.approx((400.0, 100.0, 4.0))
    assert held.net_present_value == pytest.approx(100 * (1 - 1.05**-10) / 0.05 - 400)
    paid = [100 * (1 - 1.05**-n) / 0.05 for n in (4, 5)]
    assert held.discounted_payback_years == pytest.approx(4 + (400 - paid[0]) / (paid[1] - paid[0]))
    assert held.internal_rate == pytest.approx(0.2141, abs=1e-4)
    assert held.cost_per_tonne == pytest.approx(-held.net_present_value / 2)
    assert said(held, 10, "Quay") == "400 € more to build than Quay, 100 € less a year; paid back after 4.6 years, discounted."


def test_what_has_no_answer_says_so() -> None:
    never = against(*measure(4000.0, 100.0), 0.05, 0.0)
    assert never.discounted_payback_years is None
    assert never.payback_years == pytest.approx(40.0)
    assert never.cost_per_tonne is None
    assert "never paid back within 10 years" in said(never, 10, "Quay")
    dearer = against(*measure(400.0, -50.0), 0.05, -100.0)
    assert (dearer.payback_years, dearer.internal_rate) == (None, None)
    assert "50 € more a year" in said(dearer, 10, "Quay")
    better = against(*measure(-100.0, 50.0), 0.05, 100.0)
    assert (better.payback_years, better.discounted_payback_years) == (0.0, 0.0)
    assert said(better, 10, "Quay") == "100 € less to build than Quay, 50 € less a year; never a loss."


@pytest.mark.parametrize("rate", [0.0, 0.5])
@pytest.mark.parametrize("horizon", [1, 100])
def test_rates_and_horizons_at_their_ends(rate: float, horizon: int) -> None:
    """Parts that live longer than one looks leave what is left of them."""
    held = against(*measure(400.0, 100.0, horizon), rate, 1.0)
    factor = horizon if rate == 0 else (1 - (1 + rate) ** -horizon) / rate
    assert held.net_present_value == pytest.approx(100 * factor - 400)
    long = years_of([Bought("a", 600.0, 60.0, 60)], {}, {}, horizon)
    assert present(long.paid, rate) == pytest.approx(
        600 + 600 * (horizon > 60) * (1 + rate) ** -60 - 600 * left_over(60, horizon) * (1 + rate) ** -horizon
    )


@given(extra=st.floats(1, 1e5), saved=st.floats(1, 1e5), rate=st.floats(0, 0.3))
def test_at_its_internal_rate_nothing_is_gained(extra: float, saved: float, rate: float) -> None:
    case, reference = measure(extra, saved, 20)
    gained = reference.paid - case.paid
    found = internal_rate(gained)
    if found is not None:
        assert present(gained, found) == pytest.approx(0, abs=1e-6 * (extra + saved) / (1 + min(found, 0)) ** 20)
        assert (present(gained, rate) > 0) == (found > rate) or abs(found - rate) < 1e-6


def test_carbon_of_products_replacements_and_operation() -> None:
    parts = [Bought("wall", 1.0, 5000.0, 60, stored_kg=800.0), Bought("pump", 1.0, 300.0, 12), Bought("store", 1.0, None, 20)]
    made = carbon_of(parts, 1000.0, 30)
    assert (made.products, made.replacements, made.operation, made.stored) == (5300.0, 600.0, 30_000.0, 800.0)
    assert made.whole == 35_900.0
    assert without([*parts, Bought("roof", None, 1.0, 60)]) == (["roof"], ["store"])
