"""From an empty project to a comparison in words, as a user does it."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from eurythm.climate.standin import standin_epw
from tests.e2e.conftest import Server
from tests.e2e.pages import api, unfold

pytestmark = [pytest.mark.alone, pytest.mark.timeout(600)]


def eui(page: Page) -> float:
    """The big figure, once the result is current."""
    expect(page.locator('.state[data-settled="true"]')).to_be_visible()
    return float(page.locator('[data-figure="eui"]').inner_text())


def type_into(page: Page, name: str, value: str) -> None:
    field = page.locator(f'[name="{name}"]')
    unfold(field)
    field.fill(value)
    field.press("Enter")


def choose(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option, exact=True).click()


def draw_l(page: Page) -> None:
    page.get_by_role("button", name="L", exact=True).click()
    plan = page.get_by_label("Plan", exact=True)
    box = plan.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 240, box["y"] + 460)
    panel = page.get_by_role("group", name="Drawing")
    expect(panel).to_contain_text("opposite corner")
    panel.get_by_label("Length").fill("36")
    panel.get_by_label("Depth").fill("28")
    panel.get_by_label("Depth").press("Enter")


def revision_settled(page: Page, before: int) -> None:
    page.wait_for_function(
        "n => { const s = document.querySelector('.state'); return s?.dataset.settled === 'true' && Number(s.dataset.revision) > n }",
        arg=before,
    )


def test_from_empty_project_to_comparison(server: Server, page: Page, tmp_path: Path) -> None:
    epw = tmp_path / "karsk-basin.epw"
    epw.write_text(standin_epw("karsk-basin"))
    page.goto(server.url)
    page.get_by_label("Name of the new project").fill("Harbour shed")
    page.get_by_role("button", name="New project").click()
    expect(page.get_by_text("waiting for:")).to_be_visible()

    # an EPW of the user's
    page.get_by_label("Take an EPW file").set_input_files(epw)
    expect(page.get_by_role("heading", name="Karsk Basin")).to_be_visible()
    expect(page.get_by_text("waiting for:")).to_contain_text("a form")

    # an L of three storeys, perimeter and core
    page.get_by_role("link", name=re.compile("^Shape")).click()
    draw_l(page)
    expect(page.get_by_role("heading", name="Volume 1")).to_be_visible()
    project = page.url.split("/p/")[1].split("/")[0]
    type_into(page, "storey-count", "3")
    expect(page.get_by_label("Storeys").get_by_role("button", name="Storey at")).to_have_count(3)
    one_zone = eui(page)
    choose(page, "Divide by", "perimeter and core")
    expect(page.get_by_text("21 zones").first).to_be_visible()
    scheme = api(server, f"projects/{project}")["given"]["schemes"][0]
    wings = {"wing_length": 12, "wing_depth": 9.3}
    assert scheme["volumes"][0]["form"] == {"kind": "l", "length": 36, "depth": 28, **wings, "assumed": list(wings)}  # nobody typed these
    assert len(scheme["volumes"][0]["storeys"]) == 3
    divided = eui(page)
    assert divided != one_zone

    # 40% glass south: the readout follows
    page.get_by_role("link", name=re.compile("^Skin")).click()
    before = api(server, f"projects/{project}")["revision"]
    type_into(page, "schemes/scheme-1/skin/glazing_ratio/south", "40")
    revision_settled(page, before)
    assert eui(page) != divided
    outcome = api(server, f"projects/{project}/schemes/scheme-1/outcome")
    assert eui(page) == pytest.approx(outcome["totals"]["eui_kwh_per_m2"], abs=0.06)

    # a smaller volume stacked on it: the roof below is split
    page.get_by_role("link", name=re.compile("^Shape")).click()
    page.get_by_role("button", name="Stack a volume on it").click()
    expect(page.get_by_role("heading", name="Volume 2")).to_be_visible()
    contact = page.locator('[data-contact="floor against"]')
    expect(contact).to_contain_text("Volume 1")
    geometry = api(server, f"projects/{project}/schemes/scheme-1/geometry")
    stacked = sum(c["area_m2"] for c in geometry["contact"] if c["what"] == "floor against")
    roof = sum(f["area"] for f in geometry["faces"] if f["kind"] == "ceiling" and f["boundary"] == "outdoors")
    assert stacked == pytest.approx(12 * 9.3 * 1.25, rel=1e-3)
    assert roof == pytest.approx(geometry["footprint_m2"], rel=1e-3)
    volumes = api(server, f"projects/{project}")["given"]["schemes"][0]["volumes"]
    assert [v["name"] for v in volumes] == ["Volume 1", "Volume 2"]

    # what cannot be built is told on the drawing and leaves no trace
    type_into(page, "schemes/scheme-1/volumes/volume-2/base_level_m", "5")
    expect(page.get_by_role("alert").first).to_contain_text("share")
    assert api(server, f"projects/{project}")["given"]["schemes"][0]["volumes"] == volumes
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()
    assert len(api(server, f"projects/{project}")["given"]["schemes"][0]["volumes"]) == 1
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_role("button", name="Redo")).to_be_disabled()

    study_and_compare(page, server, project)

    # inch-pound, and all there after a reload
    page.get_by_role("button", name="IP").click()
    expect(page.locator(".findings")).to_contain_text("kBtu/ft²")
    page.reload()
    expect(page.locator(".findings")).to_contain_text("kBtu/ft²")
    page.get_by_role("link", name=re.compile("^Skin")).click()
    expect(page.locator('[name="schemes/scheme-1/skin/sill_m"]')).to_have_value("2.95")
    page.get_by_role("button", name="SI").click()
    expect(page.locator('[name="schemes/scheme-1/skin/glazing_ratio/south"]')).to_have_value("40")

    # undo reaches across a restart of the server
    server.stop()
    server.start()
    page.goto(f"{server.url}/p/{project}/skin/scheme-1")
    expect(page.locator('[name="schemes/scheme-1/skin/glazing_ratio/south"]')).to_have_value("40")
    page.get_by_role("button", name="Undo").click()  # the stacked volume
    page.wait_for_function(
        "path => fetch(path).then((r) => r.json()).then((p) => p.given.schemes[0].volumes.length === 1)", arg=f"/api/projects/{project}"
    )
    page.get_by_role("button", name="Undo").click()  # the glass
    expect(page.locator('[name="schemes/scheme-1/skin/glazing_ratio/south"]')).to_have_value("30")
    assert "skin" not in api(server, f"projects/{project}")["given"]["schemes"][0]


def study_and_compare(page: Page, server: Server, project: str) -> None:
    """A study of turn, south glass, window and overhang; steps kept, two pinned, read in words."""
    page.get_by_role("link", name=re.compile("^Study")).click()
    page.get_by_label("Name of the study").fill("Which glass")
    for lever, steps in (
        ("Turned", "-30, -15, 0, 15, 30"),
        ("Glazing ratio south", "20, 30, 40, 50, 60"),
        ("Glazing", None),
        ("Overhang south", "0, 0.6, 1.2, 1.8"),
    ):
        page.get_by_label("+ lever").fill(lever)
        page.get_by_role("option", name=lever, exact=True).click()
        if steps is not None:
            field = page.get_by_label(f"Steps of {lever}")
            field.fill(steps)
            field.press("Enter")
    expect(page.get_by_role("button", name="Run 300 cases")).to_be_enabled(timeout=120_000)  # when its time has been estimated
    expect(page.get_by_text("on this computer")).to_be_visible()
    page.get_by_role("button", name="Run 300 cases").click()
    expect(page.locator('[data-study-status="done"]')).to_contain_text("300 in the running", timeout=240_000)
    study = api(server, f"projects/{project}/studies")[0]
    assert (study["done"], study["failed"]) == (300, 0)
    effects = api(server, f"projects/{project}/studies/{study['id']}/matters")["effects"]
    assert page.locator("[data-effect]").first.get_attribute("data-effect") == effects[0]["lever"]

    page.get_by_role("button", name="60%", exact=True).click()
    page.get_by_role("button", name="-15°", exact=True).click()
    expect(page.locator("[data-study-status]")).to_contain_text("192 in the running")
    for pinned in (1, 2):
        page.get_by_role("button", name=re.compile("^Pin case")).first.click()
        expect(page.locator("[data-study-status]")).to_contain_text(f"{pinned} pinned")
    page.get_by_role("link", name=re.compile("^Findings")).click()
    row = page.locator(".findings tr", has=page.get_by_role("rowheader", name="In a sentence"))
    expect(row).to_contain_text(re.compile("(against|than in) Scheme 1"))
    columns = api(server, f"projects/{project}/findings")["columns"]
    assert [c["is_reference"] for c in columns] == [True, False, False]
    for column in columns[1:]:
        expect(row).to_contain_text(column["sentences"][0])
