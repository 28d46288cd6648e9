"""The simplest system: every source at one efficiency all year."""

from __future__ import annotations

from dataclasses import dataclass

from eurythm.model.plant import Plant
from eurythm.plant.hot_water import drawn_w
from eurythm.plant.system import Energy, Wanted

LITRES_PER_M3 = 1000.0


@dataclass(frozen=True)
class Seasonal:
    """Heat, cold and hot water by seasonal efficiencies, fans by their specific power, pumps as a share of heat and cold.

    What condenses on the coils costs cold as what they cool does. Drying further costs cold at the cooling's efficiency, humidifying
    electricity (steam); both are told as the end use humidity.
    """

    plant: Plant

    def takes(self, wanted: Wanted) -> Energy:
        """Return the energy that it takes, hour by hour."""
        plant, cold = self.plant, wanted.cooling_w + wanted.coiled_w
        water_w = drawn_w(wanted.hot_water_l_h, plant.hot_water.rise_k)
        return {
            ("heating", plant.heating.carrier): wanted.heating_w / plant.heating.efficiency,
            ("hot_water", plant.hot_water.carrier): water_w / plant.hot_water.efficiency,
            ("cooling", "electricity"): cold / plant.cooling.efficiency,
            ("fans", "electricity"): wanted.supply_m3_s * LITRES_PER_M3 * plant.ventilation.fan_w_ls,
            ("pumps", "electricity"): (wanted.heating_w + cold) * plant.ventilation.pump_share,
            ("humidity", "electricity"): wanted.dried_w / plant.cooling.efficiency + wanted.wetted_w,
        }
