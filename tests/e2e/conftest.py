"""A real server and a real browser."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

QUIET = ["--no-sandbox", "--disable-background-networking", "--disable-component-update", "--disable-sync", "--no-first-run"]
CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium")
expect.set_options(
    timeout=int(os.environ.get("PATIENCE_MS", "120000"))
)  # two browsers at a time on a slow machine: findings of three schemes take a minute


class Server:
    """The application as `eurythm serve` or `eurythm demo` starts it."""

    def __init__(self, data: Path, command: str = "serve", *more: str) -> None:
        self.data, self.command, self.more = data, command, more
        self.said: list[str] = []
        self.process: subprocess.Popen[str] | None = None
        self.url = ""

    def start(self) -> Server:
        arguments = [sys.executable, "-m", "eurythm.cli.main", self.command, "--port", "0", "--data", str(self.data), *self.more]
        self.process = subprocess.Popen(arguments, stdout=subprocess.PIPE, text=True, start_new_session=True)
        assert self.process.stdout is not None
        for line in self.process.stdout:
            self.said.append(line.strip())
            if line.startswith("Eurythm is ready at "):
                self.url = line.split()[-1]
                return self
        raise AssertionError("the server ended before it was ready")

    def kill(self) -> None:
        """kill -9 of the server and its workers, as a power cut would."""
        assert self.process is not None
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        if self.process is not None and self.process.poll() is None:
            self.process.send_signal(signal.SIGINT)
            try:
                self.process.wait(15)
            except subprocess.TimeoutExpired:
                self.kill()


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Server]:
    running = Server(tmp_path / "data").start()
    yield running
    running.stop()


@pytest.fixture(scope="session")
def shared(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """One server for all tests that do not stop it; each opens a project of its own."""
    running = Server(tmp_path_factory.mktemp("shared")).start()
    yield running
    running.stop()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    if not Path(CHROMIUM).exists():
        pytest.fail("Debian's Chromium is needed: apt-get install chromium")
    with sync_playwright() as playwright:
        yield playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET)


@pytest.fixture(scope="session")
def visitor(browser: Browser) -> BrowserContext:
    """One person's browser, which has loaded the application's scripts before."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    context.set_default_timeout(int(os.environ.get("PATIENCE_MS", "90000")))
    return context


@pytest.fixture
def page(visitor: BrowserContext) -> Iterator[Page]:
    """A page of somebody who has kept nothing from an earlier visit."""
    opened = visitor.new_page()
    faults: list[str] = []
    opened.on("pageerror", lambda fault: faults.append(str(fault)))
    yield opened
    if opened.url.startswith("http"):
        opened.evaluate("() => localStorage.clear()")
    for left in visitor.pages:
        left.close()
    visitor.clear_cookies()
    assert not faults, faults


@pytest.fixture
def demo(shared: Server, page: Page):
    """The demo project, fresh for each test."""
    from tests.e2e.pages import Eurythm, new_demo

    return Eurythm(page, shared, new_demo(shared))


@pytest.fixture
def bare(shared: Server, page: Page):
    """The demo project without what makes its years take long, for tests of drawing."""
    from tests.e2e.pages import Eurythm, bare_demo

    return Eurythm(page, shared, bare_demo(shared))
