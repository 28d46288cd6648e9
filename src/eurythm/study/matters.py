"""What matters most: main effects over the cases of a full factorial, and the best trade-offs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Effect:
    """How far a figure moves when one lever goes through its steps, the others averaged over.

    Attributes
    ----------
    means : mean of the figure at each step, in the order of the steps; None where no case at this step is counted.
    span : largest less smallest mean.
    """

    lever: str
    means: tuple[float | None, ...]
    span: float


def main_effects(levers: Sequence[tuple[str, Sequence[Any]]], rows: Sequence[tuple[Sequence[Any], float]]) -> list[Effect]:
    """Return the main effect of each lever, largest first (Box, Hunter and Hunter 2005, chapter 5).

    Parameters
    ----------
    levers : key and steps of each lever
    rows : steps taken and figure of each finished case
    """
    effects = []
    for i, (key, steps) in enumerate(levers):
        groups: dict[str, list[float]] = defaultdict(list)
        for taken, value in rows:
            groups[repr(taken[i])].append(value)
        means = tuple(sum(g) / len(g) if (g := groups.get(repr(s))) else None for s in steps)
        known = [m for m in means if m is not None]
        effects.append(Effect(key, means, max(known) - min(known) if known else 0.0))
    return sorted(effects, key=lambda e: -e.span)


def best_tradeoffs(points: Mapping[int, tuple[float, float]]) -> list[int]:
    """Return the numbers of cases that no other betters in both figures (smaller is better), by the first figure."""
    best: list[int] = []
    lowest = float("inf")
    for number, (_, second) in sorted(points.items(), key=lambda item: (item[1], item[0])):
        if second < lowest - 1e-12:
            best.append(number)
            lowest = second
    return best
