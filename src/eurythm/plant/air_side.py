"""The air side of systems: from what zones ask to loads of coils, fans and water, hour by hour.

Flows are heat capacity flows, W/K (flow times density times heat capacity), so that a flow times a difference of temperatures is a power.
Arrays have (Z, H) for zones and (H,) for systems; H is a year or some days of it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.systems import AirBrief
from eurythm.climate.air import saturation_pa
from eurythm.thermal.elements import EVAPORATION

Series = NDArray[np.float64]
LITRES_PER_M3 = 1000.0
AIR_J_KGK = 1006.0
SEA_LEVEL_PA = 101325.0
RETURN_HUMIDITY = 0.5
"""Relative humidity of return air by which an enthalpy economiser decides: our own assumption."""
LEAST_DROP_K = 2.0
"""Supply air is reckoned this much colder or warmer than a room at the least while flows are sized, so that none is endless."""
NEARLY_NONE_K = 1e-3
"""Where supply air is as warm as a room that asks for cold, the room gets its whole flow."""
COLD_RESET_C, WARM_RESET_C = 0.0, 18.0
"""Outdoor temperatures between which the supply temperature is reset: our own assumption."""


@dataclass(frozen=True, eq=False)
class ZonesWanted:
    """What the zones of a system ask, (Z, H) each.

    Attributes
    ----------
    heating_w, cooling_w : sensible loads, both positive, W
    vented_w : heat that their outdoor air brings them, after heat recovery, W
    air_c : room temperature, °C
    fresh_wk : outdoor air, W/K
    """

    heating_w: Series
    cooling_w: Series
    vented_w: Series
    air_c: Series
    fresh_wk: Series


@dataclass(frozen=True, eq=False)
class Outdoors:
    """Weather by the hour, (H,): air °C, humidity ratio kg/kg, wet bulb °C, relative humidity %."""

    air_c: Series
    vapour_kg_kg: Series
    wet_bulb_c: Series
    humidity_pct: Series


@dataclass(frozen=True, eq=False)
class AirSide:
    """What the air side asks of water and takes itself, (H,) each, W unless said otherwise.

    Attributes
    ----------
    heat_w : heat for rooms and coils; of it `preheat_w` before or in the air handler and `reheat_w` before the rooms
    cold_w : sensible cold for rooms and coils
    fan_w : electricity of fans
    recovered_w : heat that exhaust air gave back
    moved_wk : air that is moved, W/K; of it `outdoor_wk` from outdoors
    supply_c : supply air, °C; not a number where nothing is supplied
    short_heat_w, short_cold_w : what rooms asked and air could not bring
    """

    heat_w: Series
    cold_w: Series
    preheat_w: Series
    reheat_w: Series
    fan_w: Series
    recovered_w: Series
    moved_wk: Series
    outdoor_wk: Series
    supply_c: Series
    short_heat_w: Series
    short_cold_w: Series


def beside_rooms(wanted: ZonesWanted, air: AirBrief, outdoors: Outdoors, heat_per_m3: float) -> AirSide:
    """Air for people alone, rooms heated and cooled by themselves: windows, extract, balanced ventilation.

    Where outdoor air is warmed so that the exchanger does not freeze, rooms are asked less by what of it reaches them: with a
    recovery r, 1 - r of the warming.
    """
    fresh = wanted.fresh_wk.sum(axis=0)
    heating, cooling = wanted.heating_w.sum(axis=0), wanted.cooling_w.sum(axis=0)
    none = np.zeros_like(fresh)
    preheat = none
    r = air.heat_recovery
    room_c = np.where(fresh > 0, (wanted.fresh_wk * wanted.air_c).sum(axis=0) / np.maximum(fresh, 1e-12), outdoors.air_c)
    if air.frost_c is not None and r > 0:
        least_c = room_c - (room_c - air.frost_c) / r
        preheat = fresh * np.maximum(least_c - outdoors.air_c, 0.0)
        heating = heating - np.minimum(heating, (1 - r) * preheat)
    fans = fresh / heat_per_m3 * LITRES_PER_M3 * air.fan_w_ls
    recovered = fresh * r * np.maximum(room_c - outdoors.air_c, 0.0) if r > 0 else none
    return AirSide(
        heat_w=heating + preheat, cold_w=cooling, preheat_w=preheat, reheat_w=none, fan_w=fans, recovered_w=recovered, moved_wk=fresh,
        outdoor_wk=fresh, supply_c=np.full_like(fresh, np.nan), short_heat_w=none, short_cold_w=none,
    )  # fmt: skip


def design_flow(wanted: ZonesWanted, air: AirBrief, margin: float) -> Series:
    """Return the flow that each room's supply is built for, (Z,) W/K: for its largest need in some design hours, and its outdoor air."""
    need = wanted.heating_w - wanted.cooling_w + wanted.vented_w
    drop = np.maximum(wanted.air_c - air.supply_c, LEAST_DROP_K)
    rise = np.maximum(air.most_supply_c - wanted.air_c, LEAST_DROP_K)
    by_load = np.where(need < 0, -need / drop, need / rise).max(axis=1) * margin
    flow: Series = np.maximum(by_load, wanted.fresh_wk.max(axis=1))
    return flow


def by_air(wanted: ZonesWanted, air: AirBrief, outdoors: Outdoors, design_wk: Series, heat_per_m3: float) -> AirSide:
    """Air that heats and cools rooms: one air handler, a flow for each room that varies with its load, reheat before each room.

    A room needs `heating - cooling + vented`: what its own outdoor air would bring comes with the supply. It is cooled by flow at the
    supply temperature; below its least flow, and where it needs heat, its air is reheated. The handler mixes outdoor and return air after
    heat recovery, warms or cools it to the supply temperature, and its fans' heat stays in the air.

    Parameters
    ----------
    design_wk : (Z,) flow that each room's supply is built for
    """
    need = wanted.heating_w - wanted.cooling_w + wanted.vented_w
    room_c, fresh = wanted.air_c, wanted.fresh_wk
    most = design_wk[:, None]
    runs = (fresh > 0) | (np.abs(wanted.heating_w) + np.abs(wanted.cooling_w) > 0)
    least = np.where(fresh > 0, np.maximum(fresh, air.least_share * most), 0.0)
    if air.kind == "unit":
        least = np.where(runs, np.maximum(fresh, most), 0.0)
    cold_c = _supply(air, outdoors, need, room_c, most)
    drop = np.maximum(room_c - cold_c, NEARLY_NONE_K)
    rise = np.maximum(air.most_supply_c - room_c, LEAST_DROP_K)
    flow = np.where(need < 0, -need / drop, need / rise)
    flow = np.where(runs, np.minimum(np.maximum(flow, least), np.maximum(most, fresh)), 0.0)
    moves = flow > 0
    into_c = np.where(moves, room_c + need / np.where(moves, flow, 1.0), room_c)
    short_heat = np.where(moves, flow * np.maximum(into_c - air.most_supply_c, 0.0), np.maximum(need, 0.0) * runs).sum(axis=0)
    into_c = np.minimum(into_c, np.maximum(air.most_supply_c, room_c))
    coldest = np.where(moves, into_c, np.inf).min(axis=0)
    wants_cold = (moves & (need < 0)).any(axis=0)

    moved, outdoor = flow.sum(axis=0), np.minimum(fresh, flow).sum(axis=0)
    some = np.maximum(moved, 1e-12)
    back_c = np.where(moved > 0, (flow * room_c).sum(axis=0) / some, outdoors.air_c)
    share = outdoor / some
    capacity = float(design_wk.sum())
    fans = capacity / heat_per_m3 * LITRES_PER_M3 * air.fan_w_ls * np.minimum(moved / max(capacity, 1e-12), 1.0) ** air.fan_exponent
    fans = np.where(moved > 0, fans, 0.0)
    warmed_k = fans / some

    target = np.where(wants_cold, cold_c, np.clip(coldest, cold_c, air.most_supply_c)) - warmed_k
    may = _cools(air, outdoors, back_c) & (back_c > target)
    wider = np.clip((back_c - target) / np.maximum(back_c - outdoors.air_c, 1e-9), share, 1.0)
    share = np.where(may, wider, share)
    mixed_c = share * outdoors.air_c + (1 - share) * back_c
    gain_k = share * air.heat_recovery * (back_c - outdoors.air_c)
    helps = np.where(gain_k > 0, np.clip(target - mixed_c, 0.0, gain_k), np.clip(target - mixed_c, gain_k, 0.0))
    before_c = mixed_c + helps + warmed_k
    leaves_c = target + warmed_k
    # where no room asks for cold, air that comes warmer than it has to be is not cooled, unless a room would get too warm by it
    leaves_c = np.where(wants_cold, leaves_c, np.clip(before_c, leaves_c, np.maximum(coldest, leaves_c)))
    preheat = moved * np.maximum(leaves_c - before_c, 0.0)
    chilled = moved * np.maximum(before_c - leaves_c, 0.0)
    reheat = (flow * np.maximum(into_c - leaves_c, 0.0)).sum(axis=0)
    short_cold = np.where(moves, flow * np.maximum(leaves_c - into_c, 0.0), np.maximum(-need, 0.0) * runs).sum(axis=0)
    return AirSide(
        heat_w=preheat + reheat, cold_w=chilled, preheat_w=preheat, reheat_w=reheat, fan_w=fans, recovered_w=moved * helps, moved_wk=moved,
        outdoor_wk=moved * share, supply_c=np.where(moved > 0, leaves_c, np.nan), short_heat_w=short_heat, short_cold_w=short_cold,
    )  # fmt: skip


def _supply(air: AirBrief, outdoors: Outdoors, need: Series, room_c: Series, most: Series) -> Series:
    """The temperature to which supply air is cooled, (H,) °C."""
    fixed = np.full(need.shape[1], air.supply_c)
    if air.kind == "unit" or air.reset == "need":
        lowest = np.where(need < 0, room_c + need / np.maximum(most, 1e-12), np.inf).min(axis=0)
        needed: Series = np.where(np.isfinite(lowest), np.clip(lowest, air.supply_c, air.most_supply_c), air.supply_c)
        return needed
    if air.reset == "outdoor":
        part = np.clip((WARM_RESET_C - outdoors.air_c) / (WARM_RESET_C - COLD_RESET_C), 0.0, 1.0)
        reset: Series = air.supply_c + part * (max(air.supply_cold_c, air.supply_c) - air.supply_c)
        return reset
    return fixed


def _cools(air: AirBrief, outdoors: Outdoors, back_c: Series) -> NDArray[np.bool_]:
    """Whether outdoor air may cool in place of the coil, by the kind of economiser."""
    cooler: NDArray[np.bool_] = outdoors.air_c < back_c
    if air.economiser == "none":
        return np.zeros_like(cooler)
    if air.economiser == "dry_bulb":
        return cooler
    vapour = RETURN_HUMIDITY * saturation_pa(back_c)
    held = AIR_J_KGK * back_c + EVAPORATION * 0.622 * vapour / (SEA_LEVEL_PA - vapour)
    lighter: NDArray[np.bool_] = AIR_J_KGK * outdoors.air_c + EVAPORATION * outdoors.vapour_kg_kg < held
    return cooler & lighter
