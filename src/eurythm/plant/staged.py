"""A system with all its stages: air side, emission and distribution, generation, and what is bought of each carrier."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from eurythm.brief.systems import HeatBrief, SystemBrief
from eurythm.climate.year import ClimateYear
from eurythm.model.plant import Carrier
from eurythm.plant.air_side import AirSide, Outdoors, ZonesWanted, beside_rooms, by_air, design_flow
from eurythm.plant.generation import Generated, cold_from, heat_from, heat_in_order, is_pump, rated_w
from eurythm.plant.hot_water import HotWaterYear, hot_water_year
from eurythm.plant.system import Energy
from eurythm.plant.water_side import WaterSide, distribute

Series = NDArray[np.float64]
WATER_SOURCE_C = 15.0
"""A hot water heat pump draws on air no colder than this, from the plant room or the exhaust: our own assumption."""
SHORT_SHARE = 0.01
"""An hour is not met where more than this share of the design load is missing: our own assumption."""


@dataclass(frozen=True, eq=False)
class Design:
    """What the zones of a system ask on the design day, with the weather of those hours and the outdoor temperature of the day."""

    wanted: ZonesWanted
    coiled_w: Series
    outdoors: Outdoors
    design_c: float


@dataclass(frozen=True, eq=False)
class Sizes:
    """How large a system is built: design flow of each room W/K, design loads W, rated powers of its sources of heat and of cold, W."""

    flow_wk: Series
    heat_w: float
    cold_w: float
    rated_heat_w: tuple[float, ...]
    rated_cold_w: float


class SourceTold(TypedDict):
    """A source of heat or cold over the year: rated kW, kWh given, bought and taken from around, hours that it ran, its seasonal factor."""

    kind: str
    carrier: Carrier
    rated_kw: float
    given_kwh: float
    bought_kwh: float
    ambient_kwh: float
    hours: int
    seasonal_factor: float | None


class SystemTold(TypedDict):
    """A system's year, kWh: from what rooms get by what is lost to what sources give."""

    id: str
    name: str
    ready: str
    zones: int
    floor_area_m2: float
    rooms_heat_kwh: float
    preheat_kwh: float
    reheat_kwh: float
    heat_lost_kwh: float
    water_drawn_kwh: float
    water_lost_kwh: float
    water_sun_kwh: float
    rooms_cold_kwh: float
    latent_kwh: float
    cold_lost_kwh: float
    recovered_kwh: float
    fans_kwh: float
    pumps_kwh: float
    heat: list[SourceTold]
    water: list[SourceTold]
    cold: list[SourceTold]
    short_heat_h: int
    short_cold_h: int


@dataclass(frozen=True, eq=False)
class StagedYear:
    """A year of a system, stage by stage."""

    air: AirSide
    water: WaterSide
    hot_water: HotWaterYear
    heat: tuple[Generated, ...]
    for_water: tuple[Generated, ...]
    cold: Generated
    short_heat_w: Series
    short_cold_w: Series
    latent_w: Series
    dried_w: Series
    wetted_w: Series
    sizes: Sizes

    @cached_property
    def energy(self) -> Energy:
        """Energy at the meter, by end use and carrier, W."""
        found: Energy = {}
        for use, sources in (("heating", self.heat), ("hot_water", self.for_water)):
            for made in sources:
                key = (use, made.carrier)
                found[key] = found[key] + made.bought_w if key in found else made.bought_w  # type: ignore[index]
        asked = self.water.cold_w + self.latent_w + self.dried_w
        drying = np.where(asked > 0, self.dried_w / np.maximum(asked, 1e-12), 0.0)
        found["cooling", self.cold.carrier] = self.cold.bought_w * (1 - drying)
        found["humidity", self.cold.carrier] = self.cold.bought_w * drying
        if self.wetted_w.any():
            found["humidity", "electricity"] = found.get(("humidity", "electricity"), np.zeros_like(drying)) + self.wetted_w
        found["fans", "electricity"] = self.air.fan_w
        found["pumps", "electricity"] = self.water.pump_w
        return found


@dataclass(frozen=True, eq=False)
class Staged:
    """A system that goes through all stages; `heat_per_m3` is the heat capacity of air at the site, J/m³K."""

    brief: SystemBrief
    heat_per_m3: float
    rise_k: float
    climate: ClimateYear
    outdoors: Outdoors = field(repr=False)

    def air_side(self, wanted: ZonesWanted, outdoors: Outdoors, flow_wk: Series) -> AirSide:
        """Return what the air side asks."""
        air = self.brief.air
        if air.kind == "all_air":
            return by_air(wanted, air, outdoors, flow_wk, self.heat_per_m3)
        if air.kind == "unit":
            rooms = [by_air(_room(wanted, z), air, outdoors, flow_wk[z : z + 1], self.heat_per_m3) for z in range(len(flow_wk))]
            return _together(rooms)
        return beside_rooms(wanted, air, outdoors, self.heat_per_m3)

    def sized(self, heating: Design, cooling: Design) -> Sizes:
        """Size flows, sources of heat and cold by the design days and the margin."""
        brief = self.brief
        flow = np.maximum(*(design_flow(day.wanted, brief.air, brief.margin) for day in (heating, cooling)))
        cold_day, warm_day = (self.air_side(day.wanted, day.outdoors, flow) for day in (heating, cooling))
        lost = 1 + brief.emission.loss_share * (1 - brief.emission.recovered_share)
        heat = float(cold_day.heat_w.max()) * lost
        cold = (float((warm_day.cold_w * lost + cooling.coiled_w).max())) if brief.cold.kind != "none" else 0.0
        rated = tuple(rated_w(source, heat, brief.margin) for source in brief.heat)
        return Sizes(flow, heat, cold, rated, rated_w(brief.cold, cold, brief.margin))

    def year(
        self, wanted: ZonesWanted, coiled_w: Series, dried_w: Series, wetted_w: Series, litres_h: Series, spared: Series, sizes: Sizes,
        design_c: float,
    ) -> StagedYear:  # fmt: skip
        """Go through all stages for a year.

        Parameters
        ----------
        coiled_w, dried_w, wetted_w : latent loads, (8760,) W
        litres_h, spared : hot water drawn, and the share of it that the sun heats
        design_c : outdoor temperature of the coldest design day
        """
        brief, outdoors = self.brief, self.outdoors
        air = self.air_side(wanted, outdoors, sizes.flow_wk)
        water = distribute(air.heat_w, air.cold_w, brief.emission, outdoors.air_c, design_c, sizes.heat_w)
        sources = list(zip(brief.heat, sizes.rated_heat_w, strict=True))
        heat, short_heat = heat_in_order(sources, water.heat_w, water.flow_c, water.return_c, outdoors, self.climate, design_c)
        cold, short_cold = cold_from(
            brief.cold, water.cold_w + coiled_w + dried_w, water.cold_flow_c, outdoors, self.climate, sizes.rated_cold_w
        )
        hot = hot_water_year(litres_h, spared, self.rise_k, brief.water)
        return StagedYear(
            air, water, hot, tuple(heat), tuple(self._for_water(hot.asked_w, sources, design_c)), cold, short_heat + air.short_heat_w,
            short_cold + air.short_cold_w, coiled_w, dried_w, wetted_w, sizes,
        )  # fmt: skip

    def _for_water(self, asked_w: Series, sources: list[tuple[HeatBrief, float]], design_c: float) -> list[Generated]:
        """What heats hot water: the heating's sources at the temperature of the store, or a heater of its own.

        The two are reckoned as if they took turns within the hour, so that hot water finds the whole power of the source. A store lets it
        run without going on and off, and the stand-by loss of a boiler counts with the heating.
        """
        water = self.brief.water
        store_c = np.full_like(asked_w, water.flow_c)
        most = float(asked_w.max(initial=0.0))
        if water.kind == "heating":
            tried = [(replace(source, standby_share=0.0, cycling=1.0), max(rated, most)) for source, rated in sources]
            return heat_in_order(tried, asked_w, store_c, store_c, self.outdoors, self.climate, design_c)[0]
        if water.kind == "heat_pump":
            own = HeatBrief(
                "ground_heat_pump", "electricity", efficiency=water.efficiency, hot_approach_k=3.0, cold_approach_k=6.0, most_cop=6.0
            )
            warm = np.maximum(self.outdoors.air_c, WATER_SOURCE_C)
            return [heat_from(own, asked_w, store_c, store_c, warm, self.outdoors, most, design_c)]
        heater = HeatBrief("direct_electric", "electricity", efficiency=water.efficiency)
        return heat_in_order([(heater, most)], asked_w, store_c, store_c, self.outdoors, self.climate, design_c)[0]

    def told(self, year: StagedYear, zones: int, floor_area: float) -> SystemTold:
        """Sum a year up."""
        air, water, hot = year.air, year.water, year.hot_water
        return {
            "id": self.brief.id,
            "name": self.brief.name,
            "ready": self.brief.ready,
            "zones": zones,
            "floor_area_m2": floor_area,
            "rooms_heat_kwh": _kwh(air.heat_w - air.preheat_w - air.reheat_w),
            "preheat_kwh": _kwh(air.preheat_w),
            "reheat_kwh": _kwh(air.reheat_w),
            "heat_lost_kwh": _kwh(water.heat_lost_w),
            "water_drawn_kwh": _kwh(hot.drawn_w),
            "water_lost_kwh": _kwh(hot.stored_w + hot.circulated_w),
            "water_sun_kwh": _kwh(hot.sun_w),
            "rooms_cold_kwh": _kwh(air.cold_w),
            "latent_kwh": _kwh(year.latent_w + year.dried_w),
            "cold_lost_kwh": _kwh(water.cold_lost_w),
            "recovered_kwh": _kwh(air.recovered_w),
            "fans_kwh": _kwh(air.fan_w),
            "pumps_kwh": _kwh(water.pump_w),
            "heat": [_source(m, rated, True) for m, rated in zip(year.heat, year.sizes.rated_heat_w, strict=True)],
            "water": [_source(m, float(m.capacity_w.max(initial=0.0)), True) for m in year.for_water],
            "cold": [_source(year.cold, year.sizes.rated_cold_w, False)] if year.cold.kind != "none" else [],
            "short_heat_h": int((year.short_heat_w > SHORT_SHARE * max(year.sizes.heat_w, 1.0)).sum()),
            "short_cold_h": int((year.short_cold_w > SHORT_SHARE * max(year.sizes.cold_w, 1.0)).sum()) if year.cold.kind != "none" else 0,
        }


def _source(made: Generated, rated_w: float, heats: bool) -> SourceTold:
    given, bought = _kwh(made.given_w), _kwh(made.bought_w)
    return {
        "kind": made.kind,
        "carrier": made.carrier,
        "rated_kw": rated_w / 1000.0,
        "given_kwh": given,
        "bought_kwh": bought,
        "ambient_kwh": _kwh(made.ambient_w) if heats and is_pump(made.kind) else 0.0,
        "hours": int((made.given_w > 0).sum()),
        "seasonal_factor": given / bought if bought > 0 else None,
    }


def _room(wanted: ZonesWanted, z: int) -> ZonesWanted:
    one = slice(z, z + 1)
    return ZonesWanted(wanted.heating_w[one], wanted.cooling_w[one], wanted.vented_w[one], wanted.air_c[one], wanted.fresh_wk[one])


def _together(rooms: list[AirSide]) -> AirSide:
    """Air units of several rooms as one; the supply temperature is their mean by flow."""
    sums = {name: np.sum([getattr(r, name) for r in rooms], axis=0) for name in AirSide.__dataclass_fields__ if name != "supply_c"}
    moved = np.maximum(sums["moved_wk"], 1e-12)
    heat = np.sum([np.nan_to_num(r.supply_c) * r.moved_wk for r in rooms], axis=0)
    return AirSide(**sums, supply_c=np.where(sums["moved_wk"] > 0, heat / moved, np.nan))


def _kwh(series: Series) -> float:
    return float(series.sum()) / 1000.0
