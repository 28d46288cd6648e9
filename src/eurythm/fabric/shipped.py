"""The shipped library of generic build-ups, glazings.

Conductivities lie in the ranges of ISO 10456 and common use (`reference figures`, unverified where a single value is
named); densities and specific heats likewise. The build-ups are our own assumptions.
"""

from __future__ import annotations

from eurythm.fabric.materials import material_named
from eurythm.model.library import Construction, Element, Glazing, Layer

OWN = "our own assumption; conductivities in the range of ISO 10456 (unverified)"


def make_layer(name: str, mm: float, conductivity: float, density: float, heat: float, insulation: bool = False) -> Layer:
    """Return a layer of so many mm, with the vapour resistance and carbon of the shipped material of its name."""
    known = material_named(name)
    return Layer(
        name=name, thickness_m=mm / 1000, conductivity=conductivity, density=density, specific_heat=heat, insulation=insulation,
        vapour_resistance=known.vapour_resistance if known else None, carbon_kg_kg=known.carbon_kg_kg if known else None,
    )  # fmt: skip


def _wool(mm: float) -> Layer:
    return make_layer("mineral wool", mm, 0.035, 40, 1030, True)


def _eps(mm: float) -> Layer:
    return make_layer("expanded polystyrene", mm, 0.035, 20, 1450, True)


CLADDING = make_layer("timber cladding", 22, 0.13, 500, 1600)
RENDER = make_layer("render", 15, 0.87, 1800, 1000)
BRICK = make_layer("brick", 240, 0.70, 1600, 1000)
PLASTER = make_layer("gypsum plaster", 12, 0.50, 1100, 1000)
BOARD = make_layer("gypsum board", 12.5, 0.25, 800, 1050)
CONCRETE = make_layer("concrete", 200, 2.1, 2350, 1000)
SCREED = make_layer("screed", 60, 1.3, 2000, 1000)
TIMBER = make_layer("timber panel", 120, 0.13, 480, 1600)


def _make(id: str, name: str, element: Element, *layers: Layer, absorptance: float = 0.6) -> Construction:
    return Construction(id=id, name=name, element=element, layers=layers, solar_absorptance=absorptance, source=OWN)


CONSTRUCTIONS: tuple[Construction, ...] = (
    _make("wall-good", "Brick, 160 mm insulated, rendered", "wall", RENDER, _eps(160), BRICK, PLASTER, absorptance=0.5),
    _make("wall-old", "Solid brick, plastered", "wall", RENDER, make_layer("brick", 365, 0.75, 1700, 1000), PLASTER),
    _make("wall-timber", "Timber frame, 240 mm insulated", "wall", CLADDING, _wool(240), make_layer("gypsum board", 25, 0.25, 800, 1050)),
    _make("wall-concrete", "Concrete, 200 mm insulated, clad", "wall", CLADDING, _wool(200), CONCRETE),
    _make(
        "roof-good",
        "Concrete deck, 220 mm insulated",
        "roof",
        make_layer("roof membrane", 5, 0.20, 1100, 1500),
        _eps(220),
        CONCRETE,
        absorptance=0.7,
    ),
    _make(
        "roof-timber",
        "Timber deck, 300 mm insulated",
        "roof",
        make_layer("roof membrane", 5, 0.20, 1100, 1500),
        _wool(300),
        TIMBER,
        absorptance=0.7,
    ),
    _make(
        "roof-old",
        "Concrete deck, 40 mm insulated",
        "roof",
        make_layer("roof membrane", 5, 0.20, 1100, 1500),
        _eps(40),
        CONCRETE,
        absorptance=0.8,
    ),
    _make(
        "ground-good", "Slab with screed, 120 mm insulated", "ground_floor", make_layer("concrete", 150, 2.1, 2350, 1000), _eps(120), SCREED
    ),
    _make("ground-old", "Slab with screed, no insulation", "ground_floor", make_layer("concrete", 150, 2.1, 2350, 1000), SCREED),
    _make("exposed-good", "Concrete deck over outdoors, 200 mm insulated", "exposed_floor", _wool(200), CONCRETE, SCREED),
    _make(
        "partition-light",
        "Metal studs, boarded twice",
        "partition",
        make_layer("gypsum board", 25, 0.25, 800, 1050),
        make_layer("mineral wool", 50, 0.040, 20, 1030),
        make_layer("gypsum board", 25, 0.25, 800, 1050),
    ),
    _make("partition-brick", "Brick, plastered", "partition", PLASTER, make_layer("brick", 115, 0.70, 1600, 1000), PLASTER),
    _make(
        "floor-concrete",
        "Concrete deck with screed",
        "intermediate_floor",
        CONCRETE,
        make_layer("impact insulation", 20, 0.040, 30, 1400),
        SCREED,
    ),
    _make(
        "floor-timber",
        "Timber deck with dry screed",
        "intermediate_floor",
        TIMBER,
        make_layer("impact insulation", 20, 0.040, 60, 1600),
        make_layer("gypsum fibre board", 25, 0.32, 1150, 1100),
    ),
)

GLAZINGS: tuple[Glazing, ...] = (
    Glazing(id="single", name="Single, clear", u_value=5.4, g_value=0.85, visible=0.88, panes=1, source=OWN),
    Glazing(id="double-clear", name="Double, clear", u_value=2.8, g_value=0.76, visible=0.80, panes=2, source=OWN),
    Glazing(id="double-lowe", name="Double, low-emissive", u_value=1.3, g_value=0.60, visible=0.78, panes=2, source=OWN),
    Glazing(id="double-solar", name="Double, solar control", u_value=1.3, g_value=0.34, visible=0.62, panes=2, source=OWN),
    Glazing(id="triple-clear", name="Triple, low-emissive", u_value=0.85, g_value=0.52, visible=0.72, panes=3, source=OWN),
    Glazing(id="triple-solar", name="Triple, solar control", u_value=0.80, g_value=0.29, visible=0.56, panes=3, source=OWN),
    Glazing(id="door-opaque", name="Door, opaque", u_value=1.8, g_value=0.0, visible=0.0, panes=1, frame_share=0.0, source=OWN),
)
