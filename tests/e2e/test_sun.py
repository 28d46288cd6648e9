"""Arrays on a roof and an overhang: placed in the model, moved and sized by hand and typed, grouped on inverters, read in words."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.pages import Eurythm, new_demo
from tests.e2e.test_drawing import pull


@pytest.fixture
def demo(page: Page, shared: Server) -> Eurythm:
    return Eurythm(page, shared, new_demo(shared)).open("plant")


def added(demo: Eurythm, name: str) -> None:
    revision = demo.revision
    demo.button(f"Another array on {name}").click()
    demo.settled(revision)


def test_an_array_on_a_roof_and_one_on_an_overhang_share_two_inverters(demo: Eurythm) -> None:
    page = demo.page
    demo.ready()
    page.mouse.click(*demo.on_canvas(34, 14, 11.4))  # the roof
    added(demo, "the chosen roof")
    (roof,) = demo.given["plant"]["arrays"]
    assert (roof["on"], roof["target"]) == ("roof", "bar")
    expect(page.locator('[data-array="array-1"]')).to_contain_text("kWp")
    assert demo.outcome()["renewables"]["arrays"][0]["kwh"] > 10_000
    demo.type("plant/arrays/array-1/tilt_deg", "20")
    demo.type("plant/arrays/array-1/share", "30")
    told = demo.outcome()["renewables"]["arrays"][0]
    assert told["area_m2"] == pytest.approx(0.3 * 56 * 17, abs=2)
    revision = demo.revision
    demo.button("An inverter for Array 1").click()
    demo.settled(revision)
    assert demo.given["plant"]["arrays"][0]["inverter"] == "inverter-1"
    demo.type("plant/inverters/inverter-1/rated_kw", "20")
    expect(page.locator('[data-inverter="inverter-1"]')).to_contain_text("clips")
    covered = demo.outcome()["totals"]["covered_power_share"]
    expect(page.locator("[data-covered]").first).to_contain_text(f"{covered * 100:.0f}% of the electricity")
    demo.button("See what the sun gives").click()
    bench = page.get_by_role("region", name="What the sun gives")
    expect(bench.locator('[data-way="array-1"]')).to_contain_text("handed on")
    expect(bench).to_contain_text("kWh clipped in")
    page.get_by_role("button", name="IP", exact=True).click()
    expect(bench.locator('[data-way="array-1"]')).to_contain_text("ft²")
    page.get_by_role("button", name="SI", exact=True).click()
    bench.get_by_role("button", name="Back to the model").click()


def test_an_overhang_of_the_chosen_wall_carries_an_array(page: Page, shared: Server) -> None:
    demo = Eurythm(page, shared, new_demo(shared), "terraces").open("plant")
    demo.ready()
    wall = next(f for f in demo.geometry()["faces"] if f["edge"] == "hall/s1/e1" and f["boundary"] == "outdoors")
    corners = wall["loops"][0]
    middle = [sum(p[k] for p in corners) / len(corners) for k in range(3)]
    page.mouse.click(*demo.on_canvas(middle[0], middle[1], min(p[2] for p in corners) + 0.5))
    added(demo, "its overhang")
    array = demo.given["plant"]["arrays"][-1]
    assert (array["on"], array["target"]) == ("shade", "hall/s1/e1")
    revision = demo.revision
    demo.page.locator(f'[data-array="{array["id"]}"]').get_by_role("combobox", name="Inverter").click()
    page.get_by_role("option", name="South side").click()
    demo.settled(revision)
    inverter = next(i for i in demo.outcome()["renewables"]["inverters"] if i["id"] == "south")
    both = [a["peak_kwp"] for a in demo.outcome()["renewables"]["arrays"] if a["inverter"] == "south"]
    assert len(both) == 2
    assert inverter["peak_kwp"] == pytest.approx(sum(both))


def test_an_array_is_moved_and_sized_by_hand(demo: Eurythm) -> None:
    demo.ready()
    added(demo, "all roofs")
    handle = next(p for p in demo.geometry()["panels"] if p["array"] == "array-1")["handle"]
    x, y, width, depth = handle["rectangle"]

    def at(px: float, py: float) -> list[float]:
        return [handle["origin"][k] + handle["x"][k] * px + handle["y"][k] * py for k in range(3)]

    corner = at(x + width, y + depth)
    knob, inward = (demo.on_canvas(p[0], p[1], p[2] + 0.15) for p in (corner, at(x + width - 20, y + depth)))
    revision = demo.revision
    pull(demo, knob, (inward[0] - knob[0], inward[1] - knob[1]))
    demo.settled(revision)
    sized = demo.given["plant"]["arrays"][0]
    assert sized["width_m"] == pytest.approx(width - 20, abs=0.6)
    assert sized["depth_m"] == pytest.approx(depth, abs=0.6)
    foot, over = (demo.on_canvas(p[0], p[1], p[2] + 0.15) for p in (at(x, y), at(x + 10, y)))
    revision = demo.revision
    pull(demo, foot, (over[0] - foot[0], over[1] - foot[1]))
    demo.settled(revision)
    moved = demo.given["plant"]["arrays"][0]
    assert moved["x"] == pytest.approx(x + 10, abs=0.6)
    assert moved["width_m"] == pytest.approx(sized["width_m"], abs=2)
    demo.button("Undo").click()
    demo.back_at(revision)
    assert demo.given["plant"]["arrays"][0]["x"] == pytest.approx(sized["x"])
    demo.choose("Lies on", "outside walls")
    laid = demo.given["plant"]["arrays"][0]
    assert laid["on"] == "wall"
    assert not {"x", "y", "width_m", "depth_m"} & laid.keys()  # they meant another place


def test_a_battery_and_collectors_are_told(demo: Eurythm) -> None:
    page = demo.page
    added(demo, "all roofs")
    before = demo.outcome()["totals"]
    page.locator("summary", has_text="Battery").click()
    demo.type("plant/battery/usable_kwh", "40")
    after = demo.outcome()
    assert after["totals"]["covered_power_share"] > before["covered_power_share"]
    assert after["renewables"]["battery"]["discharged_kwh"] > 1000
    page.locator("summary", has_text="Solar collectors").click()
    revision = demo.revision
    demo.button("Collectors on its own feet").click()
    demo.settled(revision)
    told = demo.outcome()["renewables"]["collectors"]
    assert told["to_water_kwh"] > 1000
    expect(page.get_by_text("of the hot water,", exact=False)).to_contain_text(f"{told['share'] * 100:.0f}%")
    expect(page.get_by_text("Collectors heat", exact=False)).to_be_visible()
