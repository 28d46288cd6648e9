"""What own generation and a battery save in their first year, which fades as they age."""

from __future__ import annotations

from collections.abc import Mapping

from eurythm.assess.bill import Bill, CarrierBill, carrier_bill
from eurythm.assess.lifetime import Fading
from eurythm.brief.calendar import YearDays
from eurythm.brief.costs import Cost
from eurythm.model.plant import Plant
from eurythm.model.project import Factors
from eurythm.model.renewables import Array
from eurythm.plant.delivered import Delivered

ARRAYS, BATTERY = "Own generation", "Battery"
SHARE_AGEING: float = Array.model_fields["ageing"].default
"""What the share of roofs gives less each year."""


def fading(delivered: Delivered, plant: Plant, bill: Bill, factors: Factors, days: YearDays, costs: Mapping[str, Cost]) -> list[Fading]:
    """Return what arrays and the battery save, each against the same building without it; nothing where there is none."""
    generation, battery = delivered.sun.generation, delivered.battery
    arrays = [array for array in generation.arrays if array["kwh"] > 0]
    made = sum(array["kwh"] for array in arrays)
    if made <= 0:
        return []
    load, output = delivered.power_w, generation.output_w
    with_it: CarrierBill = bill.carriers["electricity"]
    sold = bill.sold
    found: list[Fading] = []
    if battery is not None:
        bare = carrier_bill((load - output).clip(min=0.0), factors.electricity, days)
        bare_sold = float((output - load).clip(min=0.0).sum()) / 1000.0 * factors.export_price
        saved = (bare.cost - bare_sold) - (with_it.cost - sold)
        found.append(Fading(BATTERY, saved, bare.carbon_kg - with_it.carbon_kg, plant.battery.ageing, costs["battery"].life_years))
        with_it, sold = bare, bare_sold
    none = carrier_bill(load, factors.electricity, days)
    own = {array.id: array.ageing for array in plant.arrays}
    ageing = sum(array["kwh"] * own.get(array["id"], SHARE_AGEING) for array in arrays) / made
    saved = none.cost - (with_it.cost - sold)
    found.append(Fading(ARRAYS, saved, none.carbon_kg - with_it.carbon_kg, ageing, costs["array"].life_years))
    return found
