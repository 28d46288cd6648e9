"""What matters most: main effects over the cases of a full factorial, and the best trade-offs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

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


def main_effects(levers: Sequence[tuple[str, Sequence[Any]]], rows: Sequence[tuple[Sequence[Any], float]]) -> list[Effect]:
    """Return the main effect of each lever, largest first (Box, Hunter and Hunter 2005, chapter 5).

    Only complete blocks count: where some of the cases that differ by this lever alone have no figure, the others say
    nothing of it, since what they have besides would be taken for its effect.

    Parameters
    ----------
    levers : key and steps of each lever
    rows : steps taken and figure of each finished case
    """
    effects = []
    for i, (key, steps) in enumerate(levers):
        blocks: dict[tuple[str, ...], dict[str, float]] = defaultdict(dict)
        for taken, value in rows:
            blocks[tuple(repr(t) for k, t in enumerate(taken) if k != i)][repr(taken[i])] = value
        names = [repr(s) for s in steps]
        whole = [block for block in blocks.values() if len(block) == len(names)]
        if whole:
            means: tuple[float | None, ...] = tuple(sum(block[n] for block in whole) / len(whole) for n in names)
        else:
            means = tuple(None for _ in names)
        known = [m for m in means if m is not None]
        left_out = len(rows) - len(whole) * len(names)
        effects.append(Effect(key, means, max(known) - min(known) if known else 0.0, left_out))
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
