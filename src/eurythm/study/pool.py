"""Running wide: a pool of processes that several studies share, each of which may die without harm to the others."""

from __future__ import annotations

import logging
import os
import signal
import threading
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, as_completed, wait
from concurrent.futures.process import BrokenProcessPool
from contextlib import AbstractContextManager
from dataclasses import dataclass
from functools import partial
from multiprocessing.context import BaseContext
from typing import Any, TypeVar

from eurythm.memo import BUDGET, give_back
from eurythm.study.aside import Aside
from eurythm.study.nursery import start
from eurythm.study.plan import Case
from eurythm.study.runner import CaseResult, Job, Starting, load, run_lot, untold
from eurythm.study.watching import end_with_forker, end_with_parent

T = TypeVar("T")
log = logging.getLogger(__name__)
CHUNK = 32
"""Cases of a lot: what stands side by side in the kernel twice over."""
LEAST = 16
"""Fewer would leave lanes of the kernel empty."""
LOT_S = 3.0
"""A lot that takes longer is halved for the next time, so that others who wait for the worker get their turn."""
MOST_FALLS = 2
"""So often a lot may bring its worker down before it is halved, and a case before it fails."""
AHEAD = 2
"""Lots of a study at each worker, so that none idles while results are committed."""
REMEMBERED = 500_000_000
"""Bytes that a worker remembers: a case with daylight and design days comes to 250 MB, less and its neighbours share nothing."""
NICE = 1
"""Workers give way a little to the server, which somebody waits for; with more, a page that draws while a study runs starved it."""


class Closed(Exception):
    """The pool was closed while something was asked of it."""


def _begin() -> None:
    """Make a new worker ready: it ends with the server and not by Ctrl-C, gives way to it, keeps to one thread, has all that is compiled at hand."""
    end_with_forker()
    end_with_parent()
    os.environ["OMP_NUM_THREADS"] = os.environ["OPENBLAS_NUM_THREADS"] = "1"
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    if hasattr(os, "nice"):
        os.nice(NICE)
    load()
    BUDGET.most_bytes = REMEMBERED


def _once(function: Callable[..., T], lot: tuple[Any, ...]) -> T:
    """Run what is asked once in a while, and keep no memory in reserve for it."""
    try:
        return function(*lot)
    finally:
        give_back()


def _ready() -> int:
    """Return the process id of a worker that answers."""
    return os.getpid()


class _Fell(Exception):
    """The worker died: while it was at this, or before it came to it."""

    def __init__(self, at_it: bool) -> None:
        super().__init__(at_it)
        self.at_it = at_it


class _Worker:
    """One process, which does what it is sent one after another; where it dies, the next thing sent gets a new one."""

    def __init__(self, context: BaseContext) -> None:
        self._context = context
        self._lock = threading.Lock()
        self._closed = False
        self._executor = self._made()
        self._fallen: ProcessPoolExecutor | None = None
        self.out = 0

    @property
    def processes(self) -> list[Any]:
        """Its process, while there is one."""
        return list((getattr(self._executor, "_processes", None) or {}).values())  # the library keeps them to itself

    def _made(self) -> ProcessPoolExecutor:
        return ProcessPoolExecutor(1, mp_context=self._context, initializer=_begin)

    def send(self, function: Callable[..., T], *args: Any) -> Future[T]:
        """Send something to be done; what comes of it may be `_Fell`, or `Closed`.

        Raises
        ------
        Closed
            After `close`.
        """
        answer: Future[T] = Future()
        with self._lock:
            if self._closed:
                raise Closed
            try:
                sent = self._executor.submit(function, *args)
            except BrokenProcessPool:
                log.warning("a worker died; a new one takes its place")
                self._executor.shutdown(wait=False)
                self._executor = self._made()
                sent = self._executor.submit(function, *args)
            self.out += 1
            executor = self._executor
        sent.add_done_callback(partial(self._came_back, executor, answer))
        return answer

    def _came_back(self, executor: ProcessPoolExecutor, answer: Future[T], sent: Future[T]) -> None:
        """Hand on what came back. Of all that went down with a process, the first told is the oldest: what it was at."""
        with self._lock:
            self.out -= 1
            fault = None if sent.cancelled() else sent.exception()
            if sent.cancelled() or (isinstance(fault, BrokenProcessPool) and self._closed):
                fault = Closed()
            elif isinstance(fault, BrokenProcessPool):
                fault, self._fallen = _Fell(at_it=self._fallen is not executor), executor
        if fault is None:
            answer.set_result(sent.result())
        else:
            answer.set_exception(fault)

    def close(self) -> list[Any]:
        """Take nothing more; tell the process to end and return it, if there is one."""
        with self._lock:
            self._closed = True
            processes = self.processes
        self._executor.shutdown(wait=False, cancel_futures=True)
        for process in processes:
            process.terminate()
        return processes


@dataclass
class Lot:
    """Cases on their way: which worker they belong to, and how often they brought one down."""

    cases: list[Case]
    queue: int
    falls: int = 0

    @property
    def numbers(self) -> list[int]:
        """Their numbers."""
        return [case.number for case in self.cases]


class Pool:
    """Workers that several studies share.

    Each study keeps a few small lots at every worker, so that a short one is not behind a long one, and neighbours in its order stay at
    one worker, which remembers what they have in common. A worker that dies costs what was sent to it: that goes out again, and what
    it was at is blamed. After two falls a lot is halved, and at last its one case fails with the reason.
    """

    def __init__(self, processes: int | None = None) -> None:
        self.processes = processes or max(1, os.cpu_count() or 1)
        context = start()
        self._workers = [_Worker(context) for _ in range(self.processes)]
        self._aside = Aside(self._can_wait)

    def aside(self) -> AbstractContextManager[None]:
        """Let workers that are at studies stand still while the body works out an answer that somebody waits for."""
        return self._aside.meanwhile()

    def _can_wait(self) -> list[int]:
        """Processes that are at something."""
        return [process.pid for worker in self._workers if worker.out for process in worker.processes]

    def warm(self) -> None:
        """Wait until all workers are ready."""
        wait([worker.send(_ready) for worker in self._workers])

    def run(self, job: Job, cases: Sequence[Case], starting: Starting = untold) -> Iterator[list[CaseResult]]:
        """Yield lots of results as they come; contiguous stretches of the order go to one worker, so that neighbours share its memory.

        Raises
        ------
        Closed
            Where the pool is closed meanwhile.
        """
        stretch = -(-len(cases) // min(self.processes, job.processes or self.processes))
        queues: list[Sequence[Case]] = [cases[i : i + stretch] for i in range(0, len(cases), max(stretch, 1))]
        workers = sorted(self._workers, key=lambda worker: worker.out)  # where it may use some alone, those that have least to do
        running: dict[Future[list[CaseResult]], Lot] = {}
        most = CHUNK

        def send(lot: Lot) -> None:
            starting(lot.numbers)
            running[workers[lot.queue].send(run_lot, job, lot.cases)] = lot

        def send_next(k: int) -> None:
            source = k if len(queues[k]) else max(range(len(queues)), key=lambda j: len(queues[j]))
            lot, queues[source] = list(queues[source][:most]), queues[source][most:]
            if lot:
                send(Lot(lot, k))

        for _ in range(AHEAD):
            for k in range(len(queues)):
                send_next(k)
        while running:
            done, _ = wait(running, return_when=FIRST_COMPLETED)
            for future in done:
                lot = running.pop(future)
                try:
                    results = future.result()
                except _Fell as fall:
                    lot.falls += fall.at_it
                    again, given_up = after_a_fall(lot)
                    for part in again:
                        send(part)
                    if given_up:
                        yield given_up
                        send_next(lot.queue)
                    continue
                took = sum(result.seconds for result in results)
                most = max(LEAST, len(lot.cases) // 2) if took > LOT_S else min(CHUNK, most * 2)
                yield results  # committed before the next lot goes out; the worker has another one at hand
                send_next(lot.queue)

    def each(self, function: Callable[..., T], lots: Sequence[tuple[Any, ...]]) -> Iterator[T]:
        """Yield a function's results for several lots, as they come; those that go down with a worker are sent once more."""

        def send(lot: tuple[Any, ...]) -> Future[T]:
            return min(self._workers, key=lambda worker: worker.out).send(_once, function, lot)

        with self._aside.needed():
            running = {send(lot): lot for lot in lots}
            again: list[tuple[Any, ...]] = []
            for future in as_completed(running):
                try:
                    yield future.result()
                except _Fell:
                    again.append(running[future])
            for lot in again:
                yield send(lot).result()

    def close(self) -> None:
        """Give up what the workers are at and end them at once."""
        self._aside.all_go()
        ending = [process for worker in self._workers for process in worker.close()]
        for process in ending:
            process.join(1.0)
            if process.is_alive():
                process.kill()


def after_a_fall(lot: Lot) -> tuple[list[Lot], list[CaseResult]]:
    """Return what to send again of a lot that brought its worker down, and what to give up."""
    if lot.falls < MOST_FALLS:
        return [lot], []
    if len(lot.cases) > 1:
        half = len(lot.cases) // 2
        return [Lot(lot.cases[:half], lot.queue), Lot(lot.cases[half:], lot.queue)], []
    return [], [CaseResult(lot.cases[0].number, "failed", None, "Working it out brought a worker down twice.", 0.0)]
