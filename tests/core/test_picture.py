"""Pictures to draw over: kept within bounds, refused by their size before they are decoded."""

from __future__ import annotations

import contextlib
import io
import struct
import time
import zlib
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from eurythm.exchange.drawing import Drawing
from eurythm.exchange.intake.process import read_plan_apart
from eurythm.exchange.picture import FIRST_WIDTH_M, LONGEST, read_picture
from eurythm.model.errors import EurythmError


def file_of(image: Image.Image, kind: str = "PNG", **more: object) -> bytes:
    into = io.BytesIO()
    image.save(into, kind, **more)
    return into.getvalue()


def bomb(width: int, height: int) -> bytes:
    """A small PNG that says it is very large."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(bytes(1000))) + chunk(b"IEND", b"")


@pytest.mark.parametrize(("kind", "mode", "media"), [("PNG", "RGB", "image/png"), ("JPEG", "RGB", "image/jpeg"), ("WEBP", "RGB", "image/jpeg"),
                                                     ("PNG", "P", "image/png"), ("TIFF", "CMYK", "image/jpeg"), ("BMP", "1", "image/png")])  # fmt: skip
def test_a_picture_is_kept_and_goes_into_project_files(kind: str, mode: str, media: str) -> None:
    drawing = read_picture(file_of(Image.new(mode, (300, 200)), kind), "site")
    assert drawing.picture is not None
    assert (drawing.picture.width, drawing.picture.height, drawing.picture.media) == (300, 200, media)
    assert drawing.bounds == (0, 0, 300, 200)
    assert drawing.metres * 300 == FIRST_WIDTH_M
    assert drawing.guessed
    assert Image.open(io.BytesIO(drawing.picture.data)).size == (300, 200)
    assert Drawing.model_validate_json(drawing.model_dump_json()) == drawing


def test_a_large_picture_is_kept_smaller_and_as_wide_in_truth() -> None:
    drawing = read_picture(file_of(Image.new("RGB", (9000, 3000), "tan"), "JPEG"), "site.jpg")
    assert drawing.picture is not None
    assert (drawing.picture.width, drawing.picture.height) == (LONGEST, pytest.approx(LONGEST / 3, abs=1))
    assert drawing.metres * drawing.picture.width == pytest.approx(FIRST_WIDTH_M)


def test_a_picture_taken_on_its_side_is_stood_up() -> None:
    turned = Image.Exif()
    turned[0x0112] = 6
    drawing = read_picture(file_of(Image.new("RGB", (300, 200)), "JPEG", exif=turned), "photo.jpg")
    assert drawing.picture is not None
    assert (drawing.picture.width, drawing.picture.height) == (200, 300)


@pytest.mark.parametrize(("width", "height"), [(20_000, 10_000), (100_000, 100_000)])
def test_a_picture_of_too_many_points_is_refused_before_it_is_decoded(width: int, height: int) -> None:
    started = time.perf_counter()
    with pytest.raises(EurythmError, match="million") as raised:
        read_picture(bomb(width, height), "map.png")
    assert raised.value.code == "too-large"
    assert time.perf_counter() - started < 1


def test_files_that_are_no_pictures_are_refused_in_words(tmp_path: Path) -> None:
    whole = file_of(Image.new("RGB", (300, 200), "tan"), "JPEG")
    for data, code in (
        (b"", "empty-file"),
        (b"hello", "not-picture"),
        (whole[: len(whole) // 3], "not-picture"),
        (bomb(90, 90), "not-picture"),
    ):
        with pytest.raises(EurythmError) as raised:
            read_picture(data, "map.png")
        assert raised.value.code == code
    path = tmp_path / "map.png"
    path.write_bytes(b"%PDF-1.7 no picture")
    with pytest.raises(EurythmError, match="PNG, JPEG"):
        read_plan_apart(path, "map.png")


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_no_damage_to_a_picture_does_more_than_refuse_it(data: st.DataObject) -> None:
    kind = data.draw(st.sampled_from(["PNG", "JPEG", "BMP", "TIFF"]))
    whole = bytearray(file_of(Image.new("RGB", (40, 30), "tan"), kind))
    for _ in range(data.draw(st.integers(1, 12))):
        whole[data.draw(st.integers(0, len(whole) - 1))] = data.draw(st.integers(0, 255))
    with contextlib.suppress(EurythmError):
        assert read_picture(bytes(whole), "map").picture is not None
