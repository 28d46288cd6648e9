"""Plans and pictures to draw over."""

from __future__ import annotations

from eurythm.exchange.readers.base import Reader

READERS = (
    Reader("dxf", "DXF", (".dxf",), "drawing"),
    Reader("png", "PNG", (".png",), "drawing"),
    Reader("jpeg", "JPEG", (".jpg", ".jpeg"), "drawing"),
    Reader("webp", "WebP", (".webp",), "drawing"),
    Reader("bmp", "BMP", (".bmp",), "drawing"),
    Reader("tiff", "TIFF", (".tif", ".tiff"), "drawing"),
)
