"""Figures of a whole building's year, each described once.

Columns of cases, their CSV, ranges and charts of the page, shares of a difference, the register's ranking and the words of
Findings read this table: a new figure is one entry.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from eurythm.assess.outcome import Summary


@dataclass(frozen=True)
class Figure:
    """One figure.

    Attributes
    ----------
    id, title, unit : its name in files and in words, and its unit there
    part, name : where it stands in an outcome
    shown_unit, per, digits : how people read it: `per` of its unit are one of the unit that is shown
    how : how it is got
    hour : name in the same part of the hour on which it falls; "" for none
    compared, first, ranked : whether cases are compared by it, whether it stands among the first of these, whether the register is ranked by it
    share_as : its name among the figures whose difference is shared out; "" where it is not
    """

    id: str
    title: str
    unit: str
    part: str
    name: str
    digits: int
    how: str
    shown_unit: str = ""
    per: float = 1.0
    hour: str = ""
    compared: bool = False
    first: bool = False
    ranked: bool = False
    share_as: str = ""

    def of(self, outcome: Summary | Mapping[str, Any]) -> float:
        """Return the figure of an outcome, or of what a table of cases keeps of one."""
        part = outcome[self.part] if isinstance(outcome, Mapping) else getattr(outcome, self.part)
        return float(part[self.name])

    def hour_of(self, outcome: Mapping[str, Any]) -> str | None:
        """Return the hour on which it falls, None where it is nothing."""
        found: str | None = outcome[self.part][self.hour]
        return found

    def as_dict(self) -> dict[str, Any]:
        """Return its description as plain data for the page."""
        kept = ("id", "title", "digits", "compared", "first", "ranked", "per")
        return {k: v for k, v in asdict(self).items() if k in kept} | {"unit": self.shown_unit or self.unit}


def _totals(id: str, title: str, unit: str, digits: int, how: str, **more: Any) -> Figure:
    return Figure(id, title, unit, "totals", id, digits, how, **more)


FIGURES: tuple[Figure, ...] = (
    _totals("eui_kwh_per_m2", "Energy", "kWh/m²", 1, "all end uses per conditioned floor area, before own generation", compared=True, first=True, ranked=True, share_as="energy"),
    _totals("eui_net_kwh_per_m2", "Net energy", "kWh/m²", 1, "the same less the generation that is used at once", compared=True, share_as="net_energy"),
    _totals("conditioned_floor_area_m2", "Conditioned floor", "m²", 0, "between the inner faces of conditioned zones' walls"),
    _totals("heating_demand_kwh", "Heating demand", "kWh", 0, "sensible heat delivered to zones"),
    _totals("cooling_demand_kwh", "Cooling demand", "kWh", 0, "sensible heat taken from zones"),
    _totals("carbon_kg", "Carbon, all", "kg", 0, "what is bought of each carrier by its factor"),
    _totals("cost", "Running cost, all", "€", 0, "what is bought of each carrier by its price, less what is sold"),
    Figure("peak_heating_w", "Peak heating", "W", "peaks", "heating_w", 1, "highest hour of all zones together", "kW", 1000.0, "heating_at", compared=True, share_as="peak_heating"),
    Figure("peak_cooling_w", "Peak cooling", "W", "peaks", "cooling_w", 1, "highest hour of all zones together", "kW", 1000.0, "cooling_at", compared=True, first=True, share_as="peak_cooling"),
    _totals("cost_per_m2", "Running cost", "€/m²", 2, "running cost per conditioned floor area", compared=True, first=True, ranked=True, share_as="cost"),
    _totals("carbon_kg_per_m2", "Carbon", "kg/m²", 1, "carbon per conditioned floor area", compared=True, ranked=True, share_as="carbon"),
    Figure("too_warm_h", "Too warm", "h", "comfort", "too_warm_h", 0, "occupied hours above the limit, by floor area", compared=True),
    Figure("too_cold_h", "Too cold", "h", "comfort", "too_cold_h", 0, "occupied hours below the limit, by floor area"),
)  # fmt: skip


def figure_by(id: str) -> Figure:
    """Return a figure by its id. Raises KeyError."""
    return {f.id: f for f in FIGURES}[id]
