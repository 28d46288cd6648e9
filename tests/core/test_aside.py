"""Workers stand still while somebody waits for an answer, go on afterwards, and never stand still for good."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import textwrap
import time
from collections.abc import Iterator
from pathlib import Path

import psutil
import pytest

from eurythm.study.aside import CAN, MOST_S, SHARE, Aside
from eurythm.study.pool import Pool
from tests.core.test_pool import slow_pid

pytestmark = pytest.mark.skipif(not CAN, reason="only where what is stopped ends with its parent all the same")


@pytest.fixture
def turning() -> Iterator[list[int]]:
    """Two processes that are busy."""
    made = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(2)]
    yield [process.pid for process in made]
    for process in made:
        process.kill()
        process.wait()


def still(processes: list[int]) -> list[int]:
    return [process for process in processes if psutil.Process(process).status() == psutil.STATUS_STOPPED]


def until(true: object, seconds: float = 5.0) -> bool:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if true():  # type: ignore[operator]
            return True
        time.sleep(0.01)
    return False


def test_as_many_stand_still_as_answers_are_worked_out(turning: list[int]) -> None:
    aside = Aside(lambda: turning)
    with aside.meanwhile():
        assert until(lambda: still(turning) == turning[:1])
        with aside.meanwhile(), aside.meanwhile():
            assert until(lambda: still(turning) == turning)
        assert until(lambda: still(turning) == turning[:1])
    assert until(lambda: still(turning) == [])


def test_a_study_goes_on_however_much_is_asked(turning: list[int]) -> None:
    """With answers worked out all the time, workers have at least most of the share that is left to them."""
    aside, spans = Aside(lambda: turning), 5.0
    begun = [sum(psutil.Process(p).cpu_times()[:2]) for p in turning]
    with aside.meanwhile(), aside.meanwhile():
        time.sleep(spans)
    taken = sum(sum(psutil.Process(p).cpu_times()[:2]) - b for p, b in zip(turning, begun, strict=True))
    cores = min(len(turning), os.cpu_count() or 1)
    assert taken > 0.4 * (1 - SHARE) * (spans - MOST_S / (1 - SHARE) / 2) * cores
    assert taken < 0.8 * spans * cores
    assert until(lambda: still(turning) == [])


def test_an_answer_that_workers_make_themselves_stops_none_of_them() -> None:
    pool = Pool(2)
    try:
        with pool.aside():
            assert len(set(pool.each(slow_pid, [(0.3,), (0.3,)]))) == 2
    finally:
        pool.close()


@pytest.mark.parametrize("ending", ["close", "kill"])
def test_workers_that_stand_still_end_with_the_server(ending: str, tmp_path: Path) -> None:
    """Closed or killed while its workers stand still, it leaves none behind."""
    script = """
        import sys, time
        from eurythm.study.pool import Pool
        from tests.core.test_pool import slow_pid
        if __name__ == "__main__":
            pool = Pool(2)
            for worker in pool._workers:
                worker.send(slow_pid, 600.0)
            while len(pool._can_wait()) < 2:
                time.sleep(0.05)
            time.sleep(4.0)  # until they are ready
            with pool.aside(), pool.aside():
                print(*pool._can_wait(), flush=True)
                if sys.argv[1] == "kill":
                    time.sleep(600.0)
                pool.close()
    """
    (tmp_path / "holder.py").write_text(textwrap.dedent(script))
    holder = subprocess.Popen(
        [sys.executable, str(tmp_path / "holder.py"), ending],
        stdout=subprocess.PIPE,
        text=True,
        env=os.environ | {"PYTHONPATH": str(Path(__file__).parents[2])},
    )
    assert holder.stdout is not None
    workers = [int(number) for number in holder.stdout.readline().split()]
    assert len(workers) == 2
    if ending == "kill":
        assert until(lambda: still(workers) == workers)
        os.kill(holder.pid, signal.SIGKILL)
    holder.wait(30)
    assert until(lambda: not any(psutil.pid_exists(w) and psutil.Process(w).status() != psutil.STATUS_ZOMBIE for w in workers), 15.0)
