"""Volumes reshaped, one room typed, a room taken out, zones hidden: on the screen."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.e2e.pages import Eurythm
from tests.e2e.test_trace import at


@pytest.fixture
def demo(bare: Eurythm) -> Eurythm:
    """What is done to forms does not hang on lights and plant."""
    return bare


def edited(demo: Eurythm):
    return demo.page.expect_response(lambda r: r.request.method == "POST" and r.ok)


def test_a_volume_is_repeated_joined_cut_and_undone(demo: Eurythm) -> None:
    demo.open("shape")
    demo.settled()
    area = demo.geometry()["footprint_m2"]
    demo.volume("Bar")
    demo.page.get_by_text("Reshape", exact=True).click()
    demo.page.get_by_label("Side to repeat on").select_option("north")
    with edited(demo):
        demo.button("Repeat beside").click()
    assert len(demo.given["volumes"]) == 2
    assert demo.geometry()["footprint_m2"] == pytest.approx(2 * area)
    with edited(demo):
        demo.button("Join").click()
    (volume,) = demo.given["volumes"]
    assert volume["form"]["kind"] == "polygon"
    demo.button("Cut in two").click()
    box = demo.still(demo.page.locator('svg[aria-label="Plan"]'))
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    demo.page.mouse.click(middle[0] + 3, middle[1] + 160)
    with edited(demo):
        demo.page.mouse.click(middle[0] + 3, middle[1] - 160)
    assert len(demo.given["volumes"]) == 2
    assert demo.geometry()["footprint_m2"] == pytest.approx(2 * area, rel=1e-3)
    for _ in range(3):
        with edited(demo):
            demo.button("Undo").click()
    assert [v["id"] for v in demo.given["volumes"]] == ["bar"]


def test_one_room_is_typed_in_one_step(demo: Eurythm) -> None:
    page = demo.open("shape").page
    demo.button("Add volume").click()
    page.get_by_role("menuitem", name="One room, typed").click()
    page.get_by_role("button", name="a corner room", exact=True).click()
    page.locator("#one-length").fill("7")
    with edited(demo):
        demo.button("Add the room").click()
    (room,) = demo.given["zones"]
    assert {f["side"] for f in room["faces"]} == {"e2", "e3", "roof", "floor"}
    assert min(p["x"] for p in room["outline"]["points"]) > 60  # beside the bar, not in it
    mine = [f for f in demo.geometry()["faces"] if f["zone"] == room["id"]]
    outside = {f["orientation"]: f["area"] for f in mine if f["boundary"] == "outdoors"}
    assert outside == {"south": 21, "west": 15}


def test_a_room_is_taken_out_as_a_scheme_of_its_own(demo: Eurythm) -> None:
    page = demo.open("shape", "court").page
    demo.settled()
    page.get_by_text("List of zones").click()
    page.locator('[data-section="room-list"]').get_by_role("button", name="1.07 Workshop metal").click()
    demo.button("Take out as a scheme of its own").click()
    page.wait_for_url("**/shape/one-room")
    demo.scheme = "one-room"
    demo.settled()
    assert [z["name"] for z in demo.geometry()["zones"]] == ["1.07 Workshop metal"]
    assert {f["boundary"] for f in demo.geometry()["faces"]} == {"outdoors", "adiabatic"}


def test_zones_are_hidden_shown_alone_and_all_again(demo: Eurythm) -> None:
    page = demo.open("shape", "court").page
    demo.settled()
    demo.button("Plan").click()
    zones = page.locator("path[data-zone]")
    expect(zones).to_have_count(15)
    page.get_by_text("List of zones").click()
    page.locator('[data-section="room-list"]').get_by_role("button", name="0.02 Foyer").click()
    demo.button("hide").click()
    expect(zones).to_have_count(14)
    page.locator('[data-section="room-list"]').get_by_role("button", name="0.04 Stair").click()
    demo.button("only this").click()
    expect(zones).to_have_count(1)
    demo.button("show all").click()
    expect(zones).to_have_count(15)


def test_a_gable_is_cut_along_its_ridge_and_told_where_it_cannot_be(demo: Eurythm) -> None:
    demo.open("shape")
    demo.settled()
    demo.volume("Bar")
    roof = demo.page.get_by_label("Roof", exact=True)
    with edited(demo):
        roof.click()
        demo.page.get_by_role("option", name="two slopes to a ridge").click()
    before = sum(z["gross_volume_m3"] for z in demo.geometry()["zones"])
    plan = demo.geometry()["outlines"][0]["rings"][0]
    (x0, x1), (y0, y1) = ((min(p[k] for p in plan), max(p[k] for p in plan)) for k in (0, 1))
    demo.page.get_by_text("Reshape", exact=True).click()

    def cut(y: float) -> None:
        """From wall to wall; their middles, where the ridge ends, catch the pointer."""
        demo.button("Cut in two").click()
        for x in (x0, x1):
            point = at(demo, x, y)
            demo.page.mouse.move(*point)
            demo.page.mouse.click(*point)

    cut(y0 + (y1 - y0) / 4)
    expect(demo.page.get_by_text("cut square to its eaves")).to_be_visible()
    assert len(demo.given["volumes"]) == 1
    with edited(demo):
        cut((y0 + y1) / 2)
    assert [v["roof"]["kind"] for v in demo.given["volumes"]] == ["mono", "mono"]
    assert sum(z["gross_volume_m3"] for z in demo.geometry()["zones"]) == pytest.approx(before, rel=2e-3)


@pytest.mark.parametrize(("name", "ending"), [("gbXML, feet", "xml"), ("IFC", "ifc"), ("CSV", "csv")])
def test_a_scheme_is_handed_out_as_a_file(demo: Eurythm, name: str, ending: str) -> None:
    demo.open("shape", "terraces")
    demo.button("Export").click()
    with demo.page.expect_download() as told:
        demo.page.get_by_role("menuitem", name=name).click()
    assert told.value.suggested_filename == f"terraces.{ending}"
    body = told.value.path().read_text(encoding="utf-8")
    assert all(zone["id"] in body for zone in demo.geometry()["zones"])


def test_what_cannot_be_handed_out_is_told(demo: Eurythm) -> None:
    demo.open("shape")
    with edited(demo):
        demo.page.locator("[data-section=volumes] button").first.click()
        demo.button("Remove").click()
    demo.button("Export").click()
    demo.page.get_by_role("menuitem", name="gbXML, metres").click()
    expect(demo.page.get_by_role("alert")).to_contain_text("Nothing is drawn yet")
