"""Tracing a plan: rooms and windows over a DXF, corners dragged, a storey repeated."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from eurythm.exchange.samples import dxf
from eurythm.exchange.samples.court import CELLS
from tests.e2e.conftest import Server
from tests.e2e.pages import Eurythm, api


@pytest.fixture
def traced(shared: Server, page: Page, tmp_path: Path) -> Eurythm:
    """A new project with weather and the court's plan under it, far off its origin and in millimetres."""
    project = api(shared, "projects", {"name": "Traced"})
    edit = {"op": "set", "path": "place/climate", "value": {"kind": "stand-in", "id": "merrowhaven"}}
    api(shared, f"projects/{project['id']}/edits", {"revision": 1, "edit": edit})
    dxf.write_court(tmp_path / "court.dxf", "mm", origin_m=(350_000.0, 5_600_000.0))
    ours = Eurythm(page, shared, project["id"], "scheme-1").open("shape")
    page.set_input_files('input[aria-label="Lay a plan under"]', tmp_path / "court.dxf")
    expect(page.locator("[data-underlay] path").first).to_be_attached()
    return ours


def corner(ours: Eurythm) -> tuple[float, float]:
    """Where the court's own origin lies in the plan, m: it was moved near the origin as a whole."""
    drawing = ours.given["underlays"][0]["drawing"]
    bounds = api(ours.server, f"projects/{ours.project}/drawings/{drawing}")["bounds"]
    return bounds[0] / 1000, bounds[1] / 1000


def at(ours: Eurythm, x: float, y: float) -> tuple[float, float]:
    """Where a point of the plan lies on the page."""
    svg = ours.page.locator('svg[aria-label="Plan"]')
    box = ours.still(svg)
    left, top, wide, _ = (float(v) for v in (svg.get_attribute("viewBox") or "").split())
    scale = box["width"] / wide
    return box["x"] + (x - left) * scale, box["y"] + (-y - top) * scale


def click(ours: Eurythm, x: float, y: float) -> None:
    ours.page.mouse.move(*at(ours, x, y))
    ours.page.mouse.click(*at(ours, x, y))


def trace(ours: Eurythm, number: int, ox: float, oy: float) -> None:
    """Trace a room of the plan, a few pixels off its corners."""
    c = CELLS[number]
    for x, y in ((c.x0, c.y0), (c.x1, c.y0), (c.x1, c.y1), (c.x0, c.y1)):
        click(ours, ox + x + 0.05, oy + y - 0.05)
    with ours.page.expect_response(lambda r: r.url.endswith("/edits")):
        ours.button("Close outline").click()


def test_four_rooms_and_a_window_are_traced_and_repeated(traced: Eurythm) -> None:
    ox, oy = corner(traced)
    traced.button("room").click()
    for number in (0, 1, 2, 14):
        trace(traced, number, ox, oy)
    rooms = {z["number"]: z for z in traced.given["zones"]}
    assert list(rooms) == ["0.01", "0.02", "0.03", "0.04"]
    for room, number in zip(rooms.values(), (0, 1, 2, 14), strict=True):
        cell = CELLS[number]
        xs = [p["x"] - ox for p in room["outline"]["points"]]
        ys = [p["y"] - oy for p in room["outline"]["points"]]
        assert (min(xs), max(xs), min(ys), max(ys)) == pytest.approx((cell.x0, cell.x1, cell.y0, cell.y1), abs=0.002)  # caught
    traced.button("window").click()
    c = CELLS[0]
    start = c.x0 + (c.x1 - c.x0) / 8 - 0.9  # the first of its four windows, as the plan shows it
    click(traced, ox + start + 0.1, oy + c.y0)
    with traced.page.expect_response(lambda r: r.url.endswith("/edits")):
        click(traced, ox + start + 1.7, oy + c.y0)
    room = traced.given["zones"][0]
    (face,) = room["faces"]
    (window,) = face["windows"]
    assert (window["x"], window["width"], window["z"], window["height"]) == pytest.approx((start - c.x0, 1.8, 0.9, 1.6), abs=0.01)
    assert (window["assumed"], room["outline"]["assumed"]) == (["z", "height"], ["height"])  # drawn were its place and width alone
    glass = {f["orientation"]: len(f["windows"]) for f in traced.geometry()["faces"] if f["windows"] and f["zone"] == "0.01"}
    assert glass["south"] == 1  # what is drawn on a side stands there alone
    assert glass["west"] > 1  # and the room's other outside wall keeps its glazing ratio
    traced.page.keyboard.press("Escape")
    with traced.page.expect_response(lambda r: r.url.endswith("/edits")):
        traced.page.get_by_role("button", name="Repeat this storey's 4 rooms upward").click()
    zones = traced.given["zones"]
    assert [z["number"] for z in zones[4:]] == ["1.01", "1.02", "1.03", "1.04"]
    assert {z["outline"]["z"] for z in zones[4:]} == {3}
    assert zones[4]["outline"]["assumed"] == ["height"]
    traced.settled()
    assert traced.outcome()["totals"]["eui_kwh_per_m2"] > 10


def test_closed_outlines_of_a_layer_become_rooms_at_once(traced: Eurythm) -> None:
    traced.page.get_by_label("Layer with room outlines").select_option("A-ROOM")
    traced.button("Take its closed outlines as rooms").click()
    expect(traced.page.locator("path[data-zone]")).to_have_count(len(CELLS))
    rooms = {z["number"]: z["name"] for z in traced.given["zones"]}
    assert rooms == {f"0.{c.key}": c.name for c in CELLS}
    assert traced.given["contact_gap_m"] == 0.5
    inner = [f for f in traced.geometry()["faces"] if f["boundary"] == "zone"]
    assert len(inner) >= 18  # walls between rooms that stand apart


def test_a_wall_that_is_dragged_takes_its_window_along(traced: Eurythm) -> None:
    ox, oy = corner(traced)
    traced.button("room").click()
    trace(traced, 0, ox, oy)
    traced.button("window").click()
    c = CELLS[0]
    click(traced, ox + 2.0, oy + c.y0)
    with traced.page.expect_response(lambda r: r.url.endswith("/edits")):
        click(traced, ox + 4.0, oy + c.y0)
    traced.page.keyboard.press("Escape")
    click(traced, ox + 6.0, oy + 6.0)
    side = traced.page.locator('line[data-side="e1"]')
    expect(side).to_be_attached()
    traced.page.mouse.move(*at(traced, ox + 8.0, oy + c.y0))
    traced.page.mouse.down()
    with traced.page.expect_response(lambda r: r.url.endswith("/preview/geometry")):
        traced.page.mouse.move(*at(traced, ox + 8.0, oy - 1.25), steps=4)
    expect(traced.page.locator(".state")).to_contain_text("trying")  # what is tried is drawn, and does not catch the wall
    with traced.page.expect_response(lambda r: r.url.endswith("/edits")):
        traced.page.mouse.move(*at(traced, ox + 8.0, oy - 2.0), steps=4)
        traced.page.mouse.up()
    ys = [p["y"] - oy for p in traced.given["zones"][0]["outline"]["points"]]
    assert min(ys) == pytest.approx(-2.0, abs=0.01)
    (front,) = [f for f in traced.geometry()["faces"] if f["side"] == "e1" and f["windows"]]
    assert {round(p[1] - oy, 1) for w in front["windows"] for p in w} == {round(min(ys), 1)}
    traced.page.keyboard.press("Control+z")
    expect(traced.page.locator(".state")).to_be_visible()


def test_a_plan_is_scaled_by_two_points(traced: Eurythm) -> None:
    ox, oy = corner(traced)
    traced.button("Scale by two points").click()
    click(traced, ox, oy)
    click(traced, ox + 40.0, oy)
    traced.page.get_by_label("True distance").fill("20")
    traced.button("Scale the plan").click()
    expect(traced.field("underlays/plan-1/metres")).to_have_value("0.0005")


def test_a_plan_is_placed_and_turned_by_points(traced: Eurythm) -> None:
    """Two of its points go where two others are clicked; a line to the east then runs to the north."""
    ox, oy = corner(traced)
    panel = traced.page.get_by_role("group", name="Place by points")

    def place(*points: tuple[float, float]) -> None:
        traced.button("Place by points").click()
        traced.page.keyboard.down("Alt")  # free of what is near
        for x, y in points:
            expect(panel).to_contain_text("Click")
            click(traced, x, y)
        traced.page.keyboard.up("Alt")

    def kept(button: str) -> dict:
        """The plan as it is kept once the button's edit has landed."""
        revision = traced.state["revision"]
        traced.button(button).click()
        expect(panel).to_have_count(0)
        for _ in range(300):
            if traced.state["revision"] > revision:
                break
            traced.page.wait_for_timeout(100)
        return traced.given["underlays"][0]

    place((ox, oy), (ox, oy), (ox + 20.0, oy), (ox, oy + 20.0))
    before = kept("Move and turn")
    assert before["turn_deg"] == pytest.approx(-90, abs=0.5)
    place((ox, oy), (ox + 5.0, oy + 3.0))
    after = kept("Only move it")
    assert (after["x"] - before["x"], after["y"] - before["y"]) == pytest.approx((5.0, 3.0), abs=0.2)
    assert (after["turn_deg"], after.get("metres")) == (before["turn_deg"], before.get("metres"))


def test_a_file_that_is_no_plan_is_told(shared: Server, page: Page, tmp_path: Path) -> None:
    project = api(shared, "projects", {"name": "Bad plan"})
    ours = Eurythm(page, shared, project["id"], "scheme-1").open("shape")
    (tmp_path / "noise.dxf").write_bytes(b"\x00\x01 no plan")
    page.set_input_files('input[aria-label="Lay a plan under"]', tmp_path / "noise.dxf")
    expect(page.get_by_text("noise.dxf” cannot be read as DXF")).to_be_visible()
    assert "underlays" not in ours.given
