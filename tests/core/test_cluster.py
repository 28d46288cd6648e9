"""A cluster with real workers on this machine: it agrees with this process, a killed worker loses nothing, and what is wrong is told."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from eurythm.model.errors import EurythmError
from eurythm.study import cluster as wide
from eurythm.study.cluster import Cluster
from eurythm.study.plan import count, in_order
from eurythm.study.runner import InProcess
from tests.core.test_study import GLASS, HEAT, SETPOINTS, job, spec

SCHEDULER = ["-m", "distributed.cli.dask_scheduler", "--host", "127.0.0.1", "--port", "0", "--no-dashboard", "--no-show"]


def started(folder: Path, *args: str) -> subprocess.Popen:
    with (folder / "log").open("ab") as log:
        return subprocess.Popen([sys.executable, *args], stdout=log, stderr=log, cwd=folder)


@pytest.fixture
def scheduler(tmp_path: Path) -> Iterator[tuple[str, subprocess.Popen]]:
    process = started(tmp_path, *SCHEDULER, "--scheduler-file", "where.json")
    where = tmp_path / "where.json"
    deadline = time.monotonic() + 60
    while not where.exists() or not where.read_text():
        assert time.monotonic() < deadline, (tmp_path / "log").read_text()
        time.sleep(0.05)
    yield json.loads(where.read_text())["address"], process
    process.terminate()
    process.wait(20)


@pytest.fixture
def address(scheduler: tuple[str, subprocess.Popen], tmp_path: Path) -> Iterator[str]:
    where, _ = scheduler
    process = started(tmp_path, "-m", "eurythm.cli.main", "worker", where, "--processes", "2")
    deadline = time.monotonic() + 120
    while "2 workers serve" not in (tmp_path / "log").read_text():
        assert process.poll() is None, (tmp_path / "log").read_text()
        assert time.monotonic() < deadline, (tmp_path / "log").read_text()
        time.sleep(0.1)
    yield where
    process.terminate()
    process.wait(30)


def test_it_agrees_with_this_process_and_a_killed_worker_loses_nothing(address: str) -> None:
    cluster = Cluster(address)
    try:
        far = {r.number: r for lot in cluster.run(job(), in_order(SETPOINTS)) for r in lot}
        near = {r.number: r for lot in InProcess().run(job(), in_order(SETPOINTS)) for r in lot}
        assert far.keys() == near.keys()
        for number, one in near.items():
            assert (far[number].status, far[number].reason, far[number].figures) == (one.status, one.reason, one.figures)

        many = spec(
            GLASS | {"steps": [round(0.1 + 0.01 * k, 2) for k in range(40)]}, HEAT | {"steps": [18, 18.5, 19, 19.5, 20, 20.5, 21, 21.5]}
        )
        numbers: list[int] = []
        killed = False
        for lot in cluster.run(job(many), in_order(many)):
            assert all(r.status == "done" for r in lot)
            numbers += [r.number for r in lot]
            if not killed:
                pids = list(cluster._client.run(os.getpid).values())
                os.kill(pids[0], signal.SIGKILL)
                killed = True
        assert sorted(numbers) == list(range(count(many)))  # none lost, none told twice
    finally:
        cluster.close()


def test_a_worker_of_another_version_is_named(address: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(wide, "__version__", "9.9")
    with pytest.raises(EurythmError, match=r"worker tcp://127.* has version .* this is 9\.9"):
        Cluster(address)


def test_a_cluster_without_workers_or_without_a_scheduler_is_told(
    scheduler: tuple[str, subprocess.Popen], monkeypatch: pytest.MonkeyPatch
) -> None:
    where, process = scheduler
    with pytest.raises(EurythmError, match="has no workers; start some: eurythm worker"):
        Cluster(where)
    process.terminate()
    process.wait(20)
    monkeypatch.setattr(wide, "WAIT_S", 0.5)
    with pytest.raises(EurythmError, match="No cluster answers"):
        Cluster(where)
