"""Speeds that users wait for, printed with ratios: `python -m tests.bench.run [year] [study] [edits]`.

Nothing is asserted here: absolute times depend on the machine and on what else it is doing.
"""

from __future__ import annotations

import json
import sys
import tempfile
import time
import urllib.request
from pathlib import Path
from typing import Any

import numpy as np

from eurythm.climate.standin import standin_year
from eurythm.exchange.demo import demo_project
from eurythm.thermal.balance import balance
from tests.conftest import make_scheme, run_scheme, volume
from tests.reference import HOURS, Dense

FIVE = {"length": 56, "depth": 17}


def year() -> None:
    """One year of a five-zone storey in the compiled kernel, against one dense numpy solve an hour of the same network
    (the solve alone; putting the matrix together is not counted)."""
    made = run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core", form=FIVE)]))
    best = min(_timed(lambda: balance(made.arrays)) for _ in range(5))
    network = Dense(made.arrays)
    systems = [network.assemble(hour) for hour in range(0, HOURS, 73)]  # hours of all seasons
    solving = _timed(lambda: [np.linalg.solve(matrix, right) for matrix, right in systems]) / len(systems)
    plain = solving * (HOURS + int(network.a["run_in_h"]))
    zones, elements = network.zones, len(network.nodes)
    print(f"year: {zones} zones, {elements} elements, {network.size} unknowns, 8760 h and 20 days of run-in")
    print(f"  compiled kernel {best * 1000:.1f} ms; dense numpy solve an hour {plain:.1f} s; {plain / best:.0f} times faster")


def _timed(call: Any) -> float:
    started = time.perf_counter()
    call()
    return time.perf_counter() - started


def _call(url: str, path: str, body: dict[str, Any] | None = None) -> Any:
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"{url}/api/{path}", data, {"Content-Type": "application/json"})
    with urllib.request.urlopen(request, timeout=120) as answer:
        return json.loads(answer.read())


def study() -> None:
    """300 cases of a five-zone storey, from the click to the finished page, on a fresh server with a warm pool."""
    from playwright.sync_api import sync_playwright

    from tests.e2e.conftest import CHROMIUM, QUIET, Server

    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder)).start()
        try:
            project = _call(server.url, "projects", {"name": "Bench"})
            place = demo_project().place.model_dump(mode="json", exclude_unset=True)
            item = volume("bar", zoning="perimeter_core", form=FIVE, x=6, y=6)
            edits = [{"op": "set", "path": "place", "value": place}, {"op": "put", "path": "schemes/scheme-1/volumes", "item": item}]
            state = _call(server.url, f"projects/{project['id']}/edits", {"revision": 1, "edit": {"op": "together", "edits": edits}})
            levers = [
                {"kind": "turn", "steps": [-30, -15, 0, 15, 30]},
                {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.3, 0.45, 0.6, 0.75]},
                {"kind": "field", "path": "skin/glazing", "steps": ["double-lowe", "double-solar", "triple-clear"]},
                {"kind": "field", "path": "skin/overhang_depth_m/south", "steps": [0, 0.6, 1.2, 1.8]},
            ]
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            draft = {
                "state": {"units": "SI", "sheetWidth": 340, "drafts": {f"{state['id']}/scheme-1": {"name": "Bench", "levers": levers}}},
                "version": 0,
            }
            page.add_init_script(f"localStorage.setItem('eurythm', {json.dumps(json.dumps(draft))})")
            page.goto(f"{server.url}/p/{state['id']}/study/scheme-1")
            button = page.get_by_role("button", name="Run 300 cases")
            button.wait_for(timeout=60_000)
            started = time.perf_counter()
            button.click()
            page.locator('[data-study-status="done"]').filter(has_text="300 in the running").wait_for(timeout=180_000)
            seconds = time.perf_counter() - started
            print(f"study: 300 cases of five zones, page to page {seconds:.1f} s, {seconds / 300 * 1000:.0f} ms a case on two processes")
            browser.close()
        finally:
            server.stop()


def edits() -> None:
    """30 edits on the demo's reference scheme: from Enter until the readout shows the new result."""
    from playwright.sync_api import sync_playwright

    from tests.e2e.conftest import CHROMIUM, QUIET, Server

    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder)).start()
        try:
            project = demo_project()
            made = _call(server.url, "projects", {"name": "Bench"})
            scheme = project.scheme("quay").model_dump(mode="json", exclude_unset=True)
            place = project.place.model_dump(mode="json", exclude_unset=True)
            parts = [
                {"op": "set", "path": "place", "value": place},
                {"op": "put", "path": "schemes", "item": scheme},
                {"op": "set", "path": "reference", "value": "quay"},
            ]
            _call(server.url, f"projects/{made['id']}/edits", {"revision": 1, "edit": {"op": "together", "edits": parts}})
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"{server.url}/p/{made['id']}/skin/quay")
            page.locator('.state[data-settled="true"]').wait_for(timeout=60_000)
            taken = []
            fields = [f"schemes/quay/skin/glazing_ratio/{s}" for s in ("south", "north", "east")]
            fields += ["schemes/quay/skin/overhang_depth_m/south", "schemes/quay/skin/sill_m"]
            for k in range(30):
                name = fields[k % len(fields)]
                before = int(page.locator(".state").get_attribute("data-revision") or 0)
                value = 20 + k if "ratio" in name else 0.3 + 0.02 * k
                field = page.locator(f'[name="{name}"]')
                field.fill(f"{value:g}")
                started = time.perf_counter()
                field.press("Enter")
                page.wait_for_function(
                    "n => { const s = document.querySelector('.state'); return s.dataset.settled === 'true' && Number(s.dataset.revision) > n }",
                    arg=before,
                )
                taken.append(time.perf_counter() - started)
            taken.sort()
            middle, late = taken[len(taken) // 2], taken[int(0.95 * len(taken))]
            print(f"edits: 30 edits on the demo's reference (15 zones): median {middle:.2f} s, 95th percentile {late:.2f} s")
            browser.close()
        finally:
            server.stop()


if __name__ == "__main__":
    standin_year("merrowhaven")
    for name in sys.argv[1:] or ["year", "study", "edits"]:
        {"year": year, "study": study, "edits": edits}[name]()
