"""The process that all workers are forked from: it has no threads and everything at hand. Importing this takes nothing along."""

from __future__ import annotations

import multiprocessing
import os
from multiprocessing import forkserver
from multiprocessing.context import BaseContext


def start() -> BaseContext:
    """Let that process get ready, once, and return how workers are made: forked from it where the system can, spawned elsewhere."""
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    if "forkserver" not in multiprocessing.get_all_start_methods():
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["eurythm.study.warm"])
    forkserver.ensure_running()
    return context
