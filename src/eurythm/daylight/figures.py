"""What a year's illuminance amounts to in the hours in which someone is there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.daylight.floors import USEFUL_LX, FloorLight
from eurythm.model.scheme import DaylightMeasure

Series = NDArray[np.float64]
TARGET_LX = 300.0
"""Illuminance that is wanted: a usual value (unverified)."""


@dataclass(frozen=True)
class DaylightYear:
    """Of one place: mean illuminance by day, hours a year above the target, and shares of the occupied hours above it, in the useful range and beyond."""

    mean_lx: float
    hours_above_target: int
    autonomy: float
    useful: float
    beyond_useful: float


def year_of(lux: Series, occupied: NDArray[np.bool_], target_lx: float = TARGET_LX) -> DaylightYear:
    """Return the figures of a place's year; without occupied hours its shares are zero.

    Parameters
    ----------
    lux : (8760,)
    occupied : (8760,) whether someone is there
    """
    count, own, lit = max(int(occupied.sum()), 1), lux[occupied], lux[lux > 0]
    return DaylightYear(
        mean_lx=float(lit.mean()) if len(lit) else 0.0,
        hours_above_target=int((lux >= target_lx).sum()),
        autonomy=int((own >= target_lx).sum()) / count,
        useful=int(((own >= USEFUL_LX[0]) & (own <= USEFUL_LX[1])).sum()) / count,
        beyond_useful=int((own > USEFUL_LX[1]).sum()) / count,
    )


UNITS: dict[DaylightMeasure, str] = {"factor": "%", "autonomy": "%", "useful": "%", "beyond": "h", "mean": "lx", "hour": "lx"}


def measured(light: FloorLight, measure: DaylightMeasure, occupied: Mapping[str, NDArray[np.bool_]], target_lx: float, hour: int) -> Series:
    """Return one figure at each point of some floors, (P,).

    Parameters
    ----------
    measure : daylight factor, shares of the occupied hours above the target and in the useful range (%), occupied hours a year
        beyond it, mean of the occupied hours or illuminance in one hour of the year (lx)
    occupied : by zone, (8760,) whether someone is there
    """
    if measure == "factor":
        return light.daylight_factor * 100
    if measure == "hour":
        return light.at_hour(hour)
    found = np.zeros(len(light.lux))
    for floor in light.floors:
        there = occupied[floor.zone.id]
        own, lux, count = there[light.up].astype(np.float32), light.lux[floor.points], max(int(there.sum()), 1)
        if measure == "mean":
            found[floor.points] = lux @ own / count
            continue
        low, high = {"autonomy": (target_lx, np.inf), "useful": USEFUL_LX, "beyond": (np.nextafter(USEFUL_LX[1], np.inf), np.inf)}[measure]
        met = (lux >= low) & (lux <= high)
        hours = met.astype(np.float32) @ own
        found[floor.points] = hours if measure == "beyond" else hours / count * 100
    return found
