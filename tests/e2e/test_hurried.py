"""A hurried user: typing as fast as the browser goes, two windows at once, dragging again and again."""

from __future__ import annotations

import pytest
from playwright.sync_api import Browser, Page, Route, expect

from tests.e2e.conftest import Server
from tests.e2e.pages import Eurythm, api, new_demo, unfold

pytestmark = pytest.mark.alone


@pytest.fixture
def demo(bare: Eurythm) -> Eurythm:
    """None of this hangs on lights and plant."""
    return bare


def own_wall(demo: Eurythm) -> None:
    """Open a copy of the wall in the builder."""
    demo.open("skin")
    demo.settled()
    demo.page.locator('[data-element="wall"]').get_by_role("button", name="layers").click()
    demo.button("Copy into the project to change it").click()
    demo.settled(1)
    expect(demo.page.get_by_label("Layer 1, thickness")).to_be_visible()


def kept_layers(demo: Eurythm) -> list[dict]:
    (own,) = (c for c in demo.state["given"]["library"]["constructions"] if c["id"] == demo.given["skin"]["wall"])
    return own["layers"]


@pytest.mark.parametrize("delay", [0, 60])
def test_no_value_typed_into_the_layers_is_lost(demo: Eurythm, delay: float) -> None:
    """Typed and tabbed through four rows without a pause: everything that was typed is kept."""
    own_wall(demo)
    keyboard = demo.page.keyboard
    typed = [(i, "31", "0.77", "1650", "990") for i in (1, 2, 3, 4)]
    before = kept_layers(demo)
    for i, *values in typed:
        demo.page.get_by_label(f"Layer {i}, thickness").focus()
        for value in values:
            keyboard.press("Control+a")
            keyboard.type(value, delay=delay)
            keyboard.press("Tab")
    expect(demo.page.get_by_label("Layer 4, specific heat")).to_have_value("990")
    demo.settled(2 + 4 * len(typed) - 1)
    layers = kept_layers(demo)
    assert len(layers) == len(before) == 4
    for layer in layers:
        assert (layer["thickness_m"], layer["conductivity"], layer["density"], layer["specific_heat"]) == (0.031, 0.77, 1650, 990)


def test_a_result_is_not_called_current_while_an_edit_is_on_its_way(demo: Eurythm) -> None:
    own_wall(demo)
    held: list[Route] = []
    demo.page.route("**/edits", lambda route: held.append(route))
    demo.page.get_by_label("Layer 1, thickness").fill("31")
    demo.page.keyboard.press("Tab")
    expect(demo.page.locator(".state")).to_contain_text("working")
    expect(demo.page.locator(".state")).to_have_attribute("data-settled", "false")
    held[0].continue_()
    demo.settled(2)
    assert kept_layers(demo)[0]["thickness_m"] == 0.031


def test_an_answer_that_set_out_before_an_edit_does_not_undo_it_on_the_page(demo: Eurythm) -> None:
    """The project is read again because another window changed it; what that reading found comes after an edit's own answer."""
    demo.open("skin")
    demo.settled()
    held: list[Route] = []

    def hold(route: Route) -> None:
        if route.request.method == "GET":
            held.append(route)
        else:
            route.continue_()

    old = demo.page.request.get(f"{demo.server.url}/api/projects/{demo.project}").body()
    demo.page.route(f"**/api/projects/{demo.project}", hold)
    demo.page.route("**/revision", lambda route: route.abort())
    demo.page.evaluate("p => new BroadcastChannel('eurythm-revisions').postMessage({ project: p, revision: 99 })", demo.project)
    for _ in range(100):
        if held:
            break
        demo.page.wait_for_timeout(50)
    demo.type("skin/sill_m", "1.05")
    held[0].fulfill(body=old, content_type="application/json")
    demo.page.wait_for_timeout(1000)
    expect(demo.field("skin/sill_m")).to_have_value("1.05", timeout=100)
    demo.settled(1)


def test_no_rule_is_lost_that_is_made_while_another_is_on_its_way(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    demo.page.locator("summary", has_text="Rules").click()
    for _ in range(3):
        demo.button("Add rule").click(no_wait_after=True)
    demo.settled(3)
    assert len(demo.given["skin"]["rules"]) == 3


@pytest.fixture
def two(shared: Server, browser: Browser):
    """One project in two windows that share nothing but the server."""
    project = new_demo(shared)
    contexts = [browser.new_context(viewport={"width": 1280, "height": 800}) for _ in range(2)]
    for context in contexts:
        context.set_default_timeout(90_000)
    windows = [Eurythm(context.new_page(), shared, project) for context in contexts]
    for window in windows:
        window.open("skin")
        window.settled()
    yield windows
    for context in contexts:
        context.close()


def deaf(page: Page) -> None:
    """Keep a window from learning of others by itself."""

    def refuse(route: Route) -> None:
        route.abort()

    page.route("**/revision", refuse)


def test_the_other_window_learns_of_a_change_by_itself(two: list[Eurythm]) -> None:
    here, there = two
    here.type("skin/sill_m", "1.05")
    expect(there.field("skin/sill_m")).to_have_value("1.05", timeout=30_000)
    there.settled(1)
    there.type("skin/sill_m", "0.8")
    expect(here.field("skin/sill_m")).to_have_value("0.8", timeout=30_000)
    here.button("Undo").click()
    expect(there.field("skin/sill_m")).to_have_value("1.05", timeout=30_000)


def test_an_edit_that_nobody_else_touched_is_made_again_on_what_stands(two: list[Eurythm]) -> None:
    here, there = two
    deaf(there.page)
    here.type("skin/sill_m", "1.05")
    there.type("skin/head_m", "2.6")
    assert (there.given["skin"]["sill_m"], there.given["skin"]["head_m"]) == (1.05, 2.6)
    expect(there.field("skin/sill_m")).to_have_value("1.05")
    expect(there.page.get_by_text("another window")).to_have_count(0)


def test_where_both_touched_a_value_the_notice_names_it_and_whose_stands(two: list[Eurythm]) -> None:
    here, there = two
    deaf(there.page)
    here.type("skin/sill_m", "1.05")
    there.field("skin/sill_m").fill("0.7")
    there.field("skin/sill_m").press("Enter")
    notice = there.page.get_by_text("another window")
    expect(notice).to_contain_text("“Sill above floor”")
    expect(notice).to_contain_text("1.05 m stands, 0.7 m was not kept")
    expect(there.field("skin/sill_m")).to_have_value("1.05")
    assert there.given["skin"]["sill_m"] == 1.05


def test_two_windows_at_one_construction_keep_both_changes(two: list[Eurythm]) -> None:
    """Different cells of one layer table: each window's value is kept, though the table is sent as a whole."""
    here, there = two
    own_wall(here)
    deaf(there.page)
    there.page.reload()
    there.settled(1)
    there.page.locator('[data-element="wall"]').get_by_role("button", name="layers").click()
    for window, label, value in ((here, "Layer 2, thickness", "250"), (there, "Layer 3, density", "1500")):
        cell = window.page.get_by_label(label)
        cell.fill(value)
        cell.press("Enter")
        window.settled(2)
    there.settled(3)
    layers = kept_layers(there)
    assert (layers[1]["thickness_m"], layers[2]["density"]) == (0.25, 1500)


def test_the_readout_after_each_of_many_drags(demo: Eurythm) -> None:
    """Ten drags of the overhang's slider: it never stays at "trying", and never shows what stood before the drag again."""
    demo.open("skin")
    demo.settled()
    page = demo.page
    unfold(demo.field("skin/overhang_depth_m/south"))
    slider = page.get_by_role("slider", name="Overhang south, slider")
    slider.scroll_into_view_if_needed()

    def exact() -> str:
        """The year's energy with all its digits: depths that differ may come to the same one decimal."""
        return page.locator('[data-figure="eui"]').get_attribute("data-exact") or ""

    for k in range(10):
        before = exact()
        revision = demo.revision
        box = demo.still(slider)
        y = box["y"] + box["height"] / 2
        start = box["x"] + box["width"] * (0.2 if k % 2 else 0.75)
        page.mouse.move(start, y)
        page.mouse.down()
        for step in range(8):
            page.mouse.move(start + (14 if k % 2 else -14) * step, y)
        page.wait_for_function("b => document.querySelector('[data-figure=\"eui\"]')?.dataset.exact !== b", arg=before)
        page.evaluate(
            """() => {
              window.seen = [];
              const figure = () => document.querySelector('[data-figure="eui"]')?.dataset.exact;
              window.watch = new MutationObserver(() => window.seen.push(figure()));
              window.watch.observe(document.querySelector('.readout'), { subtree: true, childList: true, characterData: true, attributes: true });
            }"""
        )
        page.mouse.up()
        demo.settled(revision)
        seen = page.evaluate("() => { window.watch.disconnect(); return window.seen }")
        after = exact()
        assert before == after or before not in seen, (k, before, seen)
        expect(page.locator(".state")).to_contain_text("current")
    assert demo.state["revision"] == 11


def test_what_is_shown_after_a_drag_is_what_is_kept(demo: Eurythm) -> None:
    demo.open("skin")
    demo.settled()
    unfold(demo.field("skin/glazing_ratio/south"))
    slider = demo.page.get_by_role("slider", name="Ratio south, slider")
    slider.focus()
    for _ in range(5):
        slider.press("ArrowRight")
    demo.settled(1)
    kept = demo.given["skin"]["glazing_ratio"]["south"]
    expect(demo.field("skin/glazing_ratio/south")).to_have_value(str(round(kept * 100)))
    assert demo.eui() == pytest.approx(demo.outcome()["totals"]["eui_kwh_per_m2"], abs=0.05)
    assert api(demo.server, f"projects/{demo.project}/revision")["revision"] == demo.state["revision"]


def test_a_lever_asked_for_before_levers_are_known_is_not_lost(demo: Eurythm) -> None:
    asked: list[Route] = []
    demo.page.route("**/levers", lambda route: asked.append(route))  # kept waiting
    demo.open("skin")
    demo.settled()
    unfold(demo.field("skin/overhang_depth_m/south"))
    row = demo.page.locator(".field", has=demo.field("skin/overhang_depth_m/south"))
    row.hover()
    row.get_by_role("button", name="± vary").click()
    for route in asked:
        route.continue_()
    demo.page.unroute("**/levers")
    expect(demo.page.get_by_text("Overhang south is a lever of the study now.")).to_be_visible()
