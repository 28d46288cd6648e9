"""What matters most: main effects over the cases of a full factorial, and the best trade-offs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.assess.figures import Sense


@dataclass(frozen=True)
class Effect:
    """How far a figure moves when one lever goes through its steps, the others averaged over.

    Attributes
    ----------
    means : mean of the figure at each step, in the order of the steps; None where no block is complete.
    span : largest less smallest mean.
    left_out : how many cases with a figure stand in blocks that are not complete.
    """

    lever: str
    means: tuple[float | None, ...]
    span: float
    left_out: int = 0


def main_effects(levers: Mapping[str, int], steps: NDArray[np.int64], values: NDArray[np.float64]) -> list[Effect]:
    """Return the main effect of each lever, largest first (Box, Hunter and Hunter 2005, chapter 5).

    Only complete blocks count: where some of the cases that differ by this lever alone have no figure, the others say
    nothing of it, since what they have besides would be taken for its effect.

    Parameters
    ----------
    levers : how many steps each lever has, by its key
    steps : (cases, levers), place of the step taken by each finished case
    values : (cases,), its figure
    """
    effects = []
    for i, (key, size) in enumerate(levers.items()):
        _, block = np.unique(np.delete(steps, i, axis=1), axis=0, return_inverse=True)
        block = block.ravel()
        whole = np.bincount(block) == size
        count = int(whole.sum())
        means: tuple[float | None, ...] = (None,) * size
        if count:
            counted = whole[block]
            means = tuple((np.bincount(steps[counted, i], values[counted], size) / count).tolist())
        known = [m for m in means if m is not None]
        effects.append(Effect(key, means, max(known) - min(known) if known else 0.0, len(values) - count * size))
    return sorted(effects, key=lambda e: -e.span)


def best_tradeoffs(points: Mapping[int, tuple[float, float]], senses: tuple[Sense, Sense] = ("less", "less")) -> list[int]:
    """Return the numbers of cases that no other betters in both figures, by the first figure; `senses` say whether less or more of each is better."""
    signs = [-1.0 if sense == "more" else 1.0 for sense in senses]
    turned = {number: (a * signs[0], b * signs[1]) for number, (a, b) in points.items()}
    best: list[int] = []
    lowest = float("inf")
    for number, (_, second) in sorted(turned.items(), key=lambda item: (item[1], item[0])):
        if second < lowest - 1e-12:
            best.append(number)
            lowest = second
    return best


def unbettered(points: NDArray[np.float64]) -> NDArray[np.int64]:
    """Return the places of points that no other betters in all outcomes, less is better, (points, outcomes); of equal points the first.

    Points that are not numbers are never among them.
    """
    if not len(points):
        return np.zeros(0, dtype=np.int64)
    order = np.lexsort(points.T[::-1])
    front: list[int] = []
    for at in order:
        if np.isnan(points[at]).any():
            continue
        held = points[front]
        if not len(front) or not (held <= points[at]).all(axis=1).any():
            front.append(int(at))
    return np.array(front, dtype=np.int64)
