"""An edit draws and asks for no more than it must."""

from __future__ import annotations

import urllib.request

import pytest
from playwright.sync_api import Page

from tests.e2e.conftest import Server
from tests.e2e.pages import Eurythm, new_demo
from tests.e2e.watch import Watch

pytestmark = pytest.mark.alone


def test_a_setpoint_and_an_insulation_draw_no_frame_and_a_ratio_one(shared: Server, page: Page) -> None:
    watch = Watch(page)
    demo = Eurythm(page, shared, new_demo(shared))
    demo.open("use").settled()
    page.wait_for_timeout(1500)  # levers, register and pictures come when the result is there
    watch.begin()
    demo.type("use/heating_c", "19")
    cost = watch.end()
    assert cost.frames == 0
    assert [r.partition(" ")[0] for r in cost.requests].count("POST") == 1
    assert not [r for r in cost.requests if "geometry" in r]
    demo.open("skin").settled()
    page.wait_for_timeout(1500)
    watch.begin()
    demo.type("skin/glazing_ratio/south", "41")
    cost = watch.end()
    assert cost.frames == 1
    asked = [r.rpartition("/")[2].partition("?")[0] for r in cost.requests]
    assert len(asked) == len(set(asked)) <= 5, asked
    assert cost.renders < 1600
    demo.field("skin/roof_insulation_m").scroll_into_view_if_needed()
    page.wait_for_timeout(1500)
    watch.begin()
    demo.type("skin/roof_insulation_m", "0.31")
    cost = watch.end()
    assert cost.frames == 0
    assert not [r for r in cost.requests if "geometry" in r]


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
