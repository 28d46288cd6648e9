"""What is usual for each kind of material, and the slip that an unusual value is likely to be.

A value is questioned, never refused: what is typed stands. Ranges: reference figures, common use; our own where a kind is
not named there (unverified).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from eurythm.model.library import Construction, Element, Family, Layer, Material
from eurythm.model.units import to_ip

Quantity = Literal["conductivity", "density", "specific_heat", "thickness_m", "u_value"]
Range = tuple[float, float]


@dataclass(frozen=True)
class Kind:
    """A kind of material, told by words in its name; conductivity W/mK and density kg/m3 as they usually are."""

    name: str
    words: tuple[str, ...]
    conductivity: Range
    density: Range


KINDS: tuple[Kind, ...] = (
    Kind("mineral wool", ("mineral wool", "glass wool", "rock wool", "stone wool", "fibreglass", "wool"), (0.030, 0.046), (10, 220)),
    Kind("extruded polystyrene", ("extruded polystyrene", "xps"), (0.026, 0.040), (25, 50)),
    Kind("expanded polystyrene", ("polystyrene", "eps"), (0.029, 0.045), (10, 40)),
    Kind("rigid polyurethane", ("polyurethane", "pur", "pir", "polyisocyanurate", "phenolic"), (0.019, 0.030), (28, 60)),
    Kind("wood fibre", ("wood fibre", "wood fiber", "softboard"), (0.036, 0.060), (40, 280)),
    Kind("cellulose", ("cellulose",), (0.036, 0.046), (25, 80)),
    Kind("cork", ("cork",), (0.036, 0.055), (80, 250)),
    Kind("cellular glass", ("cellular glass", "foam glass"), (0.036, 0.060), (90, 180)),
    Kind("mineral foam", ("mineral foam",), (0.038, 0.065), (85, 200)),
    Kind("straw", ("straw",), (0.04, 0.085), (70, 160)),
    Kind("insulation", ("insulation", "insulating"), (0.018, 0.070), (8, 250)),
    Kind("aerated concrete", ("aerated", "autoclaved"), (0.07, 0.25), (250, 900)),
    Kind("light concrete", ("light aggregate", "lightweight concrete"), (0.15, 1.2), (500, 2000)),
    Kind("concrete", ("concrete",), (1.0, 2.7), (1800, 2600)),
    Kind("fibre cement", ("fibre cement", "fiber cement", "cement board"), (0.2, 0.9), (900, 2000)),
    Kind("calcium silicate", ("sand-lime", "calcium silicate"), (0.5, 1.4), (1200, 2400)),
    Kind("earth block", ("earth block", "adobe", "rammed earth", "clay"), (0.4, 1.3), (1200, 2200)),
    Kind("screed", ("screed",), (0.7, 2.0), (1400, 2300)),
    Kind("brick", ("brick", "masonry", "clay block"), (0.07, 1.3), (550, 2200)),
    Kind("gypsum board", ("gypsum", "plasterboard"), (0.16, 0.60), (600, 1500)),
    Kind("plaster or render", ("plaster", "render", "stucco"), (0.25, 1.4), (700, 2100)),
    Kind("wood-based board", ("osb", "strand board", "chipboard", "plywood", "fibreboard"), (0.09, 0.24), (350, 900)),
    Kind(
        "timber",
        ("timber", "wood", "softwood", "hardwood", "larch", "spruce", "pine", "fir", "beech", "ash", "oak"),
        (0.10, 0.29),
        (350, 900),
    ),
    Kind("glass", ("glass",), (0.7, 1.3), (2200, 2700)),
    Kind("aluminium", ("aluminium", "aluminum"), (100, 240), (2600, 2850)),
    Kind("copper", ("copper", "bronze"), (60, 400), (8300, 9000)),
    Kind("zinc", ("zinc",), (90, 125), (7000, 7300)),
    Kind("steel", ("steel", "metal"), (10, 70), (7000, 8100)),
    Kind("stone", ("stone", "granite", "slate", "marble"), (0.5, 4.5), (1200, 3000)),
    Kind("membrane", ("membrane", "bitumen", "barrier", "vapour brake", "underlay", "foil"), (0.14, 0.6), (300, 2500)),
    Kind("ceramic", ("ceramic", "tile", "tiles"), (0.8, 1.5), (1700, 2500)),
    Kind("floor covering", ("linoleum", "rubber", "vinyl", "pvc"), (0.12, 0.35), (900, 1800)),
    Kind("carpet", ("carpet",), (0.04, 0.10), (100, 500)),
    Kind("gravel or sand", ("gravel", "sand"), (0.4, 2.5), (1400, 2200)),
    Kind("soil", ("soil", "earth", "substrate"), (0.4, 2.5), (900, 2200)),
)
"""The first kind one of whose words stands in a name is taken."""

FAMILIES: dict[Family, Kind] = {
    "insulation": Kind("insulation", (), (0.018, 0.070), (8, 280)),
    "masonry": Kind("masonry", (), (0.07, 1.5), (350, 2400)),
    "concrete": Kind("concrete", (), (0.07, 2.7), (250, 2600)),
    "timber": Kind("timber", (), (0.08, 0.29), (300, 950)),
    "board": Kind("a board", (), (0.06, 1.0), (150, 2000)),
    "plaster": Kind("plaster", (), (0.07, 1.6), (300, 2300)),
    "stone": Kind("stone", (), (0.5, 4.5), (1200, 3000)),
    "metal": Kind("metal", (), (10, 400), (2500, 11400)),
    "glass": Kind("glass", (), (0.7, 1.4), (2200, 2700)),
    "membrane": Kind("a membrane", (), (0.12, 0.6), (80, 2500)),
    "ground": Kind("the ground", (), (0.4, 3.5), (900, 2400)),
}
"""What is usual for a family, where the name tells of no kind: our own ranges."""

SPECIFIC_HEAT: Range = (350, 2500)
U_VALUES: dict[Element, Range] = {
    "wall": (0.08, 3.0),
    "party_wall": (0.1, 3.5),
    "basement_wall": (0.1, 4.0),
    "roof": (0.06, 3.5),
    "ground_floor": (0.08, 4.0),
    "exposed_floor": (0.08, 3.5),
    "partition": (0.15, 4.5),
    "intermediate_floor": (0.15, 4.5),
}
SLIPS: tuple[tuple[float, str], ...] = (
    (0.1, ""),
    (10.0, ""),
    (0.01, ""),
    (100.0, ""),
    (0.001, ""),
    (1000.0, ""),
    (1 / 6.933471799, " (was it Btu·in/h·ft²·°F?)"),
    (1.730735, " (was it Btu/h·ft·°F?)"),
    (16.01846, " (was it lb/ft³?)"),
    (4186.8, " (was it Btu/lb·°F?)"),
)
"""Factors that undo a slipped decimal or a unit taken for another one."""


@dataclass(frozen=True)
class Question:
    """A value that is unusual for its kind.

    Attributes
    ----------
    field : where it stands within the construction, such as ``layers/2/conductivity``
    value, unit, usual : what was given, and what is usual for `what`, in SI
    proposed : the value without the likely slip; None where no slip explains it
    slip : what the slip may have been, where it was a unit
    """

    field: str
    value: float
    unit: str
    usual: Range
    what: str
    proposed: float | None = None
    slip: str = ""

    def sentence(self, ip: bool = False) -> str:
        """Tell what is usual, and the likely slip, in SI or inch-pound."""

        def said(value: float) -> str:
            return f"{float(f'{to_ip(value, self.unit)[0]:.3g}') if ip else value:g}"

        unit = to_ip(self.value, self.unit)[1] if ip else self.unit
        told = f"{said(self.value)} {unit} is unusual for {self.what} ({said(self.usual[0])} to {said(self.usual[1])})"
        return f"{told}." if self.proposed is None else f"{told}; {said(self.proposed)}?{self.slip}"


def kind_of(name: str) -> Kind | None:
    """Return the kind of material that a name tells of."""
    words = name.casefold()
    return next((k for k in KINDS if any(w in words.split() or (len(w) > 4 and w in words) for w in k.words)), None)


def question(field: str, value: float, usual: Range, what: str, unit: str) -> Question | None:
    """Return a question where a value lies outside what is usual, with the value that a likely slip explains."""
    low, high = usual
    if low <= value <= high:
        return None
    for factor, why in SLIPS:
        meant = value * factor
        if low <= meant <= high and (not why or unit in _UNITS_OF.get(why, unit)):
            return Question(field, value, unit, usual, what, float(f"{meant:.3g}"), why)
    return Question(field, value, unit, usual, what)


_UNITS_OF = {
    " (was it Btu·in/h·ft²·°F?)": ("W/mK",),
    " (was it Btu/h·ft·°F?)": ("W/mK",),
    " (was it lb/ft³?)": ("kg/m³",),
    " (was it Btu/lb·°F?)": ("J/kgK",),
}


def material_questions(material: Material) -> list[Question]:
    """Return what is unusual about a material, by the kind that its name tells of, else by its family."""
    values = {"conductivity": material.conductivity, "density": material.density, "specific_heat": material.specific_heat}
    layer = Layer(name=material.name, thickness_m=0.1, **values)
    return [replace(q, field=q.field.rpartition("/")[2]) for q in layer_questions(layer, "", material.family)]


def layer_questions(layer: Layer, at: str, family: Family | None = None) -> list[Question]:
    """Return what is unusual about one layer, by the kind that its name tells of, else by its family."""
    if layer.air != "none" or layer.conductivity is None:
        return []
    kind = kind_of(layer.name) or (FAMILIES.get(family) if family else None)
    found = []
    if kind is not None:
        found.append(question(f"{at}/conductivity", layer.conductivity, kind.conductivity, kind.name, "W/mK"))
        if layer.density > 0:
            found.append(question(f"{at}/density", layer.density, kind.density, kind.name, "kg/m³"))
    if layer.density > 0:
        found.append(question(f"{at}/specific_heat", layer.specific_heat, SPECIFIC_HEAT, layer.name or "a layer", "J/kgK"))
    return [q for q in found if q is not None]


def questions(construction: Construction, u: float) -> tuple[Question, ...]:
    """Return what is unusual about a construction: its layers, then its U-value."""
    found = [q for i, layer in enumerate(construction.layers) for q in layer_questions(layer, f"layers/{i}")]
    name = construction.element.replace("_", " ")
    whole = question("u_value", round(u, 4), U_VALUES[construction.element], f"a {name}", "W/m²K")
    if whole is not None:
        found.append(whole if construction.u_value is not None else replace(whole, proposed=None, slip=""))
    return tuple(found)
