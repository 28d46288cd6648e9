"""Running cases: in this process, or wide on a pool of processes. Nothing in the core knows which."""

from __future__ import annotations

import logging
import multiprocessing
import os
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, as_completed, wait
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
from eurythm.study.plan import case, inputs_of, run_order

T = TypeVar("T")
log = logging.getLogger(__name__)
CHUNK = 32
SAMPLE = 8
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


def _untold(_: list[int]) -> None:
    return None


class Runner(Protocol):
    """One interface for all ways of running cases."""

    def run(self, job: Job, numbers: Sequence[int], starting: Starting = ...) -> Iterator[list[CaseResult]]:
        """Yield results in lots, as they come; `starting` is told the numbers of each lot just before it runs."""


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
    """Return what is kept of each case: totals, peaks, comfort, closure and the codes of its remarks."""
    return {**vars(summary), "remarks": sorted({r.code for r in made.remarks})}


class InProcess:
    """Runs cases one after another, for tests and single cores."""

    def run(self, job: Job, numbers: Sequence[int], starting: Starting = _untold) -> Iterator[list[CaseResult]]:
        """Yield each result on its own."""
        for number in numbers:
            starting([number])
            yield [run_case(job, number)]


def _ready() -> int:
    """Return the process id of a worker that answers."""
    return os.getpid()


def _warm_worker() -> None:
    """Make a new worker ready: one thread for linear algebra, the kernel loaded, one small year simulated."""
    os.environ["OMP_NUM_THREADS"] = "1"
    os.environ["OPENBLAS_NUM_THREADS"] = "1"
    room = {"id": "warm", "name": "Warm", "zones": [{"id": "room", "box": {"length": 5, "depth": 4, "height": 3}}]}
    simulate(Place(), Library(), read_document(Scheme, room), Factors(), standin_year("merrowhaven"))


class Pool:
    """A pool of spawned processes, warmed once; cases go out in small lots and come back as they finish."""

    def __init__(self, processes: int | None = None) -> None:
        self.processes = processes or max(1, os.cpu_count() or 1)
        os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
        self._executor = ProcessPoolExecutor(self.processes, mp_context=multiprocessing.get_context("spawn"), initializer=_warm_worker)

    def warm(self) -> None:
        """Wait until all workers are ready."""
        seen: set[int] = set()
        while len(seen) < self.processes:
            done, _ = wait([self._executor.submit(_ready) for _ in range(self.processes)])
            seen |= {f.result() for f in done}

    def run(self, job: Job, numbers: Sequence[int], starting: Starting = _untold) -> Iterator[list[CaseResult]]:
        """Yield lots of results; contiguous stretches of the order go to one worker, so that neighbours share its cache."""
        stretch = -(-len(numbers) // self.processes)
        queues = [list(numbers[i : i + stretch]) for i in range(0, len(numbers), max(stretch, 1))]
        running: dict[Future[list[CaseResult]], int] = {}
        try:
            for k in [*range(len(queues))] * AHEAD:
                self._next(job, queues, k, running, starting)
            while running:
                done, _ = wait(running, return_when=FIRST_COMPLETED)
                for future in done:
                    k = running.pop(future)
                    yield future.result()  # committed before the next lot goes out; the worker has another one at hand
                    self._next(job, queues, k, running, starting)
        finally:
            for future in running:
                future.cancel()

    def _next(self, job: Job, queues: list[list[int]], k: int, running: dict[Future[list[CaseResult]], int], starting: Starting) -> None:
        source = queues[k] or max(queues, key=len)
        lot, source[:] = source[:CHUNK], source[CHUNK:]
        if lot:
            starting(lot)
            running[self._executor.submit(run_lot, job, lot)] = k

    def each(self, function: Callable[..., T], lots: Sequence[tuple[Any, ...]]) -> Iterator[T]:
        """Yield a function's results for several lots, as they come."""
        for future in as_completed([self._executor.submit(function, *lot) for lot in lots]):
            yield future.result()

    def close(self) -> None:
        """Stop the workers without waiting for what they are at."""
        self._executor.shutdown(wait=False, cancel_futures=True)


def expected_seconds(job: Job, total: int, processes: int) -> float:
    """Estimate a study's time from a small lot of its own cases, run here and now after a first one to warm up."""
    order = run_order(job.study)
    run_lot(job, order[:1])
    started = time.perf_counter()
    lot = order[:SAMPLE]
    run_lot(job, lot)
    return (time.perf_counter() - started) / len(lot) * total / processes
