"""Zones by use or by storey: rooms that hang together become one zone of the energy model, as groups that can be split again."""

from __future__ import annotations

from typing import Literal

from eurythm.brief.edits import Edit, Set
from eurythm.brief.resolve import profile_of
from eurythm.geometry.building import Building, Zone
from eurythm.geometry.merging import hanging_together
from eurythm.model.errors import EurythmError
from eurythm.model.field import Described
from eurythm.model.ids import fresh_id
from eurythm.model.reading import dump
from eurythm.model.scheme import Scheme


class GroupZones(Described):
    """Group zones that touch: those of one use on a storey, of one use across storeys, or of one storey; or ungroup all."""

    op: Literal["group_zones"] = "group_zones"
    by: Literal["use", "use_across_storeys", "storey", "none"] = "use"


def grouped(scheme: Scheme, apart: Building, wish: GroupZones) -> Edit:
    """Return the edit that sets a scheme's merged zones.

    Zones that are in a group already stay in it. `apart` is the building with no zones merged.

    Raises
    ------
    EurythmError
        ``nothing-to-group`` where no two zones of a kind touch.
    """
    path = f"schemes/{scheme.id}/merged"
    if wish.by == "none":
        return Set(path=path, value=[])
    held = {member for group in scheme.merged for member in group.zones}
    free = [z for z in apart.zones if z.id not in held]
    key_of = {z.id: _key(scheme, z, wish.by) for z in free}
    touching = [(f.zone, f.other) for f in apart.faces if f.other is not None and f.zone in key_of and f.other in key_of]
    alike = [(a, b) for a, b in touching if key_of[a] == key_of[b]]
    groups = [g for g in hanging_together([z.id for z in free], alike) if len(g) > 1]
    if not groups:
        raise EurythmError("nothing-to-group", "No two zones of the same kind touch; nothing was grouped.", path)
    taken = {z.id for z in apart.zones} | {g.id for g in scheme.merged}
    made = [dump(g) for g in scheme.merged]
    by_id = {z.id: z for z in free}
    for members in groups:
        first = by_id[members[0]]
        name = _name(scheme, first, wish.by)
        group_id = fresh_id(f"{name.lower().replace(' ', '-').replace(',', '')}"[:40], taken)
        taken.add(group_id)
        made.append({"id": group_id, "name": name, "zones": members})
    return Set(path=path, value=made)


def _key(scheme: Scheme, zone: Zone, by: str) -> tuple[str, ...]:
    use, storey = profile_of(scheme, zone.id, zone.profile), f"{zone.level:.2f}"
    return {"use": (use, storey), "use_across_storeys": (use,), "storey": (storey,)}[by]


def _name(scheme: Scheme, zone: Zone, by: str) -> str:
    use = profile_of(scheme, zone.id, zone.profile).replace("_", " ").replace("-", " ").capitalize()
    level = f"level {zone.level:g} m"
    return {"use": f"{use}, {level}", "use_across_storeys": use, "storey": level.capitalize()}[by]
