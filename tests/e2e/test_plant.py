"""Systems with their stages: chosen, opened, told where the energy goes; zones with a system of their own; what a change keeps."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.pages import Eurythm, new_demo

pytestmark = pytest.mark.e2e


@pytest.fixture
def demo(page: Page, server: Server) -> Eurythm:
    return Eurythm(page, server, new_demo(server)).open("plant")


def test_a_system_is_chosen_and_where_its_energy_goes_is_seen(demo: Eurythm) -> None:
    page = demo.page
    demo.choose("System", "Ground heat pump, floor heating, free cooling")
    assert demo.given["plant"]["main"] == {"ready": "ground-pump-floor"}
    (system,) = demo.outcome()["systems"]
    pump = system["heat"][0]
    expect(page.locator('[data-system="main"]')).to_contain_text(f"{pump['seasonal_factor']:.2f}")
    expect(page.get_by_text("All figures of the system are assumed")).to_be_visible()
    demo.button("See where the energy goes").click()
    picture = page.get_by_role("region", name="Where the energy goes")
    expect(picture.locator('[data-bar="around"]')).to_contain_text("air, ground, water")
    expect(picture.locator('[data-bar="electricity"]')).to_be_visible()
    page.get_by_role("button", name="IP", exact=True).click()
    expect(picture.locator('[data-bar="electricity"]')).to_contain_text("kBtu")
    page.get_by_role("button", name="SI", exact=True).click()
    before = demo.eui()
    page.locator("summary", has_text="Heat source").first.click()
    expect(demo.field("plant/main/heat/efficiency")).to_have_value("0.56")
    demo.type("plant/main/heat/efficiency", "0.4")
    assert demo.given["plant"]["main"]["heat"] == {"efficiency": 0.4}
    assert demo.eui() > before
    assert demo.outcome()["systems"][0]["heat"][0]["seasonal_factor"] < pump["seasonal_factor"]


def test_a_change_of_system_says_what_is_kept(demo: Eurythm) -> None:
    page = demo.page
    demo.choose("System", "All-air with variable flow and reheat, gas and chiller")
    page.locator("summary", has_text="Air side").first.click()
    demo.type("plant/main/air/supply_c", "14")
    demo.type("plant/main/air/heat_recovery", "60")
    demo.choose("System", "District heat, radiators, balanced ventilation")
    expect(page.get_by_text("1 given value holds here as well. Without meaning here, and kept: air side: supply air.")).to_be_visible()
    assert demo.given["plant"]["main"] == {"ready": "district-radiators", "air": {"supply_c": 14, "heat_recovery": 0.6}}
    demo.choose("System", "a seasonal figure for each")
    assert demo.outcome()["systems"] == []
    expect(demo.field("plant/heating/efficiency")).to_be_visible()


def test_zones_get_a_system_of_their_own(demo: Eurythm) -> None:
    page = demo.page
    page.locator("summary", has_text="Systems of single zones").click()
    revision = demo.revision
    demo.button("Another system for some zones").click()
    demo.settled(revision)
    part = page.locator('[data-zone-system="system-1"]')
    revision = demo.revision
    part.get_by_label("Zones of System 2").fill("*/s1/*")
    part.get_by_label("Zones of System 2").press("Enter")
    demo.settled(revision)
    revision = demo.revision
    part.get_by_role("combobox", name="System of System 2").click()
    page.get_by_role("option", name="All-air with variable flow and reheat, heat pump").click()
    demo.settled(revision)
    (system,) = demo.outcome()["systems"]
    assert system["zones"] == sum("/s1/" in z["id"] for z in demo.outcome()["zones"])
    assert system["reheat_kwh"] > 0


def test_a_figure_that_cannot_be_is_told_at_its_field(demo: Eurythm) -> None:
    demo.choose("System", "Gas boiler, radiators, windows")
    demo.page.locator("summary", has_text="Emission and distribution").first.click()
    demo.field("plant/main/emission/flow_c").fill("40")
    demo.field("plant/main/emission/flow_c").press("Enter")
    expect(demo.page.get_by_text("is not below the heating water")).to_be_visible()


def test_hours_of_the_plant_are_lines(demo: Eurythm) -> None:
    demo.choose("System", "Air heat pump, floor heating, balanced ventilation")
    body = {"cases": [{"scheme": "quay"}], "lines": ["heat_cop", "heat_load_pct", "flow_c"], "start": 0, "hours": 8760}
    from tests.e2e.pages import api

    cop, load, flow = api(demo.server, f"projects/{demo.project}/hourly", body)["series"]
    assert 1 < max(cop["values"]) <= 7
    assert 0 < max(load["values"]) <= 100
    assert 20 < max(flow["values"]) <= 35
    assert (cop["title"], flow["unit"]) == ("heat per energy bought", "°C")
