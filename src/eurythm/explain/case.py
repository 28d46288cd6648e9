"""One case as it is asked about: documents and a climate year."""

from __future__ import annotations

from dataclasses import dataclass

from eurythm.climate.year import ClimateYear
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.scheme import Scheme
from eurythm.simulate import Prepared, Taken, prepare_case, take_apart_case


@dataclass(frozen=True, eq=False)
class Case:
    """Documents and a climate year."""

    place: Place
    library: Library
    scheme: Scheme
    factors: Factors
    climate: ClimateYear

    def prepared(self, substeps: int = 1) -> Prepared:
        """Go through the pipeline up to the heat balance. Raises EurythmError."""
        return prepare_case(self.place, self.library, self.scheme, self.factors, self.climate, substeps)

    def taken_apart(self, substeps: int = 1) -> Taken:
        """Take the loads of its year apart. Raises EurythmError."""
        return take_apart_case(self.prepared(substeps))
