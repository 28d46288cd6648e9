"""Fewer steps: the ladder as working level, fields found by name and headed by what they act on, first steps, cards, the guide."""

from __future__ import annotations

import io
import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from eurythm.exchange.samples import dxf
from tests.conftest import volume
from tests.e2e.conftest import Server
from tests.e2e.pages import Eurythm, api
from tests.e2e.screenshots import keep, seen_to_differ


@pytest.fixture
def empty(shared: Server, page: Page) -> Eurythm:
    """A project in which there is nothing yet, at Shape."""
    made = api(shared, "projects", {"name": "Boxes"})
    return Eurythm(page, shared, made["id"], "scheme-1").open("shape")


def tower(demo: Eurythm, storeys: int) -> None:
    """A tower instead of all volumes."""
    made = volume() | {"storeys": [{"id": f"s{k}", "height_m": 4.5 if k == 0 else 3} for k in range(storeys)]}
    edit = {"op": "set", "path": f"schemes/{demo.scheme}/volumes", "value": [made]}
    api(demo.server, f"projects/{demo.project}/edits", {"revision": demo.state["revision"], "edit": edit})


def draw(demo: Eurythm, form: str, **typed: str) -> None:
    demo.page.locator(".canvas-tools").get_by_role("button", name="Add volume").click()
    demo.page.get_by_role("menuitem", name=form, exact=True).click()
    bar = demo.page.get_by_role("group", name="Drawing")
    for label, text in typed.items():
        bar.get_by_label(label).fill(text)
    if "Level" in typed:
        bar.get_by_label("Level").press("Enter")
    bar.get_by_label("Length").press("Enter")


def placed(demo: Eurythm) -> list[tuple[float, float, float]]:
    return [(v["x"], v["y"], v.get("base_level_m", 0)) for v in demo.given["volumes"]]


def test_typed_volumes_stand_clear_of_others_and_on_the_storey_worked_on(empty: Eurythm) -> None:
    draw(empty, "Rectangle", Length="20", Depth="10")
    expect(empty.page.get_by_role("heading", name="Volume 1")).to_be_visible()
    draw(empty, "Rectangle", Length="8", Depth="6")
    expect(empty.page.get_by_role("heading", name="Volume 2")).to_be_visible()
    draw(empty, "Rectangle", Length="8", Depth="6", East="2", North="1.5", Level="3.5")
    expect(empty.page.get_by_role("heading", name="Volume 3")).to_be_visible()
    empty.button("+ storey above").click()
    draw(empty, "L", Length="5", Depth="5")
    expect(empty.page.get_by_role("heading", name="Volume 4")).to_be_visible()
    assert placed(empty) == [(0, 0, 0), (25, 0, 0), (2, 1.5, 3.5), (2, 1.5, 7)]
    expect(empty.page.get_by_role("button", name="storey at 7.0 m")).to_have_attribute("aria-pressed", "true")
    expect(empty.page.locator('[data-zone^="volume-4/"]')).to_be_visible()  # the plan shows where it landed


def test_a_stacked_volume_is_seen_in_plan(empty: Eurythm) -> None:
    draw(empty, "Rectangle", Length="20", Depth="10")
    empty.button("Stack a volume on it").click()
    expect(empty.page.locator('[data-zone^="volume-2/"]')).to_be_visible()
    empty.page.get_by_role("button", name="storey at 0.0 m").click()
    expect(empty.page.locator('[data-zone^="volume-2/"]')).to_have_count(0)
    expect(empty.page.locator('[data-over^="volume-2/"]')).to_be_attached()  # selected, above the storey that is shown


def test_a_second_plan_becomes_the_storey_above(empty: Eurythm, tmp_path: Path) -> None:
    dxf.write_court(tmp_path / "ground.dxf", "m")
    dxf.write_court(tmp_path / "first.dxf", "m", origin_m=(0.5, 0.5))
    page = empty.page
    page.set_input_files('input[aria-label="Lay a plan under"]', tmp_path / "ground.dxf")
    empty.button("Take its closed outlines as rooms").click()
    expect(page.get_by_text("rooms were taken as storey 0")).to_be_visible()
    count = len(empty.given["zones"])
    assert count > 1
    empty.button("+ storey above").click()
    page.set_input_files('input[aria-label="Lay a plan under"]', tmp_path / "first.dxf")
    expect(empty.button("Take its closed outlines as rooms")).to_have_count(2)
    empty.button("Take its closed outlines as rooms").last.click()
    expect(page.get_by_text("rooms were taken as storey 1")).to_be_visible()
    rooms = empty.given["zones"]
    assert sorted({r["outline"]["z"] for r in rooms}) == [0, 3]
    assert len(rooms) == 2 * count
    assert all(r["number"].startswith("1.") for r in rooms if r["outline"]["z"] == 3)
    expect(page.get_by_role("button", name="storey at 3.0 m")).to_have_attribute("aria-pressed", "true")
    expect(page.locator("[data-zone]")).to_have_count(count)  # of this storey; those below only as outlines
    page.get_by_role("button", name="storey at 0.0 m").click()
    expect(page.locator("[data-zone]")).to_have_count(count)


def test_a_plan_that_is_given_a_level_opens_that_storey(empty: Eurythm, tmp_path: Path) -> None:
    dxf.write_court(tmp_path / "ground.dxf", "m")
    empty.page.set_input_files('input[aria-label="Lay a plan under"]', tmp_path / "ground.dxf")
    expect(empty.page.locator("[data-underlay] path").first).to_be_attached()
    level = empty.page.locator('[name$="/level_m"]')
    level.fill("6")
    level.press("Enter")
    expect(empty.page.get_by_role("button", name="storey at 6.0 m")).to_have_attribute("aria-pressed", "true")
    expect(empty.page.locator("[data-underlay] path").first).to_be_attached()


def test_a_tower_folds_its_like_storeys_and_opens_to_all_of_them(demo: Eurythm) -> None:
    tower(demo, 20)
    demo.open("shape")
    rungs = demo.page.get_by_role("button", name=re.compile(r"storey at"))
    expect(rungs).to_have_count(1)  # the ground floor, which is higher
    demo.page.get_by_role("button", name="1 – 19").click()
    expect(rungs).to_have_count(20)
    rungs.first.click()
    expect(demo.page.get_by_role("heading", name=re.compile("^Storey 19"))).to_be_visible()
    demo.page.get_by_role("button", name="fold the storeys").click()
    expect(rungs).to_have_count(1)
    ticks = demo.page.get_by_role("checkbox", name="Draw the storey")
    for tick in (ticks.first, ticks.last):
        expect(tick).to_have_attribute("aria-checked", "true")
    top, low = (tick.bounding_box() for tick in (ticks.first, ticks.last))
    assert top is not None
    assert low is not None
    demo.page.mouse.move(top["x"] + 9, top["y"] + 9)
    demo.page.mouse.down()
    demo.page.mouse.move(low["x"] + 9, low["y"] + 9, steps=4)
    demo.page.mouse.up()
    for tick in (ticks.first, ticks.last):
        expect(tick).to_have_attribute("aria-checked", "false")
    expect(demo.button("show all")).to_be_visible()


def test_sheets_say_what_they_act_on(demo: Eurythm) -> None:
    demo.open("shape").settled()
    sheet = demo.page.get_by_label("Sheet", exact=True)
    expect(sheet.get_by_role("heading", name="Whole scheme Quay")).to_be_visible()
    expect(sheet.get_by_label("Base level")).to_have_count(0)  # of no volume, while none is selected
    demo.volume("Bar")
    expect(sheet.get_by_role("heading", name="Bar", exact=True)).to_be_visible()
    expect(sheet.get_by_label("Base level")).to_be_visible()
    demo.open("plant").settled()
    expect(sheet.get_by_role("heading", name="Whole project all schemes")).to_be_visible()


def test_one_field_sets_all_sides(demo: Eurythm) -> None:
    demo.open("skin", "court").settled()
    before = demo.revision
    ratio = demo.field("skin/glazing_ratio/all")
    ratio.fill("35")
    ratio.press("Enter")
    demo.settled(before)
    assert demo.given["skin"]["glazing_ratio"] == dict.fromkeys(("north", "east", "south", "west"), 0.35)
    demo.type("skin/glazing_ratio/south", "60")
    expect(ratio).to_have_value("")
    expect(ratio).to_have_attribute("placeholder", "various")
    ratio.fill("120")
    ratio.press("Enter")
    expect(demo.page.get_by_text("Allowed: 0 to 95 %.")).to_be_visible()
    assert demo.given["skin"]["glazing_ratio"]["south"] == 0.6


def test_what_an_edit_changed_is_marked_for_a_moment(bare: Eurythm) -> None:
    bare.open("skin").settled()
    bare.page.wait_for_function("() => window.__view")
    bare.page.evaluate(
        """() => {
          window.marked = 0;
          const canvas = document.querySelector('.canvas');
          new MutationObserver(() => { window.marked = Math.max(window.marked, Number(canvas.dataset.changed ?? 0)) })
            .observe(canvas, { attributes: true });
        }"""
    )
    south = [f for f in bare.geometry()["faces"] if f["kind"] == "wall" and f["skin_side"] == "south" and f["boundary"] == "outdoors"]
    bare.type("skin/glazing_ratio/south", "61")
    bare.page.wait_for_function("n => window.marked === n", arg=len(south))
    expect(bare.page.locator(".canvas[data-changed]")).to_have_count(0)


@pytest.mark.parametrize(
    ("words", "title", "path"),
    [
        ("airtightness", "Infiltration", "use/infiltration_ach"),
        ("skylight", "Rooflights", "skin/rooflight_ratio"),
        ("thermostat", "Heating setpoint", "use/heating_c"),
        ("sun protection", "Overhang south", "skin/overhang_depth_m/south"),
        ("ground level", "Ground level", "place/ground_level_m"),
        ("overheating", "Too warm above", "factors/too_warm_c"),
    ],
)
def test_a_field_is_found_by_the_words_of_the_trade(bare: Eurythm, words: str, title: str, path: str) -> None:
    bare.open("shape").settled()
    bare.page.keyboard.press("Control+k")
    bare.page.get_by_role("combobox", name="Find anything").fill(words)
    bare.page.get_by_role("option").filter(has_text="field in").filter(has=bare.page.get_by_text(title, exact=True)).click()
    expect(bare.field(path)).to_be_focused()
    expect(bare.field(path)).to_be_in_viewport()


def test_rooms_constructions_studies_schemes_and_the_guide_are_found(demo: Eurythm) -> None:
    demo.open("place").settled()
    page = demo.page

    def find(words: str) -> None:
        page.keyboard.press("Control+k")
        page.get_by_role("combobox", name="Find anything").fill(words)
        page.keyboard.press("Enter")

    find("bar, storey 1, core")
    expect(page.get_by_role("heading", name="Bar, Storey 1, core")).to_be_visible()
    find("timber studs, 240")
    expect(page.locator("[data-u]").first).to_be_visible()
    find("copy")  # the trade's word for duplicating
    expect(page.get_by_role("tab", name="Quay copy")).to_have_attribute("aria-selected", "true")
    page.keyboard.press("Control+k")
    search = page.get_by_role("combobox", name="Find anything")
    search.fill("tracing")
    with page.expect_popup() as popup:
        page.get_by_role("option", name="Tracing a plan").click()
    expect(popup.value.get_by_role("heading", name="Tracing a plan")).to_be_visible()
    expect(popup.value.locator("article img")).to_be_visible()
    popup.value.get_by_label("Find in the guide").fill("skylight")
    expect(popup.value.get_by_role("link", name="Skin", exact=True)).to_be_visible()
    expect(popup.value.get_by_role("link", name="Beyond this computer")).to_have_count(0)


def test_arrow_keys_choose_among_what_was_found(bare: Eurythm) -> None:
    bare.open("shape").settled()
    bare.page.keyboard.press("Control+k")
    search = bare.page.get_by_role("combobox", name="Find anything")
    search.fill("go to")
    search.press("ArrowDown")
    search.press("ArrowDown")
    name = bare.page.get_by_role("option").nth(2).locator("span").first.inner_text()
    expect(bare.page.get_by_role("option").nth(2)).to_have_attribute("aria-selected", "true")
    search.press("Enter")
    bare.page.wait_for_url(re.compile(f"/{name.lower()}/"))


def test_first_steps_lead_to_a_first_comparison_and_can_be_put_away(empty: Eurythm) -> None:
    steps = empty.page.get_by_label("First steps")
    expect(steps.locator("[aria-current=step]")).to_contain_text("Choose a climate")
    draw(empty, "Rectangle", Length="20", Depth="10")
    expect(steps.locator("[data-done]")).to_have_count(1)
    steps.get_by_role("link", name="Choose a climate").click()
    empty.page.get_by_role("button", name="Merrowhaven").click()
    expect(steps.locator("[data-done]")).to_have_count(3)  # the year can be read
    steps.get_by_role("button", name="put away").click()
    expect(steps).to_have_count(0)
    empty.open("skin")
    expect(empty.page.get_by_role("heading", name="Whole scheme")).to_be_visible()
    expect(steps).to_have_count(0)


def test_help_says_what_the_page_is_for(bare: Eurythm) -> None:
    bare.open("study")
    bare.button("Help").click()
    dialog = bare.page.get_by_role("dialog", name="Help")
    expect(dialog).to_contain_text("Choose the kind of question at the left.")
    expect(dialog.get_by_role("link", name="More of this in the guide")).to_have_attribute("href", "/guide/study")


def test_projects_stand_as_cards(demo: Eurythm) -> None:
    demo.open("shape").settled()
    page = demo.page
    page.goto(f"{demo.server.url}/projects")
    card = page.locator(f'[data-project="{demo.project}"]')
    expect(card).to_contain_text("3 schemes: Quay, Court, Terraces")
    expect(card).to_contain_text("Merrowhaven")
    told = f"{demo.outcome()['totals']['eui_kwh_per_m2']:.1f} kWh/m²"
    expect(card.locator(".headline")).to_contain_text(told)
    expect(card.locator(".form svg path").first).to_be_attached()
    card.get_by_role("link", name="Merrowhaven Library", exact=True).click()
    expect(page.get_by_role("tab", name="Quay")).to_be_visible()


@pytest.mark.parametrize(
    ("question", "entry"),
    [
        ("U-value", "W/m²K"),
        ("system", "the scheme's system"),
        ("lights after daylight", "dimmed"),
        ("daylight factor", "%"),
        ("use", "Library"),
    ],
)
def test_the_model_is_coloured_by_more_questions(demo: Eurythm, question: str, entry: str) -> None:
    demo.open("use").settled()
    demo.page.get_by_role("combobox", name="Colour by").click()
    demo.page.get_by_role("option", name=question, exact=True).click()
    expect(demo.page.locator("[data-legend]")).to_contain_text(entry)


def test_the_panels_of_a_study_fold_where_the_window_is_narrow(demo: Eurythm) -> None:
    demo.page.set_viewport_size({"width": 1024, "height": 800})
    demo.open("study")
    matters = demo.page.get_by_role("button", name="What matters", exact=True)
    expect(matters).to_have_attribute("aria-expanded", "false")
    matters.click()
    expect(demo.button("Fold: What matters")).to_be_visible()
    demo.page.set_viewport_size({"width": 1280, "height": 800})
    expect(demo.button("Fold: Question")).to_be_visible()


def test_a_picture_is_written_only_where_it_looks_otherwise(tmp_path: Path) -> None:
    def png(of: np.ndarray) -> bytes:
        out = io.BytesIO()
        Image.fromarray(of.astype(np.uint8)).save(out, "PNG")
        return out.getvalue()

    before = np.full((100, 100, 3), 200)
    smoothed, moved = before.copy(), before.copy()
    smoothed[:40] += 6
    moved[10:20, 10:20] = 0
    file = tmp_path / "shape.png"
    keep(png(before), file)
    written = file.stat().st_mtime_ns
    keep(png(smoothed), file)
    assert file.stat().st_mtime_ns == written
    assert seen_to_differ(file, png(moved))
    assert seen_to_differ(file, png(before[:50]))


LED_TO = """() => {
  const e = document.activeElement;
  const box = e.getBoundingClientRect();
  return e.matches('main *') && box.width > 0 && box.top >= 0 && box.bottom <= innerHeight;
}"""


@pytest.mark.parametrize("stage", ["place", "shape", "skin", "use", "plant"])
def test_every_field_is_found_by_its_name_and_led_to(demo: Eurythm, stage: str) -> None:
    page = demo.open(stage).page
    demo.settled()
    search, options = page.get_by_role("combobox", name="Find anything"), page.get_by_role("option")
    page.keyboard.press("Control+k")
    search.fill(f"field in {stage}")
    names = [line.inner_text().split("\n")[0] for line in options.filter(has_text=f"field in {stage}").all()]
    assert len(names) > 2
    page.keyboard.press("Escape")
    for name in names:
        page.evaluate("() => document.activeElement.blur()")
        page.keyboard.press("Control+k")
        search.fill(name)
        options.filter(has_text=re.compile(f"^{re.escape(name)}field in {stage}$")).first.click()
        page.wait_for_function(LED_TO)  # to the field, or to what decides whether it counts


def test_a_selection_lists_what_it_holds(demo: Eurythm) -> None:
    page = demo.open("shape").page
    demo.settled()
    page.get_by_text("List of zones").click()
    rooms = page.locator('[data-section="room-list"] tbody button')
    name = rooms.first.inner_text()
    for k in range(3):
        rooms.nth(k).click(modifiers=["Shift"] if k else [])
    page.locator("summary", has_text="What is selected").click()
    held = page.locator('[data-section="selected"]')
    expect(held).to_contain_text(name)
    expect(held.locator("> div")).to_have_count(3)
    held.get_by_role("button", name=re.compile("out of the selection")).last.click()
    expect(held.locator("> div")).to_have_count(2)
    held.locator("button.named").first.click()
    expect(held).to_have_count(0)


def test_one_legend_tells_the_colours(demo: Eurythm) -> None:
    page = demo.open("use").page
    demo.settled()
    page.get_by_role("combobox", name="Colour by").click()
    page.get_by_role("option", name="use", exact=True).click()
    expect(page.locator("[data-legend]")).to_be_visible()
    demo.button("Show daylight").click()
    expect(page.locator("[data-sun-scale]")).to_be_visible()
    expect(page.locator("[data-legend]")).to_have_count(0)
