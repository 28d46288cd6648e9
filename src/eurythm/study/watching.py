"""Processes that end when the one that started them is gone, however it went."""

from __future__ import annotations

import os
import threading
import time

POLL_S = 0.5


def end_with_parent() -> None:
    """Watch this process's parent in a thread, and end at once when it is gone."""
    parent = os.getppid()

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(POLL_S)
        os._exit(1)

    threading.Thread(target=watch, name="watching-parent", daemon=True).start()
