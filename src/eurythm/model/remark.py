"""A remark: something missing, doubtful or mended."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, Literal

Weight = Literal["missing", "doubtful", "mended", "note"]
Stage = Literal["place", "shape", "skin", "use", "plant", "study", "findings"]


@dataclass(frozen=True)
class Remark:
    """A code, a sentence, the object's id and a way to mend it; `weight` says whether results can be trusted."""

    code: str
    sentence: str
    object: str = ""
    mend: str = ""
    weight: Weight = "doubtful"
    stage: Stage = "shape"

    def as_dict(self) -> dict[str, Any]:
        """Return plain data for JSON."""
        return asdict(self)
