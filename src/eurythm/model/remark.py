"""A remark: something missing, doubtful or mended."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from typing_extensions import TypedDict

Weight = Literal["missing", "doubtful", "mended", "note"]
Stage = Literal["place", "shape", "skin", "use", "plant", "study", "findings"]


class RemarkDict(TypedDict):
    """A remark as plain data; see `Remark`."""

    code: str
    sentence: str
    object: str
    mend: str
    weight: Weight
    stage: Stage


@dataclass(frozen=True)
class Remark:
    """A code, a sentence with its amounts (`model.amount`), the object's id and a way to mend it; `weight` says whether results can be trusted."""

    code: str
    sentence: str
    object: str = ""
    mend: str = ""
    weight: Weight = "doubtful"
    stage: Stage = "shape"

    def as_dict(self) -> RemarkDict:
        """Return plain data for JSON."""
        return {
            "code": self.code,
            "sentence": self.sentence,
            "object": self.object,
            "mend": self.mend,
            "weight": self.weight,
            "stage": self.stage,
        }
