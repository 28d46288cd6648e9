"""A walk through all pages at several widths, in SI and IP, with long names and classic scroll bars: nothing is cut, nothing lies over another thing."""

from __future__ import annotations

import time
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from eurythm.exchange.samples.ifc import write_court
from tests.e2e.conftest import CHROMIUM, QUIET, Server
from tests.e2e.pages import Eurythm, api, new_demo

MEASURE = (Path(__file__).parent / "measures.js").read_text()
WIDTHS = (1024, 1280, 1600, 2560)
PAGES = ("place", "shape", "skin", "use", "plant", "assumed", "study", "findings")
LONG = {
    "schemes/quay/name": "Quay with the long bar along the water, its deep reading room and the store of the rope makers",
    "schemes/quay/volumes/bar/name": "The bar along the water with its workshops and reading rooms",
}
STUDY = {
    "name": "Depth of shade and share of glass on the side to the water",
    "kind": "every",
    "scheme": "quay",
    "levers": [
        {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.4]},
        {"kind": "field", "path": "skin/glazing", "steps": ["double-lowe", "triple-clear"]},
        {"kind": "field", "path": "skin/overhang_depth_m/south", "steps": [0, 1.2]},
    ],
}


@pytest.fixture(scope="module")
def classic(browser: Browser) -> Browser:
    """A browser whose scroll bars take room, as on many desktops."""
    return browser.browser_type.launch(executable_path=CHROMIUM, args=QUIET, ignore_default_args=["--hide-scrollbars"])


@pytest.fixture(scope="module")
def walked(classic: Browser, shared: Server) -> Eurythm:
    page = classic.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.set_default_timeout(90_000)
    demo = Eurythm(page, shared, new_demo(shared))
    path = f"projects/{demo.project}"
    edits = [{"op": "set", "path": field, "value": name} for field, name in LONG.items()]
    api(shared, f"{path}/edits", {"revision": 1, "edit": {"op": "together", "edits": edits}})
    study = api(shared, f"{path}/studies", {"revision": 2, "study": STUDY})
    while api(shared, f"{path}/studies/{study['id']}")["status"] != "done":
        time.sleep(0.2)
    for pin in ({"scheme": "court"}, {"study": study["id"], "number": 3}):
        api(shared, f"{path}/pins", pin)
    return demo


def faults_of(page: Page) -> list[str]:
    """What is wrong with the page at each width and in both unit systems."""
    found = []
    for units in ("SI", "IP"):
        page.get_by_role("button", name=units, exact=True).click()
        for width in WIDTHS:
            page.set_viewport_size({"width": width, "height": 800})
            page.wait_for_function("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))")
            found += [f"{units} {width}: {fault}" for fault in page.evaluate(MEASURE)]
    page.set_viewport_size({"width": 1280, "height": 800})
    return found


def test_the_measure_finds_what_is_cut_and_what_lies_over_another_thing(walked: Eurythm) -> None:
    """A walk that finds nothing says nothing unless its measure would find something."""
    walked.open("skin").settled()
    page = walked.page
    assert page.evaluate(MEASURE) == []
    page.add_style_tag(content=".field label { white-space: nowrap; overflow: hidden; max-width: 40px }")
    assert any(fault.startswith("cut: ") for fault in page.evaluate(MEASURE))
    page.add_style_tag(content=".field label { white-space: normal; overflow-wrap: anywhere; overflow: visible; max-width: 24px }")
    assert any(fault.startswith("broken: ") for fault in page.evaluate(MEASURE))
    page.add_style_tag(content=".field label { max-width: none } .field .tags { margin-left: -60px }")
    assert any(fault.startswith("over each other: ") for fault in page.evaluate(MEASURE))


@pytest.mark.parametrize("address", ["projects", "guide/shape"])
def test_nothing_is_cut_outside_projects(walked: Eurythm, address: str) -> None:
    page = walked.page
    page.goto(f"{walked.server.url}/{address}")
    expect(page.get_by_role("main")).to_be_visible()
    for width in WIDTHS:
        page.set_viewport_size({"width": width, "height": 800})
        assert page.evaluate(MEASURE) == []


def test_nothing_is_cut_while_a_model_is_sifted(walked: Eurythm, tmp_path: Path) -> None:
    model = tmp_path / "The court as the office of the rope makers sent it, with furniture and stairs.ifc"
    write_court(model)
    walked.open("shape")
    walked.page.set_input_files('input[aria-label="Import"]', model)
    expect(walked.page.locator("[data-finding]").first).to_be_attached()
    walked.page.evaluate("document.querySelectorAll('main details').forEach((fold) => { fold.open = true })")
    assert faults_of(walked.page) == []


@pytest.mark.parametrize("stage", PAGES)
def test_nothing_is_cut_and_nothing_lies_over_another_thing(walked: Eurythm, stage: str) -> None:
    walked.open(stage)
    if stage not in ("study", "findings", "assumed"):
        walked.settled()
    expect(walked.page.locator("main")).to_be_visible()
    if stage == "findings":
        expect(walked.page.locator("main").get_by_role("heading", name="Court")).to_be_visible()
    if stage == "study":
        expect(walked.page.get_by_role("grid")).to_contain_text("than")
    walked.page.evaluate("document.querySelectorAll('.sheet details').forEach((fold) => { fold.open = true })")
    walked.settled()
    assert faults_of(walked.page) == []
