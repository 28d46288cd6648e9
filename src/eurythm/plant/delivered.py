"""Energy by end use and carrier, hour by hour, from demand by seasonal efficiencies."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.resolve import ZoneBrief
from eurythm.climate.year import HOURS
from eurythm.model.scheme import Carrier, Plant
from eurythm.plant.photovoltaics import Generation
from eurythm.thermal.balance import Course
from eurythm.thermal.prepare import Arrays

Series = NDArray[np.float64]
END_USES = ("heating", "hot_water", "cooling", "fans", "pumps", "lighting", "equipment", "humidity")
WATER_J_LK = 4186.0


@dataclass(frozen=True, eq=False)
class Delivered:
    """What is bought and made; every series (8760,), W.

    Attributes
    ----------
    end_use : energy by end use, before generation
    carrier : which carrier each end use takes
    used, exported : generation used on the spot and given to the grid
    imported : by carrier, after self-use
    """

    end_use: dict[str, Series]
    carrier: dict[str, Carrier]
    used: Series
    exported: Series
    imported: dict[str, Series]


def hot_water_w(zones: tuple[ZoneBrief, ...], floor_area: Series, rise_k: float) -> Series:
    """Heat for hot water, W, (8760,): litres per person and day for the most people of the day, spread as they are present."""
    per_litre = WATER_J_LK * rise_k / 3600.0
    heat = np.zeros(HOURS)
    for zone, area in zip(zones, floor_area, strict=True):
        if zone.gains_w is None and zone.profile.person_w > 0:
            heat += zone.water_spread * (area * zone.profile.hot_water_l_person_day * per_litre)
    return heat


def deliver(plant: Plant, course: Course, arrays: Arrays, generation: Generation) -> Delivered:
    """Turn demand into energy at the meter.

    What condenses on the coils costs cold as what they cool does. Drying further costs cold at the cooling's efficiency, humidifying
    electricity (steam); both are told as the end use humidity.
    """
    heat, cold = course.heating_w, course.cooling_w + course.coiled_w
    water = hot_water_w(arrays.zones, arrays.floor_area, plant.hot_water.rise_k)
    end_use = {
        "heating": heat / plant.heating.efficiency,
        "hot_water": water / plant.hot_water.efficiency,
        "cooling": cold / plant.cooling.efficiency,
        "fans": course.supply_wk / arrays.heat_per_m3 * 1000.0 * plant.ventilation.fan_w_ls,
        "pumps": (heat + cold) * plant.ventilation.pump_share,
        "lighting": arrays.asked.total("lighting"),
        "equipment": arrays.asked.total("equipment"),
        "humidity": course.dried_w / plant.cooling.efficiency + course.wetted_w,
    }
    carrier: dict[str, Carrier] = dict.fromkeys(END_USES, "electricity")
    carrier["heating"], carrier["hot_water"] = plant.heating.carrier, plant.hot_water.carrier
    imported: dict[str, Series] = {}
    for name, series in end_use.items():
        imported[carrier[name]] = imported.get(carrier[name], np.zeros(HOURS)) + series
    used = np.minimum(generation.output_w, imported["electricity"])
    imported["electricity"] = imported["electricity"] - used
    return Delivered(end_use, carrier, used, generation.output_w - used, imported)
