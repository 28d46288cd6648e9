"""What was worked out of documents is kept beside them for as long as they live."""

from __future__ import annotations

from typing import Any
from weakref import ref

from pydantic import BaseModel


class Known:
    """What was worked out of documents: they never change, and cases of a study share those that a lever leaves alone."""

    def __init__(self) -> None:
        self._of: dict[int, tuple[ref[BaseModel], dict[Any, Any]]] = {}

    def of(self, document: BaseModel) -> dict[Any, Any]:
        """Return what is known of a document, to be added to; of this very object, not of one that equals it."""
        own = id(document)
        held = self._of.get(own)
        if held is None:
            held = self._of[own] = ref(document, lambda _: self._of.pop(own, None)), {}
        return held[1]
