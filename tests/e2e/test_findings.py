"""Findings: pinned schemes and cases, only what differs, notes, units."""

from __future__ import annotations

import pytest
from playwright.sync_api import Locator, expect

from tests.e2e.pages import Eurythm, api


def row(demo: Eurythm, name: str) -> Locator:
    return demo.page.locator(".findings tr", has=demo.page.get_by_role("rowheader", name=name, exact=True))


@pytest.fixture
def demo(bare: Eurythm) -> Eurythm:
    """Columns stand side by side in the same way whatever their years take."""
    return bare


@pytest.fixture
def pinned(demo: Eurythm) -> Eurythm:
    for scheme in ("court", "terraces"):
        api(demo.server, f"projects/{demo.project}/pins", {"scheme": scheme})
    demo.open("findings")
    expect(row(demo, "Energy")).to_be_visible()
    return demo


def test_nothing_pinned_says_what_to_do(demo: Eurythm) -> None:
    demo.open("findings")
    expect(demo.page.get_by_text("Pin cases with ◇ in Study")).to_be_visible()


def test_a_scheme_is_pinned_as_it_stands(demo: Eurythm) -> None:
    demo.open("findings", "terraces")
    expect(demo.page.get_by_text("in view now; pinned, it stays beside the others")).to_be_visible()
    expect(row(demo, "Energy").locator("td")).to_have_count(2)
    demo.button("Pin Terraces as it stands").click()
    expect(demo.page.get_by_text("Terraces is pinned as it stands; see Findings.")).to_be_visible()
    expect(demo.page.get_by_role("heading", name="Terraces")).to_be_visible()
    assert [p["scheme"] for p in api(demo.server, f"projects/{demo.project}/pins")] == ["terraces"]


def test_columns_say_what_the_server_worked_out(pinned: Eurythm) -> None:
    columns = api(pinned.server, f"projects/{pinned.project}/findings")["columns"]
    energy = row(pinned, "Energy")
    for column in columns:
        expect(energy).to_contain_text(f"{column['outcome']['totals']['eui_kwh_per_m2']:.1f}")
    expect(energy).to_contain_text(columns[1]["differences"]["eui_kwh_per_m2"])
    for kind in ("heating", "cooling"):
        peak = row(pinned, f"Peak {kind}")
        expect(peak).to_contain_text(f"{columns[2]['outcome']['peaks'][f'{kind}_w'] / 1000:.1f} kW")
    expect(row(pinned, "In a sentence")).to_contain_text(columns[2]["sentences"][0])
    expect(pinned.page.locator(".readout.folded")).to_be_visible()


def test_only_what_differs_is_listed_and_changes_are_underlined(pinned: Eurythm) -> None:
    differs = row(pinned, "What differs")
    expect(differs).to_contain_text("Form")
    expect(differs).not_to_contain_text("Infiltration")
    expect(differs.locator(".differs", has_text="30 rooms")).to_be_visible()
    assert differs.locator("td").first.locator(".differs").count() == 0


def test_notes_stay_and_unpinned_columns_go(pinned: Eurythm) -> None:
    note = row(pinned, "Note").get_by_label("Note").first
    note.fill("Ask the structural engineer about the yard.")
    note.blur()
    pinned.page.get_by_role("heading", name="Findings").click()
    pinned.page.wait_for_function(
        "async (path) => (await (await fetch(path)).json()).some((p) => p.note.includes('yard'))",
        arg=f"/api/projects/{pinned.project}/pins",
    )
    pinned.page.reload()
    expect(row(pinned, "Note").get_by_label("Note").first).to_have_value(
        "Ask the structural engineer about the yard.", timeout=60_000
    )  # fmt: skip
    pinned.button("unpin").first.click()
    expect(pinned.page.get_by_role("heading", name="Court")).to_have_count(0)
    assert [p["scheme"] for p in api(pinned.server, f"projects/{pinned.project}/pins")] == ["terraces"]


def test_inch_pound_holds_in_every_row(pinned: Eurythm) -> None:
    pinned.button("IP").click()
    for name, unit in (
        ("Energy", "kBtu/ft²"),
        ("Peak heating", "kBtu/h"),
        ("Too warm", "°F"),
        ("Too cold", "°F"),
        ("Carbon", "lb/ft²"),
        ("Running cost", "€/ft²"),
    ):
        expect(row(pinned, name)).to_contain_text(unit)


def test_a_scheme_with_a_fault_keeps_its_column_and_says_why(pinned: Eurythm) -> None:
    edit = {"op": "set", "path": "schemes/terraces/use/heating_c", "value": 29}
    api(pinned.server, f"projects/{pinned.project}/edits", {"revision": 1, "edit": edit})
    pinned.page.reload()
    expect(pinned.page.locator(".findings .remark.fault")).to_contain_text("stands above cooling")
    expect(pinned.page.get_by_role("heading", name="Court")).to_be_visible()


def test_the_report_is_saved_as_paper_with_a_title(pinned: Eurythm) -> None:
    pinned.page.get_by_role("button", name="Report", exact=True).click()
    pinned.page.get_by_label("Title").fill("Which way to build")
    with pinned.page.expect_download(timeout=180_000) as saved:
        pinned.page.get_by_role("button", name="Paper (PDF)").click()
    assert saved.value.suggested_filename == "Which way to build.pdf"
    assert saved.value.path().read_bytes().startswith(b"%PDF")
    expect(pinned.page.get_by_text("The report is saved.")).to_be_visible()


def test_pins_are_named_moved_and_held_against_each_other_and_a_link_opens_the_same(pinned: Eurythm) -> None:
    page = pinned.page
    page.get_by_role("button", name="Terraces", exact=True).click()
    name = page.get_by_label("Name of Terraces")
    name.fill("The stepped one")
    name.press("Enter")
    expect(page.get_by_role("button", name="The stepped one", exact=True)).to_be_visible()
    page.get_by_role("button", name="Move The stepped one to the left").click()
    expect(page.locator(".findings tr").first.locator("h2").nth(1)).to_have_text("The stepped one")
    page.get_by_role("button", name="hold the others against this").last.click()
    expect(page.locator('[data-base="Court"]')).to_be_visible()
    page.get_by_role("button", name="Rows", exact=True).click()
    page.get_by_role("menuitemcheckbox", name="Peak heating").click()
    page.keyboard.press("Escape")
    expect(row(pinned, "Peak heating")).to_have_count(0)
    address = page.url
    page.goto("about:blank")
    page.goto(address)
    expect(page.locator('[data-base="Court"]')).to_be_visible()
    expect(row(pinned, "Peak heating")).to_have_count(0)
    sentence = row(pinned, "In a sentence")
    expect(sentence).to_contain_text("against Court")
    court = next(p["id"] for p in api(pinned.server, f"projects/{pinned.project}/pins") if p["scheme"] == "court")
    told = api(pinned.server, f"projects/{pinned.project}/findings?against={court}")
    assert [c["title"] for c in told["columns"]][1:] == ["The stepped one", "Court"]
    assert [c["is_base"] for c in told["columns"]] == [False, False, True]
    assert told["columns"][2]["differences"] == {}
    assert told["columns"][0]["differences"]
