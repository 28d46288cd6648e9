"""Skin, Use and Plant: fields, origins, sliders, layers, zones, prices."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import expect

from tests.e2e.pages import Eurythm, api


def test_an_assumed_value_tells_its_source_and_can_be_confirmed(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    row = demo.page.locator(".field", has=demo.field("skin/sill_m"))
    row.get_by_role("button", name="assumed").click()
    expect(demo.page.get_by_role("menuitem", name="Source:")).to_contain_text("our own assumption")
    demo.page.get_by_role("menuitem", name="Confirm this value").click()
    expect(row.get_by_role("button", name="assumed")).to_have_count(0)
    assert demo.given["skin"]["sill_m"] == 0.9


def test_an_emptied_field_goes_back_to_what_is_assumed(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    demo.type("skin/head_m", "")
    expect(demo.field("skin/head_m")).to_have_value("2.7")
    assert "head_m" not in demo.given["skin"]


@pytest.mark.parametrize(
    ("text", "said"), [("tall", "“tall” is not a number."), ("-4", "Allowed: 0 to 20 m."), ("99", "Allowed: 0 to 20 m.")]
)
def test_what_cannot_be_is_told_at_the_field_and_not_kept(demo: Eurythm, text: str, said: str) -> None:
    demo.open("skin")
    demo.settled()
    field = demo.field("skin/sill_m")
    field.fill(text)
    field.press("Enter")
    expect(demo.page.locator(".said")).to_have_text(said)
    expect(field).to_have_value(text)
    expect(field).to_have_attribute("aria-invalid", "true")
    assert demo.state["revision"] == 1


def test_what_contradicts_another_field_is_told_by_the_server(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    demo.field("skin/sill_m").fill("3.4")
    demo.field("skin/sill_m").press("Enter")
    expect(demo.page.locator(".readout")).to_contain_text("is not above the sill")
    demo.page.locator(".readout").get_by_role("link").click()
    demo.type("skin/sill_m", "0.8")
    assert demo.eui() > 0


def test_unusual_values_are_questioned_not_refused(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    demo.type("skin/sill_m", "1.6")
    expect(demo.page.locator(".odd")).to_have_text("Unusual: 0 to 1.2 m is common.")
    assert demo.given["skin"]["sill_m"] == 1.6


def test_a_comma_is_a_decimal_point(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    demo.type("skin/overhang_depth_m/south", "0,75")
    assert demo.given["skin"]["overhang_depth_m"]["south"] == 0.75


def test_a_slider_tries_while_it_moves_and_keeps_at_the_end(demo: Eurythm) -> None:
    demo.open("skin")
    before = demo.eui()
    slider = demo.page.get_by_role("slider", name="Ratio south, slider")
    slider.focus()
    slider.press("ArrowRight")
    demo.settled(1)
    kept = demo.given["skin"]["glazing_ratio"]["south"]
    assert 0.45 < kept < 0.5
    assert demo.eui() != before
    assert demo.state["revision"] == 2


def test_glass_of_another_kind_changes_what_is_said_of_it(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    demo.choose("Window", "Triple, low-emissive")
    sheet = demo.page.get_by_role("complementary", name="Sheet")
    expect(sheet).to_contain_text("U 0.8")
    assert demo.given["skin"]["glazing"] == "triple-clear"


def test_a_shipped_build_up_is_copied_before_it_is_changed(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    wall = demo.page.locator('[data-element="wall"]')
    wall.get_by_role("button", name="layers").click()
    expect(demo.page.get_by_role("img", name="Section to scale, outside at the left")).to_be_visible()
    demo.button("Copy into the project to change it").click()
    demo.settled(1)
    assert demo.given["skin"]["wall"].startswith("wall-good-")
    u_before = demo.outcome()["elements"]["wall"]["u_value"]
    thickness = demo.page.get_by_label("Layer 2, thickness")
    thickness.fill("300")
    thickness.press("Enter")
    demo.settled(2)
    u_after = demo.outcome()["elements"]["wall"]["u_value"]
    assert 1 / u_after - 1 / u_before == pytest.approx((0.300 - 0.160) / 0.035, rel=1e-6)
    (own,) = (c for c in demo.state["given"]["library"]["constructions"] if c["id"] == demo.given["skin"]["wall"])
    assert next(layer for layer in own["layers"] if layer.get("insulation"))["thickness_m"] == 0.3
    expect(demo.page.get_by_role("complementary", name="Sheet")).to_contain_text(f"U {u_after:.3f}")


def test_insulation_is_typed_in_millimetres(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    expect(demo.field("skin/wall_insulation_m")).to_have_value("160")
    demo.type("skin/wall_insulation_m", "240")
    assert demo.given["skin"]["wall_insulation_m"] == 0.24


def test_inch_pound_holds_in_every_field_and_keeps_si(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    demo.button("IP").click()
    expect(demo.field("skin/head_m")).to_have_value("9.84")
    demo.type("skin/head_m", "10")
    assert demo.given["skin"]["head_m"] == pytest.approx(3.048)
    expect(demo.page.locator('[data-figure="eui"] + span')).to_have_text("kBtu/ft²")
    demo.open("use")
    expect(demo.field("use/heating_c")).to_have_value("68.9")
    expect(demo.page.get_by_role("complementary", name="Sheet")).to_contain_text("cfm a person")
    demo.type("use/heating_c", "68")
    assert demo.given["use"]["heating_c"] == pytest.approx(20.0)
    demo.button("SI").click()
    expect(demo.field("use/heating_c")).to_have_value("20")


def test_a_profile_for_all_and_for_one_zone(demo: Eurythm) -> None:
    demo.open("use")
    before = demo.eui()
    demo.choose("Profile", "Office, open")
    office = demo.eui()
    assert office != before
    demo.choose("Profile of Bar, Storey 2, core", "Workshop")
    assert demo.eui() != office
    assert demo.given["use"]["zones"][-1] == {"id": "zone-1", "zone": "bar/s2/core", "profile": "workshop"}
    profiles = {z["id"]: z["profile"] for z in demo.outcome()["zones"]}
    assert (profiles["bar/s2/core"], profiles["bar/s1/core"]) == ("workshop", "office")


def test_setpoints_that_cross_are_told_and_lead_back(demo: Eurythm) -> None:
    demo.open("use")
    demo.settled()
    field = demo.field("use/heating_c")
    field.fill("27")
    field.press("Enter")
    expect(demo.page.locator(".readout")).to_contain_text("stands above cooling")
    demo.button("Undo").click()
    assert demo.eui() > 0


def test_panels_cover_part_of_the_use(demo: Eurythm) -> None:
    demo.open("plant")
    demo.settled()
    bought = demo.outcome()["totals"]["carrier_kwh"]["electricity"]
    demo.type("plant/photovoltaics/roof_share", "40")
    totals = demo.outcome()["totals"]
    assert totals["module_area_m2"] == pytest.approx(0.4 * 56 * 17)
    assert totals["carrier_kwh"]["electricity"] < bought
    expect(demo.page.get_by_role("complementary", name="Sheet")).to_contain_text("of the electricity")


def test_efficiencies_carriers_and_prices_reach_the_cost(demo: Eurythm) -> None:
    demo.open("plant")
    demo.settled()
    cost = demo.outcome()["totals"]["cost"]
    demo.type("factors/electricity/price", "0.56")
    totals = demo.outcome()["totals"]
    assert totals["cost"] == pytest.approx(cost + 0.28 * totals["carrier_kwh"]["electricity"])
    demo.choose("System", "a seasonal figure for each")
    revision = demo.revision
    demo.page.get_by_role("combobox", name="Carrier").first.click()
    demo.page.get_by_role("option", name="biomass").click()
    demo.settled(revision)
    after = demo.outcome()["totals"]
    assert after["carrier_kwh"]["biomass"] == pytest.approx(after["energy_kwh"]["heating"])  # hot water stays


def test_the_readout_words_its_difference_to_the_reference(demo: Eurythm) -> None:
    demo.open("plant", "court")
    demo.settled()
    mine, base = demo.eui(), None
    demo.scheme = "quay"
    base = demo.outcome()["totals"]["eui_kwh_per_m2"]
    change = round(abs(mine / base - 1) * 100)
    expect(demo.page.locator('[data-figure="eui-than"]')).to_contain_text(f"{change}% {'less' if mine < base else 'more'} than Quay")


def test_the_readout_opens_to_months_weeks_and_zones(demo: Eurythm) -> None:
    demo.open("plant")
    demo.settled()
    page = demo.page
    page.get_by_role("button", name="Open the readout").click()
    expect(page.get_by_label("Energy by month and end use")).to_be_visible()
    expect(page.locator("[data-peaks]")).to_contain_text("four steps an hour")
    expect(page.locator("[data-peaks]")).to_contain_text("design days")
    page.get_by_role("tab", name="Hour by hour").click()
    expect(page.get_by_text("16 Jul to 22 Jul")).to_be_visible()
    carpet = page.locator(".drawer-hours canvas[tabindex]")
    expect(carpet).to_be_visible()
    box = carpet.bounding_box()
    assert box is not None
    carpet.click(position={"x": box["width"] / 2, "y": 20})
    expect(page.get_by_text("29 Jun to 5 Jul")).to_be_visible()
    page.get_by_role("combobox", name="Zones").click()
    page.get_by_role("option", name="Bar, Storey 1, core").click()
    page.keyboard.press("Escape")
    expect(page.get_by_role("combobox", name="Zones")).to_contain_text("2 chosen")
    expect(page.get_by_label("Hourly lines of the chosen days")).to_be_visible()
    page.get_by_role("button", name="light", exact=True).click()
    expect(page.get_by_role("combobox", name="Lines")).to_contain_text("5 chosen")
    lines = ["lighting_w", "lighting_asked_w", "daylight_lx", "beam_w_m2", "cloud_tenths"]
    ask = {"cases": [{"scheme": "quay"}], "zones": [""], "lines": lines, "start": 24 * 161, "hours": 24 * 7}
    series = api(demo.server, f"projects/{demo.project}/hourly", ask)["series"]
    day = {s["line"]: np.reshape(s["values"], (7, 24))[:, 10:16].mean(axis=1) for s in series}
    clear, cloudy = int(day["beam_w_m2"].argmax()), int(day["beam_w_m2"].argmin())
    assert day["beam_w_m2"][clear] > 4 * day["beam_w_m2"][cloudy]
    assert day["cloud_tenths"][clear] < day["cloud_tenths"][cloudy]
    assert day["daylight_lx"].min() > 500  # a bright cloud lights the north side more than a blue sky
    assert (day["lighting_w"] < 0.9 * day["lighting_asked_w"]).all()  # the workshops' lights do not follow
    page.get_by_role("button", name="Open the readout").press("Enter")
    expect(carpet).to_have_count(0)


def test_lights_that_follow_daylight_are_seen_in_the_readout(demo: Eurythm) -> None:
    """Dimmed lights take less, cooling falls with them, heating rises; what is enough is typed, also in foot-candles."""
    demo.open("use")
    demo.settled()
    demo.choose("Lights follow daylight", "not at all")  # the demo's reading rooms have control
    before = demo.outcome()["totals"]
    demo.choose("Lights follow daylight", "dimmed")
    dimmed = demo.outcome()["totals"]
    assert dimmed["energy_kwh"]["lighting"] < 0.8 * before["energy_kwh"]["lighting"]
    assert dimmed["cooling_demand_kwh"] < before["cooling_demand_kwh"]
    assert dimmed["heating_demand_kwh"] > before["heating_demand_kwh"]
    assert demo.eui() == pytest.approx(dimmed["eui_kwh_per_m2"], abs=0.06)
    demo.type("use/lights/enough_lx", "300")
    assert demo.outcome()["totals"]["energy_kwh"]["lighting"] < dimmed["energy_kwh"]["lighting"]
    demo.button("IP").click()
    expect(demo.field("use/lights/enough_lx")).to_have_value("27.9")
    demo.type("use/lights/enough_lx", "50")
    assert demo.given["use"]["lights"] == {"kind": "dimmed", "enough_lx": pytest.approx(538.196, abs=0.01)}
    demo.field("use/lights/full_lx").fill("60")
    demo.field("use/lights/full_lx").press("Enter")
    expect(demo.page.locator(".readout")).to_contain_text("60 fc, which is not below what is enough, 50 fc")


def test_a_sensor_is_moved_in_plan_and_light_is_seen_on_the_floors(demo: Eurythm) -> None:
    """Sensors in a table and in plan; one that is dragged is placed by hand, lighting follows; floors in figures, in one hour, in foot-candles."""
    page = demo.page
    demo.open("use")
    demo.settled()
    expect(page.locator("[data-sensors='24']")).to_be_visible()
    demo.button("Plan").click()
    page.get_by_role("button", name=", storey at").nth(-2).click()
    first = page.locator("[data-light-sensor]").first
    expect(first).to_have_attribute("data-light-sensor", "bar/s1/e1#0")
    before = demo.outcome()["totals"]["energy_kwh"]["lighting"]
    box = first.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y + 12, steps=5)
    page.mouse.up()
    demo.settled()
    placed = demo.given["use"]["sensors"]
    assert [s["zone"] for s in placed] == ["bar/s1/e1", "bar/s1/e1"]
    assert demo.outcome()["totals"]["energy_kwh"]["lighting"] < before
    chosen = page.locator(f"[data-sensor='{placed[0]['id']}']")
    expect(chosen).to_be_visible()
    demo.type(f"use/sensors/{placed[0]['id']}/height_m", "1.2")
    assert demo.given["use"]["sensors"][0]["height_m"] == 1.2
    section = page.locator("[data-section-sensor]")
    box = section.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 40, steps=4)
    page.mouse.up()
    demo.settled()
    assert 1.8 < demo.given["use"]["sensors"][0]["height_m"] < 2.8
    year = page.locator("[data-sensor-year] canvas")
    year.hover(position={"x": 150, "y": 50})
    expect(page.locator("[data-sensor-year]")).to_contain_text("13:00: ")
    saved = page.locator(".readout [data-saved]")
    assert float(saved.get_attribute("data-saved") or 0) > 3

    demo.button("Show daylight").click()
    told = page.locator("[data-daylight=autonomy]")
    expect(told).to_contain_text("of the floor has 300 lx in half of the occupied hours")
    expect(page.locator("[data-floor-light] image")).to_have_count(5)
    page.get_by_label("Figure of light").click()
    page.get_by_role("option", name="one hour of the year").click()
    expect(page.locator("[data-daylight=hour]")).to_contain_text("on 21 Jun at 12:00")
    noon = page.locator("[data-daylight=hour]").inner_text()
    page.get_by_label("Hour of the day").press("ArrowRight")
    expect(page.locator("[data-daylight=hour]")).to_contain_text("on 21 Jun at 13:00")
    assert page.locator("[data-daylight=hour]").inner_text() != noon
    page.locator("[data-floor-light] > path").first.hover(position={"x": 100, "y": 24})
    expect(page.locator("[data-read]")).to_contain_text("lx")
    demo.button("IP").click()
    expect(page.locator("[data-daylight=hour]")).to_contain_text("fc")
    demo.button("3D").click()
    with page.expect_download() as file:
        demo.button("Save as CSV").click()
    rows = Path(file.value.path()).read_text(encoding="utf-8-sig").splitlines()
    assert rows[0].startswith("zone,x m,y m,z m,area m²,daylight factor %")
    assert len(rows) > 3000


def test_a_picture_of_daylight_is_kept_with_the_scheme_and_shown_again(demo: Eurythm) -> None:
    page = demo.page
    demo.open("use").settled()
    page.get_by_role("button", name="Noon in midwinter", exact=True).click()  # the demo's own
    expect(page.locator("[data-daylight=hour]")).to_contain_text("on 21 Dec at 12:00")
    expect(page.locator("[data-floor-light] image")).to_have_count(5)
    grid = page.locator('[name="daylight-grid"]')
    grid.fill("1.5")
    grid.press("Enter")
    expect(page.locator("[data-daylight=hour]")).not_to_contain_text("3,923 points")
    demo.button("Keep this picture").click()
    page.get_by_label("Name of the picture").fill("Mine")
    page.get_by_label("Name of the picture").press("Enter")
    expect(page.get_by_role("button", name="Mine", exact=True)).to_be_visible()
    expect(page.get_by_text("as it was before the last edits")).to_have_count(0)  # keeping a picture changes nothing that it shows
    mine = demo.given["light_pictures"][-1]
    assert (mine["name"], mine["measure"], mine["levels"], mine["hour"], mine["spacing_m"]) == ("Mine", "hour", [3.8], 24 * 354 + 12, 1.5)
    page.get_by_role("button", name="Enough daylight in the reading rooms", exact=True).click()
    expect(page.locator("[data-daylight=autonomy]")).to_contain_text("3,923 points")
    page.get_by_role("button", name="Remove the picture Mine").click()
    expect(page.get_by_role("button", name="Mine", exact=True)).to_have_count(0)
    expect(page.get_by_text("as it was before the last edits")).to_have_count(0)
    demo.type("use/lighting_w_m2", "6")
    expect(page.get_by_text("as it was before the last edits")).to_be_visible()
