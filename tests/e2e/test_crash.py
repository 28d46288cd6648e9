"""Servers and workers that end or are killed during a study: it goes on, nothing that was committed is lost or run again, no process is left."""

from __future__ import annotations

import http.client
import json
import os
import random
import signal
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path

import pytest

from eurythm.exchange.samples.ifc import write_court
from eurythm.study.pool import AHEAD, CHUNK
from tests.conftest import volume
from tests.e2e.conftest import Server

pytestmark = pytest.mark.alone


def call(server: Server, path: str, body: dict | None = None) -> dict:
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"{server.url}/api/{path}", data, {"Content-Type": "application/json"})
    with urllib.request.urlopen(request, timeout=60) as answer:
        return json.loads(answer.read())


LEVERS = [
    {"kind": "turn", "steps": [-30, -15, 0, 15, 30]},
    {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.3, 0.4, 0.5, 0.6]},
    {"kind": "field", "path": "skin/glazing", "steps": ["double-lowe", "double-solar", "triple-clear"]},
    {"kind": "overhang", "steps": [0, 0.6, 1.2, 1.8]},
]
RANGES = [{"kind": "field", "path": f"skin/{name}/south", "low": 0.1, "high": 0.8} for name in ("glazing_ratio", "overhang_depth_m")]
SIX = [("turn", None, 20), ("field", "skin/glazing", "triple-clear"), ("overhang", None, 1.0), ("field", "skin/glazing_ratio/north", 0.2),
       ("field", "use/heating_c", 19), ("field", "use/infiltration_ach", 0.1)]  # fmt: skip
KINDS = {
    "every": {"levers": LEVERS},
    "measures": {"measures": [{"id": f"m{k}", "name": f"M{k}", "changes": [{"kind": kind, "path": path, "step": step}]} for k, (kind, path, step) in enumerate(SIX)]},
    "sample": {"levers": [*LEVERS[1:3], *RANGES[1:]], "size": 150},
    "sensitivity": {"levers": [*LEVERS[:3], RANGES[1]], "size": 128},
    "search": {"levers": [*LEVERS[:1], *RANGES], "goals": [{"outcome": "eui_kwh_per_m2"}, {"outcome": "peak_cooling_w"}], "size": 200},
}  # fmt: skip
"""A question of each kind, long enough to be cut off."""


@pytest.mark.parametrize("kind", list(KINDS))
def test_study_survives_kill_9(server: Server, kind: str) -> None:
    """It goes on from its own record, and comes to the cases and figures of one that was not disturbed."""
    project = call(server, "projects", {"name": "Crash"})
    path = f"projects/{project['id']}"
    edits = [
        {"op": "set", "path": "place/climate", "value": {"kind": "stand-in", "id": "merrowhaven"}},
        {"op": "put", "path": "schemes/scheme-1/volumes", "item": volume(zoning="perimeter_core")},
    ]
    state = call(server, f"{path}/edits", {"revision": 1, "edit": {"op": "together", "edits": edits}})
    asked = {"revision": state["revision"], "study": {"kind": kind, **KINDS[kind]}}
    study = call(server, f"{path}/studies", asked)
    where = f"{path}/studies/{study['id']}"
    least = {"search": 40, "measures": 0}.get(kind, 12)  # of a search beyond the first generation; 64 mixes may all come at once
    until(lambda: call(server, where)["done"] >= least and (least or any(c["attempts"] for c in call(server, f"{where}/cases")["cases"])))
    server.kill()
    server.start()
    after = call(server, where)
    first = {c["number"]: c for c in call(server, f"{where}/cases")["cases"] if c["status"] == "done"}
    assert least <= len(first) < after["total"] == study["total"]
    until(lambda: call(server, where)["status"] == "done")
    cases = call(server, f"{where}/cases")["cases"]
    assert [c["status"] for c in cases] == ["done"] * len(cases)
    assert len(cases) == call(server, where)["total"] <= study["total"]
    for number, before in first.items():
        assert cases[number]["figures"] == before["figures"]
        assert cases[number]["attempts"] == before["attempts"]
    in_flight = [c for c in cases if c["attempts"] > 1]
    assert len(in_flight) <= 2 * AHEAD * CHUNK  # the lots that were out at the workers went down with the server
    assert not {c["number"] for c in in_flight} & {n for n, c in first.items() if c["attempts"] == 1}
    again = call(server, f"{path}/studies", asked)
    until(lambda: call(server, f"{path}/studies/{again['id']}")["status"] == "done")
    others = call(server, f"{path}/studies/{again['id']}/cases")["cases"]
    for one, other in zip(cases, others, strict=True):
        assert (one["steps"], one["values"]) == (other["steps"], other["values"])
        known = {name: value for name, value in one["figures"].items() if value is not None}
        assert {name: other["figures"][name] for name in known} == pytest.approx(known, rel=1e-6)


def until(true, seconds: float = 120.0) -> None:
    """Ask again until it holds; the server pushes progress, but a killed one cannot be waited on."""
    deadline = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < deadline, "it took too long"
        time.sleep(0.1)


def below(pid: int) -> list[int]:
    """Process ids of all that a process started, and what these did; the last ones are workers."""
    try:
        own = [int(p) for p in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]
    except OSError:
        return []
    return own + [p for child in own for p in below(child)]


def workers_of(server: Server) -> list[int]:
    """Process ids of what the server started."""
    assert server.process is not None
    return below(server.process.pid)


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


ROUNDS = int(os.environ.get("KILLS", "4"))
"""How often server and workers are killed in one test; twenty by hand."""


@pytest.mark.timeout(1500)
def test_nothing_acknowledged_is_lost_however_often_something_dies(server: Server) -> None:
    """kill -9 of the server, or of a worker, at random moments while a study runs, edits come in and a file is read.

    Every edit that was answered stands, no committed case changes or is run again, the study ends whole, and nothing outlives a killed server.
    """
    chance = random.Random(7)
    project = call(server, "projects", {"name": "Killed"})
    path = f"projects/{project['id']}"
    first = [
        {"op": "set", "path": "place/climate", "value": {"kind": "stand-in", "id": "merrowhaven"}},
        {"op": "put", "path": "schemes/scheme-1/volumes", "item": volume(zoning="perimeter_core", storeys=2)},
    ]
    state = call(server, f"{path}/edits", {"revision": 1, "edit": {"op": "together", "edits": first}})
    ratios = [round(0.1 + 0.05 * k, 2) for k in range(10)]
    levers = [{"kind": "field", "path": f"skin/glazing_ratio/{side}", "steps": ratios} for side in ("south", "west")]
    levers.append({"kind": "overhang", "steps": [0, 0.6, 1.2, 1.8]})
    study = call(server, f"{path}/studies", {"revision": state["revision"], "study": {"levers": levers}})["id"]
    where = f"{path}/studies/{study}"
    answered = Answered(state["revision"])
    committed: dict[int, tuple[dict, int]] = {}
    for round_ in range(ROUNDS):
        stop = threading.Event()
        editing = threading.Thread(target=answered.go_on, args=(server, path, stop))
        editing.start()
        time.sleep(chance.uniform(0.5, 2.5))
        assert server.process is not None
        workers = [p for p in workers_of(server) if alive(p)]
        if round_ % 2:
            os.kill(chance.choice(workers[-2:]), signal.SIGKILL)
            time.sleep(0.2)
            stop.set()
            editing.join()
        else:
            os.kill(server.process.pid, signal.SIGKILL)  # the server alone: its workers have to notice
            server.process.wait()
            stop.set()
            editing.join()
            until(lambda workers=workers: not any(alive(p) for p in workers), 20.0)
            server.start()
        now = call(server, path)
        answered.check(now)
        cases = call(server, f"{where}/cases")["cases"]
        for number, (figures, attempts) in committed.items():
            assert (cases[number]["status"], cases[number]["figures"], cases[number]["attempts"]) == ("done", figures, attempts)
        committed = {c["number"]: (c["figures"], c["attempts"]) for c in cases if c["status"] == "done"}
    until(lambda: call(server, where)["status"] == "done", 300.0)
    cases = call(server, f"{where}/cases")["cases"]
    assert [c["status"] for c in cases] == ["done"] * len(cases)
    assert all(cases[n]["figures"] == figures for n, (figures, _) in committed.items())
    assert answered.count > ROUNDS  # edits did come in between
    workers = workers_of(server)
    server.stop()
    until(lambda: not any(alive(p) for p in workers), 20.0)


class Answered:
    """Edits of one project, each kept in mind once the server has answered it."""

    def __init__(self, revision: int) -> None:
        self.revision, self.name, self.count = revision, "Killed", 0
        self.sent = "Killed"

    def go_on(self, server: Server, path: str, stop: threading.Event) -> None:
        """Send one edit after another until told to stop or nobody answers."""
        while not stop.is_set():
            self.sent = f"Name {self.count} {self.revision}"
            try:
                made = call(server, f"{path}/edits", {"revision": self.revision, "edit": {"op": "set", "path": "name", "value": self.sent}})
            except (OSError, http.client.HTTPException):
                return
            self.revision, self.name, self.count = made["revision"], self.sent, self.count + 1
            time.sleep(0.02)

    def check(self, state: dict) -> None:
        """What was answered stands, or the one edit whose answer the killed server did not get out any more."""
        stands = state["given"]["name"]
        assert (stands, state["revision"]) in ((self.name, self.revision), (self.sent, self.revision + 1))
        self.revision, self.name = state["revision"], stands


def test_a_file_whose_reading_was_killed_is_read_again(server: Server, tmp_path: Path) -> None:
    """Server killed while it reads a file: after the start it is read again, and there is one import with what it holds."""
    project = call(server, "projects", {"name": "Read"})
    path = f"projects/{project['id']}/imports"
    write_court(tmp_path / "court.ifc")
    body, mark = (tmp_path / "court.ifc").read_bytes(), "----mark"
    head = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="court.ifc"\r\n\r\n'.encode()
    request = urllib.request.Request(
        f"{server.url}/api/{path}", head + body + f"\r\n--{mark}--\r\n".encode(), {"Content-Type": f"multipart/form-data; boundary={mark}"}
    )
    with urllib.request.urlopen(request, timeout=60) as answer:
        made = json.loads(answer.read())["id"]
    time.sleep(0.4)
    readers = workers_of(server)
    assert server.process is not None
    os.kill(server.process.pid, signal.SIGKILL)
    server.process.wait()
    until(lambda: not any(alive(p) for p in readers), 20.0)
    server.start()
    until(lambda: call(server, f"{path}/{made}")["status"] == "read", 120.0)
    assert len(call(server, path)) == 1


def test_a_cancelled_study_stops_and_a_deleted_one_holds_nobody_up(server: Server) -> None:
    """Two long studies and a short one side by side: the short one ends first, cancelling and deleting answer at once."""
    project = call(server, "projects", {"name": "Queue"})
    path = f"projects/{project['id']}"
    edits = [
        {"op": "set", "path": "place/climate", "value": {"kind": "stand-in", "id": "merrowhaven"}},
        {"op": "put", "path": "schemes/scheme-1/volumes", "item": volume(zoning="perimeter_core", storeys=2)},
    ]
    state = call(server, f"{path}/edits", {"revision": 1, "edit": {"op": "together", "edits": edits}})
    many = [round(0.1 + 0.01 * k, 2) for k in range(60)]

    def asked(steps: list[float]) -> str:
        levers = [{"kind": "field", "path": f"skin/glazing_ratio/{side}", "steps": steps} for side in ("south", "west")]
        return call(server, f"{path}/studies", {"revision": state["revision"], "study": {"levers": levers}})["id"]

    long, other = asked(many), asked(many)
    short = asked(many[:4])
    until(lambda: call(server, f"{path}/studies/{short}")["status"] == "done", 120.0)
    told = {s["id"]: s for s in call(server, f"{path}/studies")}
    assert told[long]["status"] == "running"
    assert told[long]["done"] < 0.5 * told[long]["total"]
    started = time.monotonic()
    assert call(server, f"{path}/studies/{long}/cancel", {})["status"] == "cancelled"
    delete = urllib.request.Request(f"{server.url}/api/{path}/studies/{other}", method="DELETE")
    urllib.request.urlopen(delete, timeout=30).close()
    assert time.monotonic() - started < 5.0
    seen = [-1]

    def still() -> bool:
        """Whether nothing more came back for two seconds: what workers were at is not waited for, and may still be kept."""
        seen.append(call(server, f"{path}/studies/{long}")["done"])
        time.sleep(2.0)
        return seen[-1] == seen[-2]

    until(still, 60.0)
    done = seen[-1]
    assert done < told[long]["total"]
    call(server, f"{path}/studies/{long}/go-on", {})
    until(lambda: call(server, f"{path}/studies/{long}")["done"] > done, 60.0)
    again = asked(many)
    urllib.request.urlopen(urllib.request.Request(f"{server.url}/api/{path}", method="DELETE"), timeout=30).close()
    assert call(server, "projects") == []
    with pytest.raises(urllib.error.HTTPError):
        call(server, f"{path}/studies/{again}")
