"""Glass as cells that stand on their façade: a window covers some of them, wherever it begins and ends."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.daylight.enclosure import covered
from eurythm.fabric.glass import angle_factor
from eurythm.geometry.building import Face, Vec
from eurythm.model.library import Glazing
from eurythm.sun.profile import louvres_free

Series = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Facade:
    """Cells of a face: their middles (C, 3), m, and where they begin along and up the face, m, with their step."""

    face: Face
    at: Vec
    left: Series
    low: Series
    step: tuple[float, float]

    def areas(self, window: int) -> Series:
        """Return what of each cell a window covers, m², (C,)."""
        w = self.face.windows[window]
        across = covered(self.left, self.left + self.step[0], w.s, w.s + w.width)
        areas: Series = across * covered(self.low, self.low + self.step[1], w.z, w.z + w.height)
        return areas


def facade_of(face: Face, cell_m: float) -> Facade:
    """Lay cells over the part of a face where windows are, in whole steps from its origin, so that they stand wherever the windows end."""
    left = min(w.s for w in face.windows)
    right = max(w.s + w.width for w in face.windows)
    low, high = min(w.z for w in face.windows), max(w.z + w.height for w in face.windows)
    columns = np.arange(int(np.floor(left / cell_m + 1e-9)), int(np.ceil(right / cell_m - 1e-9)))
    rows = np.arange(int(np.floor(low / cell_m + 1e-9)), int(np.ceil(high / cell_m - 1e-9)))
    s, z = (np.asarray(a.ravel() * cell_m, dtype=np.float64) for a in np.meshgrid(columns, rows, indexing="ij"))
    upward = np.cross(face.normal, face.along)
    middles = face.origin + np.outer(s + cell_m / 2, face.along) + np.outer(z + cell_m / 2, upward)
    return Facade(face, middles, s, z, (cell_m, cell_m))


def let_through(glazing: Glazing, face: Face, toward: Vec) -> Series:
    """Return what a window lets through of light from directions outside, (n,): by its angle, and past louvres before it."""
    facing = np.maximum(toward @ face.normal, 0.0)
    through: Series = glazing.visible * angle_factor(facing, glazing.panes)
    if face.louvres.depth > 0:
        through = through * louvres_free(face.normal, toward, *face.louvres)
    return through
