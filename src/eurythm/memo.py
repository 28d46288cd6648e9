"""What is remembered of the pipeline's steps: each result by the digest of all that it was made from."""

from __future__ import annotations

import ctypes
import hashlib
from collections import OrderedDict
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, fields, is_dataclass
from functools import cached_property
from itertools import count
from threading import Lock, RLock
from typing import Any, ClassVar, Generic, TypeVar
from weakref import WeakSet, finalize

import numpy as np
from numpy.typing import NDArray

K = TypeVar("K")
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
MOST_BYTES = 300_000_000
"""How much the results of one step may take before the oldest go."""
BESIDES = 500
"""Bytes that a kept result takes besides its arrays, more or less."""


def give_back() -> None:
    """Have the C library return to the system what it holds in reserve, where it can: a process that lives long else grows far beyond what it keeps."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


class Budget:
    """How many bytes all that is remembered in this process may take together, steps of the pipeline and what they work with.

    Once it is spent, what was used longest ago goes, wherever it is kept; a result that is larger than all of it is not kept at all.
    """

    def __init__(self, most_bytes: int) -> None:
        self.most_bytes = most_bytes
        self.lock = RLock()
        self.spent = 0
        self.let_go = 0  # since memory was last given back to the system
        self._shelves: WeakSet[Shelf[Any, Any]] = WeakSet()
        self._ticks = count()

    def add(self, shelf: Shelf[Any, Any]) -> None:
        """Have a shelf count here."""
        with self.lock:
            self._shelves.add(shelf)

    def forget(self, held: list[int]) -> None:
        """Take what a shelf held, which is gone, out of the sum."""
        with self.lock:
            self.spent -= held[0]

    def tick(self) -> int:
        """Return a number that is higher each time."""
        return next(self._ticks)

    def settle(self) -> None:
        """Let go of what was used longest ago until the rest fits."""
        with self.lock:
            while self.spent > self.most_bytes:
                filled = [shelf for shelf in self._shelves if shelf.oldest is not None]
                if not filled:
                    return
                min(filled, key=lambda shelf: shelf.oldest or 0).drop()
            due = self.let_go > self.most_bytes / 4
            if due:
                self.let_go = 0
        if due:
            give_back()


BUDGET = Budget(700_000_000)
"""Of this process; a worker has less (`study.pool`)."""


class Shelf(Generic[K, T]):
    """Results of one kind by key, as many as fit into some bytes of their own and into the process's budget, and no more than a number."""

    def __init__(self, most_bytes: int, most: int | None = None, budget: Budget | None = None) -> None:
        self.most_bytes, self._most = most_bytes, most
        self._room = most_bytes
        self._kept: OrderedDict[K, tuple[T, int, int]] = OrderedDict()
        self._held = [0]  # a list, so that it is still there when the shelf is gone
        self._budget = budget or BUDGET
        self._budget.add(self)
        finalize(self, self._budget.forget, self._held)

    @property
    def oldest(self) -> int | None:
        """When the one was used that was not used for longest; None where nothing is kept."""
        return next(iter(self._kept.values()))[2] if self._kept else None

    def drop(self) -> None:
        """Let go of the one that was not used for longest."""
        with self._budget.lock:
            _, (_, size, _) = self._kept.popitem(last=False)
            self._held[0] -= size
            self._budget.spent -= size
            self._budget.let_go += size

    def make_room(self, needed: int) -> None:
        """Let results that one question needs together stand beside each other, as far as the budget goes, until the next question."""
        self._room = max(self.most_bytes, needed)

    def find(self, key: K) -> T | None:
        """Return what is kept under a key."""
        with self._budget.lock:
            known = self._kept.get(key)
            if known is None:
                return None
            made, size, _ = known
            self._kept[key] = made, size, self._budget.tick()
            self._kept.move_to_end(key)
            return made

    def keep(self, key: K, made: T) -> T:
        """Keep a result; the oldest go."""
        size = array_bytes(made) + BESIDES
        with self._budget.lock:
            if key not in self._kept and size <= self._budget.most_bytes:
                self._kept[key] = made, size, self._budget.tick()
                self._held[0] += size
                self._budget.spent += size
            while len(self._kept) > 2 and (self._held[0] > self._room or (self._most is not None and len(self._kept) > self._most)):
                self.drop()
            self._budget.settle()
        return made

    def get(self, key: K, make: Callable[[], T]) -> T:
        """Return what is kept under a key, or make and keep it."""
        found = self.find(key)
        return self.keep(key, make()) if found is None else found

    def clear(self) -> None:
        """Forget everything."""
        with self._budget.lock:
            while self._kept:
                self.drop()


class Kept(Shelf[bytes, T]):
    """Results of one kind by the digest of what they depend on."""


class Memo:
    """Remembers the last results of each step by the digest of its inputs."""

    def __init__(self, budget: Budget | None = None) -> None:
        self._shelves: dict[str, Shelf[str, Any]] = {step: Shelf(MOST_BYTES, most, budget) for step, most in KEEP.items()}
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
                    found = self._shelves[step].keep(key, make())
                finally:
                    with self._lock:
                        self._making.pop((step, key), None)
        return found

    def find(self, step: str, key: str) -> Any:
        """Return the remembered result, None where there is none."""
        return self._shelves[step].find(key)


PLAIN = (str, bool, int, float)


def array_bytes(thing: Any) -> int:
    """Return how much the arrays take that a result holds, each once: as it says itself, else in its fields, tuples, lists and dictionaries."""
    return _array_bytes(thing, set())


def _array_bytes(thing: Any, counted: set[int]) -> int:
    if thing is None or isinstance(thing, PLAIN):
        return 0
    if hasattr(thing, "nbytes"):
        if id(thing) in counted:
            return 0
        counted.add(id(thing))
        return int(thing.nbytes)
    if isinstance(thing, dict):
        return sum(_array_bytes(v, counted) for v in thing.values())
    if isinstance(thing, (tuple, list)):
        return sum(_array_bytes(v, counted) for v in thing)
    if is_dataclass(thing) and not isinstance(thing, type):
        return sum(_array_bytes(getattr(thing, f.name), counted) for f in fields(thing))
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
