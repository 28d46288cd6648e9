"""Amounts in sentences: a value with its unit, written in the units of whoever reads the sentence.

Remarks and refusals carry their amounts between two marks that no text has, so that no sentence has to be read again to show it in
inch-pound: `amount` puts one in, `said` writes a sentence with all of its amounts in one system of units, and the page does the same
(`web/src/app/words.ts`). What is between the amounts is the sentence's own text, the same in all units.
"""

from __future__ import annotations

import re
from typing import Literal

from eurythm.model.units import IP_OF, to_ip

Units = Literal["SI", "IP"]
OPEN, CLOSE = "\ue000", "\ue001"
"""Of the private use area of Unicode."""
MARKED = re.compile(f"{OPEN}([^|{CLOSE}]*)\\|([^|{CLOSE}]*)\\|([^{CLOSE}]*){CLOSE}")
"""Value, unit, and how many digits after the point; none where three figures say enough."""


def amount(value: float, unit: str, digits: int | None = None) -> str:
    """Return a value in SI as it stands in a sentence; without `digits` in three figures."""
    return f"{OPEN}{float(value)!r}|{unit}|{'' if digits is None else digits}{CLOSE}"


def said(sentence: str, units: Units = "SI") -> str:
    """Return a sentence with its amounts written out, in SI or inch-pound."""

    def written(found: re.Match[str]) -> str:
        text, unit, digits = found.groups()
        value, shown, more = float(text), unit, 0
        if units == "IP" and unit in IP_OF:
            value, shown = to_ip(value, unit)
            more = IP_OF[unit].digits
        if digits:
            number = f"{value:,.{max(0, int(digits) + more)}f}"
        else:
            number = f"{value:,.0f}" if abs(value) >= 1000 else f"{float(f'{value:.3g}'):g}"
        return f"{number}{shown}" if shown == "°" else f"{number} {shown}"

    return MARKED.sub(written, sentence)
