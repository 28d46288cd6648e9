"""Systems with their stages: chosen, opened, told where the energy goes; zones with a system of their own; what a change keeps."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.pages import Eurythm, api, plain_demo


@pytest.fixture
def demo(page: Page, shared: Server) -> Eurythm:
    return Eurythm(page, shared, plain_demo(shared)).open("plant")


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

    cop, load, flow = api(demo.server, f"projects/{demo.project}/hourly", body)["series"]
    assert 1 < max(cop["values"]) <= 7
    assert 0 < max(load["values"]) <= 100
    assert 20 < max(flow["values"]) <= 35
    assert (cop["title"], flow["unit"]) == ("heat per energy bought", "°C")


def test_a_tariff_is_drawn_by_hour_and_season(demo: Eurythm) -> None:
    """Bands from one price: a dear day on weekdays of winter, drawn and typed; the cost follows, and one price comes back."""
    page = demo.page
    demo.ready()
    before = demo.outcome()["totals"]["cost"]
    demo.button("Bands of the price of electricity").click()
    revision = demo.revision
    demo.button("Draw bands").click()
    demo.settled(revision)
    assert demo.outcome()["totals"]["cost"] == pytest.approx(before)
    revision = demo.revision
    page.get_by_role("button", name="+ day").click()
    demo.settled(revision)
    frame = demo.still(page.locator(".day-bars svg"))
    revision = demo.revision
    page.mouse.move(frame["x"] + 7.5 / 24 * frame["width"], frame["y"] + 20)
    page.mouse.down()
    page.mouse.move(frame["x"] + 19.5 / 24 * frame["width"], frame["y"] + 20, steps=4)
    page.mouse.up()
    demo.settled(revision)
    revision = demo.revision
    page.get_by_role("button", name="Add rule").click()
    demo.settled(revision)
    for label, date in (("Rule 1, from", "1 Oct"), ("Rule 1, to", "31 Mar")):
        revision = demo.revision
        page.get_by_label(label).fill(date)
        page.get_by_label(label).press("Enter")
        demo.settled(revision)
    hours = demo.state["given"]["factors"]["electricity"]["price_hours"]
    assert hours["rules"] == [{"id": "rule-1", "day": "day-1", "weekdays": ["saturday", "sunday"], "first": "10-01", "last": "03-31"}]
    assert hours["days"][1]["values"][12] > 0.3 > hours["days"][1]["values"][3]
    assert demo.outcome()["totals"]["cost"] > before
    revision = demo.revision
    cell = page.get_by_label("Price of electricity, Day 2, 3:00, value")
    expect(cell).to_have_value("28")
    cell.fill("12.5")
    cell.press("Enter")
    demo.settled(revision)
    assert demo.state["given"]["factors"]["electricity"]["price_hours"]["days"][1]["values"][3] == 0.125
    revision = demo.revision
    demo.button("One price at all hours").click()
    demo.settled(revision)
    assert demo.outcome()["totals"]["cost"] == pytest.approx(before)


def test_demand_and_standing_charges_are_typed(demo: Eurythm) -> None:
    before = demo.outcome()["totals"]["cost"]
    demo.type("factors/electricity/standing_charge", "240")
    assert demo.outcome()["totals"]["cost"] == pytest.approx(before + 240)
    demo.type("factors/electricity/demand_charge", "5")
    assert demo.outcome()["totals"]["cost"] > before + 240
    expect(demo.page.locator('[data-carrier="electricity"]')).to_contain_text("Highest hour")


def test_payback_and_cost_a_tonne_are_read_in_words(demo: Eurythm) -> None:
    """The reference on gas, another scheme on a ground heat pump: sums opened to their parts, a price given, the sentence in Findings."""
    page = demo.page
    demo.choose("System", "Gas boiler and chiller, fan coils, balanced ventilation")
    demo.open("plant", "terraces")
    demo.choose("System", "Ground heat pump, floor heating, free cooling")
    sheet = page.locator("[data-held-in-sheet]")
    expect(sheet).to_contain_text("than Quay")
    expect(sheet).to_contain_text("€ a tonne")
    demo.button("Parts and cost table").click()
    bench = page.get_by_role("region", name="Costs and carbon over the years")
    expect(bench.locator('[data-part="heat-ground_heat_pump"]')).to_contain_text("kW")
    held = bench.locator('[data-held="terraces"]')
    expect(held).to_contain_text("discounted payback")
    before = demo.outcome()["worth"]["investment"]
    revision = demo.revision
    cell = bench.get_by_label("Ground heat pump with probes, cost")
    cell.fill("4000")
    cell.press("Enter")
    demo.settled(revision)
    assert demo.state["given"]["factors"]["costs"] == [{"id": "heat-ground_heat_pump", "cost": 4000}]
    assert demo.outcome()["worth"]["investment"] > before
    expect(bench.locator('[data-cost="heat-ground_heat_pump"] td').nth(1)).not_to_have_class("assumed-cell")
    revision = demo.revision
    cell.fill("")
    cell.press("Enter")
    demo.settled(revision)
    assert demo.state["given"]["factors"]["costs"] == []
    assert demo.outcome()["worth"]["investment"] == pytest.approx(before)
