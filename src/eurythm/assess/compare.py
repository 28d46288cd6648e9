"""Two outcomes side by side, in words. Every sentence is a template over computed figures; no cause without a part behind it."""

from __future__ import annotations

from typing import Any, Literal

from eurythm.assess.figures import Figure, figure_by
from eurythm.model.units import to_ip

Units = Literal["SI", "IP"]

USE_NAMES = {
    "heating": "heating",
    "hot_water": "hot water",
    "cooling": "cooling",
    "fans": "fans",
    "pumps": "pumps",
    "lighting": "lighting",
    "equipment": "equipment",
    "humidity": "humidity",
}
MONTHS = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December")


def in_words(value: float, base: float) -> str:
    """Word a difference: "12% less", "3 times as much", "the same". Empty where there is nothing to compare with."""
    if abs(base) < 1e-9:
        return "" if abs(value) > 1e-9 else "the same"
    change = value / base - 1
    if abs(change) < 0.005:
        return "the same"
    if value * base < 0:
        return "of the other sign"
    if change >= 2:
        return f"{value / base:.1f} times as much"
    size = f"{abs(change) * 100:.0f}%" if abs(change) >= 0.0095 else f"{abs(change) * 100:.1f}%"
    if size == "100%" and change < 0 and value != 0:  # what is left is not nothing
        size = f"{abs(change) * 100:.1f}%" if change > -0.9995 else "over 99.9%"
    return f"{size} {'more' if change > 0 else 'less'}"


def hour_in_words(name: str | None) -> str:
    """Spell ``07-21T17`` as "21 July 17:00"."""
    if name is None:
        return "never"
    month, rest = name.split("-")
    day, hour = rest.split("T")
    return f"{int(day)} {MONTHS[int(month) - 1]} {hour}:00"


def sentences(outcome: dict[str, Any], base: dict[str, Any], base_name: str, units: Units = "SI") -> list[str]:
    """Say how an outcome differs from another: energy with its largest part, generation, both peaks with their hours."""
    said = [_energy(outcome["totals"], base["totals"], base_name, units), _daylight(outcome["totals"], base["totals"], base_name)]
    said += [_peak(figure_by(f"peak_{kind}_w"), outcome, base, kind, units) for kind in ("heating", "cooling")]
    said.append(_generation(outcome["totals"], base["totals"], units))
    return [s for s in said if s]


def _amount(value: float, unit: str, units: Units) -> str:
    """An amount to one decimal in the reader's units, without its unit."""
    return f"{to_ip(value, unit)[0] if units == 'IP' else value:.1f}"


def _unit(unit: str, units: Units) -> str:
    return to_ip(0.0, unit)[1] if units == "IP" else unit


def _daylight(totals: dict[str, Any], base: dict[str, Any], name: str) -> str:
    """Say what daylight saves where lights follow it, and what their lower heat does."""
    saved, before = (t.get("lighting_saved_kwh_per_m2", 0.0) for t in (totals, base))
    if max(saved, before) < 0.05 or abs(saved - before) < 0.05:
        return ""
    part = saved / (saved + totals["lighting_kwh_per_m2"])

    def change(use: str) -> str:
        now, then = (
            totals["energy_kwh"][use] / totals["conditioned_floor_area_m2"],
            base["energy_kwh"][use] / base["conditioned_floor_area_m2"],
        )
        words = in_words(now, then)
        return f"{USE_NAMES[use]} {words}" if words and words != "the same" else ""

    others = [said for use in ("lighting", "cooling", "heating") if (said := change(use))]
    told = f": {', '.join(others)} than {name}" if others else ""
    return f"Daylight saves {part * 100:.0f}% of its lighting{told}." if saved >= 0.05 else f"Its lights do not follow daylight{told}."


def _energy(totals: dict[str, Any], base: dict[str, Any], name: str, units: Units) -> str:
    def say(value: float) -> str:
        return _amount(abs(value), "kWh/m²", units)

    per_area = _unit("kWh/m²", units)
    change = totals["eui_kwh_per_m2"] - base["eui_kwh_per_m2"]
    if abs(change) < 0.05:
        return f"It needs as much energy as {name}."
    parts = {
        use: totals["energy_kwh"][use] / totals["conditioned_floor_area_m2"] - base["energy_kwh"][use] / base["conditioned_floor_area_m2"]
        for use in totals["energy_kwh"]
    }
    toward = {use: part for use, part in parts.items() if part * change > 0}
    against = {use: part for use, part in parts.items() if part * change < 0 and abs(part) >= 0.1}
    word = "saved" if change < 0 else "added"
    largest = max(toward, key=lambda use: abs(toward[use]))
    text = f"{USE_NAMES[largest].capitalize()} brings {say(toward[largest])} of the {say(change)} {per_area} {word} against {name}"
    if abs(toward[largest]) > abs(change) + 0.05:
        text = (
            f"{USE_NAMES[largest].capitalize()} is {say(toward[largest])} {per_area} {'lower' if change < 0 else 'higher'} than in {name}"
        )
    if against:
        most = max(against, key=lambda use: abs(against[use]))
        text += (
            f"; {USE_NAMES[most]} takes {say(against[most])} of it back"
            if change < 0
            else f"; {USE_NAMES[most]} saves {say(against[most])}"
        )
    return f"{text}."


def _peak(figure: Figure, outcome: dict[str, Any], base: dict[str, Any], kind: str, units: Units) -> str:
    mine, other = figure.of(outcome) / figure.per, figure.of(base) / figure.per
    here, there = figure.hour_of(outcome), figure.hour_of(base)
    unit = figure.shown_unit
    if max(mine, other) < 0.05:
        return ""
    size = (
        f"{_amount(abs(mine - other), unit, units)} {_unit(unit, units)} {'lower' if mine < other else 'higher'}"
        if abs(mine - other) >= 0.05
        else "as high"
    )
    if here != there and here and there:
        return f"The peak of {kind} is {size} and moves from {hour_in_words(there)} to {hour_in_words(here)}."
    return f"The peak of {kind} is {size}, at the same hour." if here == there and size != "as high" else ""


def _generation(totals: dict[str, Any], base: dict[str, Any], units: Units) -> str:
    mine = totals["generation_kwh"]["used"] / totals["conditioned_floor_area_m2"]
    other = base["generation_kwh"]["used"] / base["conditioned_floor_area_m2"]
    if abs(mine - other) < 0.1:
        return ""
    covered, more = _amount(mine, "kWh/m²", units), _amount(abs(mine - other), "kWh/m²", units)
    share = totals.get("covered_power_share", 0.0)
    told = f", {share * 100:.0f}% of its electricity" if share > 0 else ""
    return (
        f"Own generation covers {covered} {_unit('kWh/m²', units)} of its use{told}: {more} {'more' if mine > other else 'less'}."
        if mine >= 0.05
        else f"It has no generation of its own to cover the {more} {_unit('kWh/m²', units)} of the other."
    )
