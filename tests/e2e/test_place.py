"""Place: climate, files dropped on it, north, surroundings, remarks."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from eurythm.climate.standin import standin_epw
from eurythm.exchange.demo import demo_map
from eurythm.exchange.samples.sitemap import METRES, SCALE_BAR_M, SIZE
from tests.core.test_picture import bomb
from tests.e2e.pages import Eurythm, api
from tests.e2e.test_drawing import drag, middle
from tests.e2e.test_trace import at


@pytest.fixture
def demo(bare: Eurythm) -> Eurythm:
    """None of this hangs on lights and plant."""
    return bare


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
    demo.page.get_by_label("Take an EPW file").set_input_files(file)
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
    expect(demo.page.get_by_text("4 neighbours")).to_be_visible()
    before = demo.eui()
    assumed = demo.page.locator(".field", has=demo.page.locator('input[name^="place/boxes/neighbour-1/"]')).get_by_text("assumed")
    untyped = assumed.count()
    for part, value in (("x", "0"), ("y", "-22"), ("length", "70"), ("height", "30")):
        demo.type(f"place/boxes/neighbour-1/{part}", value)
    assert demo.eui() != before
    expect(assumed).to_have_count(untyped - 4)  # where it stands and how large it is was chosen for it until it is typed
    demo.button("Remove").click()
    expect(demo.page.get_by_text("3 neighbours")).to_be_visible()
    demo.button("Undo").click()
    expect(demo.page.get_by_text("4 neighbours")).to_be_visible()
    assert demo.state["given"]["place"]["boxes"][3]["height"] == 30


def test_trees_are_copied_and_grow(demo: Eurythm) -> None:
    demo.open("place")
    demo.settled()
    demo.button("2 more").click()
    demo.button("Quay tree 7").click()
    demo.button("Copy beside").click()
    expect(demo.page.get_by_text("8 trees")).to_be_visible()
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


@pytest.fixture
def site(demo: Eurythm) -> Eurythm:
    demo.open("place", "terraces").settled()
    demo.button("Hide climate sheet").click()
    return demo


def test_north_is_turned_by_its_needle_and_the_year_moves(site: Eurythm) -> None:
    before, revision, north = site.eui(), site.revision, site.state["completed"]["place"]["north_deg"]
    site.button("Plan").click()
    rose = site.still(site.page.locator("[data-compass]"))
    middle = (rose["x"] + 36, rose["y"] + 36)
    drag(site, (middle[0] + 2, middle[1] - 20), (18, 20))  # to the right: true north lies a quarter clockwise of the drawing's
    site.settled(revision)
    turned = site.state["given"]["place"]["north_deg"]
    assert turned != north
    assert turned == pytest.approx(-90, abs=12)
    assert site.eui() != before
    expect(site.page.locator("[data-compass]")).to_have_attribute(
        "aria-label", f"True north {-turned:g} degrees clockwise of the drawing's"
    )


def test_a_neighbour_and_a_tree_are_drawn_moved_and_change_the_readout(site: Eurythm) -> None:
    site.button("Plan").click()
    before = site.page.locator(".readout").inner_text()
    site.still(site.page.locator('[data-zone^="hall/"]').first)
    site.button("Draw a neighbour").click()
    x, y = 300, 170  # between the warehouses and the hall
    revision = site.revision
    for place in [(x, y), (x + 160, y), (x + 160, y + 30), (x, y + 30), (x, y)]:
        site.page.mouse.move(*place)
        site.page.mouse.click(*place)
    site.settled(revision)
    (made,) = site.state["given"]["place"]["footprints"]
    assert len(made["points"]) == 4
    assert site.page.locator(".readout").inner_text() != before
    revision = site.revision
    drag(site, middle(site, site.page.locator(f'[data-neighbour="{made["id"]}"]')), (60, -20))
    site.settled(revision)
    moved = site.state["given"]["place"]["footprints"][0]["points"]
    assert moved[0]["x"] > made["points"][0]["x"] + 1
    assert moved[1]["x"] - moved[0]["x"] == pytest.approx(made["points"][1]["x"] - made["points"][0]["x"])
    site.button("Plant trees").click()
    revision = site.revision
    count = len(site.state["given"]["place"]["trees"])
    site.page.mouse.click(420, 540)
    site.settled(revision)
    assert len(site.state["given"]["place"]["trees"]) == count + 1
    site.button("Plant trees").click()
    site.choose("Crown", "column")
    assert site.state["given"]["place"]["trees"][-1]["form"] == "column"


def test_what_hides_what_and_leaving_out_says_what_it_changes(site: Eurythm) -> None:
    far = {"id": "far", "name": "Far shed", "x": 1500, "y": 1500, "length": 5, "depth": 5, "height": 3}
    api(
        site.server,
        f"projects/{site.project}/edits",
        {"revision": site.state["revision"], "edit": {"op": "put", "path": "place/boxes", "item": far}},
    )
    site.page.reload()
    site.settled()
    site.button("Hide climate sheet").click()
    site.button("What hides what").click()
    expect(site.page.locator("[data-idle]")).to_contain_text("Without the 1 that hide nothing the year changes by")
    expect(site.page.locator("[data-hides]").first).to_contain_text("MWh")
    revision = site.revision
    site.button("Leave out 1 that hide nothing").click()
    site.settled(revision)
    box = next(b for b in site.state["given"]["place"]["boxes"] if b["id"] == "far")
    assert box["counts"] is False
    site.page.get_by_role("button", name=re.compile(r"^\d+ more$")).click()
    expect(site.page.get_by_text("Far shed (left out)")).to_be_visible()


def test_shadows_of_an_hour_and_of_a_day(site: Eurythm) -> None:
    canvas = site.page.locator(".canvas canvas")
    site.still(canvas)
    site.page.get_by_role("button", name="show", exact=True).click()
    height = site.page.locator("[data-sun-height]")
    site.page.get_by_label("Day of the year").fill("354")
    site.page.get_by_label("Hour of the day").fill("12")
    expect(height).to_have_text(re.compile(r"The sun stands 1[23]° high"))
    noon = canvas.screenshot()
    site.page.get_by_label("Hour of the day").fill("9.5")
    expect(height).not_to_contain_text("12°")
    site.page.wait_for_timeout(400)
    assert canvas.screenshot() != noon
    site.page.get_by_label("shadows of every hour").check()
    site.page.get_by_label("Hour of the day").fill("23")
    expect(height).to_contain_text("The sun is down on 21 Dec at 23:00")
    expect(site.page.get_by_role("img", name="Sun path, true north up")).to_be_visible()
    site.button("Play").click()
    expect(site.page.locator("[data-hour]")).not_to_have_text("23:00")
    site.button("Stop").click()


def test_two_climates_stand_side_by_side_in_every_view(demo: Eurythm) -> None:
    demo.open("place").settled()
    sheet = demo.page.get_by_role("region", name="Climate sheet")
    demo.page.get_by_role("combobox", name="Another climate beside it").click()
    demo.page.get_by_role("option", name="Sorrel Flats").click()
    expect(sheet.get_by_role("heading", name="Sorrel Flats")).to_be_visible()
    for view, picture in (
        ("Temperature by hour", "Mean temperature by month and hour"),
        ("Humidity by hour", "Mean humidity by month and hour"),
        ("Sun by side", "Radiation by month and side"),
        ("Water in the air", "Hours by temperature and water in the air"),
        ("Wind", "Wind rose, year"),
    ):
        demo.button(view).click()
        expect(sheet.get_by_role("img", name=picture)).to_have_count(2)
    demo.button("What it gives").click()
    rows = sheet.locator('[data-gives="night"]')
    expect(rows).to_have_count(2)
    hours = [int(re.sub(r"\D", "", rows.nth(k).locator("td").last.inner_text())) for k in range(2)]
    assert hours[0] != hours[1]


def test_a_map_is_laid_under_the_site_scaled_by_two_points_and_seen_in_the_model(demo: Eurythm, tmp_path: Path) -> None:
    """The map's own scale bar is 50 m long; taken 200 m wide, the map is too small until it is scaled."""
    api(demo.server, f"projects/{demo.project}/edits", {"revision": 1, "edit": {"op": "remove", "path": "place/underlays/map"}})
    (tmp_path / "map.png").write_bytes(demo_map()[1])
    demo.open("place")
    demo.button("Hide climate sheet").click()
    before = demo.eui()
    demo.page.set_input_files('input[aria-label="Lay a map or plan under"]', tmp_path / "map.png")
    expect(demo.page.get_by_text("taken to be 200 m wide")).to_be_visible()
    picture = demo.page.locator("[data-underlay] image")
    expect(picture).to_be_attached()
    (laid,) = demo.given_place["underlays"]
    assert laid["metres"] * SIZE[0] == pytest.approx(200)
    for _ in range(7):
        demo.button("Further").click()  # until the whole map is in view
    demo.button("Scale by two points").click()
    for x in (60, 60 + SCALE_BAR_M / METRES):  # the ends of the bar, in the picture's own points
        place = at(demo, laid["x"] + x * laid["metres"], laid["y"] + 50 * laid["metres"])
        demo.page.mouse.move(*place)
        demo.page.mouse.click(*place)
    demo.page.get_by_label("True distance").fill("50")
    with demo.page.expect_response(re.compile("/edits$")):
        demo.button("Scale the plan").click()
    (laid,) = demo.given_place["underlays"]
    assert laid["metres"] == pytest.approx(METRES, rel=0.02)
    assert demo.eui() == before  # what is only drawn over changes no result
    demo.button("3D").click()
    with demo.page.expect_response(re.compile("/picture$")) as answer:
        demo.page.reload()
    assert answer.value.headers["content-type"] == "image/png"
    demo.settled()  # the sheet grows while it loads, and what is pressed then moves away
    with demo.page.expect_response(re.compile("/edits$")):
        demo.page.get_by_label("shown").click()
    demo.button("Plan").click()
    expect(picture).to_have_count(0)


def test_a_picture_of_too_many_points_is_refused_and_changes_nothing(demo: Eurythm, tmp_path: Path) -> None:
    (tmp_path / "huge.png").write_bytes(bomb(20_000, 10_000))
    demo.open("place").settled()
    revision = demo.revision
    demo.page.set_input_files('input[aria-label="Lay a map or plan under"]', tmp_path / "huge.png")
    expect(demo.page.get_by_text("200 million; up to 100 million are read")).to_be_visible()
    assert demo.revision == revision


def test_altitude_and_time_zone_are_typed_and_move_the_year(demo: Eurythm) -> None:
    demo.open("place")
    before = demo.eui()
    demo.type("place/time_zone_h", "3")
    assert demo.eui() != before
    demo.type("place/altitude_m", "1800")
    assert (demo.given_place["time_zone_h"], demo.given_place["altitude_m"]) == (3, 1800)
    demo.field("place/altitude_m").fill("9000")
    demo.field("place/altitude_m").press("Enter")
    expect(demo.page.get_by_text("6000").or_(demo.page.get_by_text("6,000")).first).to_be_visible()
    assert demo.given_place["altitude_m"] == 1800


def test_ground_reflectance_is_given_month_by_month(demo: Eurythm) -> None:
    demo.open("place")
    demo.choose("Ground reflectance by month", "month by month")
    before = demo.outcome()["totals"]["cooling_demand_kwh"]
    cell = demo.page.get_by_label("Ground reflectance in Jul")
    cell.fill("0.8")
    cell.press("Enter")
    demo.settled(2)
    assert demo.given_place["ground_by_month"] == [0.2] * 6 + [0.8] + [0.2] * 5
    assert demo.outcome()["totals"]["cooling_demand_kwh"] > before
    cell.fill("1.4")
    cell.press("Enter")
    expect(demo.page.get_by_text("less than or equal to 1")).to_be_visible()
    assert demo.given_place["ground_by_month"][6] == 0.8
