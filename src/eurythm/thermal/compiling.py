"""Compiling a kernel under a name of its own, from a cache that mends itself and never runs stale.

The compiler's cache goes by a function's name and by the file that it stands in. So kernels made by one function from different
numbers must not share a name, since a start that is cut between them would leave a cache that breaks every later start; and the
name holds a digest of every other file whose formulas are compiled into the kernel, since the cache does not look at these.
Where the package's own folder cannot be written, the compiler keeps its cache in the user's.
"""

from __future__ import annotations

import contextlib
import hashlib
from collections.abc import Callable
from pathlib import Path
from types import FunctionType, ModuleType
from typing import Any

from numba import njit


def compiled(function: Callable[..., Any], signature: str, name: str, *parts: ModuleType) -> Any:
    """Compile a function for one signature, or take it from the cache; a cache that cannot be read is made anew.

    Parameters
    ----------
    parts : modules whose functions and constants it is compiled with
    """
    digest = hashlib.blake2b(b"".join(Path(str(m.__file__)).read_bytes() for m in parts), digest_size=4).hexdigest()
    function.__qualname__ = function.__name__ = f"{name}_{digest}"
    forget(function, f"{name}_*", but=function.__name__)

    def make() -> Any:
        return njit(signature, nogil=True, error_model="numpy", boundscheck=False, cache=True, fastmath={"contract"})(function)

    try:
        return make()
    except Exception:
        forget(function, function.__name__)
        return make()


def kept_in(source: Path) -> Path:
    """Return the folder in which the compiler keeps what it makes of a source: beside it, or the user's where that cannot be written."""
    standing_there = FunctionType(kept_in.__code__.replace(co_filename=str(source)), {})
    return Path(njit(cache=True)(standing_there).stats.cache_path)


def forget(function: Callable[..., Any], name: str, but: str = "") -> None:
    """Remove what the compiler's cache of a function's file holds under a name, or a pattern, but for one."""
    source = Path(function.__code__.co_filename)
    for file in kept_in(source).glob(f"{source.stem}.{name}-*.nb[ci]"):
        if not but or not file.name.startswith(f"{source.stem}.{but}-"):
            with contextlib.suppress(OSError):
                file.unlink()
