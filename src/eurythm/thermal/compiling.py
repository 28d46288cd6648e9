"""Compiling a kernel under a name of its own, from a cache that mends itself.

The compiler's cache goes by a function's name: kernels made by one function from different numbers must not share one, since a
start that is cut between them would leave a cache that breaks every later start.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

from numba import njit


def compiled(function: Callable[..., Any], signature: str, name: str) -> Any:
    """Compile a function for one signature, or take it from the cache; a cache that cannot be read is made anew."""
    function.__qualname__ = function.__name__ = name

    def make() -> Any:
        return njit(signature, nogil=True, error_model="numpy", boundscheck=False, cache=True)(function)

    try:
        return make()
    except Exception:
        forget(function, name)
        return make()


def forget(function: Callable[..., Any], name: str) -> None:
    """Remove what the compiler's cache holds of a function."""
    source = Path(function.__code__.co_filename)
    for file in source.with_name("__pycache__").glob(f"{source.stem}.{name}-*.nb[ci]"):
        with contextlib.suppress(OSError):
            file.unlink()
