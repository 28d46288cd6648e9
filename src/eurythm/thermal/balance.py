"""Running the prepared year."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.model.errors import EurythmError
from eurythm.thermal.kernel import run_year
from eurythm.thermal.prepare import Arrays

Series = NDArray[np.float64]


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


@dataclass(frozen=True, eq=False)
class Course:
    """A year of the whole building, which is all that a table of cases needs.

    Attributes
    ----------
    heating_w, cooling_w : (8760,) W, hourly means of the ideal load of all zones, both positive
    too_warm_h, too_cold_h : (Z,) occupied hours beyond the comfort limits, by operative temperature
    closure : (Z,) relative energy-balance error
    """

    heating_w: Series
    cooling_w: Series
    too_warm_h: Series
    too_cold_h: Series
    closure: Series


def balance(arrays: Arrays) -> Demand:
    """Run the year.

    Raises
    ------
    EurythmError
        ``not-finite`` where the result is not a number: some input is beyond what the method can carry.
    """
    air, operative, heating, cooling, residual, sweeps = run_year(*arrays.named.values())
    if not (np.isfinite(air).all() and np.isfinite(heating).all() and np.isfinite(cooling).all()):
        raise _not_finite(arrays.zone_ids[int(np.argmax(~np.isfinite(air).all(axis=1)))])
    return Demand(air, operative, heating, cooling, residual, int(sweeps))


def course_of(arrays: Arrays, demand: Demand, too_warm_c: float, too_cold_c: float) -> Course:
    """Sum a demand by zones up to the building's."""
    occupied = np.stack([z.occupied for z in arrays.zones])
    return Course(
        heating_w=demand.heating_w.sum(axis=0),
        cooling_w=demand.cooling_w.sum(axis=0),
        too_warm_h=(occupied & (demand.operative_c > too_warm_c)).sum(axis=1).astype(float),
        too_cold_h=(occupied & (demand.operative_c < too_cold_c)).sum(axis=1).astype(float),
        closure=demand.closure,
    )


def checked(course: Course, arrays: Arrays) -> Course:
    """Return the course, or raise ``not-finite`` where some of it is not a number."""
    if not (np.isfinite(course.heating_w).all() and np.isfinite(course.cooling_w).all() and np.isfinite(course.closure).all()):
        raise _not_finite(arrays.zone_ids[int(np.argmax(~np.isfinite(course.closure)))])
    return course


def _not_finite(zone: str) -> EurythmError:
    return EurythmError(
        "not-finite", f"The heat balance of “{zone}” gives no finite result; check its sizes and materials.", f"zones/{zone}"
    )
