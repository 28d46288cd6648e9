"""Energy by end use and carrier, hour by hour: what the systems of a building take, its lights and equipment, and its own generation."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.resolve import ZoneBrief
from eurythm.climate.year import HOURS
from eurythm.model.plant import Carrier
from eurythm.plant.air_side import ZonesWanted
from eurythm.plant.photovoltaics import Generation
from eurythm.plant.staged import Sizes, Staged, StagedYear, SystemTold
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
    systems, years : of systems with all their stages, their year summed up, and by the hour
    """

    energy: Energy
    used: Series
    exported: Series
    imported: dict[Carrier, Series]
    systems: tuple[SystemTold, ...] = ()
    years: dict[int, StagedYear] = field(default_factory=dict)

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


def groups_of(arrays: Arrays, system: int) -> list[int]:
    """Return which groups of zones a system serves."""
    return [group for group, owner in enumerate(arrays.owner) if owner == system]


def served_by(arrays: Arrays, system: int) -> NDArray[np.intp]:
    """Return which zones a system serves."""
    return np.flatnonzero(np.isin(arrays.system, groups_of(arrays, system)))


def litres_of(arrays: Arrays, system: int) -> Series:
    """Return the hot water that the zones of a system draw, l/h."""
    own = served_by(arrays, system)
    return hot_water_l_h([arrays.zones[z] for z in own], arrays.floor_area[own])


def wanted_of(course: Course, arrays: Arrays, system: int) -> Wanted:
    """Return what the zones of one system ask of it together."""
    heating, cooling, supplied, _, _, coiled, dried, wetted = course.systems[groups_of(arrays, system)].sum(axis=0)
    return Wanted(heating, cooling, coiled, dried, wetted, supplied / arrays.heat_per_m3, litres_of(arrays, system))


def zones_wanted(systems: Series, arrays: Arrays, system: int) -> ZonesWanted:
    """Return what the zones of one system ask of its air side, group by group; `systems` is a course's, or some hours of it."""
    groups = groups_of(arrays, system)
    rows = systems[groups]
    count = np.bincount(arrays.system.astype(int), minlength=len(arrays.owner))[groups]
    return ZonesWanted(rows[:, 0], rows[:, 1], rows[:, 3], rows[:, 4] / count[:, None], rows[:, 2])


@dataclass(frozen=True, eq=False)
class Served:
    """A system with all its stages: what it is, how large, and the outdoor temperature of the coldest design day."""

    system: Staged
    sizes: Sizes
    design_c: float


def deliver(systems: Sequence[System | Served], course: Course, arrays: Arrays, generation: Generation) -> Delivered:
    """Turn demand into energy at the meter.

    Parameters
    ----------
    systems : in the order in which `arrays.owner` counts them; those that serve no zone take nothing
    """
    energy: Energy = {}
    told: list[SystemTold] = []
    years: dict[int, StagedYear] = {}

    def add(use: EndUse, carrier: Carrier, series: Series) -> None:
        energy[use, carrier] = energy[use, carrier] + series if (use, carrier) in energy else series

    for number, system in enumerate(systems):
        if number not in arrays.owner:
            continue
        if isinstance(system, Served):
            coiled, dried, wetted = course.systems[groups_of(arrays, number)].sum(axis=0)[5:]
            wanted, litres = zones_wanted(course.systems, arrays, number), litres_of(arrays, number)
            year = system.system.year(wanted, coiled, dried, wetted, litres, system.sizes, system.design_c)
            own = served_by(arrays, number)
            told.append(system.system.told(year, len(own), float(arrays.floor_area[own].sum())))
            years[number] = year
            takes = year.energy
        else:
            takes = system.takes(wanted_of(course, arrays, number))
        for (use, carrier), series in takes.items():
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
    return Delivered(energy, used, generation.output_w - used, imported, tuple(told), years)
