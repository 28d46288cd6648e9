"""EPW weather files."""

from __future__ import annotations

from eurythm.exchange.readers.base import Reader

READERS = (Reader("epw", "EPW", (".epw",), "weather"),)
