"""Twenty users on ten projects who edit while three studies run: ``python -m tests.bench.load [SECONDS]``.

Each user edits the project that another one edits too, every one to three seconds, and asks for the outcome of every edit, as the page
does; an edit that came second is made again on what stands now. Printed are errors, lost edits, how long an edit with its outcome takes,
and the memory of the server with all that it started.
"""

from __future__ import annotations

import http.client
import json
import random
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

import psutil

from tests.conftest import volume
from tests.e2e.conftest import Server

PROJECTS, USERS, STUDIES = 10, 20, 3
ZONES = 15
"""Of each project: three storeys with perimeter and core, heated rooms of a plain use."""


def asked(url: str, path: str, body: dict[str, Any] | None = None) -> tuple[int, Any]:
    """Ask the server; return status and answer."""
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"{url}/api/{path}", data, {"Content-Type": "application/json"})
    try:
        with urllib.request.urlopen(request, timeout=120) as answer:
            return answer.status, json.loads(answer.read())
    except urllib.error.HTTPError as fault:
        return fault.code, json.loads(fault.read())


class User:
    """Somebody who types a value into one field of their own, again and again."""

    def __init__(self, url: str, project: str, number: int) -> None:
        self.url, self.project, self.chance = url, project, random.Random(number)
        self.scheme = "scheme-1"
        self.path = f"schemes/{self.scheme}/skin/" + ("glazing_ratio/south" if number < PROJECTS else "overhang_depth_m/west")
        self.value: float | None = None
        self.taken: list[float] = []
        self.errors: list[str] = []

    def work(self, until: float) -> None:
        """Edit until it is time to stop."""
        while time.monotonic() < until:
            started = time.monotonic()
            try:
                self.edit(round(self.chance.uniform(0.2, 0.6), 3))
                self.taken.append(time.monotonic() - started)
            except (OSError, http.client.HTTPException, AssertionError) as fault:
                self.errors.append(f"{type(fault).__name__}: {fault}")
            time.sleep(self.chance.uniform(1.0, 3.0))

    def edit(self, value: float) -> None:
        """Make one edit, after others where they were first, and ask for its outcome."""
        _, state = asked(self.url, f"projects/{self.project}/revision")
        for _ in range(20):
            edit = {"op": "set", "path": self.path, "value": value}
            status, answer = asked(self.url, f"projects/{self.project}/edits", {"revision": state["revision"], "edit": edit})
            if status != 409:
                break
            state = answer
        assert status == 200, answer
        self.value = value
        status, answer = asked(self.url, f"projects/{self.project}/schemes/{self.scheme}/outcome")
        assert status == 200, answer

    def lost(self) -> bool:
        """Whether what was answered last does not stand."""
        here: Any = asked(self.url, f"projects/{self.project}")[1]["completed"]
        scheme = next(s for s in here["schemes"] if s["id"] == self.scheme)
        *way, last = self.path.split("/")[2:]
        for step in way:
            scheme = scheme[step]
        return self.value is not None and scheme[last] != self.value


def made(url: str, number: int) -> str:
    """Make a project of three storeys; return its id."""
    state = asked(url, "projects", {"name": f"Load {number}"})[1]
    parts = [
        {"op": "set", "path": "place/climate", "value": {"kind": "stand-in", "id": "merrowhaven"}},
        {"op": "put", "path": "schemes/scheme-1/volumes", "item": volume(zoning="perimeter_core", storeys=ZONES // 5)},
    ]
    status, answer = asked(url, f"projects/{state['id']}/edits", {"revision": 1, "edit": {"op": "together", "edits": parts}})
    assert status == 200, answer
    return state["id"]


def memory_mb(pid: int) -> float:
    """Memory of a process and all that it started, what they share counted once (PSS)."""
    total = 0
    for process in (psutil.Process(pid), *psutil.Process(pid).children(recursive=True)):
        try:
            total += process.memory_full_info().pss
        except psutil.NoSuchProcess:
            continue
    return total / 1e6


def main(seconds: float) -> None:
    """Run it and print what came of it."""
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder)).start()
        assert server.process is not None
        try:
            projects = [made(server.url, k) for k in range(PROJECTS)]
            for k in range(STUDIES):
                _, state = asked(server.url, f"projects/{projects[k]}/revision")
                steps = [round(0.1 + 0.02 * n, 2) for n in range(40)]
                levers = [{"kind": "field", "path": f"skin/glazing_ratio/{side}", "steps": steps} for side in ("south", "north")]
                body = {"revision": state["revision"], "study": {"levers": levers}}
                assert asked(server.url, f"projects/{projects[k]}/studies", body)[0] == 201
            users = [User(server.url, projects[k % PROJECTS], k) for k in range(USERS)]
            until = time.monotonic() + seconds
            threads = [threading.Thread(target=user.work, args=(until,)) for user in users]
            for thread in threads:
                thread.start()
            most = 0.0
            while any(thread.is_alive() for thread in threads):
                most = max(most, memory_mb(server.process.pid))
                time.sleep(2.0)
            taken = sorted(t for user in users for t in user.taken)
            errors = [fault for user in users for fault in user.errors]
            lost = sum(user.lost() for user in users)
            done = sum(s["done"] for p in projects[:STUDIES] for s in asked(server.url, f"projects/{p}/studies")[1])
            print(
                f"load: {USERS} users on {PROJECTS} projects, {STUDIES} studies, {seconds:.0f} s: {len(taken)} edits, {len(errors)} errors, {lost} lost; "
                f"an edit with its outcome median {taken[len(taken) // 2]:.2f} s, 95th percentile {taken[int(0.95 * len(taken))]:.2f} s; "
                f"{done} cases done; memory at most {most:.0f} MB"
            )
            for fault in errors[:5]:
                print("  ", fault[:200])
        finally:
            server.stop()


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 120.0)
