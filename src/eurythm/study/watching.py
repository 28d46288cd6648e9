"""Processes that end when the one that started them is gone, however it went."""

from __future__ import annotations

import os
import threading
import time
from multiprocessing import parent_process

POLL_S = 0.5


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
