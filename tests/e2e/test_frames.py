"""An edit draws and asks for no more than it must."""

from __future__ import annotations

import urllib.request

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.pages import Eurythm, new_demo
from tests.e2e.watch import Cost, Watch

pytestmark = pytest.mark.alone


def test_a_setpoint_and_an_insulation_draw_no_frame_and_a_ratio_one_with_its_mark_and_one_without(shared: Server, page: Page) -> None:
    watch = Watch(page)
    demo = Eurythm(page, shared, new_demo(shared))

    def cost_of(stage: str, path: str, value: str) -> Cost:
        demo.open(stage).settled()
        demo.field(path).scroll_into_view_if_needed()
        page.wait_for_timeout(1500)  # levers, register and pictures come when the result is there
        watch.begin()
        demo.type(path, value)
        expect(page.locator(".canvas[data-changed]")).to_have_count(0)
        return watch.end()

    for stage, path, value in (("use", "use/heating_c", "19"), ("skin", "skin/roof_insulation_m", "310")):
        cost = cost_of(stage, path, value)
        assert cost.frames == 0
        assert [r.partition(" ")[0] for r in cost.requests].count("POST") == 1
        assert not [r for r in cost.requests if "geometry" in r]
    cost = cost_of("skin", "skin/glazing_ratio/south", "41")
    assert cost.frames == 2  # what the edit changed is marked in the first, and no longer in the second
    asked = [r.rpartition("/")[2].partition("?")[0] for r in cost.requests]
    assert len(asked) == len(set(asked)) <= 5, asked
    assert cost.renders < 1600


def test_a_first_page_asks_for_everything_once_and_keeps_what_lasts(shared: Server, page: Page) -> None:
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url.removeprefix(shared.url)))
    demo = Eurythm(page, shared, new_demo(shared))
    demo.open("use").settled()
    page.wait_for_timeout(1500)
    from_api = [path for path in asked if path.startswith("/api/") and not path.endswith("/revision")]
    assert len(from_api) == len(set(from_api)), from_api
    assert not [path for path in asked if "echarts" in path or "Study" in path]  # what is not shown is not loaded
    script = next(path for path in asked if path.startswith("/assets/") and path.endswith(".js"))
    with urllib.request.urlopen(shared.url + script, timeout=20) as answer:
        assert "immutable" in answer.headers["Cache-Control"]
