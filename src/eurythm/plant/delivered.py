"""Energy by end use and carrier, hour by hour: what the systems of a building take, its lights and equipment, and its own generation."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.resolve import ZoneBrief
from eurythm.climate.year import HOURS
from eurythm.model.scheme import Carrier
from eurythm.plant.photovoltaics import Generation
from eurythm.plant.system import EndUse, Energy, System, Wanted
from eurythm.thermal.balance import Course
from eurythm.thermal.prepare import Arrays

Series = NDArray[np.float64]
END_USES: tuple[EndUse, ...] = get_args(EndUse)


@dataclass(frozen=True, eq=False)
class Delivered:
    """What is bought and made; every series (8760,), W.

    Attributes
    ----------
    energy : by end use and carrier, before generation
    used, exported : generation used on the spot and given to the grid
    imported : by carrier, after self-use
    """

    energy: Energy
    used: Series
    exported: Series
    imported: dict[Carrier, Series]

    @cached_property
    def end_use(self) -> dict[EndUse, Series]:
        """Energy by end use, before generation; all of them, in their order."""
        return {name: sum((e for (use, _), e in self.energy.items() if use == name), np.zeros(HOURS)) for name in END_USES}


def hot_water_l_h(zones: Sequence[ZoneBrief], floor_area: Series) -> Series:
    """Water drawn warm, l/h, (8760,): litres per person and day for the most people of the day, spread as they are present."""
    drawn = np.zeros(HOURS)
    for zone, area in zip(zones, floor_area, strict=True):
        if zone.gains_w is None:
            drawn += zone.drawn * area
    return drawn


def wanted_of(course: Course, arrays: Arrays, system: int) -> Wanted:
    """Return what the zones of one system ask of it."""
    heating, cooling, supplied, coiled, dried, wetted = course.systems[system]
    own = np.flatnonzero(arrays.system == system)
    water = hot_water_l_h([arrays.zones[z] for z in own], arrays.floor_area[own])
    return Wanted(heating, cooling, coiled, dried, wetted, supplied / arrays.heat_per_m3, water)


def deliver(systems: Sequence[System], course: Course, arrays: Arrays, generation: Generation) -> Delivered:
    """Turn demand into energy at the meter.

    Parameters
    ----------
    systems : in the order in which `arrays.system` counts them
    """
    energy: Energy = {}

    def add(use: EndUse, carrier: Carrier, series: Series) -> None:
        energy[use, carrier] = energy[use, carrier] + series if (use, carrier) in energy else series

    for number, system in enumerate(systems):
        for (use, carrier), series in system.takes(wanted_of(course, arrays, number)).items():
            add(use, carrier, series)
    add("lighting", "electricity", arrays.asked.total("lighting"))
    add("equipment", "electricity", arrays.asked.total("equipment"))
    imported: dict[Carrier, Series] = {}
    for name in END_USES:
        for (use, carrier), series in energy.items():
            if use == name:
                imported[carrier] = imported.get(carrier, np.zeros(HOURS)) + series
    used = np.minimum(generation.output_w, imported["electricity"])
    imported["electricity"] = imported["electricity"] - used
    return Delivered(energy, used, generation.output_w - used, imported)
