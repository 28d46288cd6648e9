"""Reading masses: closed bodies of a mesh, upright ones as outlines, others cut at storey heights."""

from __future__ import annotations

import itertools
import math
from collections import Counter
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from scipy.spatial import cKDTree

from eurythm.exchange.intake.received import Finding, Received, ReceivedElement, ReceivedFace, ReceivedShade, ReceivedSpace, ReceivedStorey
from eurythm.geometry.building import Vec
from eurythm.geometry.loops import area_vector
from eurythm.geometry.mesh import Solid, bodies_of, slab_of, solid_of, upright_of
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError

UNITS = {"m": 1.0, "cm": 0.01, "mm": 0.001, "ft": 0.3048, "in": 0.0254}
STOREY_M = 3.5
SHEETS = ("opening/", "shade/")
LARGE = 1500.0
LEAST_M3 = 1.0
MOST_TRIANGLES = 2_000_000
MOST_STOREYS = 120


def read_mesh(path: Path, name: str, kind: str, ask: Mapping[str, str]) -> Received:
    """Read the bodies of a mesh as masses.

    Parameters
    ----------
    kind : "obj", "stl" or "gltf".
    ask : ``unit`` (m, cm, mm, ft, in) and ``up`` (y or z) where the file does not say, ``storey_height`` in m.

    Raises
    ------
    EurythmError
        ``not-a-mesh``, ``wrong-option`` or ``mesh-without-bodies``.
    """
    scene = _scene(path, name, kind)
    received = Received(file=name, format=kind, reference_plane="outer faces of the masses")
    unit, up = _unit_and_up(scene, kind, ask, received)
    received.length_unit = unit
    storey = _option(ask.get("storey_height", str(STOREY_M)), name)
    parts = _parts(scene, received)
    if kind == "obj" and parts:
        parts = _called(parts, path)
    parts = [(label, points * UNITS[unit], faces) for label, points, faces in parts]
    if up == "y":
        parts = [(label, np.column_stack([p[:, 0], -p[:, 2], p[:, 1]]), f) for label, p, f in parts]
    parts = _near_origin(parts, received)
    zones = {str(node) for node in scene.graph.nodes_geometry if "zone" in scene.geometry[scene.graph[node][1]].metadata}
    levels: set[float] = set()
    for label, points, faces in [p for p in parts if kind == "gltf" and p[0].startswith(SHEETS)]:
        _sheet(received, label, points[np.unique(faces)] if label.startswith("shade/") else points, faces)
    parts = [p for p in parts if not (kind == "gltf" and p[0].startswith(SHEETS))]
    for number, (label, points, faces) in enumerate(parts):
        _mass(received, label or f"mass {number + 1}", f"mass-{number + 1}", points, faces, math.inf if label in zones else storey, levels)
    if not received.spaces:
        raise EurythmError("mesh-without-bodies", f"“{name}” holds no body that encloses more than {amount(LEAST_M3, 'm³')}.", name)
    received.storeys = [ReceivedStorey(id=f"level-{k}", name=f"Level {k}", elevation_m=z) for k, z in enumerate(sorted(levels))]
    return received


def _scene(path: Path, name: str, kind: str) -> Any:
    try:
        suffix = {"gltf": "glb" if path.open("rb").read(4) == b"glTF" else "gltf"}.get(kind, kind)
        scene = trimesh.load(str(path), file_type=suffix, force="scene", process=False, skip_materials=True)
    except Exception as fault:
        raise EurythmError("not-a-mesh", f"“{name}” cannot be read as {kind}: {fault!s:.140}.", name) from None
    count = sum(len(g.faces) for g in scene.geometry.values() if isinstance(g, trimesh.Trimesh))
    if count == 0:
        raise EurythmError("not-a-mesh", f"“{name}” holds no triangles.", name)
    if count > MOST_TRIANGLES:
        raise EurythmError("too-large", f"“{name}” has {count:,} triangles; up to {MOST_TRIANGLES:,} are read.", name)
    return scene


def _option(text: str, name: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not 1.5 <= value <= 30:
        raise EurythmError("wrong-option", f"The storey height should be {amount(1.5, 'm')} to {amount(30, 'm')}.", name)
    return value


def _unit_and_up(scene: Any, kind: str, ask: Mapping[str, str], received: Received) -> tuple[str, str]:
    """The file's unit and upward axis; what it does not say and nobody told is guessed and said."""
    if kind == "gltf":
        return "m", "y"
    unit, up = ask.get("unit"), ask.get("up")
    if unit is not None and unit not in UNITS:
        raise EurythmError("wrong-option", f"The unit “{unit}” is none of {', '.join(UNITS)}.", received.file)
    if up is not None and up not in ("y", "z"):
        raise EurythmError("wrong-option", "The upward axis is y or z.", received.file)
    if unit is None:
        unit = "mm" if float(np.max(scene.extents)) > LARGE else "m"
        received.findings.append(Finding(code="unit-assumed", object="", sentence=f"The file names no unit; {unit} was taken."))
    if up is None:
        up = "z"
        received.findings.append(Finding(code="up-assumed", object="", sentence="The file does not say which axis looks up; z was taken."))
    return unit, up


def _parts(scene: Any, received: Received) -> list[tuple[str, Vec, Any]]:
    """The bodies of a scene, in the world's axes."""
    found = []
    for node in sorted(scene.graph.nodes_geometry):
        matrix, geometry = scene.graph[node]
        mesh = scene.geometry[geometry]
        if not isinstance(mesh, trimesh.Trimesh) or len(mesh.faces) == 0:
            continue
        points = trimesh.transform_points(mesh.vertices, matrix)
        sound = np.isfinite(points).all(axis=1)
        faces = mesh.faces[sound[mesh.faces].all(axis=1)]
        if len(faces) < len(mesh.faces):
            sentence = f"{len(mesh.faces) - len(faces)} triangles of “{node}” have corners that are no numbers; they are left out."
            received.findings.append(Finding(code="corner-without-place", object="", sentence=sentence))
        if len(faces) == 0:
            continue
        whole = trimesh.Trimesh(np.where(sound[:, None], points, 0.0), faces, process=False)
        whole.merge_vertices(merge_tex=True, merge_norm=True, digits_vertex=5)
        groups = bodies_of(whole)
        if len(groups) > 1 and not all(solid_of(whole.vertices, whole.faces[g]).closed for g in groups):
            together = solid_of(np.asarray(whole.vertices), whole.faces)
            if together.closed and not together.capped:  # bodies that only hang together where an edge meets another's middle
                groups = [np.arange(len(whole.faces))]
        for k, group in enumerate(sorted((np.sort(g) for g in groups), key=lambda g: int(g[0]))):
            found.append((f"{node} {k + 1}" if len(groups) > 1 else str(node), np.asarray(whole.vertices), whole.faces[group]))
    return found


def _called(parts: list[tuple[str, Vec, Any]], path: Path) -> list[tuple[str, Vec, Any]]:
    """The bodies of an OBJ by the names of its objects, or else groups; one body may consist of several, then the first names it."""
    for split in ("split_objects", "split_groups"):
        try:
            scene = trimesh.load(str(path), file_type="obj", force="scene", process=False, skip_materials=True, **{split: True})
        except Exception:
            return parts  # it was read as a whole: only the names are missing
        meshes = {name: mesh for name, mesh in scene.geometry.items() if isinstance(mesh, trimesh.Trimesh) and len(mesh.faces)}
        named = {name: mesh for name, mesh in meshes.items() if np.all(np.isfinite(mesh.vertices))}
        if len(named) > 1:
            break
    else:
        return parts
    names = [name for name, mesh in named.items() for _ in range(len(mesh.faces))]
    tree = cKDTree(np.concatenate([mesh.triangles_center for mesh in named.values()]))
    _, nearest = tree.query([points[faces[0]].mean(axis=0) for _, points, faces in parts])
    own = [names[k] for k in nearest]
    count, number = Counter(own), Counter[str]()
    found = []
    for name, (_, points, faces) in zip(own, parts, strict=True):
        number[name] += 1
        found.append((f"{name} {number[name]}" if count[name] > 1 else name, points, faces))
    return found


def _near_origin(parts: list[tuple[str, Vec, Any]], received: Received) -> list[tuple[str, Vec, Any]]:
    middle = np.median(np.concatenate([p[np.unique(f)] for _, p, f in parts]), axis=0)
    away = float(np.linalg.norm(middle[:2]))
    if away <= 4000:
        return parts
    shift = np.floor([middle[0], middle[1], 0.0])
    received.moved_m = (-float(shift[0]), -float(shift[1]), 0.0)
    sentence = f"The model lay {away / 1000:.0f} km off its origin; it was moved near it."
    received.findings.append(Finding(code="moved-to-origin", object="", sentence=sentence, mended=True))
    return [(label, points - shift, faces) for label, points, faces in parts]


def _sheet(received: Received, label: str, points: Vec, faces: Any) -> None:
    """A flat sheet that our own export names: an opening on the face that it lies on, or a shade."""
    if label.startswith("shade/"):
        received.extra.shades.append(ReceivedShade(name=label, corners=[tuple(p) for p in points.round(5).tolist()]))
        return
    used, index = np.unique(faces, return_inverse=True)
    received.elements.append(
        ReceivedElement(
            id=label,
            kind="opening",
            class_name="Opening",
            name=label,
            points=[tuple(p) for p in points[used].round(5).tolist()],
            triangles=[tuple(t) for t in index.reshape(-1, 3).tolist()],
        )
    )


def _mass(received: Received, label: str, ref: str, points: Vec, faces: Any, storey: float, levels: set[float]) -> None:
    """Take one body as a mass; `storey` is the height to cut it at, m, and infinite for what our own export calls a zone."""
    solid = solid_of(points, faces)

    def find(code: str, sentence: str, mended: bool, loops: tuple[Vec, ...] = ()) -> None:
        held = [loop.round(4).tolist() for loop in loops if len(loop) >= 3]
        received.findings.append(Finding(code=code, object=ref, sentence=sentence, mended=mended, loops=held))

    if solid.turned:
        find("faces-turned", f"Faces of “{label}” looked inwards; they were turned.", True)
    if solid.capped and solid.closed:
        find("space-not-closed", f"“{label}” did not close; {len(solid.capped)} holes were covered with flat faces.", True, solid.capped)
    if not solid.closed:
        find("space-not-closed", f"“{label}” does not close, or meets itself along an edge; it is left out.", False, solid.open_edges)
        received.spaces.append(ReceivedSpace(id=ref, kind="mass", class_name="Solid", name=label, closed=False, faces=_faces(solid)))
        return
    if solid.volume < LEAST_M3:
        find("space-tiny", f"“{label}” encloses {amount(solid.volume, 'm³', 2)}; it is left out.", True)
        received.spaces.append(
            ReceivedSpace(id=ref, kind="mass", class_name="Solid", name=label, closed=False, faces=_faces(solid), volume_m3=solid.volume)
        )
        return
    upright = upright_of(solid)
    low = min(float(loop[:, 2].min()) for loop in solid.faces)
    high = max(float(loop[:, 2].max()) for loop in solid.faces)
    count = min(max(1, round((high - low) / storey)), MOST_STOREYS)
    heights = [low + (high - low) * k / count for k in range(count + 1)] if upright is not None else _storey_levels(low, high, storey)
    levels.update(round(z, 3) for z in heights[:-1])
    if upright is not None:
        floor = abs(_area(upright.rings[0])) - sum(abs(_area(r)) for r in upright.rings[1:])
        received.spaces.append(
            ReceivedSpace(
                id=ref, kind="mass", class_name="Solid", name=label, faces=_faces(solid), rings=[[(float(x), float(y)) for x, y in r] for r in upright.rings],
                level=upright.level, height=upright.height, volume_m3=solid.volume, floor_area_m2=floor * count, properties={"storeys": count},
            )
        )  # fmt: skip
        return
    for k, (bottom, top) in enumerate(itertools.pairwise(heights)):
        cut = solid if len(heights) == 2 else slab_of(solid, bottom, top)
        if not cut.closed or cut.volume < LEAST_M3:
            find(
                "space-not-closed",
                f"“{label}” between {amount(bottom, 'm', 2)} and {amount(top, 'm', 2)} encloses nothing; it is left out.",
                cut.volume < LEAST_M3,
            )
            continue
        whole = upright_of(cut)
        floor = sum(-float(v[2]) for loop in cut.faces if (v := area_vector(loop))[2] < -0.5 * np.linalg.norm(v))
        received.spaces.append(
            ReceivedSpace(
                id=f"{ref}-{k}", kind="mass", class_name="Solid", name=f"{label}, level {k}" if len(heights) > 2 else label, faces=_faces(cut),
                storey=None, volume_m3=cut.volume, floor_area_m2=floor,
                **({} if whole is None else {"rings": [[(float(x), float(y)) for x, y in r] for r in whole.rings], "level": whole.level, "height": whole.height}),
            )
        )  # fmt: skip


def _storey_levels(low: float, high: float, storey: float) -> list[float]:
    """Levels at storey heights from the foot; a rest below half a storey stays with the last one."""
    count = max(1, math.floor((high - low) / storey + 0.5))
    return [low, *(low + storey * k for k in range(1, min(count, MOST_STOREYS))), high]


def _faces(solid: Solid) -> list[ReceivedFace]:
    return [ReceivedFace(id=f"f{k + 1}", loop=[tuple(p) for p in loop.tolist()]) for k, loop in enumerate(solid.faces)]


def _area(ring: Vec) -> float:
    return 0.5 * float(np.sum(ring[:, 0] * np.roll(ring[:, 1], -1) - np.roll(ring[:, 0], -1) * ring[:, 1]))
