"""The facts of a scheme that a comparison names: some that sum up several fields, and every other field in which cases differ."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

from pydantic import BaseModel

from eurythm.brief.resolve import Shelf
from eurythm.brief.systems import SYSTEM_NAMES
from eurythm.fabric.opaque import u_value, with_insulation
from eurythm.model.field import notes
from eurythm.model.library import Construction, Element, Library
from eurythm.model.part import UNSAID, Part, models_in, part_of
from eurythm.model.place import Place
from eurythm.model.scheme import ORIENTATIONS, Scheme


@dataclass(frozen=True)
class Fact:
    """One input of a case as text; `value` and `unit` where it is a number that changes with the unit system.

    `tells` are the paths it stands for, `exact` the value itself where the text is no more than its beginning.
    """

    title: str
    text: str
    value: float | None = None
    unit: str = ""
    tells: tuple[str, ...] = ()
    exact: Any = None

    @property
    def said(self) -> tuple[Any, ...]:
        """What makes it another fact under the same title."""
        return self.text, self.value, self.exact


class Documents(NamedTuple):
    """What a case is made of."""

    place: Place
    library: Library
    scheme: Scheme


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

    def by_side(title: str, part: str) -> Iterator[Fact]:
        for side in ORIENTATIONS:
            value = getattr(getattr(skin, part), side)
            path = (f"scheme/skin/{part}/{side}",)
            if part == "glazing_ratio":
                yield Fact(f"{title} {side}", AS_DRAWN if drawn else f"{value * 100:.0f}%", tells=path)
            else:
                yield Fact(f"{title} {side}", "", value, "m", path)

    def own(title: str, path: str, value: float | None, unit: str) -> Fact:
        """A value that stands before the profile's."""
        return Fact(title, "as the profile", tells=(path,)) if value is None else Fact(title, "", value, unit, (path,))

    def u_of(title: str, construction: Construction, element: Element) -> Fact:
        paths = (f"scheme/skin/{element}", f"scheme/skin/{element}_insulation_m")
        return Fact(title, AS_DRAWN, tells=paths) if clad else Fact(title, "", u_value(construction, element), "W/m²K", paths)

    climate = place.climate.name or place.climate.id if place.climate else "none"
    window = AS_DRAWN if clad else shelf.glazing(skin.glazing, "scheme/skin/glazing").name
    profile = shelf.profile(scheme.use.profile, "scheme/use/profile").name
    heat = f"{plant.heating.carrier.replace('_', ' ')}, efficiency {plant.heating.efficiency:g}"
    return [
        Fact("Scheme", scheme.name),
        Fact("Form", _form(scheme)),
        Fact("Turned", f"{scheme.turn_deg:g}°", tells=("scheme/turn_deg",)),
        Fact("Climate", climate, tells=("place/climate",)),
        *by_side("Glass", "glazing_ratio"),
        Fact("Window", window, tells=("scheme/skin/glazing",)),
        u_of("Wall U-value", wall, "wall"),
        u_of("Roof U-value", roof, "roof"),
        *by_side("Overhang", "overhang_depth_m"),
        *by_side("Side fins", "fin_depth_m"),
        Fact("Infiltration", f"{scheme.use.infiltration_ach:g} 1/h", tells=("scheme/use/infiltration_ach",)),
        Fact("Use", profile, tells=("scheme/use/profile",)),
        Fact("Heat", heat, tells=("scheme/plant/heating/carrier", "scheme/plant/heating/efficiency")),
        Fact("Cooling efficiency", f"{plant.cooling.efficiency:g}", tells=("scheme/plant/cooling/efficiency",)),
        Fact("Heat recovery", f"{plant.ventilation.heat_recovery * 100:.0f}%", tells=("scheme/plant/ventilation/heat_recovery",)),
        Fact("Roof panels", f"{plant.photovoltaics.roof_share * 100:.0f}%", tells=("scheme/plant/photovoltaics/roof_share",)),
        own("Heating setpoint", "scheme/use/heating_c", scheme.use.heating_c, "°C"),
        own("Cooling setpoint", "scheme/use/cooling_c", scheme.use.cooling_c, "°C"),
        own("Lighting power", "scheme/use/lighting_w_m2", scheme.use.lighting_w_m2, "W/m²"),
    ]


def zones_in_words(pattern: str, scheme: Scheme) -> str:
    """Return which zones a rule is for as people say it: ``bar/s0/*`` is “Bar, storey 0, all zones”; what is no volume's or room's stays as it was typed."""
    if pattern == "*":
        return "all zones"
    room = next((z for z in scheme.zones if z.id == pattern), None)
    if room is not None:
        return room.name or room.id
    first, _, rest = pattern.partition("/")
    volume = next((v for v in scheme.volumes if v.id == first), None)
    if volume is None:
        return pattern
    storey, _, part = rest.partition("/")
    number = next((k for k, s in enumerate(volume.storeys) if s.id == storey), None)
    if number is None and storey not in ("", "*"):
        return pattern
    level = "" if number is None else volume.storeys[number].name or f"storey {number}"
    return ", ".join(word for word in (volume.name or volume.id, level, "all zones" if part in ("", "*") else part) if word)


NAMES = frozenset({"id", "name", "source", "set_name"})
"""Fields that no result depends on although they stand among others that do."""
MOST_LETTERS = 40
MOST_FIELDS = 16
"""So many single fields are told at most; what is beyond them is counted."""


def what_differs(cases: Sequence[Documents]) -> list[list[Fact]]:
    """Return for each case the facts in which not all are alike, under the same titles and in the same order.

    First those of `facts`, then every field that none of them tells, by its own description; a thing in a list that not all have is told as
    a whole. Where the forms differ in words, their single measures are left out.
    """
    heads = [facts(*case) for case in cases]
    chosen = [k for k in range(len(heads[0])) if len({h[k].said for h in heads}) > 1] if cases else []
    told = {path for k in chosen for path in heads[0][k].tells}
    forms_apart = any(heads[0][k].title == "Form" for k in chosen)
    fields = [
        {f.tells[0]: f for document, name in zip(case, Documents._fields, strict=True) for f in _fields(names, document, name, forms_apart)}
        for case, names in ((case, _names(case)) for case in cases)
    ]
    paths = list(dict.fromkeys(path for own in fields for path in own))
    apart = []
    for path in paths:
        if any(path == t or path.startswith(f"{t}/") for t in told):
            continue
        if len({f.said if (f := own.get(path)) else None for own in fields}) > 1:
            apart.append(path)
            told.add(path)  # of a thing that is not everywhere, that says it all
    found = [[h[k] for k in chosen] for h in heads]
    for path in apart[:MOST_FIELDS]:
        title = next(own[path].title for own in fields if path in own)
        for facts_of, own in zip(found, fields, strict=True):
            facts_of.append(own.get(path) or Fact(title, "none", tells=(path,)))
    if len(apart) > MOST_FIELDS:
        for k, (facts_of, own) in enumerate(zip(found, fields, strict=True)):
            others = sum(own.get(path) != fields[0].get(path) for path in apart[MOST_FIELDS:])
            facts_of.append(Fact("And more", "" if k == 0 else f"{others} further values differ"))
    return found


def _names(case: Documents) -> dict[str, str]:
    """What stands for ids and patterns of zones in the words of a case."""
    zones = {rule.zone: zones_in_words(rule.zone, case.scheme) for rule in case.scheme.use.zones}
    return zones | Shelf(case.library).names() | SYSTEM_NAMES


def _fields(
    names: Mapping[str, str], document: BaseModel, path: str, forms_apart: bool, holder: Part = UNSAID, belongs: str = ""
) -> Iterator[Fact]:
    """Every field of a document that a result may depend on, as a fact; things in lists by their ids."""
    for name, info in type(document).model_fields.items():
        part, value, here = part_of(type(document), name, holder), getattr(document, name), f"{path}/{name}"
        if name in NAMES or part.step == "nothing" or (forms_apart and part.group == "form"):
            continue
        word = part.word if part.word != holder.word else None
        if isinstance(value, BaseModel):
            yield from _fields(names, value, here, forms_apart, part, f"{belongs}{word}, " if word else belongs)
        elif models_in(info.annotation):
            for k, item in enumerate(value or ()):
                own = f"{word or ''} {getattr(item, 'name', '') or getattr(item, 'id', '') or k + 1}".strip()
                there = f"{here}/{getattr(item, 'id', k)}"
                yield Fact(f"{belongs}{own}", "yes", tells=(there,))
                yield from _fields(names, item, there, forms_apart, part, f"{belongs}{own}, ")
        else:
            note = notes(type(document), name)
            title = str(note.get("title") or info.title or name.replace("_", " "))
            if belongs:
                title = title if belongs == f"{title}, " else f"{belongs}{title[:1].lower()}{title[1:]}"
            yield replace(_told(names, value, note), title=title, tells=(here,))


def _told(names: Mapping[str, str], value: Any, note: Any) -> Fact:
    """A value in words, or as a number with its unit."""
    if value is None:
        return Fact("", "not given")
    if isinstance(value, bool):
        return Fact("", "yes" if value else "no")
    if isinstance(value, str):
        return Fact("", names.get(value, value).replace("_", " "))
    if isinstance(value, (int, float)):
        unit = str(note.get("unit", ""))
        if note.get("share"):
            return Fact("", f"{value * 100:g}%")
        return Fact("", f"{value:g}{unit}") if unit in ("", "°") else Fact("", "", float(value), unit)
    text = ", ".join(f"{v:g}" if isinstance(v, (int, float)) else str(v) for v in value)
    return Fact("", text if len(text) <= MOST_LETTERS else f"{text[:MOST_LETTERS]}...", exact=value)
