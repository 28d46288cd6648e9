"""Systems completed: ready combinations of air side, emission, sources and hot water, and what a scheme has otherwise.

Every figure is our own assumption, in the range of common products and of EN 16798, EN 15316 and EN 14825 (unverified).
"""

from __future__ import annotations

import fnmatch
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError
from eurythm.model.plant import (
    AirFigures,
    AirKind,
    Carrier,
    ColdFigures,
    ColdKind,
    Economise,
    EmissionFigures,
    EmissionKind,
    HeatFigures,
    HeatKind,
    Plant,
    Reset,
    SystemFigures,
    WaterFigures,
    WaterKind,
)

SEASONAL = "seasonal"
Figures = Mapping[str, Any]

AIR: dict[AirKind, dict[str, Any]] = {
    "windows": {},
    "extract": {"fan_w_ls": 0.7},
    "balanced": {"heat_recovery": 0.78, "frost_c": 1.0, "fan_w_ls": 1.6},
    "unit": {"heat_recovery": 0.70, "fan_w_ls": 1.4, "fan_exponent": 1.0, "economiser": "dry_bulb", "supply_c": 16.0, "most_supply_c": 38.0},
    "all_air": {
        "heat_recovery": 0.70, "fan_w_ls": 2.2, "fan_exponent": 2.0, "economiser": "dry_bulb", "supply_c": 16.0, "reset": "fixed",
        "supply_cold_c": 19.0, "most_supply_c": 35.0, "least_share": 0.3,
    },
}  # fmt: skip
"""Figures that each kind of air side has, and which have a meaning there."""
EMISSION: dict[EmissionKind, dict[str, Any]] = {
    "radiators": {"flow_c": 55.0, "return_c": 45.0, "least_flow_c": 30.0, "ends_above_c": 16.0, "cold_flow_c": 7.0, "loss_share": 0.06, "recovered_share": 0.5, "pump_share": 0.008},
    "floor": {"flow_c": 35.0, "return_c": 29.0, "least_flow_c": 24.0, "ends_above_c": 16.0, "cold_flow_c": 18.0, "loss_share": 0.07, "recovered_share": 0.4, "pump_share": 0.012},
    "ceiling": {"flow_c": 35.0, "return_c": 31.0, "least_flow_c": 26.0, "ends_above_c": 16.0, "cold_flow_c": 16.0, "loss_share": 0.04, "recovered_share": 0.4, "pump_share": 0.014},
    "fan_coils": {"flow_c": 45.0, "return_c": 39.0, "least_flow_c": 33.0, "ends_above_c": 16.0, "cold_flow_c": 7.0, "loss_share": 0.04, "recovered_share": 0.3, "pump_share": 0.015},
    "air": {"flow_c": 45.0, "return_c": 37.0, "least_flow_c": 33.0, "ends_above_c": 16.0, "cold_flow_c": 7.0, "loss_share": 0.03, "recovered_share": 0.2, "pump_share": 0.010},
}  # fmt: skip
HEAT: dict[HeatKind, dict[str, Any]] = {
    "none": {},
    "air_heat_pump": {"share": 1.0, "efficiency": 0.54, "hot_approach_k": 4.0, "cold_approach_k": 9.0, "most_cop": 7.0, "turndown": 0.3, "cycling": 0.9, "defrost": 0.10, "bivalent_c": -22.0},
    "ground_heat_pump": {"share": 1.0, "efficiency": 0.56, "hot_approach_k": 4.0, "cold_approach_k": 11.0, "most_cop": 8.0, "turndown": 0.3, "cycling": 0.9, "depth_m": 60.0},
    "water_heat_pump": {"share": 1.0, "efficiency": 0.58, "hot_approach_k": 4.0, "cold_approach_k": 5.0, "most_cop": 8.0, "turndown": 0.3, "cycling": 0.9, "depth_m": 12.0},
    "boiler": {"share": 1.0, "carrier": "gas", "efficiency": 0.87, "condensing": 0.96, "standby_share": 0.005},
    "district_heat": {"share": 1.0, "efficiency": 0.98},
    "direct_electric": {"share": 1.0, "efficiency": 1.0},
}  # fmt: skip
COLD: dict[ColdKind, dict[str, Any]] = {
    "none": {},
    "air_chiller": {"efficiency": 0.48, "hot_approach_k": 12.0, "cold_approach_k": 4.0, "most_cop": 9.0, "turndown": 0.25, "cycling": 0.9},
    "tower_chiller": {"efficiency": 0.52, "hot_approach_k": 9.0, "cold_approach_k": 3.0, "most_cop": 12.0, "turndown": 0.15, "cycling": 0.9},
    "ground": {"efficiency": 0.50, "hot_approach_k": 6.0, "cold_approach_k": 3.0, "most_cop": 20.0, "turndown": 0.2, "cycling": 1.0, "depth_m": 60.0},
    "district_cold": {"efficiency": 0.98},
}  # fmt: skip
WATER: dict[WaterKind, dict[str, Any]] = {
    "heating": {"flow_c": 60.0, "storage_loss_kwh_day": 2.5, "circulation_share": 0.25},
    "electric": {"flow_c": 55.0, "storage_loss_kwh_day": 0.8, "circulation_share": 0.0, "efficiency": 0.99},
    "heat_pump": {"flow_c": 55.0, "storage_loss_kwh_day": 2.0, "circulation_share": 0.15, "efficiency": 0.42},
}
GROUPS: dict[str, tuple[type[Any], Mapping[Any, dict[str, Any]]]] = {
    "air": (AirFigures, AIR), "emission": (EmissionFigures, EMISSION), "heat": (HeatFigures, HEAT), "peak": (HeatFigures, HEAT),
    "cold": (ColdFigures, COLD), "water": (WaterFigures, WATER),
}  # fmt: skip
"""The parts of a system: their model, and the figures that each kind of them has."""


@dataclass(frozen=True)
class Ready:
    """A ready combination: what it is called, what it is, and what its parts are; `more` holds figures that differ from the usual ones of a kind."""

    id: str
    name: str
    about: str
    air: AirKind
    emission: EmissionKind
    heat: HeatKind
    peak: HeatKind
    cold: ColdKind
    water: WaterKind
    more: Mapping[str, Figures] = field(default_factory=dict)

    def kind(self, group: str) -> str:
        """Return what it has for one of its parts."""
        return str(getattr(self, group))


READY: tuple[Ready, ...] = (
    Ready(
        "gas-radiators", "Gas boiler, radiators, windows",
        "A condensing gas boiler feeds radiators, people open windows for air, nothing cools. Common in older and plain buildings: cheap to build, "
        "little to keep up. All warm air that leaves is lost, the boiler condenses only while the return is cool, and its gas stays fossil.",
        "windows", "radiators", "boiler", "none", "none", "heating",
    ),
    Ready(
        "gas-extract", "Gas boiler, radiators, extract fans",
        "As with windows, but fans draw air from wet rooms and outdoor air follows through slots in the walls. Steady air for little power; its heat is lost all the same.",
        "extract", "radiators", "boiler", "none", "none", "heating",
    ),
    Ready(
        "biomass-radiators", "Pellet boiler, radiators, balanced ventilation",
        "Pellets or chips burn for radiators; ventilation gives heat back. For places with a store and somebody to look after it: low carbon by its factor, more upkeep, dust.",
        "balanced", "radiators", "boiler", "none", "none", "heating", {"heat": {"carrier": "biomass", "efficiency": 0.84, "condensing": 0.86, "standby_share": 0.01}},
    ),
    Ready(
        "district-radiators", "District heat, radiators, balanced ventilation",
        "A transfer station takes heat from the network for radiators; ventilation gives heat back. Little plant in the house; what it costs and emits is the network's.",
        "balanced", "radiators", "district_heat", "none", "none", "heating",
    ),
    Ready(
        "district-fan-coils", "District heat and cold, fan coils, balanced ventilation",
        "Networks bring heat and cold to fan coils in the rooms. Fast and compact where both networks are at hand; the coils dry the air, and their fans can be heard.",
        "balanced", "fan_coils", "district_heat", "none", "district_cold", "heating",
    ),
    Ready(
        "electric-panels", "Electric panels, extract fans",
        "Panels turn electricity into heat in the room; no water, no losses on the way. Cheapest to build; every unit of heat is bought as electricity.",
        "extract", "radiators", "direct_electric", "none", "none", "electric", {"emission": {"loss_share": 0.0, "pump_share": 0.0}},
    ),
    Ready(
        "air-pump-radiators", "Air heat pump, radiators, balanced ventilation",
        "An air heat pump feeds large radiators. Fits existing pipes; its COP falls with warm water and on cold days, when it must defrost as well.",
        "balanced", "radiators", "air_heat_pump", "direct_electric", "none", "heating", {"emission": {"flow_c": 50.0, "return_c": 42.0}},
    ),
    Ready(
        "air-pump-floor", "Air heat pump, floor heating, balanced ventilation",
        "An air heat pump feeds the floor with lukewarm water. Good COP for little plant; the floor is slow and stores what the sun brings.",
        "balanced", "floor", "air_heat_pump", "direct_electric", "none", "heating",
    ),
    Ready(
        "air-pump-fan-coils", "Reversible air heat pump, fan coils, balanced ventilation",
        "One machine heats in winter and cools in summer, through fan coils. Little room and one trade; cold water of 7 °C dries the air at the price of a lower EER.",
        "balanced", "fan_coils", "air_heat_pump", "direct_electric", "air_chiller", "heating",
    ),
    Ready(
        "air-pump-gas", "Air heat pump with gas peak, radiators, balanced ventilation",
        "A smaller heat pump runs most of the year, a gas boiler helps on cold days. Less electrical peak and a small machine; two plants to keep.",
        "balanced", "radiators", "air_heat_pump", "boiler", "none", "heating", {"heat": {"share": 0.5, "bivalent_c": -5.0}},
    ),
    Ready(
        "ground-pump-floor", "Ground heat pump, floor heating, free cooling",
        "A heat pump draws on probes in the ground and feeds the floor; in summer the ground cools the same floor by pumps alone. Best where the plot allows drilling; dear to build, cheap to run.",
        "balanced", "floor", "ground_heat_pump", "direct_electric", "ground", "heating",
    ),
    Ready(
        "water-pump-ceilings", "Groundwater heat pump, ceilings",
        "Groundwater feeds a heat pump and cools chilled ceilings without one. Steady temperatures all year; needs wells and leave to use them.",
        "balanced", "ceiling", "water_heat_pump", "direct_electric", "ground", "heating", {"cold": {"depth_m": 12.0, "most_cop": 15.0}},
    ),
    Ready(
        "gas-fan-coils", "Gas boiler and chiller, fan coils, balanced ventilation",
        "Four pipes: a gas boiler and an air-cooled chiller serve fan coils. Heats and cools whatever is asked; two plants, and gas stays fossil.",
        "balanced", "fan_coils", "boiler", "none", "air_chiller", "heating",
    ),
    Ready(
        "room-units", "One air unit a room, reversible heat pump",
        "Each hall has its own air unit, fed by a reversible heat pump. For halls and shops: fast, simple, nothing reheated; it moves much air for each kilowatt.",
        "unit", "air", "air_heat_pump", "direct_electric", "air_chiller", "electric",
    ),
    Ready(
        "all-air-gas", "All-air with variable flow and reheat, gas and chiller",
        "One air handler supplies cold air, boxes throttle it room by room and reheat it where it is too cold. Cools deep plans well and uses outdoor air where it can; what is reheated is paid for twice.",
        "all_air", "air", "boiler", "none", "air_chiller", "electric", {"emission": {"flow_c": 60.0, "return_c": 45.0}},
    ),
    Ready(
        "all-air-pump", "All-air with variable flow and reheat, heat pump",
        "The same air handler fed by a reversible air heat pump. No gas; reheating at low water temperature keeps the COP bearable.",
        "all_air", "air", "air_heat_pump", "direct_electric", "air_chiller", "electric", {"air": {"reset": "need"}},
    ),
    Ready(
        "all-air-district", "All-air with variable flow and reheat, district heat, chiller with tower",
        "District heat for preheat and reheat, cold from a chiller that gives its heat to a cooling tower. For large houses with much to cool; the tower takes water and care.",
        "all_air", "air", "district_heat", "none", "tower_chiller", "heating", {"emission": {"flow_c": 60.0, "return_c": 45.0}},
    ),
)  # fmt: skip
BY_ID: dict[str, Ready] = {ready.id: ready for ready in READY}
SYSTEM_NAMES = {SEASONAL: "seasonal figures", **{ready.id: ready.name for ready in READY}}
"""Of ready combinations, and of seasonal figures, by id."""


@dataclass(frozen=True)
class AirBrief:
    """The air side that a system has: see `model.plant.AirFigures`; None where a figure has no meaning."""

    kind: AirKind
    heat_recovery: float = 0.0
    frost_c: float | None = None
    fan_w_ls: float = 0.0
    fan_exponent: float = 1.0
    economiser: Economise = "none"
    supply_c: float = 16.0
    reset: Reset = "need"
    supply_cold_c: float = 16.0
    most_supply_c: float = 35.0
    least_share: float = 1.0

    @property
    def by_air(self) -> bool:
        """Whether air brings heat and cold into rooms."""
        return self.kind in ("unit", "all_air")


@dataclass(frozen=True)
class EmissionBrief:
    """How heat and cold get into rooms: see `model.plant.EmissionFigures`."""

    kind: EmissionKind
    flow_c: float
    return_c: float
    least_flow_c: float
    ends_above_c: float
    cold_flow_c: float
    loss_share: float
    recovered_share: float
    pump_share: float


@dataclass(frozen=True)
class HeatBrief:
    """A source of heat: see `model.plant.HeatFigures`; figures without a meaning for its kind stand as if they did nothing."""

    kind: HeatKind
    carrier: Carrier
    power_kw: float | None = None
    share: float = 1.0
    efficiency: float = 1.0
    condensing: float = 1.0
    hot_approach_k: float = 0.0
    cold_approach_k: float = 0.0
    most_cop: float = 30.0
    turndown: float = 1.0
    cycling: float = 1.0
    defrost: float = 0.0
    bivalent_c: float = -60.0
    standby_share: float = 0.0
    depth_m: float = 0.0


@dataclass(frozen=True)
class ColdBrief:
    """A source of cold: see `model.plant.ColdFigures`."""

    kind: ColdKind
    carrier: Carrier
    power_kw: float | None = None
    efficiency: float = 1.0
    hot_approach_k: float = 0.0
    cold_approach_k: float = 0.0
    most_cop: float = 30.0
    turndown: float = 1.0
    cycling: float = 1.0
    depth_m: float = 0.0


@dataclass(frozen=True)
class WaterBrief:
    """Hot water: see `model.plant.WaterFigures`."""

    kind: WaterKind
    flow_c: float = 60.0
    storage_loss_kwh_day: float = 0.0
    circulation_share: float = 0.0
    efficiency: float = 1.0


@dataclass(frozen=True)
class SystemBrief:
    """A system with all its figures; None for its parts where it is the plain one of seasonal figures."""

    id: str
    name: str
    ready: str
    margin: float
    air: AirBrief
    emission: EmissionBrief
    heat: tuple[HeatBrief, ...]
    cold: ColdBrief
    water: WaterBrief


CARRIERS: dict[str, Carrier] = {"district_heat": "district_heat", "district_cold": "district_cold"}


def usual_of(figures: SystemFigures, group: str) -> dict[str, Any]:
    """Return the figures that a part of a system has where nothing is given: of its kind, and of its ready combination where it has that kind.

    Raises
    ------
    EurythmError
        ``unknown-system``.
    """
    ready = ready_of(figures.ready)
    kind = getattr(figures, group).kind or ready.kind(group)
    of_ready = dict(ready.more.get(group, {})) if kind == ready.kind(group) else {}
    return {"kind": kind, **GROUPS[group][1][kind], **of_ready}


def ready_of(name: str, path: str = "scheme/plant/main/ready") -> Ready:
    """Return a ready combination. Raises EurythmError ``unknown-system``."""
    if name not in BY_ID:
        raise EurythmError("unknown-system", f"There is no system “{name:.60}”; there are seasonal figures and {', '.join(BY_ID)}.", path)
    return BY_ID[name]


def idle_figures(figures: SystemFigures) -> list[str]:
    """Return which given figures have no meaning in a system as it stands, by their paths in it."""
    if figures.ready == SEASONAL:
        return [f"{group}/{name}" for group in GROUPS for name in sorted(getattr(figures, group).model_fields_set)]
    idle = []
    for group in GROUPS:
        known = usual_of(figures, group).keys() | ({"power_kw"} if getattr(figures, group).kind != "none" else set())
        idle += [f"{group}/{name}" for name in sorted(getattr(figures, group).model_fields_set) if name not in known]
    return idle


def _part(figures: SystemFigures, group: str, brief: type[Any], **more: Any) -> Any:
    given = getattr(figures, group)
    known = usual_of(figures, group)
    own = {name: getattr(given, name) for name in known if getattr(given, name) is not None}
    return brief(**(known | own | more))


def _heat(figures: SystemFigures, group: str) -> HeatBrief:
    known = usual_of(figures, group)
    given = getattr(figures, group)
    carrier = CARRIERS.get(known["kind"]) or (
        given.carrier or known.get("carrier", "electricity") if known["kind"] == "boiler" else "electricity"
    )
    made: HeatBrief = _part(figures, group, HeatBrief, carrier=carrier, power_kw=given.power_kw)
    return made


def completed(figures: SystemFigures, id: str, name: str, path: str) -> SystemBrief:
    """Complete a system.

    Raises
    ------
    EurythmError
        ``unknown-system``; ``system-without-source`` where heat has none; ``water-crossed`` where temperatures contradict each other.
    """
    ready = ready_of(figures.ready, f"{path}/ready")
    air: AirBrief = _part(figures, "air", AirBrief)
    emission: EmissionBrief = _part(figures, "emission", EmissionBrief)
    heat = tuple(h for h in (_heat(figures, "heat"), _heat(figures, "peak")) if h.kind != "none")
    if not heat:
        raise EurythmError("system-without-source", f"“{name or ready.name}” has no source of heat.", f"{path}/heat/kind")
    if emission.return_c >= emission.flow_c:
        raise EurythmError(
            "water-crossed",
            f"The return ({amount(emission.return_c, '°C')}) is not below the heating water ({amount(emission.flow_c, '°C')}).",
            f"{path}/emission/return_c",
        )
    if emission.least_flow_c > emission.flow_c:
        raise EurythmError(
            "water-crossed",
            f"The heating water at the least ({amount(emission.least_flow_c, '°C')}) is above that of the coldest day ({amount(emission.flow_c, '°C')}).",
            f"{path}/emission/least_flow_c",
        )
    for group, source in zip(("heat", "peak"), (h for h in heat if h.kind == "boiler"), strict=False):
        if source.condensing < source.efficiency:
            raise EurythmError(
                "boiler-crossed", "A boiler is no worse with a cool return than with a warm one.", f"{path}/{group}/condensing"
            )
    if air.by_air and air.most_supply_c <= air.supply_c:
        raise EurythmError(
            "supply-crossed",
            f"The warmest supply air ({amount(air.most_supply_c, '°C')}) is not above the coldest ({amount(air.supply_c, '°C')}).",
            f"{path}/air/most_supply_c",
        )
    cold_kind = usual_of(figures, "cold")["kind"]
    carrier: Carrier = "district_cold" if cold_kind == "district_cold" else "electricity"
    cold: ColdBrief = _part(figures, "cold", ColdBrief, carrier=carrier, power_kw=figures.cold.power_kw)
    water: WaterBrief = _part(figures, "water", WaterBrief)
    return SystemBrief(id, name or ready.name, figures.ready, figures.margin, air, emission, heat, cold, water)


@lru_cache(maxsize=64)
def systems_of(plant: Plant) -> tuple[SystemBrief | None, ...]:
    """Return the scheme's own system and those of zone groups, in the order in which `system_at` counts them; None for seasonal figures.

    Raises
    ------
    EurythmError
        See `completed`.
    """
    return tuple(
        None if figures.ready == SEASONAL else completed(figures, path.rpartition("/")[2], name, f"scheme/{path}")
        for path, figures, name in every_system(plant)
    )


def every_system(plant: Plant) -> list[tuple[str, SystemFigures, str]]:
    """Return the scheme's own system and those of zone groups, each with its path in the scheme and its name."""
    return [("plant/main", plant.main, ""), *((f"plant/systems/{s.id}", s, s.name) for s in plant.systems)]


def system_at(plant: Plant, zone_ids: Sequence[str]) -> list[int]:
    """Return which system each zone has: 0 for the scheme's own, else one more than the place of the last group whose pattern fits."""
    found = []
    for zone in zone_ids:
        fitting = [k for k, s in enumerate(plant.systems, start=1) if any(fnmatch.fnmatchcase(zone, pattern) for pattern in s.zones)]
        found.append(fitting[-1] if fitting else 0)
    return found


COIL_ABOVE_WATER_K = 4.0
"""A coil's surface is this much warmer than the water in it: our own assumption."""


@dataclass(frozen=True)
class ZoneAir:
    """What the heat balance takes of the system of a zone.

    Attributes
    ----------
    system : which system it has, as `system_at` counts them
    by_air : whether air heats and cools it, so that its own load is asked for
    heat_recovery, economiser : of its outdoor air
    fan_w_ls : of fans whose heat reaches the room
    coil_c : dew point of what cools it, °C
    cooled : whether anything cools it
    """

    system: int
    by_air: bool
    heat_recovery: float
    economiser: float
    fan_w_ls: float
    coil_c: float
    cooled: bool


def zone_airs(plant: Plant, zone_ids: Sequence[str]) -> tuple[ZoneAir, ...]:
    """Return what the heat balance takes of the systems of zones. Raises EurythmError, see `completed`."""
    systems = systems_of(plant)
    seasonal, found = plant.ventilation, []
    for number in system_at(plant, zone_ids):
        system = systems[number]
        if system is None:
            figures = (seasonal.heat_recovery, seasonal.economiser, seasonal.fan_w_ls, plant.cooling.coil_c, True)
            found.append(ZoneAir(number, False, *figures))
            continue
        fans = system.air.fan_w_ls if system.air.kind == "balanced" else 0.0
        cooled = system.cold.kind != "none"
        coil_c = system.emission.cold_flow_c + COIL_ABOVE_WATER_K if cooled else plant.cooling.coil_c
        found.append(ZoneAir(number, system.air.by_air, system.air.heat_recovery, 1.0, fans, coil_c, cooled))
    return tuple(found)
