"""Areas of an enclosure by element, construction, glazing and true orientation."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from eurythm.brief.resolve import Brief, chosen_construction, construction_origin
from eurythm.fabric.opaque import u_value
from eurythm.geometry.building import Building
from eurythm.model.library import Construction, Element

SIDES = ("north", "east", "south", "west")
WAYS = (*SIDES, "level")
NAMES: dict[Element, str] = {
    "wall": "Outside wall",
    "party_wall": "Party wall",
    "basement_wall": "Basement wall",
    "roof": "Roof",
    "ground_floor": "Floor on ground",
    "exposed_floor": "Exposed floor",
    "partition": "Partition",
    "intermediate_floor": "Intermediate floor",
}


@dataclass(frozen=True)
class OpaqueRow:
    """Faces of one element and one construction: net areas without windows by orientation, m2; roofs and floors are level."""

    element: Element
    construction: Construction
    u: float
    origin: str
    areas: dict[str, float]

    @property
    def area(self) -> float:
        """All of it, m2."""
        return sum(self.areas.values())


@dataclass(frozen=True)
class WindowRow:
    """Windows of one glazing by orientation, m2 with frame."""

    id: str
    name: str
    u: float
    g: float
    visible: float
    areas: dict[str, float]

    @property
    def area(self) -> float:
        """All of it, m2."""
        return sum(self.areas.values())


def areas_of(brief: Brief, building: Building) -> tuple[tuple[OpaqueRow, ...], tuple[WindowRow, ...]]:
    """Sum a building's faces up by element, construction and true orientation, and its windows by glazing. Contact between zones counts once."""
    skin, north = brief.scheme.skin, brief.place.north_deg
    opaque: dict[tuple[Element, str], dict[str, float]] = defaultdict(lambda: dict.fromkeys(WAYS, 0.0))
    origins: dict[tuple[Element, str], set[str]] = defaultdict(set)
    windows: dict[str, dict[str, float]] = defaultdict(lambda: dict.fromkeys(WAYS, 0.0))
    for face in building.faces:
        way = face.orientation(north) if face.kind == "wall" and abs(float(face.normal[2])) < 0.999 else "level"
        key = (face.element, face.construction or chosen_construction(skin, face.element))
        opaque[key][way] += face.area - face.window_area
        origins[key].add(construction_origin(brief.scheme, face))
        for window in face.windows:
            windows[window.glazing or skin.glazing][way] += window.area
    order = list(NAMES)
    rows = []
    for (element, name), areas in sorted(opaque.items(), key=lambda item: (order.index(item[0][0]), item[0][1])):
        own = skin.wall_insulation_m if element == "wall" else skin.roof_insulation_m if element == "roof" else None
        chosen = brief.constructions[element]
        construction = chosen if chosen.id == name and own is not None else brief.shelf.construction(name, "construction")
        rows.append(OpaqueRow(element, construction, u_value(construction, element), ", ".join(sorted(origins[element, name])), areas))
    glass = []
    for name, areas in sorted(windows.items()):
        glazing = brief.shelf.glazing(name, "glazing")
        glass.append(WindowRow(name, glazing.name, glazing.u_value, glazing.g_value, glazing.visible, areas))
    return tuple(rows), tuple(glass)
