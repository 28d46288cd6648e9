"""Servers and workers that end or are killed during a study: it goes on, nothing that was committed is lost or run again, no process is left."""

from __future__ import annotations

import json
import os
import signal
import time
import urllib.request
from pathlib import Path

import pytest

from eurythm.study.pool import AHEAD, CHUNK
from tests.conftest import volume
from tests.e2e.conftest import Server

pytestmark = pytest.mark.e2e


def call(server: Server, path: str, body: dict | None = None) -> dict:
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"{server.url}/api/{path}", data, {"Content-Type": "application/json"})
    with urllib.request.urlopen(request, timeout=60) as answer:
        return json.loads(answer.read())


def test_study_survives_kill_9(server: Server) -> None:
    project = call(server, "projects", {"name": "Crash"})
    path = f"projects/{project['id']}"
    edits = [
        {"op": "set", "path": "place/climate", "value": {"kind": "stand-in", "id": "merrowhaven"}},
        {"op": "put", "path": "schemes/scheme-1/volumes", "item": volume(zoning="perimeter_core")},
    ]
    state = call(server, f"{path}/edits", {"revision": 1, "edit": {"op": "together", "edits": edits}})
    levers = [
        {"kind": "turn", "steps": [-30, -15, 0, 15, 30]},
        {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.3, 0.4, 0.5, 0.6]},
        {"kind": "field", "path": "skin/glazing", "steps": ["double-lowe", "double-solar", "triple-clear"]},
        {"kind": "overhang", "steps": [0, 0.6, 1.2, 1.8]},
    ]
    study = call(server, f"{path}/studies", {"revision": state["revision"], "study": {"levers": levers}})
    where = f"{path}/studies/{study['id']}"
    until(lambda: call(server, where)["done"] >= 12)
    server.kill()
    server.start()
    after = call(server, where)
    first = {c["number"]: c for c in call(server, f"{where}/cases")["cases"] if c["status"] == "done"}
    assert 12 <= len(first) < 300
    assert after["total"] == 300
    until(lambda: call(server, where)["status"] == "done")
    cases = call(server, f"{where}/cases")["cases"]
    assert [c["status"] for c in cases] == ["done"] * 300
    for number, before in first.items():
        assert cases[number]["figures"] == before["figures"]
        assert cases[number]["attempts"] == before["attempts"]
    in_flight = [c for c in cases if c["attempts"] > 1]
    assert len(in_flight) <= 2 * AHEAD * CHUNK  # the lots that were out at the workers went down with the server
    assert not {c["number"] for c in in_flight} & {n for n, c in first.items() if c["attempts"] == 1}


def until(true, seconds: float = 120.0) -> None:
    """Ask again until it holds; the server pushes progress, but a killed one cannot be waited on."""
    deadline = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < deadline, "it took too long"
        time.sleep(0.1)


def workers_of(server: Server) -> list[int]:
    """Process ids of what the server started."""
    assert server.process is not None
    pid = server.process.pid
    return [int(p) for p in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


def alive(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(") ", 1)[1][0] != "Z"
    except OSError:
        return False


def busy(server: Server) -> list[int]:
    """Start a study and return the processes of the server's that are at work on it."""
    project = call(server, "projects", {"name": "Busy"})
    path = f"projects/{project['id']}"
    edits = [
        {"op": "set", "path": "place/climate", "value": {"kind": "stand-in", "id": "merrowhaven"}},
        {"op": "put", "path": "schemes/scheme-1/volumes", "item": volume(zoning="perimeter_core", storeys=3)},
    ]
    state = call(server, f"{path}/edits", {"revision": 1, "edit": {"op": "together", "edits": edits}})
    ratios = [round(0.1 + 0.05 * k, 2) for k in range(12)]
    levers = [{"kind": "field", "path": f"skin/glazing_ratio/{side}", "steps": ratios} for side in ("south", "west")]
    study = call(server, f"{path}/studies", {"revision": state["revision"], "study": {"levers": levers}})
    until(lambda: any(c["attempts"] for c in call(server, f"{path}/studies/{study['id']}/cases")["cases"]))
    return workers_of(server)


@pytest.mark.parametrize("how", [signal.SIGTERM, signal.SIGKILL])
def test_no_process_outlives_the_server(server: Server, how: signal.Signals) -> None:
    """Told to end, it ends within seconds in the middle of a study; killed, its workers notice by themselves."""
    workers = busy(server)
    assert len(workers) >= 2
    assert server.process is not None
    started = time.monotonic()
    server.process.send_signal(how)
    server.process.wait(20)
    took = time.monotonic() - started
    until(lambda: not any(alive(p) for p in workers), 15.0)
    if how != signal.SIGKILL:
        assert took < 10  # five seconds on a machine that is not at other work


def test_a_killed_worker_does_not_break_the_study(server: Server) -> None:
    workers = busy(server)
    os.kill(workers[-1], signal.SIGKILL)
    (project,) = call(server, "projects")
    path = f"projects/{project['id']}/studies"
    until(lambda: call(server, path)[0]["status"] == "done", 300.0)
    study = call(server, path)[0]
    assert (study["done"], study["failed"]) == (study["total"], 0)
