"""Solar collectors and their tank: what they spare the heater of hot water, hour by hour."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from eurythm.climate.year import HOURS, ClimateYear
from eurythm.model.place import Place
from eurythm.model.plant import Plant
from eurythm.model.renewables import Tank
from eurythm.plant.hot_water import WATER_J_LK
from eurythm.plant.panels import Panel
from eurythm.plant.photovoltaics import light_on_panel
from eurythm.sun.radiation import FaceLight
from eurythm.thermal.compiling import compiled

Series = NDArray[np.float64]
LITRES_PER_M2 = 60.0
TANK_ROOM_C = 15.0
"""Temperature around the tank: our own assumption."""
STEPS = 12
"""Steps of the tank in an hour."""


class CollectorsTold(TypedDict):
    """Collectors' year: m², litres of the tank, kWh of light on them, kWh that they give the tank, lost from it, and to the water; the share of
    the hot water drawn that the sun heats.
    """

    area_m2: float
    litres: float
    light_kwh: float
    given_kwh: float
    tank_lost_kwh: float
    to_water_kwh: float
    share: float


@dataclass(frozen=True, eq=False)
class Field:
    """Collectors of one kind: area, light behind their glass by angle, (8760,) W/m², and their curve."""

    area: float
    light: Series
    on_them: Series
    zero_loss: float
    loss: float
    loss_squared: float


@dataclass(frozen=True, eq=False)
class SolarYear:
    """Heat of the sun in hot water, (8760,) W; the tank's temperature at the end of each hour, °C."""

    to_water_w: Series
    given_w: Series
    tank_lost_w: Series
    tank_c: Series
    told: CollectorsTold


def fields(panels: Sequence[Panel], light: Mapping[str, FaceLight], plant: Plant, place: Place, climate: ClimateYear) -> tuple[Field, ...]:
    """Return the collectors of a plant with the light on them."""
    found = []
    for collector in plant.collectors:
        for panel in panels:
            if not panel.of(collector):
                continue
            lit = light_on_panel(panel, light[panel.face.id], place, climate, panel.pitch)
            found.append(Field(panel.area, lit.taken_in, lit.shaded, collector.zero_loss, collector.loss_w_m2k, collector.loss_w_m2k2))
    return tuple(found)


def _course(
    light: Series, curves: Series, air_c: Series, drawn_w: Series, rise_k: float, cold_c: float, heat_wh_k: float, loss_w_k: float,
    room_c: float, hottest_c: float, steps: int, given: Series, lost: Series, warmed: Series, tank: Series,
) -> None:  # fmt: skip
    """The tank's sequence of hours, in short steps; the year is gone through twice, so that it begins as it ends."""
    now = cold_c
    by = 1.0 / steps
    for _ in range(2):
        for h in range(len(drawn_w)):
            given[h], lost[h], warmed[h] = 0.0, 0.0, 0.0
            for _ in range(steps):
                gain = 0.0
                above = now - air_c[h]
                for k in range(len(curves)):
                    one = curves[k, 1] * light[k, h] - curves[k, 2] * above - curves[k, 3] * above * abs(above)
                    gain += curves[k, 0] * max(one, 0.0)
                gain = min(gain, max((hottest_c - now) * heat_wh_k / by, 0.0))
                leak = loss_w_k * (now - room_c)
                share = min(max((now - cold_c) / rise_k, 0.0), 1.0)
                into = min(drawn_w[h] * share, max((now - cold_c) * heat_wh_k / by, 0.0))
                now += (gain - leak - into) * by / heat_wh_k
                given[h] += gain * by
                lost[h] += leak * by
                warmed[h] += into * by
            tank[h] = now


_COURSE = compiled(
    _course, "void(f8[:,::1], f8[:,::1], f8[::1], f8[::1], f8, f8, f8, f8, f8, f8, i8, f8[::1], f8[::1], f8[::1], f8[::1])", "tank"
)


def solar_year(collectors: Sequence[Field], tank: Tank, drawn_w: Series, rise_k: float, air_c: Series) -> SolarYear | None:
    """Return what collectors do for hot water, None where there are none.

    Efficiency = zero-loss efficiency by the angle of incidence - (a1 dT + a2 dT²) / light, dT from the tank to the air (ISO 9806's form); the tank is
    one well-mixed volume that stops taking heat at its highest temperature, and water drawn passes it before it comes to the heater.

    Parameters
    ----------
    drawn_w : heat in the water drawn, (8760,)
    rise_k : from cold water to what is drawn
    """
    if not collectors:
        return None
    area = sum(c.area for c in collectors)
    litres = tank.litres if tank.litres is not None else LITRES_PER_M2 * area
    loss = tank.loss_w_k if tank.loss_w_k is not None else 0.16 * float(np.sqrt(litres))
    curves = np.array([[c.area, c.zero_loss, c.loss, c.loss_squared] for c in collectors])
    light = np.ascontiguousarray([c.light for c in collectors])
    given, lost, warmed, tank_c = (np.zeros(HOURS) for _ in range(4))
    _COURSE(
        light, curves, np.ascontiguousarray(air_c), np.ascontiguousarray(drawn_w), rise_k, tank.cold_c, litres * WATER_J_LK / 3600.0, loss,
        TANK_ROOM_C, tank.hottest_c, STEPS, given, lost, warmed, tank_c,
    )  # fmt: skip
    drawn = float(drawn_w.sum()) / 1000.0
    to_water = float(warmed.sum()) / 1000.0
    told: CollectorsTold = {
        "area_m2": area,
        "litres": litres,
        "light_kwh": sum(float(c.on_them.sum()) * c.area for c in collectors) / 1000.0,
        "given_kwh": float(given.sum()) / 1000.0,
        "tank_lost_kwh": float(lost.sum()) / 1000.0,
        "to_water_kwh": to_water,
        "share": to_water / drawn if drawn > 0 else 0.0,
    }
    return SolarYear(warmed, given, lost, tank_c, told)
