"""What an edit costs the browser: requests, components rendered, frames drawn, and where the time goes."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

from playwright.sync_api import Page, Response

COUNTING = """
(() => {
  const counted = (window.__counted = { renders: 0, frames: 0 });
  // React tells developer tools of each commit; below a component that was left alone nothing was rendered
  const rendered = (fiber) => {
    let found = [0, 1, 11, 15].includes(fiber.tag) && fiber.flags & 1 ? 1 : 0;
    const before = fiber.alternate;
    if (before === null || fiber.child !== before.child)
      for (let child = fiber.child; child !== null; child = child.sibling) found += rendered(child);
    return found;
  };
  window.__REACT_DEVTOOLS_GLOBAL_HOOK__ = {
    supportsFiber: true, renderers: new Map(), inject: () => 1, checkDCE: () => {}, onCommitFiberUnmount: () => {}, onPostCommitFiberRoot: () => {},
    onCommitFiberRoot: (_, root) => { counted.renders += rendered(root.current); },
  };
  // a frame begins where the canvas itself is cleared; what is cleared before that are its shadows
  const gl = WebGL2RenderingContext.prototype, onto = new WeakMap();
  const { bindFramebuffer, clear } = gl;
  gl.bindFramebuffer = function (target, buffer) { onto.set(this, buffer); return bindFramebuffer.call(this, target, buffer); };
  gl.clear = function (mask) {
    if (mask & gl.COLOR_BUFFER_BIT && !onto.get(this)) counted.frames += 1;
    return clear.call(this, mask);
  };
})();
"""


@dataclass
class Cost:
    """What one thing cost: counts, and seconds of processor time of the page's script, its layout, and drawing."""

    requests: list[str] = field(default_factory=list)
    renders: int = 0
    frames: int = 0
    script_s: float = 0.0
    layout_s: float = 0.0
    drawing_s: float = 0.0


class Watch:
    """Counts what a page does from `begin` to `end`; to be made before the page is opened."""

    def __init__(self, page: Page) -> None:
        page.add_init_script(COUNTING)
        self._page, self._heard = page, []
        self._session = page.context.new_cdp_session(page)
        self._session.send("Performance.enable")
        page.on("response", self._hear)

    def _hear(self, response: Response) -> None:
        if "/api/" in response.url and not response.url.endswith("/revision"):  # what other windows do is asked for by the clock
            self._heard.append(f"{response.request.method} {response.url.partition('/api/')[2]}")

    def _now(self) -> tuple[dict[str, int], dict[str, float], float]:
        told = {m["name"]: m["value"] for m in self._session.send("Performance.getMetrics")["metrics"]}
        return self._page.evaluate("() => ({...window.__counted})"), told, _drawing_s()

    def begin(self) -> None:
        """Count from here."""
        self._heard.clear()
        self._before = self._now()

    def end(self, still_ms: int = 400) -> Cost:
        """Return what was done since; `still_ms` later, so that what was put off is counted too."""
        self._page.wait_for_timeout(still_ms)
        (counted, told, drawing), (before, was, drew) = self._now(), self._before
        return Cost(
            list(self._heard),
            counted["renders"] - before["renders"],
            counted["frames"] - before["frames"],
            told["ScriptDuration"] - was["ScriptDuration"],
            told["LayoutDuration"] + told["RecalcStyleDuration"] - was["LayoutDuration"] - was["RecalcStyleDuration"],
            drawing - drew,
        )


def _drawing_s() -> float:
    """Processor time that browsers of this machine spent on drawing: without a graphics card a process of theirs does it."""
    spent = 0.0
    for place in Path("/proc").glob("[0-9]*"):
        try:
            if b"--type=gpu-process" in (place / "cmdline").read_bytes():
                told = (place / "stat").read_text().rpartition(")")[2].split()
                spent += (int(told[11]) + int(told[12])) / 100.0
        except OSError:
            continue
    return spent
