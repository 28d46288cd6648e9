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
from eurythm.model.plant import Carrier, Plant
from eurythm.plant.air_side import ZonesWanted
from eurythm.plant.battery import BatteryYear, battery_year
from eurythm.plant.collectors import Field, SolarYear, solar_year
from eurythm.plant.hot_water import drawn_w
from eurythm.plant.photovoltaics import Generation
from eurythm.plant.staged import Sizes, Staged, StagedYear, SystemTold
from eurythm.plant.system import EndUse, Energy, System, Wanted
from eurythm.thermal.balance import Course
from eurythm.thermal.prepare import Arrays

Series = NDArray[np.float64]
END_USES: tuple[EndUse, ...] = get_args(EndUse)


@dataclass(frozen=True, eq=False)
class FromSun:
    """What arrays make, and the light on collectors."""

    generation: Generation
    collectors: tuple[Field, ...] = ()


@dataclass(frozen=True, eq=False)
class Delivered:
    """What is bought and made; every series (8760,), W.

    Attributes
    ----------
    energy : by end use and carrier, before generation
    sun : what the sun gives
    used, exported : generation used on the spot, at once or by way of the battery, and given to the grid
    imported : by carrier, after self-use
    battery, hot_water_sun : None where there is none
    systems, years : of systems with all their stages, their year summed up, and by the hour
    """

    energy: Energy
    sun: FromSun
    used: Series
    exported: Series
    imported: dict[Carrier, Series]
    battery: BatteryYear | None = None
    hot_water_sun: SolarYear | None = None
    systems: tuple[SystemTold, ...] = ()
    years: dict[int, StagedYear] = field(default_factory=dict)

    @property
    def power_w(self) -> Series:
        """All electricity that is used, W, (8760,)."""
        return sum((e for (_, carrier), e in self.energy.items() if carrier == "electricity"), np.zeros(HOURS))

    @property
    def lost_w(self) -> Series:
        """Generation that goes into the battery less what comes out of it, W: over a year, what it loses."""
        if self.battery is None:
            return np.zeros(HOURS)
        return self.battery.charged_w - self.battery.discharged_w

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


def litres_of_all(arrays: Arrays) -> Series:
    """Return the hot water that all zones draw, l/h."""
    return hot_water_l_h(arrays.zones, arrays.floor_area)


def wanted_of(course: Course, arrays: Arrays, system: int, spared: Series) -> Wanted:
    """Return what the zones of one system ask of it together; `spared` is the share of hot water that the sun heats."""
    heating, cooling, supplied, _, _, coiled, dried, wetted = course.systems[groups_of(arrays, system)].sum(axis=0)
    return Wanted(heating, cooling, coiled, dried, wetted, supplied / arrays.heat_per_m3, litres_of(arrays, system) * (1 - spared))


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


def deliver(systems: Sequence[System | Served], course: Course, arrays: Arrays, sun: FromSun, plant: Plant, air_c: Series) -> Delivered:
    """Turn demand into energy at the meter.

    Parameters
    ----------
    systems : in the order in which `arrays.owner` counts them; those that serve no zone take nothing
    air_c : outdoor air, (8760,)
    """
    solar = _solar(sun, plant, arrays, air_c)
    spared = np.zeros(HOURS) if solar is None else _share(solar.to_water_w, drawn_w(litres_of_all(arrays), plant.hot_water.rise_k))
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
            year = system.system.year(wanted, coiled, dried, wetted, litres, spared, system.sizes, system.design_c)
            own = served_by(arrays, number)
            told.append(system.system.told(year, len(own), float(arrays.floor_area[own].sum())))
            years[number] = year
            takes = year.energy
        else:
            takes = system.takes(wanted_of(course, arrays, number, spared))
        for (use, carrier), series in takes.items():
            add(use, carrier, series)
    add("lighting", "electricity", arrays.asked.total("lighting"))
    add("equipment", "electricity", arrays.asked.total("equipment"))
    imported: dict[Carrier, Series] = {}
    for name in END_USES:
        for (use, carrier), series in energy.items():
            if use == name:
                imported[carrier] = imported.get(carrier, np.zeros(HOURS)) + series
    output, load = sun.generation.output_w, imported["electricity"]
    at_once = np.minimum(output, load)
    battery = battery_year(output - at_once, load - at_once, plant.battery)
    used = at_once if battery is None else at_once + battery.discharged_w
    exported = output - at_once if battery is None else output - at_once - battery.charged_w
    imported["electricity"] = load - used
    return Delivered(energy, sun, used, exported, imported, battery, solar, tuple(told), years)


def _solar(sun: FromSun, plant: Plant, arrays: Arrays, air_c: Series) -> SolarYear | None:
    if not sun.collectors:
        return None
    rise = plant.hot_water.rise_k
    return solar_year(sun.collectors, plant.tank, drawn_w(litres_of_all(arrays), rise), rise, air_c)


def _share(part: Series, whole: Series) -> Series:
    return np.divide(part, whole, out=np.zeros(HOURS), where=whole > 0)
