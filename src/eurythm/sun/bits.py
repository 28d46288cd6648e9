"""Sums over packed bits, such as which hours of the year are sunlit."""

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
