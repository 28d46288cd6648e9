"""Readiness: the remarks that stand between now and results to be trusted."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import BaseModel
from shapely import STRtree
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from eurythm.brief.systems import BY_ID, SEASONAL, every_system, idle_figures, system_at
from eurythm.geometry.building import Building, Shade, Vec
from eurythm.geometry.cladding import idle_rules
from eurythm.geometry.merging import lost_members
from eurythm.geometry.openings import lost_overrides
from eurythm.geometry.outline import form_outline, rotation
from eurythm.model.amount import amount
from eurythm.model.field import is_given, notes
from eurythm.model.known import Known
from eurythm.model.part import models_in, part_at, part_word
from eurythm.model.place import Place
from eurythm.model.remark import Remark, Stage
from eurythm.model.scheme import Scheme

Series = NDArray[np.float64]
CUT_M = 0.1


def document_remarks(place: Place, scheme: Scheme) -> list[Remark]:
    """Return what is missing or doubtful in the documents themselves."""
    found: list[Remark] = []
    if place.climate is None:
        found.append(
            Remark(
                "no-climate",
                "Waiting for weather: choose a stand-in climate or drop an EPW.",
                "place/climate",
                "Choose a climate",
                "missing",
                "place",
            )
        )
    if not scheme.volumes and not scheme.zones:
        found.append(Remark("no-form", "Nothing is drawn yet: add a volume.", "scheme/volumes", "Add volume", "missing", "shape"))
    found += _idle_figures(scheme)
    found += odd_values(place, "place", "place")
    for name in type(scheme).model_fields:
        value = getattr(scheme, name)
        parts = value if isinstance(value, tuple) else (value,)
        for part in parts:
            if isinstance(part, BaseModel):
                item = f"/{part.id}" if isinstance(value, tuple) else ""  # type: ignore[attr-defined]
                found += odd_values(part, f"scheme/{name}{item}", part_at(Scheme, name).stage or "shape")
    return found


def _idle_figures(scheme: Scheme) -> list[Remark]:
    """Figures given to systems in which they have no meaning; they are kept."""
    found = []
    for path, figures, name in every_system(scheme.plant):
        if figures.ready == SEASONAL or figures.ready not in BY_ID:
            continue
        found += [
            Remark(
                "figure-without-meaning",
                f"{part_word(type(figures), idle.split('/')[0])}: a value was given that means nothing in “{name or BY_ID[figures.ready].name}”; it is kept.",
                f"scheme/{path}/{idle}", "Take it away, or choose another system", "note", "plant",
            )
            for idle in idle_figures(figures)
        ]  # fmt: skip
    return found


def cutting_remarks(building: Building, place: Place) -> list[Remark]:
    """Return which neighbours, trees and shades stand or reach into the building, which they would darken from within."""
    zones = [z for whole in building.zones for z in (whole.parts or (whole,)) if z.plan is not None]
    tree = STRtree([shapely.buffer(z.plan, -CUT_M) for z in zones])
    level, top = np.array([[z.level, z.top] for z in zones]).reshape(-1, 2).T

    def within(plans: NDArray[Any], low: Series, high: Series) -> set[int]:
        """Which of some outlines in plan, each from one height to another, reach into a zone."""
        thing, zone = tree.query(plans, predicate="intersects")
        return set(thing[(level[zone] < high[thing] - CUT_M) & (top[zone] > low[thing] + CUT_M)].tolist())

    around = _around(place)
    low = np.full(len(around), place.ground_level_m)
    standing = within(np.array([t.plan for t in around], dtype=object), low, low + np.array([t.height for t in around]))
    found = [
        Remark(
            "cuts-the-building", f"“{around[k].name}” stands into the building.", around[k].path, "Move it, or leave it out",
            "doubtful", "place",
        )
        for k in sorted(standing)
    ]  # fmt: skip
    points = np.concatenate([np.zeros((0, 3)), *[_points_of(s) for s in building.shades]])
    owner = np.repeat(np.arange(len(building.shades)), [len(s.corners) + 1 for s in building.shades])
    reaching = {building.shades[owner[k]].face for k in within(shapely.points(points[:, :2]), points[:, 2], points[:, 2])}
    found += [
        Remark(
            "shade-cuts-the-building", f"A shade at “{face or 'the scheme'}” reaches into the building.", "scheme/skin",
            "Make it shallower there, or give that face its own", "doubtful", "skin",
        )
        for face in sorted(reaching)
    ]  # fmt: skip
    return found


def _points_of(shade: Shade) -> Vec:
    """The middle of a shade and points a little within its corners, for its root lies on the face that bears it."""
    middle = shade.corners.mean(axis=0)
    points: Vec = np.vstack([shade.corners + 0.1 * (middle - shade.corners), middle])
    return points


class _Thing(NamedTuple):
    """Something around: its name, its path, its outline in plan (of a tree its trunk) and its height, m."""

    name: str
    path: str
    plan: BaseGeometry
    height: float


def _around(place: Place) -> list[_Thing]:
    """Everything around that counts."""
    things = []
    for box in place.boxes:
        sides = np.array([[0, 0], [box.length, 0], [box.length, box.depth], [0, box.depth]])
        plan = Polygon(sides @ rotation(box.turn_deg).T + [box.x, box.y])
        things += [_Thing(box.name or box.id, f"place/boxes/{box.id}", plan, box.height)] if box.counts else []
    for f in place.footprints:
        outline = shapely.make_valid(Polygon([(p.x, p.y) for p in f.points]))
        things += [_Thing(f.name or f.id, f"place/footprints/{f.id}", outline, f.height)] if f.counts else []
    return things + [_Thing(t.name or t.id, f"place/trees/{t.id}", shapely.Point(t.x, t.y), t.height) for t in place.standing_trees]


def building_remarks(building: Building, scheme: Scheme, north_deg: float) -> list[Remark]:
    """Return what is doubtful about the form."""
    found = [
        Remark(
            "override-without-face",
            f"The face “{o.face}” no longer exists; what was set for it is kept.",
            f"scheme/skin/overrides/{o.id}",
            "Remove it, or restore the face",
            "doubtful",
            "skin",
        )
        for o in lost_overrides(building, scheme.skin)
    ]
    found += [
        Remark(
            "rule-without-face", f"No face fits the rule “{r.name or r.id}”.", f"scheme/skin/rules/{r.id}", "Change it, or remove it",
            "doubtful", "skin",
        )
        for r in idle_rules(building, scheme, north_deg)
    ]  # fmt: skip
    found += _lost_zones(building, scheme)
    found += _lost_systems(building, scheme)
    found += _lost_edges(scheme)
    lowest = {v.id: v.base_level_m for v in scheme.volumes}
    for volume, level in lowest.items():
        floors = [f for f in building.faces if (f.part or f.zone).startswith(f"{volume}/") and f.kind == "floor"]
        rests = any(f.boundary == "ground" for f in building.faces if (f.part or f.zone).startswith(f"{volume}/"))
        touches = any(
            f.other is not None
            and volume in (f.zone.split("/")[0], f.other.split("/")[0])
            and f.zone.split("/")[0] != f.other.split("/")[0]
            for f in building.faces
        )
        if not rests and not touches and floors:
            found.append(
                Remark(
                    "volume-in-the-air",
                    f"“{volume}” touches neither ground nor another volume (base level {amount(level, 'm')}).",
                    f"scheme/volumes/{volume}/base_level_m",
                    "Set its base level",
                    "doubtful",
                    "shape",
                )
            )
    return found


def _lost_systems(building: Building, scheme: Scheme) -> list[Remark]:
    """Systems whose zones are gone, or all served by others that count before them."""
    serving = set(system_at(scheme.plant, [zone.id for zone in building.zones]))
    return [
        Remark(
            "system-without-zone", f"“{system.name or system.id}” serves no zone.", f"scheme/plant/systems/{system.id}/zones",
            "Name zones that there are, or remove it", "doubtful", "plant",
        )
        for number, system in enumerate(scheme.plant.systems, start=1)
        if number not in serving
    ]  # fmt: skip


def _lost_zones(building: Building, scheme: Scheme) -> list[Remark]:
    """Merged zones and air paths that name zones which no longer exist; what was set is kept."""
    known = {z.id for z in building.zones}
    lost = [(f"merged/{group}", zone) for group, zone in lost_members(building, scheme.merged)]
    lost += [(f"air_paths/{path.id}", zone) for path in scheme.air_paths for zone in (path.zone_a, path.zone_b) if zone not in known]
    inside = known | {part.id for z in building.zones for part in z.parts}
    beyond = [
        (f"zones/{z.id}/faces/{f.id}", f.other) for z in scheme.zones for f in z.faces if f.boundary == "zone" and f.other is not None
    ]
    lost += [(where, zone) for where, zone in beyond if zone not in inside]
    return [
        Remark(
            "zone-lost",
            f"The zone “{zone}” no longer exists; what was set for it is kept.",
            f"scheme/{where}",
            "Remove it, or restore the zone",
            "doubtful",
            "use",
        )
        for where, zone in lost
    ]


def _lost_edges(scheme: Scheme) -> list[Remark]:
    """Depths of a perimeter for edges that an outline no longer has; they are kept and change nothing."""
    found = []
    for volume in scheme.volumes:
        ways = [(f"scheme/volumes/{volume.id}/zoning", volume.zoning)]
        ways += [(f"scheme/volumes/{volume.id}/storeys/{s.id}/zoning", s.zoning) for s in volume.storeys if s.zoning is not None]
        if not any(zoning.edges for _, zoning in ways):
            continue
        known = {name for ring in form_outline(volume).edges for name in ring}
        for path, zoning in ways:
            found += [
                Remark(
                    "edge-lost",
                    f"“{volume.name or volume.id}” no longer has a side that a depth of its own was set for; the depth is kept.",
                    f"{path}/edges/{edge.id}",
                    "Remove it, or restore the side",
                    "doubtful",
                    "shape",
                )
                for edge in zoning.edges
                if edge.id not in known
            ]
    return found


@cache
def _questioned(model: type[BaseModel]) -> tuple[str, ...]:
    """Fields of a model with a usual range, or that hold other models."""
    return tuple(name for name, info in model.model_fields.items() if "usual" in notes(model, name) or models_in(info.annotation))


_ODD = Known()


def odd_values(document: BaseModel, path: str, stage: Stage) -> list[Remark]:
    """Question given values outside the usual range of their kind; they are never refused for it."""
    known, key = _ODD.of(document), (path, stage)
    if key not in known:
        known[key] = _odd_values(document, path, stage)
    return list(known[key])


def _odd_values(document: BaseModel, path: str, stage: Stage) -> list[Remark]:
    found: list[Remark] = []
    for name in _questioned(type(document)):
        if name not in document.model_fields_set:
            continue
        value = getattr(document, name)
        here = f"{path}/{name}"
        if isinstance(value, BaseModel):
            if value.model_fields_set:
                found += odd_values(value, here, stage)
        elif isinstance(value, tuple):
            for item in value:
                if isinstance(item, BaseModel):
                    found += odd_values(item, f"{here}/{getattr(item, 'id', '')}", stage)
        elif is_given(document, name) and isinstance(value, (int, float)) and not isinstance(value, bool):
            note = notes(type(document), name)
            if not note["usual"][0] <= value <= note["usual"][1]:
                low, high = (_told(limit, note) for limit in note["usual"])
                found.append(
                    Remark(
                        "unusual-value",
                        f"{note['title']}: {_told(value, note)} is unusual; {low} to {high} is common.{_slip(value, note)}",
                        here,
                        "Check the value",
                        "doubtful",
                        stage,
                    )
                )
    return found


def _told(value: float, note: Mapping[str, Any]) -> str:
    """A value of a field as a sentence tells it."""
    if note.get("share"):
        return f"{value * 100:g}%"
    return amount(value, str(note["unit"])) if note.get("unit") else f"{value:g}"


def _slip(value: float, note: Mapping[str, Any]) -> str:
    """Name the likely slip of the decimal point, if one would bring the value into its usual range."""
    for factor in (0.1, 10.0, 0.01, 100.0, 0.001, 1000.0):
        if note["usual"][0] <= value * factor <= note["usual"][1] and value != 0:
            return f" Was {_told(float(f'{value * factor:.3g}'), note)} meant?"
    return ""
