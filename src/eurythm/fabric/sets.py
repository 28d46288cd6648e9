"""Whole sets of constructions by the year of a building and the U-value of its wall, from uninsulated to the best of today.

The U-values are our own assumption of what was common in cool and temperate countries at the time, in steps wide enough to
compare; the layers are solved for them.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from eurythm.fabric.opaque import u_value
from eurythm.fabric.shipped import BOARD, BRICK, CLADDING, CONCRETE, PLASTER, RENDER, SCREED, TIMBER, make_layer
from eurythm.model.library import Construction, Element, Layer

SOURCE = "our own assumption of what was common then"
Body = Literal["brick", "hollow brick", "concrete", "timber"]
MEMBRANE = make_layer("roof membrane", 5, 0.20, 1100, 1500)
SLAB = make_layer("concrete", 150, 2.1, 2350, 1000)
BODIES: dict[Body, dict[Element, tuple[tuple[Layer, ...], tuple[Layer, ...]]]] = {
    "brick": {
        "wall": ((RENDER,), (BRICK, PLASTER)), "roof": ((MEMBRANE,), (CONCRETE,)),
        "ground_floor": ((SLAB,), (SCREED,)), "exposed_floor": ((), (CONCRETE, SCREED)),
    },
    "hollow brick": {
        "wall": ((RENDER,), (make_layer("hollow brick", 300, 0.60, 1200, 1000), PLASTER)), "roof": ((MEMBRANE,), (CONCRETE,)),
        "ground_floor": ((SLAB,), (SCREED,)), "exposed_floor": ((), (CONCRETE, SCREED)),
    },
    "concrete": {
        "wall": ((RENDER,), (CONCRETE,)), "roof": ((MEMBRANE,), (CONCRETE,)),
        "ground_floor": ((SLAB,), (SCREED,)), "exposed_floor": ((), (CONCRETE, SCREED)),
    },
    "timber": {
        "wall": ((CLADDING,), (BOARD, BOARD)), "roof": ((MEMBRANE,), (TIMBER,)),
        "ground_floor": ((SLAB,), (SCREED,)), "exposed_floor": ((), (TIMBER, SCREED)),
    },
}  # fmt: skip
"""Layers outside and inside of the insulation, by body and element."""


@dataclass(frozen=True)
class ConstructionSet:
    """Constructions of one standard of building, with the window that went with them.

    Attributes
    ----------
    constructions : one of each element
    glazing : id of a shipped glazing
    """

    id: str
    name: str
    constructions: dict[Element, Construction]
    glazing: str


def _insulated(body: Body, element: Element, wanted: float, id: str, name: str) -> Construction:
    """The construction of a body with as much insulation as its U-value wants, none where the bare one has it already."""
    outer, inner = BODIES[body][element]
    given = {"id": f"{id}-{element.replace('_', '-')}", "element": element, "set_name": name, "source": SOURCE}
    bare = Construction(name=name, layers=(*outer, *inner), **given)
    missing = 1 / wanted - 1 / u_value(bare, element)
    layers = (*outer, *inner)
    if missing > 0.02:
        kind, conductivity, density, heat = (
            ("mineral wool", 0.035, 40.0, 1030.0) if body == "timber" else ("expanded polystyrene", 0.035, 20.0, 1450.0)
        )
        layers = (*outer, make_layer(kind, round(missing * conductivity * 1000), conductivity, density, heat, True), *inner)
    made = Construction(name=name, layers=layers, **given)
    return made.model_copy(update={"name": f"{name.rpartition(', U ')[0]}, U {u_value(made, element):.2f}"})


def _set(id: str, name: str, body: Body, wall: float, roof: float, ground: float, exposed: float, glazing: str) -> ConstructionSet:
    called = f"{name}, U {wall:g}"
    wanted: dict[Element, float] = {"wall": wall, "roof": roof, "ground_floor": ground, "exposed_floor": exposed}
    return ConstructionSet(id, called, {e: _insulated(body, e, u, id, called) for e, u in wanted.items()}, glazing)


SETS: tuple[ConstructionSet, ...] = (
    _set("masonry-1920", "Masonry 1920", "brick", 1.7, 2.1, 2.3, 1.9, "single"),
    _set("concrete-1965", "Concrete 1965", "concrete", 2.3, 1.2, 2.3, 1.7, "single"),
    _set("masonry-1975", "Masonry 1975", "hollow brick", 1.4, 0.8, 1.1, 1.0, "double-clear"),
    _set("masonry-1985", "Masonry 1985", "hollow brick", 0.6, 0.4, 0.6, 0.5, "double-clear"),
    _set("masonry-2000", "Masonry 2000", "brick", 0.4, 0.28, 0.4, 0.35, "double-lowe"),
    _set("timber-2000", "Timber 2000", "timber", 0.35, 0.25, 0.4, 0.3, "double-lowe"),
    _set("masonry-2015", "Masonry 2015", "brick", 0.24, 0.18, 0.28, 0.22, "double-lowe"),
    _set("concrete-2020", "Concrete 2020", "concrete", 0.2, 0.15, 0.25, 0.2, "triple-clear"),
    _set("timber-2020", "Timber 2020", "timber", 0.15, 0.12, 0.2, 0.15, "triple-clear"),
    _set("timber-best", "Best of today, timber", "timber", 0.1, 0.08, 0.12, 0.1, "triple-clear"),
)
SET_CONSTRUCTIONS: tuple[Construction, ...] = tuple(c for one in SETS for c in one.constructions.values())
