"""Numbers side by side in compiled code: each operator by itself against numpy, and that no number stays none."""

from __future__ import annotations

import math
import operator
import re
from collections.abc import Callable
from pathlib import Path
from types import ModuleType
from typing import Any

import numpy as np
import pytest
from numba import njit

from eurythm.thermal import kernel, parts_kernel
from eurythm.thermal.lanes import above, address_of, most_of, numbers_at, rows

COUNT = 8
A = np.random.default_rng(3).normal(size=2 * COUNT)
B = np.random.default_rng(4).normal(size=2 * COUNT)


@njit
def two(f: Any, a_: Any, b_: Any, out_: Any) -> None:
    a, b, out = rows(a_, COUNT), rows(b_, COUNT), rows(out_, COUNT)
    for i in range(len(out_) // COUNT):
        out[i] = f(a[i], b[i])


def by_lanes(f: Callable[..., Any], a: np.ndarray = A, b: np.ndarray = B) -> np.ndarray:
    out = np.zeros(2 * COUNT)
    two(njit(f), a, b, out)
    return out


@pytest.mark.parametrize("op", [operator.add, operator.sub, operator.mul, operator.truediv])
def test_arithmetic_of_lanes_and_of_lanes_with_numbers(op: Callable[..., Any]) -> None:
    assert by_lanes(lambda a, b: op(a, b)) == pytest.approx(op(A, B), rel=1e-15)
    assert by_lanes(lambda a, b: op(a, 2.5)) == pytest.approx(op(A, 2.5), rel=1e-15)
    assert by_lanes(lambda a, b: op(2.5, b)) == pytest.approx(op(2.5, B), rel=1e-15)


def test_least_most_roots_and_powers() -> None:
    assert by_lanes(lambda a, b: min(a, b)) == pytest.approx(np.minimum(A, B))
    assert by_lanes(lambda a, b: max(a, 0.5)) == pytest.approx(np.maximum(A, 0.5))
    assert by_lanes(lambda a, b: -abs(b)) == pytest.approx(-np.abs(B))
    assert by_lanes(lambda a, b: math.sqrt(abs(a)) + math.exp(b)) == pytest.approx(np.sqrt(np.abs(A)) + np.exp(B))


def test_a_choice_is_made_in_each_lane() -> None:
    assert by_lanes(lambda a, b: above(a, b, 1.0, b)) == pytest.approx(np.where(A > B, 1.0, B))
    assert above(2.0, 1.0, "then", "other") == "then"


def test_doubles_are_read_where_they_stand_and_only_in_one_piece() -> None:
    @njit
    def third(at: Any) -> Any:
        return numbers_at(at[0])[2]

    assert third(np.array([address_of(A)], dtype=np.uint64)) == A[2]
    assert third(np.array([address_of(A.reshape(2, -1)[1])], dtype=np.uint64)) == A[COUNT + 2]
    for other in (A[::2], A.astype(np.float32)):
        with pytest.raises(ValueError, match="in one piece"):
            address_of(other)


def test_what_is_no_number_stays() -> None:
    gone = np.where(np.arange(2 * COUNT) == 3, np.nan, A)
    for f in (lambda a, b: max(a, b), lambda a, b: min(a, b), lambda a, b: a + b):
        assert np.isnan(by_lanes(f, gone)).tolist() == np.isnan(gone).tolist()


def test_sums_over_rows_begin_as_numbers_and_end_as_lanes() -> None:
    @njit
    def total(a_: Any, out_: Any) -> float:
        a, out = rows(a_, COUNT), rows(out_, COUNT)
        found = 0.0
        for i in range(len(a_) // COUNT):
            found = found + a[i]
            out[0] += a[i]
        out[1] = 7.0
        return most_of(found)

    out = np.zeros(2 * COUNT)
    assert total(A, out) == pytest.approx(A.reshape(2, COUNT).sum(axis=0).max())
    assert out[:COUNT] == pytest.approx(A.reshape(2, COUNT).sum(axis=0))
    assert (out[COUNT:] == 7.0).all()


def test_one_lane_is_a_plain_number() -> None:
    @njit
    def one(a_: Any) -> float:
        a = rows(a_, 1)
        return most_of(max(a[1], 0.25)) + above(a[0], 0.0, 1.0, 0.0)

    assert one(np.array([2.0, -1.0])) == 1.25


@pytest.mark.parametrize("module", [kernel, parts_kernel])
def test_kernels_read_rows_only_of_what_their_callers_hold(module: ModuleType) -> None:
    """A row is a bare pointer: an array that the compiled function made itself would be freed under it."""
    source = Path(str(module.__file__)).read_text(encoding="utf-8")
    assigned = [line.partition(" = ") for line in source.splitlines() if " = " in line and ("np.zeros(" in line or "np.empty(" in line)]
    own = {name.strip() for names, _, _ in assigned for name in names.split(",")}
    assert own
    assert not own & set(re.findall(r"\brows\((\w+)", source))
