"""Sums over packed bits, such as which hours of the year are sunlit; compiled, and without unpacking them."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

Series = NDArray[np.float64]
BIT_OF_BYTE = ((np.arange(256)[:, None] >> np.arange(7, -1, -1)) & 1).astype(float)


def sum_of_bits(packed: NDArray[np.uint8], course: Series) -> Series:
    """Return the sum of a course over the set bits of each row, (P,): every byte's sum is looked up.

    Parameters
    ----------
    packed : (P, ceil(S/8)) as from ``np.packbits``
    course : (S,)
    """
    used = np.flatnonzero(course)
    if len(used) == 0:
        return np.zeros(len(packed))
    first, last = int(used[0]) // 8, int(used[-1]) // 8 + 1
    padded = np.zeros((last - first) * 8)
    part = course[first * 8 : last * 8]
    padded[: len(part)] = part
    out: Series = _looked_up(packed, padded.reshape(-1, 8) @ BIT_OF_BYTE.T, first)
    return out


@njit("float64[::1](uint8[:, :], float64[:, ::1], int64)", nogil=True, cache=True)  # type: ignore[untyped-decorator]
def _looked_up(packed: NDArray[np.uint8], table: Series, first: int) -> Series:
    out = np.zeros(len(packed))
    for p in range(len(packed)):
        total = 0.0
        for j in range(len(table)):
            total += table[j, packed[p, first + j]]
        out[p] = total
    return out


def weighted_sums(packed: NDArray[np.uint8], weights: Series, hours: int) -> Series:
    """Return the sum of each row's weight over the rows that have the bit, for each bit and each of several sets of weights.

    Parameters
    ----------
    packed : (P, ceil(S/8)) as from ``np.packbits``
    weights : (K, P)
    hours : S

    Returns
    -------
    (K, S)
    """
    found: Series = _weighted(np.ascontiguousarray(packed), np.ascontiguousarray(weights), BIT_OF_BYTE)
    return found.reshape(len(weights), -1)[:, :hours]


@njit("float64[:, :, ::1](uint8[:, ::1], float64[:, ::1], float64[:, ::1])", nogil=True, cache=True)  # type: ignore[untyped-decorator]
def _weighted(packed: NDArray[np.uint8], weights: Series, table: Series) -> Series:
    out = np.zeros((len(weights), packed.shape[1], 8))
    for k in range(len(weights)):
        for p in range(len(packed)):
            weight = weights[k, p]
            if weight == 0.0:
                continue
            for j in range(packed.shape[1]):
                byte = packed[p, j]
                if byte != 0:
                    for b in range(8):
                        out[k, j, b] += weight * table[byte, b]
    return out


@njit("void(uint8[:, ::1], boolean[:, ::1], int64[::1])", nogil=True, cache=True)  # type: ignore[untyped-decorator]
def clear_bits(packed: NDArray[np.uint8], kept: NDArray[np.bool_], which: NDArray[np.int64]) -> None:
    """Clear bits where they are not kept, in place.

    Parameters
    ----------
    packed : (P, ceil(S/8)) as from ``np.packbits``
    kept : (P, D)
    which : (D,) the bit that each column of `kept` stands for
    """
    for p in range(len(kept)):
        for k in range(len(which)):
            if not kept[p, k]:
                packed[p, which[k] >> 3] &= np.uint8(255 ^ (128 >> (which[k] & 7)))
