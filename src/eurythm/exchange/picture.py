"""Pictures to draw over: maps, scanned plans, photographs from above."""

from __future__ import annotations

import io
import warnings

from PIL import Image, ImageOps, UnidentifiedImageError

from eurythm.exchange.drawing import Drawing, Picture
from eurythm.model.errors import EurythmError

KINDS = ("PNG", "JPEG", "WEBP", "BMP", "TIFF")
ENDINGS = (".png", ".jpg", ".jpeg", ".webp", ".bmp", ".tif", ".tiff")
MOST_BYTES = 60_000_000
MOST_POINTS = 100_000_000
LONGEST = 4096
FIRST_WIDTH_M = 200.0
Image.MAX_IMAGE_PIXELS = None  # our own limit is checked before anything is decoded


def read_picture(data: bytes, name: str) -> Drawing:
    """Read a picture to lie under a plan; one with a side of more than 4096 points is kept smaller, its width in metres the same.

    Nothing in it says how large it is in truth: it is taken to be 200 m wide until it is scaled.

    Raises
    ------
    EurythmError
        ``empty-file``, ``too-large`` (by bytes, or by its points before any of them is decoded), ``not-picture``.
    """
    if not data:
        raise EurythmError("empty-file", f"“{name}” is empty.", name)
    if len(data) > MOST_BYTES:
        raise EurythmError("too-large", f"“{name}” has {len(data) / 1e6:.0f} MB; up to {MOST_BYTES / 1e6:.0f} MB are read.", name)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # odd tags do no harm
            opened = Image.open(io.BytesIO(data), formats=KINDS)
            points = opened.width * opened.height
            if points > MOST_POINTS:
                raise EurythmError(
                    "too-large",
                    f"“{name}” is {opened.width:,} by {opened.height:,} points, {points / 1e6:.0f} million; "
                    f"up to {MOST_POINTS / 1e6:.0f} million are read. Save it smaller; {LONGEST} points a side are enough.",
                    name,
                )
            opened.draft("RGB", (LONGEST, LONGEST))
            image = ImageOps.exif_transpose(opened)
            image.load()
    except UnidentifiedImageError:
        raise EurythmError("not-picture", f"“{name}” is no picture that is read here: PNG, JPEG, WebP, BMP or TIFF.", name) from None
    except (OSError, ValueError, SyntaxError, MemoryError) as fault:
        raise EurythmError("not-picture", f"“{name}” is damaged: {fault!s:.120}.", name) from None
    image.thumbnail((LONGEST, LONGEST))
    picture = _kept(image, opened.format == "PNG")
    return Drawing(
        name=name, unit=None, metres=FIRST_WIDTH_M / picture.width, guessed=True, moved=(0.0, 0.0),
        bounds=(0.0, 0.0, float(picture.width), float(picture.height)), layers=[], outlines=[], texts=[], picture=picture,
    )  # fmt: skip


def _kept(image: Image.Image, drawn: bool) -> Picture:
    """The picture as it is kept: PNG where it came as one, is see-through or in few colours, JPEG else."""
    flat = drawn or image.mode in ("1", "P", "L", "LA", "RGBA", "PA")
    into = io.BytesIO()
    if flat:
        image.convert("RGBA" if image.mode in ("LA", "PA", "RGBA", "P") else "RGB").save(into, "PNG")
    else:
        image.convert("RGB").save(into, "JPEG", quality=88)
    return Picture(media="image/png" if flat else "image/jpeg", width=image.width, height=image.height, data=into.getvalue())
