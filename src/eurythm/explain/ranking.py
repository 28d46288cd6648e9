"""How much the year would move if an assumed value were at the other ends of its usual range."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass
from threading import Lock
from typing import Any, Protocol, TypeVar

from eurythm.assess.figures import FIGURES
from eurythm.assess.outcome import Summary
from eurythm.brief.assumed import Assumed, assumed_values
from eurythm.brief.edits import opened, set_in_document
from eurythm.climate.year import ClimateYear
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.model.project import Project
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme
from eurythm.simulate import Prepared, prepare_case, run_many

BATCH = 16
RANKED = tuple(f for f in FIGURES if f.ranked)
"""Delivered energy, carbon and cost a year, each per m2 of conditioned internal floor."""


@dataclass(frozen=True)
class Moved:
    """What one end of an assumed value does to the year: the end's label and the figures there; or why it cannot be."""

    label: str
    figures: dict[str, float]
    fault: str = ""


@dataclass(frozen=True)
class Ranked:
    """An assumed value with what its ends do.

    Attributes
    ----------
    moves : one entry an end, in the order of `assumed.ends`
    span : highest minus lowest of each figure over the ends and the present value
    """

    assumed: Assumed
    moves: tuple[Moved, ...]
    span: dict[str, float]


T = TypeVar("T")


class Hands(Protocol):
    """Whoever runs one function on several lots: here in turn, or a pool of processes."""

    processes: int

    def each(self, function: Callable[..., T], lots: Sequence[tuple[Any, ...]]) -> Iterable[T]:
        """Return the function's results for all lots, in any order."""

    def aside(self) -> AbstractContextManager[None]:
        """Put off what can wait while the body works out an answer."""


class InTurn:
    """Lots one after another, in this process."""

    processes = 1

    def each(self, function: Callable[..., T], lots: Sequence[tuple[Any, ...]]) -> Iterable[T]:
        """Yield each result as it is made."""
        for lot in lots:
            yield function(*lot)

    def aside(self) -> AbstractContextManager[None]:
        """Nothing waits here."""
        return nullcontext()


class Rankings:
    """Registers that were ranked, by what they were asked of: the last ones are kept, since a report asks for what its reader looked at.

    Who asks for what is just being ranked waits for it; where that fails, each tries for itself.
    """

    def __init__(self, most: int = 24) -> None:
        self._most = most
        self._kept: OrderedDict[tuple[object, ...], Future[list[Ranked]]] = OrderedDict()
        self._lock = Lock()

    def of(self, key: tuple[object, ...], make: Callable[[], list[Ranked]]) -> list[Ranked]:
        """Return what is kept under a key, or make it."""
        with self._lock:
            found = self._kept.get(key)
            mine = found is None
            if found is None:
                found = self._kept[key] = Future()
            self._kept.move_to_end(key)
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        if mine:
            try:
                found.set_result(make())
            except BaseException as fault:
                with self._lock:
                    self._kept.pop(key, None)
                found.set_exception(fault)
                raise
        return found.result()


def rank(project: Project, scheme: Scheme, climate: ClimateYear, rays: bool, hands: Hands | None = None) -> list[Ranked]:
    """Return the register of a scheme ranked by what moves the delivered energy most.

    Parameters
    ----------
    rays : the values whose ends cast the sun anew, or else all others

    Raises
    ------
    EurythmError
        Where the scheme as it stands cannot be simulated.
    """
    asked = [a for a in assumed_values(project, scheme) if a.ends and a.rays is rays]
    base = figures_of(run_many([_prepared(project, scheme.id, climate)])[0])
    hands = hands or InTurn()
    lots = [(project, scheme, climate, asked[k :: hands.processes], base) for k in range(min(hands.processes, len(asked)))]
    found = [one for lot in hands.each(try_ends, lots) for one in lot]
    return sorted(found, key=lambda r: (-r.span["eui_kwh_per_m2"], r.assumed.path))


def try_ends(project: Project, scheme: Scheme, climate: ClimateYear, lot: Sequence[Assumed], base: dict[str, float]) -> list[Ranked]:
    """Try all ends of a lot of assumed values; one batch is balanced beside the preparation of the next."""
    moves: dict[tuple[str, int], Moved] = {}
    running: list[tuple[list[tuple[tuple[str, int], str]], Future[list[Summary]]]] = []
    labels: list[tuple[tuple[str, int], str]] = []
    ready: list[Prepared] = []
    with ThreadPoolExecutor(1) as beside:
        for one in lot:
            for number, end in enumerate(one.ends):
                key = (one.path, number)
                try:
                    ready.append(_prepared(_tried(project, scheme, one.paths, end.value), scheme.id, climate))
                    labels.append((key, end.label))
                except EurythmError as fault:
                    moves[key] = Moved(end.label, {}, fault.message)
                if len(ready) == BATCH:
                    running.append((labels, beside.submit(run_many, ready)))
                    labels, ready = [], []
        running.append((labels, beside.submit(run_many, ready)))
    for told, future in running:
        for (key, label), summary in zip(told, future.result(), strict=True):
            moves[key] = Moved(label, figures_of(summary))
    return [_ranked(one, tuple(moves[one.path, n] for n in range(len(one.ends))), base) for one in lot]


def _tried(project: Project, scheme: Scheme, paths: Sequence[str], value: object) -> Project:
    """The project with one value of its place or of the scheme changed, wherever it stands; nothing else is read anew."""
    of_place = paths[0].startswith("place/")
    data = opened(project.place if of_place else scheme)
    for path in paths:
        set_in_document(data, path.partition("/")[2] if of_place else path.split("/", 2)[2], value)
    if of_place:
        return project.model_copy(update={"place": read_document(Place, data)})
    return project.model_copy(update={"schemes": (read_document(Scheme, data),)})


def _ranked(one: Assumed, moves: tuple[Moved, ...], base: dict[str, float]) -> Ranked:
    found = [m.figures for m in moves if m.figures]
    return Ranked(one, moves, {name: max(v := [base[name], *(f[name] for f in found)]) - min(v) for name in base})


def figures_of(summary: Summary) -> dict[str, float]:
    """Return the figures by which a register is ranked."""
    return {figure.id: figure.of(summary) for figure in RANKED}


def _prepared(project: Project, scheme_id: str, climate: ClimateYear) -> Prepared:
    return prepare_case(project.place, project.library, project.scheme(scheme_id), project.factors, climate)
