"""Processes that end when the one that started them is gone, however it went."""

from __future__ import annotations

import ctypes
import os
import signal
import sys
import threading
import time
from multiprocessing import parent_process

POLL_S = 0.5
DEATH_SIGNAL = 1
"""`PR_SET_PDEATHSIG` of Linux's prctl."""


def end_with_parent_by_alarm() -> None:
    """Ask for the end of the parent from time to time and end with it, without a thread; for the process that workers are forked from."""
    parent = os.getppid()

    def look(*_: object) -> None:
        if os.getppid() != parent:
            os._exit(1)

    signal.signal(signal.SIGALRM, look)
    signal.setitimer(signal.ITIMER_REAL, POLL_S, POLL_S)  # what is forked has no alarm


def end_with_forker() -> None:
    """Have the system end this process with the one that it was forked from, also while it stands still (`aside`) and cannot watch; Linux only."""
    if sys.platform == "linux":
        ctypes.CDLL(None).prctl(DEATH_SIGNAL, signal.SIGKILL)


def end_with_parent() -> None:
    """Watch in a thread for the end of the process that asked for this one, and end at once with it.

    A process of `multiprocessing` waits for the one that it works for, whichever it was forked from; any other asks twice a second
    whether its parent has changed.
    """
    owner, parent = parent_process(), os.getppid()

    def watch() -> None:
        if owner is not None:
            owner.join()
        while owner is None and os.getppid() == parent:
            time.sleep(POLL_S)
        os._exit(1)

    threading.Thread(target=watch, name="watching-parent", daemon=True).start()
