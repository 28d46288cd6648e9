"""Running the prepared year."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.model.errors import EurythmError
from eurythm.thermal.kernel import run_year
from eurythm.thermal.prepare import Arrays

Series = NDArray[np.float64]
MOST_ERROR = 1e-3


@dataclass(frozen=True, eq=False)
class Demand:
    """What the heat balance says, by zone and hour.

    Attributes
    ----------
    air_c, operative_c : (Z, 8760) °C
    heating_w, cooling_w : (Z, 8760) W, hourly means of the ideal load, both positive
    closure : (Z,) relative energy-balance error
    sweeps : most sweeps over the zones that any step needed
    """

    air_c: Series
    operative_c: Series
    heating_w: Series
    cooling_w: Series
    closure: Series
    sweeps: int


def balance(arrays: Arrays) -> Demand:
    """Run the year.

    Raises
    ------
    EurythmError
        ``not-finite`` where the result is not a number: some input is beyond what the method can carry.
    """
    air, operative, heating, cooling, residual, sweeps = run_year(*arrays.arguments)
    if not (np.isfinite(air).all() and np.isfinite(heating).all() and np.isfinite(cooling).all()):
        bad = arrays.zone_ids[int(np.argmax(~np.isfinite(air).all(axis=1)))]
        raise EurythmError(
            "not-finite", f"The heat balance of “{bad}” gives no finite result; check its sizes and materials.", f"zones/{bad}"
        )
    return Demand(air, operative, heating, cooling, residual, int(sweeps))
