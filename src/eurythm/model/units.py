"""Units of fields: SI inside, always; inch-pound for those who read it.

A displayed inch-pound value is ``si * factor + offset``. Factors: NIST SP 811, appendix B.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Ip:
    """How an SI unit is shown in inch-pound: unit text, factor, offset, and digits to add or take away."""

    unit: str
    factor: float
    offset: float = 0.0
    digits: int = 0


IP_OF: dict[str, Ip] = {
    "m": Ip("ft", 1 / 0.3048, digits=0),
    "mm": Ip("in", 1 / 25.4, digits=1),
    "m²": Ip("ft²", 1 / 0.09290304, digits=0),
    "m³": Ip("ft³", 1 / 0.028316846592, digits=0),
    "°C": Ip("°F", 1.8, 32.0, digits=0),
    "K": Ip("°F", 1.8, digits=0),
    "W": Ip("Btu/h", 3.412141633, digits=0),
    "kW": Ip("kBtu/h", 3.412141633, digits=0),
    "kWh": Ip("kBtu", 3.412141633, digits=0),
    "lx": Ip("fc", 0.09290304, digits=1),
    "kWh/m²": Ip("kBtu/ft²", 3.412141633 * 0.09290304, digits=0),
    "W/m²": Ip("W/ft²", 0.09290304, digits=1),
    "Wh/m²": Ip("Btu/ft²", 3.412141633 * 0.09290304, digits=0),
    "W/m²K": Ip("Btu/h·ft²·°F", 0.1761101838, digits=1),
    "W/mK": Ip("Btu·in/h·ft²·°F", 6.933471799, digits=-1),
    "W/m·K": Ip("Btu/h·ft·°F", 0.5777893165, digits=0),
    "g/h": Ip("lb/h", 0.002204622622, digits=3),
    "m²K/W": Ip("h·ft²·°F/Btu", 5.678263341, digits=-1),
    "kg/m³": Ip("lb/ft³", 0.06242796, digits=0),
    "J/kgK": Ip("Btu/lb·°F", 0.000238845897, digits=3),
    "kJ/m²K": Ip("Btu/ft²·°F", 0.04891828, digits=1),
    "m³/h·m²": Ip("cfm/ft²", 0.0546806649, digits=2),
    "m³/h": Ip("cfm", 0.5885777786, digits=0),
    "l/s": Ip("cfm", 2.118880003, digits=0),
    "l/s·m²": Ip("cfm/ft²", 2.118880003 * 0.09290304, digits=1),
    "W/(l/s)": Ip("W/cfm", 0.4719474432, digits=1),
    "l": Ip("gal", 0.2641720524, digits=0),
    "W/K": Ip("Btu/h·°F", 1.895634241, digits=1),
    "W/m²K²": Ip("Btu/h·ft²·°F²", 0.1761101838 / 1.8, digits=2),
    "l/day": Ip("gal/day", 0.2641720524, digits=0),
    "m/s": Ip("mph", 2.236936292, digits=0),
    "kg": Ip("lb", 2.204622622, digits=0),
    "kg/m²": Ip("lb/ft²", 2.204622622 * 0.09290304, digits=1),
    "kg/kWh": Ip("lb/kWh", 2.204622622, digits=0),
    "€/m²": Ip("€/ft²", 0.09290304, digits=0),
    "K·d": Ip("°F·d", 1.8, digits=0),
    "m²/person": Ip("ft²/person", 1 / 0.09290304, digits=0),
    "W/person": Ip("Btu/h·person", 3.412141633, digits=0),
}


def to_ip(value: float, unit: str) -> tuple[float, str]:
    """Convert an SI value to inch-pound; a unit with no inch-pound form comes back unchanged."""
    ip = IP_OF.get(unit)
    return (value, unit) if ip is None else (value * ip.factor + ip.offset, ip.unit)
