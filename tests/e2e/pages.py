"""What tests of the interface do over and over, as a user does it."""

from __future__ import annotations

import json
import urllib.request
import uuid
from functools import cache
from pathlib import Path
from typing import Any

from playwright.sync_api import FloatRect, Locator, Page, expect

from eurythm.exchange.demo import demo_map, demo_project
from eurythm.exchange.project_file import write_project
from eurythm.model.project import Project
from eurythm.model.reading import dump, read_document
from tests.e2e.conftest import Server


def api(server: Server, path: str, body: dict | None = None, method: str | None = None) -> Any:
    """Ask the server behind the page what it has kept."""
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"{server.url}/api/{path}", data, {"Content-Type": "application/json"}, method=method)
    with urllib.request.urlopen(request, timeout=120) as answer:
        text = answer.read()
        return json.loads(text) if text else None


@cache
def _demo_file() -> str:
    return _file(demo_project())


def new_demo(server: Server) -> str:
    """Open the demo project's file as a project of its own; returns its id."""
    return _opened(server, _demo_file())


def plain_demo(server: Server) -> str:
    """Open the demo with shipped hours, no calendar of its own, and seasonal figures on its reference; returns its id."""
    data = dump(demo_project())
    del data["place"]["calendar"], data["library"]["profiles"], data["schemes"][0]["plant"]
    for scheme in data["schemes"]:
        scheme["use"]["profile"] = "library"
    return opened(server, read_document(Project, data))


def bare_demo(server: Server) -> str:
    """Open the demo's forms, with lights that follow nothing and plants by seasonal figures, for what is done to forms; returns its id."""
    return _opened(server, _bare_file())


@cache
def _bare_file() -> str:
    data = dump(demo_project())
    for scheme in data["schemes"]:
        scheme["use"]["lights"] = {"kind": "none"}
        scheme["use"]["zones"] = [zone for zone in scheme["use"].get("zones", []) if "lights" not in zone]
        scheme.pop("plant", None)
    return _file(read_document(Project, data))


def opened(server: Server, project: Project) -> str:
    """Open a project's file as a new project; returns its id."""
    return _opened(server, _file(project))


def _file(project: Project) -> str:
    digest, _, drawing = demo_map()
    return write_project(project, {}, {digest: drawing})


def _opened(server: Server, file: str) -> str:
    mark = uuid.uuid4().hex
    head = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="demo.eurythm.json"\r\n\r\n'
    body = f"{head}{file}\r\n--{mark}--\r\n".encode()
    request = urllib.request.Request(
        f"{server.url}/api/projects/open", body, {"Content-Type": f"multipart/form-data; boundary={mark}"}
    )  # fmt: skip
    with urllib.request.urlopen(request, timeout=60) as answer:
        return json.loads(answer.read())["id"]


def unfold(element: Locator) -> None:
    """Open the folds that an element lies in, as a user would."""
    element.evaluate("e => { for (let d = e.closest('details'); d; d = d.parentElement.closest('details')) d.open = true }")


class Eurythm:
    """One project in the browser, and what the server has kept of it."""

    def __init__(self, page: Page, server: Server, project: str, scheme: str = "quay") -> None:
        self.page, self.server, self.project, self.scheme = page, server, project, scheme

    def open(self, stage: str, scheme: str | None = None) -> Eurythm:
        self.scheme = scheme or self.scheme
        self.page.goto(f"{self.server.url}/p/{self.project}/{stage}/{self.scheme}")
        expect(self.page.get_by_role("navigation", name="Stages")).to_be_visible()
        return self

    @property
    def state(self) -> dict:
        return api(self.server, f"projects/{self.project}")

    @property
    def given(self) -> dict:
        """The scheme as it was given."""
        return next(s for s in self.state["given"]["schemes"] if s["id"] == self.scheme)

    @property
    def given_place(self) -> dict:
        """The place as it was given."""
        return self.state["given"]["place"]

    def outcome(self) -> dict:
        return api(self.server, f"projects/{self.project}/schemes/{self.scheme}/outcome")

    def geometry(self) -> dict:
        return api(self.server, f"projects/{self.project}/schemes/{self.scheme}/geometry")

    def field(self, path: str) -> Locator:
        """A number or name by its path below the scheme, or below the project where it begins with place or factors."""
        below = path if path.startswith(("place/", "factors/", "library/")) else f"schemes/{self.scheme}/{path}"
        return self.page.locator(f'[name="{below}"]')

    def volume(self, name: str) -> None:
        """Select a volume in the list of them, which stands in Shape while nothing is selected."""
        self.page.locator("[data-section=volumes]").get_by_role("button", name=name).click()

    def type(self, path: str, value: str) -> None:
        """Type into a field and wait until the readout shows the result of it."""
        self.ready()
        before = self.revision
        unfold(self.field(path))
        self.field(path).fill(value)
        self.field(path).press("Enter")
        self.settled(before)

    def choose(self, label: str, option: str) -> None:
        """Choose an option of a field and wait until the readout shows the result of it."""
        self.ready()
        before = self.revision
        self.page.get_by_role("combobox", name=label, exact=True).click()
        self.page.get_by_role("option", name=option, exact=True).click()
        self.settled(before)

    def button(self, name: str) -> Locator:
        return self.page.get_by_role("button", name=name, exact=True)

    @property
    def revision(self) -> int:
        return int(self.page.locator(".state").get_attribute("data-revision") or 0)

    def ready(self) -> None:
        """Wait until the readout shows a result, or says what it waits for."""
        self.page.wait_for_function(
            "() => document.querySelector('.state')?.dataset.settled === 'true' || document.querySelector('.readout a[href]') !== null"
        )

    def settled(self, after: int = -1) -> None:
        """Wait until the readout is current, at a revision later than `after`."""
        self.page.wait_for_function(
            "n => { const s = document.querySelector('.state'); return s?.dataset.settled === 'true' && Number(s.dataset.revision) > n }",
            arg=after,
        )

    def back_at(self, revision: int) -> None:
        """Wait until undo has led back to a revision and the readout is current there."""
        self.page.wait_for_function(
            "n => { const s = document.querySelector('.state'); return s?.dataset.settled === 'true' && Number(s.dataset.revision) === n }",
            arg=revision,
        )

    def still(self, thing: Locator) -> FloatRect:
        """Where a thing stands on the page, once it stands still from one frame to the next."""
        last = None
        for _ in range(100):
            box = thing.bounding_box()
            if box is not None and box == last:
                return box
            last = box
            self.page.evaluate("new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))")
        raise AssertionError("it never stands still")

    def on_canvas(self, x: float, y: float, z: float) -> tuple[float, float]:
        """Where a point of the model lies on the page, once it lies there from one frame to the next."""
        last = None
        for _ in range(100):
            self.page.wait_for_function("() => window.__view")
            box = self.still(self.page.locator(".canvas canvas"))
            at = self.page.evaluate("p => window.__view?.project(...p)", [x, y, z])
            found = at and (box["x"] + at["x"], box["y"] + at["y"])
            if found and found == last:
                return found
            last = found
        raise AssertionError("the view never stands still")

    def eui(self) -> float:
        """The year's energy in the readout, kWh/m², with all its digits: what is told of it is often the same before and after."""
        self.settled()
        return float(self.page.locator('[data-figure="eui"]').get_attribute("data-exact") or "nan")


AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"


def serious_faults(page: Page) -> list[tuple[str, list[str]]]:
    """Return what axe finds serious or critical on a page: the rule, and the first things that break it."""
    page.evaluate(AXE.read_text(encoding="utf-8"))
    found = page.evaluate("axe.run({resultTypes: ['violations']})")
    return [(v["id"], [n["html"][:160] for n in v["nodes"][:3]]) for v in found["violations"] if v["impact"] in ("serious", "critical")]
