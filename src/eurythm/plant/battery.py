"""A battery, hour by hour: charged by what is left over, discharged to the load."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from eurythm.model.renewables import Battery
from eurythm.thermal.compiling import compiled

Series = NDArray[np.float64]
HELD_POWER = 0.5
"""Power over what a battery holds, 1/h, where nobody gave it: our own assumption."""


class BatteryTold(TypedDict):
    """A battery's year: kWh that it holds, kW, kWh charged, discharged and lost, how often it was filled."""

    usable_kwh: float
    power_kw: float
    charged_kwh: float
    discharged_kwh: float
    lost_kwh: float
    cycles: float


@dataclass(frozen=True, eq=False)
class BatteryYear:
    """What goes into a battery and comes out of it, means of the hour, W, and what it holds at the end of each hour, Wh; all (8760,)."""

    charged_w: Series
    discharged_w: Series
    held_wh: Series
    told: BatteryTold


def _course(
    surplus: Series, lack: Series, most_wh: float, power_w: float, one_way: float, charged: Series, discharged: Series, held: Series
) -> None:
    """The sequence of hours; the year is gone through twice, so that it begins as it ends."""
    now = 0.0
    for _ in range(2):
        for h in range(len(surplus)):
            into = min(surplus[h], power_w, (most_wh - now) / one_way)
            out = 0.0
            if into <= 0.0:
                into = 0.0
                out = max(min(lack[h], power_w, now * one_way), 0.0)
            now = min(max(now + into * one_way - out / one_way, 0.0), most_wh)
            charged[h], discharged[h], held[h] = into, out, now


_COURSE = compiled(_course, "void(f8[::1], f8[::1], f8, f8, f8, f8[::1], f8[::1], f8[::1])", "battery")


def battery_year(surplus_w: Series, lack_w: Series, battery: Battery) -> BatteryYear | None:
    """Return a battery's year, None where there is none.

    What is left over charges it up to its power and what it holds; what is lacking is taken from it. Half of the losses of a round trip
    fall on either way. Within the year, charged = discharged + lost + what it holds more at the end than at the beginning, which is nothing
    from the second year on.

    Parameters
    ----------
    surplus_w, lack_w : generation beyond the load, and load beyond generation, (8760,)
    """
    if battery.usable_kwh <= 0:
        return None
    power = battery.power_kw if battery.power_kw is not None else battery.usable_kwh * HELD_POWER
    charged, discharged, held = (np.zeros(len(surplus_w)) for _ in range(3))
    one_way = float(np.sqrt(battery.efficiency))
    flows = np.ascontiguousarray(surplus_w), np.ascontiguousarray(lack_w)
    _COURSE(*flows, battery.usable_kwh * 1000.0, power * 1000.0, one_way, charged, discharged, held)
    into, out = float(charged.sum()) / 1000.0, float(discharged.sum()) / 1000.0
    told: BatteryTold = {
        "usable_kwh": battery.usable_kwh,
        "power_kw": power,
        "charged_kwh": into,
        "discharged_kwh": out,
        "lost_kwh": into - out,
        "cycles": into * one_way / battery.usable_kwh,
    }
    return BatteryYear(charged, discharged, held, told)
