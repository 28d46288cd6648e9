"""Beyond this computer: whoever opens the page gives the token first."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server

pytestmark = pytest.mark.alone


def test_the_token_lets_in_and_nothing_else_does(page: Page, tmp_path: Path) -> None:
    server = Server(tmp_path / "data", "serve", "--allow-host", "localhost").start()
    try:
        (token,) = [line.split()[-1] for line in server.said if line.startswith("Token for those")]
        url = server.url.replace("127.0.0.1", "localhost")
        page.goto(f"{url}/p/anything/skin")
        expect(page).to_have_url(f"{url}/enter")
        page.get_by_label("Token").fill("not it")
        page.get_by_role("button", name="Enter").click()
        expect(page.get_by_role("alert")).to_contain_text("This is not the token")
        assert page.request.get(f"{url}/api/projects").status == 401
        page.get_by_label("Token").fill(token)
        page.get_by_role("button", name="Enter").click()
        expect(page.get_by_text("From massing to a compared energy study.")).to_be_visible()
        assert page.request.get(f"{url}/api/projects").status == 200
        assert page.evaluate("() => document.cookie") == ""  # no script reads it
        server.stop()
        server.start()  # the token stays, and is not shown again
        assert not [line for line in server.said[3:] if line.startswith("Token")]
    finally:
        server.stop()
