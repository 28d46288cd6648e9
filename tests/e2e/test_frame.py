"""The frame: schemes, undo, finder, help, projects, files, and that everybody can use it."""

from __future__ import annotations

import json

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.pages import Eurythm, api, new_demo, serious_faults

STAGES = ("place", "shape", "skin", "use", "plant", "study", "findings")


def names(demo: Eurythm) -> list[str]:
    return [s["name"] for s in demo.state["given"]["schemes"]]


def menu(demo: Eurythm, scheme: str, item: str) -> None:
    demo.page.get_by_role("tab", name=scheme).click()
    demo.page.get_by_role("menuitem", name=item).click()


def test_schemes_are_added_duplicated_renamed_and_removed(demo: Eurythm) -> None:
    demo.open("shape")
    demo.settled()
    demo.button("Add scheme").click()
    expect(demo.page.get_by_role("tab", name="Scheme 4")).to_have_attribute("aria-selected", "true")
    expect(demo.page.get_by_role("heading", name="Nothing is drawn yet")).to_be_visible()
    demo.page.get_by_role("tab", name="Court").click()
    expect(demo.page.get_by_role("tab", name="Court")).to_have_attribute("aria-selected", "true")
    menu(demo, "Court", "Duplicate")
    expect(demo.page.get_by_role("tab", name="Court copy")).to_have_attribute("aria-selected", "true")
    menu(demo, "Court copy", "Rename")
    demo.page.get_by_role("textbox", name="Name of this scheme").fill("Yard")
    demo.button("Rename").click()
    expect(demo.page.get_by_role("tab", name="Yard")).to_be_visible()
    assert names(demo) == ["Quay", "Court", "Terraces", "Scheme 4", "Yard"]
    menu(demo, "Yard", "Remove")
    expect(demo.page.get_by_text("Scheme removed. Undo brings it back.")).to_be_visible()
    assert names(demo) == ["Quay", "Court", "Terraces", "Scheme 4"]


def test_another_scheme_becomes_the_reference(demo: Eurythm) -> None:
    demo.open("shape", "court")
    demo.settled()
    expect(demo.page.locator('[data-figure="eui-than"]')).to_contain_text("than Quay")
    menu(demo, "Court", "Make it the reference")
    expect(demo.page.get_by_role("tab", name="Court")).to_contain_text("reference")
    expect(demo.page.locator('[data-figure="eui-than"]')).not_to_contain_text("than")
    assert demo.state["given"]["reference"] == "court"
    demo.page.get_by_role("tab", name="Court").click()
    expect(demo.page.get_by_role("menuitem", name="Remove")).to_have_attribute("aria-disabled", "true")


def test_undo_and_redo_by_key_and_button(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    expect(demo.button("Undo")).to_be_disabled()
    demo.type("skin/sill_m", "1.1")
    demo.page.locator(".canvas").click(position={"x": 30, "y": 500})
    demo.page.keyboard.press("Control+z")
    expect(demo.field("skin/sill_m")).to_have_value("0.9")
    demo.page.keyboard.press("Control+Shift+z")
    expect(demo.field("skin/sill_m")).to_have_value("1.1")
    demo.button("Undo").click()
    expect(demo.field("skin/sill_m")).to_have_value("0.9")


def test_any_action_is_found_by_name(demo: Eurythm) -> None:
    demo.open("shape")
    demo.settled()
    demo.page.keyboard.press("Control+k")
    search = demo.page.get_by_role("combobox", name="Find anything")
    search.fill("plan")
    expect(demo.page.get_by_role("dialog")).to_contain_text("Show the plan")
    search.fill("go to plant")
    search.press("Enter")
    expect(demo.page.get_by_role("heading", name="Whole project")).to_be_visible()
    demo.page.keyboard.press("Control+k")
    demo.page.get_by_role("combobox", name="Find anything").fill("courtyard")
    demo.page.get_by_role("dialog").get_by_role("option", name="Add volume: courtyard").click()
    expect(demo.page.get_by_role("group", name="Drawing")).to_be_visible()
    demo.page.keyboard.press("Control+k")
    demo.page.get_by_role("combobox", name="Find anything").fill("teleport")
    expect(demo.page.get_by_text("Nothing is called that.")).to_be_visible()


def test_help_tells_keys_and_words(demo: Eurythm) -> None:
    demo.open("shape")
    demo.button("Help").click()
    dialog = demo.page.get_by_role("dialog", name="Help")
    expect(dialog).to_contain_text("Ctrl K")
    expect(dialog).to_contain_text("the one scheme that all differences in the readout are told against")
    demo.page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)


def test_the_project_is_renamed_saved_and_opened_again(demo: Eurythm, page: Page, tmp_path) -> None:
    demo.open("shape")
    demo.settled()
    demo.button("Merrowhaven Library").click()
    page.get_by_role("menuitem", name="Rename the project").click()
    page.get_by_role("textbox", name="Name of this project").fill("Rope Quay, second round")
    page.keyboard.press("Enter")
    demo.button("Rope Quay, second round").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Save the project as a file").click()
    file = tmp_path / download.value.suggested_filename
    download.value.save_as(file)
    assert file.name == "rope-quay--second-round.eurythm.json"
    page.goto(f"{demo.server.url}/projects")
    page.get_by_label("Open a file").set_input_files(file)
    expect(page.get_by_role("tab", name="Terraces")).to_be_visible()
    opened = page.url.split("/p/")[1].split("/")[0]
    assert opened != demo.project
    assert api(demo.server, f"projects/{opened}")["given"] == demo.state["given"]


def test_a_file_that_is_not_ours_is_told_and_makes_no_project(shared: Server, page: Page, tmp_path) -> None:
    file = tmp_path / "other.json"
    file.write_text(json.dumps({"format": "eurythm.project", "version": 3}))
    page.goto(f"{shared.url}/projects")
    before = api(shared, "projects")
    page.get_by_label("Open a file").set_input_files(file)
    expect(page.get_by_role("alert")).to_contain_text("version 3")
    assert api(shared, "projects") == before


def test_a_project_is_removed_after_asking(shared: Server, page: Page) -> None:
    project = new_demo(shared)
    edit = {"op": "set", "path": "name", "value": "Going"}
    api(shared, f"projects/{project}/edits", {"revision": 1, "edit": edit})
    page.goto(f"{shared.url}/projects")
    page.get_by_role("button", name="Remove Going").click()
    expect(page.get_by_role("dialog")).to_contain_text("This cannot be undone.")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    assert project in [p["id"] for p in api(shared, "projects")]
    page.get_by_role("button", name="Remove Going").click()
    page.get_by_role("button", name="Remove", exact=True).click()
    expect(page.get_by_role("link", name="Going")).to_have_count(0)
    assert project not in [p["id"] for p in api(shared, "projects")]


def test_an_address_that_leads_nowhere_says_so(shared: Server, page: Page) -> None:
    page.goto(f"{shared.url}/p/nothing/shape/x")
    expect(page.get_by_role("heading", name="This project cannot be opened")).to_be_visible()
    page.get_by_role("link", name="All projects").click()
    expect(page.get_by_role("button", name="New project")).to_be_visible()


def test_an_edit_made_elsewhere_is_not_overwritten(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    edit = {"op": "set", "path": "schemes/quay/skin/sill_m", "value": 1.15}
    api(demo.server, f"projects/{demo.project}/edits", {"revision": 1, "edit": edit})
    demo.field("skin/head_m").fill("2.9")
    demo.field("skin/head_m").press("Enter")
    expect(demo.field("skin/sill_m")).to_have_value("1.15")
    expect(demo.field("skin/head_m")).to_have_value("2.9")
    demo.settled(2)
    assert (demo.given["skin"]["sill_m"], demo.given["skin"]["head_m"]) == (1.15, 2.9)


@pytest.mark.parametrize("stage", STAGES)
def test_axe_finds_nothing_serious(demo: Eurythm, stage: str) -> None:
    demo.open(stage)
    demo.settled()
    if stage == "findings":
        expect(demo.page.get_by_role("rowheader", name="Energy", exact=True)).to_be_visible()
    assert serious_faults(demo.page) == []


@pytest.mark.parametrize("width", [1024, 1920])
def test_the_frame_holds_from_small_to_wide(demo: Eurythm, width: int) -> None:
    demo.page.set_viewport_size({"width": width, "height": 760})
    for stage in ("shape", "study"):
        demo.open(stage)
        demo.settled()
        across = demo.page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        assert across == 0
        expect(demo.page.locator('[data-figure="eui"]')).to_be_in_viewport()


def test_a_very_long_name_breaks_nothing(demo: Eurythm) -> None:
    long = "The reading rooms above the old salt store with a second stair and a room for the rope makers of the quay" + " x" * 5
    edit = {"op": "set", "path": "schemes/quay/name", "value": long}
    api(demo.server, f"projects/{demo.project}/edits", {"revision": 1, "edit": edit})
    demo.open("shape")
    demo.settled()
    assert demo.page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth") == 0
    expect(demo.button("Find anything Ctrl K")).to_be_in_viewport()
    expect(demo.button("Help")).to_be_in_viewport()


def test_an_edit_fetches_only_what_hangs_on_it(demo: Eurythm) -> None:
    demo.open("plant")
    demo.settled()
    asked: list[str] = []
    demo.page.on("request", lambda request: asked.append(request.url.rpartition("/")[2].partition("?")[0]))
    demo.type("factors/electricity/price", "0.41")
    assert "outcome" in asked
    assert not {"geometry", "shelf"} & set(asked)
    asked.clear()
    demo.page.get_by_role("navigation", name="Stages").get_by_role("link", name="Shape").click()
    demo.settled()
    demo.page.get_by_role("tab", name="Quay").wait_for()
    with demo.page.expect_request("**/geometry"):
        api(
            demo.server,
            f"projects/{demo.project}/edits",
            {"revision": demo.state["revision"], "edit": {"op": "set", "path": "schemes/quay/turn_deg", "value": 4}},
        )
