"""What a reader says of itself."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from eurythm.exchange.intake.received import Received

Brings = Literal["model", "surroundings", "weather", "drawing"]
"""What comes of a file: a scheme's shape, neighbours, a climate year, or lines or a picture to draw over."""
Progress = Callable[[float, str], None]
HEAD_BYTES = 4096


@dataclass(frozen=True)
class Head:
    """How a file begins: its first bytes, its whole size, and the format that its ending says, if any."""

    first: bytes
    size: int
    said: str | None

    @property
    def text(self) -> bytes:
        """The first bytes without a byte order mark and white space."""
        return self.first.lstrip(b"\xef\xbb\xbf").lstrip()


@dataclass(frozen=True)
class Reader:
    """One format that is read.

    Attributes
    ----------
    id : names the format in errors and accounts
    name : what it is called
    endings : that files of it have, the usual one first
    brings : what comes of it
    begins : whether a file looks like one by its head; None for what is read elsewhere and not told by its content
    read : makes what a scheme is made of; only of those that bring a model. Takes path, name, what the user told, progress
    asks : what its files do not say, so that the user is asked: height of storeys, unit, upward axis
    """

    id: str
    name: str
    endings: tuple[str, ...]
    brings: Brings
    begins: Callable[[Head], bool] | None = None
    read: Callable[[Path, str, Mapping[str, str], Progress], Received] | None = None
    asks: tuple[Literal["storey_height", "unit", "up"], ...] = ()
