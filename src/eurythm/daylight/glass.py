"""Glass as cells that stand on their façade: a window covers some of them, wherever it begins and ends."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.daylight.compiled import cover
from eurythm.fabric.glass import angle_factor
from eurythm.geometry.building import Face, Vec
from eurythm.model.library import Glazing
from eurythm.sun.profile import louvres_free

Series = NDArray[np.float64]
Ints = NDArray[np.int64]
Glass = Callable[[Face, int], Glazing]
"""The glazing of a face's window by its number."""
Span = tuple[float, float, float, float]
"""A part of a face: begin along and up, end along and up, m."""


@dataclass(frozen=True, eq=False)
class Facade:
    """Cells all over a face, column by column: their middles (C, 3), m, where they begin along and up the face, m, their size, columns and rows."""

    at: Vec
    left: Series
    low: Series
    step: tuple[float, float]
    shape: tuple[int, int]

    @property
    def size(self) -> Series:
        """Width and height of all together, m."""
        return np.array(self.step) * self.shape

    def finer(self, face: Face, times: int) -> Facade:
        """The same with each cell divided so many times either way."""
        if times == 1:
            return self
        left, low = float(self.left[0]), float(self.low[0])
        return _cells(face, left, low, (self.step[0] / times, self.step[1] / times), (self.shape[0] * times, self.shape[1] * times))

    def within(self, cells: Ints, times: int) -> Ints:
        """Numbers of the cells that some cells are divided into."""
        column, row = cells // self.shape[1], cells % self.shape[1]
        parts = np.arange(times)
        columns, rows = column[:, None, None] * times + parts[:, None], row[:, None, None] * times + parts
        numbers: Ints = (columns * (self.shape[1] * times) + rows).ravel()
        return numbers

    def number(self, at: Series) -> Ints:
        """Numbers of the cells at some steps from the lower left, (R,)."""
        column, row = (np.minimum((at[:, k] / self.step[k]).astype(np.int64), self.shape[k] - 1) for k in (0, 1))
        numbers: Ints = column * self.shape[1] + row
        return numbers

    def places(self, face: Face, at: Series) -> Vec:
        """Places on the face at some steps from the lower left, (R, 3)."""
        upward = np.cross(face.normal, face.along)
        places: Vec = face.origin + np.outer(self.left[0] + at[:, 0], face.along) + np.outer(self.low[0] + at[:, 1], upward)
        return places

    def covered(self, openings: Series) -> Series:
        """Return what of each cell some openings cover, m², (C,); they are (W, 4), begin along and up, end along and up."""
        areas: Series = cover(float(self.left[0]), float(self.low[0]), *self.step, *self.shape, openings)
        return areas


def facade_of(face: Face, span: Span, cell_m: float) -> Facade:
    """Lay cells of about some size over a part of a face."""
    left, low, right, high = span
    columns, rows = max(1, round((right - left) / cell_m)), max(1, round((high - low) / cell_m))
    return _cells(face, left, low, ((right - left) / columns, (high - low) / rows), (columns, rows))


def _cells(face: Face, left: float, low: float, step: tuple[float, float], shape: tuple[int, int]) -> Facade:
    s, z = (a.ravel() for a in np.meshgrid(left + np.arange(shape[0]) * step[0], low + np.arange(shape[1]) * step[1], indexing="ij"))
    middles = face.origin + np.outer(s + step[0] / 2, face.along) + np.outer(z + step[1] / 2, np.cross(face.normal, face.along))
    return Facade(middles, s, z, step, shape)


def span_of(face: Face) -> Span:
    """Return where windows may stand on a face: all over it where they follow a ratio, so that another ratio changes no cell, else where they do."""
    if face.kind == "wall" and face.windows and not face.module:
        openings = openings_of(face)
        first, last = openings[:, :2].min(axis=0), openings[:, 2:].max(axis=0)
        return float(first[0]), float(first[1]), float(last[0]), float(last[1])
    corners = face.loops[0] - face.origin
    across, up = corners @ face.along, corners @ np.cross(face.normal, face.along)
    return float(across.min()), float(up.min()), float(across.max()), float(up.max())


def openings_of(face: Face, windows: Sequence[int] | None = None) -> Series:
    """Return some windows of a face, all unless they are named: begin along and up, end along and up, (W, 4) m."""
    own = face.windows if windows is None else [face.windows[k] for k in windows]
    return np.array([[w.s, w.z, w.s + w.width, w.z + w.height] for w in own])


class Panes:
    """What the windows of a face let through, for rays that meet it at some angles from some directions."""

    def __init__(self, face: Face, glass: Glass) -> None:
        """Sort the windows by their glazing: by its panes and transmittance."""
        self.face = face
        self.windows: dict[tuple[int, float], list[int]] = {}
        for number in range(len(face.windows)):
            of = glass(face, number)
            if of.visible > 0:
                self.windows.setdefault((of.panes, of.visible), []).append(number)

    def open_areas(self, facade: Facade) -> dict[tuple[int, float], Series]:
        """What of each cell each glazing covers, m², (C,)."""
        return {kind: facade.covered(openings_of(self.face, own)) for kind, own in self.windows.items()}

    @property
    def louvred(self) -> bool:
        """Whether louvres stand before the glass."""
        return self.face.louvres.depth > 0

    def past_louvres(self, toward: Vec) -> Series:
        """What passes the louvres from some directions in the drawing's axes, (R,)."""
        return louvres_free(self.face.normal, toward, *self.face.louvres)


class Angles:
    """Cosines at which rays meet glass, (R,), and what they are worth behind it by its panes; kept."""

    def __init__(self, cosines: Series) -> None:
        """Take the cosines between directions and the face's normal outward."""
        self.cosines = cosines
        self._by_panes: dict[int, Series] = {}

    def through(self, panes: int) -> Series:
        """Transmittance over that at normal incidence, (R,)."""
        if panes not in self._by_panes:
            self._by_panes[panes] = angle_factor(np.maximum(self.cosines, 0.0), panes)
        return self._by_panes[panes]

    @property
    def nbytes(self) -> int:
        """How much they take with two kinds of panes."""
        return 3 * self.cosines.nbytes
