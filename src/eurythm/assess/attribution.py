"""What a load is made of, as plain data: parts over the year, by month and at the peak hour, in words that practitioners use."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.statistics import hour_name
from eurythm.climate.year import MONTH_STARTS
from eurythm.geometry.building import Building
from eurythm.thermal.parts import SOURCES, USES, Parts
from eurythm.thermal.prepare import Arrays

Series = NDArray[np.float64]
SOURCE_NAMES = {
    "people": "people", "lighting": "lighting", "equipment": "equipment",
    "sun_north": "sun, north glass", "sun_east": "sun, east glass", "sun_south": "sun, south glass", "sun_west": "sun, west glass",
    "sun_up": "sun, rooflights", "walls": "walls", "roofs": "roofs", "floors": "floors over air", "windows": "windows",
    "ground": "ground", "bridges": "thermal bridges", "infiltration": "infiltration", "ventilation": "ventilation", "airing": "open windows",
    "setpoints": "set-back and limits", "neighbours": "neighbouring zones", "start": "start of the run",
}  # fmt: skip
"""Sun on opaque faces and the cold sky belong to their wall or roof; sun through glass to the side that the glass looks to."""


def attribution(building: Building, arrays: Arrays, parts: Parts) -> dict[str, Any]:
    """Return the parts of heating and cooling of the building and of each zone; see docs/scheme-format.md, "What explain prints".

    Parts are by source, in kWh or W; those that lower the load are negative, and they add up to the load beside them.
    """
    names = {z.id: z.name for z in building.zones}
    return {
        "substeps": arrays.substeps,
        "sources": [{"id": source, "name": SOURCE_NAMES[source]} for source in SOURCES],
        "building": {use: _of_building(parts, u) for u, use in enumerate(USES)},
        "zones": [
            {"id": zone, "name": names[zone], **{use: _of_zone(parts, z, u) for u, use in enumerate(USES)}}
            for z, zone in enumerate(arrays.zone_ids)
        ],
    }


def named(values: Sequence[float] | Series) -> dict[str, float]:
    """Return parts by source."""
    return {source: float(value) for source, value in zip(SOURCES, values, strict=True)}


def at_hour(parts: Parts, use: int, hour: int) -> dict[str, Any]:
    """Return the building's load in an hour, its parts, W, and how many zones have a load; the others float and take no part."""
    load = float(parts.load_w[use, hour])
    return {
        "hour": hour,
        "at": hour_name(hour) if load > 0 else None,
        "load_w": load,
        "parts_w": named(parts.by_hour[use, :, hour]),
        "zones_loaded": int((parts.zone_load_w[:, use, hour] > 0).sum()),
    }


def _of_building(parts: Parts, use: int) -> dict[str, Any]:
    by_month = np.add.reduceat(parts.by_hour[use], MONTH_STARTS, axis=1) / 1000.0
    return {
        "load_kwh": float(parts.load_w[use].sum()) / 1000.0,
        "parts_kwh": named(by_month.sum(axis=1)),
        "months_kwh": {source: [float(v) for v in row] for source, row in zip(SOURCES, by_month, strict=True)},
        "peak": at_hour(parts, use, int(parts.building_peaks[use])),
    }


def _of_zone(parts: Parts, zone: int, use: int) -> dict[str, Any]:
    by_month = parts.zones_by_month[zone, use]
    load = parts.zone_load_w[zone, use]

    def peak(which: int, hour: int) -> dict[str, Any]:
        watts = float(load[hour])
        return {
            "hour": hour,
            "at": hour_name(hour) if watts > 0 else None,
            "load_w": watts,
            "parts_w": named(parts.zones_at[zone, use, which]),
            "zones_loaded": int(watts > 0),
        }

    return {
        "load_kwh": float(load.sum()) / 1000.0,
        "parts_kwh": named(by_month.sum(axis=1)),
        "months_kwh": {source: [float(v) for v in row] for source, row in zip(SOURCES, by_month, strict=True)},
        "peak": peak(0, int(parts.peak_hours[zone, use])),
        "at_building_peak": peak(1, int(parts.building_peaks[use])),
    }
