"""A search for the best trade-offs under limits, by an evolutionary algorithm (NSGA-II, Deb 2002, of pymoo)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import combinations
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.assess.figures import Sense, figure_by
from eurythm.model.errors import EurythmError
from eurythm.model.study import Goal, StudySpec
from eurythm.study.kinds.base import (
    MOST_CASES,
    Known,
    Outcomes,
    Rows,
    axes_of,
    bounded,
    left_in,
    needs_levers,
    needs_some,
    size_within,
    spread_out,
)
from eurythm.study.matters import unbettered

USUAL = 600
POPULATION = 32
"""Cases of a generation: those of a lot, so that lanes of the kernel are full."""
BRED = POPULATION // 2
"""Of a generation, those bred from the best so far; the others are neighbours of the front that were not tried yet."""
NEAR = (0.02, 0.1)
"""How far a neighbour lies on a lever's range, as shares of it; of steps it is the next one."""
LOOKED_AT = 800
"""From so many of the last cases it is guessed what a new one would come to."""
MOST_BESIDE = 1500
"""About so many neighbours are looked at in a generation."""
PAIRS = 8
"""Up to so many axes, neighbours differ by one step of two of them too."""
PATIENCE = 8
"""The search ends when the front has grown by less than `GROWS` in so many generations."""
GROWS = 2e-3
FAR = 1e30
"""What a case that failed counts as: far from every goal and beyond every limit."""


class Search:
    """What are the best trade-offs? Two to four goals and limits, on steps or ranges; one goal alone is allowed too."""

    drawn = True

    def check(self, study: StudySpec) -> None:
        needs_levers(study)
        self.count(study)
        if not study.goals:
            raise EurythmError("no-goals", "Choose at least one outcome to make as good as it can be.", "goals")
        goals = [g.outcome for g in study.goals]
        for outcome in goals:
            if goals.count(outcome) > 1:
                raise EurythmError("goal-twice", f"“{figure_by(outcome).title}” is a goal twice.", "goals")
        for goal in study.goals:
            sense_of(goal)
        self.rows(study)

    def count(self, study: StudySpec) -> int:
        return bounded(size_within(study, USUAL, POPULATION, MOST_CASES, "The cases of a search"))

    def rows(self, study: StudySpec) -> Rows:
        """Return the first generation."""
        return Asker(study).ask()


def sense_of(goal: Goal) -> Sense:
    """Return whether less or more of a goal is better.

    Raises
    ------
    EurythmError
        ``no-sense`` where neither the goal nor the catalogue says so.
    """
    figure = figure_by(goal.outcome)
    sense: Sense = goal.sense or figure.sense
    if not sense:
        raise EurythmError("no-sense", f"Say whether less or more of “{figure.title}” is wanted.", "goals")
    return sense


class Asker:
    """An evolutionary search that asks for cases and is told what they came to; the same seed and outcomes ask for the same cases.

    What was asked before is known and not asked again, so that a generation may ask for few new cases, or none.
    """

    def __init__(self, study: StudySpec) -> None:
        from pymoo.algorithms.moo.nsga2 import NSGA2  # costs a second
        from pymoo.core.population import Population
        from pymoo.core.problem import Problem
        from pymoo.core.repair import Repair
        from pymoo.operators.crossover.sbx import SBX
        from pymoo.operators.mutation.pm import PM
        from pymoo.termination.max_gen import MaximumGenerationTermination

        self.study = study
        self.axes = axes_of(study)
        self._steps = np.array([axis.steps for axis in self.axes])
        self._whole = self._steps > 0
        self._high = np.where(self._whole, np.maximum(self._steps - 1, 0), 1.0).astype(float)
        self._known: dict[tuple[float, ...], int] = {}
        self._points: list[tuple[float, ...]] = []
        self._asked: list[tuple[float, ...] | None] = []
        self._values: list[NDArray[np.float64] | None] = []
        self._population = Population.new
        self._random = np.random.default_rng(study.seed)
        self._moves = self._ways()
        self._infills: Any = None
        self.spent = False
        self._fronts: list[NDArray[np.float64]] = []
        whole = self._whole

        class Rounded(Repair):  # type: ignore[misc]
            def _do(self, problem: Any, X: NDArray[np.float64], **_: Any) -> NDArray[np.float64]:
                return np.where(whole, np.round(X), X)

        problem = Problem(
            n_var=len(self.axes),
            n_obj=len(study.goals),
            n_ieq_constr=max(len(_bounds(study)), 1),
            xl=np.zeros(len(self.axes)),
            xu=self._high,
        )
        repair = Rounded()
        self._algorithm = NSGA2(
            pop_size=POPULATION, n_offsprings=BRED, sampling=self._first(), crossover=SBX(prob=0.9, eta=3.0, repair=repair),
            mutation=PM(prob=1.0, prob_var=min(1.0, 1.5 / len(self.axes)), eta=3.0, repair=repair), repair=repair, eliminate_duplicates=True,
        )  # fmt: skip
        self._algorithm.setup(problem, termination=MaximumGenerationTermination(10_000), seed=study.seed, verbose=False)

    def _first(self) -> NDArray[np.float64]:
        """The first generation: points that fill the space evenly, those that conditions leave out replaced by others."""
        from scipy.stats import qmc

        engine = qmc.Sobol(len(self.axes), scramble=True, rng=self.study.seed)
        found: dict[tuple[float, ...], NDArray[np.float64]] = {}
        for _ in range(64):
            unit = engine.random(POPULATION)
            points = np.where(self._whole, np.minimum(np.floor(unit * self._steps), self._steps - 1), unit)
            for point, kept in zip(points, left_in(self.study, self._rows(points)), strict=True):
                if kept:
                    found.setdefault(tuple(point), point)
            if len(found) >= POPULATION:
                break
        return needs_some(np.array(list(found.values())[:POPULATION]))

    def _ways(self) -> NDArray[np.float64]:
        """Ways from a point to its neighbours, (ways, axes)."""
        one = [
            move * np.eye(len(self.axes))[k]
            for k, whole in enumerate(self._whole)
            for near in ((1.0,) if whole else NEAR)
            for move in (near, -near)
        ]
        two = [a + b for a, b in combinations(one, 2) if np.count_nonzero(a + b) == 2] if len(self.axes) <= PAIRS else []
        return np.array(one + two)

    def _rows(self, points: NDArray[np.float64]) -> Rows:
        return spread_out(self.study, self.axes, points)

    def ask(self) -> Rows:
        """Return cases that were not asked for before, (new, levers); none where the generation holds only what is known."""
        self._infills = self._algorithm.ask()
        bred = np.zeros((0, len(self.axes))) if self._infills is None else np.asarray(self._infills.get("X"), dtype=float)
        points = np.concatenate([bred, self._neighbours(bred)])
        self.spent = not len(points)
        self._infills = self._population("X", points)
        rows = self._rows(points)
        inside = left_in(self.study, rows)
        fresh = []
        for point, row, kept in zip(points.tolist(), rows, inside, strict=True):
            key = tuple(point)
            if kept and key not in self._known:
                self._known[key] = len(self._known)
                self._points.append(key)
                fresh.append(row)
        self._asked = [(tuple(point) if kept else None) for point, kept in zip(points.tolist(), inside, strict=True)]
        return np.array(fresh) if fresh else np.zeros((0, len(self.study.levers)))

    def _neighbours(self, bred: NDArray[np.float64]) -> NDArray[np.float64]:
        """Points beside those of the front, one axis or two moved: cases that were neither run nor are about to be (Pareto local search, Paquete 2004)."""
        front = self._on_front()
        if not len(front):
            return np.zeros((0, len(self.axes)))
        known = self._known.keys() | {tuple(p) for p in bred.tolist()}
        front = front[np.sort(self._random.permutation(len(front))[: max(MOST_BESIDE // len(self._moves), 4)])]
        found = dict.fromkeys(map(tuple, np.clip(front[:, None] + self._moves, 0, self._high).reshape(-1, len(self.axes)).tolist()))
        fresh = np.array([p for p in found if p not in known])
        if not len(fresh):
            return np.zeros((0, len(self.axes)))
        fresh = fresh[left_in(self.study, self._rows(fresh))]
        wanted = POPULATION - len(bred)
        chosen: NDArray[np.float64] = fresh[self._promising(fresh, wanted)] if len(fresh) > wanted else fresh
        return chosen

    def _promising(self, points: NDArray[np.float64], wanted: int) -> list[int]:
        """Choose those that are likely to better the front most, one after another, by what an interpolation of the cases so far says."""
        from scipy.interpolate import RBFInterpolator

        goals = len(self.study.goals)
        at, values = (part[-LOOKED_AT:] for part in self._told())
        wide = np.maximum(self._high, 1.0)
        guess = RBFInterpolator(at / wide, values, kernel="linear")(points / wide)
        missed = np.maximum(values[:, goals:], 0).sum(axis=1)
        if missed.min() > 0:  # the way to the limits comes first
            found: list[int] = np.argsort(np.maximum(guess[:, goals:], 0).sum(axis=1), kind="stable")[:wanted].tolist()
            return found
        front = values[missed == 0, :goals]
        front = front[unbettered(front)]
        span = np.where(np.ptp(front, axis=0) > 0, np.ptp(front, axis=0), 1.0)
        gain = np.where(guess[:, goals:] > 0, FAR, 0.0).sum(axis=1)
        ahead = (guess[:, :goals] / span) + gain[:, None]
        held = (front[None] / span - ahead[:, None]).max(axis=2).min(axis=1)
        chosen: list[int] = []
        for _ in range(wanted):
            best = int(np.argmax(held))
            chosen.append(best)
            held = np.minimum(held, (ahead[best] - ahead).max(axis=1))
            held[chosen] = -np.inf
        return chosen

    def _told(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Points whose outcome is known, and what they came to: goals and by how much limits are missed."""
        known = [(p, v) for p, v in zip(self._points, self._values, strict=True) if v is not None]
        if not known:
            return np.zeros((0, len(self.axes))), np.zeros((0, 1))
        return np.array([p for p, _ in known]), np.array([v for _, v in known])

    def _on_front(self) -> NDArray[np.float64]:
        """The points of the front so far; where no case keeps the limits, the one that misses them least."""
        goals = len(self.study.goals)
        points, values = self._told()
        if not len(points):
            return points
        missed = np.maximum(values[:, goals:], 0).sum(axis=1)
        if missed.min() > 0:
            nearest: NDArray[np.float64] = points[[int(missed.argmin())]]
            return nearest
        points, values = points[missed == 0], values[missed == 0]
        front: NDArray[np.float64] = points[unbettered(values[:, :goals])]
        return front

    def tell(self, outcomes: Sequence[Outcomes]) -> None:
        """Tell what the new cases came to, in the order in which they were asked for; nothing of one that failed."""
        self._values += [self._vector(outcome) for outcome in outcomes]
        told = [self._value(key) for key in self._asked]
        goals = len(self.study.goals)
        self._infills.set("F", np.array([v[:goals] for v in told]))
        self._infills.set("G", np.array([v[goals:] for v in told]))
        self._algorithm.tell(infills=self._infills)
        self._fronts.append(self.front())

    def _value(self, key: tuple[float, ...] | None) -> NDArray[np.float64]:
        found = None if key is None else self._values[self._known[key]]
        if found is None:
            return np.full(len(self.study.goals) + max(len(_bounds(self.study)), 1), FAR)
        return found

    def _vector(self, outcome: Outcomes) -> NDArray[np.float64] | None:
        """Goals, turned so that less is better, and by how much each limit is missed; None where one of them is not known."""
        names = [g.outcome for g in self.study.goals] + [name for name, _, _ in _bounds(self.study)]
        known = {name: value for name in names if (value := outcome.get(name)) is not None}
        if len(known) < len(set(names)):
            return None
        signs = [-1.0 if sense_of(goal) == "more" else 1.0 for goal in self.study.goals]
        values = [sign * known[goal.outcome] for sign, goal in zip(signs, self.study.goals, strict=True)]
        missed = [sign * (known[name] - bound) / max(abs(bound), 1e-6) for name, sign, bound in _bounds(self.study)] or [-1.0]
        return np.array(values + missed)

    def front(self) -> NDArray[np.float64]:
        """Return the goals of the cases so far that no other betters, within all limits, (cases, goals), less is better."""
        goals = len(self.study.goals)
        sound = [v[:goals] for v in self._values if v is not None and (v[goals:] <= 0).all()]
        return np.array(sound)[unbettered(np.array(sound))] if sound else np.zeros((0, goals))

    @property
    def still(self) -> bool:
        """Whether the front has all but ceased to grow."""
        if len(self._fronts) <= PATIENCE:
            return False
        before, now = self._fronts[-1 - PATIENCE], self._fronts[-1]
        if not len(now) or not len(before):
            return False
        worst, best = now.max(axis=0), now.min(axis=0)
        worst, best = np.maximum(worst, before.max(axis=0)), np.minimum(best, before.min(axis=0))
        span = np.where(worst > best, worst - best, 1.0)
        return covered((now - best) / span) - covered((before - best) / span) < GROWS


def _bounds(study: StudySpec) -> list[tuple[str, float, float]]:
    """Every limit as an outcome, a sign and a bound: sign * (outcome - bound) is at most nothing where it is kept."""
    upper = [(limit.outcome, 1.0, limit.at_most) for limit in study.limits]
    lower = [(limit.outcome, -1.0, limit.at_least) for limit in study.limits]
    return [(name, sign, bound) for name, sign, bound in upper + lower if bound is not None]


def covered(points: NDArray[np.float64]) -> float:
    """Return the volume that points of a front better, within the unit cube and a tenth about it (hypervolume)."""
    from pymoo.indicators.hv import HV

    return float(HV(ref_point=np.full(points.shape[1], 1.1))(points))


def generations(study: StudySpec, known: Known) -> Iterator[Rows]:
    """Yield the new cases of each generation, until the front no longer grows or the cases are used up; `known` says what the last came to.

    A search that was broken off goes on by going through its generations again with what is on record.
    """
    most = Search().count(study)
    asker, asked, idle = Asker(study), 0, 0
    while idle < PATIENCE and not asker.still:
        rows = asker.ask()
        if asker.spent:
            return
        if asked + len(rows) >= most:
            yield rows[: most - asked]
            return
        if len(rows):
            yield rows
        idle = 0 if len(rows) else idle + 1
        asker.tell(known(range(asked, asked + len(rows))))
        asked += len(rows)
