"""What users of the page wait for, in a real browser; printed by `tests.bench.run`."""

from __future__ import annotations

import json
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import sync_playwright

from eurythm.exchange.demo import demo_project
from eurythm.exchange.samples import dxf
from eurythm.model.project import Project
from eurythm.model.reading import dump, read_document
from tests.conftest import make_scheme, volume
from tests.e2e.conftest import CHROMIUM, QUIET, Server
from tests.e2e.pages import Eurythm, api, opened
from tests.e2e.watch import Watch

FIVE = {"length": 56, "depth": 17}
"""A storey of five zones."""

FRAMES = """() => new Promise(done => {
  const times = []; let last = performance.now();
  const tick = now => { times.push(now - last); last = now; times.length < 90 ? requestAnimationFrame(tick) : done(times) };
  requestAnimationFrame(tick);
})"""


def canvas() -> None:
    """The browser's canvas, drawn by the processor alone as no graphics card is there: a model of 3,000 faces turned, one of its faces
    selected, and a plan of 50,000 lines moved and caught."""
    volumes = [
        volume(f"v{k}", storeys=18, zoning="perimeter_core", form={"length": 30, "depth": 18}, x=34.0 * (k % 5), y=22.0 * (k // 5))
        for k in range(10)
    ]
    project = demo_project().model_copy(update={"schemes": (make_scheme(volumes=volumes),)})
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder) / "data").start()
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET)
        try:
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.set_default_timeout(180_000)
            ours = Eurythm(page, server, opened(server, project), "t")
            _turning(ours)
            _sun_moving(ours)
            _catching(server, page, Path(folder))
        finally:
            browser.close()
            server.stop()


def _turning(ours: Eurythm) -> None:
    page = ours.page
    start = time.perf_counter()
    ours.open("shape")
    page.wait_for_function("() => window.__view")
    faces = len(ours.geometry()["faces"])
    print(f"canvas: {faces} faces drawn {time.perf_counter() - start:.1f} s after the page was asked for")
    ours.settled()
    page.evaluate(f"window.__frames = ({FRAMES})(); 0")
    page.mouse.move(500, 560)
    page.mouse.down()
    for k in range(60):
        page.mouse.move(500 + 4 * k, 560 - k)
    page.mouse.up()
    _frames("turned by the pointer", page.evaluate("() => window.__frames"))
    roof = next(f for f in ours.geometry()["faces"] if f["kind"] == "ceiling" and f["boundary"] == "outdoors")
    at = page.evaluate("p => window.__view.project(...p)", [sum(p[k] for p in roof["loops"][0]) / len(roof["loops"][0]) for k in range(3)])
    box = page.locator(".canvas canvas").bounding_box() or {"x": 0, "y": 0}
    start = time.perf_counter()
    page.mouse.click(box["x"] + at["x"], box["y"] + at["y"])
    page.get_by_role("heading", name="Ceiling or roof").wait_for()
    print(f"  a face selected by a click: its sheet after {(time.perf_counter() - start) * 1000:.0f} ms")


def _sun_moving(ours: Eurythm) -> None:
    """Shadows of the same faces while the hour of the day is drawn along its slider."""
    page = ours.page
    ours.open("place").settled()
    page.get_by_role("button", name="Hide climate sheet").click()
    page.get_by_role("button", name="show", exact=True).click()
    slider = page.get_by_label("Hour of the day")
    slider.scroll_into_view_if_needed()
    box = slider.bounding_box() or {"x": 0, "y": 0, "width": 100, "height": 10}
    y = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + box["width"] * 0.4, y)
    page.mouse.down()
    page.evaluate(f"window.__frames = ({FRAMES})(); 0")
    for k in range(60):
        page.mouse.move(box["x"] + box["width"] * (0.4 + 0.005 * k), y)
    page.mouse.up()
    _frames("shadows redrawn while the hour is drawn along", page.evaluate("() => window.__frames"))


def _catching(server: Server, page: Any, folder: Path) -> None:
    dxf.write_court(folder / "large.dxf", "m", hatching=50_000)
    project = api(server, "projects", {"name": "Large plan"})
    ours = Eurythm(page, server, project["id"], "scheme-1").open("shape")
    start = time.perf_counter()
    page.set_input_files('input[aria-label="Lay a plan under"]', folder / "large.dxf")
    page.locator("[data-underlay] path").first.wait_for(state="attached", timeout=120_000)
    print(f"  a plan of 50,000 lines: read and drawn after {time.perf_counter() - start:.1f} s")
    page.evaluate(f"window.__frames = ({FRAMES})(); 0")
    page.mouse.move(700, 300)
    page.mouse.down()
    for k in range(60):
        page.mouse.move(700 - 3 * k, 300 + k)
    page.mouse.up()
    _frames("the plan moved by the pointer", page.evaluate("() => window.__frames"))
    ours.button("room").click()
    page.evaluate(f"window.__frames = ({FRAMES})(); 0")
    for k in range(80):
        page.mouse.move(400 + 4 * k, 250 + 3 * k)
    _frames("corners caught on it while the pointer moves", page.evaluate("() => window.__frames"))


def _frames(what: str, times: list[float]) -> None:
    busy = sorted(times)
    print(f"  {what}: frames of {np.median(busy):.0f} ms, the slowest tenth above {busy[int(len(busy) * 0.9)]:.0f} ms")


def _call(url: str, path: str, body: dict[str, Any] | None = None) -> Any:
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"{url}/api/{path}", data, {"Content-Type": "application/json"})
    with urllib.request.urlopen(request, timeout=120) as answer:
        return json.loads(answer.read())


def study() -> None:
    """300 cases of a five-zone storey, from opening the page and from the click to the finished page, on a fresh server with a warm pool."""
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
            opened = time.perf_counter()
            page.goto(f"{server.url}/p/{state['id']}/study/scheme-1")
            button = page.get_by_role("button", name="Run 300 cases")
            button.wait_for(timeout=60_000)
            started = time.perf_counter()
            button.click()
            page.locator('[data-study-status="done"]').filter(has_text="300 in the running").wait_for(timeout=180_000)
            done = time.perf_counter()
            print(
                f"study: 300 cases of five zones, page to page {done - opened:.1f} s from opening the page, {done - started:.1f} s from the click"
            )
            browser.close()
        finally:
            server.stop()


AS_USERS_HAVE_IT = "--disable-blink-features=AutomationControlled"
"""Edges of the canvas are smoothed but where a browser says that it is driven."""

EDITS: dict[str, tuple[str, str, Callable[[int], str]]] = {
    "setpoint": ("use", "use/heating_c", lambda k: f"{18 + 0.2 * k:g}"),
    "glass": ("skin", "Window", lambda k: ("Triple, low-emissive", "Double, solar control", "Double, low-emissive")[k % 3]),
    "insulation": ("skin", "skin/roof_insulation_m", lambda k: f"{200 + 5 * k}"),
    "ratio": ("skin", "skin/glazing_ratio/south", lambda k: f"{20 + k}"),
    "overhang": ("skin", "skin/overhang_depth_m/south", lambda k: f"{0.3 + 0.02 * k:.2f}"),
    "length": ("shape", "volumes/bar/form/length", lambda k: f"{60 + 0.1 * k:.1f}"),
}
"""Edits that users wait for: stage, field or name of the choice, and the value of the k-th."""


def edits() -> None:
    """30 edits of each kind on the demo's reference (15 zones): from Enter until the readout shows the new result, what they ask for, and where
    the time goes: on the server, on the wire, in script and layout, and in drawing (by processors; all but drawing lies within the wait).
    """
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder)).start()
        try:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*QUIET, AS_USERS_HAVE_IT])
            for control in ("none", "dimmed"):
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                watch = Watch(page)
                ours = Eurythm(page, server, _with_lights(server, control))
                for kind, (stage, what, value) in EDITS.items():
                    if ours.page.url.split("/")[-2:-1] != [stage]:
                        ours.open(stage).settled()
                    page.wait_for_timeout(1000)
                    _edited(ours, watch, kind, what, value, control)
                page.close()
            browser.close()
        finally:
            server.stop()


def sliders() -> None:
    """How many values a second the readout shows while a slider is moved for five seconds, and how long after it was let go the year stands."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder)).start()
        try:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*QUIET, AS_USERS_HAVE_IT])
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            ours = Eurythm(page, server, _with_lights(server, "none"))
            for stage, label in (("use", "Heating setpoint"), ("skin", "Ratio south"), ("skin", "Overhang south")):
                ours.open(stage).settled()
                page.wait_for_timeout(1500)
                shown, after = _slid(ours, page.get_by_label(f"{label}, slider"))
                print(f"sliders: {label}: {shown / 5:.1f} values a second; {after:.2f} s from letting go until the year stands")
            browser.close()
        finally:
            server.stop()


def _slid(ours: Eurythm, slider: Any) -> tuple[int, float]:
    slider.scroll_into_view_if_needed()
    page, box = ours.page, ours.still(slider)
    page.evaluate(
        "() => { window.__shown = new Set(); const look = () => { window.__shown.add(document.querySelector('[data-figure=\"eui\"]')?.dataset.exact);"
        " requestAnimationFrame(look); }; look(); }"
    )
    height = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + box["width"] * 0.3, height)
    page.mouse.down()
    begun, step = time.perf_counter(), 0
    while time.perf_counter() - begun < 5.0:
        step += 1
        page.mouse.move(box["x"] + box["width"] * (0.3 + 0.4 * (time.perf_counter() - begun) / 5.0), height)
        page.wait_for_timeout(40)
    shown = page.evaluate("() => window.__shown.size") - 1
    before, released = ours.revision, time.perf_counter()
    page.mouse.up()
    ours.settled(before)
    return shown, time.perf_counter() - released


def _with_lights(server: Server, control: str) -> str:
    """The demo with lights of its reference that follow daylight or do not; returns the project's id."""
    data = dump(demo_project())
    scheme = data["schemes"][0]
    scheme["use"] = scheme["use"] | {"lights": {"kind": control}}
    scheme["use"]["zones"] = [zone for zone in scheme["use"].get("zones", []) if "lights" not in zone]
    return opened(server, read_document(Project, data))


def _edited(ours: Eurythm, watch: Watch, kind: str, what: str, value: Callable[[int], str], control: str) -> None:
    taken, costs, served = [], [], 0.0

    def heard(response: Any) -> None:
        nonlocal served
        if "/outcome" in response.url or response.url.endswith(("/edits", "/geometry")):
            timing = response.request.timing
            served += max(timing["responseStart"] - timing["requestStart"], 0.0) / 1000.0

    ours.page.on("response", heard)
    for k in range(30):
        watch.begin()
        started = time.perf_counter()
        if "/" in what:
            ours.type(what, value(k))
        else:
            ours.choose(what, value(k))
        taken.append(time.perf_counter() - started)
        costs.append(watch.end(150))
    ours.page.remove_listener("response", heard)
    taken.sort()
    mean = {name: sum(getattr(c, name) for c in costs) / 30 for name in ("renders", "frames", "script_s", "layout_s", "drawing_s")}
    print(
        f"edits, lights {control}, {kind}: median {taken[15]:.2f} s, 95th percentile {taken[28]:.2f} s; "
        f"{sum(len(c.requests) for c in costs) / 30:.1f} requests, {mean['renders']:.0f} components rendered, {mean['frames']:.1f} frames; "
        f"server {served / 30:.2f} s of all answers, script {mean['script_s']:.2f}, layout {mean['layout_s']:.2f}, drawing {mean['drawing_s']:.2f} s",
        flush=True,
    )
