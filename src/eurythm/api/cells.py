"""Figures on the cells of a flat grid, as pictures draw them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from typing_extensions import TypedDict

from eurythm.sun.irradiation import Grid


class CellsOut(BaseModel):
    """Cells by rows from below, None where one lies beside the surface; `corner`, `along` and `upward` are their plane, the latter two as long as the whole grid, m."""

    corner: list[float]
    along: list[float]
    upward: list[float]
    columns: int
    rows: int
    values: list[float | None]


class Cells(TypedDict):
    """The fields of `CellsOut`."""

    corner: list[float]
    along: list[float]
    upward: list[float]
    columns: int
    rows: int
    values: list[float | None]


def cells_of(grid: Grid, values: NDArray[np.float64]) -> Cells:
    """Return the cells of a grid with the figures of those that lie on its surface, (n,)."""
    columns, rows = grid.shape
    cells = np.full((rows, columns), np.nan)
    cells[grid.cells[:, 1], grid.cells[:, 0]] = values
    return {
        "corner": grid.base.tolist(),
        "along": (grid.along * grid.step[0] * columns).tolist(),
        "upward": (grid.upward * grid.step[1] * rows).tolist(),
        "columns": columns,
        "rows": rows,
        "values": [None if np.isnan(v) else float(f"{v:.4g}") for v in cells.ravel()],
    }
