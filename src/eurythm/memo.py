"""What is remembered of the pipeline's steps: each result by the digest of all that it was made from."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, fields, is_dataclass
from functools import cached_property
from threading import Lock
from typing import Any, ClassVar, Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

T = TypeVar("T")
KEEP = {
    "form": 24,
    "openings": 24,
    "cladding": 24,
    "light": 12,
    "daylight": 6,
    "floors": 2,
    "bright": 24,
    "lights": 8,
    "inside": 48,
    "use": 10,
    "gains": 8,
    "arrays": 4,
    "panels": 24,
    "panel_light": 10,
    "generation": 24,
    "demand": 4,
    "course": 40,
    "design": 48,
    "parts": 8,
    "delivered": 12,
    "enclosure": 48,
    "cuts": 24,
}
"""How many results of each step are kept."""
LARGE = frozenset(
    {"light", "daylight", "floors", "arrays", "panel_light", "generation", "delivered", "demand", "course", "design", "parts"}
)
"""Steps whose results hold hourly series."""
MOST_BYTES = 300_000_000
"""How much the results of one such step may take before the oldest go; the last two always stay."""


class Memo:
    """Remembers the last results of each step by the digest of its inputs."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self._kept: dict[str, OrderedDict[str, Any]] = {step: OrderedDict() for step in KEEP}
        self._bytes: dict[str, dict[str, int]] = {step: {} for step in KEEP}
        self._most = most_bytes
        self._lock = Lock()
        self._making: dict[tuple[str, str], Lock] = {}

    def get(self, step: str, key: str, make: Callable[[], T]) -> T:
        """Return the remembered result, or make and remember it; who asks for what is being made waits for it."""
        found: T | None = self.find(step, key)
        if found is not None:
            return found
        with self._lock:
            making = self._making.setdefault((step, key), Lock())
        with making:
            found = self.find(step, key)
            if found is None:
                try:
                    found = self._keep(step, key, make())
                finally:
                    with self._lock:
                        self._making.pop((step, key), None)
        return found

    def find(self, step: str, key: str) -> Any:
        """Return the remembered result, None where there is none."""
        kept = self._kept[step]
        with self._lock:
            if key not in kept:
                return None
            kept.move_to_end(key)
            return kept[key]

    def _keep(self, step: str, key: str, made: T) -> T:
        """Remember a result; the oldest go."""
        kept = self._kept[step]
        with self._lock:
            sizes = self._bytes[step]
            kept[key], sizes[key] = made, array_bytes(made) if step in LARGE else 0
            while len(kept) > KEEP[step] or (len(kept) > 2 and sum(sizes.values()) > self._most):
                oldest, _ = kept.popitem(last=False)
                del sizes[oldest]
        return made


BESIDES = 500
"""Bytes that a kept result takes besides its arrays, more or less."""


class Kept(Generic[T]):
    """The last results of one step by the digest of what they depend on, as many as fit into some bytes; at least two."""

    def __init__(self, most_bytes: int) -> None:
        self.most_bytes = self._room = most_bytes
        self._kept: OrderedDict[bytes, tuple[T, int]] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    def make_room(self, needed: int) -> None:
        """Let results that one question needs together stand beside each other, however large they are, until the next question."""
        self._room = max(self.most_bytes, needed)

    def find(self, key: bytes) -> T | None:
        """Return what is kept under a key."""
        with self._lock:
            if key not in self._kept:
                return None
            self._kept.move_to_end(key)
            return self._kept[key][0]

    def keep(self, key: bytes, made: T) -> T:
        """Keep a result; the oldest go."""
        size = array_bytes(made) + BESIDES
        with self._lock:
            if key not in self._kept:
                self._kept[key] = made, size
                self._bytes += size
            while self._bytes > self._room and len(self._kept) > 2:
                self._bytes -= self._kept.popitem(last=False)[1][1]
        return made

    def get(self, key: bytes, make: Callable[[], T]) -> T:
        """Return what is kept under a key, or make and keep it."""
        found = self.find(key)
        return self.keep(key, make()) if found is None else found

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._kept.clear()
            self._bytes = 0


def array_bytes(thing: Any) -> int:
    """Return how much the arrays take that a result holds: as it says itself, else in its fields, tuples, lists and dictionaries."""
    if hasattr(thing, "nbytes"):
        return int(thing.nbytes)
    if isinstance(thing, dict):
        return sum(array_bytes(v) for v in thing.values())
    if isinstance(thing, (tuple, list)):
        return sum(array_bytes(v) for v in thing)
    if is_dataclass(thing) and not isinstance(thing, type):
        return sum(array_bytes(getattr(thing, f.name)) for f in fields(thing))
    return 0


def key_of(*arrays: NDArray[Any]) -> bytes:
    """Return a digest of arrays."""
    digest = hashlib.blake2b(digest_size=16)
    for array in arrays:
        digest.update(str(array.shape).encode())
        digest.update(np.ascontiguousarray(array).tobytes())
    return digest.digest()


def digest(*parts: str | float | None) -> str:
    """Return a digest of plain values."""
    made = hashlib.blake2b(digest_size=16)
    for part in parts:
        made.update(repr(part).encode())
        made.update(b"\0")
    return made.hexdigest()


@dataclass(frozen=True, eq=False)
class Made(Generic[T]):
    """The result of a step, and the digest of all that it was made from."""

    digest: str
    result: T


FOLLOWS = {"follows": True}
"""Metadata of a field of inputs that follows from the others, and so is left out of their digest."""


class Inputs(Generic[T]):
    """What one step of the pipeline reads, and how it makes its result; its frozen dataclasses hold excerpts of documents,
    results of earlier steps and plain values, nothing else.
    """

    step: ClassVar[str]

    @cached_property
    def digest(self) -> str:
        """A digest of all fields but those that follow from others."""
        held = [getattr(self, f.name) for f in fields(self) if not f.metadata.get("follows")]  # type: ignore[arg-type]
        return digest(self.step, *(getattr(value, "digest", value) for value in held))

    def make(self) -> T:
        """Make the result."""
        raise NotImplementedError
