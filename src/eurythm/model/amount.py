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
MARKED = re.compile(f"{OPEN}([^|{CLOSE}]*)\\|([^{CLOSE}]*){CLOSE}")


def amount(value: float, unit: str, digits: int | None = None) -> str:
    """Return a value in SI as it stands in a sentence; without `digits` with those that it has."""
    return f"{OPEN}{value:g}|{unit}{CLOSE}" if digits is None else f"{OPEN}{value:.{digits}f}|{unit}{CLOSE}"


def said(sentence: str, units: Units = "SI") -> str:
    """Return a sentence with its amounts written out, in SI or inch-pound."""

    def written(found: re.Match[str]) -> str:
        text, unit = found.groups()
        digits = len(text.partition(".")[2])
        if units == "SI" or unit not in IP_OF:
            return f"{float(text):,.{digits}f} {unit}" if "e" not in text else f"{text} {unit}"
        value, shown = to_ip(float(text), unit)
        return f"{value:,.{max(0, digits + IP_OF[unit].digits)}f} {shown}"

    return MARKED.sub(written, sentence)
