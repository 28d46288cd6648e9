"""Rooms as a table."""

from __future__ import annotations

import csv
import io

from eurythm.geometry.building import Building
from eurythm.model.cells import plain
from eurythm.model.scheme import ORIENTATIONS, Scheme

HEAD = ("id", "number", "name", "storey", "use", "level_m", "floor_area_m2", "air_volume_m3", "outside_wall_m2", "window_m2")


def rooms_csv(building: Building, scheme: Scheme, inside: dict[str, tuple[float, float]], north_deg: float) -> str:
    """Return one row a zone: names, internal areas and volumes, outside walls and windows by orientation."""
    given = {z.id: z for z in scheme.zones}
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([*HEAD, *(f"window_{side}_m2" for side in ORIENTATIONS), "roof_m2", "ground_m2"])
    for zone in building.zones:
        mine = [f for f in building.faces if f.zone == zone.id and f.other is None]
        walls = [f for f in mine if f.kind == "wall" and f.boundary == "outdoors"]
        own = given.get(zone.id)
        area, volume = inside[zone.id]
        sides = [sum(f.window_area for f in walls if f.orientation(north_deg) == side) for side in ORIENTATIONS]
        roof = sum(f.area for f in mine if f.kind == "ceiling" and f.boundary == "outdoors")
        ground = sum(f.area for f in mine if f.kind == "floor" and f.boundary == "ground")
        text = [
            zone.id,
            own.number if own else "",
            own.name if own and own.name else zone.name,
            zone.storey,
            own.use if own else zone.profile or "",
        ]
        numbers = [zone.level, area, volume, sum(f.area for f in walls), sum(f.window_area for f in mine), *sides, roof, ground]
        writer.writerow([*(plain(t) for t in text), *(round(n, 4) for n in numbers)])
    return out.getvalue()
