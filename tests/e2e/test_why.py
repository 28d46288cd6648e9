"""Why in the browser: what peaks are made of, hours of several cases, shares of a difference; and the inputs of air and skin."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest
from playwright.sync_api import Locator, expect

from tests.e2e.pages import Eurythm, api, serious_faults


def parts_in(box: Locator) -> float:
    return sum(float(p.get_attribute("data-value") or 0) for p in box.locator("[data-part]").all())


def open_drawer(demo: Eurythm, page: str) -> None:
    demo.settled()
    demo.page.get_by_role("button", name="Open the readout").click()
    demo.page.get_by_role("tab", name=page).click()


def test_the_drawer_says_what_the_peaks_are_made_of(demo: Eurythm) -> None:
    demo.open("skin")
    open_drawer(demo, "Months and peaks")
    heating = demo.page.locator("[data-parts=heating]")
    expect(heating.locator("[data-part=windows]")).to_be_visible()
    outcome = demo.outcome()
    shown = parts_in(heating)
    assert shown == pytest.approx(outcome["peaks"]["heating_w"] / 1000, rel=0.02)  # the smallest are left out
    expect(heating).to_contain_text(f"{outcome['peaks']['heating_w'] / 1000:.1f} kW")
    lit = heating.locator("[data-part=lighting]")
    assert float(lit.get_attribute("data-value") or 0) < 0
    zero = heating.locator("line").first.bounding_box()
    bar = lit.locator("rect").first.bounding_box()
    assert zero is not None
    assert bar is not None
    assert bar["x"] + bar["width"] <= zero["x"] + 1.5  # left of zero
    demo.page.get_by_role("radio", name="Over the year").click()
    expect(demo.page.locator("[data-parts=cooling]")).to_contain_text("a year")
    zone = outcome["zones"][0]
    demo.page.get_by_role("combobox", name="Parts of").click()
    demo.page.get_by_role("option", name=zone["name"], exact=True).click()
    expect(heating).to_contain_text(f"{zone['heating_demand_kwh']:,.0f} kWh")


def test_hours_of_two_cases_are_shown_chosen_by_one_drag_and_saved(demo: Eurythm, tmp_path: Path) -> None:
    demo.open("use")
    open_drawer(demo, "Hour by hour")
    page = demo.page
    carpet = page.locator(".drawer-hours canvas[tabindex]")
    expect(carpet).to_be_visible()
    page.get_by_role("combobox", name="Beside it").click()
    page.get_by_role("option", name="Court").click()
    page.keyboard.press("Escape")
    expect(page.locator(".MuiModal-root")).to_have_count(0)  # the list's veil is gone too
    box = carpet.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] * 10.5 / 365, box["y"] + 30)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 20.5 / 365, box["y"] + 40, steps=4)
    page.mouse.up()
    expect(page.get_by_text("11 Jan to 21 Jan")).to_be_visible()
    carpet.press("ArrowRight")
    expect(page.get_by_text("12 Jan to 22 Jan")).to_be_visible()
    page.get_by_role("button", name="Save these hours").click()
    with page.expect_download() as told:
        page.get_by_role("menuitem", name="as CSV").click()
    told.value.save_as(tmp_path / "hours.csv")
    rows = list(csv.reader((tmp_path / "hours.csv").open(encoding="utf-8")))
    assert len(rows) == 1 + 11 * 24
    assert rows[1][0] == "01-12T00"
    assert rows[0][1] == "Quay/building/air_c"
    assert "Court/building/heating_w" in rows[0]


def test_findings_share_the_difference_out_and_stand_part_by_part(demo: Eurythm) -> None:
    pin = api(demo.server, f"projects/{demo.project}/pins", {"scheme": "terraces"})["id"]
    demo.open("findings")
    page = demo.page
    expect(page.locator("[data-share=base]")).to_be_visible(timeout=90_000)
    shares = api(demo.server, f"projects/{demo.project}/pins/{pin}/shares")
    bars = {b.get_attribute("data-share"): float(b.get_attribute("data-value") or 0) for b in page.locator("[data-share]").all()}
    assert bars.keys() - {"base", "other"} == {g["id"] for g in shares["groups"]}
    assert bars["base"] + sum(v for k, v in bars.items() if k not in ("base", "other")) == pytest.approx(bars["other"], abs=1e-6)
    page.get_by_role("combobox", name="Figure to share out").click()
    page.get_by_role("option", name="Peak cooling").click()
    expect(page.locator("[data-share=other]")).to_contain_text(f"{shares['figures']['peak_cooling']['other'] / 1000:.1f}")
    sides = api(demo.server, f"projects/{demo.project}/pins/{pin}/why")
    cooling = page.locator("[data-use=cooling]")
    expect(cooling.locator("[data-sentence]")).to_have_text(sides["cooling"]["sentence"])
    assert parts_in(cooling) == pytest.approx(sides["cooling"]["other"]["own"]["load_w"] / 1000, rel=0.03)
    page.get_by_role("radio", name="over the year").click()
    expect(cooling).to_contain_text("demand of the year")
    page.get_by_role("button", name="IP").click()
    expect(cooling).to_contain_text("kBtu")


@pytest.mark.parametrize("page_name", ["Months and peaks", "Hour by hour", "findings"])
def test_axe_finds_nothing_serious_in_what_opens(demo: Eurythm, page_name: str) -> None:
    page = demo.page
    if page_name == "findings":
        api(demo.server, f"projects/{demo.project}/pins", {"scheme": "court"})
        demo.open("findings")
        expect(page.locator("[data-use=cooling] [data-part]").first).to_be_visible(timeout=90_000)
    else:
        demo.open("plant")
        open_drawer(demo, page_name)
        shown = "[data-parts=cooling] [data-part]" if "peaks" in page_name else ".drawer-hours canvas[tabindex]"
        expect(page.locator(shown).first).to_be_visible()
    assert serious_faults(page) == []


def test_windows_that_open_and_blinds_change_the_year(demo: Eurythm) -> None:
    demo.open("use")
    before = demo.outcome()["totals"]["cooling_demand_kwh"]
    demo.type("use/airing/openable_share", "20")
    assert demo.given["use"]["airing"]["openable_share"] == pytest.approx(0.2)
    demo.choose("Night purge", "yes")
    assert demo.given["use"]["airing"]["night_purge"] is True
    aired = demo.outcome()["totals"]["cooling_demand_kwh"]
    assert aired < 0.8 * before
    demo.open("skin")
    demo.page.locator("summary", has_text="Blinds").click()
    demo.choose("Blinds", "outside")
    assert demo.given["skin"]["blinds"] == {"place": "outside"}
    assert demo.outcome()["totals"]["cooling_demand_kwh"] < aired


def test_zones_are_merged_and_split_again(demo: Eurythm) -> None:
    demo.open("use")
    demo.settled()
    rows = demo.page.get_by_label("Sheet").get_by_role("checkbox")
    expect(rows.first).to_be_visible(timeout=30_000)
    zones = demo.outcome()["zones"]
    before = demo.revision
    rows.nth(0).check()
    rows.nth(1).check()
    demo.button("Merge 2 zones").click()
    demo.settled(before)
    merged = demo.given["merged"][0]
    assert merged["zones"] == [zones[0]["id"], zones[1]["id"]]
    assert len(demo.outcome()["zones"]) == len(zones) - 1
    before = demo.revision
    demo.button("Split again").click()
    demo.settled(before)
    assert demo.given.get("merged", []) == []
    assert [z["id"] for z in demo.outcome()["zones"]] == [z["id"] for z in zones]


def test_a_zone_may_float(demo: Eurythm) -> None:
    demo.open("use")
    demo.settled()
    zone = demo.outcome()["zones"][0]
    before = demo.revision
    demo.page.get_by_role("button", name=f"{zone['name']}: held, heated and cooled; change it").click()
    demo.settled(before)
    assert demo.given["use"]["zones"][-1]["conditioned"] is False
    now = next(z for z in demo.outcome()["zones"] if z["id"] == zone["id"])
    assert (now["conditioned"], now["heating_demand_kwh"], now["cooling_demand_kwh"]) == (False, 0, 0)
    expect(demo.page.get_by_role("button", name=f"{zone['name']}: floats; change it")).to_be_visible()


def test_a_face_may_meet_a_stated_temperature(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    face = next(f for f in demo.geometry()["faces"] if f["boundary"] == "outdoors" and f["edge"])
    edit = {
        "op": "put",
        "path": "schemes/quay/skin/overrides",
        "item": {"id": "f", "face": face["edge"], "boundary": "fixed", "boundary_c": 12},
    }
    state = demo.state
    api(demo.server, f"projects/{demo.project}/edits", {"revision": state["revision"], "edit": edit})
    changed = next(f for f in demo.geometry()["faces"] if f["edge"] == face["edge"])
    assert changed["boundary"] == "fixed"
    demo.open("skin")
    demo.page.get_by_role("combobox", name="Colour by").click()
    demo.page.get_by_role("option", name="boundary").click()
    expect(demo.page.get_by_text("a stated temperature, barred")).to_be_visible()
