"""By keyboard alone: every page is walked by Tab, the keyboard is seen where it is, and no edit loses it."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from eurythm.exchange.samples.ifc import write_court
from tests.e2e.pages import Eurythm, api, serious_faults

KEYS = (Path(__file__).parent / "keyboard.js").read_text()
PAGES = ("place", "shape", "skin", "use", "plant", "assumed", "study", "findings")


def walk(page: Page) -> tuple[list[str], list[str]]:
    """Tab through a page once; return what was not reached, and what does not look otherwise while the keyboard is there."""
    page.evaluate(KEYS)
    wanted = {e["id"]: e["called"] for e in page.evaluate("() => window.keys.reached()")}
    page.evaluate("() => { document.activeElement?.blur(); window.getSelection()?.removeAllRanges() }")
    reached: set[int] = set()
    unseen = []
    for _ in range(len(wanted) + 40):
        page.keyboard.press("Tab")
        here = page.evaluate("() => window.keys.here()")
        if here["left"] and not here["left"]["seen"]:
            unseen.append(here["left"]["called"])
        if here["id"] is None or here["id"] in reached:  # out of the page, or begun anew
            break
        reached.add(here["id"])
    now = {e["id"] for e in page.evaluate("() => window.keys.reached()")}
    return [called for key, called in wanted.items() if key in now and key not in reached], unseen


def at(page: Page) -> str:
    """What has the keyboard, by its name."""
    return page.evaluate(
        "() => { const e = document.activeElement; return e === document.body ? '' : e.getAttribute('aria-label') || e.name || e.textContent }"
    )


@pytest.mark.parametrize("stage", PAGES)
def test_every_page_is_walked_by_tab(demo: Eurythm, stage: str) -> None:
    demo.open(stage).settled()
    if stage == "findings":
        expect(demo.page.get_by_role("rowheader", name="Energy", exact=True)).to_be_visible()
    assert walk(demo.page) == ([], [])


@pytest.mark.parametrize("address", ["projects", "guide/shape"])
def test_the_pages_outside_projects_are_walked_by_tab(demo: Eurythm, address: str) -> None:
    demo.page.goto(f"{demo.server.url}/{address}")
    expect(demo.page.get_by_role("main")).to_be_visible()
    assert walk(demo.page) == ([], [])


def test_a_model_is_sifted_by_tab(demo: Eurythm, tmp_path: Path) -> None:
    write_court(tmp_path / "court.ifc")
    demo.open("shape").page.set_input_files('input[aria-label="Import"]', tmp_path / "court.ifc")
    expect(demo.page.locator("[data-finding]").first).to_be_attached()
    assert walk(demo.page) == ([], [])
    assert serious_faults(demo.page) == []


def test_the_walk_finds_what_is_not_reached_and_what_is_not_seen(demo: Eurythm) -> None:
    """A walk that finds nothing says nothing unless it would find something."""
    demo.open("use").settled()
    page = demo.page
    page.add_style_tag(content="nav.rail :focus-visible { outline: none !important; transition: none }")
    page.evaluate(
        "() => { const b = document.createElement('button'); b.textContent = 'Trap'; b.onkeydown = (e) => e.key === 'Tab' && e.preventDefault(); document.querySelector('.sheet').prepend(b) }"
    )
    missed, unseen = walk(page)
    assert missed
    assert unseen


def test_enter_keeps_a_value_and_the_keyboard_stays_in_its_field(demo: Eurythm) -> None:
    demo.open("skin").settled()
    page = demo.page
    for path, typed, kept in (("skin/sill_m", "1.05", "1.05"), ("skin/glazing_ratio/all", "33", "33")):
        before = demo.revision
        demo.field(path).focus()
        page.keyboard.type(typed)
        page.keyboard.press("Enter")
        demo.settled(before)
        expect(demo.field(path)).to_be_focused()
        expect(demo.field(path)).to_have_value(kept)
    revision = demo.revision
    page.keyboard.press("Control+z")  # nothing is typed here: it is the edit that goes back
    demo.back_at(revision - 1)
    expect(demo.field("skin/glazing_ratio/all")).to_be_focused()
    expect(demo.field("skin/glazing_ratio/all")).not_to_have_value("33")
    page.keyboard.type("4")
    page.keyboard.press("Control+z")  # something is: it is the box's own
    demo.settled()
    assert demo.revision == revision - 1
    expect(demo.field("skin/sill_m")).to_have_value("1.05")
    page.keyboard.press("Escape")  # what was typed is taken back
    expect(demo.field("skin/glazing_ratio/all")).to_be_focused()
    page.keyboard.press("Escape")
    expect(demo.field("skin/glazing_ratio/all")).not_to_be_focused()


def test_what_stands_is_shown_in_a_field_that_has_the_keyboard(demo: Eurythm) -> None:
    demo.open("skin").settled()
    demo.field("skin/sill_m").focus()
    api(
        demo.server,
        f"projects/{demo.project}/edits",
        {"revision": 1, "edit": {"op": "set", "path": "schemes/quay/skin/sill_m", "value": 1.2}},
    )
    expect(demo.field("skin/sill_m")).to_have_value("1.2")
    demo.page.keyboard.press("Tab")
    assert demo.state["revision"] == 2  # leaving it keeps nothing


def test_an_edit_that_takes_away_what_had_the_keyboard_leaves_it_near_by(demo: Eurythm) -> None:
    demo.open("skin").settled()
    page = demo.page
    page.locator("summary", has_text="Rules").first.click()
    for _ in range(2):
        before = demo.revision
        demo.button("Add rule").press("Enter")
        demo.settled(before)
        assert at(page) == "Add rule"
    before = demo.revision
    demo.button("Remove rule 2").press("Enter")
    demo.settled(before)
    expect(page.locator("[data-rule]")).to_have_count(1)
    assert at(page).startswith("Rule 1")
    assumed = page.locator(".field", has=demo.field("skin/head_m")).get_by_role("button", name="assumed")
    if assumed.count():
        before = demo.revision
        assumed.press("Enter")
        page.get_by_role("menuitem", name="Confirm this value").press("Enter")
        demo.settled(before)
        expect(assumed).to_have_count(0)
        expect(demo.field("skin/head_m")).to_be_focused()


def test_a_comparison_by_keyboard_alone(demo: Eurythm) -> None:
    """From the model to two columns of Findings without a pointer: find a field by name, type, pin, look."""
    demo.open("shape").settled()
    page = demo.page

    def go(words: str) -> None:
        page.keyboard.press("Control+k")
        expect(page.get_by_role("combobox", name="Find")).to_be_focused()
        page.keyboard.type(words)
        page.keyboard.press("Enter")

    go("airtightness")
    field = page.locator("input:focus[name$=infiltration_ach]")
    expect(field).to_be_visible()
    before = demo.revision
    page.keyboard.type("0.3")
    page.keyboard.press("Enter")
    demo.settled(before)
    go("duplicate the scheme")
    expect(page.get_by_role("tab", name="Quay copy")).to_have_attribute("aria-selected", "true")
    demo.scheme = "scheme-4"
    go("setpoint heating")
    before = demo.revision
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    demo.settled(before)
    go("findings")
    expect(page.get_by_role("columnheader", name="Quay copy")).to_be_visible()
    pinned = page.get_by_title("Call it something else")
    before_it = pinned.count()
    go("pin the scheme")
    expect(pinned).to_have_count(before_it + 1)


def test_a_name_of_a_pin_leaves_the_keyboard_at_it(demo: Eurythm) -> None:
    api(demo.server, f"projects/{demo.project}/pins", {"scheme": "court"})
    demo.open("findings")
    page = demo.page
    button = page.get_by_title("Call it something else").first
    button.press("Enter")
    page.keyboard.type("Courtyard, as bought")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Courtyard, as bought", exact=True)).to_be_focused()


# A page, the role and name of what is pressed there, and what is open then.
PANELS = {
    "finder": ("shape", "button", "Find anything Ctrl K", "[role=option]"),
    "help": ("skin", "button", "Help", "[role=dialog]"),
    "scheme": ("shape", "tab", "Quay reference", "[role=menu]"),
    "project": ("shape", "button", "Merrowhaven Library", "[role=menu]"),
    "construction": ("skin", "button", "Build one by layers", ".builder"),
    "use profile": ("use", "button", "Open its hours", ".builder"),
    "daylight": ("use", "button", "Show daylight", "[data-daylight]"),
    "energy flow": ("plant", "button", "See where the energy goes", "[data-flow]"),
    "array": ("plant", "button", "Another array on all roofs", "[data-array]"),
    "costs": ("plant", "button", "Parts and cost table", "table"),
    "report": ("findings", "button", "Report", "[role=dialog]"),
    "rows": ("findings", "button", "Rows", "[role=menu]"),
    "export": ("shape", "button", "Export", "[role=menu]"),
    "columns": ("study", "button", "columns", "[role=menu]"),
    "case": ("study", "button", "More of case 0", "[role=menu]"),
    "axes": ("study", "button", "Parallel axes", "[aria-pressed=true]:text-is('Parallel axes')"),
    "pairs": ("study", "button", "Pairs", "[aria-pressed=true]:text-is('Pairs')"),
    "spread": ("study", "button", "Spread", "[aria-pressed=true]:text-is('Spread')"),
}


def finish_study(demo: Eurythm) -> None:
    """Have a study of four cases done."""
    levers = [{"kind": "field", "path": f"skin/glazing_ratio/{side}", "steps": [0.2, 0.4]} for side in ("south", "north")]
    study = {"name": "Glass", "kind": "every", "scheme": "quay", "levers": levers}
    asked = api(demo.server, f"projects/{demo.project}/studies", {"revision": demo.state["revision"], "study": study})
    while api(demo.server, f"projects/{demo.project}/studies/{asked['id']}")["status"] != "done":
        demo.page.wait_for_timeout(100)


def press(demo: Eurythm, what: str) -> tuple[Locator, Locator]:
    """Open a panel, dialog or menu by key; return what was pressed and what is open."""
    stage, role, name, then = PANELS[what]
    if stage == "study":
        finish_study(demo)
    demo.open(stage).settled()
    pressed = demo.page.get_by_role(role, name=name, exact=True)
    pressed.press("Enter")
    opened = demo.page.locator(then)
    expect(opened.first).to_be_visible()
    return pressed, opened


@pytest.mark.parametrize("what", PANELS)
def test_axe_finds_nothing_serious_in_what_is_opened_by_key(demo: Eurythm, what: str) -> None:
    press(demo, what)
    demo.page.wait_for_timeout(300)  # what opens fades in, and what is half seen has too little contrast
    assert serious_faults(demo.page) == []


@pytest.mark.parametrize("what", ["finder", "help", "scheme", "project", "report", "rows", "export", "columns", "case"])
def test_escape_closes_what_was_opened_and_the_keyboard_is_back(demo: Eurythm, what: str) -> None:
    pressed, opened = press(demo, what)
    demo.page.keyboard.press("Escape")
    expect(opened).to_have_count(0)
    expect(pressed).to_be_focused()
