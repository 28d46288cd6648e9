"""Zones that share their air: several zones become one, and what stood between them is open."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from eurythm.geometry.building import Building, Face, Zone
from eurythm.model.errors import EurythmError
from eurythm.model.scheme import MergedZone


def merge_zones(building: Building, merged: Sequence[MergedZone]) -> Building:
    """Return the building with each group of zones as one zone under the group's id.

    Faces between members are gone (they are the building's `inner` ones). Where some faces of a group say that only air is
    there, just those are open, else all are; a member over an open slab keeps its air but has no floor there. The mass of
    slabs and walls that stand within a merged zone is left out. Names that no zone bears are passed over (`lost_members` tells
    them), and a group that has fewer than two members left is no group.

    Raises
    ------
    EurythmError
        ``zone-merged-twice`` or ``doubled-id``, with the path of the group.
    """
    by_id = {z.id: z for z in building.zones}
    group_of: dict[str, str] = {}
    groups: list[tuple[MergedZone, list[Zone]]] = []
    for group in merged:
        members = [by_id[name] for name in dict.fromkeys(group.zones) if name in by_id]
        if len(members) < 2:
            continue
        if group.id in by_id:
            raise EurythmError("doubled-id", f"“{by_id[group.id].name}” bears the id “{group.id}” already.", f"scheme/merged/{group.id}/id")
        for zone in members:
            if zone.id in group_of:
                raise EurythmError(
                    "zone-merged-twice", f"“{zone.name}” is in two groups of merged zones.", f"scheme/merged/{group.id}/zones"
                )
            group_of[zone.id] = group.id
        groups.append((group, members))
    if not groups:
        return building
    faces, inner = _outer_faces(building.faces, group_of)
    open_floor = _open_floor(inner)
    zones = [z for z in building.zones if z.id not in group_of]
    zones += [_one(group, members, open_floor) for group, members in groups]
    return replace(building, zones=tuple(zones), faces=tuple(faces), inner=tuple(inner))


def hanging_together(names: Sequence[str], pairs: Iterable[tuple[str, str]]) -> list[list[str]]:
    """Return the names in groups that the pairs join, in their order; a name that no pair joins is a group by itself."""
    index = {name: i for i, name in enumerate(names)}
    joined = np.array([(index[a], index[b]) for a, b in pairs], dtype=np.int64).reshape(-1, 2)
    graph = coo_array((np.ones(len(joined)), (joined[:, 0], joined[:, 1])), shape=(len(names), len(names)))
    _, labels = connected_components(graph, directed=False)
    groups: dict[int, list[str]] = {}
    for name, label in zip(names, labels, strict=True):
        groups.setdefault(int(label), []).append(name)
    return list(groups.values())


def lost_members(building: Building, merged: Sequence[MergedZone]) -> list[tuple[str, str]]:
    """Return (group, zone) for every named member that no longer exists."""
    known = {z.id for z in building.zones} | {part.id for z in building.zones for part in z.parts}
    return [(group.id, name) for group in merged for name in group.zones if name not in known]


def _outer_faces(faces: Sequence[Face], group_of: dict[str, str]) -> tuple[list[Face], list[Face]]:
    """Faces that are left, under their new zones, and those between members, with `air` where it is open."""
    left: list[Face] = []
    inner: list[Face] = []
    for face in faces:
        mine = group_of.get(face.zone, face.zone)
        other = None if face.other is None else group_of.get(face.other, face.other)
        if other == mine:
            inner.append(face)
        else:
            left.append(replace(face, zone=mine, other=other, part=face.zone, other_part=face.other))
    telling = {group_of[face.zone] for face in inner if face.air}
    return left, [face if group_of[face.zone] in telling else replace(face, air=True) for face in inner]


def _open_floor(inner: Iterable[Face]) -> dict[str, float]:
    """Floor area of each member that stands open to one below, m²."""
    found: dict[str, float] = {}
    for face in inner:
        if face.air and face.kind != "wall":
            above = face.other if face.kind == "ceiling" else face.zone
            assert above is not None
            found[above] = found.get(above, 0.0) + face.area
    return found


def _one(group: MergedZone, members: list[Zone], open_floor: dict[str, float]) -> Zone:
    lowest = min(members, key=lambda z: z.level)
    top = max(z.top for z in members)
    level_ones = [z.plan for z in members if z.plan is not None and abs(z.level - lowest.level) < 1e-6]
    plan = shapely.union_all(level_ones) if level_ones else None
    parts = tuple(replace(z, gross_floor=max(z.gross_floor - open_floor.get(z.id, 0.0), 0.0)) for z in members)
    return replace(
        lowest,
        id=group.id,
        name=group.name or f"{lowest.name} and {len(members) - 1} more",
        height=top - lowest.level,
        rise=0.0,
        plan=plan,
        gross_floor=sum(z.gross_floor for z in parts),
        gross_volume=sum(z.gross_volume for z in members),
        given=all(z.given for z in members),
        furnished=any(z.furnished for z in members),
        parts=parts,
    )
