"""Cases side by side: their arrays as the compiled kernel wants them, and what comes back by its names."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.year import HOURS
from eurythm.thermal import kernel, tables
from eurythm.thermal.air import moisture_counts
from eurythm.thermal.chains import Modes, modes_of
from eurythm.thermal.comfort import Limits
from eurythm.thermal.demands import GainSeries, UseSeries
from eurythm.thermal.elements import LOOKS_DOWN, OUTDOORS, UPRIGHT, ZONE
from eurythm.thermal.kernel import E, S, Y, Z
from eurythm.thermal.prepare import Arrays, ElementSpec

Series = NDArray[np.float64]
Ints = NDArray[np.uint64]
ANSWERS, PORTS = [int(E.g11), int(E.g12), int(E.g22)], [0, 1, 3]
"""Answers of a chain, and where they stand in `Modes.answers`; it answers alike both ways."""
GIVEN_ELEMENT = [c.name for c in tables.ELEMENT_COLUMNS if c.given]
GIVEN_ZONE = [c.name for c in tables.ZONE_COLUMNS if c.given]


@dataclass(frozen=True, eq=False)
class Record:
    """What a run decided in every step, run-in included (N steps).

    Attributes
    ----------
    films : (2, E, N) convective coefficients inside and outside, W/m²K, single precision
    zones : (7, Z, N) by `tables.RECORDED`
    joints : (P, N) exchange through each air path, W/K
    """

    films: NDArray[np.float32]
    zones: Series
    joints: Series


@dataclass(frozen=True, eq=False)
class Answer:
    """What the kernel leaves: demand by lane, system and hour, (L, systems, 6, 8760), zones by field, (Z, fields, L), and what was kept."""

    systems: Series
    zones: Series
    kept: Series
    sweeps: int
    record: Record | None = None

    def of(self, field: Any, lane: int = 0) -> Series:
        """Return a field of all zones in one lane, (Z,)."""
        return self.zones[:, int(field), lane]

    def by_system(self, lane: int = 0) -> Series:
        """Return the demand of each system by the hour in one lane, (systems, 6, 8760)."""
        one: Series = self.systems[lane]
        return one

    def drift(self, lane: int = 0) -> float:
        """What the building holds more at the end of the year than at its start, per heat that went through; the run-in's fault, and the year's own."""
        return float(self.of(Z.stored, lane).sum() / max(float(self.of(Z.throughput, lane).sum()), 1.0))

    def sound(self, lane: int = 0) -> NDArray[np.bool_]:
        """Whether all that each zone went through are numbers, (Z,): what is none stays none in its balance or in its moisture."""
        return np.isfinite(self.closure(lane)) & np.isfinite(self.of(Z.vapour, lane))

    def closure(self, lane: int = 0) -> Series:
        """Relative energy-balance error of each zone over the year, (Z,)."""
        error: Series = np.abs(self.of(Z.balance, lane) - self.of(Z.stored, lane)) / np.maximum(self.of(Z.throughput, lane), 1)
        return error


def run_lanes(cases: Sequence[Arrays], lanes: int, limits: Sequence[Limits] = (), keep: bool = False, record: bool = False) -> Answer:
    """Run up to `lanes` cases that can stand side by side; the last one fills what is left over.

    Without comfort limits no hours beyond them are counted.
    """
    filled = [cases[min(k, len(cases) - 1)] for k in range(lanes)]
    first = cases[0]
    specs, zones = first.elements, len(first.zone_ids)
    dt_s = 3600.0 / first.substeps
    chains = [_chains(spec, [c.elements[e] for c in filled], dt_s, first.refine) for e, spec in enumerate(specs)]
    fours = np.array([fours_for(of) for of in chains])
    own = np.array([any(c is not of[0] for c in of) for of in chains])
    alike = [coefficients_of(of[0], n) for of, n, apart in zip(chains, fours, own, strict=True) if not apart]
    apart = [np.stack([coefficients_of(c, n) for c in of], axis=-1) for of, n, apart in zip(chains, fours, own, strict=True) if apart]
    holds = np.concatenate([np.stack([held_by(c, n) for c in of], axis=-1) for of, n in zip(chains, fours, strict=True)])
    shared = np.array([shared_of(s, first.standard) for s in specs])
    offset = np.concatenate([[0], np.cumsum(fours * int(kernel.MODES))[:-1]])
    x = np.stack(
        [
            np.concatenate([modes_at_start(of[k], case.start_c[e], n) for e, (of, n) in enumerate(zip(chains, fours, strict=True))])
            for k, case in enumerate(filled)
        ],
        axis=-1,
    )
    p = np.zeros((len(specs), len(E), lanes))
    q = np.zeros((zones, len(Z), lanes))
    for k, case in enumerate(filled):
        _fill_elements(p[:, :, k], case, shared)
        _fill_zones(q[:, :, k], case, limits[min(k, len(limits) - 1)] if limits else None)
    for e, of in enumerate(chains):
        p[e, ANSWERS] = np.stack([c.answers for c in of], axis=-1)[PORTS] if own[e] else of[0].answers[PORTS][:, None]
    paths = np.array([[[path[2], path[3]] for path in c.paths] for c in filled]).reshape(lanes, len(first.paths), 2)
    steps = (HOURS + first.run_in_h) * first.substeps if record else 0
    made = Record(
        np.zeros((2, len(specs) if record else 0, steps), np.float32),
        np.zeros((len(tables.RECORDED), zones if record else 0, steps)),
        np.zeros((len(first.paths) if record else 0, steps)),
    )
    flat, kept = q.ravel(), np.zeros((len(tables.KEPT), zones if keep else 0, HOURS))
    systems = np.zeros((lanes, int(first.system.max()) + 1, len(Y), HOURS))
    lit, lit_of = light_rows(filled)
    zonal = whole(np.flatnonzero(first.element["kind"] == ZONE))
    asked = unit_series([(c.asked.of, c.asked.scales(c.heat_per_m3)) for c in filled])
    gains = unit_series([(c.asked.by, np.stack([c.asked.gain_scale] * 2)) for c in filled])
    sweeps = kernel.RUN[lanes](
        tables.Chains(_flat(alike), _flat(apart), x.ravel(), holds.ravel(), own, _chain_at(own, fours), whole(fours), whole(offset)),
        tables.Elements(
            shared.ravel(), p.ravel(),
            first.element["zone_in"], first.element["zone_out"], zonal, first.element["sun_row"],
        ),
        tables.Zones(flat, first.system),
        tables.Paths(
            whole([path[0] for path in first.paths]), whole([path[1] for path in first.paths]),
            np.ascontiguousarray(paths.transpose(1, 2, 0)).ravel(),
        ),
        tables.Weather(**first.weather),
        tables.Hours(lit, lit_of, *asked, *gains),
        tables.Left(systems.reshape(lanes, -1, HOURS), kept, made.films, made.zones, made.joints),
        np.empty(kernel.room_for(len(lit_of) // lanes, systems.shape[1] * len(Y), 2 * len(zonal), len(first.paths), lanes)),
        tables.Steps(
            bool(any((c.zone["open_wind"] > 0).any() for c in cases)),
            bool(any((c.zone["leak_wind"] + c.zone["leak_stack"] > 0).any() for c in cases)), keep or any(moisture_counts(c.zone) for c in cases),
            first.substeps, first.run_in_h,
        ),
    )  # fmt: skip
    return Answer(systems, flat.reshape(q.shape), kept, int(sweeps), made if record else None)


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


def _chains(spec: ElementSpec, of: Sequence[ElementSpec], dt_s: float, refine: int) -> list[Modes]:
    """The chain of an element in each lane; most lanes have the first one's."""
    first = modes_of(spec.layers, dt_s, refine)
    return [first if s.layers == spec.layers else modes_of(s.layers, dt_s, refine) for s in of]


def fours_for(chains: Sequence[Modes]) -> int:
    """How many fours of modes the longest of these chains takes."""
    return -(-max(len(c.decay) for c in chains) // int(kernel.MODES))


def padded(values: Series, fours: int) -> Series:
    """Return values of modes with zeros up to whole fours."""
    out = np.zeros(fours * int(kernel.MODES))
    out[: len(values)] = values
    return out


@lru_cache(maxsize=1024)
def held_by(chain: Modes, fours: int) -> Series:
    """What each mode holds, J/m², (4 n,)."""
    return padded(chain.holds, fours)


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


def _fill_elements(p: Series, case: Arrays, shared: Series) -> None:
    element = case.element
    outdoors = (element["kind"] == OUTDOORS) & (not case.standard)
    for name in GIVEN_ELEMENT:
        p[:, int(getattr(E, name))] = element[name]
    p[:, int(E.sees_sky)] = np.where(outdoors, element["emissivity"] * element["sky_view"], 0.0)
    p[:, int(E.hc_in)], p[:, int(E.hc_out)] = shared[:, int(S.low)], shared[:, int(S.low_out)]
    p[:, int(E.surf_out)] = [start[0] for start in case.start_c]
    p[:, int(E.surf_in)] = [start[-1] for start in case.start_c]


def _fill_zones(q: Series, case: Arrays, limits: Limits | None) -> None:
    for name in GIVEN_ZONE:
        q[:, int(getattr(Z, name))] = case.zone[name]
    q[:, int(Z.air)] = q[:, int(Z.star)] = 20.0
    q[:, int(Z.vapour)] = 0.006
    if limits is None:
        q[:, int(Z.warm_c)], q[:, int(Z.cold_c)] = 1e9, -1e9
    else:
        q[:, int(Z.warm_c)], q[:, int(Z.warm_adapts)], q[:, int(Z.cold_c)] = limits.warm_c, limits.adapts, limits.cold_c


def light_rows(cases: Sequence[Arrays]) -> tuple[Series, NDArray[np.uint64]]:
    """Absorbed sun by row, sun through glass by zone, and the swing of the outdoor year: each row once, (R, 8760), and which one each case has, (rows * L).

    Cases of a study share most of their light, and what is read sixteen times from one place is at hand.
    """
    places: dict[tuple[int, int], int] = {}
    rows: list[Series] = []

    def place(of: Series, row: Series, k: int = 0) -> int:
        found = places.setdefault((id(of), k), len(rows))
        if found == len(rows):
            rows.append(row)
        return found

    which = [
        [place(row, row) for row in c.sun_outside]
        + [place(c.solar, row, z) for z, row in enumerate(c.solar)]
        + [place(c.ground_k, c.ground_k)]
        for c in cases
    ]
    return np.stack(rows), whole(which).T.ravel()


def unit_series(of: Sequence[tuple[UseSeries | GainSeries, Series]]) -> tuple[Series, NDArray[np.uint64], Series]:
    """Return each set of unit series once, (sets, 8760, n Z), which set each lane has, and the lanes' scales, (Z * n * L)."""
    sets: dict[int, int] = {}
    made: list[Series] = []
    for series, _ in of:
        if id(series) not in sets:
            sets[id(series)] = len(made)
            made.append(series.stacked)
    scales = np.stack([scale.T for _, scale in of], axis=-1)
    return np.stack(made) if len(made) > 1 else made[0][None], whole([sets[id(series)] for series, _ in of]), scales.ravel()
