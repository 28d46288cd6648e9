"""Shape: drawing by typing and by clicking, moving, storeys, faces, what cannot be built."""

from __future__ import annotations

import io

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from eurythm.assess.figures import FIGURES
from tests.e2e.pages import Eurythm, api


@pytest.fixture
def demo(bare: Eurythm) -> Eurythm:
    """What is done to forms does not hang on lights and plant."""
    return bare


@pytest.fixture
def empty(shared, page: Page) -> Eurythm:
    """An empty project with weather, at Shape."""
    made = api(shared, "projects", {"name": "Boxes"})
    edit = {"op": "set", "path": "place/climate", "value": {"kind": "stand-in", "id": "merrowhaven"}}
    api(shared, f"projects/{made['id']}/edits", {"revision": 1, "edit": edit})
    return Eurythm(page, shared, made["id"], "scheme-1").open("shape")


def plan_click(ours: Eurythm, dx: float, dy: float) -> None:
    box = ours.page.get_by_label("Plan", exact=True).bounding_box()
    assert box is not None
    ours.page.mouse.click(box["x"] + dx, box["y"] + dy)


@pytest.mark.parametrize(
    ("name", "kind", "area"),
    [
        ("Rectangle", "rectangle", 30 * 24),
        ("L", "l", 30 * 24 - 20 * 16),
        ("T", "t", 30 * 24 - 20 * 16),
        ("U", "u", 30 * 24 - 10 * 16),
        ("Courtyard", "courtyard", 30 * 24 - 10 * 8),
    ],
)
def test_every_form_is_drawn_with_typed_lengths(empty: Eurythm, name: str, kind: str, area: float) -> None:
    empty.button(name).click()
    panel = empty.page.get_by_role("group", name="Drawing")
    panel.get_by_label("Length").fill("30")
    panel.get_by_label("Depth").fill("24")
    panel.get_by_role("button", name="Place", exact=True).click()
    expect(empty.page.get_by_role("heading", name="Volume 1")).to_be_visible()
    empty.settled(2)
    volume = empty.given["volumes"][0]
    assert volume["form"]["kind"] == kind
    assert empty.geometry()["footprint_m2"] == pytest.approx(area, rel=1e-3)
    assert empty.eui() > 10


def test_an_outline_is_drawn_corner_by_corner(empty: Eurythm) -> None:
    empty.button("Free outline").click()
    panel = empty.page.get_by_role("group", name="Drawing")
    plan_click(empty, 300, 420)
    for length, bearing in (("18", "90"), ("12", "0"), ("9", "300")):
        panel.get_by_label("Length").fill(length)
        panel.get_by_label("Bearing").fill(bearing)
        panel.get_by_label("Bearing").press("Enter")
    panel.get_by_role("button", name="Close outline").click()
    expect(empty.page.get_by_role("heading", name="Volume 1")).to_be_visible()
    form = empty.given["volumes"][0]["form"]
    assert [p["id"] for p in form["points"]] == ["e1", "e2", "e3", "e4"]
    lengths = [form["points"][i + 1]["x"] - form["points"][i]["x"] for i in range(2)]
    assert lengths == pytest.approx([18, 0], abs=1e-3)


def test_a_crossing_outline_is_refused_on_the_drawing(empty: Eurythm) -> None:
    empty.button("Free outline").click()
    for dx, dy in ((250, 450), (450, 450), (250, 250), (450, 250)):
        plan_click(empty, dx, dy)
    empty.page.get_by_role("group", name="Drawing").get_by_role("button", name="Close outline").click()
    expect(empty.page.get_by_role("alert").first).to_contain_text("crosses or touches itself")
    assert "volumes" not in empty.given
    empty.button("Stop drawing").click()
    expect(empty.page.get_by_role("heading", name="Nothing is drawn yet")).to_be_visible()


def test_words_where_a_length_belongs_are_not_taken(empty: Eurythm) -> None:
    empty.button("Rectangle").click()
    panel = empty.page.get_by_role("group", name="Drawing")
    panel.get_by_label("Length").fill("wide")
    expect(panel.get_by_role("button", name="Place", exact=True)).to_be_disabled()
    panel.get_by_label("Length").press("Escape")
    expect(panel).to_have_count(0)


def test_a_volume_dragged_in_plan_is_moved_once(demo: Eurythm) -> None:
    demo.open("shape", "terraces")
    demo.settled()
    demo.button("Plan").click()
    box = demo.still(demo.page.locator('[data-zone^="shed/"]'))
    start = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    before = demo.given["volumes"][2]
    demo.page.mouse.move(*start)
    demo.page.mouse.down()
    demo.page.mouse.move(start[0] + 40, start[1] + 10, steps=4)
    assert demo.state["revision"] == 1  # nothing is kept while it is dragged
    demo.page.mouse.up()
    demo.settled(1)
    after = demo.given["volumes"][2]
    assert after["x"] > before["x"] + 1
    assert after["x"] * 2 == round(after["x"] * 2)  # steps of half a metre
    demo.button("Undo").click()
    demo.back_at(1)
    expect(demo.button("Redo")).to_be_enabled()
    assert demo.given["volumes"][2] == before


def test_an_overlap_is_told_where_it_is_made_and_leaves_no_trace(demo: Eurythm) -> None:
    demo.open("shape", "terraces")
    demo.settled()
    demo.page.locator("summary", has_text="Objects").click()
    demo.button("Workshops").click()
    field = demo.field("volumes/shed/x")
    field.fill("30")
    field.press("Enter")
    told = demo.page.locator(".canvas").get_by_role("alert")
    expect(told).to_contain_text("“Hall” and “Workshops” share 256.0 m² of plan")
    demo.button("IP").click()
    expect(told).to_contain_text("“Hall” and “Workshops” share 2,755.6 ft² of plan")
    expect(demo.page.locator(".said")).to_have_count(0)
    assert demo.state["revision"] == 1


def test_storeys_repeat_upward_and_may_differ(demo: Eurythm) -> None:
    demo.open("shape")
    demo.settled()
    before = demo.outcome()["totals"]["gross_floor_area_m2"]
    demo.volume("Bar")
    demo.button("Repeat upward").click()
    demo.settled(1)
    volume = demo.given["volumes"][0]
    assert [s["id"] for s in volume["storeys"]] == ["s0", "s1", "s2", "s-1"]
    assert volume["storeys"][3] == {"id": "s-1", "height_m": 3.8}
    assert demo.outcome()["totals"]["gross_floor_area_m2"] == pytest.approx(before * 4 / 3)
    demo.page.locator('[name="storey-height"]').fill("4.2")
    demo.page.locator('[name="storey-height"]').press("Enter")
    demo.settled(2)
    assert {s["height_m"] for s in demo.given["volumes"][0]["storeys"]} == {4.2}


def test_assumed_heights_stay_assumed_when_storeys_are_added(empty: Eurythm) -> None:
    empty.button("Rectangle").click()
    panel = empty.page.get_by_role("group", name="Drawing")
    panel.get_by_label("Length").fill("20")
    panel.get_by_label("Depth").fill("12")
    panel.get_by_label("Depth").press("Enter")
    empty.settled(2)
    empty.page.locator('[name="storey-count"]').fill("3")
    empty.page.locator('[name="storey-count"]').press("Enter")
    empty.settled(3)
    assert [sorted(s) for s in empty.given["volumes"][0]["storeys"]] == [["id"]] * 3
    empty.button("Stack a volume on it").click()
    empty.settled(4)
    assert "zoning" not in empty.given["volumes"][1]
    assert empty.given["volumes"][1]["base_level_m"] == 10.5


def test_zones_follow_their_division(demo: Eurythm) -> None:
    demo.open("shape")
    demo.settled()
    expect(demo.page.get_by_text("15 zones").first).to_be_visible()
    demo.volume("Bar")
    demo.choose("Divide by", "one per storey")
    expect(demo.page.get_by_text("3 zones").first).to_be_visible()
    demo.choose("Divide by", "perimeter and core")
    demo.type("volumes/bar/zoning/depth_m", "6")
    inner = [z for z in demo.geometry()["zones"] if z["id"].endswith("core")]
    assert inner[0]["gross_floor_m2"] == pytest.approx((56 - 12) * (17 - 12), rel=1e-3)


def pick(demo: Eurythm, x: float, y: float, z: float) -> None:
    """Click a point of the model."""
    demo.page.mouse.click(*demo.on_canvas(x, y, z))


def test_a_face_is_clicked_and_does_its_own_thing(demo: Eurythm) -> None:
    demo.open("shape")
    demo.settled()
    pick(demo, 34, 6, 0.4)  # the foot of the south façade
    expect(demo.page.get_by_role("heading", name="South wall")).to_be_visible()
    crumbs = demo.page.get_by_role("navigation", name="Selection")
    expect(crumbs).to_contain_text("Bar")
    before = demo.eui()
    ratio = demo.page.get_by_label("Glazing ratio")
    ratio.fill("80")
    ratio.press("Enter")
    demo.settled(1)
    assert demo.eui() != before
    assert demo.given["skin"]["overrides"] == [{"id": "face-1", "face": "bar/s0/e1", "glazing_ratio": 0.8}]
    demo.choose("Beyond it", "adiabatic, a party wall")
    assert demo.given["skin"]["overrides"][0]["boundary"] == "adiabatic"
    demo.choose("Beyond it", "a stated temperature")
    demo.type("skin/overrides/face-1/boundary_c", "12")
    assert demo.given["skin"]["overrides"][0] == {
        "id": "face-1", "face": "bar/s0/e1", "glazing_ratio": 0.8, "boundary": "fixed", "boundary_c": 12,
    }  # fmt: skip
    kept = demo.revision
    demo.button("As the scheme").click()
    demo.settled(kept)
    assert demo.given["skin"].get("overrides", []) == []
    assert demo.eui() == pytest.approx(before)
    crumbs.get_by_role("button", name="let go").click()
    expect(crumbs).to_have_count(0)


def test_the_ladder_limits_what_is_shown(demo: Eurythm) -> None:
    demo.open("shape", "terraces")
    demo.settled()
    demo.button("Plan").click()
    expect(demo.page.locator('[data-zone^="hall/s0"]')).to_have_count(5)
    demo.page.get_by_role("button", name="Storey at 7.2 m").click()
    expect(demo.page.locator('[data-zone^="rooms/s0"]')).to_have_count(5)
    expect(demo.page.locator('[data-zone^="hall/"]')).to_have_count(0)
    demo.page.get_by_role("button", name="Storey at 7.2 m").press("Enter")
    expect(demo.page.locator('[data-zone^="hall/s0"]')).to_have_count(5)


def test_boundaries_are_told_by_pattern(demo: Eurythm) -> None:
    demo.open("shape", "terraces")
    demo.settled()
    demo.button("Plan").click()
    demo.page.get_by_role("combobox", name="Colour by").click()
    demo.page.get_by_role("option", name="boundary", exact=True).click()
    expect(demo.page.locator('[data-boundary="zone"]').first).to_be_attached()
    expect(demo.page.get_by_text("another zone, dotted")).to_be_visible()


PAINTED = {f.title.lower(): f for f in FIGURES if f.painted}


@pytest.mark.parametrize("question", ["zone", "use", "glazing ratio", *PAINTED])
def test_each_colouring_has_its_legend(demo: Eurythm, question: str) -> None:
    demo.open("shape")
    demo.settled()
    demo.page.get_by_role("combobox", name="Colour by").click()
    demo.page.get_by_role("option", name=question, exact=True).click()
    legend = {"zone": "Zones", "use": "Use", "glazing ratio": "Glazing ratio"} | {title: f.title for title, f in PAINTED.items()}
    expect(demo.page.locator(".canvas .overlay")).to_contain_text(legend[question])
    if question in PAINTED:
        expect(demo.page.locator(".canvas .overlay")).to_contain_text(PAINTED[question].unit)


def test_a_removed_volume_comes_back_by_undo(demo: Eurythm) -> None:
    demo.open("shape", "terraces")
    demo.settled()
    demo.page.locator("summary", has_text="Objects").click()
    demo.button("Reading rooms").click()
    demo.button("Remove").click()
    expect(demo.page.get_by_text("Volume removed. Undo brings it back.")).to_be_visible()
    assert [v["id"] for v in demo.given["volumes"]] == ["hall", "shed"]
    demo.page.keyboard.press("Control+z")
    expect(demo.button("Redo")).to_be_enabled()
    assert [v["id"] for v in demo.given["volumes"]] == ["hall", "rooms", "shed"]


def test_the_list_of_zones_is_sorted_and_leads_to_each(demo: Eurythm) -> None:
    page = demo.open("shape", "court").page
    demo.settled()
    fold = page.locator('[data-section="room-list"]')
    fold.locator("summary").click()
    rows = fold.locator("tbody tr")
    zones = demo.geometry()["zones"]
    expect(rows).to_have_count(len(zones))
    fold.get_by_role("button", name="Floor m²").click()
    fold.get_by_role("button", name="Floor m²").click()
    largest = max(zones, key=lambda z: z["gross_floor_m2"])
    expect(rows.first).to_contain_text(str(round(largest["gross_floor_m2"])))
    rows.nth(2).get_by_role("button").click()
    expect(rows.nth(2)).to_have_attribute("aria-selected", "true")
    rows.nth(4).get_by_role("button").click(modifiers=["Shift"])
    expect(page.get_by_role("heading", name="2 zones selected")).to_be_visible()
    page.get_by_role("button", name="IP", exact=True).click()
    expect(fold.get_by_role("button", name="Floor ft²")).to_be_visible()


def test_a_cut_opens_the_form_from_three_sides(demo: Eurythm) -> None:
    page = demo.open("shape", "terraces").page
    demo.settled()
    demo.button("cut").click()
    cut = page.get_by_role("group", name="Cut")
    expect(cut.get_by_role("button", name="from above")).to_have_attribute("aria-pressed", "true")

    def seen() -> int:
        """How many points of the canvas are not as light as paper."""
        page.evaluate("new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))")
        picture = Image.open(io.BytesIO(page.locator(".canvas canvas").screenshot())).convert("L")
        return sum(picture.histogram()[:120])

    cut.get_by_label("Where the cut lies").fill("1")
    whole = seen()
    cut.get_by_label("Where the cut lies").fill("0.3")
    assert seen() != whole
    for side in ("from the east", "from the south"):
        cut.get_by_role("button", name=side).click()
        expect(cut.get_by_role("button", name=side)).to_have_attribute("aria-pressed", "true")
    demo.button("cut").click()
    expect(cut).to_have_count(0)
    assert demo.state["revision"] == demo.revision
