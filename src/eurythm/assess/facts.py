"""The facts of a scheme that a comparison names."""

from __future__ import annotations

from dataclasses import dataclass

from eurythm.brief.resolve import Shelf
from eurythm.fabric.opaque import u_value, with_insulation
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.scheme import ORIENTATIONS, Scheme


@dataclass(frozen=True)
class Fact:
    """One input of a scheme as text; `value` and `unit` where it is a number that changes with the unit system."""

    title: str
    text: str
    value: float | None = None
    unit: str = ""


FORMS = {"rectangle": "bar", "l": "L", "t": "T", "u": "U", "courtyard": "courtyard", "polygon": "free outline"}


AS_DRAWN = "by face, as drawn"
"""What stands in place of a scheme's one value where rooms bring their own, face by face."""


def _form(scheme: Scheme) -> str:
    """The form in words: kinds of volumes, how many rooms, how many storeys."""
    kinds = [FORMS[v.form.kind] for v in scheme.volumes]
    if scheme.zones:
        kinds.append("1 room" if len(scheme.zones) == 1 else f"{len(scheme.zones)} rooms")
    levels = {round(z.outline.z, 2) for z in scheme.zones if z.outline is not None}
    storeys = max([len(v.storeys) for v in scheme.volumes] + [len(levels), 1])
    return f"{' + '.join(kinds) or 'nothing drawn'}, {storeys} {'storey' if storeys == 1 else 'storeys'}"


def facts(place: Place, library: Library, scheme: Scheme) -> list[Fact]:
    """Return the facts of a scheme that early decisions are about."""
    shelf, skin, plant = Shelf(library), scheme.skin, scheme.plant
    drawn = bool(scheme.zones) and not scheme.volumes and not any(z.by_ratio for z in scheme.zones)
    clad = drawn and any(f.construction for z in scheme.zones for f in z.faces)
    wall, roof = shelf.construction(skin.wall, "scheme/skin/wall"), shelf.construction(skin.roof, "scheme/skin/roof")
    if skin.wall_insulation_m is not None:
        wall = with_insulation(wall, skin.wall_insulation_m)
    if skin.roof_insulation_m is not None:
        roof = with_insulation(roof, skin.roof_insulation_m)
    found = [
        Fact("Scheme", scheme.name),
        Fact("Form", _form(scheme)),
        Fact("Turned", f"{scheme.turn_deg:g}°"),
        Fact("Climate", place.climate.name or place.climate.id if place.climate else "none"),
    ]
    found += [Fact(f"Glass {side}", AS_DRAWN if drawn else f"{getattr(skin.glazing_ratio, side) * 100:.0f}%") for side in ORIENTATIONS]
    found += [
        Fact("Window", AS_DRAWN if clad else shelf.glazing(skin.glazing, "scheme/skin/glazing").name),
        Fact("Wall U-value", AS_DRAWN) if clad else Fact("Wall U-value", "", u_value(wall, "wall"), "W/m²K"),
        Fact("Roof U-value", AS_DRAWN) if clad else Fact("Roof U-value", "", u_value(roof, "roof"), "W/m²K"),
    ]
    found += [Fact(f"Overhang {side}", "", getattr(skin.overhang_depth_m, side), "m") for side in ORIENTATIONS]
    found += [Fact(f"Side fins {side}", "", getattr(skin.fin_depth_m, side), "m") for side in ORIENTATIONS]
    found += [
        Fact("Infiltration", f"{scheme.use.infiltration_ach:g} 1/h"),
        Fact("Use", shelf.profile(scheme.use.profile, "scheme/use/profile").name),
        Fact("Heat", f"{plant.heating.carrier.replace('_', ' ')}, efficiency {plant.heating.efficiency:g}"),
        Fact("Cooling efficiency", f"{plant.cooling.efficiency:g}"),
        Fact("Heat recovery", f"{plant.ventilation.heat_recovery * 100:.0f}%"),
        Fact("Roof panels", f"{plant.photovoltaics.roof_share * 100:.0f}%"),
    ]
    for name, value in (("Heating setpoint", scheme.use.heating_c), ("Cooling setpoint", scheme.use.cooling_c)):
        found.append(Fact(name, "as the profile") if value is None else Fact(name, "", value, "°C"))
    light = scheme.use.lighting_w_m2
    found.append(Fact("Lighting power", "as the profile") if light is None else Fact("Lighting power", "", light, "W/m²"))
    return found
