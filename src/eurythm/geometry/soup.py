"""Closing a body that comes as loose polygons: doubled points, faces that look inwards, faces that are missing."""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from eurythm.geometry.building import Vec
from eurythm.geometry.loops import area_vector, between, chained

SAME = 0.005
FLAT = 0.02
LEAST_M2 = 0.01


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
    """Thin, turn and close the polygons of a body.

    Neighbours along an edge run it in opposite directions, so one face tells the next which way it looks; which way is out
    follows from the volume, once what is missing has been covered.
    """
    thin = [_thinned(loop) for loop in loops]
    thinned = tuple(k for k, (a, b) in enumerate(zip(loops, thin, strict=True)) if len(b) < len(a))
    ways, corners = _ways(thin)
    flipped = _agreed(ways)
    faces = [loop[::-1] if k in flipped else loop for k, loop in enumerate(thin)]
    holes, covers = _missing([way[::-1] if k in flipped else way for k, way in enumerate(ways)], corners)
    whole = [*faces, *covers]
    volume = sum(float(np.dot(loop.mean(axis=0), area_vector(loop))) for loop in whole) / 3
    if volume < 0:
        whole, volume = [loop[::-1] for loop in whole], -volume
        flipped = set(range(len(faces))) - flipped
    return Body(tuple(whole), tuple(sorted(flipped)), thinned, (*covers, *holes), len(covers), not holes, volume)


def _thinned(loop: Vec) -> Vec:
    """A loop without points that follow each other at the same place."""
    keep = np.linalg.norm(loop - np.roll(loop, 1, axis=0), axis=1) > 1e-4
    out: Vec = loop[keep]
    return out if len(out) >= 3 else loop


def _ways(loops: Sequence[Vec]) -> tuple[list[list[int]], Vec]:
    """Each loop as a way from corner to corner, through those of other loops that lie on its edges; and the corners."""
    points = np.concatenate(list(loops))
    near = cKDTree(points).query_pairs(SAME, output_type="ndarray")
    graph = coo_matrix((np.ones(len(near)), (near[:, 0], near[:, 1])), shape=(len(points), len(points)))
    _, names = connected_components(graph, directed=False)
    _, first = np.unique(names, return_index=True)
    corners = points[first]
    everything = np.arange(len(corners))
    ways, at = [], 0
    for loop in loops:
        own = names[at : at + len(loop)]
        at += len(loop)
        way: list[int] = []
        for a, b in zip(own, np.roll(own, -1), strict=True):
            if a != b:
                way += [int(a), *between(corners, everything, int(a), int(b), SAME)]
        ways.append(way)
    return ways, corners


def _edges(way: list[int]) -> list[tuple[int, int]]:
    return [*pairwise(way), (way[-1], way[0])] if len(way) > 2 else []


def _agreed(ways: Sequence[list[int]]) -> set[int]:
    """Which loops to turn so that neighbours agree; in each connected part the fewer are turned."""
    users: dict[tuple[int, int], list[tuple[int, bool]]] = defaultdict(list)
    for k, way in enumerate(ways):
        for a, b in _edges(way):
            users[min(a, b), max(a, b)].append((k, a < b))
    beside: dict[int, list[tuple[int, bool]]] = defaultdict(list)
    for pair in users.values():
        if len(pair) == 2:
            (i, up_i), (j, up_j) = pair
            beside[i].append((j, up_i == up_j))
            beside[j].append((i, up_i == up_j))
    turned: set[int] = set()
    seen: dict[int, bool] = {}
    for start in range(len(ways)):
        if start in seen:
            continue
        seen[start] = False
        part, queue = [start], deque([start])
        while queue:
            here = queue.popleft()
            for there, against in beside[here]:
                if there not in seen:
                    seen[there] = seen[here] != against
                    part.append(there)
                    queue.append(there)
        odd = {k for k in part if seen[k]}
        turned |= odd if len(odd) <= len(part) / 2 else set(part) - odd
    return turned


def _missing(ways: Sequence[list[int]], corners: Vec) -> tuple[list[Vec], list[Vec]]:
    """Rims of what is missing that are not flat, and flat covers for the rest."""
    balance: dict[tuple[int, int], int] = defaultdict(int)
    for way in ways:
        for a, b in _edges(way):
            balance[min(a, b), max(a, b)] += 1 if a < b else -1
    open_edges = [(a, b) if n > 0 else (b, a) for (a, b), n in balance.items() for _ in range(abs(n))]
    rims: list[Vec] = []
    covers: list[Vec] = []
    for chain in chained(np.array(open_edges, dtype=np.int64).reshape(-1, 2)):
        rim = corners[chain]
        vector = area_vector(rim)
        area = float(np.linalg.norm(vector))
        if area < LEAST_M2:
            continue
        if np.ptp(rim @ (vector / area)) < FLAT:
            covers.append(rim[::-1])
        else:
            rims.append(rim)
    return rims, covers
