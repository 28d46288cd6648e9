"""Running wide over several machines: a Dask cluster in place of the pool, with the same interface."""

from __future__ import annotations

import logging
import os
import signal
from collections.abc import Iterator, Sequence
from concurrent.futures import CancelledError
from typing import TYPE_CHECKING, Any

from eurythm import __version__
from eurythm.memo import BUDGET
from eurythm.model.errors import EurythmError
from eurythm.study.plan import Case
from eurythm.study.pool import CHUNK, MOST_FALLS, REMEMBERED, Lot, after_a_fall
from eurythm.study.runner import CaseResult, Job, Starting, load, run_lot, untold

if TYPE_CHECKING:
    from distributed import Client, Future

log = logging.getLogger(__name__)
AHEAD = 2
"""Lots at each worker, so that none idles while results are committed."""
WAIT_S = 10.0
"""So long a cluster may take to answer."""


def version_here() -> str:
    """Return the version of this package where it runs, on a worker too."""
    return __version__


class Cluster:
    """Workers of a Dask cluster, each one process with one thread; documents go to every worker once.

    A lost worker's lots run again elsewhere; what was yielded before is not touched. A lot that brings workers down is halved, and at
    last its one case fails with the reason, as in the pool.
    """

    def __init__(self, address: str) -> None:
        """Join a cluster.

        Raises
        ------
        EurythmError
            ``no-cluster`` where none answers or it has no workers, ``other-version`` where a worker has another version of this package.
        """
        from distributed import Client

        logging.getLogger("distributed").setLevel(logging.CRITICAL)
        try:
            self._client: Client = Client(address, timeout=WAIT_S, set_as_default=False)
        except (OSError, ValueError, TimeoutError) as fault:
            raise EurythmError("no-cluster", f"No cluster answers at {address:.120}; is its scheduler running?", "cluster") from fault
        self._address = address
        versions = self._client.run(version_here)
        if not versions:
            self.close()
            raise EurythmError(
                "no-cluster", f"The cluster at {address:.120} has no workers; start some: eurythm worker {address:.120}", "cluster"
            )
        for worker, version in versions.items():
            if version != __version__:
                self.close()
                raise EurythmError(
                    "other-version", f"The worker {worker} has version {version} of Eurythm, this is {__version__}.", "cluster"
                )

    @property
    def processes(self) -> int:
        """How many workers there are now."""
        return len(self._client.scheduler_info(n_workers=-1)["workers"])

    def run(self, job: Job, cases: Sequence[Case], starting: Starting = untold) -> Iterator[list[CaseResult]]:
        """Yield lots of results as they come.

        Raises
        ------
        EurythmError
            ``cluster-lost`` where the scheduler is gone; what was yielded stays.
        """
        from distributed import as_completed
        from distributed.scheduler import KilledWorker

        lots = [Lot(list(cases[i : i + CHUNK]), 0, MOST_FALLS) for i in range(0, len(cases), CHUNK)]
        lots.reverse()
        out: dict[Future, Lot] = {}
        try:
            sent = self._client.scatter(job, broadcast=True, hash=False)
            coming: Any = as_completed(loop=self._client.loop)

            def send(lot: Lot) -> None:
                starting(lot.numbers)
                future = self._client.submit(run_lot, sent, lot.cases, pure=False, retries=0)
                out[future] = lot
                coming.add(future)

            for _ in range(min(len(lots), AHEAD * max(min(self.processes, job.processes or self.processes), 1))):
                send(lots.pop())
            for future in coming:
                lot = out.pop(future)
                try:
                    results = future.result()
                except KilledWorker:  # several times already: Dask tries again by itself
                    again, given_up = after_a_fall(lot)
                    for part in again:
                        part.falls = MOST_FALLS
                        send(part)
                    if given_up:
                        yield given_up
                    continue
                yield results
                if lots:
                    send(lots.pop())
                if not out:
                    return
        except (OSError, CancelledError, TimeoutError) as fault:
            raise EurythmError("cluster-lost", f"The cluster at {self._address:.120} is gone; what had run stays.", "cluster") from fault

    def close(self) -> None:
        """Leave the cluster; it goes on without us."""
        self._client.close(timeout=2)


def work(address: str, processes: int) -> None:
    """Serve a cluster's scheduler with processes of this machine, until told to end."""
    import asyncio

    from distributed import Nanny

    async def serve() -> None:
        nannies = [Nanny(address, nthreads=1, preload=["eurythm.study.cluster"], memory_limit=0, dashboard=False) for _ in range(processes)]
        stop = asyncio.Event()
        for ending in (signal.SIGTERM, signal.SIGINT):
            asyncio.get_running_loop().add_signal_handler(ending, stop.set)
        try:
            await asyncio.wait_for(asyncio.gather(*nannies), WAIT_S * 6)
        except (OSError, TimeoutError) as fault:
            raise EurythmError("no-cluster", f"No scheduler answers at {address:.120}.", "address") from fault
        print(f"{processes} workers serve {address}", flush=True)
        await stop.wait()
        await asyncio.gather(*(nanny.close() for nanny in nannies))

    asyncio.run(serve())


def dask_setup(_: Any) -> None:
    """Make a worker ready (Dask calls this in each of its processes): one thread for numbers, all that is compiled at hand."""
    os.environ["OMP_NUM_THREADS"] = os.environ["OPENBLAS_NUM_THREADS"] = "1"
    load()
    BUDGET.most_bytes = REMEMBERED
