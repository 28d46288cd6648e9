"""Objects of a received file as they are drawn: triangles for the model, a few lines for a list."""

from __future__ import annotations

from typing import Any

import numpy as np

from eurythm.exchange.intake.received import ReceivedElement, ReceivedSpace
from eurythm.geometry.loops import meshed

MOST_LINES = 80
SHARP = 0.35
ISO = np.array([[0.866, 0.5, 0.0], [-0.866, 0.5, 0.0], [0.0, 0.0, 1.0]]) @ np.array([[1.0, 0.0], [0.0, 0.6], [0.0, 1.0]])


def triangles_of(thing: ReceivedSpace | ReceivedElement) -> tuple[list[float], list[int]]:
    """Return points and triangles of an object as flat lists, m."""
    if isinstance(thing, ReceivedElement):
        points, triangles = np.asarray(thing.points, dtype=float), np.asarray(thing.triangles, dtype=np.int64)
    elif thing.faces:
        points, triangles = meshed([np.asarray(f.loop, dtype=float) for f in thing.faces])
    else:
        return [], []
    return np.round(points, 3).ravel().tolist(), triangles.ravel().tolist()


def picture(things: list[Any]) -> list[list[float]]:
    """Return the sharp edges of a middling one of the objects, seen from above a corner, as lines within a unit square."""
    import trimesh  # a third of a second, which a server without imports does not spend

    sized = [(len(p), p, t) for p, t in (triangles_of(thing) for thing in things[:40]) if t]
    if not sized:
        return []
    _, flat, triangles = sorted(sized, key=lambda s: s[0])[len(sized) // 2]
    mesh = trimesh.Trimesh(np.reshape(flat, (-1, 3)), np.reshape(triangles, (-1, 3)), process=True)
    sharp = mesh.face_adjacency_edges[mesh.face_adjacency_angles > SHARP]
    _, inverse, counts = np.unique(mesh.edges_sorted, axis=0, return_inverse=True, return_counts=True)
    edges = np.vstack([sharp, mesh.edges_sorted[counts[inverse] == 1]])[:MOST_LINES]
    seen = mesh.vertices @ ISO
    seen = seen - seen.min(axis=0)
    seen = seen / max(float(seen.max()), 1e-9)
    seen = seen + (1 - seen.max(axis=0)) / 2
    seen[:, 1] = 1 - seen[:, 1]
    return [[round(float(c), 3) for c in (*seen[a], *seen[b])] for a, b in edges]
