"""Exchange of radiation within a zone by a star: each surface's conductance to the radiant node after Carroll.

Carroll (1980), "An MRT method of computing radiant energy exchange in rooms": F = 1 / (1 - A F / sum of A F) for each plane,
so that a plane exchanges nothing with itself, and h = 4 sigma T³ / (1/F + (1 - e)/e). Two parallel planes come out exactly.
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from eurythm.thermal.elements import RADIANT_H

Series = NDArray[np.float64]
MOST = 100.0
"""A plane larger than all others together has no finite factor; what its emissivity lets through limits it then."""


def plane_factors(areas: Series) -> Series:
    """Return F of each plane of a zone by their areas, m²; one where there is one plane alone. Kept: cases that differ in layers share it."""
    return _plane_factors(tuple(np.round(areas, 6).tolist()))


@lru_cache(maxsize=2048)
def _plane_factors(sizes: tuple[float, ...]) -> Series:
    areas = np.array(sizes)
    factor = np.ones(len(areas))
    if len(areas) < 2:
        return factor
    for _ in range(500):
        share = areas * factor
        new = np.minimum(1.0 / np.maximum(1.0 - share / share.sum(), 1.0 / MOST), MOST)
        moved = float(np.abs(new - factor).max())
        factor = 0.5 * (factor + new)
        if moved < 1e-10:
            break
    return factor


def star_conductances(zones: Series, planes: Sequence[Hashable], areas: Series, emissivity: Series) -> Series:
    """Return the conductance of each surface to its zone's radiant node, W/m2K.

    Parameters
    ----------
    zones : zone of each surface
    planes : what surfaces of one zone must share not to see each other
    """
    out = np.zeros(len(areas))
    members: dict[int, list[int]] = {}
    for i, z in enumerate(zones):
        members.setdefault(int(z), []).append(i)
    for own in members.values():
        names = {name: k for k, name in enumerate(dict.fromkeys(planes[i] for i in own))}
        which = np.array([names[planes[i]] for i in own])
        factor = plane_factors(np.bincount(which, areas[own]).astype(float))[which]
        e = np.clip(emissivity[own], 1e-3, 1.0)
        out[own] = RADIANT_H / (1.0 / factor + (1.0 - e) / e)
    return out
