"""The library's stepping masses as OBJ, STL and GLB, and the neighbours on Rope Quay as GeoJSON."""

from __future__ import annotations

import json
import math
from pathlib import Path

import numpy as np
import trimesh

from eurythm.exchange.samples.court import LATITUDE, LONGITUDE, NORTH_DEG

MASSES = {
    "Hall": (8.0, 6.0, 0.0, 44.0, 22.0, 7.0),
    "Reading rooms": (8.0, 6.0, 7.0, 20.0, 22.0, 7.0),
    "Workshops": (52.0, 9.0, 0.0, 16.0, 16.0, 4.5),
}
"""Corner x, y, z and size of each mass, m."""
NEIGHBOURS = {
    "Salt warehouse": (2.0, 52.0, 34.0, 18.0, 14.0),
    "Timber warehouse": (42.0, 54.0, 26.0, 16.0, 11.0),
    "Ropewalk": (86.0, 2.0, 13.0, 46.0, 12.0),
}
"""Corner x, y, length, depth and height of each neighbour in the drawing's axes, m."""


def write_masses(path: Path, millimetres: bool = False) -> None:
    """Write the masses; the ending says how: obj, stl or glb (which is in metres and looks up along y, as its standard asks)."""
    scene = trimesh.Scene()
    for name, (x, y, z, length, depth, height) in MASSES.items():
        body = trimesh.creation.box((length, depth, height))
        body.apply_translation(np.array([x, y, z]) + np.array([length, depth, height]) / 2)
        body.apply_scale(1000.0 if millimetres else 1.0)
        if path.suffix == ".glb":
            body.apply_transform(trimesh.transformations.rotation_matrix(-math.pi / 2, [1, 0, 0]))
        scene.add_geometry(body, node_name=name, geom_name=name)
    (scene.to_geometry() if path.suffix == ".stl" else scene).export(path)


def truth() -> dict[str, float]:
    """Return what an import must find: volume, floor on ground, roof, and the wall and floor that masses share, m³ and m²."""
    hall, rooms, shops = MASSES.values()
    return {
        "volume_m3": sum(m[3] * m[4] * m[5] for m in MASSES.values()),
        "ground_m2": hall[3] * hall[4] + shops[3] * shops[4],
        "roof_m2": hall[3] * hall[4] + shops[3] * shops[4],
        "shared_wall_m2": shops[4] * shops[5],
        "shared_floor_m2": rooms[3] * rooms[4],
    }


def write_neighbours(path: Path) -> None:
    """Write the neighbours as footprints with heights in longitude and latitude, one height as text."""
    features = []
    for k, (name, (x, y, length, depth, height)) in enumerate(NEIGHBOURS.items()):
        ring = [(x, y), (x + length, y), (x + length, y + depth), (x, y + depth), (x, y)]
        properties = {"name": name, "height": f"{height:g} m" if k == 0 else height}
        geometry = {"type": "Polygon", "coordinates": [[_degrees(*corner) for corner in ring]]}
        features.append({"type": "Feature", "properties": properties, "geometry": geometry})
    path.write_text(json.dumps({"type": "FeatureCollection", "features": features}, indent=1), encoding="utf-8")


def _degrees(x: float, y: float) -> list[float]:
    """Longitude and latitude of a point of the drawing, on the ellipsoid's two radii at the site."""
    turn = math.radians(NORTH_DEG)
    east, north = x * math.cos(turn) + y * math.sin(turn), -x * math.sin(turn) + y * math.cos(turn)
    a, e2, sine = 6378137.0, 0.00669437999, math.sin(math.radians(LATITUDE))
    across = a / math.sqrt(1 - e2 * sine**2) * math.cos(math.radians(LATITUDE))
    along = a * (1 - e2) / (1 - e2 * sine**2) ** 1.5
    return [LONGITUDE + math.degrees(east / across), LATITUDE + math.degrees(north / along)]
