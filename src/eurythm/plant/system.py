"""What a system is: zones ask, and it answers with the energy that it takes, by end use and carrier.

Each kind of system is a class of its own beside this file (`seasonal.Seasonal` is the first) and knows nothing of zones,
tariffs or generation on the spot; `delivered.deliver` puts the systems of a building together.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np
from numpy.typing import NDArray

from eurythm.model.plant import Carrier

Series = NDArray[np.float64]
EndUse = Literal["heating", "hot_water", "cooling", "fans", "pumps", "lighting", "equipment", "humidity"]
Energy = dict[tuple[EndUse, Carrier], Series]
"""Energy by end use and carrier, each (8760,) W."""


@dataclass(frozen=True, eq=False)
class Wanted:
    """What the zones of a system ask of it, means of the hour, each (8760,).

    Attributes
    ----------
    heating_w, cooling_w : sensible loads, both positive, W
    coiled_w : latent heat of what condenses on its coils while they cool, W
    dried_w, wetted_w : latent load of drying further and of humidifying, to given limits, W
    supply_m3_s : outdoor air by its fans
    hot_water_l_h : water drawn warm that its heater heats
    """

    heating_w: Series
    cooling_w: Series
    coiled_w: Series
    dried_w: Series
    wetted_w: Series
    supply_m3_s: Series
    hot_water_l_h: Series


class System(Protocol):
    """Turns what zones want into energy at the meter."""

    def takes(self, wanted: Wanted) -> Energy:
        """Return the energy that it takes, hour by hour."""
        ...
