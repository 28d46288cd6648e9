"""What parts of a building cost, how long they live, and over how many years it is reckoned."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from eurythm.model.field import OWN, Described, quantity

TABLE = f"{OWN} for a first sketch, in the cost table"


class Money(Described):
    """Over how many years, and at which rate."""

    horizon_years: int = quantity(
        30, "Years that are looked at", "a", digits=0, ge=1, le=100, usual=(20, 60), source="EN 15459-1, common for housing (unverified)"
    )
    discount_rate: float = quantity(
        0.03, "Discount rate", ge=0, le=0.5, usual=(0.0, 0.06), share=True, digits=3, source=f"{OWN}", help="Real: above inflation"
    )


class CostItem(Described):
    """What one entry of the cost table is otherwise than assumed."""

    id: Annotated[str, Field(min_length=1, max_length=60)]
    cost: float | None = quantity(None, "Cost", digits=0, ge=0, le=1e7, source=TABLE, help="A unit of it, built in")
    life_years: int | None = quantity(None, "Life", "a", digits=0, ge=1, le=200, usual=(10, 80), source=TABLE)
    upkeep_share: float | None = quantity(
        None, "Upkeep a year", ge=0, le=0.5, usual=(0.0, 0.05), share=True, source=TABLE, help="Of its cost"
    )
    carbon_kg: float | None = quantity(
        None,
        "Embodied carbon",
        "kg",
        digits=0,
        ge=-1e5,
        le=1e6,
        source=TABLE,
        help="A unit of it, A1 to A3; of constructions by their layers",
    )
