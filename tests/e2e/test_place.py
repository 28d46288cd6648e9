"""Place: climate, files dropped on it, north, surroundings, remarks."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import expect

from eurythm.climate.standin import standin_epw
from tests.e2e.pages import Eurythm

pytestmark = pytest.mark.e2e


def drop(demo: Eurythm, name: str, text: str) -> None:
    """Drop a file on the site, as from a folder."""
    data = demo.page.evaluate_handle(
        "([name, text]) => { const d = new DataTransfer(); d.items.add(new File([text], name)); return d; }", [name, text]
    )
    site = demo.page.get_by_role("region", name="Site")
    site.dispatch_event("dragover", {"dataTransfer": data})
    site.dispatch_event("drop", {"dataTransfer": data})


def test_another_climate_changes_sheet_and_readout(demo: Eurythm) -> None:
    demo.open("place")
    before = demo.eui()
    expect(demo.page.get_by_role("heading", name="Merrowhaven", exact=True)).to_be_visible()
    revision = demo.revision
    demo.page.get_by_role("button", name="Sorrel Flats").click()
    expect(demo.page.get_by_role("heading", name="Sorrel Flats")).to_be_visible()
    demo.settled(revision)
    assert demo.eui() != before
    assert demo.state["given"]["place"]["climate"] == {"kind": "stand-in", "id": "sorrel-flats", "name": "Sorrel Flats"}
    sheet = demo.page.get_by_role("region", name="Climate sheet")
    expect(sheet).to_contain_text("degree days")
    demo.button("IP").click()
    expect(sheet).to_contain_text("°F")
    demo.button("Hide climate sheet").click()
    expect(sheet).to_have_count(0)


def test_an_epw_dropped_on_the_site_becomes_the_climate(demo: Eurythm) -> None:
    demo.open("place")
    demo.settled()
    drop(demo, "own.epw", standin_epw("karsk-basin"))
    expect(demo.page.get_by_text("own.epw is the climate year now.")).to_be_visible()
    expect(demo.page.get_by_role("heading", name="Karsk Basin")).to_be_visible()
    demo.settled(1)
    assert demo.state["given"]["place"]["climate"]["kind"] == "file"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("\n".join(standin_epw("karsk-basin").split("\n")[:5000]), "line 5000"),
        ("\n".join(standin_epw("karsk-basin").split("\n")[: 8 + 8700]), "8700"),
        ("not weather at all", "not an EPW"),
    ],
    ids=["cut", "8700 rows", "no EPW"],
)
def test_a_bad_file_says_why_and_changes_nothing(demo: Eurythm, text: str, said: str) -> None:
    demo.open("place")
    demo.settled()
    before = demo.state
    drop(demo, "bad.epw", text)
    notice = demo.page.get_by_role("alert").filter(has_text="bad.epw")
    expect(notice).to_contain_text(said)
    assert demo.state == before
    expect(demo.page.get_by_role("heading", name="Merrowhaven", exact=True)).to_be_visible()


def test_a_chosen_file_is_taken_too(demo: Eurythm, tmp_path: Path) -> None:
    file = tmp_path / "site.epw"
    file.write_text(standin_epw("vallarena"))
    demo.open("place")
    demo.page.locator('input[type="file"]').set_input_files(file)
    expect(demo.page.get_by_role("heading", name="Vallarena")).to_be_visible()


def test_north_turns_the_compass_and_the_result(demo: Eurythm) -> None:
    demo.open("place")
    before = demo.eui()
    expect(demo.page.get_by_label("True north 11 degrees clockwise of the drawing's")).to_be_visible()
    demo.type("place/north_deg", "60")
    expect(demo.page.get_by_label("True north -60 degrees clockwise of the drawing's")).to_be_visible()
    assert demo.eui() != before
    assert demo.state["given"]["place"]["north_deg"] == 60


def test_neighbours_are_added_sized_and_removed(demo: Eurythm) -> None:
    demo.open("place")
    demo.settled()
    demo.button("Add box").click()
    expect(demo.page.get_by_text("4 boxes")).to_be_visible()
    before = demo.eui()
    for part, value in (("x", "0"), ("y", "-22"), ("length", "70"), ("height", "30")):
        demo.type(f"place/boxes/neighbour-1/{part}", value)
    assert demo.eui() != before
    demo.button("Remove").click()
    expect(demo.page.get_by_text("3 boxes")).to_be_visible()
    demo.button("Undo").click()
    expect(demo.page.get_by_text("4 boxes")).to_be_visible()
    assert demo.state["given"]["place"]["boxes"][3]["height"] == 30


def test_trees_are_added_and_grow(demo: Eurythm) -> None:
    demo.open("place")
    demo.settled()
    demo.button("Add tree").click()
    expect(demo.page.get_by_text("8 trees")).to_be_visible()
    demo.page.locator("summary", has_text="Trees").click()
    demo.button("Tree 8").click()
    demo.type("place/trees/tree-8/height", "15")
    assert demo.state["given"]["place"]["trees"][7]["height"] == 15


def test_a_doubtful_value_is_remarked_on_and_leads_to_its_field(demo: Eurythm) -> None:
    demo.open("place")
    demo.settled()
    demo.type("place/ground_reflectance", "0.9")
    remark = demo.page.locator('[data-remark="unusual-value"]')
    expect(remark).to_contain_text("0.9 is unusual")
    place = demo.page.get_by_role("link", name="Place")
    expect(place).to_contain_text("1")
    remark.get_by_role("button").click()
    expect(demo.field("place/ground_reflectance")).to_be_focused()
    demo.type("place/ground_reflectance", "0.3")
    expect(remark).to_have_count(0)


def test_without_weather_the_readout_leads_to_place(demo: Eurythm) -> None:
    demo.open("shape")
    demo.settled()
    from tests.e2e.pages import api

    edit = {"op": "reset", "path": "place/climate"}
    api(demo.server, f"projects/{demo.project}/edits", {"revision": demo.revision, "edit": edit})
    demo.page.reload()
    demo.page.get_by_role("link", name="weather").click()
    expect(demo.page.get_by_role("heading", name="Which climate?")).to_be_visible()
    expect(demo.page.locator('[data-remark="no-climate"]')).to_be_visible()
