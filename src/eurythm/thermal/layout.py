"""Cases side by side: their arrays as the compiled kernel wants them, and what comes back by its names."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.year import HOURS
from eurythm.thermal import kernel
from eurythm.thermal.air import moisture_counts
from eurythm.thermal.chains import Modes, modes_of
from eurythm.thermal.comfort import Limits
from eurythm.thermal.elements import LOOKS_DOWN, OUTDOORS, UPRIGHT, ZONE
from eurythm.thermal.prepare import Arrays, ElementSpec

Series = NDArray[np.float64]
Ints = NDArray[np.uint64]
ANSWERS, PORTS = [int(kernel.G11), int(kernel.G12), int(kernel.G22)], [0, 1, 3]
"""Answers of a chain, and where they stand in `Modes.answers`; it answers alike both ways."""
ELEMENT_FIELDS = {
    "area": kernel.AREA, "fixed_h": kernel.FIXED_H, "fixed_e": kernel.FIXED_E, "share_in": kernel.SHARE_IN, "share_out": kernel.SHARE_OUT,
    "ground_h": kernel.GROUND_H, "ground_swing": kernel.GROUND_SWING, "radiant_in": kernel.HR_IN, "radiant_out": kernel.HR_OUT,
}  # fmt: skip
ZONE_FIELDS = {
    "capacity": kernel.CAPACITY, "bridge": kernel.BRIDGE, "recovery": kernel.RECOVERY, "economy": kernel.ECONOMY,
    "fan_k": kernel.FAN_K, "leak_wind": kernel.LEAK_WIND, "leak_stack": kernel.LEAK_STACK, "open_wind": kernel.OPEN_WIND,
    "open_stack": kernel.OPEN_STACK, "mixed": kernel.MIXED, "heat_most": kernel.HEAT_MOST, "cool_most": kernel.COOL_MOST,
    "by_air": kernel.BY_AIR, "short": kernel.SHORT, "vapour_mass": kernel.VAPOUR_MASS, "driest": kernel.DRIEST, "wettest": kernel.WETTEST,
    "coil_c": kernel.COIL_C, "coil_vapour": kernel.COIL_VAPOUR,
}  # fmt: skip


@dataclass(frozen=True, eq=False)
class Record:
    """What a run decided in every step, run-in included (N steps).

    Attributes
    ----------
    films : (2, E, N) convective coefficients inside and outside, W/m²K, single precision
    zones : (7, Z, N) by `kernel.RECORDED`
    joints : (P, N) exchange through each air path, W/K
    """

    films: NDArray[np.float32]
    zones: Series
    joints: Series


@dataclass(frozen=True, eq=False)
class Answer:
    """What the kernel leaves: the building by hour, (6, 8760, L), zones by field, (Z, fields, L), and what was kept."""

    building: Series
    zones: Series
    kept: Series
    sweeps: int
    record: Record | None = None

    def of(self, field: Any, lane: int = 0) -> Series:
        """Return a field of all zones in one lane, (Z,)."""
        return self.zones[:, int(field), lane]

    def hourly(self, field: Any, lane: int = 0) -> Series:
        """Return what the building does by the hour in one lane, (8760,)."""
        return np.ascontiguousarray(self.building[int(field), :, lane])

    def drift(self, lane: int = 0) -> float:
        """What the building holds more at the end of the year than at its start, per heat that went through; the run-in's fault, and the year's own."""
        return float(self.of(kernel.STORED, lane).sum() / max(float(self.of(kernel.THROUGHPUT, lane).sum()), 1.0))

    def closure(self, lane: int = 0) -> Series:
        """Relative energy-balance error of each zone over the year, (Z,)."""
        error: Series = np.abs(self.of(kernel.BALANCE, lane) - self.of(kernel.STORED, lane)) / np.maximum(
            self.of(kernel.THROUGHPUT, lane), 1
        )
        return error


def run_lanes(cases: Sequence[Arrays], lanes: int, limits: Sequence[Limits] = (), keep: bool = False, record: bool = False) -> Answer:
    """Run up to `lanes` cases that can stand side by side; the last one fills what is left over.

    Without comfort limits no hours beyond them are counted.
    """
    filled = [cases[min(k, len(cases) - 1)] for k in range(lanes)]
    first = cases[0]
    specs, zones = first.elements, len(first.zone_ids)
    dt_s = 3600.0 / first.substeps
    chains = [[modes_of(c.elements[e].layers, dt_s, c.refine) for c in filled] for e in range(len(specs))]
    fours = np.array([fours_for(of) for of in chains])
    own = np.array([any(c is not of[0] for c in of) for of in chains])
    alike = [coefficients_of(of[0], n) for of, n, apart in zip(chains, fours, own, strict=True) if not apart]
    apart = [np.stack([coefficients_of(c, n) for c in of], axis=-1) for of, n, apart in zip(chains, fours, own, strict=True) if apart]
    holds = np.concatenate([np.stack([padded(c.holds, n) for c in of], axis=-1) for of, n in zip(chains, fours, strict=True)])
    offset = np.concatenate([[0], np.cumsum(fours * int(kernel.MODES))[:-1]])
    x = np.stack(
        [
            np.concatenate([modes_at_start(of[k], case.start_c[e], n) for e, (of, n) in enumerate(zip(chains, fours, strict=True))])
            for k, case in enumerate(filled)
        ],
        axis=-1,
    )
    p = np.zeros((len(specs), int(kernel.FIELDS), lanes))
    q = np.zeros((zones, int(kernel.ZONE_FIELDS), lanes))
    for k, case in enumerate(filled):
        _fill_elements(p[:, :, k], case)
        for e, of in enumerate(chains):
            p[e, ANSWERS, k] = of[k].answers[PORTS]
        _fill_zones(q[:, :, k], case, limits[min(k, len(limits) - 1)] if limits else None)
    asked, which, scales = _asked(filled)
    weather = first.weather
    paths = np.array([[[path[2], path[3]] for path in c.paths] for c in filled]).reshape(lanes, len(first.paths), 2)
    steps = (HOURS + first.run_in_h) * first.substeps if record else 0
    made = Record(
        np.zeros((2, len(specs) if record else 0, steps), np.float32),
        np.zeros((len(kernel.RECORDED), zones if record else 0, steps)),
        np.zeros((len(first.paths) if record else 0, steps)),
    )
    flat, kept = q.ravel(), np.zeros((len(kernel.KEPT), zones if keep else 0, HOURS))
    building = np.zeros(int(kernel.BUILDING) * HOURS * lanes)
    lit, zonal = _lit(filled), whole(np.flatnonzero(first.element["kind"] == ZONE))
    sweeps = kernel.RUN[lanes](
        _flat(alike), _flat(apart), x.ravel(),
        np.array([shared_of(s, first.standard) for s in specs]).ravel(), p.ravel(), flat, holds.ravel(),
        own, _chain_at(own, fours), whole(fours), whole(offset),
        first.element["zone_in"], first.element["zone_out"], zonal, first.element["sun_row"],
        whole([path[0] for path in first.paths]), whole([path[1] for path in first.paths]), np.ascontiguousarray(paths.transpose(1, 2, 0)).ravel(),
        *(weather[name] for name in ("outdoor_c", "wind_h", "wind_squared", "sky_h", "sky_c", "vapour_out", "pressure_pa", "adaptive_c", "shape")),
        lit, asked, which, scales, kept, made.films, made.zones, made.joints,
        building, np.empty(kernel.room_for(lit.shape[1], 2 * len(zonal), len(first.paths), lanes)),
        bool(any((c.zone["open_wind"] > 0).any() for c in cases)), keep or any(moisture_counts(c.zone) for c in cases),
        first.substeps, first.run_in_h,
    )  # fmt: skip
    return Answer(building.reshape(int(kernel.BUILDING), HOURS, lanes), flat.reshape(q.shape), kept, int(sweeps), made if record else None)


def _flat(parts: Sequence[Series]) -> Series:
    return np.concatenate([part.ravel() for part in parts]) if parts else np.zeros(0)


def _chain_at(own: NDArray[np.bool_], fours: Ints) -> Ints:
    """Where each element's coefficients begin, in rows, among those that are alike in all lanes or those that are not."""
    sizes = fours * int(kernel.MODES * kernel.MODE)
    at = np.zeros(len(own), dtype=np.uint64)
    for kind in (False, True):
        at[own == kind] = np.cumsum(np.concatenate([[0], sizes[own == kind]]))[:-1]
    return at


def whole(values: Any) -> NDArray[np.uint64]:
    """Return counters as the kernels take them."""
    return np.asarray(values, dtype=np.uint64)


def fours_for(chains: Sequence[Modes]) -> int:
    """How many fours of modes the longest of these chains takes."""
    return -(-max(len(c.decay) for c in chains) // int(kernel.MODES))


def padded(values: Series, fours: int) -> Series:
    """Return values of modes with zeros up to whole fours."""
    out = np.zeros(fours * int(kernel.MODES))
    out[: len(values)] = values
    return out


@lru_cache(maxsize=1024)
def coefficients_of(chain: Modes, fours: int) -> Series:
    """Decay and both fluxes' factors of each mode, as the kernels take them, (4 n, 3)."""
    return np.column_stack([padded(values, fours) for values in (chain.decay, chain.by_out, chain.by_in)])


def modes_at_start(chain: Modes, start_c: Series, fours: int) -> Series:
    """Modes one step before the start, without fluxes, so that the first step begins at the node temperatures given."""
    return _at_start(chain, start_c.tobytes(), fours)


@lru_cache(maxsize=1024)
def _at_start(chain: Modes, start_c: bytes, fours: int) -> Series:
    return padded(chain.project @ np.frombuffer(start_c) / chain.decay, fours)


def shared_of(spec: ElementSpec, standard: bool) -> list[float]:
    """What all lanes have alike of an element, in the order of `kernel`."""
    between = spec.kind == ZONE
    inside = _film(spec.side_in, spec.standard_in, standard)
    outside = _film(spec.side_out, spec.standard_out, standard) if between else (0.0, 0.0, 0.0)
    open_air = spec.kind == OUTDOORS
    wind, still = float(open_air and not standard), 25.0 if open_air and standard else 0.0
    emissivity = spec.emissivity if open_air and not standard else 0.0
    return [float(between), *inside, *outside, wind, still, emissivity]


def _film(side: int, standard_h: float, standard: bool) -> tuple[float, float, float]:
    """Least coefficient, span, and the sign of its ramp; see `elements.film`."""
    if standard:
        return standard_h, 0.0, 0.0
    if side == UPRIGHT:
        return 2.5, 0.0, 0.0
    return 0.7, 4.3, -kernel.PER_BAND if side == LOOKS_DOWN else kernel.PER_BAND


def _fill_elements(p: Series, case: Arrays) -> None:
    element = case.element
    outdoors = (element["kind"] == OUTDOORS) & (not case.standard)
    for name, field in ELEMENT_FIELDS.items():
        p[:, int(field)] = element[name]
    p[:, int(kernel.VIEW)] = np.where(outdoors, element["emissivity"] * element["sky_view"], 0.0)
    films = np.array([shared_of(s, case.standard) for s in case.elements])
    p[:, int(kernel.HC_IN)], p[:, int(kernel.HC_OUT)] = films[:, int(kernel.LOW)], films[:, int(kernel.LOW_OUT)]
    p[:, int(kernel.SURF_OUT)] = [start[0] for start in case.start_c]
    p[:, int(kernel.SURF_IN)] = [start[-1] for start in case.start_c]


def _fill_zones(q: Series, case: Arrays, limits: Limits | None) -> None:
    for name, field in ZONE_FIELDS.items():
        q[:, int(field)] = case.zone[name]
    q[:, int(kernel.AIR)] = q[:, int(kernel.STAR)] = 20.0
    q[:, int(kernel.VAPOUR)] = 0.006
    if limits is None:
        q[:, int(kernel.WARM_C)], q[:, int(kernel.COLD_C)] = 1e9, -1e9
    else:
        q[:, int(kernel.WARM_C)], q[:, int(kernel.WARM_ADAPTS)], q[:, int(kernel.COLD_C)] = limits.warm_c, limits.adapts, limits.cold_c


def _lit(cases: list[Arrays]) -> Series:
    """Absorbed sun by row, sun through glass by zone, and the swing of the outdoor year: (lanes, rows + zones + 1, 8760)."""
    rows, zones = len(cases[0].sun_outside), len(cases[0].zone_ids)
    lit = np.empty((len(cases), rows + zones + 1, HOURS))
    for k, case in enumerate(cases):
        lit[k, :rows] = case.sun_outside
        lit[k, rows:-1] = case.solar
        lit[k, -1] = case.ground_k
    return lit


def _asked(cases: list[Arrays]) -> tuple[Series, NDArray[np.uint64], Series]:
    """What use asks: each set of unit series once, (sets, 8760, 10 Z), which set each lane has, and its scales, (Z * 10 * L)."""
    sets: dict[int, int] = {}
    made: list[Series] = []
    which: list[int] = []
    for case in cases:
        of = case.asked.of
        if id(of) not in sets:
            sets[id(of)] = len(made)
            made.append(of.stacked)
        which.append(sets[id(of)])
    scales = np.stack([case.asked.scales(case.heat_per_m3).T for case in cases], axis=-1)
    return np.stack(made) if len(made) > 1 else made[0][None], whole(which), scales.ravel()
