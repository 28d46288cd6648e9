"""Many cases side by side: which may share a batch, how their arrays are laid out, and what comes of them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Sequence
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.year import HOURS
from eurythm.thermal import batch_kernel as lane
from eurythm.thermal.balance import Course, balance, checked, course_of
from eurythm.thermal.kernel import GROUND, LOOKS_DOWN, OUTDOORS, RADIANT_H, UPRIGHT, ZONE
from eurythm.thermal.prepare import FILM_REF, Arrays, ElementSpec, chain_length, factored

Series = NDArray[np.float64]
Indices = NDArray[np.int64]
ANSWERS = [int(lane.G11), int(lane.G12), int(lane.G21), int(lane.G22)]
FEW = 2
"""Up to this many cases go one by one: a batch would run mostly empty lanes."""
MOST_BYTES = 150_000_000
"""Of radiation in one batch; large buildings go in narrower ones."""


def batch_key(arrays: Arrays) -> Hashable:
    """Return what two cases must have in common to share a batch: elements, nodes of each, zones, weather, steps."""
    named = arrays.named
    return (
        arrays.climate,
        named["substeps"],
        named["run_in_h"],
        named["standard"],
        len(arrays.zone_ids),
        tuple(
            (s.kind, s.zone_in, s.zone_out, s.side_in, s.side_out, chain_length(s.layers), s.emissivity, s.sun is not None)
            for s in arrays.elements
        ),
    )


def balance_many(cases: Sequence[Arrays], too_warm_c: float, too_cold_c: float) -> list[Course]:
    """Run the years of many cases; those that can stand side by side do. The order is kept.

    Raises
    ------
    EurythmError
        ``not-finite``, naming the zone, where a case gives no number.
    """
    groups: dict[Hashable, list[int]] = defaultdict(list)
    for index, arrays in enumerate(cases):
        groups[batch_key(arrays)].append(index)
    courses: dict[int, Course] = {}
    for members in groups.values():
        wide = _lanes_for(cases[members[0]], len(members))
        for start in range(0, len(members), wide):
            lot = members[start : start + wide]
            if len(lot) <= FEW:
                made = [course_of(cases[i], balance(cases[i]), too_warm_c, too_cold_c) for i in lot]
            else:
                made = _side_by_side([cases[i] for i in lot], too_warm_c, too_cold_c)
            courses |= dict(zip(lot, made, strict=True))
    return [courses[i] for i in range(len(cases))]


def _lanes_for(arrays: Arrays, count: int) -> int:
    narrow, wide = lane.LANES
    rows = len(arrays.named["sun_outside"]) + len(arrays.zone_ids) + 1
    return narrow if count <= narrow or rows * HOURS * wide * 8 > MOST_BYTES else wide


@lru_cache(maxsize=4096)
def _coefficients(layers: tuple[tuple[float, float], ...], dt_s: float) -> tuple[Series, Series]:
    """A chain's coefficients as the lanes use them, (n, 5), and its capacities, (n,)."""
    capacity, lower, pivot, upper, to_outer, to_inner = factored(layers, dt_s)
    low = np.concatenate([[0.0], pivot[1:] * lower[1:] / pivot[:-1]])
    return np.column_stack([pivot * capacity / dt_s, low, pivot * upper, to_outer, to_inner]), capacity


def _side_by_side(cases: list[Arrays], too_warm_c: float, too_cold_c: float) -> list[Course]:
    lanes = next(n for n in lane.LANES if n >= len(cases))
    filled = [cases[min(k, len(cases) - 1)] for k in range(lanes)]  # the last case fills what is left over
    first = cases[0]
    named, specs, zones = first.named, first.elements, len(first.zone_ids)
    chains = [[_coefficients(c.elements[e].layers, 3600.0 / named["substeps"]) for c in filled] for e in range(len(specs))]
    rows = np.array([len(of[0][1]) for of in chains])
    own = np.array([any(c is not of[0] for c in of) for of in chains])
    coefficients = [np.stack([c[0] for c in of], axis=-1) if apart else of[0][0] for of, apart in zip(chains, own, strict=True)]
    chain_at = np.concatenate([[0], np.cumsum([c.size for c in coefficients])[:-1]])
    capacity = np.concatenate([np.stack([c[1] for c in of], axis=-1) for of in chains])
    offset = np.concatenate([[0], np.cumsum(rows)[:-1]])
    node = np.concatenate([np.arange(n) for n in rows])
    element = np.repeat(np.arange(len(specs)), rows)
    x = np.empty((len(node), lanes))
    p = np.zeros((len(specs), int(lane.FIELDS), lanes))
    q = np.zeros((zones, int(lane.ZONE_FIELDS), lanes))
    for k, case in enumerate(filled):
        x[:, k] = case.named["start_c"][node, element]
        _fill_elements(p[:, :, k], case, x[:, k], offset, rows)
        for e, of in enumerate(chains):
            answers = of[k][0]
            p[e, ANSWERS, k] = answers[0, 3], answers[0, 4], answers[-1, 3], answers[-1, 4]
        _fill_zones(q[:, :, k], case, too_warm_c, too_cold_c)
    asked, which = _asked(filled)
    shared = np.array([_shared(s, bool(named["standard"])) for s in specs])
    flat = q.ravel()
    heating, cooling, _ = lane.RUN[lanes](
        np.concatenate([c.ravel() for c in coefficients]), x.ravel(), shared.ravel(), p.ravel(), flat, capacity.ravel(),
        own, chain_at.astype(np.uint64), rows.astype(np.uint64), offset.astype(np.uint64), named["zone_in"], named["zone_out"], np.flatnonzero(named["kind"] == ZONE).astype(np.uint64), named["sun_row"],
        named["outdoor_c"], named["wind_h"], named["sky_h"], named["sky_c"], named["shape"], _lit(filled), asked, which,
        named["short"], named["substeps"], named["run_in_h"],
    )  # fmt: skip
    q = flat.reshape(q.shape)
    heat, cold = heating.reshape(HOURS, lanes), cooling.reshape(HOURS, lanes)
    error = np.abs(q[:, int(lane.BALANCE)] - q[:, int(lane.STORED)]) / np.maximum(q[:, int(lane.THROUGHPUT)], 1.0)
    return [
        checked(
            Course(
                heating_w=np.ascontiguousarray(heat[:, k]),
                cooling_w=np.ascontiguousarray(cold[:, k]),
                too_warm_h=q[:, int(lane.WARM_H), k].copy(),
                too_cold_h=q[:, int(lane.COLD_H), k].copy(),
                closure=error[:, k].copy(),
            ),
            case,
        )
        for k, case in enumerate(cases)
    ]


def _shared(spec: ElementSpec, standard: bool) -> list[float]:
    """What all lanes have alike, in the order of `batch_kernel`."""
    hr = spec.emissivity * RADIANT_H
    between = spec.kind == ZONE
    inside = _film(spec.side_in, spec.standard_in, standard)
    outside = _film(spec.side_out, spec.standard_out, standard) if between else (0.0, 0.0, 0.0)
    open_air = spec.kind == OUTDOORS
    wind, fixed = float(open_air and not standard), 25.0 if open_air and standard else 0.0
    emissivity = spec.emissivity if open_air and not standard else 0.0
    return [hr, hr if between else 0.0, *inside, *outside, wind, fixed, emissivity]


def _film(side: int, standard_h: float, standard: bool) -> tuple[float, float, float]:
    """Least coefficient, span, and the sign of its ramp; see `kernel.convection`."""
    if standard:
        return standard_h, 0.0, 0.0
    if side == UPRIGHT:
        return 2.5, 0.0, 0.0
    return 0.7, 4.3, -lane.PER_BAND if side == LOOKS_DOWN else lane.PER_BAND


def _fill_elements(p: Series, case: Arrays, start: Series, offset: Indices, rows: Indices) -> None:
    named = case.named
    outdoors = (named["kind"] == OUTDOORS) & (not named["standard"])
    p[:, int(lane.AREA)] = named["area"]
    p[:, int(lane.VIEW)] = np.where(outdoors, named["emissivity"] * named["sky_view"], 0.0)
    p[:, int(lane.GROUND_H)] = np.where(named["kind"] == GROUND, named["ground_h"], 0.0)
    p[:, int(lane.SHARE_IN)] = named["share_in"]
    p[:, int(lane.SHARE_OUT)] = np.where(named["kind"] == ZONE, named["share_out"], 0.0)
    p[:, int(lane.SURF_OUT)] = start[offset]
    p[:, int(lane.SURF_IN)] = start[offset + rows - 1]


def _fill_zones(q: Series, case: Arrays, too_warm_c: float, too_cold_c: float) -> None:
    named = case.named
    q[:, int(lane.CAPACITY)] = named["air_capacity"]
    q[:, int(lane.RECOVERY)] = named["recovery"]
    q[:, int(lane.AIR)] = q[:, int(lane.STAR)] = 20.0
    q[:, int(lane.WARM_C)] = too_warm_c
    q[:, int(lane.COLD_C)] = too_cold_c


def _lit(cases: list[Arrays]) -> Series:
    """Absorbed sun by row, sun through glass by zone, and the ground's temperature: (lanes, rows + zones + 1, 8760)."""
    rows, zones = len(cases[0].named["sun_outside"]), len(cases[0].zone_ids)
    lit = np.empty((len(cases), rows + zones + 1, HOURS))
    for k, case in enumerate(cases):
        lit[k, :rows] = case.named["sun_outside"]
        lit[k, rows:-1] = case.named["solar"]
        lit[k, -1] = case.named["ground_c"]
    return lit


def _asked(cases: list[Arrays]) -> tuple[Series, NDArray[np.uint64]]:
    """What use asks: each set of series once, (sets, 8760, 7 Z), and which set each lane has."""
    sets: dict[int, int] = {}
    which: list[int] = []
    made: list[Series] = []
    for case in cases:
        if id(case.asked) not in sets:
            sets[id(case.asked)] = len(made)
            made.append(_series(case))
        which.append(sets[id(case.asked)])
    return np.stack(made), np.array(which, dtype=np.uint64)


def _series(case: Arrays) -> Series:
    asked = case.asked
    occupied: Any = np.stack([z.occupied for z in case.zones]).astype(float)
    parts = (asked.convective, asked.radiant, case.named["fresh"], asked.heat_c, asked.cool_c, asked.bypass_c, occupied, case.named["leak"])
    return np.ascontiguousarray(np.concatenate(parts).T)


assert lane.FILM_REF == FILM_REF, "both kernels take the same reference film"
