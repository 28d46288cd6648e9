"""The energy model as glTF, text or binary: one closed body a zone, one sheet an opening, with names and colours."""

from __future__ import annotations

from typing import Any

import numpy as np
import trimesh
from trimesh.exchange.gltf import export_glb, export_gltf

from eurythm.geometry.building import Building, Vec
from eurythm.geometry.loops import meshed
from eurythm.geometry.polygons import loops_of, window_loops

CATEGORIES = ("B7C9C4", "D9C6A5", "A9B4C2", "CDB4B0", "B9C29B", "C8BBD0", "8FA6A0", "E0D3B8")
GLASS, SHADE = "8FBDBF", "EFE9DA"
Y_UP = np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]], dtype=float)


def write_gltf(building: Building, binary: bool = True) -> bytes:
    """Return a scheme's form as GLB, or as one text file with everything in it; metres, Y up as the standard asks."""
    scene = trimesh.Scene()
    for number, zone in enumerate(building.zones):
        parts = [
            (loop if f.zone == zone.id else loop[::-1]) for f in building.faces if zone.id in (f.zone, f.other) for loop in loops_of(f)
        ]
        mesh = mesh_of(parts)
        extras = {"zone": zone.id, "storey": zone.storey, "floor_area_m2": round(zone.gross_floor, 4)}
        _add(scene, mesh, zone.name, CATEGORIES[number % len(CATEGORIES)], extras)
    for face in building.faces:
        for k, loop in enumerate(window_loops(face)):
            _add(scene, mesh_of([loop + face.normal * 0.005]), f"opening/{face.id}/{k + 1}", GLASS, {"face": face.id})
    for k, shade in enumerate(building.shades):
        _add(scene, mesh_of([shade.corners]), f"shade/{k + 1}", SHADE, {})
    body: bytes = export_glb(scene) if binary else next(iter(export_gltf(scene, embed_buffers=True, merge_buffers=True).values()))
    return body


def _add(scene: Any, mesh: Any, name: str, colour: str, extras: dict[str, Any]) -> None:
    rgba = [int(colour[i : i + 2], 16) for i in (0, 2, 4)] + [255]
    material = trimesh.visual.material.PBRMaterial(name=colour, baseColorFactor=rgba, metallicFactor=0.0, roughnessFactor=1.0)
    mesh.visual = trimesh.visual.TextureVisuals(material=material)
    mesh.apply_transform(Y_UP)
    mesh.metadata.update(extras)
    scene.add_geometry(mesh, node_name=name, geom_name=name)


def mesh_of(loops: list[Vec]) -> Any:
    """Return flat loops as one mesh of triangles that share no corners."""
    return trimesh.Trimesh(*meshed(loops), process=False)
