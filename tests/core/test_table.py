"""The table of a study's cases: what it says of rows is what going through the cases one by one says."""

from __future__ import annotations

import time
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from eurythm.model.errors import EurythmError
from eurythm.model.study import StudySpec
from eurythm.study.plan import rows_of
from eurythm.study.table import DONE, TICKS, CaseTable, LeverColumn, Sieve, lever_columns

LEVERS = {"turn": 3, "glass": 2, "depth": 4}
COLUMNS = [LeverColumn(key, size) for key, size in LEVERS.items()]
ROWS = np.array(list(product(*(range(n) for n in LEVERS.values()))), dtype=float)
value = st.one_of(st.none(), st.integers(-5, 5).map(float))
case = st.one_of(st.none(), st.tuples(value, value, st.integers(0, 2)))
"""What a case came to: None where it failed, else two figures and how many remarks."""


def filled(came_to: list[tuple[float | None, float | None, int] | None]) -> CaseTable:
    table = CaseTable(COLUMNS, ROWS, ("energy", "cost"))
    for number, one in enumerate(came_to):
        if one is None:
            table.finish(number, None, f"Case {number} is impossible.")
        else:
            energy, cost, remarks = one
            table.finish(number, {"energy": energy, "cost": cost, "beyond": 1.0}, "", [f"Remark {k}." for k in range(remarks)])
    return table


@given(
    st.lists(case, min_size=20, max_size=24),
    st.fixed_dictionaries({}, optional={"turn": st.lists(st.integers(0, 2)), "depth": st.lists(st.integers(0, 3))}),
    st.fixed_dictionaries(
        {}, optional={"energy": st.tuples(st.integers(-5, 5), st.integers(-5, 5)).map(lambda r: (float(r[0]), float(r[1])))}
    ),
    st.sampled_from(["all", "sound", "remarked", "failed"]),
    st.sampled_from(["", "remark 1", " Impossible"]),
    st.sampled_from(["energy", "cost", "depth", "remarks", "number"]),
    st.booleans(),
)
def test_it_says_what_the_cases_say(came_to, dropped, ranges, which, says, by, down) -> None:
    table = filled(came_to)
    steps = dict(enumerate(product(*(range(n) for n in LEVERS.values()))))

    def stays(number: int) -> bool:
        one = came_to[number]
        if (one is None) != (which == "failed") or (one and not {"sound": one[2] == 0, "remarked": one[2] > 0}.get(which, True)):
            return False
        told = f"case {number} is impossible." if one is None else " ".join(f"remark {k}." for k in range(one[2]))
        if says.strip().lower() not in told:
            return False
        if any(steps[number][list(LEVERS).index(key)] in out for key, out in dropped.items()):
            return False
        return all(one is not None and one[0] is not None and low <= one[0] <= high for low, high in ranges.values())

    running = table.running(Sieve(dropped, ranges, which, says))
    still = [n for n in range(len(came_to)) if stays(n)]
    assert np.flatnonzero(running).tolist() == still

    def key(number: int) -> float:
        energy, cost, remarks = came_to[number] or (None, None, 0)
        found = {"energy": energy, "cost": cost, "depth": steps[number][2], "remarks": remarks, "number": number}[by]
        return np.inf if found is None else -found if down else found

    assert table.sorted(running, by, down).tolist() == sorted(still, key=key)
    done = [n for n, one in enumerate(came_to) if one is not None or n in still]
    for k, strip in enumerate(table.strips(running)):
        assert strip == [(sum(steps[n][k] == s for n in done), sum(steps[n][k] == s for n in still)) for s in range(len(strip))]
    energies = [one[0] if one else None for one in came_to]
    known = [energies[n] for n in done if energies[n] is not None]
    spread = table.spread("energy", running)
    if not known:
        assert spread is None
        return
    assert (spread.low, spread.high, int(spread.every.sum())) == (min(known), max(known), len(known))
    assert int(spread.running.sum()) == sum(energies[n] is not None for n in still)
    assert len(spread.every) == TICKS


def test_a_value_on_the_end_of_a_range_stays_in() -> None:
    table = filled([(0.1 + 0.2, None, 0)])
    assert table.running(Sieve(ranges={"energy": (0.0, 0.3)}))[0]
    assert table.known(0) == {"energy": 0.1 + 0.2, "cost": None}
    assert table.said(0) == ()
    assert table.status[0] == DONE


def test_what_it_does_not_have_is_said() -> None:
    table = filled([None])
    assert table.reason(0) == "Case 0 is impossible."
    with pytest.raises(EurythmError, match="no lever “width”"):
        table.running(Sieve(dropped={"width": [1]}))
    with pytest.raises(EurythmError, match="no figure “noise”"):
        table.sorted(table.running(Sieve()), "noise")


def test_a_hundred_thousand_cases_are_sieved_and_sorted_at_once() -> None:
    levers = [{"kind": kind, "steps": list(range(size))} for kind, size in (("a", 100), ("b", 100), ("c", 10))]
    many = StudySpec.model_validate({"levers": levers})
    table = CaseTable(lever_columns(many), rows_of(many), ("energy",))
    table.status[:] = DONE
    table.figures["energy"][:] = np.random.default_rng(0).normal(size=100_000)
    started = time.process_time()
    running = table.running(Sieve({"a": [3]}, {"energy": (-1.0, 1.0)}))
    page = table.sorted(running, "energy")[:100]
    strips = table.strips(running)
    table.spread("energy", running)
    assert time.process_time() - started < 0.5
    assert np.all(np.diff(table.figures["energy"][page]) >= 0)
    assert sum(still for _, still in strips[0]) == int(running.sum())
