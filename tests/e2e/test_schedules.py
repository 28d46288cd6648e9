"""Hours of use: a school's week drawn with its terms, days by rules, another profile for one zone, tables of 8,760 values, IP."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from eurythm.brief.calendar import hourly, year_days
from eurythm.model.library import Profile
from eurythm.model.reading import read_document
from eurythm.model.schedule import Calendar, day_number
from tests.e2e.conftest import Server
from tests.e2e.pages import Eurythm, plain_demo


@pytest.fixture
def demo(page: Page, shared: Server) -> Eurythm:
    return Eurythm(page, shared, plain_demo(shared))


def kept(demo: Eurythm, profile: str) -> dict:
    return next(p for p in demo.state["given"]["library"]["profiles"] if p["id"] == profile)


def bench(demo: Eurythm) -> None:
    demo.open("use")
    demo.ready()
    demo.button("Open its hours").click()
    expect(demo.page.get_by_role("region", name="Schedule: People")).to_be_visible()


def draw(demo: Eurythm, first: int, last: int, share: float) -> None:
    """Drag over the bars of a day from one hour to another at one height."""
    frame = demo.still(demo.page.locator(".day-bars svg"))
    x = [frame["x"] + (h + 0.5) / 24 * frame["width"] for h in (first, last)]
    y = frame["y"] + 4 + (1 - share) * (frame["height"] - 8)
    before = demo.revision
    demo.page.mouse.move(x[0], y)
    demo.page.mouse.down()
    demo.page.mouse.move(x[1], y, steps=3)
    demo.page.mouse.up()
    demo.settled(before)


def test_a_schools_week_is_drawn_with_its_terms(demo: Eurythm) -> None:
    """Fifteen hours emptied, a morning drawn by one stroke, an afternoon typed, Tuesdays otherwise, a summer closed."""
    bench(demo)
    page, before = demo.page, demo.eui()
    draw(demo, 0, 23, 0.0)
    draw(demo, 8, 12, 0.8)
    values = kept(demo, "library")["occupancy"]["days"][0]["values"]
    assert values == [0.0] * 8 + [0.8] * 5 + [0.0] * 11
    revision = demo.revision
    page.get_by_label("People, Weekday, 14:00, value").fill("60")
    page.get_by_label("People, Weekday, 14:00, value").press("Enter")
    demo.settled(revision)
    assert kept(demo, "library")["occupancy"]["days"][0]["values"][14] == 0.6
    page.get_by_role("button", name="+ day").click()
    expect(page.get_by_role("tab").filter(has_text="Day 5")).to_be_visible()
    draw(demo, 17, 19, 0.5)
    page.get_by_role("region", name="Schedule: People").get_by_role("button", name="Add rule").click()
    rule = page.get_by_role("group", name="Rule 5", exact=True)
    expect(rule).to_be_visible()
    for weekday in ("saturday", "sunday", "tuesday"):
        rule.get_by_role("button", name=weekday).click()
        expect(rule.get_by_role("button", name=weekday)).to_have_attribute("aria-pressed", str(weekday == "tuesday").lower())
    revision = demo.revision
    rule.get_by_label("Rule 5, from").fill("1 Sep")
    rule.get_by_label("Rule 5, from").press("Enter")
    demo.settled(revision)
    expect(rule).to_contain_text("17 d")
    revision = demo.revision
    page.locator("summary", has_text="Calendar").click()
    page.get_by_label("New closure, name").fill("Summer")
    page.get_by_label("New closure, first day").fill("15 Jul")
    page.get_by_label("New closure, last day").fill("25.8.")
    page.get_by_label("New closure, last day").press("Enter")
    expect(page.locator('[data-closure="closure-1"]')).to_be_visible()
    demo.settled(revision)
    assert demo.given_place["calendar"]["closures"] == [{"id": "closure-1", "name": "Summer", "first": "07-15", "last": "08-25"}]
    profile = read_document(Profile, kept(demo, "library"))
    year = hourly(profile.occupancy, year_days(read_document(Calendar, demo.given_place["calendar"]), 0)).reshape(365, 24)
    assert year[day_number("08-01")].sum() == 0
    assert year[0, 8] == 0.8
    tuesday = day_number("09-03") - (day_number("09-03") % 7) + 1
    assert year[tuesday, 18] == 0.5
    assert demo.eui() < before


def test_dates_that_cannot_be_are_told_where_they_are_typed(demo: Eurythm) -> None:
    demo.open("use")
    demo.ready()
    page = demo.page
    page.locator("summary", has_text="Calendar").click()
    page.get_by_label("New holiday, name").fill("Leap day")
    page.get_by_label("New holiday, date").fill("29 Feb")
    page.get_by_label("New holiday, date").press("Enter")
    expect(page.get_by_text("29 February")).to_be_visible()
    expect(page.get_by_label("New holiday, date")).to_have_value("29 Feb")
    assert "calendar" not in demo.given_place
    page.get_by_role("button", name="Propose by country").click()
    page.get_by_label("Country").click()
    page.get_by_role("option", name="Germany", exact=True).click()
    expect(page.locator("[data-holiday]")).to_have_count(9)


def test_a_shipped_profile_is_copied_when_it_is_changed_and_can_be_let_go(demo: Eurythm) -> None:
    bench(demo)
    page = demo.page
    revision = demo.revision
    field = page.get_by_label("Floor area per person")
    field.fill("5")
    field.press("Enter")
    demo.settled(revision)
    one = kept(demo, "library")
    assert one["person_area"] == 5
    assert "person_area" not in one["assumed"]
    assert "lighting_w_m2" in one["assumed"]
    expect(page.get_by_text("shipped, changed in this project")).to_be_visible()
    revision = demo.revision
    demo.button("As shipped again").click()
    demo.settled(revision)
    assert demo.state["given"].get("library", {}).get("profiles", []) == []
    expect(field).to_have_value("8")


def test_one_zone_gets_another_profile_with_its_reason(demo: Eurythm) -> None:
    demo.open("use")
    demo.ready()
    page = demo.page
    zone = demo.outcome()["zones"][0]
    revision = demo.revision
    page.get_by_label(f"Profile of {zone['name']}").click()
    page.get_by_role("option", name="Meeting room", exact=True).click()
    demo.settled(revision)
    assert next(z for z in demo.geometry()["zones"] if z["id"] == zone["id"])["profile_by"] == "by hand"
    revision = demo.revision
    rules = page.locator("details", has=page.locator("summary", has_text="Rules by zone"))
    rules.evaluate("d => { d.open = true }")
    rules.get_by_role("button", name="Add rule").click()
    demo.settled(revision)
    assert next(z for z in demo.geometry()["zones"] if z["id"] == zone["id"])["profile"] == "meeting"


def test_setpoints_are_drawn_in_fahrenheit_and_go_out_as_a_table(demo: Eurythm, tmp_path: Path) -> None:
    bench(demo)
    page = demo.page
    page.get_by_role("button", name="IP", exact=True).click()
    page.get_by_role("group", name="Schedules").get_by_role("button", name="Heating").click()
    page.get_by_role("button", name="Draw its hours").click()
    cell = page.get_by_label("Heating, Weekday, 12:00, value")
    expect(cell).to_have_value("68.9")
    revision = demo.revision
    cell.fill("68")
    cell.press("Enter")
    demo.settled(revision)
    assert kept(demo, "library")["heating"]["days"][0]["values"][12] == pytest.approx(20.0)
    page.get_by_role("button", name="8,760 values").click()
    with page.expect_download() as saved:
        page.get_by_role("menuitem", name="save all schedules as CSV").click()
    saved.value.save_as(tmp_path / "hours.csv")
    lines = (tmp_path / "hours.csv").read_text(encoding="utf-8-sig").splitlines()
    assert len(lines) == 8761
    assert "°F" in lines[0]
    (tmp_path / "own.csv").write_text("\n".join(["heating °F", *["64.4"] * 8760]))
    revision = demo.revision
    page.get_by_label("Table of 8,760 values").set_input_files(tmp_path / "own.csv")
    demo.settled(revision)
    assert kept(demo, "library")["heating"]["hourly"] == pytest.approx([18.0] * 8760)
