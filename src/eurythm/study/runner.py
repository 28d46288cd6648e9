"""Running cases: in this process, or wide on a pool of processes. Nothing in the core knows which."""

from __future__ import annotations

import logging
import multiprocessing
import os
import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, as_completed, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar

from eurythm.assess.outcome import Summary
from eurythm.climate.epw import read_epw
from eurythm.climate.standin import standin_year
from eurythm.climate.year import ClimateYear
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors, StudySpec
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme
from eurythm.simulate import Prepared, prepare_case, run_many, simulate
from eurythm.study.levers import CaseInputs
from eurythm.study.plan import case, casts, count, inputs_of, run_order
from eurythm.study.watching import end_with_parent

T = TypeVar("T")
log = logging.getLogger(__name__)
CHUNK = 32
SAMPLE = 8
MOST_FALLS = 2
"""So often a lot may go down with a worker before it is halved, and a case before it fails."""
AHEAD = 2
"""Lots waiting at each worker, so that none idles while results are committed."""


@dataclass(frozen=True)
class Job:
    """What workers need to know of a study: its question, its documents, and the text of its own weather files by digest."""

    study: StudySpec
    base: CaseInputs
    files: Mapping[str, str]
    token: str


@dataclass(frozen=True)
class CaseResult:
    """What a case came to. A failed one keeps its reason and stops no other."""

    number: int
    status: str
    figures: dict[str, Any] | None
    reason: str
    seconds: float


Starting = Callable[[list[int]], None]


def untold(_: list[int]) -> None:
    """Tell nobody."""


class Runner(Protocol):
    """One interface for all ways of running cases."""

    def run(self, job: Job, numbers: Sequence[int], starting: Starting = ...) -> Iterator[list[CaseResult]]:
        """Yield results in lots, as they come; `starting` is told the numbers of each lot just before it runs."""

    def close(self) -> None:
        """Give up what runs, and leave no process behind."""


def climate_of(place: Place, files: Mapping[str, str]) -> ClimateYear:
    """Return a place's climate year: a stand-in, or a file of the project.

    Raises
    ------
    EurythmError
        ``no-climate`` where none is chosen or the file is not there.
    """
    ref = place.climate
    if ref is None:
        raise EurythmError("no-climate", "Waiting for weather: choose a stand-in climate or drop an EPW.", "place/climate")
    if ref.kind == "stand-in":
        return standin_year(ref.id)
    if ref.id not in files:
        raise EurythmError("no-climate", f"The weather file “{ref.name or ref.id}” is not in this project.", "place/climate")
    return _file_year(ref.id, files[ref.id])


_YEARS: dict[str, ClimateYear] = {}


def _file_year(digest: str, text: str) -> ClimateYear:
    if digest not in _YEARS:
        if len(_YEARS) > 8:
            _YEARS.clear()
        _YEARS[digest] = read_epw(text)
    return _YEARS[digest]


def run_case(job: Job, number: int) -> CaseResult:
    """Run one case."""
    return run_lot(job, [number])[0]


def run_lot(job: Job, numbers: Sequence[int]) -> list[CaseResult]:
    """Run a lot of cases, side by side where they can stand so. One that fails keeps its reason and stops no other."""
    started = time.perf_counter()
    ready: dict[int, Prepared] = {}
    results: dict[int, CaseResult] = {}
    for number in numbers:
        try:
            inputs = inputs_of(job.study, case(job.study, number), job.base)
            climate = climate_of(inputs.place, job.files)
            ready[number] = prepare_case(inputs.place, inputs.library, inputs.scheme, inputs.factors, climate)
        except Exception as fault:
            results[number] = _failed(number, fault)
    try:
        summaries = run_many(list(ready.values()))
    except Exception as fault:
        if len(numbers) == 1:
            return [_failed(numbers[0], fault)]
        if not isinstance(fault, EurythmError):
            log.error("a batch of %s cases failed", len(ready), exc_info=fault)
        return [run_lot(job, [n])[0] for n in numbers]  # one of them spoils the batch: each on its own tells which
    each = (time.perf_counter() - started) / len(numbers)
    for (number, made), summary in zip(ready.items(), summaries, strict=True):
        results[number] = CaseResult(number, "done", _figures(made, summary), "", each)
    return [results[n] for n in numbers]


def _failed(number: int, fault: Exception) -> CaseResult:
    if isinstance(fault, EurythmError):
        reason = f"{fault.message} ({fault.path})" if fault.path else fault.message
        return CaseResult(number, "failed", None, reason, 0.0)
    log.error("case %s failed", number, exc_info=fault)
    return CaseResult(number, "failed", None, "A fault of ours; the log of the server says more.", 0.0)


def _figures(made: Prepared, summary: Summary) -> dict[str, Any]:
    """Return what is kept of each case: totals, peaks, comfort, closure, and its remarks by their codes and as sentences."""
    remarks = sorted({(r.code, r.sentence) for r in made.remarks})
    return {**vars(summary), "remarks": sorted({code for code, _ in remarks}), "said": [sentence for _, sentence in remarks]}


class InProcess:
    """Runs cases one after another, for tests and single cores."""

    def run(self, job: Job, numbers: Sequence[int], starting: Starting = untold) -> Iterator[list[CaseResult]]:
        """Yield each result on its own."""
        for number in numbers:
            starting([number])
            yield [run_case(job, number)]

    def close(self) -> None:
        """Nothing is left to stop."""


def _ready() -> int:
    """Return the process id of a worker that answers."""
    return os.getpid()


def _warm_worker() -> None:
    """Make a new worker ready: one thread for linear algebra, all that is compiled at hand."""
    os.environ["OMP_NUM_THREADS"] = "1"
    os.environ["OPENBLAS_NUM_THREADS"] = "1"
    end_with_parent()
    load()


def load() -> None:
    """Have in this process what is compiled for a year: one small room is simulated, so that the first one asked for need not wait."""
    room = {"id": "warm", "name": "Warm", "zones": [{"id": "room", "box": {"length": 5, "depth": 4, "height": 3}}]}
    simulate(Place(), Library(), read_document(Scheme, room), Factors(), standin_year("merrowhaven"))


@dataclass
class _Lot:
    """Cases on their way: whose queue they come from, and how often they went down with a worker."""

    numbers: list[int]
    queue: int
    falls: int = 0


class Pool:
    """A pool of spawned processes, warmed once; cases go out in small lots and come back as they finish.

    A worker that dies takes all workers along. Then the pool is made anew, and the lots that were out go again, each alone, so that
    the one that brings workers down is known: after two falls it is halved, and at last its one case fails with the reason.
    """

    def __init__(self, processes: int | None = None) -> None:
        self.processes = processes or max(1, os.cpu_count() or 1)
        os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
        self._renewing = threading.Lock()
        self._closed = False
        self._executor = self._made()

    def _made(self) -> ProcessPoolExecutor:
        return ProcessPoolExecutor(self.processes, mp_context=multiprocessing.get_context("spawn"), initializer=_warm_worker)

    def _submit(self, function: Callable[..., T], *args: Any) -> Future[T]:
        """Send something to a worker; a pool that broke meanwhile is made anew first.

        Raises
        ------
        Closed
            After `close`.
        """
        while True:
            executor = self._executor
            if self._closed:
                raise Closed
            try:
                return executor.submit(function, *args)
            except BrokenProcessPool:
                self._renew(executor)
            except RuntimeError as fault:  # closed between asking and sending
                raise Closed from fault

    def _renew(self, broken: ProcessPoolExecutor) -> None:
        with self._renewing:
            if self._executor is broken and not self._closed:
                log.warning("a worker died; the pool is made anew")
                broken.shutdown(wait=False, cancel_futures=True)
                self._executor = self._made()

    def warm(self) -> None:
        """Wait until all workers are ready."""
        seen: set[int] = set()
        while len(seen) < self.processes:
            done, _ = wait([self._submit(_ready) for _ in range(self.processes)])
            seen |= {f.result() for f in done}

    def run(self, job: Job, numbers: Sequence[int], starting: Starting = untold) -> Iterator[list[CaseResult]]:
        """Yield lots of results; contiguous stretches of the order go to one worker, so that neighbours share its cache.

        Raises
        ------
        Closed
            Where the pool is closed meanwhile.
        """
        stretch = -(-len(numbers) // self.processes)
        queues = [list(numbers[i : i + stretch]) for i in range(0, len(numbers), max(stretch, 1))]
        running: dict[Future[list[CaseResult]], _Lot] = {}
        fallen: list[_Lot] = []

        def send(lot: _Lot) -> None:
            starting(lot.numbers)
            running[self._submit(run_lot, job, lot.numbers)] = lot

        def next_of(k: int) -> None:
            source = queues[k] or max(queues, key=len)
            lot, source[:] = source[:CHUNK], source[CHUNK:]
            if lot:
                send(_Lot(lot, k))

        def fill(k: int) -> None:
            for n in range(len(queues) * AHEAD - len(running)):
                next_of((k + n) % len(queues))

        try:
            fill(0)
            while running or fallen:
                if not running:  # nothing else is out: whatever falls now falls by itself
                    send(fallen.pop(0))
                done, _ = wait(running, return_when=FIRST_COMPLETED)
                for future in done:
                    lot = running.pop(future)
                    try:
                        results = future.result()
                    except BrokenProcessPool:
                        if self._closed:
                            raise Closed from None
                        lot.falls += 1
                        again, given_up = _after_a_fall(lot)
                        fallen += again
                        if given_up:
                            yield given_up
                        continue
                    yield results  # committed before the next lot goes out; the worker has another one at hand
                    if not fallen:
                        fill(lot.queue)
                if not running and not fallen:
                    fill(0)
        finally:
            for future in running:
                future.cancel()

    def each(self, function: Callable[..., T], lots: Sequence[tuple[Any, ...]]) -> Iterator[T]:
        """Yield a function's results for several lots, as they come; those that go down with a worker are sent once more."""
        running = {self._submit(function, *lot): lot for lot in lots}
        again: list[tuple[Any, ...]] = []
        for future in as_completed(running):
            try:
                yield future.result()
            except BrokenProcessPool:
                again.append(running[future])
        for lot in again:
            yield self._submit(function, *lot).result()

    def close(self) -> None:
        """Give up what the workers are at and end them at once."""
        with self._renewing:
            self._closed = True
            workers = [p for p in multiprocessing.active_children() if p.pid in self._pids()]
            self._executor.shutdown(wait=False, cancel_futures=True)
        for worker in workers:
            worker.terminate()
        for worker in workers:
            worker.join(1.0)
            if worker.is_alive():
                worker.kill()

    def _pids(self) -> set[int]:
        """Process ids of the workers; the library keeps them to itself."""
        return set(getattr(self._executor, "_processes", None) or ())


class Closed(Exception):
    """The pool was closed while something was asked of it."""


def _after_a_fall(lot: _Lot) -> tuple[list[_Lot], list[CaseResult]]:
    """What to send again of a lot that went down with a worker, and what to give up."""
    if lot.falls < MOST_FALLS:
        return [lot], []
    if len(lot.numbers) > 1:
        half = len(lot.numbers) // 2
        return [_Lot(lot.numbers[:half], lot.queue), _Lot(lot.numbers[half:], lot.queue)], []
    return [], [CaseResult(lot.numbers[0], "failed", None, "Working it out brought a worker down twice.", 0.0)]


def expected_seconds(job: Job, total: int, processes: int, wanted: Callable[[], bool] = lambda: True) -> float | None:
    """Estimate a study's time from two small lots of its own cases: some of one form, and one of another.

    Cases that share a form are cheap beside the first of it, so both are measured, and forms counted by the levers that make them.
    Nothing is told once the answer is no longer `wanted`, which is asked before each part of the trial.
    """
    order = run_order(job.study)
    forms = count(job.study.model_copy(update={"levers": tuple(s for s in job.study.levers if casts(s))}))
    alike = order[: max(1, min(SAMPLE, total // forms))]
    taken = []
    for lot in [alike[:1], alike, alike] + [order[-1:]] * (forms > 1):
        if not wanted():
            return None
        started = time.perf_counter()
        run_lot(job, lot)
        taken.append(time.perf_counter() - started)
    each = taken[2] / len(alike)
    first = max(taken[3] - each, 0.0) if forms > 1 else 0.0
    return (forms * first + each * total) / processes
