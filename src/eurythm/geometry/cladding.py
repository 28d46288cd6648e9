"""Which construction and glazing each face has, and why: by hand, by rule, from the drawing, or as its kind of element."""

from __future__ import annotations

import fnmatch
from dataclasses import replace

from eurythm.geometry.building import Building, Face
from eurythm.geometry.openings import OPAQUE_DOOR, applies
from eurythm.model.scheme import AssignRule, Scheme

BY_HAND = "by hand"
FROM_DRAWING = "from the drawing"
BY_ELEMENT = "as its kind of element"


def clad(building: Building, scheme: Scheme, north_deg: float) -> Building:
    """Return the building with the construction and glazing of every face that does not simply follow its kind of element.

    What is given to a face by hand stands before rules, an earlier rule before a later one, and rules before the reference
    that the face had in the drawing. The reason and that reference stay with the face (`Face.clad_by`, `Face.reference`).
    """
    names = _Names(building, scheme)
    rules = list(enumerate(scheme.skin.rules))[::-1]
    faces = []
    for face in building.faces:
        told = [(_spoken(i, r), r.construction, r.glazing) for i, r in rules if fits(r, face, names, north_deg)]
        told += [(BY_HAND, o.construction, o.glazing) for o in scheme.skin.overrides if applies(o, face)]
        faces.append(_clad(face, told))
    return replace(building, faces=tuple(faces))


def _clad(face: Face, told: list[tuple[str, str | None, str | None]]) -> Face:
    """The face with what it was told: reason, construction, glazing; the last word counts. Doors keep theirs."""
    construction, glazing = face.construction, None
    reason = FROM_DRAWING if construction else BY_ELEMENT
    for why, own_construction, own_glazing in told:
        if own_construction is not None:
            construction, reason = own_construction, why
        glazing = own_glazing or glazing
    windows = face.windows
    if glazing is not None:
        windows = tuple(w if w.glazing == OPAQUE_DOOR else replace(w, glazing=glazing) for w in windows)
    return replace(face, construction=construction, windows=windows, clad_by=reason, reference=face.construction)


class _Names:
    """What a face's volume, storey and zone are called."""

    def __init__(self, building: Building, scheme: Scheme) -> None:
        self.zones = {part.id: part for z in building.zones for part in (z, *(z.parts or ()))}
        self.storeys = {(v.id, s.id): s.name for v in scheme.volumes for s in v.storeys}
        self.volumes = {v.id: v.name for v in scheme.volumes}
        self.rooms = {z.id: z.storey for z in scheme.zones}

    def storey(self, face: Face) -> tuple[str, ...]:
        zone = self.zones.get(face.part or face.zone)
        if zone is None:
            return ()
        return zone.storey, self.storeys.get((zone.volume, zone.storey), ""), self.rooms.get(zone.id, "")

    def names(self, face: Face) -> tuple[str, ...]:
        zone = self.zones.get(face.part or face.zone)
        of_zone = () if zone is None else (zone.volume, self.volumes.get(zone.volume, ""), zone.id, zone.name)
        return (*of_zone, face.reference or face.construction or "")


def fits(rule: AssignRule, face: Face, names: _Names, north_deg: float) -> bool:
    """Say whether a rule means a face: all that it names must hold; patterns may have ``*`` and ignore case."""
    if rule.element is not None and face.element != rule.element:
        return False
    if rule.orientation is not None and (face.kind != "wall" or face.orientation(north_deg) != rule.orientation):
        return False
    if rule.storey and not any(_like(name, rule.storey) for name in names.storey(face) if name):
        return False
    return not rule.matching or any(_like(name, rule.matching) for name in names.names(face) if name)


def _like(name: str, pattern: str) -> bool:
    return fnmatch.fnmatchcase(name.casefold(), pattern.casefold())


def _spoken(index: int, rule: AssignRule) -> str:
    """Tell a rule by its number and what it asks for: “by rule 2: wall, north”."""
    asks = [rule.name] if rule.name else [(rule.element or "").replace("_", " "), rule.orientation or "", rule.storey, rule.matching]
    return f"by rule {index + 1}: " + (", ".join(a for a in asks if a) or "every face")


def idle_rules(building: Building, scheme: Scheme, north_deg: float) -> list[AssignRule]:
    """Return rules that no face fits; they are kept and remarked on."""
    if not scheme.skin.rules:
        return []
    names = _Names(building, scheme)
    return [r for r in scheme.skin.rules if not any(fits(r, f, names, north_deg) for f in building.faces)]
