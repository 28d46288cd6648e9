"""Imports as jobs: one thread leads each, the file is read in a process of its own."""

from __future__ import annotations

import logging
import threading
from dataclasses import dataclass

from eurythm.exchange.intake.process import Cancelled, Limits, read_apart
from eurythm.model.errors import EurythmError
from eurythm.store.imports import Imports, ImportState

log = logging.getLogger(__name__)


@dataclass
class Reading:
    """How far a file is read."""

    share: float = 0.0
    what: str = "waiting"


class ImportJobs:
    """Starts, follows and calls off the reading of files; two at a time."""

    def __init__(self, imports: Imports, limits: Limits | None = None) -> None:
        self._imports, self._limits = imports, limits or Limits()
        self._readings: dict[str, Reading] = {}
        self._stops: dict[str, threading.Event] = {}
        self._threads: dict[str, threading.Thread] = {}
        self._places = threading.Semaphore(2)
        self._stopping = False

    def start(self, state: ImportState) -> None:
        """Read a file in the background."""
        self._readings[state.id], self._stops[state.id] = Reading(), threading.Event()
        thread = threading.Thread(target=self._lead, args=(state,), name=f"import-{state.id}", daemon=True)
        self._threads[state.id] = thread
        thread.start()

    def resume(self) -> None:
        """Go on with what was being read when the server stopped."""
        for state in self._imports.unfinished():
            self.start(state)

    def reading(self, import_id: str) -> Reading:
        """Return how far a file is read."""
        return self._readings.get(import_id, Reading(1.0, ""))

    def cancel(self, import_id: str) -> None:
        """Call a reading off."""
        stop = self._stops.get(import_id)
        if stop is not None:
            stop.set()

    def wait(self, import_id: str) -> None:
        """Wait until a reading has ended."""
        thread = self._threads.get(import_id)
        if thread is not None:
            thread.join()

    def stop(self) -> None:
        """Let go of everything; it is read again at the next start."""
        self._stopping = True
        for stop in self._stops.values():
            stop.set()

    def _lead(self, state: ImportState) -> None:
        with self._places:
            self._read(state)

    def _read(self, state: ImportState) -> None:
        imports, reading = self._imports, self._readings[state.id]

        def told(share: float, what: str) -> None:
            reading.share, reading.what = share, what

        fault: EurythmError
        try:
            if not imports.begin(state.id):
                raise EurythmError("import-broke", f"Reading “{state.file}” broke off twice and is not tried again.", state.file)
            received = read_apart(imports.path(state.id), state.file, state.ask, self._limits, told, self._stops[state.id])
        except Cancelled:
            if not self._stopping:
                imports.end(state.id, "cancelled")
            return
        except EurythmError as known:
            fault = known
        except Exception:
            log.exception("import %s stopped", state.id)
            fault = EurythmError("our-fault", f"A fault of ours while reading “{state.file}”; the server's log says more.", state.file)
        else:
            imports.end(state.id, "read", received)
            told(1.0, "")
            return
        imports.end(state.id, "failed", fault=fault.as_dict())
