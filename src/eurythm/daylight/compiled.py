"""Loops over rays, compiled."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

Series = NDArray[np.float64]
Singles = NDArray[np.float32]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]
Whole = NDArray[np.int32]


@njit(  # type: ignore[untyped-decorator]
    "Tuple((float32[:, ::1], float32[:, ::1]))(float64[:, ::1], boolean[::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[::1], float64)",
    nogil=True,
    cache=True,
)
def leave(
    points: Series, whole: NDArray[np.bool_], shift: Series, spread: Series, axes: Series, step: Series, lift: float
) -> tuple[Singles, Singles]:
    """Rays that leave patches by the cosine law, (P R, 3) starts and directions.

    Parameters
    ----------
    points : (P, 3) middles
    whole : (P,) whether rays begin all over the patch, not in its middle
    shift : (P, 4) by which each patch shifts the numbers of `spread`, (R, 4): place, then direction
    axes : (4, 3) along and up the patches, their normal, and what completes normal and along
    """
    count, rays = len(points), len(spread)
    start = np.empty((count * rays, 3), np.float32)
    toward = np.empty((count * rays, 3), np.float32)
    for p in range(count):
        for r in range(rays):
            x, y, out, around = (
                spread[r, 0] + shift[p, 0],
                spread[r, 1] + shift[p, 1],
                spread[r, 2] + shift[p, 2],
                spread[r, 3] + shift[p, 3],
            )
            across = (x - math.floor(x) - 0.5) * step[0] if whole[p] else 0.0
            upward = (y - math.floor(y) - 0.5) * step[1] if whole[p] else 0.0
            out -= math.floor(out)
            angle = 2 * math.pi * (around - math.floor(around))
            away, height = math.sqrt(out), math.sqrt(max(1.0 - out, 1e-12))
            u, v = away * math.cos(angle), away * math.sin(angle)
            k = p * rays + r
            for i in range(3):
                start[k, i] = points[p, i] + across * axes[0, i] + upward * axes[1, i] + lift * axes[2, i]
                toward[k, i] = u * axes[0, i] + v * axes[3, i] + height * axes[2, i]
    return start, toward


@njit(  # type: ignore[untyped-decorator]
    "Tuple((int64[::1], float64[::1]))(float32[:, ::1], float32[:, ::1], int64[::1], float64[::1], int64[::1], float64[:, ::1], float64[:, ::1],"
    "float64[:, ::1], int64[:, ::1], int64[::1], int64[::1])",
    nogil=True,
    cache=True,
)
def land(
    start: Singles,
    toward: Singles,
    triangle: Ints,
    far: Series,
    plane: Ints,
    base: Series,
    across: Series,
    upward: Series,
    shape: Ints,
    begin: Ints,
    table: Ints,
) -> tuple[Ints, Series]:
    """The patch on which each ray lands by the triangle that it meets, -1 for none, and how far away, (R,).

    Parameters
    ----------
    plane : (T,) the plane of each triangle
    base, across, upward, shape, begin : of each plane, (S, 3) its corner and its axes by a cell's size, (S, 2) columns and rows, (S,) its first cell
    table : the patch in each cell
    """
    patch = np.full(len(start), -1, np.int64)
    away = np.full(len(start), np.inf)
    for r in range(len(start)):
        if triangle[r] < 0:
            continue
        p, t = plane[triangle[r]], far[r]
        away[r] = t
        column = row = 0.0
        for i in range(3):
            d = start[r, i] + toward[r, i] * t - base[p, i]
            column += d * across[p, i]
            row += d * upward[p, i]
        i = min(max(math.floor(column), 0), shape[p, 0] - 1)
        j = min(max(math.floor(row), 0), shape[p, 1] - 1)
        patch[r] = table[begin[p] + i * shape[p, 1] + j]
    return patch, away


@njit(  # type: ignore[untyped-decorator]
    "void(int64[::1], int64[::1], float32[:, ::1], float64[::1], float64[:, ::1], float64[:, ::1])", nogil=True, cache=True
)
def gather(to: Ints, group: Ints, sky: Singles, value: Series, answer: Series, out: Series) -> None:
    """Add what rays bring by the patches on which they land to what sensors see of the sky's parts and of groups.

    Parameters
    ----------
    to : (R,) patch, -1 for none
    group : (R,) what is met outside, -1 for the sky
    sky : (R, 3) for a ray that meets the sky its part in the even sky, the band and the overcast sky
    value : (R,) what passes the glass
    answer : (N, K) what each patch brings each sensor
    out : (3 + G, K)
    """
    count = answer.shape[1]
    for r in range(len(to)):
        p, v = to[r], value[r]
        if p < 0 or v == 0.0:
            continue
        if group[r] >= 0:
            g = 3 + group[r]
            for k in range(count):
                out[g, k] += v * answer[p, k]
        else:
            for j in range(3):
                part = v * sky[r, j]
                if part != 0.0:
                    for k in range(count):
                        out[j, k] += part * answer[p, k]


@njit("void(int64[::1], int64[::1], float32[:, ::1], float64[::1], float64[:, ::1])", nogil=True, cache=True)  # type: ignore[untyped-decorator]
def gather_straight(to: Ints, group: Ints, sky: Singles, value: Series, out: Series) -> None:
    """Add what rays bring the sensor that they come from; as `gather`, with out (3 + G, K)."""
    for r in range(len(to)):
        v = value[r]
        if v == 0.0:
            continue
        if group[r] >= 0:
            out[3 + group[r], to[r]] += v
        else:
            for j in range(3):
                out[j, to[r]] += v * sky[r, j]


@njit(  # type: ignore[untyped-decorator]
    "void(int64[::1], int64[::1], int64[::1], boolean[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, :, ::1])",
    nogil=True,
    cache=True,
)
def gather_suns(to: Ints, sun: Ints, cell: Ints, free: Flags, areas: Series, through: Series, answer: Series, out: Series) -> None:
    """Add what suns bring sensors by the patches on which they land.

    Some suns pass through some cells only: together their ways bring what passes through all cells.

    Parameters
    ----------
    to, sun, cell : (R,) patch, -1 for none; number of the sun; cell of the façade
    free : (V, R) whether a way counts, such as where nothing is in it, and where crowns are
    areas : (G, C) what of each cell each glazing covers, m²
    through : (G, U) what each glazing lets through of each sun
    answer : (N, K) what each patch brings each sensor
    out : (V, U, K)
    """
    count, kinds, suns = answer.shape[1], len(areas), through.shape[1]
    whole, came, value = np.zeros(suns), np.zeros(suns), np.zeros(len(to))
    for g in range(kinds):
        area = areas[g].sum()
        for u in range(suns):
            whole[u] += area * through[g, u]
        for r in range(len(to)):
            value[r] += areas[g, cell[r]] * through[g, sun[r]]
    for r in range(len(to)):
        came[sun[r]] += value[r]
    for r in range(len(to)):
        p, u = to[r], sun[r]
        if p < 0 or value[r] == 0.0:
            continue
        v = value[r] * whole[u] / came[u]
        for k in range(len(free)):
            if free[k, r]:
                for j in range(count):
                    out[k, u, j] += v * answer[p, j]


@njit(  # type: ignore[untyped-decorator]
    "Tuple((float32[:, ::1], float32[:, ::1], float32[::1], float64[::1]))"
    "(int32[::1], int32[::1], float32[::1], float32[::1], float64[:, ::1], float64[:, :, ::1], float64[:, ::1], float64[::1])",
    nogil=True,
    cache=True,
)
def sun_ways(
    sensor: Whole, sun: Whole, s: Singles, z: Singles, place: Series, toward: Series, normals: Series, outward: Series
) -> tuple[Singles, Singles, Singles, Series]:
    """Where suns' ways pass a face and whither they lead, (B, 3) each, what they bring the sensor, and the cosine at which they meet the face, (B,).

    Parameters
    ----------
    sensor, sun, s, z : as `sun_through` returns them
    place : (3, 3) the face's origin and its axes along and up in the axes that are wanted
    toward : (2, S, 3) to the suns in these, and in the room's own
    normals, outward : (K, 3) of the sensors and (3,) of the face in the room's own axes
    """
    count = len(sensor)
    start, way = np.empty((count, 3), np.float32), np.empty((count, 3), np.float32)
    light, cosine = np.empty(count, np.float32), np.empty(count)
    for b in range(count):
        h, k, bright, facing = sun[b], sensor[b], 0.0, 0.0
        for i in range(3):
            start[b, i] = place[0, i] + s[b] * place[1, i] + z[b] * place[2, i]
            way[b, i] = toward[0, h, i]
            bright += toward[1, h, i] * normals[k, i]
            facing += toward[1, h, i] * outward[i]
        light[b], cosine[b] = bright, facing
    return start, way, light, cosine


@njit(  # type: ignore[untyped-decorator]
    [f"void(float{bits}[:, ::1], int32[::1], int32[::1], float32[::1], float32[::1], float64[::1], float64[:, ::1])" for bits in (32, 64)],
    nogil=True,
    cache=True,
)
def add_through(found: NDArray[Any], sensor: Whole, sun: Whole, s: Singles, z: Singles, value: Series, openings: Series) -> None:
    """Add what suns' ways through some openings bring sensors, (K, S); openings are (W, 4), begin along and up, end along and up."""
    for b in range(len(sensor)):
        if value[b] == 0.0:
            continue
        for w in range(len(openings)):
            if openings[w, 0] < s[b] < openings[w, 2] and openings[w, 1] < z[b] < openings[w, 3]:
                found[sensor[b], sun[b]] += value[b]
                break


@njit(  # type: ignore[untyped-decorator]
    "Tuple((int32[::1], int32[::1], float32[::1], float32[::1]))(float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1])",
    nogil=True,
    cache=True,
)
def sun_through(at: Series, normals: Series, toward: Series, plane: Series, openings: Series) -> tuple[Whole, Whole, Singles, Singles]:
    """Where the suns' ways to sensors pass openings of a face: sensor, sun, and steps along and up the face, (B,) each.

    Parameters
    ----------
    at, normals : (K, 3) of the sensors
    toward : (S, 3)
    plane : (4, 3) origin of the face, its axes along and up, its normal outward
    openings : (W, 4) begin along and up, end along and up
    """
    # of suns before the face: where their ways pass it, for each metre that a sensor stands behind it
    before = np.empty(len(toward), np.int64)
    aside, above = np.empty(len(toward)), np.empty(len(toward))
    count = 0
    for h in range(len(toward)):
        ahead, x, z = 0.0, 0.0, 0.0
        for i in range(3):
            ahead += toward[h, i] * plane[3, i]
            x += toward[h, i] * plane[1, i]
            z += toward[h, i] * plane[2, i]
        if ahead > 1e-3:
            before[count], aside[count], above[count] = h, x / ahead, z / ahead
            count += 1
    first = openings[np.argsort(openings[:, 0])]
    low, high, end = openings[:, 1].min(), openings[:, 3].max(), openings[:, 2].max()
    size = 0
    sensor, sun, along, up = np.empty(0, np.int32), np.empty(0, np.int32), np.empty(0, np.float32), np.empty(0, np.float32)
    # first they are counted: memory costs more than to find them again
    for kept in range(2):
        n = 0
        for k in range(len(at)):
            away, s0, z0 = 0.0, 0.0, 0.0
            for i in range(3):
                away += (plane[0, i] - at[k, i]) * plane[3, i]
                s0 += (at[k, i] - plane[0, i]) * plane[1, i]
                z0 += (at[k, i] - plane[0, i]) * plane[2, i]
            if away <= 0.0:
                continue
            for own in range(count):
                t = z0 + away * above[own]
                if t <= low or t >= high:
                    continue
                s = s0 + away * aside[own]
                if s <= first[0, 0] or s >= end:
                    continue
                h = before[own]
                if toward[h, 0] * normals[k, 0] + toward[h, 1] * normals[k, 1] + toward[h, 2] * normals[k, 2] <= 0.0:
                    continue
                for w in range(len(first)):
                    if first[w, 0] >= s:
                        break
                    if s < first[w, 2] and first[w, 1] < t < first[w, 3]:
                        if kept:
                            sensor[n], sun[n], along[n], up[n] = k, h, s, t
                        n += 1
                        break
        if not kept:
            size = n
            sensor, sun, along, up = (
                np.empty(size, np.int32),
                np.empty(size, np.int32),
                np.empty(size, np.float32),
                np.empty(size, np.float32),
            )
    return sensor, sun, along, up


@njit(  # type: ignore[untyped-decorator]
    "Tuple((int64[::1], int64[::1], float32[:, ::1], float32[:, ::1], float64[::1], float64[::1]))(float64[:, ::1], float64[:, ::1], float64[:, ::1],"
    "float64[:, ::1], float64, float64, float64)",
    nogil=True,
    cache=True,
)
def look_out(
    at: Series, normals: Series, plane: Series, openings: Series, by_far: float, least: float, most: float
) -> tuple[Ints, Ints, Singles, Singles, Series, Series]:
    """Ways from sensors through openings of a face, each opening in parts that fit their distance.

    Parameters
    ----------
    at, normals : (K, 3) of the sensors
    plane : (4, 3) origin of the face, its axes along and up, its normal outward
    openings : (W, 4) begin along and up, end along and up
    by_far, least, most : size of a part for its distance, and its limits, m

    Returns
    -------
    sensor, opening (R,), start and direction (R, 3), cosine at the face (R,), and light on the sensor for a brightness of one (R,)
    """
    room, n = 4096, 0
    sensor, opening = np.empty(room, np.int64), np.empty(room, np.int64)
    start, toward = np.empty((room, 3), np.float32), np.empty((room, 3), np.float32)
    cosine, form = np.empty(room), np.empty(room)
    for k in range(len(at)):
        away = 0.0
        for i in range(3):
            away += (plane[0, i] - at[k, i]) * plane[3, i]
        if away <= 0.0:
            continue
        across = upward = 0.0
        for i in range(3):
            across += (at[k, i] - plane[0, i]) * plane[1, i]
            upward += (at[k, i] - plane[0, i]) * plane[2, i]
        for w in range(len(openings)):
            width, height = openings[w, 2] - openings[w, 0], openings[w, 3] - openings[w, 1]
            pieces = math.ceil(width / 1.5)
            for piece in range(pieces):
                left, wide = openings[w, 0] + piece * width / pieces, width / pieces
                aside = max(max(left - across, across - left - wide), 0.0)
                above = max(max(openings[w, 1] - upward, upward - openings[w, 3]), 0.0)
                size = min(max(by_far * math.sqrt(away * away + aside * aside + above * above), least), most)
                columns, rows = math.ceil(wide / size), math.ceil(height / size)
                area = wide * height / (columns * rows)
                for c in range(columns):
                    for r in range(rows):
                        u, v = (0.5 + n * 0.7548776662) % 1.0, (0.5 + n * 0.5698402910) % 1.0
                        s = left + (c + u) * wide / columns
                        z = openings[w, 1] + (r + v) * height / rows
                        far2 = away * away + (s - across) ** 2 + (z - upward) ** 2
                        far = math.sqrt(far2)
                        if n == room:
                            room *= 2
                            ia, ib = np.empty(room, np.int64), np.empty(room, np.int64)
                            fa, fb = np.empty((room, 3), np.float32), np.empty((room, 3), np.float32)
                            da, db = np.empty(room), np.empty(room)
                            ia[:n], ib[:n], fa[:n], fb[:n], da[:n], db[:n] = sensor, opening, start, toward, cosine, form
                            sensor, opening, start, toward, cosine, form = ia, ib, fa, fb, da, db
                        facing = 0.0
                        for i in range(3):
                            x = plane[0, i] + s * plane[1, i] + z * plane[2, i]
                            start[n, i] = x
                            toward[n, i] = (x - at[k, i]) / far
                            facing += (x - at[k, i]) / far * normals[k, i]
                        if facing <= 0.0:
                            continue
                        sensor[n], opening[n] = k, w
                        cosine[n] = away / far
                        form[n] = facing * cosine[n] / math.pi / far2 * area
                        n += 1
    return sensor[:n].copy(), opening[:n].copy(), start[:n].copy(), toward[:n].copy(), cosine[:n].copy(), form[:n].copy()


@njit("float64[::1](float64, float64, float64, float64, int64, int64, float64[:, ::1])", nogil=True, cache=True)  # type: ignore[untyped-decorator]
def cover(left: float, low: float, wide: float, high: float, columns: int, rows: int, openings: Series) -> Series:
    """What of each cell some openings cover, m², (columns rows,), column by column.

    Parameters
    ----------
    left, low, wide, high : where the cells begin along and up the face, and the size of each
    openings : (W, 4) begin along and up, end along and up
    """
    areas = np.zeros(columns * rows)
    for w in range(len(openings)):
        first, last = max(int((openings[w, 0] - left) / wide), 0), min(int((openings[w, 2] - left) / wide) + 1, columns)
        foot, top = max(int((openings[w, 1] - low) / high), 0), min(int((openings[w, 3] - low) / high) + 1, rows)
        for i in range(first, last):
            across = min(left + (i + 1) * wide, openings[w, 2]) - max(left + i * wide, openings[w, 0])
            if across <= 0.0:
                continue
            for j in range(foot, top):
                up = min(low + (j + 1) * high, openings[w, 3]) - max(low + j * high, openings[w, 1])
                if up > 0.0:
                    areas[i * rows + j] += across * up
    return areas
