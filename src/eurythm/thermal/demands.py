"""What use asks of each zone, hour by hour: gains, fresh air and setpoints.

Series are kept per unit of floor area or air volume, since cases of a study often differ in those alone: what use asks
(`UseSeries`), and what people, lights and equipment give off (`GainSeries`), which may hang on daylight and so on the case.
`Demands` gives them their sizes.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.resolve import ZoneBrief
from eurythm.climate.year import HOURS, MONTH_STARTS

Series = NDArray[np.float64]
NO_HEATING, NO_COOLING = -273.0, 1000.0
RADIANT_SHARE = {"people": 0.5, "lighting": 0.6, "equipment": 0.3}
"""Radiant part of gains by kind, order of size of common use (unverified); that of fixed gains is given."""
LITRES_PER_M3 = 1000.0
KG_S_PER_G_H = 1 / 3.6e6


def by_month(series: Series) -> Series:
    """Return the means by month of hourly series, (Z, 8760) to (Z, 12)."""
    out: Series = np.add.reduceat(series, MONTH_STARTS, axis=1) / np.diff([*MONTH_STARTS, HOURS])
    return out


@dataclass(frozen=True, eq=False)
class UseSeries:
    """What use asks, series of shape (Z, 8760), in the order in which the kernel takes them.

    Attributes
    ----------
    fresh : mechanical outdoor air, l/s per m²
    heat_c, cool_c : setpoints, °C; out of reach where a zone is not conditioned
    bypass_c : room temperature above which heat recovery is bypassed, °C
    occupied : 1 while someone is there
    leak : infiltration or fixed air changes, 1/h
    open_c : room temperature above which windows open, °C
    moisture : given off by people, g/h per m²
    """

    fresh: Series
    heat_c: Series
    cool_c: Series
    bypass_c: Series
    occupied: Series
    leak: Series
    open_c: Series
    moisture: Series

    @cached_property
    def stacked(self) -> Series:
        """The eight series as the kernel takes them, (8760, 8 Z)."""
        return stacked(*(getattr(self, f.name) for f in fields(self)))

    @cached_property
    def monthly(self) -> dict[str, Series]:
        """Means by month, (Z, 12): fresh air and leak per unit, and the heating setpoint, none below -50 °C."""
        return {"fresh": by_month(self.fresh), "leak": by_month(self.leak), "heat": by_month(np.maximum(self.heat_c, -50.0))}

    @cached_property
    def without_setback(self) -> UseSeries:
        """The same with the highest heating setpoint at all hours."""
        return replace(self, heat_c=np.ascontiguousarray(np.broadcast_to(self.extremes[0], self.heat_c.shape)))

    @cached_property
    def extremes(self) -> tuple[Series, Series]:
        """The highest heating and the lowest cooling setpoint of the year, (Z, 1) °C each."""
        return self.heat_c.max(axis=1, keepdims=True), self.cool_c.min(axis=1, keepdims=True)


@dataclass(frozen=True, eq=False)
class GainSeries:
    """Heat of people, lights and equipment, series of shape (Z, 8760).

    Attributes
    ----------
    by_kind : people, lighting (after its control), equipment, W per m² of floor; fixed, W
    fixed_radiant : radiant part of fixed gains, W
    by_area : (Z,) whether the zone's gains are per floor area, not fixed
    convective, radiant : the two parts of all gains, W per m², or W where they are fixed
    lighting_asked : lighting before its control, W per m² of floor
    """

    by_kind: dict[str, Series]
    fixed_radiant: Series
    by_area: NDArray[np.bool_]
    convective: Series
    radiant: Series
    lighting_asked: Series

    @cached_property
    def stacked(self) -> Series:
        """Both parts as the kernel takes them, (8760, 2 Z)."""
        return stacked(self.convective, self.radiant)

    @cached_property
    def without_heat(self) -> GainSeries:
        """The same where nobody and nothing gives heat."""
        none = np.zeros_like(self.convective)
        return replace(self, convective=none, radiant=none)

    @cached_property
    def monthly(self) -> Series:
        """Means of all gains by month, (Z, 12)."""
        return by_month(self.convective + self.radiant)


@dataclass(frozen=True, eq=False)
class Lights:
    """What the control of lights leaves on: the share of their power, (Z, 8760)."""

    left_on: Series


def stacked(*series: Series) -> Series:
    """Return some series of zones as the kernel takes them, (8760, n Z)."""
    return np.ascontiguousarray(np.concatenate(series).T)


@dataclass(frozen=True, eq=False)
class Demands:
    """What use asks of zones of a certain size: internal floor area m² and air volume m³, (Z,) each; and what heats them."""

    of: UseSeries
    by: GainSeries
    floor_area: Series
    air_volume: Series

    def scales(self, heat_per_m3: float) -> Series:
        """Factors from the unit series to W/K, °C and kg/s, (8, Z)."""
        one = np.ones_like(self.floor_area)
        fresh = self.floor_area / LITRES_PER_M3 * heat_per_m3
        leak = self.air_volume / 3600.0 * heat_per_m3
        return np.stack([fresh, one, one, one, one, leak, one, self.floor_area * KG_S_PER_G_H])

    @cached_property
    def gain_scale(self) -> Series:
        """Factor from the unit gains to W, (Z,)."""
        return np.where(self.by.by_area, self.floor_area, 1.0)

    @cached_property
    def gains(self) -> dict[str, Series]:
        """Gains by kind, (Z, 8760) W."""
        sized = {kind: self.by.by_kind[kind] * self.floor_area[:, None] for kind in RADIANT_SHARE}
        return sized | {"fixed": self.by.by_kind["fixed"]}

    def total(self, kind: str) -> Series:
        """Gains of one kind in all zones, (8760,) W."""
        whole: Series = self.floor_area @ self.by.by_kind[kind]
        return whole

    @cached_property
    def lighting_saved(self) -> Series:
        """What its control takes off lighting in all zones, (8760,) W."""
        if self.by.lighting_asked is self.by.by_kind["lighting"]:
            return np.zeros(self.by.lighting_asked.shape[1])
        saved: Series = self.floor_area @ (self.by.lighting_asked - self.by.by_kind["lighting"])
        return saved

    @property
    def fresh_m3_s(self) -> Series:
        """Mechanical outdoor air, (Z, 8760) m³/s."""
        return self.of.fresh * (self.floor_area / LITRES_PER_M3)[:, None]

    @property
    def leak_m3_s(self) -> Series:
        """Infiltration, or fixed air changes, (Z, 8760) m³/s."""
        return self.of.leak * (self.air_volume / 3600.0)[:, None]

    @property
    def convective(self) -> Series:
        """Convective part of all gains, (Z, 8760) W."""
        return self.by.convective * self.gain_scale[:, None]

    @property
    def radiant(self) -> Series:
        """Radiant part of all gains, (Z, 8760) W."""
        return self.by.radiant * self.gain_scale[:, None]

    @property
    def heat_c(self) -> Series:
        """Heating setpoints, (Z, 8760) °C."""
        return self.of.heat_c

    @property
    def cool_c(self) -> Series:
        """Cooling setpoints, (Z, 8760) °C."""
        return self.of.cool_c

    @property
    def monthly(self) -> dict[str, Series]:
        """Means by month, (Z, 12): gains W, fresh air and leak m³/s, and the heating setpoint °C, none below -50."""
        per = self.of.monthly
        gains = self.by.monthly * self.gain_scale[:, None]
        fresh, leak = per["fresh"] * (self.floor_area / LITRES_PER_M3)[:, None], per["leak"] * (self.air_volume / 3600.0)[:, None]
        return {"gains": gains, "fresh": fresh, "leak": leak, "heat": per["heat"]}

    def for_sizing_heat(self) -> Demands:
        """The same where nobody and nothing gives heat, and nothing is set back."""
        return replace(self, of=self.of.without_setback, by=self.by.without_heat)


def use_series(zones: tuple[ZoneBrief, ...]) -> UseSeries:
    """Expand what all zones are asked."""
    heat = np.stack([z.heating_c if z.conditioned else np.full(HOURS, NO_HEATING) for z in zones])
    cool = np.stack([z.cooling_c if z.conditioned else np.full(HOURS, NO_COOLING) for z in zones])
    return UseSeries(
        fresh=np.stack([z.fresh_air for z in zones]),
        heat_c=heat,
        cool_c=cool,
        bypass_c=(np.clip(heat, 15, 24) + np.clip(cool, 22, 30)) / 2,
        occupied=np.stack([z.occupied for z in zones]).astype(float),
        leak=np.stack([z.infiltration_ach for z in zones]),
        open_c=np.stack([z.open_c for z in zones]),
        moisture=np.stack([z.moisture_g_h for z in zones]),
    )


def gain_series(zones: tuple[ZoneBrief, ...], lights: Lights | None = None) -> GainSeries:
    """Expand what heats all zones, lights by what their control leaves on."""
    by_area = np.array([z.gains_w is None for z in zones])
    gains = {kind: np.stack([getattr(z, kind) for z in zones]) * by_area[:, None] for kind in RADIANT_SHARE}
    asked = gains["lighting"]
    if lights is not None:
        gains["lighting"] = asked * lights.left_on
    gains["fixed"] = np.stack([np.zeros(HOURS) if z.gains_w is None else z.gains_w for z in zones])
    fixed_radiant = np.array([z.gains_radiant_share for z in zones])[:, None] * gains["fixed"]
    radiant = fixed_radiant.copy()
    for kind, share in RADIANT_SHARE.items():
        radiant += share * gains[kind]
    return GainSeries(
        by_kind=gains,
        fixed_radiant=fixed_radiant,
        by_area=by_area,
        convective=sum(gains.values(), np.zeros_like(radiant)) - radiant,
        radiant=radiant,
        lighting_asked=asked,
    )
