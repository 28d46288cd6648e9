"""Daylight told in figures: of sensors, of zones and of the points of their floors."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from dataclasses import asdict, dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.daylight.control import power_share
from eurythm.daylight.figures import TARGET_LX, measured, year_of
from eurythm.daylight.floors import HALF, FloorLight
from eurythm.daylight.illuminance import Illuminance
from eurythm.model.library import LightControl

Series = NDArray[np.float64]


@dataclass(frozen=True)
class LightAsk:
    """What a zone asks of light: the hours in which someone is there, its lighting W/m², and how that follows daylight; (8760,)."""

    occupied: NDArray[np.bool_]
    lighting: Series
    control: LightControl


@dataclass(frozen=True)
class SensorFigures:
    """One sensor: its daylight factor, figures of its year, and the share of their energy that its lights take with their control."""

    daylight_factor: float
    mean_lx: float
    hours_above_target: int
    autonomy: float
    useful: float
    beyond_useful: float
    lighting_share: float


def sensor_figures(light: Illuminance, asks: Mapping[str, LightAsk], target_lx: float = TARGET_LX) -> list[SensorFigures]:
    """Return the figures of all sensors, in their order."""
    found = []
    for sensor, lux, factor in zip(light.sensors, light.lux, light.daylight_factor, strict=True):
        ask = asks[sensor.zone]
        asked = float(ask.lighting.sum())
        left = float(ask.lighting @ power_share(lux, ask.control)) / asked if asked > 0 else 1.0
        found.append(SensorFigures(float(factor), **asdict(year_of(lux, ask.occupied, target_lx)), lighting_share=left))
    return found


@dataclass(frozen=True)
class ZoneFigures:
    """One zone's floor: area m², mean daylight factor, mean shares of occupied hours, hours beyond the useful, and the share of floor that meets the target
    in half of the occupied hours.
    """

    zone: str
    name: str
    area_m2: float
    daylight_factor: float
    autonomy: float
    useful: float
    beyond_h: float
    meets: float


def zone_figures(light: FloorLight, asks: Mapping[str, LightAsk], target_lx: float = TARGET_LX) -> list[ZoneFigures]:
    """Return the figures of each zone's floor, means weighted by area."""
    occupied = {zone: ask.occupied for zone, ask in asks.items()}
    autonomy, useful, beyond = (measured(light, m, occupied, target_lx, 0) for m in ("autonomy", "useful", "beyond"))
    found = []
    for floor in light.floors:
        own, areas = floor.points, floor.grid.areas
        weights = areas / areas.sum()
        found.append(
            ZoneFigures(
                floor.zone.id,
                floor.zone.name,
                float(areas.sum()),
                float(weights @ light.daylight_factor[own]),
                float(weights @ autonomy[own]) / 100,
                float(weights @ useful[own]) / 100,
                float(weights @ beyond[own]),
                float(weights @ (autonomy[own] >= 100 * HALF - 1e-9)),
            )
        )
    return found


def points_csv(light: FloorLight, asks: Mapping[str, LightAsk], target_lx: float = TARGET_LX, hour: int | None = None) -> str:
    """Return a table with a row a point: where it is, all figures of its year, and its illuminance in one hour where that is asked."""
    occupied = {zone: ask.occupied for zone, ask in asks.items()}
    figures = {
        "daylight factor %": measured(light, "factor", occupied, target_lx, 0),
        f"occupied hours above {target_lx:g} lx %": measured(light, "autonomy", occupied, target_lx, 0),
        "useful 100 to 3000 lx %": measured(light, "useful", occupied, target_lx, 0),
        "above 3000 lx h": measured(light, "beyond", occupied, target_lx, 0),
        "mean while occupied lx": measured(light, "mean", occupied, target_lx, 0),
    }
    if hour is not None:
        figures["in the hour lx"] = measured(light, "hour", occupied, target_lx, hour)
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(["zone", "x m", "y m", "z m", "area m²", *figures])
    for floor in light.floors:
        own = list(range(floor.points.start, floor.points.stop))
        for k, at, area in zip(own, floor.grid.points, floor.grid.areas, strict=True):
            table.writerow([floor.zone.id, *(f"{x:.3f}" for x in at), f"{area:.4f}", *(f"{f[k]:.2f}" for f in figures.values())])
    return out.getvalue()
