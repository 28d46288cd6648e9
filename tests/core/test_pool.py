"""A worker that dies costs its lot, not the pool; and no process outlives the one that started it."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import textwrap
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

import pytest

from eurythm.study import pool as wide
from eurythm.study.plan import Case, run_order
from eurythm.study.pool import Closed, Lot, Pool, after_a_fall
from eurythm.study.runner import CaseResult
from tests.core.test_study import job, spec

KILLER = 5
"""Number of the case that brings its worker down."""


def numbered(total: int) -> list[Case]:
    return [Case(n, ()) for n in range(total)]


def deadly_lot(job: object, cases: list[Case]) -> list[CaseResult]:
    """Stands in for `run_lot` in a worker: one case ends the process, the others come back."""
    numbers = [case.number for case in cases]
    if KILLER in numbers:
        os.kill(os.getpid(), signal.SIGKILL)
    return [CaseResult(n, "done", {"totals": {}}, "", 0.0) for n in numbers]


def slow_lot(job: object, cases: list[Case]) -> list[CaseResult]:
    """Stands in for `run_lot` in a worker: ten milliseconds a case."""
    time.sleep(0.01 * len(cases))
    return [CaseResult(c.number, "done", {"totals": {}}, "", 0.01) for c in cases]


def slow_pid(seconds: float) -> int:
    time.sleep(seconds)
    return os.getpid()


def telling_lot(job: object, cases: list[Case]) -> list[CaseResult]:
    """Stands in for `run_lot` in a worker: says in which process it ran."""
    time.sleep(0.05)
    return [CaseResult(c.number, "done", {"pid": os.getpid()}, "", 0.0) for c in cases]


@pytest.fixture
def pool() -> Iterator[Pool]:
    made = Pool(2)
    yield made
    made.close()


def test_a_case_that_kills_its_worker_fails_alone(pool: Pool, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(wide, "run_lot", deadly_lot)
    monkeypatch.setattr(wide, "CHUNK", 8)
    begun: list[int] = []
    asked = job(spec({"kind": "field", "path": "skin/glazing_ratio/south", "steps": [i / 50 for i in range(24)]}))
    results = [r for lot in pool.run(asked, numbered(24), begun.extend) for r in lot]
    assert sorted(r.number for r in results) == list(range(24))
    (failed,) = [r for r in results if r.status == "failed"]
    assert failed.number == KILLER
    assert "twice" in failed.reason
    # its lot of 8 falls twice whole, then by halves; nothing is tried without end
    assert begun.count(KILLER) <= 2 * 4
    assert max(begun.count(n) for n in range(12, 24)) == 1  # the other worker's


def test_a_worker_killed_from_outside_costs_nothing_but_time(pool: Pool) -> None:
    victims = set(pool.each(slow_pid, [(0.3,), (0.3,)]))
    assert len(victims) == 2
    os.kill(min(victims), signal.SIGKILL)
    assert sorted(pool.each(abs, [(-1,), (-2,), (-3,)])) == [1, 2, 3]
    assert set(pool.each(slow_pid, [(0.2,), (0.2,)])) - victims  # one is new, the other one stays
    assert set(pool.each(slow_pid, [(0.2,), (0.2,)])) & victims


def test_only_what_the_worker_was_at_is_blamed(monkeypatch: pytest.MonkeyPatch) -> None:
    """One worker, two lots sent: the first brings it down three times, the second, which waited behind it, is never halved."""
    monkeypatch.setattr(wide, "run_lot", deadly_lot)
    monkeypatch.setattr(wide, "CHUNK", 8)
    one = Pool(1)
    begun: list[list[int]] = []
    try:
        results = [r for lot in one.run(job(), numbered(16), lambda numbers: begun.append(list(numbers))) for r in lot]
    finally:
        one.close()
    assert [r.number for r in results if r.status == "failed"] == [KILLER]
    assert all(numbers == list(range(8, 16)) for numbers in begun if 8 in numbers)


def test_a_short_study_is_not_behind_a_long_one(pool: Pool, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(wide, "run_lot", slow_lot)
    left: list[int] = []

    def long() -> None:
        with suppress(Closed):
            left.extend(len(lot) for lot in pool.run(job(), numbered(1000)))

    leading = threading.Thread(target=long, daemon=True)
    leading.start()
    while not left:
        time.sleep(0.01)
    assert len([r for lot in pool.run(job(), numbered(20)) for r in lot]) == 20
    assert sum(left) < 500
    pool.close()
    leading.join(5.0)


@pytest.mark.parametrize(("asked", "expected"), [(1, 1), (2, 2), (None, 2), (9, 2)])
def test_a_study_keeps_to_the_workers_it_may_use(pool: Pool, monkeypatch: pytest.MonkeyPatch, asked: int | None, expected: int) -> None:
    monkeypatch.setattr(wide, "run_lot", telling_lot)
    monkeypatch.setattr(wide, "CHUNK", 4)
    pool.warm()
    results = [r for lot in pool.run(replace(job(), processes=asked), numbered(32)) for r in lot]
    assert sorted(r.number for r in results) == list(range(32))
    assert len({r.figures["pid"] for r in results if r.figures}) == expected


def test_a_lot_is_halved_after_two_falls_and_a_single_case_given_up() -> None:
    lot = Lot(numbered(3), 0, falls=1)
    assert after_a_fall(lot) == ([lot], [])
    again, given_up = after_a_fall(Lot(numbered(3), 1, falls=2))
    assert [(a.numbers, a.queue, a.falls) for a in again] == [([0], 1, 0), ([1, 2], 1, 0)]
    assert given_up == []
    again, (one,) = after_a_fall(Lot([Case(7, ())], 0, falls=2))
    assert again == []
    assert (one.number, one.status) == (7, "failed")


def test_a_closed_pool_takes_nothing_and_leaves_no_process() -> None:
    made = Pool(2)
    pids = set(made.each(slow_pid, [(0.2,), (0.2,)]))
    given_up: list[bool] = []

    def waiting() -> None:
        with pytest.raises(Closed):
            list(made.each(slow_pid, [(60.0,), (60.0,), (60.0,)]))
        given_up.append(True)

    asking = threading.Thread(target=waiting)
    asking.start()
    time.sleep(0.2)
    started = time.monotonic()
    made.close()
    asking.join(5.0)
    assert time.monotonic() - started < 5.0
    assert given_up
    assert not [p for p in pids if alive(p)]
    with pytest.raises(Closed):
        list(made.each(slow_pid, [(0.0,)]))


def alive(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(") ", 1)[1][0] != "Z"
    except OSError:
        return False


def test_a_worker_ends_when_its_parent_was_killed(tmp_path: Path) -> None:
    """kill -9 of a process with workers at work: they notice and end."""
    script = tmp_path / "parent.py"
    script.write_text(
        textwrap.dedent(
            """
            import os, sys, time
            from eurythm.study import pool as wide
            from eurythm.study.pool import Pool
            from tests.core.test_pool import slow_pid

            if __name__ == "__main__":
                pool = Pool(2)
                print(*set(pool.each(slow_pid, [(0.2,), (0.2,)])), flush=True)
                list(pool.each(slow_pid, [(60.0,)]))
            """
        )
    )
    root = Path(__file__).parents[2]
    with subprocess.Popen(
        [sys.executable, str(script)], stdout=subprocess.PIPE, text=True, env={**os.environ, "PYTHONPATH": str(root)}
    ) as parent:
        assert parent.stdout is not None
        workers = [int(p) for p in parent.stdout.readline().split()]
        assert workers
        parent.kill()
    deadline = time.monotonic() + 20
    while any(alive(p) for p in workers):
        assert time.monotonic() < deadline, "a worker outlived its parent"
        time.sleep(0.1)


def test_the_order_of_a_study_is_kept_whole() -> None:
    asked = spec({"kind": "turn", "steps": [0, 15]}, {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.3, 0.4]})
    assert sorted(run_order(asked)) == list(range(6))
