"""Plant: what meets the demand, by plain seasonal figures or by systems with all their stages; panels on the roof."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from eurythm.model.field import OWN, Described, choice, quantity, text
from eurythm.model.ids import Id
from eurythm.model.part import Part
from eurythm.model.renewables import Arrays, Battery, Collectors, Inverters, Photovoltaics, Tank

Carrier = Literal["electricity", "gas", "district_heat", "district_cold", "biomass"]
DESIGN = f"{OWN} for a first sketch"
BALANCED = Part("use")
"""Of the plant, what the heat balance takes."""
READY = "as the system has it"
"""Source of figures that a ready combination says."""

AirKind = Literal["windows", "extract", "balanced", "unit", "all_air"]
EmissionKind = Literal["radiators", "floor", "ceiling", "fan_coils", "air"]
HeatKind = Literal["none", "air_heat_pump", "ground_heat_pump", "water_heat_pump", "boiler", "district_heat", "direct_electric"]
ColdKind = Literal["none", "air_chiller", "tower_chiller", "ground", "district_cold"]
WaterKind = Literal["heating", "electric", "heat_pump"]
Reset = Literal["fixed", "outdoor", "need"]
Economise = Literal["none", "dry_bulb", "enthalpy"]


class HeatSource(Described):
    """What meets the heating demand."""

    carrier: Carrier = choice("electricity", "Heating carrier", source=DESIGN)
    efficiency: float = quantity(
        3.0,
        "Heating efficiency",
        gt=0.05,
        le=15,
        usual=(0.7, 5),
        source=f"{OWN} for an air-water heat pump",
        lever=True,
        help="Seasonal, heat delivered to the room per energy bought",
    )
    most_w_m2: Annotated[float | None, BALANCED] = quantity(
        None, "Heating output at most", "W/m²", digits=0, ge=0, le=5000, usual=(10, 150), lever=True, help="Without limit unless given"
    )


class CoolSource(Described):
    """What meets the cooling demand."""

    efficiency: float = quantity(
        3.5,
        "Cooling efficiency",
        gt=0.05,
        le=30,
        usual=(2, 7),
        source=f"{OWN} for a chiller",
        lever=True,
        help="Seasonal, heat taken from the room per electricity",
    )
    coil_c: Annotated[float, BALANCED] = quantity(
        11.0, "Dew point of the coil", "°C", digits=1, ge=2, le=25, usual=(7, 16),
        help="Room air that is wetter than air at this temperature is dried while it is cooled; a cooled ceiling has a warm one",
        source=f"{OWN} for air cooled by cold water of 6 to 8 °C",
    )  # fmt: skip
    most_w_m2: Annotated[float | None, BALANCED] = quantity(
        None, "Cooling output at most", "W/m²", digits=0, ge=0, le=5000, usual=(10, 200), lever=True, help="Without limit unless given"
    )


class HotWater(Described):
    """What makes hot water."""

    carrier: Carrier = choice("electricity", "Hot water carrier", source=DESIGN)
    efficiency: float = quantity(2.2, "Hot water efficiency", gt=0.05, le=15, usual=(0.6, 4), source=f"{OWN} with storage losses")
    rise_k: float = quantity(45.0, "Temperature rise", "K", digits=0, ge=0, le=95, usual=(35, 55))


class Ventilation(Described):
    """Mechanical ventilation."""

    heat_recovery: Annotated[float, BALANCED] = quantity(
        0.75, "Heat recovery", ge=0, le=0.98, usual=(0.5, 0.9), source=DESIGN, lever=True, share=True
    )
    fan_w_ls: Annotated[float, BALANCED] = quantity(
        1.6, "Specific fan power", "W/(l/s)", ge=0, le=20, usual=(0.8, 3), source="EN 16798-3, order of size of SFP 3 (unverified)"
    )
    follows_people: Annotated[bool, BALANCED] = choice(
        True, "Follows people", lever=True, help="Outdoor air per person by those present; else for the most people while anyone is there"
    )
    economiser: Annotated[float, BALANCED] = quantity(
        1.0, "Economiser", "×", ge=1, le=10, usual=(1, 4), lever=True, source="none unless given",
        help="Outdoor air at most, as a multiple, while it is cooler out and a room nears its cooling setpoint",
    )  # fmt: skip
    pump_share: float = quantity(
        0.02, "Pumps", ge=0, le=1, usual=(0.005, 0.05), help="Pump electricity per heat and cold delivered", share=True
    )


class AirFigures(Described):
    """Air side of a system; what is not given is as its ready combination has it."""

    kind: AirKind | None = choice(None, "Air side", source=READY)
    heat_recovery: float | None = quantity(
        None, "Heat recovery", ge=0, le=0.98, usual=(0.5, 0.9), source=READY, lever=True, share=True, help="Of the air's sensible heat"
    )
    frost_c: float | None = quantity(
        None,
        "Exhaust air kept above",
        "°C",
        digits=1,
        ge=-30,
        le=15,
        usual=(-2, 5),
        source=READY,
        help="Outdoor air is warmed first, so that the exchanger does not freeze",
    )
    fan_w_ls: float | None = quantity(
        None, "Specific fan power", "W/(l/s)", ge=0, le=20, usual=(0.4, 3), source=READY, lever=True, help="All fans, at the design flow"
    )
    fan_exponent: float | None = quantity(
        None,
        "Fan power goes with flow to the power of",
        digits=1,
        ge=0,
        le=3,
        usual=(1, 3),
        source=READY,
        help="1: as the flow; 3: as the fan laws say",
    )
    economiser: Economise | None = choice(
        None, "Outdoor air cools where it can", source=READY, help="By temperature, or by heat content", lever=True
    )
    supply_c: float | None = quantity(
        None, "Supply air", "°C", digits=1, ge=5, le=30, usual=(12, 20), source=READY, lever=True, help="The coldest that it gets"
    )
    reset: Reset | None = choice(
        None,
        "Supply temperature",
        source=READY,
        lever=True,
        help="Fixed, warmer when it is cold outside, or as warm as the neediest room allows",
    )
    supply_cold_c: float | None = quantity(
        None, "Supply air when it is cold outside", "°C", digits=1, ge=5, le=30, usual=(16, 22), source=READY
    )
    most_supply_c: float | None = quantity(None, "Warmest supply air", "°C", digits=1, ge=20, le=60, usual=(28, 45), source=READY)
    least_share: float | None = quantity(
        None,
        "Least flow",
        ge=0,
        le=1,
        usual=(0.1, 0.5),
        source=READY,
        lever=True,
        share=True,
        help="Share of a room's design flow while outdoor air is asked for",
    )


class EmissionFigures(Described):
    """How heat and cold get into rooms; what is not given is as the system has it."""

    kind: EmissionKind | None = choice(None, "Emission", source=READY)
    flow_c: float | None = quantity(
        None, "Heating water on the coldest day", "°C", digits=0, ge=20, le=95, usual=(30, 70), source=READY, lever=True
    )
    return_c: float | None = quantity(None, "Return on the coldest day", "°C", digits=0, ge=15, le=90, usual=(25, 55), source=READY)
    least_flow_c: float | None = quantity(
        None, "Heating water at the least", "°C", digits=0, ge=15, le=90, usual=(22, 40), source=READY, help="Reached where heating ends"
    )
    ends_above_c: float | None = quantity(
        None,
        "Heating ends above",
        "°C",
        digits=0,
        ge=5,
        le=25,
        usual=(12, 18),
        source=READY,
        help="Outdoor temperature at which the heating curve ends",
    )
    cold_flow_c: float | None = quantity(None, "Cooling water", "°C", digits=0, ge=2, le=25, usual=(6, 18), source=READY, lever=True)
    loss_share: float | None = quantity(
        None, "Losses on the way", ge=0, le=0.5, usual=(0.01, 0.15), source=READY, share=True, help="Of the heat and cold that rooms get"
    )
    recovered_share: float | None = quantity(None, "Losses that help the rooms", ge=0, le=1, usual=(0, 0.8), source=READY, share=True)
    pump_share: float | None = quantity(
        None, "Pumps", ge=0, le=0.5, usual=(0.003, 0.03), source=READY, share=True, help="Electricity per heat and cold moved"
    )


class HeatFigures(Described):
    """A source of heat; what is not given is as the system has it."""

    kind: HeatKind | None = choice(None, "Heat source", source=READY)
    carrier: Literal["gas", "biomass"] | None = choice(None, "Burns", source=READY, help="Of a boiler")
    power_kw: float | None = quantity(
        None,
        "Rated power",
        "kW",
        digits=1,
        gt=0,
        le=1e6,
        lever=True,
        source="by the design day unless given",
        help="At the design day's temperatures",
    )
    share: float | None = quantity(
        None, "Share of the design load", gt=0, le=1, usual=(0.4, 1), source=READY, share=True, lever=True, help="Where no power is given"
    )
    efficiency: float | None = quantity(
        None,
        "Efficiency",
        gt=0.05,
        le=1.1,
        usual=(0.3, 1.0),
        source=READY,
        lever=True,
        help="Of heat pumps by the second law; of others per energy bought, of boilers with warm return",
    )
    condensing: float | None = quantity(
        None,
        "Efficiency with cool return",
        gt=0.05,
        le=1.1,
        usual=(0.85, 1.0),
        source=READY,
        help="Of boilers at a return of 30 °C; per upper heating value",
    )
    hot_approach_k: float | None = quantity(None, "Condenser above the water", "K", digits=1, ge=0, le=30, usual=(2, 8), source=READY)
    cold_approach_k: float | None = quantity(None, "Evaporator below the source", "K", digits=1, ge=0, le=40, usual=(4, 14), source=READY)
    most_cop: float | None = quantity(None, "COP at the most", digits=1, gt=1, le=30, usual=(5, 10), source=READY)
    turndown: float | None = quantity(
        None, "Runs down to", gt=0, le=1, usual=(0.15, 1), source=READY, share=True, help="Of its capacity; below that it goes on and off"
    )
    cycling: float | None = quantity(
        None,
        "Degradation by going on and off",
        ge=0.5,
        le=1,
        usual=(0.8, 1.0),
        source="EN 14825, 0.9 where it is not measured (unverified)",
        help="1: none",
    )
    defrost: float | None = quantity(
        None,
        "Lost to defrosting",
        ge=0,
        le=0.5,
        usual=(0.0, 0.2),
        source=READY,
        share=True,
        help="Of air heat pumps, around 2 °C in damp air",
    )
    bivalent_c: float | None = quantity(
        None,
        "Stops below",
        "°C",
        digits=0,
        ge=-40,
        le=20,
        usual=(-20, 5),
        source=READY,
        help="Outdoor temperature; what comes after it takes over",
    )
    standby_share: float | None = quantity(
        None,
        "Stand-by loss",
        ge=0,
        le=0.1,
        usual=(0.0, 0.02),
        source=READY,
        share=True,
        help="Of a boiler's rated power, in hours in which it runs",
    )
    depth_m: float | None = quantity(
        None,
        "Depth in the ground",
        "m",
        digits=0,
        ge=0.5,
        le=500,
        usual=(1, 200),
        source=READY,
        help="Middle of the probes or collectors: soil of that depth as it would be undisturbed",
    )


class ColdFigures(Described):
    """A source of cold; what is not given is as the system has it."""

    kind: ColdKind | None = choice(None, "Cold source", source=READY)
    power_kw: float | None = quantity(
        None, "Rated power", "kW", digits=1, gt=0, le=1e6, lever=True, source="by the design day unless given"
    )
    efficiency: float | None = quantity(
        None,
        "Efficiency",
        gt=0.05,
        le=1.1,
        usual=(0.25, 0.6),
        source=READY,
        lever=True,
        help="Of chillers by the second law; of others per cold bought",
    )
    hot_approach_k: float | None = quantity(
        None,
        "Condenser above outdoors",
        "K",
        digits=1,
        ge=0,
        le=40,
        usual=(5, 18),
        source=READY,
        help="Above the wet bulb with a cooling tower",
    )
    cold_approach_k: float | None = quantity(None, "Evaporator below the water", "K", digits=1, ge=0, le=30, usual=(2, 8), source=READY)
    most_cop: float | None = quantity(None, "EER at the most", digits=1, gt=1, le=60, usual=(5, 25), source=READY)
    turndown: float | None = quantity(None, "Runs down to", gt=0, le=1, usual=(0.15, 1), source=READY, share=True)
    cycling: float | None = quantity(
        None,
        "Degradation by going on and off",
        ge=0.5,
        le=1,
        usual=(0.8, 1.0),
        source="EN 14825, 0.9 where it is not measured (unverified)",
    )
    depth_m: float | None = quantity(None, "Depth in the ground", "m", digits=0, ge=0.5, le=500, usual=(1, 200), source=READY)


class WaterFigures(Described):
    """Hot water of a system; what is not given is as the system has it."""

    kind: WaterKind | None = choice(None, "Hot water by", source=READY, help="The heating's source, or a heater or heat pump of its own")
    flow_c: float | None = quantity(None, "Kept at", "°C", digits=0, ge=35, le=90, usual=(50, 65), source=READY)
    storage_loss_kwh_day: float | None = quantity(None, "Storage loss", "kWh/day", digits=1, ge=0, le=500, usual=(0.5, 10), source=READY)
    circulation_share: float | None = quantity(
        None, "Circulation loss", ge=0, le=3, usual=(0, 0.6), source=READY, share=True, help="Of the heat that is drawn"
    )
    efficiency: float | None = quantity(
        None,
        "Efficiency",
        gt=0.05,
        le=1.1,
        usual=(0.3, 1.0),
        source=READY,
        help="Of a heat pump by the second law; of a heater per energy bought",
    )


class SystemFigures(Described):
    """A system: a ready combination, and what is otherwise than in it."""

    ready: str = choice(
        "seasonal",
        "System",
        lever=True,
        source="the simplest: seasonal figures",
        help="A ready combination of air side, emission, sources and hot water, or seasonal figures",
    )
    margin: float = quantity(
        1.15,
        "Sized with a margin of",
        "×",
        digits=2,
        ge=0.3,
        le=3,
        usual=(1.0, 1.4),
        source=f"{OWN}",
        lever=True,
        help="On the load of the design day, where no power is given",
    )
    air: Annotated[AirFigures, Part(word="Air side")] = AirFigures()
    emission: Annotated[EmissionFigures, Part(word="Emission")] = EmissionFigures()
    heat: Annotated[HeatFigures, Part(word="Heat source")] = HeatFigures()
    peak: Annotated[HeatFigures, Part(word="Peak source")] = HeatFigures()
    cold: Annotated[ColdFigures, Part(word="Cold source")] = ColdFigures()
    water: Annotated[WaterFigures, Part(word="Hot water")] = WaterFigures()


class ZoneSystem(SystemFigures):
    """A system of its own for some zones."""

    id: Id
    name: str = text("", "System", max_length=120)
    zones: Annotated[tuple[str, ...], Field(min_length=1, max_length=500)] = choice(("*",), "Zones", help="Zone ids; * stands for anything")


class Plant(Described):
    """What meets the demand."""

    heating: HeatSource = HeatSource()
    cooling: CoolSource = CoolSource()
    hot_water: HotWater = HotWater()
    ventilation: Ventilation = Ventilation()
    photovoltaics: Annotated[Photovoltaics, Part("generation", assumed=False, word="Panels")] = Photovoltaics()
    arrays: Annotated[Arrays, Part("panels", word="Array")] = ()
    inverters: Annotated[Inverters, Part("generation", word="Inverter")] = ()
    battery: Annotated[Battery, Part(word="Battery")] = Battery()
    collectors: Annotated[Collectors, Part("panels", word="Collectors")] = ()
    tank: Annotated[Tank, Part(word="Tank")] = Tank()
    main: Annotated[SystemFigures, Part(word="System")] = SystemFigures()
    systems: Annotated[tuple[ZoneSystem, ...], Field(max_length=50), Part(word="System")] = ()

    @property
    def idle(self) -> frozenset[str]:
        """Fields below that have no say as it stands: seasonal figures where every system has stages, the tank without collectors."""
        tank = frozenset() if self.collectors else frozenset(f"tank/{name}" for name in Tank.model_fields)
        if "seasonal" in {self.main.ready, *(system.ready for system in self.systems)}:
            return tank
        seasonal = {"heating": ("carrier", "efficiency"), "cooling": ("efficiency", "coil_c"), "hot_water": ("carrier", "efficiency"),
                    "ventilation": ("heat_recovery", "fan_w_ls", "economiser", "pump_share")}  # fmt: skip
        return tank | frozenset(f"{part}/{name}" for part, names in seasonal.items() for name in names)
