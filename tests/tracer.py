"""A plain path tracer for small rooms, to judge daylight by: it shares no method with the program, only the triangles of a form.

Brightness is that of an even sky that gives `even` lux on open level ground, of a sun of `sun` lux across its own direction, and of what
these light outside (one bounce, diffuse). Inside, paths go on until they die out.
"""

# ruff: noqa: NPY002 - compiled code knows the plain generator only

from __future__ import annotations

import numpy as np
from numba import njit

from eurythm.fabric.glass import angle_factor
from eurythm.geometry.building import Building
from eurythm.sun.obstacles import Obstacles, triangles_of

ANGLES = np.linspace(0, 1, 1001)
INNER = {"ceiling": 0.7, "wall": 0.5, "floor": 0.2}
PANE = 0.23
LOW = np.radians(90 / 14.5)
BAND = (LOW + np.sin(2 * LOW) / 2) / np.pi
"""Form factor of a band so high before an upright plane, by integration."""


def traced(building: Building, zone: str, outside: Obstacles, glass, place, at, sky, rays: int = 60_000, seed: int = 5) -> float:  # type: ignore[no-untyped-def]
    """Mean illuminance over some hours at a place that looks up, lx; `sky` is by the hour even lux, sun lux, directions to the sun and,
    where there are such, the lux that the horizon's band, 6.2 degrees high, throws on an upright plane, and those that the
    overcast sky of CIE gives on open level ground.
    """
    inner, reflectance, windows = [], [], []
    for face in (*building.faces, *(f for f in building.inner if not f.air)):
        if zone not in (face.zone, face.other):
            continue
        up = face.normal[2] * (1 if face.zone == zone else -1)
        kind = "wall" if face.kind == "wall" else "ceiling" if up > 0 else "floor"
        for triangle in triangles_of(face.loops):
            inner.append(triangle)
            reflectance.append(INNER[kind])
        upward = np.cross(face.normal, face.along)
        for w in face.windows:
            windows.append([*(face.origin + face.along * w.s + upward * w.z), *(face.along * w.width), *(upward * w.height), *face.normal])
    through = glass.visible * angle_factor(ANGLES, glass.panes)
    even, sun, toward, *more = sky
    band, overcast = (*more, *([0.0] * len(even) for _ in range(2 - len(more))))
    return float(
        _trace(
            np.array(inner), np.array(reflectance), np.array(windows).reshape(-1, 4, 3), through, np.concatenate([outside.solids, outside.shades]),
            place.ground_level_m, place.ground_reflectance, place.obstacle_reflectance, np.asarray(at, float), np.column_stack([even, band, overcast]).astype(float), np.asarray(sun, float), np.ascontiguousarray(toward, float), rays, seed,
        )
    )  # fmt: skip


@njit(cache=True)
def _first(triangles, start, way):  # type: ignore[no-untyped-def]
    """The nearest triangle that a ray meets, and how far; -1 where it meets none."""
    best, far = -1, 1e30
    sx, sy, sz, wx, wy, wz = start[0], start[1], start[2], way[0], way[1], way[2]
    for i in range(len(triangles)):
        ax, ay, az = triangles[i, 0, 0], triangles[i, 0, 1], triangles[i, 0, 2]
        ux, uy, uz = triangles[i, 1, 0] - ax, triangles[i, 1, 1] - ay, triangles[i, 1, 2] - az
        vx, vy, vz = triangles[i, 2, 0] - ax, triangles[i, 2, 1] - ay, triangles[i, 2, 2] - az
        px, py, pz = wy * vz - wz * vy, wz * vx - wx * vz, wx * vy - wy * vx
        det = ux * px + uy * py + uz * pz
        if abs(det) < 1e-14:
            continue
        tx, ty, tz = sx - ax, sy - ay, sz - az
        x = (tx * px + ty * py + tz * pz) / det
        if x < -1e-9 or x > 1 + 1e-9:
            continue
        qx, qy, qz = ty * uz - tz * uy, tz * ux - tx * uz, tx * uy - ty * ux
        y = (wx * qx + wy * qy + wz * qz) / det
        if y < -1e-9 or x + y > 1 + 1e-9:
            continue
        d = (vx * qx + vy * qy + vz * qz) / det
        if 1e-6 < d < far:
            best, far = i, d
    return best, far


@njit(cache=True)
def _looking_at(triangles, i, way):  # type: ignore[no-untyped-def]
    n = np.cross(triangles[i, 1] - triangles[i, 0], triangles[i, 2] - triangles[i, 0])
    n /= np.sqrt(np.dot(n, n))
    return -n if np.dot(n, way) > 0 else n


@njit(cache=True)
def _about(normal):  # type: ignore[no-untyped-def]
    """A direction by the cosine law."""
    r, phi = np.sqrt(np.random.random()), 2 * np.pi * np.random.random()
    other = np.array([1.0, 0.0, 0.0]) if abs(normal[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    u = np.cross(normal, other)
    u /= np.sqrt(np.dot(u, u))
    return r * np.cos(phi) * u + r * np.sin(phi) * np.cross(normal, u) + np.sqrt(max(1 - r * r, 0.0)) * normal


@njit(cache=True)
def _window_at(windows, at):  # type: ignore[no-untyped-def]
    for k in range(len(windows)):
        d = at - windows[k, 0]
        u, v = windows[k, 1], windows[k, 2]
        s, z = np.dot(d, u) / np.dot(u, u), np.dot(d, v) / np.dot(v, v)
        if abs(np.dot(d, windows[k, 3])) < 1e-6 and 0 < s < 1 and 0 < z < 1:
            return k
    return -1


@njit(cache=True)
def _sky(height, even):  # type: ignore[no-untyped-def]
    """Brightness of the sky at a sine of the height above the horizon."""
    return even[0] + (even[1] / BAND if height < np.sin(LOW) else 0.0) + even[2] * 3 / 7 * (1 + 2 * height)


@njit(cache=True)
def _outside(bodies, start, way, ground, by_ground, by_bodies, even, sun, toward):  # type: ignore[no-untyped-def]
    """Brightness in a direction outside, lux."""
    i, far = _first(bodies, start, way)
    down = (start[2] - ground) / -way[2] if way[2] < -1e-9 else 1e30
    if i < 0 and down > 1e29:
        return _sky(way[2], even)
    normal = np.array([0.0, 0.0, 1.0]) if down < far else _looking_at(bodies, i, way)
    reflectance = by_ground if down < far else by_bodies
    at = start + way * min(down, far) + normal * 1e-4
    lit, count = 0.0, 8
    for _ in range(count):
        on = _about(normal)
        if on[2] > 0 and _first(bodies, at, on)[0] < 0:
            lit += _sky(on[2], even) / count
    facing = np.dot(normal, toward)
    if sun > 0 and facing > 0 and _first(bodies, at, toward)[0] < 0:
        lit += sun * facing
    return reflectance * lit


@njit(cache=True)
def _sun_at(inner, windows, through, bodies, at, normal, sun, toward):  # type: ignore[no-untyped-def]
    """Sun that falls through glass on a place inside, lux."""
    facing = np.dot(normal, toward)
    if sun <= 0 or facing <= 0:
        return 0.0
    i, far = _first(inner, at, toward)
    k = _window_at(windows, at + toward * far) if i >= 0 else -1
    if k < 0 or _first(bodies, at + toward * far + windows[k, 3] * 0.002, toward)[0] >= 0:
        return 0.0
    return sun * facing * through[int(max(np.dot(toward, windows[k, 3]), 0.0) * 1000)]


@njit(cache=True)
def _trace(inner, reflectance, windows, through, bodies, ground, by_ground, by_bodies, at, evens, suns, towards, rays, seed):  # type: ignore[no-untyped-def]
    np.random.seed(seed)
    up = np.array([0.0, 0.0, 1.0])
    hours = len(evens)
    straight, total = 0.0, 0.0
    for h in range(hours):
        straight += _sun_at(inner, windows, through, bodies, at, up, suns[h], towards[h])
    for ray in range(rays):
        h = ray % hours if hours < 2000 else np.random.randint(hours)
        even, sun, toward = evens[h], suns[h], towards[h]
        start, normal, weight = at.copy(), up, 1.0
        for _ in range(60):
            way = _about(normal)
            i, far = _first(inner, start, way)
            if i < 0:
                break
            met, normal = start + way * far, _looking_at(inner, i, way)
            start = met + normal * 1e-5
            k = _window_at(windows, met)
            if k >= 0:
                facing = max(np.dot(way, windows[k, 3]), 0.0)
                beyond = _outside(bodies, met + windows[k, 3] * 0.002, way, ground, by_ground, by_bodies, even, sun, toward)
                total += weight * through[int(facing * 1000)] * beyond
                weight *= PANE
            else:
                weight *= reflectance[i]
            total += weight * _sun_at(inner, windows, through, bodies, start, normal, sun, toward)
            if weight < 0.05:
                if np.random.random() < 0.5:
                    break
                weight *= 2
    return straight / hours + total / rays
