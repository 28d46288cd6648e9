"""Two outcomes side by side, in words. Every sentence is a template over computed figures; no cause without a part behind it."""

from __future__ import annotations

from typing import Any

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
    return f"{size} {'more' if change > 0 else 'less'}"


def hour_in_words(name: str | None) -> str:
    """Spell ``07-21T17`` as "21 July 17:00"."""
    if name is None:
        return "never"
    month, rest = name.split("-")
    day, hour = rest.split("T")
    return f"{int(day)} {MONTHS[int(month) - 1]} {hour}:00"


def sentences(outcome: dict[str, Any], base: dict[str, Any], base_name: str) -> list[str]:
    """Say how an outcome differs from another: energy with its largest part, generation, both peaks with their hours."""
    said = [_energy(outcome["totals"], base["totals"], base_name)]
    said += [_peak(outcome["peaks"], base["peaks"], kind) for kind in ("heating", "cooling")]
    said.append(_generation(outcome["totals"], base["totals"]))
    return [s for s in said if s]


def _energy(totals: dict[str, Any], base: dict[str, Any], name: str) -> str:
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
    text = f"{USE_NAMES[largest].capitalize()} brings {abs(toward[largest]):.1f} of the {abs(change):.1f} kWh/m² {word} against {name}"
    if abs(toward[largest]) > abs(change) + 0.05:
        text = (
            f"{USE_NAMES[largest].capitalize()} is {abs(toward[largest]):.1f} kWh/m² {'lower' if change < 0 else 'higher'} than in {name}"
        )
    if against:
        most = max(against, key=lambda use: abs(against[use]))
        text += (
            f"; {USE_NAMES[most]} takes {abs(against[most]):.1f} of it back"
            if change < 0
            else f"; {USE_NAMES[most]} saves {abs(against[most]):.1f}"
        )
    return f"{text}."


def _peak(peaks: dict[str, Any], base: dict[str, Any], kind: str) -> str:
    mine, other = peaks[f"{kind}_w"] / 1000, base[f"{kind}_w"] / 1000
    here, there = peaks[f"{kind}_at"], base[f"{kind}_at"]
    if max(mine, other) < 0.05:
        return ""
    size = f"{abs(mine - other):.1f} kW {'lower' if mine < other else 'higher'}" if abs(mine - other) >= 0.05 else "as high"
    if here != there and here and there:
        return f"The peak of {kind} is {size} and moves from {hour_in_words(there)} to {hour_in_words(here)}."
    return f"The peak of {kind} is {size}, at the same hour." if here == there and size != "as high" else ""


def _generation(totals: dict[str, Any], base: dict[str, Any]) -> str:
    mine = totals["generation_kwh"]["used"] / totals["conditioned_floor_area_m2"]
    other = base["generation_kwh"]["used"] / base["conditioned_floor_area_m2"]
    if abs(mine - other) < 0.1:
        return ""
    return f"The roof covers {mine:.1f} kWh/m² of its own use, {abs(mine - other):.1f} {'more' if mine > other else 'less'}."
