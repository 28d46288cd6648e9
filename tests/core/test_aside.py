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


def share_of_going(processes: list[int], seconds: float) -> float:
    """Which share of some time processes may go on, whatever else the machine is at."""
    going, begun = 0.0, time.monotonic()
    last = begun
    while last < begun + seconds:
        time.sleep(0.01)
        now = time.monotonic()
        going += (now - last) * (1 - len(still(processes)) / len(processes))
        last = now
    return going / (last - begun)


def test_a_study_goes_on_however_much_is_asked(turning: list[int]) -> None:
    """With answers worked out all the time, workers have the share that is left to them, once what was saved up is spent."""
    aside = Aside(lambda: turning)
    with aside.meanwhile(), aside.meanwhile():
        time.sleep(MOST_S / (1 - SHARE))
        assert 0.6 * (1 - SHARE) < share_of_going(turning, 4.0) < 2.4 * (1 - SHARE)
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
