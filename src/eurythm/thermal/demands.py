"""What use asks of each zone, hour by hour: gains, fresh air and setpoints.

Series are kept per unit of floor area or air volume, since cases of a study often differ in those alone: what use asks
(`UseSeries`), and what people, lights and equipment give off (`GainSeries`), which may hang on daylight and so on the case.
Zones that are asked alike share a row: a house of five hundred rooms has a handful of uses. `Demands` gives each zone its row and its size.
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.resolve import ZoneBrief
from eurythm.climate.year import HOURS, MONTH_STARTS

Series = NDArray[np.float64]
Rows = NDArray[np.uint64]
NO_HEATING, NO_COOLING = -273.0, 1000.0
RADIANT_SHARE = {"people": 0.5, "lighting": 0.6, "equipment": 0.3}
"""Radiant part of gains by kind, order of size of common use (unverified); that of fixed gains is given."""
LITRES_PER_M3 = 1000.0
KG_S_PER_G_H = 1 / 3.6e6


def by_month(series: Series) -> Series:
    """Return the means by month of hourly series, (n, 8760) to (n, 12)."""
    out: Series = np.add.reduceat(series, MONTH_STARTS, axis=1) / np.diff([*MONTH_STARTS, HOURS])
    return out


@dataclass(frozen=True, eq=False)
class UseSeries:
    """What use asks, series of shape (K, 8760), one row for each kind of zone, in the order in which the kernel takes them.

    Attributes
    ----------
    row : (Z,) the row of each zone
    fresh : mechanical outdoor air, l/s per m²
    heat_c, cool_c : setpoints, °C; out of reach where a zone is not conditioned
    bypass_c : room temperature above which heat recovery is bypassed, °C
    occupied : 1 while someone is there
    leak : infiltration or fixed air changes, 1/h
    open_c : room temperature above which windows open, °C
    moisture : given off by people, g/h per m²
    """

    row: Rows
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
        """The eight series as the kernel takes them, (8760, 8 K)."""
        return stacked(*(getattr(self, f.name) for f in fields(self) if f.name != "row"))

    @property
    def by_zone(self) -> Series:
        """The same with a row for each zone, (8760, 8 Z)."""
        return by_zone(self.stacked, self.row)

    @cached_property
    def monthly(self) -> dict[str, Series]:
        """Means by month, (K, 12): fresh air and leak per unit, and the heating setpoint, none below -50 °C."""
        return {"fresh": by_month(self.fresh), "leak": by_month(self.leak), "heat": by_month(np.maximum(self.heat_c, -50.0))}

    @cached_property
    def without_setback(self) -> UseSeries:
        """The same with the highest heating setpoint at all hours."""
        return replace(self, heat_c=np.ascontiguousarray(np.broadcast_to(self.extremes[0], self.heat_c.shape)))

    @cached_property
    def extremes(self) -> tuple[Series, Series]:
        """The highest heating and the lowest cooling setpoint of the year, (K, 1) °C each."""
        return self.heat_c.max(axis=1, keepdims=True), self.cool_c.min(axis=1, keepdims=True)


@dataclass(frozen=True, eq=False)
class GainSeries:
    """Heat of people, lights and equipment, series of shape (K, 8760), one row for each kind of zone.

    Attributes
    ----------
    row : (Z,) the row of each zone
    by_kind : people, lighting (after its control), equipment, W per m² of floor; fixed, W
    fixed_radiant : radiant part of fixed gains, W
    by_area : (K,) whether gains are per floor area, not fixed
    convective, radiant : the two parts of all gains, W per m², or W where they are fixed
    lighting_asked : lighting before its control, W per m² of floor
    """

    row: Rows
    by_kind: dict[str, Series]
    fixed_radiant: Series
    by_area: NDArray[np.bool_]
    convective: Series
    radiant: Series
    lighting_asked: Series

    @cached_property
    def stacked(self) -> Series:
        """Both parts as the kernel takes them, (8760, 2 K)."""
        return stacked(self.convective, self.radiant)

    @property
    def by_zone(self) -> Series:
        """The same with a row for each zone, (8760, 2 Z)."""
        return by_zone(self.stacked, self.row)

    @cached_property
    def without_heat(self) -> GainSeries:
        """The same where nobody and nothing gives heat."""
        none = np.zeros_like(self.convective)
        return replace(self, convective=none, radiant=none)

    @cached_property
    def monthly(self) -> Series:
        """Means of all gains by month, (K, 12)."""
        return by_month(self.convective + self.radiant)


@dataclass(frozen=True, eq=False)
class Lights:
    """What the control of lights leaves on: the share of their power, (Z, 8760)."""

    left_on: Series


def stacked(*series: Series) -> Series:
    """Return some series as the kernel takes them, (8760, n K)."""
    return np.ascontiguousarray(np.concatenate(series).T)


def by_zone(series: Series, row: Rows) -> Series:
    """Return series as the kernel takes them with a row for each zone, (8760, n K) to (8760, n Z)."""
    kinds = int(row.max()) + 1
    return np.ascontiguousarray(series.reshape(HOURS, -1, kinds)[:, :, row].reshape(HOURS, -1))


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
        """Factors from the unit gains to W, (Z,)."""
        return np.where(self.by.by_area[self.by.row], self.floor_area, 1.0)

    @cached_property
    def gains(self) -> dict[str, Series]:
        """Gains by kind, (Z, 8760) W."""
        sized = {kind: self.by.by_kind[kind][self.by.row] * self.floor_area[:, None] for kind in RADIANT_SHARE}
        return sized | {"fixed": self.by.by_kind["fixed"][self.by.row]}

    @property
    def fixed_radiant(self) -> Series:
        """Radiant part of fixed gains, (Z, 8760) W."""
        return self.by.fixed_radiant[self.by.row]

    @property
    def lighting_asked(self) -> Series:
        """Lighting before its control, (Z, 8760) W."""
        return self.by.lighting_asked[self.by.row] * self.floor_area[:, None]

    def total(self, kind: str) -> Series:
        """Gains of one kind in all zones, (8760,) W."""
        return self._whole(self.by.by_kind[kind])

    @cached_property
    def lighting_saved(self) -> Series:
        """What its control takes off lighting in all zones, (8760,) W."""
        if self.by.lighting_asked is self.by.by_kind["lighting"]:
            return np.zeros(self.by.lighting_asked.shape[1])
        return self._whole(self.by.lighting_asked - self.by.by_kind["lighting"])

    def _whole(self, series: Series) -> Series:
        """Sum what is per m² of floor up over all zones."""
        whole: Series = np.bincount(self.by.row.astype(np.int64), self.floor_area, len(series)) @ series
        return whole

    @property
    def fresh_m3_s(self) -> Series:
        """Mechanical outdoor air, (Z, 8760) m³/s."""
        return self.of.fresh[self.of.row] * (self.floor_area / LITRES_PER_M3)[:, None]

    @property
    def leak_m3_s(self) -> Series:
        """Infiltration, or fixed air changes, (Z, 8760) m³/s."""
        return self.of.leak[self.of.row] * (self.air_volume / 3600.0)[:, None]

    @property
    def convective(self) -> Series:
        """Convective part of all gains, (Z, 8760) W."""
        return self.by.convective[self.by.row] * self.gain_scale[:, None]

    @property
    def radiant(self) -> Series:
        """Radiant part of all gains, (Z, 8760) W."""
        return self.by.radiant[self.by.row] * self.gain_scale[:, None]

    @property
    def heat_c(self) -> Series:
        """Heating setpoints, (Z, 8760) °C."""
        return self.of.heat_c[self.of.row]

    @property
    def cool_c(self) -> Series:
        """Cooling setpoints, (Z, 8760) °C."""
        return self.of.cool_c[self.of.row]

    @property
    def extremes(self) -> tuple[Series, Series]:
        """The highest heating and the lowest cooling setpoint of the year, (Z, 1) °C each."""
        warmest, coolest = self.of.extremes
        return warmest[self.of.row], coolest[self.of.row]

    @property
    def monthly(self) -> dict[str, Series]:
        """Means by month, (Z, 12): gains W, fresh air and leak m³/s, and the heating setpoint °C, none below -50."""
        per = {name: series[self.of.row] for name, series in self.of.monthly.items()}
        gains = self.by.monthly[self.by.row] * self.gain_scale[:, None]
        fresh, leak = per["fresh"] * (self.floor_area / LITRES_PER_M3)[:, None], per["leak"] * (self.air_volume / 3600.0)[:, None]
        return {"gains": gains, "fresh": fresh, "leak": leak, "heat": per["heat"]}

    def for_sizing_heat(self) -> Demands:
        """The same where nobody and nothing gives heat, and nothing is set back."""
        return replace(self, of=self.of.without_setback, by=self.by.without_heat)


def rows_of(kinds: Sequence[Hashable]) -> tuple[Rows, list[int]]:
    """Return the row of each zone when those of a kind share one, (Z,), and of each row the zone that it is made of."""
    first: dict[Hashable, int] = {}
    row = np.array([first.setdefault(kind, len(first)) for kind in kinds], dtype=np.uint64)
    return row, np.unique(row, return_index=True)[1].tolist()


def use_series(zones: Sequence[ZoneBrief]) -> UseSeries:
    """Expand what all zones are asked."""
    row, which = rows_of([id(z) for z in zones])
    kinds = [zones[k] for k in which]
    heat = np.stack([z.heating_c if z.conditioned else np.full(HOURS, NO_HEATING) for z in kinds])
    cool = np.stack([z.cooling_c if z.conditioned else np.full(HOURS, NO_COOLING) for z in kinds])
    return UseSeries(
        row=row,
        fresh=np.stack([z.fresh_air for z in kinds]),
        heat_c=heat,
        cool_c=cool,
        bypass_c=(np.clip(heat, 15, 24) + np.clip(cool, 22, 30)) / 2,
        occupied=np.stack([z.occupied for z in kinds]).astype(float),
        leak=np.stack([z.infiltration_ach for z in kinds]),
        open_c=np.stack([z.open_c for z in kinds]),
        moisture=np.stack([z.moisture_g_h for z in kinds]),
    )


def gain_series(zones: Sequence[ZoneBrief], lights: Lights | None = None) -> GainSeries:
    """Expand what heats all zones, lights by what their control leaves on."""
    all_on = np.ones(len(zones), bool) if lights is None else (lights.left_on == 1.0).all(axis=1)
    row, which = rows_of([(id(z), -1 if on else k) for k, (z, on) in enumerate(zip(zones, all_on.tolist(), strict=True))])
    kinds = [zones[k] for k in which]
    by_area = np.array([z.gains_w is None for z in kinds])
    gains = {kind: np.stack([getattr(z, kind) for z in kinds]) * by_area[:, None] for kind in RADIANT_SHARE}
    asked = gains["lighting"]
    if lights is not None:
        gains["lighting"] = asked * lights.left_on[which]
    gains["fixed"] = np.stack([np.zeros(HOURS) if z.gains_w is None else z.gains_w for z in kinds])
    fixed_radiant = np.array([z.gains_radiant_share for z in kinds])[:, None] * gains["fixed"]
    radiant = fixed_radiant.copy()
    for kind, share in RADIANT_SHARE.items():
        radiant += share * gains[kind]
    return GainSeries(
        row=row,
        by_kind=gains,
        fixed_radiant=fixed_radiant,
        by_area=by_area,
        convective=sum(gains.values(), np.zeros_like(radiant)) - radiant,
        radiant=radiant,
        lighting_asked=asked,
    )
