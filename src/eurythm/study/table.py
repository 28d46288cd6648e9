"""The cases of a study as columns: which are in the running, in what order, and how they spread."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from eurythm.model.amount import said
from eurythm.model.errors import EurythmError
from eurythm.model.study import StudySpec
from eurythm.study.kinds import Rows
from eurythm.study.kinds.base import key_of
from eurythm.study.plan import PARTS, levers_of

WAITING, DONE, FAILED = 0, 1, 2
STATUS = ("waiting", "done", "failed")
TICKS = 240
"""Into how many parts the range of a figure is cut, to show how cases spread over it."""
Which = Literal["all", "sound", "remarked", "failed"]
SAME = 1e-9
"""How far beyond the end of a range a figure may lie, as a share of the range's larger end: what rounding on the way does."""


@dataclass(frozen=True)
class Sieve:
    """What keeps a case in the running.

    Attributes
    ----------
    dropped : steps that are out, by lever
    ranges : lowest and highest value of figures, ends included, in the unit of the figure
    which : of the cases that came to an end all, those without remarks (`sound`), those with some, or in place of them those that failed
    says : words that stand in one of its remarks, or in the reason for which it failed
    """

    dropped: Mapping[str, Sequence[int]] = field(default_factory=dict)
    ranges: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    which: Which = "all"
    says: str = ""


@dataclass(frozen=True, eq=False)
class Spread:
    """How finished cases spread over a figure: its least and largest value, and how many stand in each of `TICKS` parts between, of all and in the running."""

    low: float
    high: float
    every: NDArray[np.int64]
    running: NDArray[np.int64]


@dataclass(frozen=True)
class LeverColumn:
    """A lever as a column: its key, how many steps it has, and the ends of its range where it has none; a range is counted by equal parts."""

    key: str
    size: int
    low: float | None = None
    high: float | None = None

    def places(self, column: NDArray[np.float64]) -> NDArray[np.int64]:
        """Return the place of the step, or of the part of the range, of each case."""
        if self.low is None or self.high is None:
            return column.astype(np.int64)
        share = (column - self.low) / (self.high - self.low)
        return np.clip(np.floor(share * self.size), 0, self.size - 1).astype(np.int64)


def lever_columns(study: StudySpec) -> list[LeverColumn]:
    """Return the levers of a study as columns."""
    return [LeverColumn(key_of(s), PARTS if s.is_range else len(s.steps), s.low, s.high) for s in levers_of(study)]


class CaseTable:
    """Cases by columns; row k is the case with number k.

    Attributes
    ----------
    rows : (cases, levers), place of the step that each case takes, or its value in the lever's range
    steps : (cases, levers), place of the step, or of the part of the range
    status : (cases,)
    figures : (cases,) each, nan where there is none
    remarks : (cases,), how many
    last : which of the results that came is the last in it
    """

    def __init__(self, levers: Sequence[LeverColumn], rows: Rows, figures: Sequence[str]) -> None:
        """Begin a table of waiting cases."""
        self.columns = list(levers)
        self.levers = [column.key for column in levers]
        self.rows = np.zeros((0, len(levers)))
        self.steps = np.zeros((0, len(levers)), dtype=np.int64)
        self.status = np.zeros(0, dtype=np.int8)
        self.figures = {name: np.zeros(0) for name in figures}
        self.remarks = np.zeros(0, dtype=np.int32)
        self.last = 0
        self.add(rows)
        self._said: dict[int, tuple[str, ...]] = {}
        self._reasons: dict[int, str] = {}
        self._hours: dict[int, dict[str, str | None]] = {}
        self._same: dict[Any, Any] = {}  # sentences and hours that many cases have are held once

    def add(self, rows: Rows) -> None:
        """Add waiting cases."""
        places = [column.places(rows[:, k]) for k, column in enumerate(self.columns)]
        steps = np.stack(places, axis=1) if places else np.zeros((len(rows), 0), dtype=np.int64)
        self.rows, self.steps = np.concatenate([self.rows, rows]), np.concatenate([self.steps, steps])
        self.status = np.concatenate([self.status, np.zeros(len(rows), dtype=np.int8)])
        self.remarks = np.concatenate([self.remarks, np.zeros(len(rows), dtype=np.int32)])
        self.figures = {name: np.concatenate([column, np.full(len(rows), np.nan)]) for name, column in self.figures.items()}

    @property
    def sizes(self) -> dict[str, int]:
        """How many steps, or parts of a range, each lever has."""
        return {column.key: column.size for column in self.columns}

    @property
    def nbytes(self) -> int:
        """What its columns take, and about what its sentences take."""
        columns: list[NDArray[Any]] = [self.rows, self.steps, self.status, self.remarks, *self.figures.values()]
        return sum(c.nbytes for c in columns) + 400 * len(self.status)

    def finish(
        self,
        number: int,
        figures: Mapping[str, float | None] | None,
        reason: str = "",
        remarks: Sequence[str] = (),
        hours: Mapping[str, str | None] | None = None,
    ) -> None:
        """Put in what a case came to; without figures it failed."""
        self.status[number] = FAILED if figures is None else DONE
        for name, value in (figures or {}).items():
            if name in self.figures:
                self.figures[name][number] = np.nan if value is None else value
        self.remarks[number] = len(remarks)
        if remarks:
            said = tuple(remarks)
            self._said[number] = self._same.setdefault(said, said)
        if reason:
            self._reasons[number] = reason
        if hours:
            self._hours[number] = self._same.setdefault(tuple(hours.items()), dict(hours))

    def said(self, number: int) -> tuple[str, ...]:
        """Return a case's remarks."""
        return self._said.get(number, ())

    def reason(self, number: int) -> str:
        """Return why a case failed."""
        return self._reasons.get(number, "")

    def hours(self, number: int) -> dict[str, str | None]:
        """Return on which hours a case's peaks fall."""
        return self._hours.get(number, {})

    def known(self, number: int) -> dict[str, float | None]:
        """Return the figures of one case."""
        if self.status[number] != DONE:
            return {}
        return {name: None if np.isnan(column[number]) else float(column[number]) for name, column in self.figures.items()}

    def running(self, sieve: Sieve) -> NDArray[np.bool_]:
        """Say of each case whether it is in the running.

        Raises
        ------
        EurythmError
            ``no-such-lever``, ``no-such-figure``.
        """
        kept: NDArray[np.bool_] = self.status == (FAILED if sieve.which == "failed" else DONE)
        if sieve.which in ("sound", "remarked"):
            kept = kept & ((self.remarks > 0) == (sieve.which == "remarked"))
        if words := sieve.says.strip().casefold():
            told = ((n, " ".join(self._said.get(n, ())) or self.reason(n)) for n in {*self._said, *self._reasons})
            kept = kept & np.isin(np.arange(len(kept)), [n for n, text in told if words in said(text).casefold()])
        for key, out in sieve.dropped.items():
            kept = kept & ~np.isin(self.steps[:, self._lever(key)], list(out))
        for name, (low, high) in sieve.ranges.items():
            column, near = self.column(name), SAME * max(abs(low), abs(high), 1e-9)
            kept = kept & (column >= low - near) & (column <= high + near)
        return kept

    def sorted(self, chosen: NDArray[np.bool_], by: str, down: bool = False) -> NDArray[np.int64]:
        """Return the numbers of chosen cases in the order of a figure, a lever, their remarks or their number; what has no value comes last.

        Raises
        ------
        EurythmError
            ``no-such-figure``.
        """
        numbers = np.flatnonzero(chosen)
        if by == "number":
            return numbers[::-1] if down else numbers
        column: NDArray[Any]
        if by == "remarks":
            column = self.remarks[numbers].astype(float)
        elif by in self.levers:
            column = self.rows[numbers, self.levers.index(by)]
        else:
            column = self.column(by)[numbers]
        return numbers[np.argsort(-column if down else column, kind="stable")]

    def strips(self, running: NDArray[np.bool_]) -> list[list[tuple[int, int]]]:
        """Return by lever and step how many finished cases take it, failed ones only where they are in the running, and how many of these are."""
        done = (self.status == DONE) | running
        found = []
        for k, size in enumerate(self.sizes.values()):
            every, still = (np.bincount(self.steps[which, k], minlength=size) for which in (done, running))
            found.append(list(zip(every.tolist(), still.tolist(), strict=True)))
        return found

    def spread(self, name: str, running: NDArray[np.bool_]) -> Spread | None:
        """Return how finished cases spread over a figure, None where none has it.

        Raises
        ------
        EurythmError
            ``no-such-figure``.
        """
        column = self.column(name)
        known = column[~np.isnan(column)]
        if not len(known):
            return None
        low, high = float(known.min()), float(known.max())
        ends = (low, high if high > low else low + 1.0)
        every, still = (np.histogram(values, TICKS, ends)[0] for values in (known, column[running & ~np.isnan(column)]))
        return Spread(low, high, every, still)

    def _lever(self, key: str) -> int:
        if key not in self.levers:
            raise EurythmError("no-such-lever", f"This study has no lever “{key:.60}”.", "dropped")
        return self.levers.index(key)

    def column(self, name: str) -> NDArray[np.float64]:
        """Return a figure of all cases.

        Raises
        ------
        EurythmError
            ``no-such-figure``.
        """
        if name not in self.figures:
            raise EurythmError("no-such-figure", f"Cases have no figure “{name:.60}”.", "figure")
        return self.figures[name]
