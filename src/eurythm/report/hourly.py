"""Hourly series by name, of zones, of the whole building and of the weather, as lines and as files."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.air import saturation_pa
from eurythm.climate.statistics import hour_name
from eurythm.climate.year import HOURS
from eurythm.model.cells import plain
from eurythm.model.errors import EurythmError
from eurythm.plant.staged import StagedYear
from eurythm.simulate import Run, daylight_of

Series = NDArray[np.float64]


@dataclass(frozen=True)
class Line:
    """A kind of series: how it is called, its unit, whether zones are added up or averaged by floor area, and how it is made.

    `of` returns (Z, 8760) for what zones have, not a number in zones that have none of it, (8760,) for weather and for the plant of all zones.
    """

    name: str
    title: str
    unit: str
    over: str
    of: Callable[[Run], Series]


def _through(flow: str) -> Callable[[Run], Series]:
    def made(run: Run) -> Series:
        out: Series = getattr(run.demand, flow) * (run.brief.climate.air_c - run.demand.air_c)
        return out

    return made


def _at_sensors(run: Run) -> Series:
    """Mean of the sensors of each zone, (Z, 8760); none in zones without."""
    light = daylight_of(run.brief)
    found = np.full((len(run.building.zones), HOURS), np.nan)
    for k, zone in enumerate(run.building.zones):
        own = [lux for sensor, lux in zip(light.sensors, light.lux, strict=True) if sensor.zone == zone.id]
        if own:
            found[k] = np.mean(own, axis=0)
    return found


def _plant(of: Callable[[StagedYear], Series]) -> Callable[[Run], Series]:
    """What systems with stages do together, (8760,); zero where there are none."""

    def made(run: Run) -> Series:
        return sum((of(year) for year in run.delivered.years.values()), np.zeros(HOURS))

    return made


def _factor(given: Callable[[StagedYear], Series], bought: Callable[[StagedYear], Series]) -> Callable[[Run], Series]:
    """Given per bought in hours in which anything is given, else zero."""

    def made(run: Run) -> Series:
        gives, buys = _plant(given)(run), _plant(bought)(run)
        out: Series = np.where((gives > 0) & (buys > 0), gives / np.maximum(buys, 1e-9), 0.0)
        return out

    return made


def _meant(of: Callable[[StagedYear], Series], by: Callable[[StagedYear], Series]) -> Callable[[Run], Series]:
    """Mean over systems by what flows in them, zero where nothing does."""

    def made(run: Run) -> Series:
        years = run.delivered.years.values()
        weight = sum((by(y) for y in years), np.zeros(HOURS))
        whole = sum((np.nan_to_num(of(y)) * by(y) for y in years), np.zeros(HOURS))
        out: Series = np.where(weight > 0, whole / np.maximum(weight, 1e-9), 0.0)
        return out

    return made


def _given(year: StagedYear) -> Series:
    return sum((s.given_w for s in year.heat), np.zeros(HOURS))


def _bought(year: StagedYear) -> Series:
    return sum((s.bought_w for s in year.heat), np.zeros(HOURS))


def _could(year: StagedYear) -> Series:
    return sum((s.capacity_w for s in year.heat[:1]), np.zeros(HOURS))


def _of_battery(name: str) -> Callable[[Run], Series]:
    """A course of the battery; zero where there is none."""

    def made(run: Run) -> Series:
        battery = run.delivered.battery
        return np.zeros(HOURS) if battery is None else np.asarray(getattr(battery, name), dtype=np.float64)

    return made


def _of_collectors(name: str) -> Callable[[Run], Series]:
    """A course of the collectors and their tank; zero where there are none."""

    def made(run: Run) -> Series:
        solar = run.delivered.hot_water_sun
        return np.zeros(HOURS) if solar is None else np.asarray(getattr(solar, name), dtype=np.float64)

    return made


def _humidity(run: Run) -> Series:
    pressure = run.brief.climate["pressure_pa"]
    vapour = run.demand.vapour_kg_kg * pressure / (0.622 + run.demand.vapour_kg_kg)
    out: Series = 100.0 * vapour / saturation_pa(run.demand.air_c)
    return out


LINES: dict[str, Line] = {
    line.name: line
    for line in (
        Line("air_c", "indoor air", "°C", "mean", lambda r: r.demand.air_c),
        Line("operative_c", "operative", "°C", "mean", lambda r: r.demand.operative_c),
        Line("outdoor_c", "outdoor air", "°C", "weather", lambda r: r.brief.climate.air_c),
        Line("heating_w", "heating", "W", "sum", lambda r: r.demand.heating_w),
        Line("cooling_w", "cooling", "W", "sum", lambda r: r.demand.cooling_w),
        Line("solar_w", "sun through glass", "W", "sum", lambda r: r.arrays.solar),
        Line("people_w", "people", "W", "sum", lambda r: r.arrays.asked.gains["people"]),
        Line("lighting_w", "lighting", "W", "sum", lambda r: r.arrays.asked.gains["lighting"]),
        Line(
            "lighting_asked_w",
            "lighting without daylight",
            "W",
            "sum",
            lambda r: r.arrays.asked.lighting_asked,
        ),
        Line("daylight_lx", "daylight at sensors", "lx", "sensors", _at_sensors),
        Line("equipment_w", "equipment", "W", "sum", lambda r: r.arrays.asked.gains["equipment"] + r.arrays.asked.gains["fixed"]),
        Line("infiltration_w", "infiltration", "W", "sum", _through("leak_wk")),
        Line("ventilation_w", "supply of outdoor air", "W", "sum", _through("supply_wk")),
        Line("airing_w", "open windows", "W", "sum", _through("open_wk")),
        Line("humidity_pct", "relative humidity", "%", "mean", _humidity),
        Line("heat_given_w", "heat from sources", "W", "plant", _plant(_given)),
        Line("heat_bought_w", "bought for heating", "W", "plant", _plant(_bought)),
        Line("heat_cop", "heat per energy bought", "kWh/kWh", "plant", _factor(_given, _bought)),
        Line(
            "heat_load_pct", "part load of the base source", "%", "plant", lambda r: 100 * _factor(lambda y: y.heat[0].given_w, _could)(r)
        ),
        Line("flow_c", "heating water", "°C", "plant", _meant(lambda y: y.water.flow_c, lambda y: y.water.heat_w)),
        Line("cold_given_w", "cold from sources", "W", "plant", _plant(lambda y: y.cold.given_w)),
        Line("cold_eer", "cold per energy bought", "kWh/kWh", "plant", _factor(lambda y: y.cold.given_w, lambda y: y.cold.bought_w)),
        Line(
            "supply_air_c",
            "supply air",
            "°C",
            "plant",
            _meant(lambda y: y.air.supply_c, lambda y: np.where(np.isfinite(y.air.supply_c), y.air.moved_wk, 0.0)),
        ),
        Line("reheat_w", "reheat", "W", "plant", _plant(lambda y: y.air.reheat_w)),
        Line("fans_w", "fans", "W", "plant", _plant(lambda y: y.air.fan_w)),
        Line("power_w", "electricity used", "W", "plant", lambda r: r.delivered.power_w),
        Line("generated_w", "own generation", "W", "plant", lambda r: r.delivered.sun.generation.output_w),
        Line("generation_used_w", "own generation used", "W", "plant", lambda r: r.delivered.used),
        Line("generation_sold_w", "own generation sold", "W", "plant", lambda r: r.delivered.exported),
        Line("battery_in_w", "into the battery", "W", "plant", _of_battery("charged_w")),
        Line("battery_out_w", "out of the battery", "W", "plant", _of_battery("discharged_w")),
        Line("battery_wh", "held in the battery", "Wh", "plant", _of_battery("held_wh")),
        Line("sun_water_w", "sun in hot water", "W", "plant", _of_collectors("to_water_w")),
        Line("tank_c", "tank of the collectors", "°C", "plant", _of_collectors("tank_c")),
        Line("outdoor_humidity_pct", "outdoor humidity", "%", "weather", lambda r: r.brief.climate["relative_humidity_pct"]),
        Line("global_w_m2", "sun on level ground", "W/m²", "weather", lambda r: r.brief.climate["global_horizontal_wh_m2"]),
        Line("beam_w_m2", "sun's beam", "W/m²", "weather", lambda r: r.brief.climate["direct_normal_wh_m2"]),
        Line("cloud_tenths", "cloud cover", "tenths", "weather", lambda r: r.brief.climate["total_sky_cover_tenths"]),
        Line("wind_m_s", "wind", "m/s", "weather", lambda r: r.brief.climate["wind_speed_m_s"]),
    )
}
"""What can be shown by the hour. Heat by air is positive into the room; ventilation before heat recovery."""


@dataclass(frozen=True, eq=False)
class Column:
    """One series of one case: `zone` is "" for the whole building and for weather."""

    case: str
    zone: str
    zone_name: str
    line: Line
    values: Series

    @property
    def heading(self) -> str:
        """Column name in files."""
        where = self.zone or ("weather" if self.line.over == "weather" else "building")
        return "/".join(part for part in (self.case, where, self.line.name) if part)


def columns_of(run: Run, case: str, zones: Sequence[str], lines: Sequence[str]) -> list[Column]:
    """Return the asked lines of the asked zones, "" for the whole building; zones that this case has not are left out.

    Raises
    ------
    EurythmError
        ``no-such-line``, naming those that there are.
    """
    names = {z.id: z.name for z in run.building.zones}
    index = {zone: i for i, zone in enumerate(run.arrays.zone_ids)}
    weight = run.arrays.floor_area / run.arrays.floor_area.sum()
    found = []
    for name in lines:
        if name not in LINES:
            raise EurythmError("no-such-line", f"There is no line “{name:.40}”; there are {', '.join(LINES)}.", "lines")
        line = LINES[name]
        values = line.of(run)
        if line.over in ("weather", "plant"):
            found.append(Column(case, "", "", line, values))
            continue
        for zone in zones:
            if zone and zone in index:
                found.append(Column(case, zone, names[zone], line, np.nan_to_num(values[index[zone]])))
            elif not zone:
                whole: Series = _whole(line, values, weight)
                found.append(Column(case, "", "", line, whole))
    return found


def _whole(line: Line, values: Series, weight: Series) -> Series:
    """A line of the whole building by those of its zones; zones without sensors say nothing about daylight."""
    if line.over == "sum":
        return np.asarray(values.sum(axis=0), dtype=np.float64)
    own = np.isfinite(values).all(axis=1) & (weight > 0)
    if not own.any():
        return np.zeros(values.shape[1])
    return np.asarray(weight[own] @ values[own] / weight[own].sum(), dtype=np.float64)


def csv_of(columns: Sequence[Column], start: int, hours: int) -> str:
    """Return columns as CSV, one row an hour, time as the start of the hour in local standard time."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["time", *(plain(c.heading) for c in columns)])
    for hour in range(start, start + hours):
        writer.writerow([hour_name(hour), *(f"{c.values[hour]:.6g}" for c in columns)])
    return out.getvalue()


def parquet_of(columns: Sequence[Column], start: int, hours: int) -> bytes:
    """Return columns as Parquet, with units in the fields' metadata."""
    import pyarrow as pa
    import pyarrow.parquet as pq

    span = slice(start, start + hours)
    fields = [pa.field("time", pa.string()), *(pa.field(c.heading, pa.float64(), metadata={"unit": c.line.unit}) for c in columns)]
    data = [pa.array([hour_name(h) for h in range(start, start + hours)]), *(pa.array(c.values[span]) for c in columns)]
    sink = pa.BufferOutputStream()
    pq.write_table(pa.table(data, schema=pa.schema(fields)), sink)
    return bytes(sink.getvalue())


def write_hourly(path: Path, run: Run) -> None:
    """Write every hour of a run; columns as in docs/scheme-format.md, time as the start of the hour in local standard time."""
    columns: dict[str, Series] = {
        "outdoor/air_c": run.brief.climate.air_c,
        "building/heating_w": run.demand.heating_w.sum(axis=0),
        "building/cooling_w": run.demand.cooling_w.sum(axis=0),
    }
    for name, series in run.delivered.end_use.items():
        columns[f"energy/{name}_w"] = series
    columns["generation/used_w"] = run.delivered.used
    columns["generation/exported_w"] = run.delivered.exported
    for id, series in run.delivered.sun.generation.by_array.items():
        columns[f"generation/{id or 'roof-share'}_w"] = series
    if run.delivered.battery is not None:
        columns["battery/held_wh"] = run.delivered.battery.held_wh
    for column in columns_of(run, "", run.arrays.zone_ids, ("air_c", "operative_c", "heating_w", "cooling_w", "solar_w")):
        columns[f"zone/{column.heading}"] = column.values
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["time", *(plain(name) for name in columns)])
        table = np.column_stack(list(columns.values()))
        for hour in range(HOURS):
            writer.writerow([hour_name(hour), *(f"{v:.6g}" for v in table[hour])])
