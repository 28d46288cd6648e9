"""A map of the quay as a picture, north upward, its scale drawn on it: what a surveyor would send."""

from __future__ import annotations

import io
import math

from PIL import Image, ImageDraw, ImageFont

from eurythm.model.place import Place
from eurythm.model.shape import Underlay

METRES = 0.2
SIZE = (1100, 900)
PAPER, WATER, PAVING, STREET, HOUSE, INK = "#F3EFE4", "#CBDCDD", "#E6E0D2", "#FBF9F3", "#D3CBB9", "#6A6F6C"
SCALE_BAR_M = 50.0
QUAY_EDGE_M = -16.0
FURTHER = (
    (-70, 58, 38, 20),
    (-66, 6, 30, 34),
    (112, 56, 40, 16),
    (116, 4, 26, 40),
    (-60, 100, 60, 22),
    (20, 102, 44, 18),
    (82, 98, 36, 24),
)
"""Houses that are on the map and stand for nothing: west, south, length and depth, m, in the drawing's axes."""


def map_underlay(place: Place, digest: str, width: int, height: int) -> Underlay:
    """Return how the map lies in a place's drawing: turned so that its north is the true one, the drawing's origin in its lower middle."""
    turn = -place.north_deg
    c, s = math.cos(math.radians(-turn)), math.sin(math.radians(-turn))
    origin = (width * 0.40 * METRES, height * 0.36 * METRES)
    x, y = -(c * origin[0] - s * origin[1]), -(s * origin[0] + c * origin[1])
    return Underlay(
        id="map", drawing=digest, name="rope-quay-map.png", x=round(x, 3), y=round(y, 3), turn_deg=turn, metres=METRES, strength=0.75
    )


def map_picture(place: Place) -> bytes:
    """Return the map as PNG; neighbours of the place are drawn where they stand."""
    laid = map_underlay(place, "", *SIZE)
    image = Image.new("RGB", SIZE, PAPER)
    draw = ImageDraw.Draw(image)

    def at(x: float, y: float) -> tuple[float, float]:
        turn = math.radians(laid.turn_deg)
        dx, dy = x - laid.x, y - laid.y
        return (math.cos(turn) * dx - math.sin(turn) * dy) / METRES, SIZE[1] - (math.sin(turn) * dx + math.cos(turn) * dy) / METRES

    def block(x: float, y: float, length: float, depth: float, fill: str, line: str | None = None) -> None:
        draw.polygon([at(x, y), at(x + length, y), at(x + length, y + depth), at(x, y + depth)], fill=fill, outline=line)

    def word(x: float, y: float, text: str, size: float = 17) -> None:
        draw.text(at(x, y), text, fill=INK, font=ImageFont.load_default(size))

    block(-400, -400, 800, 400 + QUAY_EDGE_M, WATER)
    block(-400, QUAY_EDGE_M, 800, 15, PAVING)
    draw.line([at(-400, QUAY_EDGE_M), at(400, QUAY_EDGE_M)], fill=INK, width=3)
    for street in ((-400, 32, 800, 15), (-400, 84, 800, 10), (70, -1, 11, 400), (-24, -1, 10, 400)):
        block(*street, STREET)
    for house in FURTHER:
        block(*house, HOUSE, INK)
    for box in place.boxes:
        block(box.x, box.y, box.length, box.depth, HOUSE, INK)
    for tree in place.trees:
        x, y = at(tree.x, tree.y)
        r = tree.crown / 2 / METRES
        draw.ellipse((x - r, y - r, x + r, y + r), outline="#8FA384", width=2)
    word(-10, 42, "Salt Street")
    word(-60, -4, "Rope Quay")
    word(20, -34, "Outer harbour")
    left, low = 60, SIZE[1] - 50
    draw.line([(left, low), (left + SCALE_BAR_M / METRES, low)], fill=INK, width=4)
    for x in (left, left + SCALE_BAR_M / METRES):
        draw.line([(x, low - 8), (x, low + 8)], fill=INK, width=3)
    draw.text((left, low - 34), f"{SCALE_BAR_M:.0f} m", fill=INK, font=ImageFont.load_default(20))
    draw.text((SIZE[0] - 60, 20), "N", fill=INK, font=ImageFont.load_default(28))
    draw.line([(SIZE[0] - 50, 56), (SIZE[0] - 50, 110)], fill=INK, width=3)
    into = io.BytesIO()
    image.save(into, "PNG")
    return into.getvalue()
