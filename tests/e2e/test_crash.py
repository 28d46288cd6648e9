"""kill -9 of the server during a study: it goes on, and nothing that was committed is lost or run again."""

from __future__ import annotations

import json
import time
import urllib.request

import pytest

from eurythm.study.runner import AHEAD, CHUNK
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
