"""What a building is made of in units that cost and embody something: enclosure, glass, shades, plant, panels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from eurythm.assess.areas import NAMES, areas_of
from eurythm.assess.lifetime import Bought
from eurythm.brief.costs import Cost
from eurythm.brief.resolve import Brief
from eurythm.brief.systems import SystemBrief, systems_of
from eurythm.fabric.account import layer_carbon
from eurythm.fabric.opaque import u_value
from eurythm.geometry.building import Building
from eurythm.geometry.loops import area_vector
from eurythm.model.library import Construction, Element
from eurythm.plant.delivered import Delivered
from eurythm.plant.staged import SystemTold

TIMBER = ("softwood", "hardwood", "timber", "strand board", "chipboard", "wood fibre", "cellulose", "straw", "cork")
STORED_KG_KG = 1.5
"""Carbon dioxide that wood and the like hold, kg a kg: our own assumption, in the order of EN 16449 (unverified)."""
EQUIVALENT_W_MK, FILMS_M2K_W = 0.036, 0.30
"""A construction given by its U-value is reckoned with as much insulation of this conductivity as gives it, besides films and mass: our own assumptions."""
TIGHT_M3_HM2 = 3.0
"""A permeability given at or below this costs what tight joints do: our own assumption."""


@dataclass(frozen=True)
class Entry:
    """One line: the group it belongs to, how much of which entry of the cost table, and what of it is known by itself, € and kg, else by that entry."""

    group: str
    name: str
    cost_id: str
    amount: float
    unit: str
    bought: Bought
    nbytes: ClassVar[int] = 0
    """What it takes in arrays (`memo.array_bytes`)."""


def insulation_m(construction: Construction, element: Element) -> float:
    """Return the thickness of a construction's insulation, m; of one given by its U-value the one that gives it."""
    if construction.layers:
        return sum(layer.thickness_m for layer in construction.layers if layer.insulation)
    return max(EQUIVALENT_W_MK * (1.0 / u_value(construction, element) - FILMS_M2K_W), 0.0)


def carbon_m2(construction: Construction) -> float | None:
    """Return the embodied carbon of a construction, kg/m², None where a layer's is unknown."""
    carbon = [layer_carbon(layer) for layer in construction.layers]
    return None if not carbon or any(c is None for c in carbon) else float(sum(c or 0.0 for c in carbon))


def stored_m2(construction: Construction) -> float:
    """Return the carbon dioxide that a construction's wood and the like hold, kg/m²."""
    wooden = (layer for layer in construction.layers if any(word in layer.name.casefold() for word in TIMBER))
    return sum(layer.thickness_m * layer.density * STORED_KG_KG for layer in wooden)


def enclosure(brief: Brief, building: Building, costs: dict[str, Cost]) -> list[Entry]:
    """Return what the enclosure of a scheme is made of: constructions, windows, tight joints, shades and blinds."""
    return [*_enclosure(brief, building, costs), *_shading(brief, building, costs)]


def inventory(brief: Brief, enclosing: Sequence[Entry], costs: dict[str, Cost], floor_area: float, delivered: Delivered) -> list[Entry]:
    """Return everything that a scheme is made of. What has no price or no carbon stands in it all the same.

    Parameters
    ----------
    enclosing : what `enclosure` returns of it
    floor_area : conditioned internal floor, m²
    delivered : what systems with stages came to, arrays, battery and collectors
    """
    return [*enclosing, *_plant(brief, costs, floor_area, delivered.systems), *_sun(delivered, costs)]


def _sun(delivered: Delivered, costs: dict[str, Cost]) -> list[Entry]:
    """Arrays, those without an inverter that was given with one of their own; inverters, battery, collectors and tank."""
    generation, battery, solar = delivered.sun.generation, delivered.battery, delivered.hot_water_sun
    found = [
        _line(costs["array" if array["inverter"] else "pv"], array["peak_kwp"], f"Photovoltaic array: {array['name']}")
        for array in generation.arrays
        if array["peak_kwp"] > 0
    ]
    found += [_line(costs["inverter"], one["rated_kw"], f"Inverter: {one['name']}") for one in generation.inverters]
    if battery is not None:
        found.append(_line(costs["battery"], battery.told["usable_kwh"]))
    if solar is not None:
        found += [_line(costs["collectors"], solar.told["area_m2"]), _line(costs["tank"], solar.told["litres"] / 1000.0)]
    return found


def _line(cost: Cost, amount: float, name: str = "") -> Entry:
    carbon = None if cost.carbon_kg is None else cost.carbon_kg * amount
    title = name or cost.title
    return Entry(
        cost.group, title, cost.id, amount, cost.unit, Bought(title, cost.cost * amount, carbon, cost.life_years, cost.upkeep_share)
    )


def _enclosure(brief: Brief, building: Building, costs: dict[str, Cost]) -> list[Entry]:
    opaque, windows = areas_of(brief, building)
    found = []
    for row in opaque:
        if row.area <= 0:
            continue
        cost, made = costs[row.element], row.construction
        filled = insulation_m(made, row.element)
        carbon, name = carbon_m2(made), f"{NAMES[row.element]}: {made.name}"
        price = row.area * (cost.cost + filled * costs["insulation"].cost)
        found.append(
            Entry(
                cost.group, name, cost.id, row.area, "m²",
                Bought(name, price, None if carbon is None else carbon * row.area, cost.life_years, cost.upkeep_share, stored_m2(made) * row.area),
            )
        )  # fmt: skip
    for glass in windows:
        panes = brief.shelf.glazing(glass.id, "glazing").panes
        found.append(_line(costs[f"window-{panes}"], glass.area, f"Windows: {glass.name}"))
    tight = brief.scheme.use.permeability_m3_hm2
    if tight is not None and tight <= TIGHT_M3_HM2:
        found.append(_line(costs["airtightness"], sum(f.area for f in building.faces if f.boundary == "outdoors")))
    return found


def _shading(brief: Brief, building: Building, costs: dict[str, Cost]) -> list[Entry]:
    found = []
    shades = sum(float(np.linalg.norm(area_vector(s.corners))) for s in building.shades if not s.face.startswith("free/"))
    if shades > 0:
        found.append(_line(costs["shade"], shades))
    louvred = sum(f.window_area for f in building.faces if f.louvres.depth > 0)
    if louvred > 0:
        found.append(_line(costs["louvres"], louvred))
    own = brief.scheme.skin.blinds.place
    for place in ("inside", "outside"):
        hung = sum(f.window_area for f in building.faces if f.boundary == "outdoors" and (f.blinds or own) == place)
        if hung > 0:
            found.append(_line(costs[f"blinds-{place}"], hung))
    return found


def _plant(brief: Brief, costs: dict[str, Cost], floor_area: float, systems: Sequence[SystemTold]) -> list[Entry]:
    briefs = {of.id: of for of in systems_of(brief.scheme.plant) if of is not None}
    found: list[Entry] = []
    staged = 0.0
    for told in systems:
        staged += told["floor_area_m2"]
        found += _system(briefs[told["id"]], told, costs)
    if floor_area - staged > 0.5:
        name = "Plant told by seasonal figures"
        found.append(Entry("plant", name, "", floor_area - staged, "m²", Bought(name, None, None, 20)))
    return found


def _system(system: SystemBrief, told: SystemTold, costs: dict[str, Cost]) -> list[Entry]:
    area = told["floor_area_m2"]
    found = [_line(costs[f"air-{system.air.kind}"], area), _line(costs[f"emission-{system.emission.kind}"], area)]
    for source, year in zip(system.heat, told["heat"], strict=True):
        burns = f"-{source.carrier}" if source.kind == "boiler" else ""
        found.append(_line(costs[f"heat-{source.kind}{burns}"], year["rated_kw"]))
    found += [_line(costs[f"cold-{year['kind']}"], year["rated_kw"]) for year in told["cold"]]
    if system.water.kind != "heating":
        found += [_line(costs[f"water-{system.water.kind}"], year["rated_kw"]) for year in told["water"]]
    return [entry for entry in found if entry.amount > 0 and not (entry.bought.cost == 0 and entry.bought.carbon_kg == 0)]
