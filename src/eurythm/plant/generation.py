"""Generation of heat and cold: heat pumps and chillers by the second law, boilers by their return, networks, electric heaters.

Sources of heat stand in an order: each gives what it can of what those before it left.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.systems import ColdBrief, HeatBrief
from eurythm.climate.year import HOURS, ClimateYear
from eurythm.model.plant import Carrier
from eurythm.plant.air_side import Outdoors

Series = NDArray[np.float64]
KELVIN = 273.15
LEAST_LIFT_K = 1.0
CAPACITY_PER_K = 0.02
"""An air heat pump gives this share of its rated power more for each kelvin that it is warmer than on the design day: our own assumption."""
FROSTS_C, FREEZES_C, DAMP_PCT = 7.0, -10.0, 70.0
"""Defrosting costs most at 2 °C, nothing above and below these outdoor temperatures, nor in air drier than this: our own assumption."""
FROSTS_MOST_C = 2.0
COOL_RETURN_C, WARM_RETURN_C = 30.0, 55.0
"""Returns at which a boiler has its best and its plain efficiency; it condenses more the cooler the return (our own assumption)."""
WATER_FREEZES_C = 4.0
"""Groundwater is not cooled when it is colder than this: our own assumption."""
SOIL_M2_DAY = 0.0864
"""Diffusivity of soil, 1e-6 m²/s (ISO 13370, common value, unverified)."""


@dataclass(frozen=True, eq=False)
class Generated:
    """What one source gives and takes, (H,) each, W: heat or cold, what is bought of its carrier, what comes from around it, what it could give."""

    kind: str
    carrier: Carrier
    given_w: Series
    bought_w: Series
    capacity_w: Series
    cop: Series

    @property
    def ambient_w(self) -> Series:
        """Heat from air, ground or water; negative where more is bought than given."""
        return self.given_w - self.bought_w


def carnot(efficiency: float, hot_c: Series, cold_c: Series, most: float, for_heat: bool = True) -> Series:
    """Return the COP of a machine between two temperatures, °C: a share of the second law's, within limits (an EER where not for heat)."""
    lift = np.maximum(hot_c - cold_c, LEAST_LIFT_K)
    side = hot_c if for_heat else cold_c
    out: Series = np.clip(efficiency * (side + KELVIN) / lift, 1.0, most)
    return out


def part_load(load: Series, turndown: float, cycling: float) -> Series:
    """Return the factor on the COP at a share of the capacity: EN 14825's form for machines that go on and off, below what they modulate to."""
    below = np.clip(load / turndown, 1e-6, 1.0)
    factor: Series = below / (cycling * below + 1.0 - cycling)
    return factor


@lru_cache(maxsize=16)
def _swing(climate: ClimateYear) -> tuple[float, float, float]:
    """Mean, amplitude and phase (day of the warmest) of the outdoor year's first harmonic, K and days."""
    daily = climate.air_c.reshape(365, 24).mean(axis=1)
    first = np.fft.rfft(daily)[1] * 2 / 365
    return float(daily.mean()), float(np.abs(first)), float((-np.angle(first)) / (2 * np.pi) * 365 % 365)


def soil_c(climate: ClimateYear, depth_m: float) -> Series:
    """Return the temperature of undisturbed soil at a depth, (8760,) °C: a wave that fades and lags (Kusuda and Achenbach 1965)."""
    mean, amplitude, warmest = _swing(climate)
    fade = depth_m * np.sqrt(np.pi / (365 * SOIL_M2_DAY))
    day = np.arange(HOURS) / 24
    out: Series = mean + amplitude * np.exp(-fade) * np.cos(2 * np.pi * (day - warmest) / 365 - fade)
    return out


def rated_w(source: HeatBrief | ColdBrief, design_w: float, margin: float) -> float:
    """Return the rated power: as given, else a share of the design load with a margin."""
    if source.power_kw is not None:
        return source.power_kw * 1000.0
    return design_w * margin * (source.share if isinstance(source, HeatBrief) else 1.0)


def source_c(source: HeatBrief | ColdBrief, outdoors: Outdoors, climate: ClimateYear, span: slice = slice(None)) -> Series:
    """Return the temperature of what a machine draws heat from, or gives it to, (H,) °C."""
    if source.kind in ("ground_heat_pump", "water_heat_pump", "ground"):
        return soil_c(climate, source.depth_m)[span]
    return outdoors.wet_bulb_c if source.kind == "tower_chiller" else outdoors.air_c


def heat_from(
    source: HeatBrief,
    asked_w: Series,
    flow_c: Series,
    return_c: Series,
    around_c: Series,
    outdoors: Outdoors,
    rated: float,
    design_c: float,
) -> Generated:
    """Return what one source of heat gives of what is asked, and what it buys for it.

    Parameters
    ----------
    around_c : temperature of air, soil or water that a heat pump draws on
    rated : power at the design day, W
    design_c : outdoor temperature there
    """
    capacity = np.full_like(asked_w, rated)
    if source.kind == "air_heat_pump":
        capacity = rated * np.clip(1 + CAPACITY_PER_K * (outdoors.air_c - design_c), 0.3, 2.0)
    if source.kind == "water_heat_pump":
        capacity = np.where(around_c < WATER_FREEZES_C, 0.0, capacity)
    capacity = np.where(outdoors.air_c < source.bivalent_c, 0.0, capacity)
    given = np.minimum(asked_w, capacity)
    if is_pump(source.kind):
        cop = carnot(source.efficiency, flow_c + source.hot_approach_k, around_c - source.cold_approach_k, source.most_cop)
        if source.kind == "air_heat_pump":
            cop = cop * (1 - source.defrost * frosting(outdoors))
        load = given / np.maximum(capacity, 1e-9)
        cop = np.maximum(cop * np.where(given > 0, part_load(load, source.turndown, source.cycling), 1.0), 1.0)
        return Generated(source.kind, "electricity", given, given / cop, capacity, cop)
    if source.kind == "boiler":
        cool = np.clip((WARM_RETURN_C - return_c) / (WARM_RETURN_C - COOL_RETURN_C), 0.0, 1.0)
        efficiency = source.efficiency + cool * (source.condensing - source.efficiency)
        bought = given / efficiency + np.where(given > 0, source.standby_share * rated, 0.0)
        return Generated(
            source.kind, source.carrier, given, bought, capacity, np.where(given > 0, given / np.maximum(bought, 1e-9), efficiency)
        )
    return Generated(source.kind, source.carrier, given, given / source.efficiency, capacity, np.full_like(given, source.efficiency))


def frosting(outdoors: Outdoors) -> Series:
    """Return how much of the loss by defrosting there is, 0 to 1: most around 2 °C, none in dry or cold or warm air."""
    rising = np.clip((outdoors.air_c - FREEZES_C) / (FROSTS_MOST_C - FREEZES_C), 0.0, 1.0)
    falling = np.clip((FROSTS_C - outdoors.air_c) / (FROSTS_C - FROSTS_MOST_C), 0.0, 1.0)
    out: Series = np.minimum(rising, falling) * (outdoors.humidity_pct > DAMP_PCT)
    return out


def heat_in_order(
    sources: Sequence[tuple[HeatBrief, float]],
    asked_w: Series,
    flow_c: Series,
    return_c: Series,
    outdoors: Outdoors,
    climate: ClimateYear,
    design_c: float,
) -> tuple[list[Generated], Series]:
    """Return what each source gives in its order, with its rated power W, and what none of them could, W."""
    rest, found = asked_w, []
    for source, rated in sources:
        made = heat_from(source, rest, flow_c, return_c, source_c(source, outdoors, climate), outdoors, rated, design_c)
        found.append(made)
        rest = rest - made.given_w
    return found, rest


def cold_from(
    source: ColdBrief, asked_w: Series, flow_c: float, outdoors: Outdoors, climate: ClimateYear, rated: float
) -> tuple[Generated, Series]:
    """Return what a source of cold gives, and what it could not, W.

    Ground and groundwater cool by pumps alone where they are colder than the water, less the exchanger's approach.
    """
    around = source_c(source, outdoors, climate)
    capacity = np.full_like(asked_w, rated if source.kind != "none" else 0.0)
    if source.kind == "ground":
        capacity = np.where(around + source.cold_approach_k <= flow_c, capacity, 0.0)
    given = np.minimum(asked_w, capacity)
    if source.kind in ("air_chiller", "tower_chiller"):
        cold_c = np.full_like(asked_w, flow_c - source.cold_approach_k)
        eer = carnot(source.efficiency, around + source.hot_approach_k, cold_c, source.most_cop, for_heat=False)
        load = given / np.maximum(capacity, 1e-9)
        eer = np.maximum(eer * np.where(given > 0, part_load(load, source.turndown, source.cycling), 1.0), 1.0)
    else:
        eer = np.full_like(asked_w, source.most_cop if source.kind == "ground" else source.efficiency)
    return Generated(source.kind, source.carrier, given, given / eer, capacity, eer), asked_w - given


def is_pump(kind: str) -> bool:
    """Whether a source is a heat pump."""
    return kind.endswith("heat_pump")
