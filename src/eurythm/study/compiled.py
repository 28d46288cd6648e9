"""Compiling what is worked out by the hour: once for a processor and a version, a minute or two, then kept beside its source or with the user."""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

from eurythm.model.errors import EurythmError
from eurythm.thermal.compiling import kept_in

HERE = Path(__file__).parents[1]
KEPT = ("thermal/kernel", "thermal/parts_kernel", "sun/bits", "sun/triangles", "sun/bounce")
"""What a year of any building needs, by its source."""
FIRST_YEAR = "import eurythm.thermal.parts_kernel; from eurythm.study.runner import load; load()"
QUIET_S = 6.0
"""A process that only loads what is kept is done by then."""
EVERY_S = 10.0


def is_kept() -> bool:
    """Whether compiled functions of each source lie where this user's processes look for them."""
    sources = [HERE / f"{name}.py" for name in KEPT]
    return all(any(kept_in(s).glob(f"{s.stem}.*.nbi")) for s in sources)


def compile_once(tell: Callable[[str], None]) -> None:
    """Work out a first year where nothing is compiled yet, in a process of its own, telling now and then how long it takes.

    Raises
    ------
    EurythmError
        ``no-kernel``: they cannot be compiled here; with the last line of what was said.
    """
    if is_kept():
        return
    began = told = time.monotonic()
    command = [sys.executable, "-c", FIRST_YEAR]
    with subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True) as process:
        while True:
            try:
                said = process.communicate(timeout=0.2)[1]
                break
            except subprocess.TimeoutExpired:
                now = time.monotonic()
            if told == began and now - began > QUIET_S:
                tell("Compiling the heat balance for this processor, once; it takes a minute or two.")
                told = now
            elif told > began and now - told > EVERY_S:
                tell(f"Compiling: {now - began:.0f} s")
                told = now
    if process.returncode != 0:
        lines = [line for line in said.splitlines() if line.strip()] or ["it ended without a word"]
        raise EurythmError("no-kernel", f"The heat balance cannot be compiled here: {lines[-1].strip()}", "kernel")
    if told > began:
        tell(f"Compiled in {time.monotonic() - began:.0f} s.")
