"""Summing a year up. All figures are plain data, ready for JSON."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from eurythm.assess.bill import Bill, bill_of
from eurythm.assess.fading import fading
from eurythm.assess.inventory import Entry, inventory
from eurythm.assess.worth import Worth, worth_of
from eurythm.brief.calendar import YearDays
from eurythm.brief.costs import Cost
from eurythm.brief.resolve import Brief
from eurythm.climate.statistics import hour_name
from eurythm.climate.year import MONTH_STARTS
from eurythm.geometry.building import Building
from eurythm.model.library import ControlKind
from eurythm.model.plant import Carrier
from eurythm.model.project import Factors
from eurythm.model.remark import RemarkDict
from eurythm.plant.battery import BatteryTold
from eurythm.plant.collectors import CollectorsTold
from eurythm.plant.delivered import Delivered
from eurythm.plant.photovoltaics import ArrayTold, InverterTold
from eurythm.plant.staged import SystemTold
from eurythm.plant.system import EndUse
from eurythm.thermal.balance import Course, Demand
from eurythm.thermal.comfort import Limits, limits_of
from eurythm.thermal.prepare import Arrays

Series = NDArray[np.float64]


class GenerationKwh(TypedDict):
    """What panels made: used on the spot, at once or by way of the battery, given to the grid, and lost in the battery."""

    used: float
    exported: float
    lost: float


class Totals(TypedDict):
    """Sums of the year, by the names of their units; energy by end use and by carrier after self-use; None where floors were not judged."""

    conditioned_floor_area_m2: float
    gross_floor_area_m2: float
    air_volume_m3: float
    gross_volume_m3: float
    envelope_m2: float
    wall_m2: float
    window_m2: float
    roof_m2: float
    rooflight_m2: float
    heating_demand_kwh: float
    cooling_demand_kwh: float
    latent_demand_kwh: float
    eui_kwh_per_m2: float
    eui_net_kwh_per_m2: float
    energy_kwh: dict[EndUse, float]
    carrier_kwh: dict[Carrier, float]
    generation_kwh: GenerationKwh
    module_area_m2: float
    peak_kwp: float
    covered_share: float
    covered_power_share: float
    own_use_share: float
    solar_heat_kwh: float
    carbon_kg: float
    cost: float
    primary_kwh: float
    primary_nonrenewable_kwh: float
    primary_kwh_per_m2: float
    primary_nonrenewable_kwh_per_m2: float
    carrier_peak_kw: dict[Carrier, float]
    carrier_cost: dict[Carrier, float]
    carbon_kg_per_m2: float
    cost_per_m2: float
    investment: float
    global_cost: float
    embodied_kg: float
    whole_life_kg: float
    global_cost_per_m2: float
    whole_life_kg_per_m2_a: float
    lighting_kwh_per_m2: float
    lighting_saved_kwh_per_m2: float
    daylit_share: float | None
    useful_daylight_share: float | None


class Peaks(TypedDict):
    """Highest sensible loads and the hour of each, None where there is none; latent load at the cooling's."""

    substeps: int
    heating_w: float
    heating_at: str | None
    cooling_w: float
    cooling_at: str | None
    latent_w: float


class ComfortLimit(TypedDict):
    """Comfort limits, °C, the upper one None where it follows the outdoor temperature; their share of conditioned floor and the profiles that have them."""

    too_warm_c: float | None
    too_cold_c: float
    adaptive: bool
    share: float
    profiles: list[str]


class Comfort(TypedDict):
    """Occupied hours, and those beyond the limits, averaged by floor area."""

    too_warm_h: float
    too_cold_h: float
    occupied_h: float
    limits: list[ComfortLimit]


class AirYear(TypedDict):
    """Air temperature over the year, °C."""

    min: float
    mean: float
    max: float


class ZoneMean(TypedDict):
    """Air temperature over the year, °C, where hours were not kept."""

    mean: float


class ZoneSums(TypedDict):
    """What a zone's year came to, where hours were not kept."""

    id: str
    floor_area_m2: float
    conditioned: bool
    heating_demand_kwh: float
    cooling_demand_kwh: float
    peak_heating_w: float
    peak_cooling_w: float
    air_c: ZoneMean
    solar_kwh: float
    too_warm_h: int
    too_cold_h: int


class ZoneYear(TypedDict):
    """A zone's year; `system` is 0 where the scheme's own system serves it, else the place among the systems of single zones, from 1."""

    id: str
    name: str
    floor_area_m2: float
    air_volume_m3: float
    conditioned: bool
    profile: str
    lights: ControlKind
    system: int
    heating_demand_kwh: float
    cooling_demand_kwh: float
    peak_heating_w: float
    peak_cooling_w: float
    air_c: AirYear
    solar_kwh: float
    too_warm_h: int
    too_cold_h: int


class Renewables(TypedDict):
    """What the sun gives: by array, inverter, battery and collectors."""

    arrays: list[ArrayTold]
    inverters: list[InverterTold]
    battery: BatteryTold | None
    collectors: CollectorsTold | None


class Month(TypedDict):
    """A month of the whole building; energy by end use; the share of it that own generation covers, and that of generation which is used here."""

    month: int
    energy_kwh: dict[EndUse, float]
    heating_demand_kwh: float
    cooling_demand_kwh: float
    latent_demand_kwh: float
    generation_used_kwh: float
    generation_exported_kwh: float
    covered_power_share: float
    own_use_share: float


@dataclass(frozen=True, eq=False)
class Metered:
    """Energy at the meter, what it costs and emits, and what that comes to over the years."""

    delivered: Delivered
    bill: Bill
    worth: Worth


@dataclass(frozen=True)
class Summary:
    """A year of the whole building, as a table of cases keeps it; see docs/scheme-format.md, "What simulate prints"."""

    totals: Totals
    peaks: Peaks
    comfort: Comfort
    closure: float
    drift: float


@dataclass(frozen=True)
class Outcome(Summary):
    """A year's whole result."""

    zones: list[ZoneYear]
    monthly: list[Month]
    systems: list[SystemTold]
    renewables: Renewables
    worth: Worth
    remarks: list[RemarkDict]

    def as_dict(self) -> dict[str, Any]:
        """Return plain data for JSON."""
        return dict(vars(self))


def _kwh(series: Series) -> float:
    return float(series.sum()) / 1000.0


def meter(
    brief: Brief, enclosing: Sequence[Entry], arrays: Arrays, delivered: Delivered, factors: Factors, costs: dict[str, Cost], days: YearDays
) -> Metered:
    """Return what energy at the meter costs and emits, in the year and over all years; `enclosing` is what the enclosure is made of."""
    area = float(arrays.floor_area[[z.conditioned for z in arrays.zones]].sum())
    bill = bill_of(delivered.imported, delivered.exported, factors, days)
    entries = inventory(brief, enclosing, costs, area, delivered)
    return Metered(delivered, bill, worth_of(entries, bill, factors, fading(delivered, brief.scheme.plant, bill, factors, days, costs)))


def summarise(
    building: Building,
    arrays: Arrays,
    course: Course,
    metered: Metered,
    factors: Factors,
    daylit: tuple[float | None, float | None],
    substeps: int,
) -> Summary:
    """Sum a year of the whole building up.

    Floor area is the conditioned internal one. Energy per floor area counts all end uses before generation. Hours too
    warm or too cold are occupied hours of conditioned zones by operative temperature, averaged by floor area. `daylit` are the shares of
    floor with enough daylight and of occupied hours with useful daylight, zero where they were not asked for.
    """
    delivered, bill, worth = metered.delivered, metered.bill, metered.worth
    generation, solar = delivered.sun.generation, delivered.hot_water_sun
    conditioned = np.array([z.conditioned for z in arrays.zones])
    area = float(arrays.floor_area[conditioned].sum())
    per_area = 1.0 / area if area > 0 else 0.0
    energy = {name: _kwh(series) for name, series in delivered.end_use.items()}
    total = sum(energy.values())
    used, exported, lost = _kwh(delivered.used), _kwh(delivered.exported), _kwh(delivered.lost_w)
    made, power = used + exported + lost, _kwh(delivered.power_w)
    imported = {name: _kwh(series) for name, series in delivered.imported.items()}
    carbon, cost = bill.total("carbon_kg"), bill.cost
    primary, nonrenewable = bill.total("primary_kwh"), bill.total("primary_nonrenewable_kwh")
    outside = [f for f in building.faces if f.boundary == "outdoors"]
    walls = [f for f in outside if f.kind == "wall"]
    wall_area, window_area = sum(f.area for f in walls), sum(f.window_area for f in walls)
    totals: Totals = {
        "conditioned_floor_area_m2": area,
        "gross_floor_area_m2": sum(z.gross_floor for z in building.zones),
        "air_volume_m3": float(arrays.air_volume.sum()),
        "gross_volume_m3": sum(z.gross_volume for z in building.zones),
        "envelope_m2": sum(f.area for f in building.faces if f.boundary in ("outdoors", "ground")),
        "wall_m2": wall_area,
        "window_m2": window_area,
        "roof_m2": sum(f.area for f in outside if f.kind == "ceiling"),
        "rooflight_m2": sum(f.window_area for f in outside if f.kind == "ceiling"),
        "heating_demand_kwh": _kwh(course.heating_w),
        "cooling_demand_kwh": _kwh(course.cooling_w),
        "latent_demand_kwh": _kwh(course.coiled_w),
        "eui_kwh_per_m2": total * per_area,
        "eui_net_kwh_per_m2": (total - used) * per_area,
        "energy_kwh": energy,
        "carrier_kwh": imported,
        "generation_kwh": {"used": used, "exported": exported, "lost": lost},
        "module_area_m2": generation.module_area_m2,
        "peak_kwp": sum(array["peak_kwp"] for array in generation.arrays),
        "covered_share": used / total if total > 0 else 0.0,
        "covered_power_share": used / power if power > 0 else 0.0,
        "own_use_share": (used + lost) / made if made > 0 else 0.0,
        "solar_heat_kwh": _kwh(solar.to_water_w) if solar else 0.0,
        "carbon_kg": carbon,
        "cost": cost,
        "primary_kwh": primary,
        "primary_nonrenewable_kwh": nonrenewable,
        "primary_kwh_per_m2": primary * per_area,
        "primary_nonrenewable_kwh_per_m2": nonrenewable * per_area,
        "carrier_peak_kw": {name: one.peak_kw for name, one in bill.carriers.items()},
        "carrier_cost": {name: one.cost for name, one in bill.carriers.items()},
        "carbon_kg_per_m2": carbon * per_area,
        "cost_per_m2": cost * per_area,
        "investment": worth["investment"],
        "global_cost": worth["global_cost"],
        "embodied_kg": worth["embodied_kg"],
        "whole_life_kg": worth["whole_life_kg"],
        "global_cost_per_m2": worth["global_cost"] * per_area,
        "whole_life_kg_per_m2_a": worth["whole_life_kg"] * per_area / worth["horizon_years"],
        "lighting_kwh_per_m2": energy["lighting"] * per_area,
        "lighting_saved_kwh_per_m2": _kwh(arrays.asked.lighting_saved) * per_area,
        "daylit_share": daylit[0],
        "useful_daylight_share": daylit[1],
    }
    return Summary(
        totals=totals,
        peaks=_peaks(course, substeps),
        comfort=_comfort(arrays, course, limits_of(arrays.zones, factors), conditioned),
        closure=float(course.closure.max()) if len(course.closure) else 0.0,
        drift=course.drift,
    )


def assess(
    building: Building, arrays: Arrays, demand: Demand, course: Course, metered: Metered, summary: Summary, remarks: list[RemarkDict]
) -> Outcome:
    """Put what is told by zone, month, system and part of the building beside the summary."""
    delivered = metered.delivered
    generation, battery, solar = delivered.sun.generation, delivered.battery, delivered.hot_water_sun
    return Outcome(
        **vars(summary),
        zones=_zones(building, arrays, demand, course),
        monthly=_monthly(course, delivered),
        systems=list(delivered.systems),
        renewables={
            "arrays": list(generation.arrays),
            "inverters": list(generation.inverters),
            "battery": battery.told if battery else None,
            "collectors": solar.told if solar else None,
        },
        worth=metered.worth,
        remarks=remarks,
    )


def _peaks(course: Course, substeps: int) -> Peaks:
    heating, cooling = int(course.heating_w.argmax()), int(course.cooling_w.argmax())
    return {
        "substeps": substeps,
        "heating_w": float(course.heating_w[heating]),
        "heating_at": hour_name(heating) if course.heating_w[heating] > 0 else None,
        "cooling_w": float(course.cooling_w[cooling]),
        "cooling_at": hour_name(cooling) if course.cooling_w[cooling] > 0 else None,
        "latent_w": float(course.coiled_w[cooling]),
    }


def _comfort(arrays: Arrays, course: Course, limits: Limits, conditioned: NDArray[np.bool_]) -> Comfort:
    weight = arrays.floor_area * conditioned
    weight = weight / max(float(weight.sum()), 1e-9)
    occupied = np.array([float(z.occupied.sum()) for z in arrays.zones])
    return {
        "too_warm_h": float(course.too_warm_h @ weight),
        "too_cold_h": float(course.too_cold_h @ weight),
        "occupied_h": float(occupied @ weight),
        "limits": _limits(arrays, limits, weight),
    }


def _limits(arrays: Arrays, limits: Limits, weight: Series) -> list[ComfortLimit]:
    """The comfort limits that hold, those of most floor area first, with the share of conditioned floor and the use profiles that they hold for."""
    groups: dict[tuple[float, float, bool], ComfortLimit] = {}
    for z, (brief, share) in enumerate(zip(arrays.zones, weight, strict=True)):
        if share <= 0:
            continue
        key = (float(limits.warm_c[z]), float(limits.cold_c[z]), bool(limits.adapts[z]))
        one = groups.setdefault(
            key, {"too_warm_c": None if key[2] else key[0], "too_cold_c": key[1], "adaptive": key[2], "share": 0.0, "profiles": []}
        )
        one["share"] += float(share)
        if brief.profile.name not in one["profiles"]:
            one["profiles"].append(brief.profile.name)
    return sorted(groups.values(), key=lambda g: -g["share"])


def zone_sums(arrays: Arrays, course: Course) -> list[ZoneSums]:
    """Return what each zone's year came to."""
    told = {name: values.tolist() for name, values in course.zones.items()}
    return [
        {
            "id": zone,
            "floor_area_m2": float(arrays.floor_area[i]),
            "conditioned": arrays.zones[i].conditioned,
            "heating_demand_kwh": told["heating_wh"][i] / 1000.0,
            "cooling_demand_kwh": told["cooling_wh"][i] / 1000.0,
            "peak_heating_w": told["peak_heating_w"][i],
            "peak_cooling_w": told["peak_cooling_w"][i],
            "air_c": {"mean": told["air_c"][i]},
            "solar_kwh": _kwh(arrays.solar[i]),
            "too_warm_h": int(course.too_warm_h[i]),
            "too_cold_h": int(course.too_cold_h[i]),
        }
        for i, zone in enumerate(arrays.zone_ids)
    ]


def _zones(building: Building, arrays: Arrays, demand: Demand, course: Course) -> list[ZoneYear]:
    rows: list[ZoneYear] = []
    for i, (zone, told) in enumerate(zip(building.zones, zone_sums(arrays, course), strict=True)):
        air = demand.air_c[i]
        rows.append(
            {
                **told,
                "name": zone.name,
                "air_volume_m3": float(arrays.air_volume[i]),
                "profile": arrays.zones[i].profile.id,
                "lights": arrays.zones[i].lights.kind,
                "system": int(arrays.owner[arrays.system[i]]),
                "air_c": {"min": float(air.min()), "mean": float(air.mean()), "max": float(air.max())},
            }
        )
    return rows


def _monthly(course: Course, delivered: Delivered) -> list[Month]:
    def by_month(series: Series) -> Series:
        out: Series = np.add.reduceat(series, MONTH_STARTS) / 1000.0
        return out

    uses = {name: by_month(series) for name, series in delivered.end_use.items()}
    heating, cooling, latent = by_month(course.heating_w), by_month(course.cooling_w), by_month(course.coiled_w)
    used, exported, lost, power = (by_month(s) for s in (delivered.used, delivered.exported, delivered.lost_w, delivered.power_w))
    made = used + exported + lost
    return [
        {
            "month": m + 1,
            "energy_kwh": {name: float(values[m]) for name, values in uses.items()},
            "heating_demand_kwh": float(heating[m]),
            "cooling_demand_kwh": float(cooling[m]),
            "latent_demand_kwh": float(latent[m]),
            "generation_used_kwh": float(used[m]),
            "generation_exported_kwh": float(exported[m]),
            "covered_power_share": float(used[m] / power[m]) if power[m] > 0 else 0.0,
            "own_use_share": float((used[m] + lost[m]) / made[m]) if made[m] > 0 else 0.0,
        }
        for m in range(12)
    ]
