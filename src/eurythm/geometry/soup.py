"""Closing a body that comes as loose polygons: doubled points, faces that look inwards, faces that are missing."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from eurythm.geometry.building import Vec
from eurythm.geometry.mesh import between, chained, frame_of

SAME = 0.005
FLAT = 0.02


@dataclass(frozen=True, eq=False)
class Body:
    """Polygons of one body, all looking outwards.

    Attributes
    ----------
    loops : (n, 3) each, m, in the order given; those that close holes come after them.
    turned : positions of those that looked inwards.
    thinned : positions of those with doubled points, which were dropped.
    holes : rims of what is missing, m; a flat one was covered.
    covered : how many of `loops` at their end cover a hole.
    closed : whether nothing is left open.
    volume : enclosed, m³.
    """

    loops: tuple[Vec, ...]
    turned: tuple[int, ...]
    thinned: tuple[int, ...]
    holes: tuple[Vec, ...]
    covered: int
    closed: bool
    volume: float


def body_of(loops: Sequence[Vec]) -> Body:
    """Thin, turn and close the polygons of a body."""
    thin = [_thinned(loop) for loop in loops]
    thinned = tuple(k for k, (a, b) in enumerate(zip(loops, thin, strict=True)) if len(b) < len(a))
    sound = [loop if len(loop) >= 3 else None for loop in thin]
    faces = [loop for loop in sound if loop is not None]
    # a missing face lets rays through, so that those who look inwards are sought once more after closing
    faces, turned = _turned(faces)
    holes, caps = _caps(faces)
    if caps:
        faces, again = _turned([*faces, *caps])
        turned ^= {k for k in again if k < len(faces) - len(caps)}
        holes, more = _caps(faces)
        holes, caps = (holes or [], caps) if not more else (holes, caps)
        rims = list(faces[len(faces) - len(caps) :])
    else:
        rims = []
    volume = sum(float(np.dot(loop.mean(axis=0), _vector(loop))) for loop in faces) / 3
    return Body(tuple(faces), tuple(sorted(turned)), thinned, (*rims, *holes), len(caps), not holes, volume)


def _vector(loop: Vec) -> Vec:
    """Area vector of a polygon, m²."""
    out: Vec = 0.5 * np.sum(np.cross(loop, np.roll(loop, -1, axis=0)), axis=0)
    return out


def _thinned(loop: Vec) -> Vec:
    """A loop without points that follow each other at the same place."""
    keep = np.linalg.norm(loop - np.roll(loop, 1, axis=0), axis=1) > 1e-4
    out: Vec = loop[keep]
    return out


def _turned(faces: list[Vec]) -> tuple[list[Vec], set[int]]:
    """Turn faces that look inwards: a ray from a face outward meets the others an even number of times."""
    normals = [_vector(f) / max(float(np.linalg.norm(_vector(f))), 1e-12) for f in faces]
    flats = []
    for face, normal in zip(faces, normals, strict=True):
        across, up = frame_of(normal)
        flats.append((Polygon(np.column_stack([face @ across, face @ up])).buffer(0), across, up))
    done, turned = [], set()
    for k, (face, normal) in enumerate(zip(faces, normals, strict=True)):
        flat, across, up = flats[k]
        inner = flat.representative_point()
        start = inner.x * across + inner.y * up + float(face[0] @ normal) * normal
        votes = 0
        for tilt in (0.0, 0.013, -0.017):
            ray = normal + tilt * across + 0.7 * tilt * up
            crossings = 0
            for j, (other, n) in enumerate(zip(faces, normals, strict=True)):
                slope = float(ray @ n)
                if j == k or abs(slope) < 1e-9:
                    continue
                t = float((other[0] - start) @ n) / slope
                if t > 1e-6:
                    hit = start + t * ray
                    crossings += bool(flats[j][0].contains(shapely.Point(float(hit @ flats[j][1]), float(hit @ flats[j][2]))))
            votes += 1 if crossings % 2 else -1
        if votes > 0:
            turned.add(k)
        done.append(face[::-1] if votes > 0 else face)
    return done, turned


def _caps(faces: list[Vec]) -> tuple[list[Vec], list[Vec]]:
    """Rims of what is missing that are not flat, and flat covers for the rest."""
    points = np.concatenate(faces)
    keys = np.round(points / SAME).astype(np.int64)
    _, first, index = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    corners = points[first]
    edges: Counter[tuple[int, int]] = Counter()
    at = 0
    for face in faces:
        names = index[at : at + len(face)].ravel()
        at += len(face)
        for a, b in zip(names, np.roll(names, -1), strict=True):
            way = [int(a), *between(corners, np.arange(len(corners)), int(a), int(b), SAME), int(b)]
            edges.update((p, q) for p, q in itertools.pairwise(way) if p != q)
    open_edges = [(a, b) for (a, b), n in edges.items() for _ in range(n - edges.get((b, a), 0))]
    rims: list[Vec] = []
    covers: list[Vec] = []
    for chain in chained(np.array(open_edges, dtype=np.int64).reshape(-1, 2)):
        rim = corners[chain]
        vector = _vector(rim)
        area = float(np.linalg.norm(vector))
        if area < 0.01:
            continue
        if np.ptp(rim @ (vector / area)) < FLAT:
            covers.append(rim[::-1])
        else:
            rims.append(rim)
    return rims, covers
