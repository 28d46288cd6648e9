"""Takes one picture of each main view from a fresh demo: `python -m tests.e2e.screenshots FOLDER`."""

from __future__ import annotations

import io
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Page, sync_playwright

from eurythm.exchange.samples import dxf
from tests.e2e.conftest import CHROMIUM, QUIET, Server


def settled(page: Page) -> None:
    page.locator('.state[data-settled="true"]').wait_for(timeout=60_000)
    page.evaluate("document.fonts.ready")
    page.wait_for_timeout(900)  # the canvas draws after the result has come


def colour_by(page: Page, what: str) -> None:
    page.get_by_role("combobox", name="Colour by").click()
    page.get_by_role("option", name=what, exact=True).click()


DIFFERS = 12
"""By how much of 255 a channel of a pixel has to differ to be seen as another one."""
SEEN = 0.002
"""The share of such pixels from which on a picture is another one: text smoothed otherwise and a time in the readout are less."""


def seen_to_differ(old: Path, new: bytes) -> bool:
    """Whether somebody would see that a picture is another one than that in a file."""
    if not old.is_file():
        return True
    before, after = (Image.open(source).convert("RGB") for source in (old, io.BytesIO(new)))
    if before.size != after.size:
        return True
    apart = np.abs(np.asarray(before, dtype=int) - np.asarray(after, dtype=int)).max(axis=2) > DIFFERS
    return bool(apart.mean() > SEEN)


def keep(picture: bytes, file: Path) -> None:
    """Write a picture, unless the one that is there looks the same: each that is written stays in the history for good."""
    if seen_to_differ(file, picture):
        file.write_bytes(picture)


def take(page: Page, url: str, folder: Path) -> None:
    def shot(name: str) -> None:
        keep(page.screenshot(), folder / f"{name}.png")

    for stage, scheme in (
        ("place", "quay"),
        ("shape", "terraces"),
        ("skin", "terraces"),
        ("use", "quay"),
        ("plant", "terraces"),
        ("study", "quay"),
    ):
        page.goto(f"{url}/p/merrowhaven/{stage}/{scheme}")
        settled(page)
        if stage == "use":
            daylight(page)
        shot(stage)
    plant(page, url, shot)
    page.goto(f"{url}/p/merrowhaven/findings/quay")
    page.get_by_text("In a sentence").wait_for(timeout=60_000)
    settled(page)
    shot("findings")
    page.locator("[data-use=cooling] [data-part]").first.wait_for(timeout=60_000)
    page.locator("[data-share=base]").wait_for(timeout=60_000)
    page.evaluate("document.querySelector('.why').scrollIntoView()")
    settled(page)
    shot("why")
    report(page, url, folder)
    page.goto(f"{url}/p/merrowhaven/shape/terraces")
    settled(page)
    colour_by(page, "cooling demand by zone")
    page.locator(".readout-strip").click()
    page.locator("[data-parts=cooling] [data-part]").first.wait_for(timeout=60_000)
    page.locator("[data-peaks]").wait_for(timeout=60_000)
    settled(page)
    shot("readout")
    page.get_by_role("tab", name="Hour by hour").click()
    page.locator(".drawer-hours canvas[tabindex]").wait_for(timeout=60_000)
    settled(page)
    shot("hours")
    page.goto(f"{url}/p/merrowhaven/shape/court")
    settled(page)
    page.locator('[data-import="court.ifc"] a').click()
    page.locator("[data-finding]").first.wait_for(timeout=60_000)
    settled(page)
    shot("sift")
    page.goto(f"{url}/p/merrowhaven/skin/terraces")
    settled(page)
    page.locator("summary", has_text="Sun on faces").click()
    page.get_by_role("button", name="summer", exact=True).click()
    page.get_by_role("button", name="Show the sun").click()
    page.locator("[data-sun]").wait_for(timeout=60_000)
    page.locator("summary", has_text="Sun on faces").evaluate("e => e.scrollIntoView()")
    settled(page)
    shot("sun")
    page.get_by_role("combobox", name="Wall", exact=True).click()
    page.get_by_role("option", name="Timber studs, 240 mm insulated").click()
    settled(page)
    page.locator('[data-element="wall"]').get_by_role("button", name="layers").click()
    page.locator("[data-u]").wait_for(timeout=60_000)
    page.locator("summary", has_text="Rules").scroll_into_view_if_needed()
    settled(page)
    shot("builder")
    page.goto(f"{url}/p/merrowhaven/assumed/quay")
    page.locator('[data-ranking="current"]').wait_for(timeout=120_000)
    settled(page)
    shot("assumed")
    traced(page, url)
    shot("trace")


def report(page: Page, url: str, folder: Path) -> None:
    """The report of what the demo has pinned, with the study of its measures, as paper: to be looked at, not kept among the pictures."""
    studies = page.request.get(f"{url}/api/projects/merrowhaven/studies").json()
    measures = next(s["id"] for s in studies if s["spec"]["kind"] == "measures")
    made = page.request.post(f"{url}/api/projects/merrowhaven/report", data={"study": measures, "ranked": False}, timeout=120_000)
    assert made.ok, made.text()[:300]
    (folder / "report.pdf").write_bytes(made.body())


def daylight(page: Page) -> None:
    """Light on the floors of a storey in plan as a kept picture has it, and the table beside it."""
    page.locator("[data-sensors]").wait_for(timeout=60_000)
    page.get_by_role("button", name="Noon in midwinter", exact=True).click()
    page.locator("[data-daylight]").wait_for(timeout=60_000)
    page.locator("[data-daylight]").scroll_into_view_if_needed()
    page.mouse.move(430, 312)
    settled(page)


def plant(page: Page, url: str, shot: Callable[[str], None]) -> None:
    """Hours of use, where the energy goes, what the sun gives, and money over the years."""
    page.goto(f"{url}/p/merrowhaven/use/quay")
    settled(page)
    page.get_by_role("button", name="Open its hours").first.click()
    page.locator(".day-bars svg").first.wait_for()
    settled(page)
    shot("schedule")
    page.goto(f"{url}/p/merrowhaven/plant/terraces")
    settled(page)
    page.get_by_role("button", name="See where the energy goes").click()
    settled(page)
    shot("flow")
    page.get_by_role("button", name="See what the sun gives").click()
    page.locator('[data-things="arrays"]').evaluate("e => e.scrollIntoView()")
    settled(page)
    shot("arrays")
    page.goto(f"{url}/p/merrowhaven/plant/court")
    settled(page)
    page.get_by_role("button", name="Parts and cost table").click()
    page.locator("[data-held]").wait_for()
    settled(page)
    shot("money")


def traced(page: Page, url: str) -> None:
    """A scheme whose rooms were taken from the plan of the court's ground floor."""
    page.goto(f"{url}/p/merrowhaven/shape/quay")
    settled(page)
    page.get_by_role("button", name="Add scheme").click()
    page.get_by_text("Nothing is drawn yet").first.wait_for()
    with tempfile.TemporaryDirectory() as folder:
        dxf.write_court(Path(folder) / "ground-floor.dxf", "mm", origin_m=(350_000.0, 5_600_000.0))
        page.set_input_files('input[aria-label="Lay a plan under"]', Path(folder) / "ground-floor.dxf")
        page.locator("[data-underlay] path").first.wait_for(state="attached")
    page.get_by_role("button", name="Take its closed outlines as rooms").click()
    page.locator("path[data-zone]").first.wait_for()
    settled(page)
    page.get_by_role("button", name="window", exact=True).click()
    page.mouse.move(400, 540)
    page.wait_for_timeout(300)


def main(folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as data, sync_playwright() as playwright:
        server = Server(Path(data), "demo").start()
        try:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET)
            take(browser.new_page(viewport={"width": 1280, "height": 800}), server.url, folder)
            browser.close()
        finally:
            server.stop()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
