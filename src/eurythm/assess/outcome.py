"""Summing a year up. All figures are plain data, ready for JSON."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.statistics import hour_name
from eurythm.climate.year import MONTH_STARTS
from eurythm.geometry.building import Building
from eurythm.model.project import Factors
from eurythm.plant.delivered import Delivered
from eurythm.thermal.balance import Course, Demand
from eurythm.thermal.comfort import Limits, limits_of
from eurythm.thermal.prepare import Arrays

Series = NDArray[np.float64]


@dataclass(frozen=True)
class Summary:
    """A year of the whole building, as a table of cases keeps it; see docs/scheme-format.md, "What simulate prints"."""

    totals: dict[str, Any]
    peaks: dict[str, Any]
    comfort: dict[str, Any]
    closure: float
    drift: float


@dataclass(frozen=True)
class Outcome(Summary):
    """A year's whole result."""

    zones: list[dict[str, Any]]
    monthly: list[dict[str, Any]]
    remarks: list[dict[str, Any]]

    def as_dict(self) -> dict[str, Any]:
        """Return plain data for JSON."""
        return dict(vars(self))


def _kwh(series: Series) -> float:
    return float(series.sum()) / 1000.0


def summarise(
    building: Building, arrays: Arrays, course: Course, delivered: Delivered, factors: Factors, module_area: float, substeps: int
) -> Summary:
    """Sum a year of the whole building up.

    Floor area is the conditioned internal one. Energy per floor area counts all end uses before generation. Hours too
    warm or too cold are occupied hours of conditioned zones by operative temperature, averaged by floor area.
    """
    conditioned = np.array([z.conditioned for z in arrays.zones])
    area = float(arrays.floor_area[conditioned].sum())
    per_area = 1.0 / area if area > 0 else 0.0
    energy = {name: _kwh(series) for name, series in delivered.end_use.items()}
    total = sum(energy.values())
    used, exported = _kwh(delivered.used), _kwh(delivered.exported)
    imported = {name: _kwh(series) for name, series in delivered.imported.items()}
    carbon = sum(kwh * getattr(factors, name).carbon for name, kwh in imported.items())
    cost = sum(kwh * getattr(factors, name).price for name, kwh in imported.items()) - exported * factors.export_price
    outside = [f for f in building.faces if f.boundary == "outdoors"]
    walls = [f for f in outside if f.kind == "wall"]
    wall_area, window_area = sum(f.area for f in walls), sum(f.window_area for f in walls)
    totals = {
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
        "generation_kwh": {"used": used, "exported": exported},
        "module_area_m2": module_area,
        "carbon_kg": carbon,
        "cost": cost,
        "carbon_kg_per_m2": carbon * per_area,
        "cost_per_m2": cost * per_area,
    }
    return Summary(
        totals=totals,
        peaks=_peaks(course, substeps),
        comfort=_comfort(arrays, course, limits_of(arrays.zones, factors), conditioned),
        closure=float(course.closure.max()) if len(course.closure) else 0.0,
        drift=course.drift,
    )


def assess(
    building: Building, arrays: Arrays, demand: Demand, course: Course, delivered: Delivered, summary: Summary,
    factors: Factors, remarks: list[dict[str, Any]],
) -> Outcome:  # fmt: skip
    """Put what is told by zone and month beside the summary."""
    return Outcome(
        **vars(summary),
        zones=_zones(building, arrays, demand, course),
        monthly=_monthly(course, delivered),
        remarks=remarks,
    )


def _peaks(course: Course, substeps: int) -> dict[str, Any]:
    peaks: dict[str, Any] = {"substeps": substeps}
    for name, series in (("heating", course.heating_w), ("cooling", course.cooling_w)):
        hour = int(series.argmax())
        peaks[f"{name}_w"] = float(series[hour])
        peaks[f"{name}_at"] = hour_name(hour) if series[hour] > 0 else None
    peaks["latent_w"] = float(course.coiled_w[int(course.cooling_w.argmax())])
    return peaks


def _comfort(arrays: Arrays, course: Course, limits: Limits, conditioned: NDArray[np.bool_]) -> dict[str, Any]:
    weight = arrays.floor_area * conditioned
    weight = weight / max(float(weight.sum()), 1e-9)
    occupied = np.array([float(z.occupied.sum()) for z in arrays.zones])
    return {
        "too_warm_h": float(course.too_warm_h @ weight),
        "too_cold_h": float(course.too_cold_h @ weight),
        "occupied_h": float(occupied @ weight),
        "limits": _limits(arrays, limits, weight),
    }


def _limits(arrays: Arrays, limits: Limits, weight: Series) -> list[dict[str, Any]]:
    """The comfort limits that hold, those of most floor area first, with the share of conditioned floor and the use profiles that they hold for."""
    groups: dict[tuple[float, float, bool], dict[str, Any]] = {}
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


def _zones(building: Building, arrays: Arrays, demand: Demand, course: Course) -> list[dict[str, Any]]:
    rows = []
    for i, zone in enumerate(building.zones):
        air = demand.air_c[i]
        rows.append(
            {
                "id": zone.id,
                "name": zone.name,
                "floor_area_m2": float(arrays.floor_area[i]),
                "air_volume_m3": float(arrays.air_volume[i]),
                "conditioned": arrays.zones[i].conditioned,
                "profile": arrays.zones[i].profile.id,
                "heating_demand_kwh": _kwh(demand.heating_w[i]),
                "cooling_demand_kwh": _kwh(demand.cooling_w[i]),
                "peak_heating_w": float(demand.heating_w[i].max()),
                "peak_cooling_w": float(demand.cooling_w[i].max()),
                "air_c": {"min": float(air.min()), "mean": float(air.mean()), "max": float(air.max())},
                "solar_kwh": _kwh(arrays.solar[i]),
                "too_warm_h": int(course.too_warm_h[i]),
                "too_cold_h": int(course.too_cold_h[i]),
            }
        )
    return rows


def _monthly(course: Course, delivered: Delivered) -> list[dict[str, Any]]:
    def by_month(series: Series) -> Series:
        out: Series = np.add.reduceat(series, MONTH_STARTS) / 1000.0
        return out

    uses = {name: by_month(series) for name, series in delivered.end_use.items()}
    others = {
        "heating_demand_kwh": by_month(course.heating_w),
        "cooling_demand_kwh": by_month(course.cooling_w),
        "latent_demand_kwh": by_month(course.coiled_w),
        "generation_used_kwh": by_month(delivered.used),
        "generation_exported_kwh": by_month(delivered.exported),
    }
    return [
        {"month": m + 1, "energy_kwh": {n: float(v[m]) for n, v in uses.items()}, **{n: float(v[m]) for n, v in others.items()}}
        for m in range(12)
    ]
