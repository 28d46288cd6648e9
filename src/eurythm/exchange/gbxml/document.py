"""A gbXML document: its elements by their local names, and its numbers in SI."""

from __future__ import annotations

from typing import Any

import numpy as np
from lxml import etree

from eurythm.exchange.gbxml import units
from eurythm.model.errors import EurythmError


class Document:
    """A document by its root; `by_id` are all elements that have an id."""

    def __init__(self, root: Any) -> None:
        self.root = root
        self.by_id = {e.get("id"): e for e in root.iter() if isinstance(e.tag, str) and e.get("id")}
        self._metre = units.factor(units.LENGTH, root.get("lengthUnit", "Meters"), "lengthUnit")
        self._celsius = root.get("temperatureUnit", "C")

    def number(self, element: Any) -> float:
        """Return the number in an element. Raises ``wrong-number`` where there is no sound one."""
        try:
            value = float(element.text)
        except (TypeError, ValueError):
            text = (element.text or "").strip()
            raise EurythmError(
                "wrong-number", f"{tag_of(element)} should be a number; it is “{text[:40]}”.", f"line {element.sourceline}"
            ) from None
        if not np.isfinite(value) or abs(value) > 1e12:
            raise EurythmError("wrong-number", f"{tag_of(element)} is {value}, which is no sound number.", f"line {element.sourceline}")
        return value

    def length(self, element: Any, *around: Any) -> float:
        """Return the factor to metres of an element: its own unit, that of what is around it, or the file's."""
        for candidate in (element, *around):
            if candidate is not None and candidate.get("unit"):
                return units.factor(units.LENGTH, candidate.get("unit"), tag_of(candidate))
        return self._metre

    def size(self, element: Any, attribute: str) -> float:
        """Return an area or a volume in m² or m³: in its own unit, the file's for such, or the power of the file's lengths."""
        square = attribute == "areaUnit"
        table, word = (units.AREA, "Square") if square else (units.VOLUME, "Cubic")
        unit = element.get("unit") or self.root.get(attribute) or f"{word}{self.root.get('lengthUnit', 'Meters')}"
        return self.number(element) * units.factor(table, unit, tag_of(element))

    def celsius(self, value: float) -> float:
        """Return a temperature of the file in °C."""
        return units.celsius(value, self._celsius)


def tag_of(element: Any) -> str:
    """Return an element's local name."""
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def first_of(parent: Any, wanted: str) -> Any:
    """Return the first child of a name, None where there is none."""
    return next((e for e in parent if tag_of(e) == wanted), None)


def text_of(parent: Any, wanted: str) -> str:
    """Return the text of the first child of a name."""
    found = first_of(parent, wanted)
    return (found.text or "").strip()[:200] if found is not None else ""


def name_of(thing: Any) -> str:
    """Return what a thing is called, else its id."""
    return text_of(thing, "Name") or thing.get("id", "")
