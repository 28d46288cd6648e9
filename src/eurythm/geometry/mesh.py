"""From triangles to flat faces: welding, turning, closing, and the upright rooms among them."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
import trimesh
from numpy.typing import NDArray
from scipy.spatial import cKDTree
from shapely.geometry import Polygon, box

from eurythm.geometry.building import Vec
from eurythm.geometry.clean import GRID, areal, polygons_of, sound_polygons
from eurythm.geometry.loops import STRAIGHT, WELD, Triangles, area_vector, between, chained, frame_of, meshed, straightened, without_holes

FLAT = 0.01


@dataclass(frozen=True, eq=False)
class Solid:
    """A closed body by its flat faces.

    Attributes
    ----------
    faces : loops (n, 3) without holes, counter-clockwise seen from outside, m.
    closed : whether it encloses air; a body that does not has faces all the same.
    capped : loops of holes that were closed with a flat face, m.
    open_edges : loops of holes that could not be closed, m.
    turned : whether faces looked inwards and were turned.
    volume : enclosed, m³; 0 where it is not closed.
    """

    faces: tuple[Vec, ...]
    closed: bool
    capped: tuple[Vec, ...]
    open_edges: tuple[Vec, ...]
    turned: bool
    volume: float


@dataclass(frozen=True, eq=False)
class Upright:
    """A body with one floor and one ceiling of the same outline: rings in plan, level and height, m."""

    rings: tuple[Vec, ...]
    level: float
    height: float


def solid_of(points: Vec, triangles: Triangles) -> Solid:
    """Weld, close and orient a mesh, and join its triangles to flat faces."""
    mesh = trimesh.Trimesh(np.round(points, 6), triangles, process=False)
    mesh.merge_vertices(digits_vertex=4)
    mesh.update_faces(mesh.unique_faces() & mesh.nondegenerate_faces(height=1e-6))
    mesh.remove_unreferenced_vertices()
    _split_at_corners(mesh)
    capped, left = _cap(mesh)
    before = mesh.faces.copy()
    if len(mesh.faces):
        trimesh.repair.fix_winding(mesh)
    closed = bool(len(mesh.faces)) and not left and bool(mesh.is_watertight)
    volume = float(mesh.volume) if closed else 0.0
    if closed and volume < 0:
        mesh.invert()
        volume = -volume
    turned = len(before) == len(mesh.faces) and bool(np.any(_spin(before) != _spin(mesh.faces)))
    return Solid(tuple(_flat_faces(mesh)), closed, tuple(capped), tuple(left), turned, volume)


def _spin(faces: Triangles) -> NDArray[np.bool_]:
    """Which way round each triangle runs, whatever corner it starts with."""
    first = np.argmin(faces, axis=1)
    rows = np.arange(len(faces))
    spin: NDArray[np.bool_] = faces[rows, (first + 1) % 3] < faces[rows, (first + 2) % 3]
    return spin


def _split_at_corners(mesh: trimesh.Trimesh) -> None:
    """Where a corner of one triangle lies on another's edge, give that edge the corner too."""
    if len(mesh.faces) == 0 or mesh.is_watertight:
        return
    edges = mesh.edges_sorted
    _, inverse, counts = np.unique(edges, axis=0, return_inverse=True, return_counts=True)
    open_edge = (counts[inverse] == 1).reshape(-1, 3)  # three directed edges a triangle, in its order
    rim = np.unique(mesh.edges[counts[inverse] == 1])
    kept: list[Triangles] = [mesh.faces[~open_edge.any(axis=1)]]
    for triangle, is_open in zip(mesh.faces[open_edge.any(axis=1)], open_edge[open_edge.any(axis=1)], strict=True):
        ring: list[int] = []
        for k in range(3):
            a, b = int(triangle[k]), int(triangle[(k + 1) % 3])
            ring += [a, *(between(mesh.vertices, rim, a, b) if is_open[k] else [])]
        if len(ring) == 3:
            kept.append(triangle[None, :])
            continue
        # fans from the corner at which no piece is flat: opposite a split edge there is always one
        for start in range(len(ring)):
            turned = ring[start:] + ring[:start]
            fan = np.array([[turned[0], p, q] for p, q in pairwise(turned[1:])])
            corners = mesh.vertices[fan]
            if np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).min() > 1e-7:
                kept.append(fan)
                break
        else:
            kept.append(_ears(mesh.vertices, ring))
    mesh.faces = np.vstack(kept)


def _ears(vertices: Vec, ring: list[int]) -> Triangles:
    """Cut a ring of corners, some of them in line, into triangles that all have area."""
    ring = list(ring)
    found = []
    while len(ring) > 3:
        for k in range(len(ring)):
            a, b, c = ring[k - 1], ring[k], ring[(k + 1) % len(ring)]
            area = np.linalg.norm(np.cross(vertices[b] - vertices[a], vertices[c] - vertices[a]))
            rest = [r for r in ring if r != b]
            if area > 1e-7 and np.linalg.matrix_rank(vertices[rest] - vertices[rest[0]], tol=1e-6) >= 2:
                found.append([a, b, c])
                ring = rest
                break
        else:
            break
    return np.array([*found, ring[:3]], dtype=np.int64)


def _cap(mesh: trimesh.Trimesh) -> tuple[list[Vec], list[Vec]]:
    """Close holes whose rims are flat; return the loops that were closed and those left open."""
    edges = mesh.edges_sorted
    if len(edges) == 0:
        return [], []
    _, inverse, counts = np.unique(edges, axis=0, return_inverse=True, return_counts=True)
    rim = mesh.edges[counts[inverse] == 1]
    capped: list[Vec] = []
    left: list[Vec] = []
    new: list[Triangles] = []
    for loop in chained(rim):
        corners = mesh.vertices[loop]
        vector = 0.5 * np.sum(np.cross(corners, np.roll(corners, -1, axis=0)), axis=0)
        area = float(np.linalg.norm(vector))
        if len(loop) < 3 or area < 1e-6:
            left.append(corners)
            continue
        normal = vector / area
        if np.ptp(corners @ normal) > FLAT:
            left.append(corners)
            continue
        across, up = frame_of(normal)
        flat = Polygon(np.column_stack([corners @ across, corners @ up]))
        if not flat.is_valid:
            left.append(corners)
            continue
        ring, triangles = trimesh.creation.triangulate_polygon(flat, engine="earcut")
        nearest = np.argmin(np.linalg.norm(ring[:, None, :] - np.asarray(flat.exterior.coords)[None, :-1, :], axis=2), axis=1)
        new.append(np.asarray(loop)[nearest][triangles][:, ::-1])
        capped.append(corners)
    if new:
        mesh.faces = np.vstack([mesh.faces, *new])
    return capped, left


def bodies_of(mesh: trimesh.Trimesh) -> list[NDArray[np.int64]]:
    """Return the triangles of a mesh by the bodies that they enclose, as arrays of indices.

    Triangles hang together over an edge that two of them share. Where more meet, as where bodies touch along a face or an
    edge, a triangle goes on with the next one on its inner side: it is taken to be counter-clockwise seen from outside.
    """
    undirected, inverse, counts = np.unique(mesh.edges_sorted, axis=0, return_inverse=True, return_counts=True)
    order = np.argsort(inverse.ravel(), kind="stable")
    starts = np.concatenate([[0], np.cumsum(counts)])
    twice = starts[:-1][counts == 2]
    pairs = [mesh.edges_face[order[np.stack([twice, twice + 1], axis=1)]]]
    for k in np.flatnonzero(counts > 2):
        at = order[starts[k] : starts[k + 1]]
        faces = mesh.edges_face[at]
        a, b = mesh.vertices[undirected[k]]
        axis = (b - a) / np.linalg.norm(b - a)
        across, up = frame_of(axis)
        away = mesh.triangles_center[faces] - a
        angles = np.arctan2(away @ up, away @ across) % (2 * np.pi)
        along = mesh.edges[at][:, 0] == undirected[k][0]  # such a triangle has its inside where angles fall
        for i in np.flatnonzero(along):
            turn = (angles[i] - angles) % (2 * np.pi)
            turn[(turn < 1e-4) | (turn > 2 * np.pi - 1e-4) | along] = np.inf
            j = int(np.argmin(turn))
            if np.isfinite(turn[j]):
                pairs.append(faces[[[i, j]]])
    joined = np.concatenate(pairs)
    return [np.sort(group) for group in trimesh.graph.connected_components(joined, nodes=np.arange(len(mesh.faces)), min_len=1)]


def _flat_faces(mesh: trimesh.Trimesh) -> list[Vec]:
    """Join neighbouring triangles of one plane to polygons."""
    if len(mesh.faces) == 0:
        return []
    normals = mesh.face_normals
    offsets = np.einsum("ij,ij->i", normals, mesh.triangles_center)
    key = np.round(np.column_stack([normals * 500, offsets * 500])).astype(np.int64)
    _, plane = np.unique(key, axis=0, return_inverse=True)
    # triangles of one plane may fall on either side of a rounding step: neighbours that are flat to each other go together
    pairs = mesh.face_adjacency
    flat = mesh.face_adjacency_angles < 0.004
    groups = trimesh.graph.connected_components(pairs[flat], nodes=np.arange(len(mesh.faces)), min_len=1)
    by_plane: dict[int, list[int]] = {}
    for group in groups:
        by_plane.setdefault(int(plane[group[0]]), []).extend(int(g) for g in group)
    faces: list[Vec] = []
    tree = cKDTree(mesh.vertices)
    for members in by_plane.values():
        normal = np.average(normals[members], axis=0, weights=mesh.area_faces[members])
        normal = normal / np.linalg.norm(normal)
        across, up = frame_of(normal)
        corners = mesh.triangles[members]
        heights = corners.reshape(-1, 3) @ normal
        if np.ptp(heights) > WELD:  # nearly in one plane, yet not: joined, they would leave gaps at their edges
            faces.extend(corners)
            continue
        off = float(np.mean(heights))
        flats = shapely.polygons(np.stack([corners @ across, corners @ up], axis=2))
        for polygon in areal(shapely.union_all(flats, grid_size=WELD)).geoms:
            for piece in without_holes(shapely.simplify(polygon, STRAIGHT)):
                turned = shapely.geometry.polygon.orient(piece)
                ring = np.asarray(turned.exterior.coords)[:-1]
                loop = np.round(np.outer(ring[:, 0], across) + np.outer(ring[:, 1], up) + off * normal, 5)
                far, nearest = tree.query(loop, distance_upper_bound=2 * WELD)
                known = np.isfinite(far)  # joining on a grid moves corners a little; they go back to where they were
                loop[known] = mesh.vertices[nearest[known]]
                faces.append(loop)
    return faces


def slab_of(solid: Solid, low: float, high: float) -> Solid:
    """Return the part of a closed body between two levels, m, with flat faces where it was cut."""
    flat: list[Vec] = []
    cut: list[Vec] = []
    for loop in solid.faces:
        z = loop[:, 2]
        if np.ptp(z) >= WELD:
            cut += _clipped(loop, low, high)
            continue
        up = float(area_vector(loop)[2]) > 0
        on = [level for level, faces_out in ((low, not up), (high, up)) if abs(z[0] - level) < WELD and faces_out]
        if on or low + WELD < z[0] < high - WELD:
            flat.append(loop)
    welded = _welded(flat + cut, (low, high))
    sheets, parts = ([loop for loop in some if len(loop) > 2] for some in (welded[: len(flat)], welded[len(flat) :]))
    kept = [*sheets, *parts]
    rims: dict[float, list[Vec]] = {low: [], high: []}
    lying: dict[float, list[Polygon]] = {low: [], high: []}
    for level in (low, high):
        lying[level] = [Polygon(loop[:, :2]) for loop in sheets if abs(loop[0, 2] - level) < WELD]
        for part in parts:
            on_level = np.abs(part[:, 2] - level) < WELD
            rims[level] += [part[[k, k - 1], :2] for k in np.flatnonzero(on_level & np.roll(on_level, 1))]
    for level, up_sign in ((low, -1), (high, 1)):
        section = shapely.build_area(shapely.set_precision(shapely.MultiLineString(rims[level]), GRID))
        # only where a face lies in the cut can slivers arise; elsewhere cleaning would just blunt sharp corners
        caps = polygons_of(section.difference(shapely.union_all(lying[level]))) if lying[level] else sound_polygons(section, 0.0)
        for cap in caps:
            for piece in without_holes(cap):
                ring = np.asarray(shapely.geometry.polygon.orient(piece, up_sign).exterior.coords)[:-1]
                kept.append(np.column_stack([ring, np.full(len(ring), level)]))
    if not kept:
        return Solid((), False, (), (), False, 0.0)
    return solid_of(*meshed(kept))


def _welded(loops: list[Vec], levels: tuple[float, float]) -> list[Vec]:
    """The loops with those corners in one place that lie on a level and nearly in one place."""
    points = np.concatenate(loops) if loops else np.zeros((0, 3))
    for level in levels:
        on = np.flatnonzero(np.abs(points[:, 2] - level) < WELD)
        pairs = cKDTree(points[on]).query_pairs(3 * WELD, output_type="ndarray") if len(on) else np.zeros((0, 2), dtype=np.int64)
        for group in trimesh.graph.connected_components(pairs, nodes=np.arange(len(on)), min_len=2):
            points[on[group]] = points[on[np.min(group)]]
    apart = np.split(points, np.cumsum([len(loop) for loop in loops])[:-1]) if loops else []
    return [loop[np.any(loop != np.roll(loop, 1, axis=0), axis=1)] for loop in apart]


def _crossings(loop: Vec, levels: tuple[float, float]) -> Vec:
    """Where the edges of a loop cross levels; the same for whatever loop has the same edge, whichever way round."""
    found = []
    for a, b in zip(loop, np.roll(loop, -1, axis=0), strict=True):
        low, high = (a, b) if a[2] < b[2] else (b, a)
        found += [low + (high - low) * (level - low[2]) / (high[2] - low[2]) for level in levels if low[2] < level < high[2]]
    return np.array(found).reshape(-1, 3)


def _clipped(loop: Vec, low: float, high: float) -> list[Vec]:
    """The parts of a face that does not lie flat between two levels."""
    z = loop[:, 2]
    if z.min() > low - WELD and z.max() < high + WELD:
        return [loop]
    if z.max() < low + WELD or z.min() > high - WELD:
        return []
    vector = area_vector(loop)
    normal = vector / np.linalg.norm(vector)
    across, up = frame_of(normal)
    foot = loop[0]
    s, t = (loop - foot) @ across, (loop - foot) @ up
    bottom, top = ((level - foot[2]) / up[2] for level in (low, high))
    found = []
    known = np.vstack([loop, _crossings(loop, (low, high))])
    tree = cKDTree(known)
    cut = Polygon(np.column_stack([s, t])).buffer(0).intersection(box(s.min() - 1, bottom, s.max() + 1, top))
    for polygon in (p for part in areal(cut).geoms for p in without_holes(part)):
        ring = np.asarray(shapely.geometry.polygon.orient(polygon).exterior.coords)[:-1]
        part = foot + np.outer(ring[:, 0], across) + np.outer(ring[:, 1], up)
        far, nearest = tree.query(part, distance_upper_bound=FLAT)
        near = np.isfinite(far)  # a face may be flat but for a hair: its corners are where its neighbours have them
        part[near] = known[nearest[near]]
        for level in (low, high):
            part[np.abs(part[:, 2] - level) < WELD, 2] = level
        found.append(np.round(part, 6))
    return found


def upright_of(solid: Solid) -> Upright | None:
    """Return a body as an outline with a level and a height, or None where it is no such thing."""
    floors: list[Polygon] = []
    ceilings: list[Polygon] = []
    levels: list[float] = []
    tops: list[float] = []
    for loop in solid.faces:
        vector = np.sum(np.cross(loop, np.roll(loop, -1, axis=0)), axis=0)
        normal = vector / max(float(np.linalg.norm(vector)), 1e-12)
        if abs(normal[2]) < 0.01:
            continue
        if abs(normal[2]) < 0.9999:
            return None
        flat = Polygon(loop[:, :2]).buffer(0)
        (ceilings if normal[2] > 0 else floors).append(flat)
        (tops if normal[2] > 0 else levels).append(float(loop[:, 2].mean()))
    if not floors or not ceilings or np.ptp(levels) > FLAT or np.ptp(tops) > FLAT:
        return None
    floor, ceiling = areal(shapely.union_all(floors, grid_size=WELD)), areal(shapely.union_all(ceilings, grid_size=WELD))
    if len(floor.geoms) != 1 or floor.symmetric_difference(ceiling).area > 0.01 * max(floor.area, 1.0):
        return None
    plan = shapely.geometry.polygon.orient(straightened(floor.geoms[0]))
    rings = tuple(np.round(np.asarray(r.coords)[:-1], 5) for r in (plan.exterior, *plan.interiors))
    level, top = float(np.mean(levels)), float(np.mean(tops))
    return Upright(rings, round(level, 5), round(top - level, 5)) if top - level > 0.1 else None
