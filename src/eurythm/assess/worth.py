"""What a scheme costs and emits over the years, summed up for tables, pages and comparison."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from typing_extensions import TypedDict

from eurythm.assess.bill import Bill
from eurythm.assess.inventory import Entry
from eurythm.assess.lifetime import Bought, Fading, Years, against, carbon_of, present, said, without, years_of
from eurythm.model.project import Factors

SOLD = "sold"


class EntryTold(TypedDict):
    """A part of the building: which entry of the cost table, how much of it, € and kg (None where unknown), life in years, upkeep € a year."""

    group: str
    name: str
    cost_id: str
    amount: float
    unit: str
    cost: float | None
    carbon_kg: float | None
    life_years: int
    upkeep: float


class FadingTold(TypedDict):
    """What own generation or a battery saves in its first year, € and kg, what share of it each year takes, and after how many it is replaced."""

    name: str
    saved: float
    saved_kg: float
    ageing: float
    life_years: int


class Worth(TypedDict):
    """Money, present values in € over all years, and carbon, kg over all years; `without_cost` and `without_carbon` name what is not in the sums."""

    horizon_years: int
    discount_rate: float
    investment: float
    replacements: float
    upkeep: float
    energy: float
    residual: float
    global_cost: float
    embodied_kg: float
    replacement_kg: float
    operation_kg: float
    stored_kg: float
    whole_life_kg: float
    parts: list[EntryTold]
    fading: list[FadingTold]
    without_cost: list[str]
    without_carbon: list[str]


def years_of_scheme(entries: Sequence[Entry], bill: Bill, factors: Factors, fading: Sequence[Fading] = ()) -> Years:
    """Return what is paid for a scheme in each year."""
    energy: dict[str, float] = {name: one.cost for name, one in bill.carriers.items()}
    energy[SOLD] = -bill.sold
    growth: dict[str, float] = {name: getattr(factors, name).growth for name in bill.carriers}
    return years_of([e.bought for e in entries], energy, growth, factors.money.horizon_years, fading)


def worth_of(entries: Sequence[Entry], bill: Bill, factors: Factors, fading: Sequence[Fading] = ()) -> Worth:
    """Sum a scheme's money and carbon up over the years; `fading` is what saves less year by year."""
    parts = [e.bought for e in entries]
    years, rate, horizon = years_of_scheme(entries, bill, factors, fading), factors.money.discount_rate, factors.money.horizon_years
    carbon = carbon_of(parts, bill.total("carbon_kg"), horizon, fading)
    left = years.residual / (1 + rate) ** horizon
    no_cost, no_carbon = without(parts)
    return {
        "horizon_years": horizon,
        "discount_rate": rate,
        "investment": float(years.investment.sum()),
        "replacements": present(years.replacements, rate),
        "upkeep": present(years.upkeep, rate),
        "energy": present(years.energy, rate),
        "residual": left,
        "global_cost": present(years.paid, rate),
        "embodied_kg": carbon.products,
        "replacement_kg": carbon.replacements,
        "operation_kg": carbon.operation,
        "stored_kg": carbon.stored,
        "whole_life_kg": carbon.whole,
        "parts": [
            {
                "group": e.group, "name": e.name, "cost_id": e.cost_id, "amount": e.amount, "unit": e.unit, "cost": e.bought.cost,
                "carbon_kg": e.bought.carbon_kg, "life_years": e.bought.life_years, "upkeep": (e.bought.cost or 0.0) * e.bought.upkeep_share,
            }
            for e in entries
        ],
        "fading": [
            {"name": f.name, "saved": f.saved, "saved_kg": f.saved_kg, "ageing": f.ageing, "life_years": f.life_years} for f in fading
        ],
        "without_cost": no_cost,
        "without_carbon": no_carbon,
    }  # fmt: skip


class Held(TypedDict):
    """A scheme against a reference: see `lifetime.Against`; in words, with what is missing in either."""

    extra: float
    saving: float
    payback_years: float | None
    discounted_payback_years: float | None
    net_present_value: float
    internal_rate: float | None
    avoided_kg: float
    cost_per_tonne: float | None
    sentence: str


def years_told(told: Mapping[str, Any], factors: Factors, extra: Sequence[Bought] = ()) -> Years:
    """Return what is paid each year, by an outcome that was told, and for what is bought besides."""
    parts = [
        Bought(p["name"], p["cost"], p["carbon_kg"], p["life_years"], p["upkeep"] / p["cost"] if p["cost"] else 0.0)
        for p in told["worth"]["parts"]
    ]
    totals = told["totals"]
    energy: dict[str, float] = dict(totals["carrier_cost"])
    energy[SOLD] = totals["cost"] - sum(energy.values())
    growth: dict[str, float] = {name: getattr(factors, name).growth for name in totals["carrier_cost"]}
    fading = [Fading(**one) for one in told["worth"]["fading"]]
    return years_of([*parts, *extra], energy, growth, factors.money.horizon_years, fading)


def held_against(mine: Mapping[str, Any], base: Mapping[str, Any], factors: Factors, than: str) -> Held:
    """Hold one told outcome against another over the years.

    Parameters
    ----------
    than : what the other one is called
    """
    horizon = factors.money.horizon_years
    avoided = base["worth"]["whole_life_kg"] - mine["worth"]["whole_life_kg"]
    found = against(years_told(mine, factors), years_told(base, factors), factors.money.discount_rate, avoided)
    tonne = ""
    if found.cost_per_tonne is not None and abs(avoided) >= 1:
        gains = found.cost_per_tonne <= 0
        tonne = f" It avoids {avoided / 1000:,.0f} t of carbon in {horizon} years, {'at a gain of' if gains else 'at'} {abs(found.cost_per_tonne):,.0f} € a tonne."
    lacking = list(dict.fromkeys([*mine["worth"]["without_cost"], *base["worth"]["without_cost"]]))
    missing = f" Without the cost of {_listed(lacking)}." if lacking else ""
    return {**vars(found), "avoided_kg": avoided, "sentence": said(found, horizon, than) + tonne + missing}  # type: ignore[typeddict-item]


def _listed(names: Sequence[str]) -> str:
    shown = [f"“{name}”" for name in names[:2]]
    return ", ".join(shown) if len(names) <= 2 else f"{', '.join(shown)} and {len(names) - 2} more"
