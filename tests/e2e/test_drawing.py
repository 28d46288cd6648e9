"""Direct manipulation: turning, pulling, selecting several, typed corners, roofs, and zones in the ways that they are drawn."""

from __future__ import annotations

import math

import pytest
from playwright.sync_api import Locator, expect

from tests.e2e.pages import Eurythm, api


@pytest.fixture
def demo(bare: Eurythm) -> Eurythm:
    """What is done to forms does not hang on lights and plant."""
    return bare


def drag(demo: Eurythm, start: tuple[float, float], by: tuple[float, float], *keys: str) -> None:
    """Hold the pointer at a place, move it and let go, with keys held."""
    mouse = demo.page.mouse
    mouse.move(*start)
    for key in keys:
        demo.page.keyboard.down(key)
    mouse.down()
    mouse.move(start[0] + by[0] / 2, start[1] + by[1] / 2, steps=3)
    mouse.move(start[0] + by[0], start[1] + by[1], steps=3)
    mouse.up()
    for key in keys:
        demo.page.keyboard.up(key)


def middle(demo: Eurythm, thing: Locator) -> tuple[float, float]:
    box = demo.still(thing)
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def pull(demo: Eurythm, knob: tuple[float, float], by: tuple[float, float]) -> None:
    """Pull a knob in the model, once it is under the pointer and says so."""
    said = demo.page.locator("[data-pulled]")
    for k in range(100):
        demo.page.mouse.move(knob[0] + k % 2, knob[1])
        if said.is_visible():
            break
    expect(said).to_be_visible()
    drag(demo, knob, by)


def in_plan(demo: Eurythm, volume: str) -> None:
    """Show the plan with a volume selected."""
    demo.button("Plan").click()
    demo.page.mouse.click(*middle(demo, demo.page.locator(f'[data-zone^="{volume}/"]').first))
    expect(demo.page.locator("[data-turn]")).to_be_visible()


def draw_outline(demo: Eurythm) -> None:
    demo.button("Add volume").click()
    demo.page.get_by_role("menuitem", name="Free outline").click()
    expect(demo.page.locator(".MuiMenu-root")).to_have_count(0)  # its backdrop takes clicks until it has faded


@pytest.fixture
def terraces(demo: Eurythm) -> Eurythm:
    demo.open("shape", "terraces").settled()
    return demo


def test_a_volume_is_turned_by_its_knob(terraces: Eurythm) -> None:
    in_plan(terraces, "shed")
    terraces.type("volumes/shed/x", "62")  # clear of the hall
    terraces.button("Further").click()
    before, revision = terraces.given["volumes"][2], terraces.revision
    shed = terraces.page.locator('[data-zone^="shed/"]')
    knob, centre = middle(terraces, terraces.page.locator("[data-turn]")), middle(terraces, shed)
    reach = centre[1] - knob[1]
    drag(terraces, knob, (reach * 0.5, reach * 0.134))  # 30 degrees along the circle, clockwise
    terraces.settled(revision)
    assert terraces.given["volumes"][2]["turn_deg"] == 30
    assert middle(terraces, shed) == pytest.approx(centre, abs=2)  # it turned about its middle
    terraces.button("Undo").click()
    expect(terraces.button("Redo")).to_be_enabled()
    assert terraces.given["volumes"][2] == before


def test_a_rectangle_is_sized_by_its_corner_and_stays_one(terraces: Eurythm) -> None:
    in_plan(terraces, "shed")
    before = terraces.given["volumes"][2]
    drag(terraces, middle(terraces, terraces.page.locator('[data-corner="e3"]')), (60, -30))
    terraces.settled(1)
    after = terraces.given["volumes"][2]
    assert after["form"]["length"] > before["form"]["length"] + 1
    assert after["form"]["depth"] > before["form"]["depth"] + 1
    assert (after["x"], after["y"]) == (before["x"], before["y"])  # the corner across stays
    drag(terraces, middle(terraces, terraces.page.locator('[data-corner="e1"]')), (0, 20))
    terraces.settled(2)
    lower = terraces.given["volumes"][2]
    assert lower["y"] < after["y"]
    assert lower["y"] + lower["form"]["depth"] == pytest.approx(after["y"] + after["form"]["depth"])


def test_a_turned_scheme_is_shaped_in_plan_and_the_rest_stays(terraces: Eurythm) -> None:
    terraces.type("turn_deg", "20")
    in_plan(terraces, "shed")
    hall = middle(terraces, terraces.page.locator('[data-zone^="hall/"]').first)
    corner = terraces.page.locator('[data-corner="e3"]')
    x, y = middle(terraces, corner)
    before = terraces.revision
    drag(terraces, (x, y), (60, -20), "Alt")
    terraces.settled(before)
    assert middle(terraces, corner) == pytest.approx((x + 60, y - 20), abs=2)  # where it was let go
    assert middle(terraces, terraces.page.locator('[data-zone^="hall/"]').first) == pytest.approx(hall, abs=1)
    before = terraces.revision
    shed = middle(terraces, terraces.page.locator('[data-zone^="shed/"]').first)
    drag(terraces, shed, (40, 10))
    terraces.settled(before)
    assert middle(terraces, terraces.page.locator('[data-zone^="shed/"]').first) == pytest.approx((shed[0] + 40, shed[1] + 10), abs=6)
    draw_outline(terraces)
    drawn = [(500, 170), (620, 160), (600, 240)]
    for place in drawn:
        terraces.page.mouse.move(*place)
        terraces.page.mouse.click(*place)
    before = terraces.revision
    terraces.page.mouse.click(*drawn[0])
    terraces.settled(before)
    made = terraces.still(terraces.page.locator('[data-zone^="volume"]').first)
    xs, ys = [p[0] for p in drawn], [p[1] for p in drawn]
    assert (made["x"], made["y"], made["width"]) == pytest.approx((min(xs), min(ys), max(xs) - min(xs)), abs=8)


def test_a_side_is_drawn_parallel_to_a_line_far_from_it(terraces: Eurythm) -> None:
    in_plan(terraces, "shed")
    terraces.type("volumes/shed/turn_deg", "33")
    zone = terraces.still(terraces.page.locator('[data-zone^="shed/"]').first)
    draw_outline(terraces)
    start = (zone["x"] + zone["width"] + 30, zone["y"] - 80)
    terraces.page.mouse.click(*start)
    along = math.radians(33)
    terraces.page.mouse.move(start[0] + 60 * math.cos(along), start[1] + 60 * math.sin(along) + 3)
    expect(terraces.page.get_by_text("parallel to a line")).to_be_visible()
    terraces.page.keyboard.press("Escape")


def test_a_drag_is_let_go_by_escape_and_leaves_no_trace(terraces: Eurythm) -> None:
    in_plan(terraces, "shed")
    before = terraces.given
    x, y = middle(terraces, terraces.page.locator('[data-corner="e3"]'))
    terraces.page.mouse.move(x, y)
    terraces.page.mouse.down()
    terraces.page.mouse.move(x + 50, y - 30, steps=4)
    terraces.page.keyboard.press("Escape")
    terraces.page.mouse.up()
    terraces.settled()
    assert terraces.given == before
    assert terraces.state["revision"] == 1


def test_a_frame_selects_zones_which_get_one_use_or_become_one(terraces: Eurythm) -> None:
    terraces.button("Plan").click()
    canvas = terraces.still(terraces.page.locator(".canvas"))
    core = terraces.still(terraces.page.locator('[data-zone="hall/s0/core"]'))
    terraces.button("frame").click()
    start = (canvas["x"] + 160, core["y"] - 80)
    drag(terraces, start, (core["x"] + core["width"] + 10 - start[0], core["height"] + 150))
    sheet = terraces.page.get_by_label("Sheet")
    expect(sheet.get_by_role("heading", name="zones selected")).to_be_visible()
    count = int((sheet.get_by_role("heading", name="zones selected").inner_text()).split()[0])
    assert count >= 3
    before = terraces.revision
    sheet.get_by_label("Use of all").select_option(label="Office, open")
    terraces.settled(before)
    assert len(terraces.given["use"]["zones"]) >= count
    before = terraces.revision
    terraces.button("Make them one zone").click()
    terraces.settled(before)
    assert len(terraces.given["merged"][-1]["zones"]) == count
    terraces.button("Undo").click()
    terraces.button("Undo").click()
    terraces.page.wait_for_function("() => document.querySelector('[aria-label=Undo]')?.disabled")
    assert "merged" not in terraces.given or not terraces.given["merged"]


def test_a_roof_is_pulled_to_a_height(terraces: Eurythm) -> None:
    terraces.page.locator("summary", has_text="Objects").click()
    terraces.button("Workshops").click()
    storey = terraces.given["volumes"][2]["storeys"][0]
    roof = next(
        f for f in terraces.geometry()["faces"] if f["zone"].startswith("shed/") and f["kind"] == "ceiling" and f["boundary"] == "outdoors"
    )
    corners = roof["loops"][0]
    at = [(min(p[k] for p in corners) + max(p[k] for p in corners)) / 2 for k in range(3)]
    foot, above = terraces.on_canvas(*at), terraces.on_canvas(at[0], at[1], at[2] + 2.0)
    knob = (foot[0], foot[1] - 9)
    pull(terraces, knob, (above[0] - foot[0], above[1] - foot[1]))
    terraces.settled(1)
    assert terraces.given["volumes"][2]["storeys"][0]["height_m"] == pytest.approx(storey["height_m"] + 2.0, abs=0.11)


def test_a_wall_is_pulled_square_to_itself(terraces: Eurythm) -> None:
    wall = next(f for f in terraces.geometry()["faces"] if f["edge"] == "shed/s0/e1" and f["boundary"] == "outdoors")
    corners = wall["loops"][0]
    at = [sum(p[k] for p in corners) / len(corners) for k in range(3)]
    terraces.page.mouse.click(*terraces.on_canvas(at[0], at[1], corners[0][2] + 0.4))
    expect(terraces.page.get_by_label("Sheet").get_by_role("heading", name="wall")).to_be_visible()
    before = terraces.given["volumes"][2]
    box = [(min(p[k] for p in corners) + max(p[k] for p in corners)) / 2 for k in range(3)]
    foot, out = terraces.on_canvas(*box), terraces.on_canvas(box[0], box[1] - 3.0, box[2])
    way = ((out[0] - foot[0]) / 3, (out[1] - foot[1]) / 3)
    long = (way[0] ** 2 + way[1] ** 2) ** 0.5
    knob = (foot[0] + way[0] / long * 8, foot[1] + way[1] / long * 8)
    pull(terraces, knob, (out[0] - foot[0], out[1] - foot[1]))
    terraces.settled(1)
    after = terraces.given["volumes"][2]
    assert after["form"]["depth"] == pytest.approx(before["form"]["depth"] + 3.0, abs=0.11)
    assert after["y"] == pytest.approx(before["y"] - 3.0, abs=0.11)


def test_faces_that_are_alike_get_a_ratio_in_one_step(terraces: Eurythm) -> None:
    wall = next(f for f in terraces.geometry()["faces"] if f["edge"] == "shed/s0/e1" and f["boundary"] == "outdoors")
    corners = wall["loops"][0]
    at = [sum(p[k] for p in corners) / len(corners) for k in range(3)]
    terraces.page.mouse.click(*terraces.on_canvas(at[0], at[1], corners[0][2] + 0.4))
    sheet = terraces.page.get_by_label("Sheet")
    sheet.locator("summary", has_text="Select the same").click()
    facing = [
        f
        for f in terraces.geometry()["faces"]
        if f["kind"] == "wall" and f["boundary"] == "outdoors" and f["orientation"] == wall["orientation"]
    ]
    sheet.get_by_role("button", name=f"facing {wall['orientation']}").click()
    expect(sheet.get_by_role("heading", name=f"{len(facing)} faces selected")).to_be_visible()
    before = terraces.revision
    terraces.page.locator('[name="chosen-ratio"]').fill("33")
    terraces.page.locator('[name="chosen-ratio"]').press("Enter")
    terraces.settled(before)
    assert len({o["face"] for o in terraces.given["skin"]["overrides"]}) == len({f["edge"] for f in facing})
    now = [f for f in terraces.geometry()["faces"] if f["edge"] in {g["edge"] for g in facing} and f["boundary"] == "outdoors"]
    assert sum(f["window_area"] for f in now) / sum(f["area"] for f in now) == pytest.approx(0.33, abs=0.02)
    terraces.button("Undo").click()
    terraces.back_at(before)
    assert not terraces.given.get("skin", {}).get("overrides")


def test_shift_adds_to_the_selection_and_takes_from_it(terraces: Eurythm) -> None:
    terraces.button("Plan").click()
    hall, shed = (terraces.page.locator(f'[data-zone^="{v}/"]').first for v in ("hall", "shed"))
    terraces.page.mouse.click(*middle(terraces, hall))
    for selected in (2, 1):
        terraces.page.keyboard.down("Shift")
        terraces.page.mouse.click(*middle(terraces, shed))
        terraces.page.keyboard.up("Shift")
        heading = terraces.page.get_by_role("heading", name="2 volumes selected")
        expect(heading).to_have_count(1 if selected == 2 else 0)
        if selected == 2:
            before = terraces.given["volumes"]
            terraces.page.get_by_label("Move east by").fill("2,5")
            terraces.button("Move east, north").click()
            terraces.settled(1)
            by_id = {v["id"]: v for v in terraces.given["volumes"]}
            for v in before:
                assert by_id[v["id"]]["x"] == pytest.approx(v["x"] + (2.5 if v["id"] in ("hall", "shed") else 0))


def test_corners_are_typed_added_and_removed(terraces: Eurythm) -> None:
    in_plan(terraces, "shed")
    terraces.page.locator("summary", has_text="Reshape").click()
    before = terraces.revision
    terraces.button("Make it a free outline").click()
    terraces.settled(before)
    terraces.page.locator("summary", has_text="Corners of the outline").click()
    rows = terraces.page.locator("[data-corner-row]")
    expect(rows).to_have_count(4)
    third = rows.nth(2).get_by_role("textbox").first
    x = float(third.input_value())
    before = terraces.revision
    third.fill(f"{x + 1.25:.3f}")
    third.press("Enter")
    terraces.settled(before)
    points = terraces.given["volumes"][2]["form"]["points"]
    assert points[2]["x"] == pytest.approx(x + 1.25)
    before = terraces.revision
    terraces.page.get_by_label("Add a corner after 1", exact=True).click()
    terraces.settled(before)
    expect(rows).to_have_count(5)
    before = terraces.revision
    terraces.page.get_by_label("Remove corner 2", exact=True).click()
    terraces.settled(before)
    assert [p["id"] for p in terraces.given["volumes"][2]["form"]["points"]] == [p["id"] for p in points]
    third.fill("nowhere")
    third.press("Enter")
    assert terraces.given["volumes"][2]["form"]["points"][2]["x"] == pytest.approx(x + 1.25)


def test_a_roof_gets_slopes_and_says_along_which_side(terraces: Eurythm) -> None:
    in_plan(terraces, "shed")
    flat = next(z for z in terraces.geometry()["zones"] if z["volume"] == "shed")["gross_volume_m3"]
    terraces.choose("Roof", "one slope")
    terraces.type("volumes/shed/roof/pitch_deg", "15")
    mono = next(z for z in terraces.geometry()["zones"] if z["volume"] == "shed")
    assert mono["gross_volume_m3"] > flat * 1.1
    sloped = [f for f in terraces.geometry()["faces"] if f["zone"] == mono["id"] and f["kind"] == "ceiling"]
    assert max(p[2] for p in sloped[0]["loops"][0]) > min(p[2] for p in sloped[0]["loops"][0]) + 1
    terraces.page.get_by_role("combobox", name="Eaves along").click()
    terraces.page.get_by_role("option").nth(2).click()
    terraces.page.wait_for_function("() => !document.querySelector('[role=listbox]')")
    terraces.settled(3)
    assert terraces.given["volumes"][2]["roof"]["eaves"] == "e2"
    before = terraces.revision
    terraces.choose("Roof", "flat")
    terraces.settled(before)
    assert next(z for z in terraces.geometry()["zones"] if z["volume"] == "shed")["gross_volume_m3"] == pytest.approx(flat)


def test_perimeters_differ_by_edge_and_storey(terraces: Eurythm) -> None:
    in_plan(terraces, "hall")
    area = {z["id"]: z["gross_floor_m2"] for z in terraces.geometry()["zones"]}
    terraces.page.locator("summary", has_text="Depth by edge").click()
    before = terraces.revision
    field = terraces.page.locator('[name="schemes/terraces/volumes/hall/zoning/edges/e1"]')
    field.fill("8")
    field.press("Enter")
    terraces.settled(before)
    deeper = {z["id"]: z["gross_floor_m2"] for z in terraces.geometry()["zones"]}
    assert deeper["hall/s0/e1"] > area["hall/s0/e1"] * 1.5
    assert sum(deeper.values()) == pytest.approx(sum(area.values()), rel=1e-6)
    before = terraces.revision
    field.fill("")
    field.press("Enter")
    terraces.settled(before)
    assert not terraces.given["volumes"][0]["zoning"].get("edges")
    before = terraces.revision
    terraces.choose("Perimeter as", "one ring")
    terraces.settled(before)
    assert {z["id"] for z in terraces.geometry()["zones"] if z["id"].startswith("hall/s0/")} == {"hall/s0/ring", "hall/s0/core"}
    terraces.page.locator("summary", has_text="Storey by storey").click()
    before = terraces.revision
    terraces.page.locator('select[name="schemes/terraces/volumes/hall/storeys/s0/zoning"]').select_option(label="one zone")
    terraces.settled(before)
    assert {z["id"] for z in terraces.geometry()["zones"] if z["id"].startswith("hall/s0/")} == {"hall/s0/all"}
    before = terraces.revision
    terraces.button("Divide all volumes so").click()
    terraces.settled(before)
    assert {v["zoning"]["around"] for v in terraces.given["volumes"]} == {"ring"}


def test_areas_are_told_against_what_is_aimed_at(terraces: Eurythm) -> None:
    terraces.page.locator("summary", has_text="Floor area and footprint").click()
    floor = sum(z["gross_floor_m2"] for z in terraces.geometry()["zones"])
    before, result = terraces.revision, terraces.outcome()["totals"]
    field = terraces.field("aims/gross_floor_m2")
    field.fill(f"{floor * 0.8:.0f}")
    field.press("Enter")
    terraces.settled(before)
    expect(terraces.page.locator('[data-measure="Gross floor area"]')).to_contain_text("+25.0%")
    assert terraces.outcome()["totals"] == result  # an aim changes no result


def test_zones_of_one_use_are_joined_and_parted(terraces: Eurythm) -> None:
    terraces.page.locator("summary", has_text="Join zones that are alike").click()
    count = len(terraces.geometry()["zones"])
    terraces.page.get_by_label("Which zones to join").select_option(label="of one storey")
    before = terraces.revision
    terraces.button("Join").click()
    terraces.settled(before)
    joined = terraces.geometry()
    assert len(joined["zones"]) < count
    assert len(joined["zones"]) == len(terraces.given["merged"]) + sum("/" in z["id"] for z in joined["zones"])
    before = terraces.revision
    terraces.button("Part all").click()
    terraces.settled(before)
    assert len(terraces.geometry()["zones"]) == count


def test_colours_of_the_legend_can_be_changed_and_stay(terraces: Eurythm) -> None:
    page = terraces.page
    page.get_by_role("combobox", name="Colour by").click()
    page.get_by_role("option", name="use", exact=True).click()
    swatch = page.locator("[data-legend] input[type=color]").first
    expect(swatch).to_be_attached()
    before = swatch.input_value()
    swatch.fill("#aa3377")
    expect(swatch).to_have_value("#aa3377")
    page.reload()
    terraces.settled()
    page.get_by_role("combobox", name="Colour by").click()
    page.get_by_role("option", name="use", exact=True).click()
    expect(swatch).to_have_value("#aa3377")
    terraces.button("Put the colours back").click()
    expect(swatch).to_have_value(before.lower())


def test_storeys_are_drawn_or_not_one_by_one(terraces: Eurythm) -> None:
    terraces.button("Plan").click()
    expect(terraces.page.locator("[data-zone]").first).to_be_visible()
    tick = terraces.page.get_by_role("checkbox", name="Draw the storey at 0.0 m")
    expect(tick).to_have_attribute("aria-checked", "true")
    tick.click()
    expect(tick).to_have_attribute("aria-checked", "false")
    expect(terraces.page.locator("[data-zone]")).to_have_count(0)
    terraces.button("show all").click()
    expect(tick).to_have_attribute("aria-checked", "true")
    expect(terraces.page.locator("[data-zone]").first).to_be_visible()


def test_the_origin_of_constructions_can_be_seen(demo: Eurythm) -> None:
    demo.open("shape", "court").settled()
    demo.page.get_by_role("combobox", name="Colour by").click()
    demo.page.get_by_role("option", name="origin of construction").click()
    expect(demo.page.locator("[data-legend]")).to_contain_text("read from the file")
    origins = {f["origin"] for f in demo.geometry()["faces"]}
    assert "imported" in origins


def test_a_face_of_a_read_room_differs_by_hand_and_takes_it_back(demo: Eurythm) -> None:
    demo.open("shape", "court").settled()
    face = next(f for f in demo.geometry()["faces"] if f["kind"] == "ceiling" and f["boundary"] == "outdoors")
    at = [sum(p[k] for p in face["loops"][0]) / len(face["loops"][0]) for k in range(3)]
    demo.page.mouse.click(*demo.on_canvas(*at))
    sheet = demo.page.get_by_label("Sheet")
    expect(sheet.get_by_role("heading", name="Roof")).to_be_visible()
    for label, option, key, value in (
        ("Construction", "Timber deck, 300 mm insulated", "construction", "roof-timber"),
        ("Beyond it", "adiabatic, a party wall", "boundary", "adiabatic"),
    ):
        before = demo.revision
        sheet.get_by_role("combobox", name=label, exact=True).click()
        demo.page.get_by_role("option", name=option).first.click()
        demo.settled(before)
        now = next(f for f in demo.geometry()["faces"] if f["id"] == face["id"])
        assert now[key] == value
    before = demo.revision
    demo.button("As the scheme").click()
    demo.settled(before)
    now = next(f for f in demo.geometry()["faces"] if f["id"] == face["id"])
    assert (now["boundary"], now["origin"]) == ("outdoors", "assumed")


def test_a_stair_is_made_one_zone_over_two_storeys_and_parted(demo: Eurythm) -> None:
    demo.open("shape", "court").settled()
    demo.page.locator("summary", has_text="List of zones").click()
    before = {z["id"]: z for z in demo.geometry()["zones"]}
    for number, keys in (("0.04", []), ("1.04", ["Shift"])):
        demo.page.locator(".rooms").get_by_role("button", name=f"{number} Stair").click(modifiers=keys)  # type: ignore[arg-type]
    expect(demo.page.get_by_role("heading", name="2 zones selected")).to_be_visible()
    revision = demo.revision
    demo.button("Make them one zone").click()
    demo.settled(revision)
    after = {z["id"]: z for z in demo.geometry()["zones"]}
    (stair,) = [z for name, z in after.items() if name not in before]
    assert set(before) - set(after) == {"0.04", "1.04"}
    assert stair["gross_volume_m3"] == pytest.approx(before["0.04"]["gross_volume_m3"] + before["1.04"]["gross_volume_m3"])
    assert stair["height"] > before["0.04"]["height"] + before["1.04"]["height"] - 0.6
    assert not [f for f in demo.geometry()["faces"] if {f["zone"], f["other"]} <= {"0.04", "1.04"}]
    demo.page.locator("summary", has_text="Join zones that are alike").click()
    revision = demo.revision
    demo.button("Part all").click()
    demo.settled(revision)
    assert {z["id"] for z in demo.geometry()["zones"]} == set(before)


@pytest.mark.parametrize(
    ("form", "sizes", "zones"),
    [
        ("l", {"length": 36, "depth": 30, "wing_length": 13, "wing_depth": 14}, 7),
        ("courtyard", {"length": 44, "depth": 40, "court_length": 16, "court_depth": 14}, 9),
    ],
)
def test_perimeter_and_core_of_an_l_and_a_courtyard(demo: Eurythm, form: str, sizes: dict, zones: int) -> None:
    """Each side has its strip, the middle one core, and all of it together is the form."""
    bar = {"id": "bar", "name": "Bar", "form": {"kind": form, **sizes}, "storeys": [{"id": "s0"}, {"id": "s1"}]}
    api(
        demo.server,
        f"projects/{demo.project}/edits",
        {"revision": 1, "edit": {"op": "set", "path": "schemes/quay/volumes", "value": [bar]}},
    )
    demo.open("shape", "quay").settled()
    demo.volume("Bar")
    demo.choose("Divide by", "perimeter and core")
    found = demo.geometry()
    assert len(found["zones"]) == 2 * zones
    hole = sizes.get("court_length", 0) * sizes.get("court_depth", 0)
    notch = (36 - 13) * (30 - 14) if form == "l" else 0
    plan = sizes["length"] * sizes["depth"] - hole - notch
    assert sum(z["gross_floor_m2"] for z in found["zones"]) == pytest.approx(2 * plan, rel=1e-6)
    around = 2 * (sizes["length"] + sizes["depth"]) + 2 * (sizes.get("court_length", 0) + sizes.get("court_depth", 0))
    outside = sum(f["area"] for f in found["faces"] if f["kind"] == "wall" and f["boundary"] == "outdoors")
    assert outside == pytest.approx(around * 7.0, rel=1e-6)
    demo.button("Plan").click()
    expect(demo.page.locator('[data-zone^="bar/s0/"]')).to_have_count(zones)


def test_a_frame_in_the_model_selects_faces_that_get_one_construction(terraces: Eurythm) -> None:
    faces = [f for f in terraces.geometry()["faces"] if f["zone"].startswith("shed/") and f["boundary"] == "outdoors"]
    corners = [terraces.on_canvas(*p) for f in faces for p in f["loops"][0]]
    low, high = ((pick(c[0] for c in corners), pick(c[1] for c in corners)) for pick in (min, max))
    frame = (low[0] - 6, low[1] - 6), (high[0] - low[0] + 12, high[1] - low[1] + 12)
    terraces.button("frame").click()
    expect(terraces.page.locator("[data-framing]")).to_be_visible()
    drag(terraces, *frame)
    sheet = terraces.page.get_by_label("Sheet")
    heading = sheet.get_by_role("heading", name="faces selected")
    expect(heading).to_have_text("3 faces selected")  # from the south-east: two walls and the roof
    expect(terraces.page.locator("[data-framing]")).to_have_count(0)
    terraces.button("frame").click()
    terraces.page.keyboard.down("Alt")
    drag(terraces, *frame)
    terraces.page.keyboard.up("Alt")
    expect(heading).not_to_have_text("3 faces selected")
    assert int(heading.inner_text().split()[0]) >= len(faces)
    before = terraces.revision
    sheet.get_by_label("Construction of all").select_option(label="Solid brick, plastered")
    terraces.settled(before)
    walls = [f for f in terraces.geometry()["faces"] if f["edge"].startswith("shed/") and f["boundary"] == "outdoors"]
    assert {(f["construction"], f["origin"]) for f in walls} == {("wall-old", "given")}
    before = terraces.revision
    sheet.get_by_role("button", name="As the scheme").click()
    terraces.settled(before)
    assert not terraces.given["skin"].get("overrides")


def test_a_typed_room_is_turned_resized_and_raised(demo: Eurythm) -> None:
    corners = [(0, 0), (6, 0), (6, 4), (0, 4)]
    outline = {"points": [{"id": f"e{i + 1}", "x": x, "y": y} for i, (x, y) in enumerate(corners)], "height": 3}
    edits = [
        {"op": "set", "path": "schemes/quay/volumes", "value": []},
        {"op": "put", "path": "schemes/quay/zones", "item": {"id": "room", "name": "Study", "outline": outline, "by_ratio": True}},
    ]
    api(demo.server, f"projects/{demo.project}/edits", {"revision": 1, "edit": {"op": "together", "edits": edits}})
    demo.open("shape", "quay").settled()
    demo.button("Plan").click()
    zone = demo.page.locator('[data-zone="room"]')
    demo.page.mouse.click(*middle(demo, zone))
    knob, centre = middle(demo, demo.page.locator("[data-turn]")), middle(demo, zone)
    before, reach = demo.revision, centre[1] - knob[1]
    drag(demo, knob, (reach, reach))  # a right angle, clockwise
    demo.settled(before)
    points = demo.given["zones"][0]["outline"]["points"]
    assert [(p["x"], p["y"]) for p in points] == [pytest.approx(p, abs=1e-3) for p in ((1, 5), (1, -1), (5, -1), (5, 5))]
    demo.button("3D").click()
    roof = next(f for f in demo.geometry()["faces"] if f["kind"] == "ceiling")["loops"][0]
    at = [(min(p[k] for p in roof) + max(p[k] for p in roof)) / 2 for k in range(3)]
    foot, above = demo.on_canvas(*at), demo.on_canvas(at[0], at[1], at[2] + 1.0)
    before = demo.revision
    pull(demo, (foot[0], foot[1] - 9), (above[0] - foot[0], above[1] - foot[1]))
    demo.settled(before)
    assert demo.given["zones"][0]["outline"]["height"] == pytest.approx(4.0, abs=0.11)


def test_new_fields_hold_in_inch_pound(terraces: Eurythm) -> None:
    terraces.button("IP").click()
    in_plan(terraces, "hall")
    terraces.page.locator("summary", has_text="Depth by edge").click()
    before = terraces.revision
    field = terraces.page.locator('[name="schemes/terraces/volumes/hall/zoning/edges/e1"]')
    field.fill("20")
    field.press("Enter")
    terraces.settled(before)
    assert terraces.given["volumes"][0]["zoning"]["edges"] == [{"id": "e1", "depth_m": pytest.approx(6.096)}]
    expect(field).to_have_value("20")
    terraces.page.locator("summary", has_text="Floor area and footprint").click()
    before = terraces.revision
    terraces.field("aims/footprint_m2").fill("10000")
    terraces.field("aims/footprint_m2").press("Enter")
    terraces.settled(before)
    assert terraces.given["aims"]["footprint_m2"] == pytest.approx(929.03, rel=1e-4)
    expect(terraces.page.locator('[data-measure="Footprint"]')).to_contain_text("10,000")


def test_the_finder_reaches_tools_and_colours(terraces: Eurythm) -> None:
    for words, check in (
        ("Colour by origin", lambda: expect(terraces.page.locator("[data-legend]")).to_contain_text("assumed")),
        ("Select by a frame", lambda: expect(terraces.page.locator("[data-framing]")).to_be_visible()),
        ("Trace a room", lambda: expect(terraces.page.get_by_role("group", name="Drawing")).to_be_visible()),
    ):
        terraces.page.keyboard.press("Control+k")
        terraces.page.get_by_role("combobox", name="Find anything").fill(words)
        terraces.page.keyboard.press("Enter")
        check()
    terraces.page.keyboard.press("Escape")
