"""GeoJSON of what stands around."""

from __future__ import annotations

from eurythm.exchange.readers.base import Reader

READERS = (Reader("geojson", "GeoJSON", (".geojson", ".json"), "surroundings"),)
