"""Pictures of a report as SVG: forms, parts of a load, energy by end use, cases by two figures."""

from __future__ import annotations

import html
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.geometry.building import Building, Face

INK, QUIET, TIDE, PALE, LINE, PAPER = "#22303A", "#5D6468", "#1F6F78", "#9CC0BC", "#D9D3C7", "#FBF9F5"
USES = {
    "heating": "#B04A32", "hot_water": "#E3AC92", "cooling": "#2B5F8A", "fans": "#9CC0BC", "pumps": "#7FA9A8", "lighting": "#E8C04A",
    "equipment": "#A391B6", "humidity": "#6E8FAF",
}  # fmt: skip
FONT = "font-family='Instrument Sans, DejaVu Sans, sans-serif'"
TO_PAGE = np.array([[0.86, 0.5, 0.0], [0.28, -0.46, -0.9]])
"""From metres to the page: seen from the south-east, above."""
TOWARD = np.array([0.5, -0.86, 0.62])
Points = NDArray[np.float64]


@dataclass(frozen=True)
class Bar:
    """A row of a bar chart: its name, value, and how that is written."""

    name: str
    value: float
    text: str
    unit: str


def _svg(width: float, height: float, body: str) -> str:
    return f"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 {width:.1f} {height:.1f}' width='{width:.1f}' height='{height:.1f}'>{body}</svg>"


def _text(x: float, y: float, text: str, anchor: str = "start", size: float = 9, fill: str = INK) -> str:
    return f"<text x='{x:.1f}' y='{y:.1f}' text-anchor='{anchor}' font-size='{size}' fill='{fill}' {FONT}>{html.escape(text)}</text>"


def _path(loops: Sequence[Points]) -> str:
    return "".join("M" + "L".join(f"{x:.2f},{y:.2f}" for x, y in loop @ TO_PAGE.T) + "Z" for loop in loops)


def form(building: Building, width: float = 220.0, height: float = 130.0) -> str:
    """Return a form seen from the south-east above, painted from the back to the front; nothing where there is none."""
    seen = [
        f for f in building.faces if f.boundary != "zone" and f.kind != "floor" and (f.kind == "ceiling" or float(f.normal @ TOWARD) > 0)
    ]
    if not seen:
        return ""
    corners = np.concatenate([f.loops[0] @ TO_PAGE.T for f in seen])
    low, high = corners.min(axis=0), corners.max(axis=0)
    scale = min((width - 4) / max(high[0] - low[0], 1e-6), (height - 4) / max(high[1] - low[1], 1e-6))
    line = 0.7 / scale
    parts = []
    for face in sorted(seen, key=lambda f: float(f.loops[0].mean(axis=0) @ TOWARD)):
        fill = "#FFFEFB" if face.kind == "ceiling" else "#E9E2D3" if abs(face.normal[0]) > abs(face.normal[1]) else "#F3EEE2"
        parts.append(f"<path d='{_path(face.loops)}' fill-rule='evenodd' fill='{fill}' stroke='{INK}' stroke-width='{line:.4f}'/>")
        if face.windows:
            parts.append(f"<path d='{_path(_windows(face))}' fill='#8FBDBF' stroke='#4E7478' stroke-width='{line * 0.6:.4f}'/>")
    shift = f"translate(2 2) scale({scale:.4f}) translate({-low[0]:.3f} {-low[1]:.3f})"
    return _svg((high[0] - low[0]) * scale + 4, (high[1] - low[1]) * scale + 4, f"<g transform='{shift}'>{''.join(parts)}</g>")


def _windows(face: Face) -> list[Points]:
    upward = np.cross(face.normal, face.along)
    found = []
    for w in face.windows:
        corner = face.origin + face.along * w.s + upward * w.z
        across, up = face.along * w.width, upward * w.height
        found.append(np.array([corner, corner + across, corner + across + up, corner + up]))
    return found


def bars(rows: Sequence[Bar], width: float = 250.0) -> str:
    """Return bars in rows; those below nothing go to the left."""
    if not rows:
        return ""
    written = [f"{row.text} {row.unit}".strip() for row in rows]
    names, numbers, step = 92.0, 10.0 + 4.6 * max(map(len, written)), 15.0
    room = width - names - numbers
    low, high = min(0.0, *(r.value for r in rows)), max(0.0, *(r.value for r in rows))
    span = (high - low) or 1.0
    zero = names + room * -low / span
    body = []
    for k, (row, text) in enumerate(zip(rows, written, strict=True)):
        y, long = k * step, abs(row.value) / span * room
        x = zero if row.value >= 0 else zero - long
        name = row.name if len(row.name) <= 20 else f"{row.name[:19]}…"
        body.append(_text(names - 5, y + 10.5, name, "end", 8.5))
        body.append(
            f"<rect x='{x:.1f}' y='{y + 2.5:.1f}' width='{max(long, 0.5):.1f}' height='10' rx='1.5' fill='{TIDE if row.value >= 0 else PALE}'/>"
        )
        body.append(_text(width, y + 10.5, text, "end", 8.5))
    body.append(f"<line x1='{zero:.1f}' x2='{zero:.1f}' y1='0' y2='{len(rows) * step}' stroke='{QUIET}' stroke-width='0.5'/>")
    return _svg(width, len(rows) * step, "".join(body))


def stacked(rows: Sequence[tuple[str, Sequence[Mapping[str, Any]]]], width: float = 520.0) -> str:
    """Return energy by end use as a bar for each case, with a key."""
    if not rows:
        return ""
    names, step, top = 120.0, 22.0, 20.0
    room = width - names - 40
    most = max(sum(u["value"] for u in uses) for _, uses in rows) or 1.0
    body, x = [], names
    for use, name in dict.fromkeys((u["id"], u["name"]) for _, uses in rows for u in uses):
        body.append(
            f"<rect x='{x:.1f}' y='2' width='9' height='9' rx='1.5' fill='{USES.get(use, QUIET)}'/>{_text(x + 12, 10, name, size=8.5)}"
        )
        x += 22 + 4.6 * len(name)
    for k, (title, uses) in enumerate(rows):
        y, at = top + k * step, names
        short = title if len(title) <= 26 else f"{title[:25]}…"
        body.append(_text(names - 6, y + 13, short, "end", 8.5))
        for u in uses:
            wide = u["value"] / most * room
            body.append(f"<rect x='{at:.1f}' y='{y + 3:.1f}' width='{wide:.1f}' height='15' fill='{USES.get(u['id'], QUIET)}'/>")
            if wide > 20:
                light = u["id"] in ("heating", "cooling")
                body.append(_text(at + wide / 2, y + 13.5, u["text"], "middle", 8, "#FFFEFB" if light else INK))
            at += wide
    return _svg(width, top + len(rows) * step, "".join(body))


def scatter(x: Points, y: Points, best: Sequence[int], x_name: str, y_name: str, width: float = 420.0, height: float = 230.0) -> str:
    """Return cases by two figures, in their shown units; those of the front are joined."""
    known = ~(np.isnan(x) | np.isnan(y))
    if not known.any():
        return ""
    left, bottom, top = 44.0, 34.0, 18.0
    (x0, x1), (y0, y1) = _ends(x[known]), _ends(y[known])
    across = left + (x - x0) / (x1 - x0) * (width - left - 10)
    down = height - bottom - (y - y0) / (y1 - y0) * (height - bottom - top)
    body = []
    for share in np.linspace(0, 1, 5):
        gx, gy = left + share * (width - left - 10), height - bottom - share * (height - bottom - top)
        body.append(f"<line x1='{left}' x2='{width - 10}' y1='{gy:.1f}' y2='{gy:.1f}' stroke='{LINE}' stroke-width='0.5'/>")
        body.append(_text(left - 4, gy + 3, f"{y0 + share * (y1 - y0):.4g}", "end", 8, QUIET))
        body.append(_text(gx, height - bottom + 12, f"{x0 + share * (x1 - x0):.4g}", "middle", 8, QUIET))
    ours = set(best)
    body += [
        f"<circle cx='{across[k]:.1f}' cy='{down[k]:.1f}' r='1.8' fill='{PALE}'/>" for k in np.flatnonzero(known) if int(k) not in ours
    ]
    front = sorted((k for k in best if known[k]), key=lambda k: x[k])
    if len(front) > 1:
        body.append(
            f"<polyline points='{' '.join(f'{across[k]:.1f},{down[k]:.1f}' for k in front)}' fill='none' stroke='{TIDE}' stroke-width='1.2'/>"
        )
    body += [f"<circle cx='{across[k]:.1f}' cy='{down[k]:.1f}' r='2.8' fill='{TIDE}'/>" for k in front]
    body.append(_text(left, 10, y_name, size=8.5))
    body.append(_text((left + width) / 2, height - 6, x_name, "middle", 8.5))
    return _svg(width, height, "".join(body))


def _ends(values: Points) -> tuple[float, float]:
    low, high = float(values.min()), float(values.max())
    room = (high - low) * 0.05 or max(abs(low) * 0.05, 0.5)
    return low - room, high + room
