"""Running the prepared year."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from eurythm.model.errors import EurythmError
from eurythm.thermal import tables
from eurythm.thermal.comfort import Limits
from eurythm.thermal.kernel import Y, Z
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
    systems : (S, 8, 8760) what zones that share a system ask of it, by `tables.SYSTEM_COLUMNS`
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
    systems: Series
    closure: Series
    drift: float
    sweeps: int


ZONE_SUMS = {"heating_wh": Z.heating, "cooling_wh": Z.cooling, "peak_heating_w": Z.most_heating, "peak_cooling_w": Z.most_cooling}
"""Where the kernel keeps what it sums up by zone; of temperature it keeps the sum of all hours."""


@dataclass(frozen=True, eq=False)
class Course:
    """A year by systems, which is all that plant and a table of cases need.

    Attributes
    ----------
    systems : (S, 8, 8760) what zones that share a system ask of it, by `tables.SYSTEM_COLUMNS`, means of the hour
    too_warm_h, too_cold_h : (Z,) occupied hours beyond the comfort limits, by operative temperature
    zones : what each zone came to, by `ZONE_SUMS`, (Z,) each
    closure : (Z,) relative energy-balance error
    drift : heat held more at the end of the year than at its start, per throughput
    """

    systems: Series
    too_warm_h: Series
    too_cold_h: Series
    zones: Mapping[str, Series]
    closure: Series
    drift: float

    @cached_property
    def heating_w(self) -> Series:
        """The sensible heating load of all zones, (8760,) W."""
        return self._whole(Y.heating)

    @cached_property
    def cooling_w(self) -> Series:
        """The sensible cooling load of all zones, positive, (8760,) W."""
        return self._whole(Y.cooling)

    @cached_property
    def coiled_w(self) -> Series:
        """Latent heat of what condenses on all coils while they cool, (8760,) W."""
        return self._whole(Y.coiled)

    def _whole(self, column: np.uint64) -> Series:
        whole: Series = self.systems[:, int(column)].sum(axis=0)
        return whole


def balance(arrays: Arrays) -> Demand:
    """Run the year.

    Raises
    ------
    EurythmError
        ``not-finite`` where the result is not a number: some input is beyond what the method can carry.
    """
    answer = run_lanes([arrays], 1, keep=True)
    kept = dict(zip(tables.KEPT, answer.kept, strict=True))
    sound: NDArray[np.bool_] = np.asarray(np.isfinite(answer.kept).all(axis=(0, 2)))
    if not sound.all():
        raise not_finite(arrays, sound)
    return Demand(**kept, systems=answer.by_system(), closure=answer.closure(), drift=answer.drift(), sweeps=answer.sweeps)


def course_of(arrays: Arrays, demand: Demand, limits: Limits) -> Course:
    """Return what plant and comfort need of a demand by zones."""
    occupied = np.stack([z.occupied for z in arrays.zones])
    above = limits.too_warm_above(arrays.weather["adaptive_c"])
    return Course(
        systems=demand.systems,
        too_warm_h=(occupied & (demand.operative_c > above)).sum(axis=1).astype(float),
        too_cold_h=(occupied & (demand.operative_c < limits.cold_c[:, None])).sum(axis=1).astype(float),
        zones={
            "heating_wh": demand.heating_w.sum(axis=1),
            "cooling_wh": demand.cooling_w.sum(axis=1),
            "peak_heating_w": demand.heating_w.max(axis=1),
            "peak_cooling_w": demand.cooling_w.max(axis=1),
            "air_c": demand.air_c.mean(axis=1),
        },
        closure=demand.closure,
        drift=demand.drift,
    )


def not_finite(arrays: Arrays, sound: NDArray[np.bool_]) -> EurythmError:
    """Return what is told of a case that gives no number, by the first of its zones that is not sound."""
    zone = arrays.zone_ids[int(np.argmax(~sound))]
    return EurythmError(
        "not-finite", f"The heat balance of “{zone}” gives no finite result; check its sizes and materials.", f"zones/{zone}"
    )
