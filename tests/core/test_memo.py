"""What is remembered: one budget for all of it, which may keep none, and never changes a result."""

from __future__ import annotations

import gc

import numpy as np
import pytest

from eurythm import simulate as pipeline
from eurythm.climate.standin import standin_year
from eurythm.memo import BESIDES, BUDGET, Budget, Kept, Memo, Shelf
from tests.conftest import make_scheme, run_scheme, volume


def test_what_was_used_longest_ago_goes_first_wherever_it_is_kept() -> None:
    budget = Budget(3 * (8000 + BESIDES))
    one, other = Shelf[str, np.ndarray](10**9, budget=budget), Shelf[str, np.ndarray](10**9, budget=budget)
    one.keep("a", np.zeros(1000))
    other.keep("b", np.zeros(1000))
    one.keep("c", np.zeros(1000))
    assert one.find("a") is not None  # used again: now b is the oldest
    other.keep("d", np.zeros(1000))
    assert [one.find("a") is None, other.find("b") is None, one.find("c") is None, other.find("d") is None] == [False, True, False, False]
    assert budget.spent == 3 * (8000 + BESIDES)
    one.clear()
    other.clear()
    assert budget.spent == 0


def test_a_result_larger_than_all_of_it_is_not_kept() -> None:
    budget = Budget(1000)
    shelf = Shelf[str, np.ndarray](10**9, budget=budget)
    assert len(shelf.keep("a", np.zeros(1000))) == 1000
    assert shelf.find("a") is None
    assert budget.spent == 0


def test_a_shelf_keeps_to_bytes_and_number_of_its_own() -> None:
    shelf = Shelf[str, np.ndarray](5 * (80 + BESIDES), 4, Budget(10**9))
    for k in range(9):
        shelf.keep(str(k), np.zeros(10))
    assert [k for k in range(9) if shelf.find(str(k)) is not None] == [5, 6, 7, 8]


def test_a_shelf_that_is_gone_counts_no_more() -> None:
    budget = Budget(10**6)
    shelf = Shelf[str, np.ndarray](10**9, budget=budget)
    shelf.keep("a", np.zeros(1000))
    del shelf
    gc.collect()
    assert budget.spent == 0


def test_results_are_the_same_with_no_memory_at_all(monkeypatch: pytest.MonkeyPatch) -> None:
    scheme, year = make_scheme(volumes=[volume(storeys=2)]), standin_year("merrowhaven")
    warm = run_scheme(scheme, year).outcome
    monkeypatch.setattr(pipeline, "MEMO", Memo(Budget(0)))
    monkeypatch.setattr(BUDGET, "most_bytes", 0)
    BUDGET.settle()
    assert run_scheme(scheme, year).outcome == warm
    assert BUDGET.spent == 0


def test_what_is_remembered_of_many_large_schemes_stays_within_the_budget(monkeypatch: pytest.MonkeyPatch) -> None:
    """Twenty schemes of forty zones each: more than the budget holds."""
    monkeypatch.setattr(BUDGET, "most_bytes", 60_000_000)
    monkeypatch.setattr(pipeline, "MEMO", Memo())
    for turn in range(4):
        run_scheme(make_scheme(turn_deg=turn, volumes=[volume(storeys=8, zoning="perimeter_core")]))
        assert BUDGET.spent <= 60_000_000


def test_kept_by_digest() -> None:
    kept: Kept[np.ndarray] = Kept(10**6, budget=Budget(10**6))
    assert kept.get(b"k", lambda: np.ones(3)).sum() == 3
    assert kept.get(b"k", lambda: np.zeros(3)).sum() == 3
