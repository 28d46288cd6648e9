"""Money and carbon over a number of years: what is invested, replaced, kept up, bought and left over, discounted; and two cases against each other.

After EN 15459-1 for money and EN 15978's modules for carbon (both unverified). Prices are of today: the discount rate is the real one, and
a carrier's price grows above inflation. What is paid in the course of a year counts at its end.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Series = NDArray[np.float64]


@dataclass(frozen=True)
class Bought:
    """A part of a building: what it costs, € and kg, how long it lives, years, and its upkeep, share of its cost a year and € besides; None where nobody knows."""

    name: str
    cost: float | None
    carbon_kg: float | None
    life_years: int
    upkeep_share: float = 0.0
    stored_kg: float = 0.0
    upkeep: float = 0.0


@dataclass(frozen=True)
class Fading:
    """What something saves in its first year, € and kg, of which each year of its age takes a share, until it is replaced."""

    name: str
    saved: float
    saved_kg: float
    ageing: float
    life_years: int

    def faded(self, horizon: int) -> Series:
        """Return the share of the first year's saving that is missing in years 1 to the last, (N,)."""
        age = np.arange(horizon) % self.life_years
        return 1.0 - np.asarray((1.0 - self.ageing) ** age, dtype=np.float64)


@dataclass(frozen=True, eq=False)
class Years:
    """What is paid in each year, (N + 1,) €, year 0 first: investment, replacements, upkeep, energy; and what is left at the end, €."""

    investment: Series
    replacements: Series
    upkeep: Series
    energy: Series
    residual: float

    @property
    def paid(self) -> Series:
        """All that is paid, what is left taken off at the end."""
        whole: Series = self.investment + self.replacements + self.upkeep + self.energy
        whole = whole.copy()
        whole[-1] -= self.residual
        return whole


def replaced_in(life_years: int, horizon: int) -> range:
    """Return the years in which a part is replaced: whenever its life is over, but not at the very end."""
    return range(life_years, horizon, life_years)


def left_over(life_years: int, horizon: int) -> float:
    """Return what share of a part's last purchase is left at the end, by straight lines."""
    since = horizon - (len(replaced_in(life_years, horizon)) * life_years)
    return max(1.0 - since / life_years, 0.0)


def years_of(
    parts: Sequence[Bought], energy: Mapping[str, float], growth: Mapping[str, float], horizon: int, fading: Sequence[Fading] = ()
) -> Years:
    """Return what is paid over the years.

    Parameters
    ----------
    energy : cost of the first year by carrier, €; what is sold counts as a carrier of its own
    growth : growth of each carrier's price a year
    fading : what saves electricity less year by year
    """
    investment, replacements, upkeep = (np.zeros(horizon + 1) for _ in range(3))
    residual = 0.0
    for part in parts:
        if part.cost is None:
            continue
        investment[0] += part.cost
        replacements[list(replaced_in(part.life_years, horizon))] += part.cost
        upkeep[1:] += part.cost * part.upkeep_share + part.upkeep
        residual += part.cost * left_over(part.life_years, horizon)
    year = np.arange(1, horizon + 1)
    bought = np.zeros(horizon + 1)
    for name, cost in energy.items():
        bought[1:] += cost * (1 + growth.get(name, 0.0)) ** (year - 1)
    for one in fading:
        bought[1:] += one.saved * one.faded(horizon) * (1 + growth.get("electricity", 0.0)) ** (year - 1)
    return Years(investment, replacements, upkeep, bought, residual)


def present(paid: Series, rate: float) -> float:
    """Return the present value of what is paid in years 0, 1, 2 and so on."""
    return float(paid @ (1.0 + rate) ** -np.arange(len(paid)))


@dataclass(frozen=True)
class Against:
    """A case against a reference: € more to invest, € saved in the first year, years until that is paid back, € gained, yearly return, € a tonne."""

    extra: float
    saving: float
    payback_years: float | None
    discounted_payback_years: float | None
    net_present_value: float
    internal_rate: float | None
    cost_per_tonne: float | None


def against(case: Years, reference: Years, rate: float, avoided_kg: float) -> Against:
    """Hold a case against a reference.

    Payback counts saved energy and upkeep against what is invested more, replacements not; the discounted one counts everything that is paid,
    and is the first year at whose end the sum is no longer a loss and stays none. None where it has no answer.

    Parameters
    ----------
    avoided_kg : carbon that the case avoids over all years
    """
    extra = float(case.investment[0] - reference.investment[0])
    saving = float((reference.energy + reference.upkeep - case.energy - case.upkeep)[1])
    gained = reference.paid - case.paid
    value = present(gained, rate)
    running = np.cumsum((gained - _residuals(case, reference)) * (1.0 + rate) ** -np.arange(len(gained)))
    return Against(
        extra=extra,
        saving=saving,
        payback_years=(0.0 if extra <= 0 <= saving else extra / saving if extra > 0 and saving > 0 else None),
        discounted_payback_years=_first_without_loss(running),
        net_present_value=value,
        internal_rate=internal_rate(gained),
        cost_per_tonne=-value / (avoided_kg / 1000.0) if avoided_kg > 0 else None,
    )


def _residuals(case: Years, reference: Years) -> Series:
    """What the difference of residual values adds to the last year."""
    out = np.zeros(len(case.investment))
    out[-1] = case.residual - reference.residual
    return out


def _first_without_loss(running: Series) -> float | None:
    """The first year from whose end on a running sum is no loss; a share of the year by straight lines."""
    loss = np.flatnonzero(running < -1e-9)
    if len(loss) == 0:
        return 0.0
    last = int(loss[-1])
    if last == len(running) - 1:
        return None
    step = running[last + 1] - running[last]
    return last + float(-running[last] / step)


def internal_rate(gained: Series) -> float | None:
    """Return the rate at which what is gained is worth nothing, between -90% and 1,000%; None where it changes its sign less or more than once."""
    signs = np.sign(gained[np.abs(gained) > 1e-9])
    if len(signs) == 0 or np.count_nonzero(np.diff(signs)) != 1 or signs[0] > 0:
        return None
    low, high = -0.9, 10.0
    if present(gained, low) * present(gained, high) > 0:
        return None
    for _ in range(200):
        middle = (low + high) / 2
        if present(gained, low) * present(gained, middle) <= 0:
            high = middle
        else:
            low = middle
    return (low + high) / 2


def said(held: Against, horizon: int, than: str) -> str:
    """Say a case against a reference in words."""
    money = (
        f"{abs(held.extra):,.0f} € {'more' if held.extra > 0 else 'less'} to build than {than}"
        if abs(held.extra) >= 1
        else f"as much to build as {than}"
    )
    yearly = f"{abs(held.saving):,.0f} € {'less' if held.saving > 0 else 'more'} a year" if abs(held.saving) >= 1 else "as much a year"
    if held.discounted_payback_years is None:
        back = f"never paid back within {horizon} years"
        if held.net_present_value > 0:
            back += ", but for what is left at the end"
    elif held.discounted_payback_years <= 0:
        back = "never a loss"
    else:
        back = f"paid back after {held.discounted_payback_years:.1f} years, discounted"
    return f"{money[:1].upper()}{money[1:]}, {yearly}; {back}."


@dataclass(frozen=True)
class CarbonYears:
    """Carbon over all years, kg: of products (A1 to A3), of their replacements (B4), of operation (B6); stored in wood and the like, told apart."""

    products: float
    replacements: float
    operation: float
    stored: float

    @property
    def whole(self) -> float:
        """All of it; what is stored is not taken off."""
        return self.products + self.replacements + self.operation


def carbon_of(parts: Sequence[Bought], operation_kg_a: float, horizon: int, fading: Sequence[Fading] = ()) -> CarbonYears:
    """Return carbon over the years: a part is replaced with the same, and a year emits as the first one does, and what fades no longer saves."""
    known = [part for part in parts if part.carbon_kg is not None]
    again = sum((part.carbon_kg or 0.0) * len(replaced_in(part.life_years, horizon)) for part in known)
    missing = sum(float(one.faded(horizon).sum()) * one.saved_kg for one in fading)
    return CarbonYears(
        sum(part.carbon_kg or 0.0 for part in known), again, operation_kg_a * horizon + missing, sum(part.stored_kg for part in known)
    )


def without(parts: Sequence[Bought]) -> tuple[list[str], list[str]]:
    """Return the names of parts whose cost, and of those whose carbon nobody knows."""
    return [p.name for p in parts if p.cost is None], [p.name for p in parts if p.carbon_kg is None]
