"""Workers stand still while an answer is worked out that somebody waits for."""

from __future__ import annotations

import os
import signal
import sys
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress

SHARE = 0.75
"""Of the time that workers may stand still: a study goes on, however much is asked."""
MOST_S = 1.0
"""So much of it they may save up."""
AGAIN_S = 0.3
"""Once it is spent, so much is saved up before they stand still again."""
CAN = sys.platform == "linux"
"""Where what is stopped ends with its parent all the same (`watching.end_with_forker`)."""


class Aside:
    """Has as many processes stand still as answers are worked out, each on a processor of its own."""

    def __init__(self, busy: Callable[[], Sequence[int]]) -> None:
        """Ask `busy` for the ids of processes that are at something which can wait."""
        self._busy = busy
        self._changed = threading.Condition()
        self._waited_for = self._needed = 0
        self._still: list[int] = []
        self._saved, self._looked, self._spent = MOST_S, time.monotonic(), False
        self._watcher: threading.Thread | None = None

    @contextmanager
    def meanwhile(self) -> Iterator[None]:
        """Let workers stand still while the body works out an answer."""
        self._count(1)
        try:
            yield
        finally:
            self._count(-1)

    @contextmanager
    def needed(self) -> Iterator[None]:
        """Let none stand still meanwhile, since an answer is worked out by workers themselves."""
        with self._changed:
            self._needed += 1
            self._stand(0)
        try:
            yield
        finally:
            with self._changed:
                self._needed -= 1

    def all_go(self) -> None:
        """Have everything go on, such as before it is told to end."""
        with self._changed:
            self._stand(0)

    def _count(self, by: int) -> None:
        if not CAN:
            return
        with self._changed:
            self._waited_for += by
            self._settle()
            if self._still and self._watcher is None:
                self._watcher = threading.Thread(target=self._watch, name="standing-aside", daemon=True)
                self._watcher.start()
            self._changed.notify()

    def _watch(self) -> None:
        """Have workers go on once they have stood still for long enough, and stand still again later where it is still asked for."""
        with self._changed:
            while True:
                if self._waited_for:
                    self._changed.wait((AGAIN_S / SHARE) if self._spent else 0.05)
                    self._settle()
                else:
                    self._changed.wait()

    def _settle(self) -> None:
        now = time.monotonic()
        passed, self._looked = now - self._looked, now
        self._saved = min(self._saved + passed * (SHARE - bool(self._still)), MOST_S)
        self._spent = self._saved < (AGAIN_S if self._spent else 0.0)
        self._stand(0 if self._spent or self._needed else self._waited_for)

    def _stand(self, count: int) -> None:
        """Have so many stand still, the first ones that are at something."""
        wanted = list(self._busy())[:count] if count else []
        for process in self._still:
            if process not in wanted:
                with suppress(ProcessLookupError):
                    os.kill(process, signal.SIGCONT)
        for process in wanted:
            if process not in self._still:
                with suppress(ProcessLookupError):
                    os.kill(process, signal.SIGSTOP)
        self._still = wanted
