"""The cost table: what a unit of each part costs, lives, takes of upkeep and embodies, assumed until it is given.

All values are our own assumptions of an order of size, without value added tax, at prices of today.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from eurythm.model.project import Factors


@dataclass(frozen=True)
class Cost:
    """An entry of the table: id, group and title, unit, € a unit, life in years, upkeep a year as a share, kg CO2e a unit; None where unknown."""

    id: str
    group: str
    title: str
    unit: str
    cost: float
    life_years: int
    upkeep_share: float = 0.0
    carbon_kg: float | None = None
    given: frozenset[str] = frozenset()


_TABLE: tuple[tuple[str, str, str, str, float, int, float, float | None], ...] = (
    ("wall", "fabric", "Outside wall, besides insulation", "m²", 260, 60, 0.005, None),
    ("party_wall", "fabric", "Party wall, besides insulation", "m²", 150, 60, 0.002, None),
    ("basement_wall", "fabric", "Basement wall, besides insulation", "m²", 320, 80, 0.002, None),
    ("roof", "fabric", "Roof, besides insulation", "m²", 230, 50, 0.008, None),
    ("ground_floor", "fabric", "Floor on ground, besides insulation", "m²", 180, 60, 0.003, None),
    ("exposed_floor", "fabric", "Exposed floor, besides insulation", "m²", 220, 60, 0.003, None),
    ("partition", "fabric", "Partition", "m²", 95, 50, 0.003, None),
    ("intermediate_floor", "fabric", "Intermediate floor", "m²", 170, 60, 0.003, None),
    ("insulation", "fabric", "Insulation", "m³", 170, 50, 0.0, None),
    ("window-1", "glass", "Windows of one pane", "m²", 320, 30, 0.01, 60),
    ("window-2", "glass", "Windows of two panes", "m²", 480, 35, 0.01, 85),
    ("window-3", "glass", "Windows of three panes", "m²", 580, 35, 0.01, 110),
    ("window-4", "glass", "Windows of four panes", "m²", 720, 35, 0.01, 135),
    ("shade", "glass", "Overhangs, fins, screens", "m²", 350, 40, 0.01, 45),
    ("louvres", "glass", "Louvres before windows", "m²", 300, 30, 0.015, 40),
    ("blinds-inside", "glass", "Blinds inside", "m²", 90, 12, 0.02, 8),
    ("blinds-outside", "glass", "Blinds outside", "m²", 220, 20, 0.03, 18),
    ("airtightness", "fabric", "Tight joints, tested", "m²", 7, 50, 0.0, 0.5),
    ("air-windows", "plant", "Airing by windows", "m²", 0, 30, 0.0, 0.0),
    ("air-extract", "plant", "Extract ventilation", "m²", 25, 20, 0.02, 3),
    ("air-balanced", "plant", "Balanced ventilation", "m²", 85, 22, 0.02, 9),
    ("air-unit", "plant", "Air units of rooms", "m²", 110, 20, 0.03, 10),
    ("air-all_air", "plant", "Air handler, ducts and boxes", "m²", 160, 22, 0.03, 14),
    ("emission-radiators", "plant", "Radiators and pipes", "m²", 40, 35, 0.005, 4),
    ("emission-floor", "plant", "Floor heating", "m²", 55, 50, 0.003, 4),
    ("emission-ceiling", "plant", "Ceilings that heat and cool", "m²", 120, 35, 0.005, 8),
    ("emission-fan_coils", "plant", "Fan coils and pipes", "m²", 105, 20, 0.02, 8),
    ("emission-air", "plant", "Coils in air units", "m²", 12, 22, 0.02, 1),
    ("heat-air_heat_pump", "plant", "Air heat pump", "kW", 1150, 20, 0.02, 55),
    ("heat-ground_heat_pump", "plant", "Ground heat pump with probes", "kW", 2300, 25, 0.012, 95),
    ("heat-water_heat_pump", "plant", "Groundwater heat pump with wells", "kW", 1700, 22, 0.02, 60),
    ("heat-boiler-gas", "plant", "Gas boiler", "kW", 190, 20, 0.02, 6),
    ("heat-boiler-biomass", "plant", "Pellet boiler with store", "kW", 620, 20, 0.03, 16),
    ("heat-district_heat", "plant", "Transfer station, heat", "kW", 120, 25, 0.01, 4),
    ("heat-direct_electric", "plant", "Electric heating", "kW", 110, 25, 0.005, 5),
    ("cold-air_chiller", "plant", "Air-cooled chiller", "kW", 380, 18, 0.03, 45),
    ("cold-tower_chiller", "plant", "Chiller with tower", "kW", 460, 20, 0.035, 50),
    ("cold-ground", "plant", "Exchanger for free cooling", "kW", 60, 25, 0.01, 5),
    ("cold-district_cold", "plant", "Transfer station, cold", "kW", 120, 25, 0.01, 4),
    ("water-electric", "plant", "Electric water heater", "kW", 140, 15, 0.01, 8),
    ("water-heat_pump", "plant", "Hot water heat pump", "kW", 1600, 15, 0.02, 60),
    ("pv", "sun", "Photovoltaic array with inverter", "kWp", 1350, 25, 0.012, 1000),
    ("array", "sun", "Photovoltaic array, besides inverter", "kWp", 1200, 25, 0.01, 940),
    ("inverter", "sun", "Inverter", "kW", 165, 15, 0.02, 65),
    ("battery", "sun", "Battery", "kWh", 620, 14, 0.01, 90),
    ("collectors", "sun", "Solar collectors with pipes", "m²", 620, 25, 0.01, 90),
    ("tank", "sun", "Tank of collectors", "m³", 2200, 25, 0.005, 250),
)  # fmt: skip
COSTS: dict[str, Cost] = {row[0]: Cost(*row) for row in _TABLE}
GIVEN = ("cost", "life_years", "upkeep_share", "carbon_kg")


def costs_of(factors: Factors) -> dict[str, Cost]:
    """Return the table with what the project gives; entries that the table does not know are passed over."""
    found = dict(COSTS)
    for item in factors.costs:
        if item.id not in found:
            continue
        own = {name: getattr(item, name) for name in GIVEN if getattr(item, name) is not None}
        found[item.id] = replace(found[item.id], **own, given=frozenset(own))
    return found
