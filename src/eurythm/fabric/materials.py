"""The shipped materials: generic ones, worded by ourselves.

Values lie in the ranges of ISO 10456 and of common use; single values could not be checked against the standard and are
marked so. Embodied carbon is an order of size of generic European products, ours to be replaced by a declaration.
"""

from __future__ import annotations

from eurythm.model.library import Family, Material

SOURCE = "range of ISO 10456 and common use; carbon an order of size of our own (unverified)"

_TABLE: tuple[tuple[str, str, Family, float, float, float, float, float], ...] = (
    # id, name, family, conductivity, density, specific heat, vapour resistance, carbon
    ("mineral-wool", "mineral wool", "insulation", 0.035, 40, 1030, 1, 1.3),
    ("glass-wool-loose", "mineral wool, soft", "insulation", 0.040, 20, 1030, 1, 1.3),
    ("eps", "expanded polystyrene", "insulation", 0.035, 20, 1450, 40, 3.3),
    ("xps", "extruded polystyrene", "insulation", 0.034, 33, 1450, 150, 3.9),
    ("pur", "rigid polyurethane", "insulation", 0.025, 32, 1400, 60, 4.2),
    ("wood-fibre", "wood fibre board", "insulation", 0.045, 160, 2100, 5, 0.4),
    ("cellulose", "cellulose, blown", "insulation", 0.039, 50, 2000, 2, 0.2),
    ("cork", "cork board", "insulation", 0.042, 110, 1700, 10, 0.6),
    ("foam-glass", "cellular glass", "insulation", 0.042, 115, 1000, 1000000, 1.5),
    ("straw", "straw bale", "insulation", 0.052, 105, 2000, 2, 0.1),
    ("aerated-mineral", "mineral foam board", "insulation", 0.045, 110, 1000, 5, 0.5),
    ("impact", "impact insulation", "insulation", 0.040, 30, 1400, 20, 2.0),
    ("brick-facing", "facing brick", "masonry", 0.90, 1900, 1000, 30, 0.23),
    ("brick", "brick", "masonry", 0.70, 1600, 1000, 10, 0.21),
    ("brick-hollow", "brick, hollow and light", "masonry", 0.20, 800, 1000, 8, 0.22),
    ("brick-old", "solid brick, old", "masonry", 0.75, 1700, 1000, 10, 0.21),
    ("sand-lime", "sand-lime block", "masonry", 1.0, 1900, 1000, 15, 0.14),
    ("aerated", "aerated concrete", "masonry", 0.11, 400, 1000, 6, 0.45),
    ("adobe", "earth block", "masonry", 0.80, 1700, 1000, 8, 0.05),
    ("concrete", "concrete", "concrete", 2.1, 2350, 1000, 100, 0.13),
    ("concrete-light", "concrete with light aggregate", "concrete", 0.55, 1300, 1000, 60, 0.20),
    ("screed", "screed", "concrete", 1.3, 2000, 1000, 20, 0.15),
    ("anhydrite", "calcium sulphate screed", "concrete", 1.4, 2100, 1000, 15, 0.05),
    ("timber", "softwood", "timber", 0.13, 480, 1600, 50, 0.25),
    ("timber-hard", "hardwood", "timber", 0.18, 700, 1600, 200, 0.30),
    ("timber-panel", "timber panel", "timber", 0.13, 480, 1600, 50, 0.35),
    ("timber-cladding", "timber cladding", "timber", 0.13, 500, 1600, 50, 0.25),
    ("osb", "strand board", "board", 0.13, 620, 1700, 200, 0.45),
    ("chipboard", "chipboard", "board", 0.13, 650, 1700, 50, 0.50),
    ("gypsum-board", "gypsum board", "board", 0.25, 800, 1050, 8, 0.25),
    ("gypsum-fibre", "gypsum fibre board", "board", 0.32, 1150, 1100, 13, 0.30),
    ("cement-board", "fibre cement board", "board", 0.60, 1800, 1000, 100, 0.80),
    ("plaster-gypsum", "gypsum plaster", "plaster", 0.50, 1100, 1000, 10, 0.13),
    ("plaster-lime", "lime plaster", "plaster", 0.80, 1600, 1000, 10, 0.17),
    ("render", "render", "plaster", 0.87, 1800, 1000, 20, 0.20),
    ("plaster-earth", "earth plaster", "plaster", 0.80, 1700, 1000, 8, 0.05),
    ("sandstone", "sandstone", "stone", 2.3, 2600, 1000, 40, 0.06),
    ("granite", "granite", "stone", 2.8, 2600, 1000, 10000, 0.09),
    ("slate", "slate", "stone", 2.2, 2400, 1000, 1000, 0.08),
    ("tile-ceramic", "ceramic tile", "stone", 1.3, 2300, 840, 200, 0.75),
    ("steel", "steel", "metal", 50, 7800, 450, 1000000, 2.2),
    ("aluminium", "aluminium", "metal", 160, 2800, 880, 1000000, 8.0),
    ("zinc", "zinc sheet", "metal", 110, 7200, 380, 1000000, 3.1),
    ("glass", "glass", "glass", 1.0, 2500, 750, 1000000, 1.4),
    ("membrane-roof", "roof membrane", "membrane", 0.20, 1100, 1500, 50000, 2.5),
    ("bitumen", "bitumen sheet", "membrane", 0.23, 1100, 1000, 50000, 0.5),
    ("vapour-barrier", "vapour barrier", "membrane", 0.33, 920, 2200, 100000, 2.5),
    ("vapour-brake", "vapour brake", "membrane", 0.33, 920, 2200, 10000, 2.5),
    ("underlay", "open underlay", "membrane", 0.30, 600, 1800, 150, 2.5),
    ("linoleum", "linoleum", "board", 0.17, 1200, 1400, 1000, 1.0),
    ("carpet", "carpet", "other", 0.06, 200, 1300, 5, 5.0),
    ("gravel", "gravel", "ground", 2.0, 1900, 1000, 50, 0.005),
    ("soil-planted", "planting soil", "ground", 1.5, 1500, 1500, 50, 0.01),
)

MATERIALS: tuple[Material, ...] = tuple(
    Material(
        id=id, name=name, family=family, conductivity=conductivity, density=density, specific_heat=heat, vapour_resistance=vapour,
        carbon_kg_kg=carbon, source=SOURCE,
    )
    for id, name, family, conductivity, density, heat, vapour, carbon in _TABLE
)  # fmt: skip
"""Conductivity W/mK, density kg/m3, specific heat J/kgK, vapour resistance as a factor, carbon kg CO2e per kg."""


def material_named(name: str) -> Material | None:
    """Return the shipped material of a name, whatever its case."""
    wanted = name.strip().casefold()
    return next((m for m in MATERIALS if m.name.casefold() == wanted), None)
