"""The units that gbXML files are written in, as factors to SI."""

from __future__ import annotations

from eurythm.model.errors import EurythmError

FOOT = 0.3048
LENGTH = {
    "Kilometers": 1000.0, "Meters": 1.0, "Centimeters": 0.01, "Millimeters": 0.001, "Miles": 1609.344, "Yards": 3 * FOOT, "Feet": FOOT,
    "Inches": FOOT / 12,
}  # fmt: skip
AREA = {f"Square{name}": factor**2 for name, factor in LENGTH.items()}
VOLUME = {f"Cubic{name}": factor**3 for name, factor in LENGTH.items()}
U_VALUE = {"WPerSquareMeterK": 1.0, "BtuPerHourSquareFtF": 5.678263}
RESISTANCE = {"SquareMeterKPerW": 1.0, "HrSquareFtFPerBTU": 0.176110}
CONDUCTIVITY = {"WPerMeterK": 1.0, "WPerCmC": 100.0, "BtuPerHourFtF": 1.730735}
DENSITY = {"KgPerCubicM": 1.0, "GramsPerCubicCm": 1000.0, "LbsPerCubicFt": 16.018463, "LbsPerCubicIn": 27679.905}
SPECIFIC_HEAT = {"JPerKgK": 1.0, "BTUPerLbF": 4186.8}
POWER_AREA = {"WattPerSquareMeter": 1.0, "WattPerSquareFoot": 1.0 / FOOT**2}
PERSON_POWER = {"WattPerPerson": 1.0, "BtuPerHourPerson": 0.293071}
FLOW = {"LPerSec": 1.0, "CFM": 0.471947, "CubicMPerHr": 1 / 3.6}
FLOW_AREA = {"LPerSecPerSquareM": 1.0, "CFMPerSquareFoot": 5.080, "CubicMPerSecPerSquareM": 1000.0, "CubicMPerHourPerSquareM": 1 / 3.6}
SHARE = {"Fraction": 1.0, "Percent": 0.01}


def celsius(value: float, unit: str) -> float:
    """Return a temperature in °C."""
    return {"C": value, "F": (value - 32) / 1.8, "K": value - 273.15, "R": value / 1.8 - 273.15}[unit]


def from_celsius(value: float, unit: str) -> float:
    """Return °C in another unit."""
    return {"C": value, "F": value * 1.8 + 32}[unit]


def factor(table: dict[str, float], unit: str | None, what: str) -> float:
    """Return a unit's factor to SI. Raises EurythmError ``unknown-unit``."""
    if unit is None or unit not in table:
        raise EurythmError("unknown-unit", f"{what} is stated in “{unit}”, which is none of {', '.join(table)}.", what)
    return table[unit]
