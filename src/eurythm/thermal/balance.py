"""Running the prepared year."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.model.errors import EurythmError
from eurythm.thermal import kernel
from eurythm.thermal.comfort import Limits
from eurythm.thermal.layout import run_lanes
from eurythm.thermal.prepare import Arrays

Series = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Demand:
    """What the heat balance says, by zone and hour; all (Z, 8760), means of the hour.

    Attributes
    ----------
    air_c, operative_c : °C
    heating_w, cooling_w : the sensible load, both positive, W
    leak_wk, supply_wk, open_wk : outdoor air by infiltration, mechanical supply and windows, W/K
    vapour_kg_kg : humidity ratio
    building : (6, 8760) the building's heating, cooling, supply (W/K), what its coils condense, dried and humidified, W
    closure : (Z,) relative energy-balance error
    drift : heat held more at the end of the year than at its start, per throughput
    sweeps : most sweeps over the zones that any step needed
    """

    air_c: Series
    operative_c: Series
    heating_w: Series
    cooling_w: Series
    leak_wk: Series
    supply_wk: Series
    open_wk: Series
    vapour_kg_kg: Series
    building: Series
    closure: Series
    drift: float
    sweeps: int


@dataclass(frozen=True, eq=False)
class Course:
    """A year of the whole building, which is all that a table of cases needs.

    Attributes
    ----------
    heating_w, cooling_w : (8760,) W, the sensible load of all zones, means of the hour, both positive
    supply_wk : (8760,) W/K of mechanical outdoor air
    coiled_w : (8760,) W, latent heat of what condenses on the coils while they cool
    dried_w, wetted_w : (8760,) W, latent load of drying further and of humidifying, to given limits
    too_warm_h, too_cold_h : (Z,) occupied hours beyond the comfort limits, by operative temperature
    closure : (Z,) relative energy-balance error
    drift : heat held more at the end of the year than at its start, per throughput
    """

    heating_w: Series
    cooling_w: Series
    supply_wk: Series
    coiled_w: Series
    dried_w: Series
    wetted_w: Series
    too_warm_h: Series
    too_cold_h: Series
    closure: Series
    drift: float


def balance(arrays: Arrays) -> Demand:
    """Run the year.

    Raises
    ------
    EurythmError
        ``not-finite`` where the result is not a number: some input is beyond what the method can carry.
    """
    answer = run_lanes([arrays], 1, keep=True)
    kept = dict(zip(kernel.KEPT, answer.kept, strict=True))
    sound = np.isfinite(answer.kept).all(axis=(0, 2))
    if not sound.all():
        raise _not_finite(arrays.zone_ids[int(np.argmax(~sound))])
    return Demand(**kept, building=answer.building[:, :, 0], closure=answer.closure(), drift=answer.drift(), sweeps=answer.sweeps)


def course_of(arrays: Arrays, demand: Demand, limits: Limits) -> Course:
    """Sum a demand by zones up to the building's."""
    occupied = np.stack([z.occupied for z in arrays.zones])
    above = limits.too_warm_above(arrays.weather["adaptive_c"])
    heating, cooling, supply, coiled, dried, wetted = demand.building
    return Course(
        heating_w=heating,
        cooling_w=cooling,
        supply_wk=supply,
        coiled_w=coiled,
        dried_w=dried,
        wetted_w=wetted,
        too_warm_h=(occupied & (demand.operative_c > above)).sum(axis=1).astype(float),
        too_cold_h=(occupied & (demand.operative_c < limits.cold_c[:, None])).sum(axis=1).astype(float),
        closure=demand.closure,
        drift=demand.drift,
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
