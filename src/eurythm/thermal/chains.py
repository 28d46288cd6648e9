"""Conduction through a construction: its chain of nodes, factored once, and the same chain by its modes.

A step of the chain is implicit: ``(C/dt + K) x' = C/dt x + e_out q_out + e_in q_in`` with a reference film at both ends in
K. In the coordinates ``y = Q' sqrt(C) x / sqrt(dt)`` of the symmetric matrix ``sqrt(C) (C/dt + K)^-1 sqrt(C) / dt = Q D Q'``
it falls apart into single numbers,

    y' = d y + g_out q_out + g_in q_in,    r_out = sum g_out y,    r_in = sum g_in y,

with r the surface temperatures of the next step before its own fluxes: the same g drives a mode and reads it. No sweep
is left, nodes without mass vanish, and modes that die within a step to below a part in 10^10 are left out.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from eurythm.fabric.opaque import slab_nodes
from eurythm.thermal.elements import FILM_REF

Series = NDArray[np.float64]
Layers = tuple[tuple[float, float], ...]
DEAD = 1e-10


@dataclass(frozen=True, eq=False)
class Modes:
    """A chain by its modes, for one step length.

    Attributes
    ----------
    decay, by_out, by_in : (m,) d, g_out, g_in as above; K per W/m² at unit scale
    holds : (m,) heat that a mode holds, J/m² for y = 1
    answers : (4,) G11, G12, G21, G22: surface temperatures by 1 W/m² within the step, outer and inner
    project : (m, n) from node temperatures to modes
    """

    decay: Series
    by_out: Series
    by_in: Series
    holds: Series
    answers: Series
    project: Series


@lru_cache(maxsize=4096)
def modes_of(layers: Layers, dt_s: float, refine: int = 1) -> Modes:
    """Return a construction's modes for a step length, the slowest first."""
    conductance, capacity = slab_nodes(layers, refine)
    n = len(capacity)
    matrix = np.diag(capacity / dt_s)
    for i, g in enumerate(conductance):
        matrix[i : i + 2, i : i + 2] += [[g, -g], [-g, g]]
    matrix[0, 0] += FILM_REF
    matrix[-1, -1] += FILM_REF
    inverse = np.linalg.inv(matrix)
    root = np.sqrt(capacity / dt_s)
    decay, turned = np.linalg.eigh(root[:, None] * inverse * root)
    alive = np.flatnonzero(decay > DEAD)[::-1]
    turned = turned[:, alive]
    reads = turned.T * root  # (m, n): y = reads x, since sqrt(C / dt) x
    return Modes(
        decay=decay[alive],
        by_out=reads @ inverse[:, 0],
        by_in=reads @ inverse[:, n - 1],
        holds=reads.sum(axis=1) * dt_s,
        answers=np.asarray(inverse[np.ix_([0, n - 1], [0, n - 1])], dtype=float).ravel(),
        project=reads,
    )


@lru_cache(maxsize=4096)
def factored(layers: Layers, dt_s: float, refine: int = 1) -> tuple[Series, Series, Series, Series, Series, Series]:
    """Factor a construction's matrix once for a step length.

    Returns
    -------
    capacity, lower, pivot, upper, to_outer, to_inner : (n,) each; `lower` holds the multipliers of the forward sweep,
    `pivot` the inverse pivots, `to_outer` the response to 1 W/m² into the outer surface node, K.
    """
    conductance, capacity = slab_nodes(layers, refine)
    n = len(capacity)
    main = capacity / dt_s
    main[:-1] += conductance
    main[1:] += conductance
    main[0] += FILM_REF
    main[-1] += FILM_REF
    lower, pivot, upper = np.zeros(n), np.zeros(n), np.zeros(n)
    upper[:-1] = -conductance
    pivot[0] = 1 / main[0]
    for i in range(1, n):
        lower[i] = -conductance[i - 1] * pivot[i - 1]
        pivot[i] = 1 / (main[i] - lower[i] * upper[i - 1])

    def solve(rhs: Series) -> Series:
        x = rhs.copy()
        for i in range(1, n):
            x[i] -= lower[i] * x[i - 1]
        x[-1] *= pivot[-1]
        for i in range(n - 2, -1, -1):
            x[i] = (x[i] - upper[i] * x[i + 1]) * pivot[i]
        return x

    unit = np.eye(n)
    return capacity, lower, pivot, upper, solve(unit[0]), solve(unit[-1])
