"""Units as people spell them: "W/(m K)", "W/m·K", "kJ/kgK", "BTU in/(h ft2 F)", each to its factor and dimensions."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass

BASE: dict[str, tuple[float, str]] = {
    "kg": (1.0, "kg"), "g": (1e-3, "kg"), "t": (1e3, "kg"), "lbm": (0.45359237, "kg"), "lbs": (0.45359237, "kg"), "lb": (0.45359237, "kg"),
    "mm": (1e-3, "m"), "cm": (1e-2, "m"), "dm": (0.1, "m"), "m": (1.0, "m"), "inches": (0.0254, "m"), "inch": (0.0254, "m"), "in": (0.0254, "m"),
    "feet": (0.3048, "m"), "ft": (0.3048, "m"),
    "hour": (3600.0, "s"), "hr": (3600.0, "s"), "h": (3600.0, "s"), "s": (1.0, "s"),
    "degc": (1.0, "K"), "°c": (1.0, "K"), "c": (1.0, "K"), "k": (1.0, "K"), "degf": (1 / 1.8, "K"), "°f": (1 / 1.8, "K"), "f": (1 / 1.8, "K"), "r": (1 / 1.8, "K"),
    "kw": (1e3, "kg m m /s /s /s"), "w": (1.0, "kg m m /s /s /s"), "mj": (1e6, "kg m m /s /s"), "kj": (1e3, "kg m m /s /s"), "j": (1.0, "kg m m /s /s"),
    "kcal": (4186.8, "kg m m /s /s"), "cal": (4.1868, "kg m m /s /s"), "kbtu": (1055055.85262, "kg m m /s /s"), "btu": (1055.05585262, "kg m m /s /s"),
}  # fmt: skip
"""Each word's factor to SI and what it is made of; temperatures are differences. Factors: NIST SP 811, appendix B (unverified)."""
WORDS = sorted(BASE, key=len, reverse=True)
ALIASES = {"pcf": "lb/ft3", "psf": "lb/ft2", "mk": "m k"}
WORD = re.compile("|".join(re.escape(w) for w in WORDS))
POWER = re.compile(r"-?\d")
NO_MATTER = re.compile(r"co2(e|eq|-eq)?")
"""What a mass is of says nothing about its unit."""
SUPERSCRIPTS = str.maketrans(
    {"²": "2", "³": "3", "⁻": "-", "¹": "1", "º": "°", "˚": "°", "−": "-", "\xa0": " ", "[": "(", "]": ")", "^": ""}
)


@dataclass(frozen=True)
class Spelt:
    """A unit: how many SI units it is, and the powers of kg, m, s and K that it is made of."""

    factor: float
    dimensions: tuple[tuple[str, int], ...]


def spelt(text: str) -> Spelt | None:
    """Return what a unit comes to, however it is spelt; None where a part of it is not known.

    What stands after a stroke is divided by, up to the next stroke or the end of its bracket, as in "W/m K".
    """
    plain = NO_MATTER.sub("", text.strip().casefold().translate(SUPERSCRIPTS))
    plain = ALIASES.get(plain.strip(), plain)
    if plain.strip() == "%":
        return Spelt(0.01, ())
    try:
        factor, powers, end = _product(plain, 0)
    except ValueError:
        return None
    if plain[end:].strip():
        return None
    return Spelt(factor, tuple(sorted((k, n) for k, n in powers.items() if n)))


def _product(text: str, at: int) -> tuple[float, Counter[str], int]:
    """Read factors from `at` to the end or to a closing bracket."""
    factor, powers, sign = 1.0, Counter[str](), 1
    while at < len(text) and text[at] != ")":
        letter = text[at]
        if letter == "/":
            sign, at = -1, at + 1
            continue
        if letter in " ·*⋅.,_-×":
            at += 1
            continue
        if letter == "(":
            inner, inside, at = _product(text, at + 1)
            if at >= len(text):
                raise ValueError("a bracket is open")
            at += 1
        else:
            word = WORD.match(text, at)
            if word is None:
                raise ValueError("not a unit")
            inner, made = BASE[word[0]]
            inside = Counter[str]()
            for part in made.split():
                inside[part.lstrip("/")] += -1 if part.startswith("/") else 1
            at = word.end()
        power = POWER.match(text, at)
        count = sign * (int(power[0]) if power else 1)
        at = power.end() if power else at
        factor *= inner**count
        for k, n in inside.items():
            powers[k] += n * count
    return factor, powers, at
