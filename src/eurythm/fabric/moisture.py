"""Moisture in a construction, month by month: mould at the surface, condensate within (ISO 13788).

One-dimensional and steady in each month, as in the standard: no capillary flow, no air leakage, no built-in moisture. What
interrupts a layer is left out; the section through the layers themselves is followed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from eurythm.fabric.opaque import FLOW, air_resistance, films, within
from eurythm.model.library import Construction, Element, Layer

Series = NDArray[np.float64]
Humidity = Literal["1", "2", "3", "4", "5"]

AIR_PERMEABILITY = 2.0e-10
"""Water vapour permeability of still air, kg/(m·s·Pa) (ISO 13788, 4.2; unverified)."""
EXCESS_PA: dict[Humidity, float] = {"1": 270.0, "2": 540.0, "3": 810.0, "4": 1080.0, "5": 1360.0}
"""Vapour pressure inside above outside at 0 °C and below, upper end of each class (ISO 13788, annex A; unverified)."""
NO_EXCESS_C = 20.0
SURFACE_FILM = 0.25
"""Inside film for the mould criterion, m2K/W (ISO 13788, 4.4.1; unverified)."""
MOULD_HUMIDITY = 0.8
FINEST_R = 0.25
"""Layers that resist more are cut, so that the temperature line is followed, m2K/W (ISO 13788, 6.1; unverified)."""
DAYS = np.array([31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31])
AIR_LAYER_SD_M = 0.01
"""Diffusion-equivalent thickness of a still air layer (ISO 13788, 5.3; unverified)."""
STARTS_KG = 1e-9


@dataclass(frozen=True)
class Climate:
    """Twelve monthly means: outside and inside temperature, °C, and vapour pressure, Pa."""

    outside_c: Series
    outside_pa: Series
    inside_c: Series
    inside_pa: Series


@dataclass(frozen=True)
class Course:
    """Temperature and vapour pressure through a construction in one month, outside to inside.

    Attributes
    ----------
    x : where the points lie, m from the outside
    sd : the same in diffusion-equivalent thickness, m
    temperature_c, saturation_pa, vapour_pa : at the points
    """

    x: Series
    sd: Series
    temperature_c: Series
    saturation_pa: Series
    vapour_pa: Series


@dataclass(frozen=True)
class Moisture:
    """What a year of moisture does.

    Attributes
    ----------
    factor : f_Rsi of the section, with the film for mould
    factor_needed : the highest that a month asks for, 0 where none asks for any
    critical_month : 0 to 11
    condensate_kg_m2 : held at the end of each month, all places together, (12,)
    places : where it condenses: x in m from the outside, and the most that is held there
    dries : nothing is left at the end of the year
    coldest : the course in the coldest month
    unknown : layers without a vapour resistance, which are taken as open as air
    """

    factor: float
    factor_needed: float
    critical_month: int
    condensate_kg_m2: Series
    places: tuple[tuple[float, float], ...]
    dries: bool
    coldest: Course
    unknown: tuple[str, ...] = field(default=())

    @property
    def mould(self) -> bool:
        """Whether the inner surface is humid enough for mould in some month."""
        return self.factor < self.factor_needed


def saturation_pa(celsius: Series) -> Series:
    """Saturation vapour pressure, Pa (ISO 13788, annex E: over water from 0 °C, over ice below; unverified)."""
    warm = 610.5 * np.exp(17.269 * celsius / (237.3 + celsius))
    cold = 610.5 * np.exp(21.875 * celsius / (265.5 + celsius))
    out: Series = np.where(celsius >= 0, warm, cold)
    return out


def saturated_at_c(pascal: Series) -> Series:
    """Temperature at which a vapour pressure saturates, °C; the inverse of `saturation_pa`."""
    ratio = np.log(pascal / 610.5)
    out: Series = np.where(pascal >= 610.5, 237.3 * ratio / (17.269 - ratio), 265.5 * ratio / (21.875 - ratio))
    return out


def room_climate(outside_c: Series, outside_pa: Series, inside_c: float, humidity: Humidity) -> Climate:
    """Return the twelve months inside and outside for a humidity class, the vapour never above saturation."""
    share = np.clip((NO_EXCESS_C - outside_c) / NO_EXCESS_C, 0.0, 1.0)
    inside = np.full(12, inside_c)
    vapour = np.minimum(outside_pa + EXCESS_PA[humidity] * share, saturation_pa(inside))
    return Climate(np.asarray(outside_c, dtype=float), np.minimum(outside_pa, saturation_pa(outside_c)), inside, vapour)


def moisture(construction: Construction, element: Element, climate: Climate) -> Moisture:
    """Follow a construction by layers through the year (ISO 13788, clauses 5 and 6).

    The year begins in the first month that condenses after one that does not, and goes round twice; what is held then at
    its end stays.
    """
    layers = within(construction.layers)
    outside, inside = films(construction, element)
    x, sd, resistance = _points(layers, element, sum(la.thickness_m for la in construction.layers) - sum(la.thickness_m for la in layers))
    total = outside + resistance[-1] + inside
    share = (outside + resistance) / total
    temperature = climate.outside_c[:, None] + share * (climate.inside_c - climate.outside_c)[:, None]
    saturation = saturation_pa(temperature)
    held_by_month, most, vapour = _year(sd, saturation, climate)
    factor, needed, critical = _surface(outside + resistance[-1] + SURFACE_FILM, climate)
    coldest = int(np.argmin(climate.outside_c))
    places = tuple((float(x[i]), float(most[i])) for i in np.flatnonzero(most > 1e-6))
    return Moisture(
        factor=factor,
        factor_needed=needed,
        critical_month=critical,
        condensate_kg_m2=held_by_month,
        places=places,
        dries=bool(held_by_month.min() < 1e-6),
        coldest=Course(x, sd, temperature[coldest], saturation[coldest], vapour[coldest]),
        unknown=tuple(dict.fromkeys(la.name for la in layers if la.air == "none" and la.vapour_resistance is None)),
    )


def _points(layers: Sequence[Layer], element: Element, begins: float) -> tuple[Series, Series, Series]:
    """Points at the layers' borders and within thick resistances: place m, sd m, resistance from the outer surface m2K/W."""
    x, sd, r = [begins], [0.0], [0.0]
    for layer in layers:
        if layer.air != "none":
            own, diffusion = air_resistance(layer.thickness_m, FLOW[element]), AIR_LAYER_SD_M
        else:
            assert layer.conductivity is not None
            own, diffusion = layer.thickness_m / layer.conductivity, layer.thickness_m * (layer.vapour_resistance or 1.0)
        cuts = max(1, int(np.ceil(own / FINEST_R - 1e-9)))
        for _ in range(cuts):
            x.append(x[-1] + layer.thickness_m / cuts)
            sd.append(sd[-1] + diffusion / cuts)
            r.append(r[-1] + own / cuts)
    return np.array(x), np.array(sd), np.array(r)


def _surface(total: float, climate: Climate) -> tuple[float, float, int]:
    """The surface's temperature factor, the highest one needed against mould, and its month."""
    apart = climate.inside_c - climate.outside_c
    least = saturated_at_c(climate.inside_pa / MOULD_HUMIDITY)
    cold = apart > 0.5
    needed = np.where(cold, (least - climate.outside_c) / np.where(cold, apart, 1.0), 0.0)
    critical = int(np.argmax(needed))
    return 1 - SURFACE_FILM / total, float(max(needed[critical], 0.0)), critical


def _year(sd: Series, saturation: Series, climate: Climate) -> tuple[Series, Series, Series]:
    """Condensate held at the end of each month, the most at each point, kg/m2, and the vapour line of each month, Pa."""
    n = len(sd)
    wet_of = [bool(_gains(sd, *_line(sd, saturation[m], climate, m, np.zeros(n, dtype=bool))).max() > 0) for m in range(12)]
    begin = next((m for m in range(12) if wet_of[m] and not wet_of[m - 1]), 0)
    held, most = np.zeros(n), np.zeros(n)
    by_month, lines = np.zeros(12), np.zeros((12, n))
    for turn in range(24):
        month = (begin + turn) % 12
        held, lines[month] = _month(sd, saturation[month], climate, month, held)
        by_month[month] = held.sum()
        most = np.maximum(most, held)
    return by_month, most, lines


def _month(sd: Series, saturation: Series, climate: Climate, month: int, held: Series) -> tuple[Series, Series]:
    """One month from what is held at its start; where a place dries within it, the rest of the month goes on without it."""
    left = float(DAYS[month]) * 86400.0
    held = held.copy()
    first: Series | None = None
    for _ in range(4 * len(sd)):
        line, touched = _line(sd, saturation, climate, month, held > STARTS_KG)
        first = line if first is None else first
        gains = _gains(sd, line, touched)
        loses = np.flatnonzero((gains < 0) & (held > STARTS_KG))
        spans = held[loses] / -gains[loses]
        step = min(left, float(spans.min())) if len(loses) else left
        held = held + gains * step
        held[held <= STARTS_KG] = 0.0
        left -= step
        if left <= 1.0:
            break
    assert first is not None
    return held, first


def _line(sd: Series, saturation: Series, climate: Climate, month: int, wet: NDArray[np.bool_]) -> tuple[Series, NDArray[np.bool_]]:
    """The vapour line, a string drawn tight below saturation and held where it is wet; and the points at which it is held."""
    at = saturation.copy()
    at[0] = min(climate.outside_pa[month], saturation[0])
    at[-1] = min(climate.inside_pa[month], saturation[-1])
    fixed = wet.copy()
    fixed[[0, -1]] = True
    touched = np.zeros(len(sd), dtype=bool)
    ends = np.flatnonzero(fixed)
    for a, b in pairwise(ends):
        touched[_below(sd, at, int(a), int(b))] = True
    line: Series = np.interp(sd, sd[touched], at[touched]) if sd[-1] > 0 else at
    touched[[0, -1]] = False
    return line, touched


def _below(sd: Series, at: Series, first: int, last: int) -> list[int]:
    """The lower convex hull of the points from one to another."""
    hull: list[int] = []
    for i in range(first, last + 1):
        while len(hull) >= 2:
            a, b = hull[-2], hull[-1]
            if (at[b] - at[a]) * (sd[i] - sd[a]) >= (at[i] - at[a]) * (sd[b] - sd[a]):
                hull.pop()
            else:
                break
        hull.append(i)
    return hull


def _gains(sd: Series, line: Series, touched: NDArray[np.bool_]) -> Series:
    """What condenses (positive) or dries at each held point, kg/m2s."""
    gains = np.zeros(len(sd))
    for i in np.flatnonzero(touched):
        before, after = sd[i] - sd[i - 1], sd[i + 1] - sd[i]
        into = (line[i + 1] - line[i]) / max(after, 1e-12)
        out = (line[i] - line[i - 1]) / max(before, 1e-12)
        gains[i] = AIR_PERMEABILITY * (into - out)
    return gains
