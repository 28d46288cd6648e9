"""A worker that dies costs its lot, not the pool; and no process outlives the one that started it."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import textwrap
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from eurythm.study import runner
from eurythm.study.plan import run_order
from eurythm.study.runner import CaseResult, Closed, Pool, _after_a_fall, _Lot
from tests.core.test_study import job, spec

KILLER = 5
"""Number of the case that brings its worker down."""


def deadly_lot(job: object, numbers: list[int]) -> list[CaseResult]:
    """Stands in for `run_lot` in a worker: one case ends the process, the others come back."""
    if KILLER in numbers:
        os.kill(os.getpid(), signal.SIGKILL)
    return [CaseResult(n, "done", {"totals": {}}, "", 0.0) for n in numbers]


def slow_pid(seconds: float) -> int:
    time.sleep(seconds)
    return os.getpid()


@pytest.fixture
def pool(monkeypatch: pytest.MonkeyPatch) -> Iterator[Pool]:
    monkeypatch.setattr(runner, "_warm_worker", runner.end_with_parent)
    made = Pool(2)
    yield made
    made.close()


def test_a_case_that_kills_its_worker_fails_alone(pool: Pool, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(runner, "run_lot", deadly_lot)
    monkeypatch.setattr(runner, "CHUNK", 8)
    begun: list[int] = []
    asked = job(spec({"kind": "field", "path": "skin/glazing_ratio/south", "steps": [i / 50 for i in range(24)]}))
    results = [r for lot in pool.run(asked, list(range(24)), begun.extend) for r in lot]
    assert sorted(r.number for r in results) == list(range(24))
    (failed,) = [r for r in results if r.status == "failed"]
    assert failed.number == KILLER
    assert "twice" in failed.reason
    # its lot of 8 falls twice whole, then by halves; nothing is tried without end
    assert begun.count(KILLER) <= 2 * 4
    assert max(begun.count(n) for n in range(8, 24)) <= 2


def test_a_worker_killed_from_outside_costs_nothing_but_time(pool: Pool, monkeypatch: pytest.MonkeyPatch) -> None:
    victims = {pool._submit(slow_pid, 0.3).result() for _ in range(4)}
    os.kill(min(victims), signal.SIGKILL)
    assert sorted(pool.each(abs, [(-1,), (-2,), (-3,)])) == [1, 2, 3]
    assert pool._submit(slow_pid, 0.0).result() not in {min(victims)}


def test_a_lot_is_halved_after_two_falls_and_a_single_case_given_up() -> None:
    lot = _Lot([1, 2, 3], 0, falls=1)
    assert _after_a_fall(lot) == ([lot], [])
    again, given_up = _after_a_fall(_Lot([1, 2, 3], 1, falls=2))
    assert [(a.numbers, a.queue, a.falls) for a in again] == [([1], 1, 0), ([2, 3], 1, 0)]
    assert given_up == []
    again, (one,) = _after_a_fall(_Lot([7], 0, falls=2))
    assert again == []
    assert (one.number, one.status) == (7, "failed")


def test_a_closed_pool_takes_nothing_and_leaves_no_process() -> None:
    made = Pool(2)
    pids = {made._submit(slow_pid, 0.2).result() for _ in range(4)}
    made._submit(slow_pid, 60.0)
    started = time.monotonic()
    made.close()
    assert time.monotonic() - started < 5.0
    assert not [p for p in pids if alive(p)]
    with pytest.raises(Closed):
        made._submit(slow_pid, 0.0)


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
            from eurythm.study import runner
            from eurythm.study.runner import Pool
            from tests.core.test_pool import slow_pid

            if __name__ == "__main__":
                pool = Pool(2)
                print(*{pool._submit(slow_pid, 0.2).result() for _ in range(4)}, flush=True)
                pool._submit(slow_pid, 60.0)
                time.sleep(60)
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
