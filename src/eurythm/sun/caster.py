"""One caster for everything that asks "does this point see that direction" (Embree, occlusion only)."""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from eurythm.geometry.building import Vec
from eurythm.memo import Kept, key_of
from eurythm.sun.bits import clear_bits, sum_of_bits, weighted_sums
from eurythm.sun.obstacles import Obstacles
from eurythm.sun.triangles import free_of, merged

OFFSET_M, OFFSET_SHADES_M = 0.01, 0.001
"""How far before its face a ray begins: bodies may be a little askew, shades begin at the wall itself."""
WORTH_THREADS = 400_000
"""Rays from which on several threads cast them, where there are several; the ray library lets them run at once."""
FEW_TRIANGLES = 48
"""Up to so many triangles are met in a compiled loop, which is quicker than the ray library's tree."""
NEAR_M = 1.5
"""Shades that come so near to a face are its own; its other points are as far from those of the storey above as from a neighbour's wall."""
FACING = 1e-3
Single = NDArray[np.float32]
REINHART_ROWS = (60, 60, 60, 60, 48, 48, 48, 48, 36, 36, 24, 24, 12, 12)
"""Patches of a sky divided twice as fine as Tregenza's, 6 degrees a row, plus the zenith: 577 (Reinhart 2001)."""
BAND = REINHART_ROWS[0]
"""Patches of the lowest row, which stands for the horizon's band (6.5 degrees in Perez et al. 1987, unverified)."""


@lru_cache(maxsize=1)
def sky_patches() -> tuple[Vec, Vec]:
    """Return directions (577, 3) and solid angles (577,), sr, of the sky's patches, from the horizon upward."""
    directions, angles = [], []
    step = np.radians(90.0 / (len(REINHART_ROWS) + 0.5))
    for row, count in enumerate(REINHART_ROWS):
        low, high = row * step, (row + 1) * step
        altitude = (low + high) / 2
        around = (np.arange(count) + 0.5) * 2 * np.pi / count
        directions.append(
            np.stack([np.cos(altitude) * np.sin(around), np.cos(altitude) * np.cos(around), np.full(count, np.sin(altitude))], axis=1)
        )
        angles.append(np.full(count, 2 * np.pi / count * (np.sin(high) - np.sin(low))))
    directions.append(np.array([[0.0, 0.0, 1.0]]))
    angles.append(np.array([2 * np.pi * (1 - np.sin(len(REINHART_ROWS) * step))]))
    return np.concatenate(directions), np.concatenate(angles)


@dataclass(frozen=True, eq=False)
class Points:
    """Sample points that look the same way.

    Attributes
    ----------
    at : (P, 3), m
    normal : (3,) unit vector outward
    like : (P,) for each the number of one that sees the same of bodies and trees; without it each sees for itself
    """

    at: Vec
    normal: Vec
    like: NDArray[np.int64] | None = None

    @cached_property
    def key(self) -> bytes:
        """A digest of the points and their normal."""
        return key_of(self.at, self.normal)

    @cached_property
    def few(self) -> tuple[Points, NDArray[np.int64] | None]:
        """The points that see bodies and trees for themselves, and for each of all the number among them that holds for it."""
        if self.like is None:
            return self, None
        own, which = np.unique(self.like, return_inverse=True)
        return Points(self.at[own], self.normal), which


@dataclass(frozen=True, eq=False)
class Cast:
    """What each of some points sees.

    Attributes
    ----------
    sun : (P, ceil(S/8)) bits over the sunlit hours: no opaque thing between point and sun.
    crown_free : the same for tree crowns; all set where there are none.
    sky, blocked : (P,) form factors of free sky and of sky hidden by opaque things; their sum is the free hemisphere's.
    crowned : (P,) form factor of sky seen through crowns, part of `sky`.
    band, band_crowned : (P,) share of the horizon's band that is free sky, and of it what is seen through crowns.
    hours : S, number of sunlit hours.
    """

    sun: NDArray[np.uint8]
    crown_free: NDArray[np.uint8]
    sky: Vec
    blocked: Vec
    crowned: Vec
    band: Vec
    band_crowned: Vec
    hours: int
    _lit: dict[bytes, tuple[Vec, Vec | None]] = field(default_factory=dict, repr=False)

    def lit(self, weights: Vec) -> tuple[Vec, Vec | None]:
        """Part of the sun that meets several sets of points clear, and through crowns (None where there is no such), (K, S) each.

        The last answer is kept, since most faces keep their weights from one case to the next.

        Parameters
        ----------
        weights : (K, P) of the points in each set
        """
        key = weights.tobytes()
        found = self._lit.get(key)
        if found is None:
            leafy = self.sun & ~self.crown_free
            some = bool(leafy.any())
            clear = weighted_sums(self.sun ^ leafy if some else self.sun, weights, self.hours)
            found = clear, weighted_sums(leafy, weights, self.hours) if some else None
            self._lit.clear()
            self._lit[key] = found
        return found

    @property
    def nbytes(self) -> int:
        """How much it takes, with what it may keep of two sets of points."""
        return self.sun.nbytes + self.crown_free.nbytes + 5 * self.sky.nbytes + 4 * 8 * self.hours


@dataclass(frozen=True, eq=False)
class _Free:
    """Bits of what is free of one layer of obstacles: sun (P, ceil(S/8)) and sky patches (P, 73)."""

    sun: NDArray[np.uint8]
    sky: NDArray[np.uint8]


class Casts:
    """What was cast and is kept: of whole faces, and of each layer before them."""

    def __init__(self, most_bytes: int) -> None:
        self.whole: Kept[Cast] = Kept(most_bytes)
        self.free: Kept[_Free] = Kept(most_bytes)

    def make_room(self, faces: Sequence[Points], hours: int) -> None:
        """Let all that is seen from some faces be kept, as the next change of a large model needs it."""
        for kept in (self.whole, self.free):
            kept.make_room(sum(len(own.at) for own in faces) * 2 * (hours // 8 + 80) + len(faces) * 50 * hours)

    def clear(self) -> None:
        """Forget everything."""
        self.whole.clear()
        self.free.clear()


FACES, ASIDE = Casts(48_000_000), Casts(16_000_000)
"""What is seen from the faces of a building, and from whatever else is asked about."""
NOTHING_AHEAD = b""
"""Stands for a layer that lies behind the points altogether: no ray that leaves them can meet anything."""


class _Layer:
    """One layer of obstacles, and the suns and patches that are looked for."""

    def __init__(self, triangles: Vec, offset: float, sun: Vec, toward: bytes) -> None:
        self.triangles, self.offset, self.sun = triangles, offset, sun
        self.corners = triangles.reshape(-1, 3)
        self.middle = (self.corners.min(axis=0) + self.corners.max(axis=0)) / 2 if len(triangles) else np.zeros(3)
        self.key = key_of(triangles) + toward

    def plane(self, points: Points) -> float:
        """How far along their normal what the points can see begins, m."""
        return float((points.at @ points.normal).min()) + self.offset

    def key_for(self, points: Points) -> bytes:
        """What the points see of it depends on this."""
        if not len(self.triangles) or not len(points.at):
            return NOTHING_AHEAD
        ahead = float((self.corners @ points.normal).max()) > self.plane(points)
        return self.key + points.key if ahead else NOTHING_AHEAD

    @cached_property
    def scene(self) -> tuple[EmbreeScene, TriangleMesh]:
        """The ray library's tree, about the layer's own middle, since it reckons in single precision."""
        scene = EmbreeScene()
        return scene, TriangleMesh(scene, np.ascontiguousarray(self.triangles - self.middle, dtype=np.float32))

    @property
    def few(self) -> bool:
        """Whether a compiled loop over all its triangles is quicker than the tree."""
        return len(self.triangles) <= FEW_TRIANGLES


class _Shades:
    """All shades, and which of them a face can see."""

    def __init__(self, triangles: Vec) -> None:
        self.triangles = triangles
        self.low, self.high = triangles.min(axis=1), triangles.max(axis=1)

    def before(self, points: Points) -> tuple[Vec, Vec]:
        """Return the shades right before some points and those farther off; what lies behind or below them all no ray to sun or sky can meet."""
        if not len(self.triangles) or not len(points.at):
            return self.triangles[:0], self.triangles[:0]
        least, most = points.at.min(axis=0), points.at.max(axis=0)
        ahead = (self.triangles @ points.normal).max(axis=1) > float((points.at @ points.normal).min()) + OFFSET_SHADES_M
        seen = ahead & (self.high[:, 2] > least[2] - OFFSET_M)
        near = (self.low < most + NEAR_M).all(axis=1) & (self.high > least - NEAR_M).all(axis=1)
        return self.triangles[seen & near], self.triangles[seen & ~near]


def cast(obstacles: Obstacles, points: Points, sun: Vec) -> Cast:
    """Cast sun and sky from the points of one face; see `cast_all`."""
    return cast_all(obstacles, [points], sun)[0]


def cast_all(obstacles: Obstacles, faces: Sequence[Points], sun: Vec, kept: Casts = ASIDE) -> list[Cast]:
    """Cast sun and sky from the points of each face.

    Parameters
    ----------
    sun : (S, 3) unit vectors towards the sun, in the drawing's axes
    kept : where the answers are kept

    What a face sees of each layer of obstacles is cast on its own and kept by everything that it depends on; weather is not
    among it, nor is what lies behind the face. Shades right before it are cast from each of its points; those of other storeys and
    façades stand as far as bodies do, and are seen from as few points.
    """
    toward = key_of(sun)
    shades = _Shades(obstacles.shades)
    bodies = [_Layer(triangles, OFFSET_M, sun, toward) for triangles in (obstacles.solids, obstacles.crowns)]
    looks = []
    for own in faces:
        near, far = (_Layer(triangles, OFFSET_SHADES_M, sun, toward) for triangles in shades.before(own))
        looks.append([(near, own), *((layer, own.few[0]) for layer in (far, *bodies))])
    keys = [[layer.key_for(own) for layer, own in look] for look in looks]
    wholes = [
        b"".join([own.key, toward, *(key or b"-" for key in of_face), b"" if own.like is None else key_of(own.like)])
        for own, of_face in zip(faces, keys, strict=True)
    ]
    kept.make_room(faces, len(sun))
    found = [kept.whole.find(whole) for whole in wholes]
    wanted = {
        key: part
        for look, of_face, known in zip(looks, keys, found, strict=True)
        if known is None
        for part, key in zip(look, of_face, strict=True)
        if key != NOTHING_AHEAD
    }
    free = _free_of_all(wanted, kept.free)
    return [
        known or kept.whole.keep(whole, _cast(own, [free.get(key) for key in of_face], len(sun)))
        for own, of_face, whole, known in zip(faces, keys, wholes, found, strict=True)
    ]


def _free_of_all(wanted: dict[bytes, tuple[_Layer, Points]], kept: Kept[_Free]) -> dict[bytes, _Free]:
    """What is kept or cast of some points before some layers, on several threads where it is worth them."""
    free = {key: known for key in wanted if (known := kept.find(key)) is not None}
    missing = [(key, *part) for key, part in wanted.items() if key not in free]
    for _, layer, _ in missing:
        if not layer.few:
            _ = layer.scene  # one tree for all threads

    def made(part: tuple[bytes, _Layer, Points]) -> tuple[bytes, _Free]:
        key, layer, points = part
        return key, kept.keep(key, _cast_layer(layer, points))

    rays = sum(len(points.at) * len(layer.sun) for _, layer, points in missing)
    if (threads := _threads()) > 1 and rays >= WORTH_THREADS and len(missing) > 1:
        with ThreadPoolExecutor(threads) as hands:
            free |= dict(hands.map(made, missing))
    else:
        free |= dict(map(made, missing))
    return free


def _cast(points: Points, layers: Sequence[_Free | None], hours: int) -> Cast:
    """Put together what points see of near and far shades, bodies and crowns; None where nothing of a layer is ahead."""
    open_sun, open_sky = (_all_set(len(points.at), bits) for bits in (hours, len(sky_patches()[1])))
    near = layers[0] or _Free(open_sun, open_sky)
    _, which = points.few
    far, solids, crowns = (
        _Free(open_sun, open_sky) if free is None else free if which is None else _Free(free.sun[which], free.sky[which])
        for free in layers[1:]
    )
    seen = _sky_seen(points.normal, solids.sky & near.sky & far.sky, None if layers[3] is None else crowns.sky)
    return Cast(solids.sun & near.sun & far.sun, crowns.sun, *seen, hours)


def _all_set(count: int, bits: int) -> NDArray[np.uint8]:
    """Packed bits that are all set, (count, ceil(bits/8))."""
    return np.tile(np.packbits(np.ones(bits, dtype=bool)), (count, 1))


def _sky_seen(normal: Vec, free: NDArray[np.uint8], leafless: NDArray[np.uint8] | None) -> tuple[Vec, Vec, Vec, Vec, Vec]:
    """Form factors by the free bits of the sky's patches, (P,) each: free, hidden, through crowns, and of the band free and through crowns."""
    directions, angles = sky_patches()
    facing = np.maximum(directions @ normal, 0.0)
    form = np.where(facing > FACING, facing, 0.0) * angles / np.pi
    form *= (1 + normal[2]) / 2 / max(float(form.sum()), 1e-12)  # exact where nothing is in the way
    low = np.zeros_like(form)
    low[:BAND] = form[:BAND] / max(float(form[:BAND].sum()), 1e-12)
    sky, band = sum_of_bits(free, form), sum_of_bits(free, low)
    leafy = np.zeros_like(free) if leafless is None else free & ~leafless
    return sky, form.sum() - sky, sum_of_bits(leafy, form), band, sum_of_bits(leafy, low)


def _threads() -> int:
    """On how many threads rays are cast: one for each processor, but as many as ``OMP_NUM_THREADS`` allows."""
    allowed = os.environ.get("OMP_NUM_THREADS", "")
    return int(allowed) if allowed.isdigit() and int(allowed) > 0 else max(1, os.cpu_count() or 1)


def _cast_layer(layer: _Layer, points: Points) -> _Free:
    """Cast from points of one face before one layer; directions behind the face count as free, since nothing reads them."""
    directions, _ = sky_patches()
    normal = points.normal
    made = _Free(*(_all_set(len(points.at), len(targets)) for targets in (layer.sun, directions)))
    origins = points.at - layer.middle + normal * layer.offset
    ahead = layer.triangles[(layer.triangles @ normal).max(axis=1) > layer.plane(points)] if layer.few else layer.triangles
    for free, targets in ((made.sun, layer.sun), (made.sky, directions)):
        front = np.flatnonzero(targets @ normal > FACING)
        if layer.few:
            own, whole = merged(ahead - layer.middle)
            found = free_of(own, whole, np.ascontiguousarray(origins), np.ascontiguousarray(targets[front].T))
        else:
            found = _free(layer.scene[0], origins.astype(np.float32), targets[front].astype(np.float32))
        clear_bits(free, found, front)
    return made


def _free(scene: EmbreeScene, points: Single, directions: Single) -> NDArray[np.bool_]:
    """Tell for every point and direction whether nothing is in between, (P, D)."""
    p, d = len(points), len(directions)
    if d == 0:
        return np.ones((p, d), dtype=bool)
    hit = scene.run(np.repeat(points, d, axis=0), np.tile(directions, (p, 1)), query="OCCLUDED")
    out: NDArray[np.bool_] = (hit == -1).reshape(p, d)
    return out
