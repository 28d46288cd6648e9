"""Rays against a few triangles and parallelograms, compiled."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

Series = NDArray[np.float64]
EQUAL_M = 1e-9


def merged(triangles: Series) -> tuple[Series, NDArray[np.bool_]]:
    """Put pairs of triangles that follow one another and make up a parallelogram together.

    Returns
    -------
    (T, 3, 3) a corner and its two neighbours, and (T,) whether they stand for the whole parallelogram
    """
    first, second = triangles[:-1], triangles[1:]
    shared = (np.abs(first[:, 0] - second[:, 0]) < EQUAL_M).all(axis=1) & (np.abs(first[:, 2] - second[:, 1]) < EQUAL_M).all(axis=1)
    even = (np.abs(first[:, 1] + second[:, 2] - first[:, 0] - first[:, 2]) < EQUAL_M).all(axis=1)
    pair = np.asarray(shared & even)
    found, whole, k = [], [], 0
    while k < len(triangles):
        together = k < len(pair) and bool(pair[k])
        found.append(np.stack([triangles[k, 0], triangles[k, 1], triangles[k + 1, 2]]) if together else triangles[k])
        whole.append(together)
        k += 2 if together else 1
    return np.array(found, dtype=np.float64).reshape(-1, 3, 3), np.array(whole, dtype=bool)


@njit(  # type: ignore[untyped-decorator]
    "boolean[:,::1](float64[:,:,::1], boolean[::1], float64[:,::1], float64[:,::1])", nogil=True, cache=True, error_model="numpy"
)
def free_of(triangles: Series, whole: NDArray[np.bool_], origins: Series, toward: Series) -> NDArray[np.bool_]:
    """Tell for every origin and direction whether no triangle or parallelogram is in the way (Moeller and Trumbore 1997).

    Parameters
    ----------
    triangles : (T, 3, 3) a corner and its two neighbours
    whole : (T,) whether these stand for a parallelogram
    origins : (P, 3)
    toward : (3, D) unit vectors

    Returns
    -------
    (P, D)
    """
    count, rays = len(origins), toward.shape[1]
    free = np.ones((count, rays), np.bool_)
    hx, hy, hz, per = np.empty(rays), np.empty(rays), np.empty(rays), np.empty(rays)
    dx, dy, dz = toward[0], toward[1], toward[2]
    for t in range(len(triangles)):
        a, e, f = triangles[t, 0], triangles[t, 1] - triangles[t, 0], triangles[t, 2] - triangles[t, 0]
        for k in range(rays):
            hx[k] = dy[k] * f[2] - dz[k] * f[1]
            hy[k] = dz[k] * f[0] - dx[k] * f[2]
            hz[k] = dx[k] * f[1] - dy[k] * f[0]
            across = e[0] * hx[k] + e[1] * hy[k] + e[2] * hz[k]
            per[k] = 1.0 / across if abs(across) > 1e-12 else 0.0
        for p in range(count):
            sx, sy, sz = origins[p, 0] - a[0], origins[p, 1] - a[1], origins[p, 2] - a[2]
            qx, qy, qz = sy * e[2] - sz * e[1], sz * e[0] - sx * e[2], sx * e[1] - sy * e[0]
            way = f[0] * qx + f[1] * qy + f[2] * qz
            row = free[p]
            if whole[t]:
                for k in range(rays):
                    u = per[k] * (sx * hx[k] + sy * hy[k] + sz * hz[k])
                    v = per[k] * (dx[k] * qx + dy[k] * qy + dz[k] * qz)
                    hit = (u >= 0.0) & (v >= 0.0) & (u <= 1.0) & (v <= 1.0) & (way * per[k] > 0.0)
                    row[k] = row[k] & (not hit)
            else:
                for k in range(rays):
                    u = per[k] * (sx * hx[k] + sy * hy[k] + sz * hz[k])
                    v = per[k] * (dx[k] * qx + dy[k] * qy + dz[k] * qz)
                    hit = (u >= 0.0) & (v >= 0.0) & (u + v <= 1.0) & (way * per[k] > 0.0)
                    row[k] = row[k] & (not hit)
    return free
