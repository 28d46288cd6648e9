"""Constructions of walls and slabs: which are in use, which way round, and as which element."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from typing import Any

from eurythm.exchange.intake.received import IMPORTED, Finding, Received, ReceivedConstruction, ReceivedElement
from eurythm.geometry.building import Building
from eurythm.model.ids import slug
from eurythm.model.library import Construction
from eurythm.model.reading import read_document


class Fabric:
    """The constructions of a file that faces are given, by their name in the project."""

    def __init__(self, given: Received) -> None:
        self._given = given
        self.names: dict[tuple[str, bool], str] = {}

    def named(self, ref: str, reversed_: bool) -> str | None:
        """Return the name of a construction, its layers from inside outward where reversed; None where it says nothing of heat."""
        found = next((c for c in self._given.constructions if c.id == ref), None)
        if found is None or not _usable(found):
            return None
        key = (ref, reversed_ and len(found.layers) > 1)
        if key not in self.names:
            base = slug(found.name) or "construction"
            name, k = base, 2
            while name in self.names.values():
                name, k = f"{base[:60]}-{k}", k + 1
            self.names[key] = name
        return self.names[key]

    def made(self, building: Building) -> tuple[Construction, ...]:
        """Return the constructions in use, each as the element that it mostly is."""
        areas: dict[str, dict[str, float]] = defaultdict(lambda: defaultdict(float))
        for face in building.faces:
            if face.construction:
                areas[face.construction][face.element] += face.area
        made = []
        for (ref, turned), name in self.names.items():
            found = next(c for c in self._given.constructions if c.id == ref)
            element = max(areas[name], key=lambda e: areas[name][e]) if areas[name] else "wall"
            layers = [_layer(layer) for layer in (reversed(found.layers) if turned else found.layers)]
            body: dict[str, Any] = (
                {"layers": layers} if (layers and found.u_value is None) or _layered(found) else {"u_value": found.u_value}
            )
            data = {"id": name, "name": found.name, "element": element, "source": IMPORTED, **body}
            data |= {"solar_absorptance": found.absorptance} if found.absorptance is not None else {}
            light = reversed(found.reflected) if turned else found.reflected
            data |= {
                name: value
                for name, value in zip(("light_reflectance", "light_reflectance_beyond"), light, strict=True)
                if value is not None and (name == "light_reflectance" or element in ("partition", "intermediate_floor"))
            }
            made.append(read_document(Construction, data))
        return tuple(made)

    def without_values(self, elements: Iterable[ReceivedElement]) -> list[Finding]:
        """Return which constructions of some elements say nothing of heat."""
        used = {e.construction for e in elements}
        return [
            Finding(
                code="construction-without-values",
                object=found.id,
                sentence=f"“{found.name}” names layers without thermal values; the assumed construction holds in its place.",
            )
            for found in self._given.constructions
            if not _usable(found) and found.id in used
        ]


def _layered(found: ReceivedConstruction) -> bool:
    return bool(found.layers) and all((layer.conductivity or layer.resistance) and 0 < layer.thickness_m <= 5 for layer in found.layers)


def _usable(found: ReceivedConstruction) -> bool:
    return _layered(found) or (found.u_value is not None and 0.03 < found.u_value <= 20)


def _layer(layer: Any) -> dict[str, Any]:
    conductivity = layer.conductivity or layer.thickness_m / layer.resistance
    data = {"name": layer.name, "thickness_m": layer.thickness_m, "conductivity": min(conductivity, 500.0)}
    data |= {"density": layer.density} if layer.density else {}
    data |= {"specific_heat": layer.specific_heat} if layer.specific_heat else {}
    data |= {"insulation": True} if conductivity < 0.06 and layer.thickness_m >= 0.03 else {}
    return data
