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
from eurythm.thermal.lanes import address_of
from eurythm.thermal.prepare import Arrays, ElementSpec

Series = NDArray[np.float64]
Ints = NDArray[np.uint64]
ANSWERS, PORTS = [int(E.g11), int(E.g12), int(E.g22)], [0, 1, 3]
"""Answers of a chain, and where they stand in `Modes.answers`; it answers alike both ways."""
SURFACES = [int(E.surf_out), int(E.surf_in)]
GIVEN_ELEMENT = {c.name: i for i, c in enumerate(tables.ELEMENT_COLUMNS) if c.given}
GIVEN_ZONE = {c.name: i for i, c in enumerate(tables.ZONE_COLUMNS) if c.given}


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
    """What the kernel leaves: demand by lane, system and hour, (L, systems, 8, 8760), zones by field, (Z, fields, L), and what was kept."""

    systems: Series
    zones: Series
    kept: Series
    sweeps: int
    record: Record | None = None

    def of(self, field: Any, lane: int = 0) -> Series:
        """Return a field of all zones in one lane, (Z,)."""
        return self.zones[:, int(field), lane]

    def by_system(self, lane: int = 0) -> Series:
        """Return the demand of each system by the hour in one lane, (systems, 8, 8760)."""
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
    shared = np.array([shared_of(s, first.standard) for s in specs])
    offset = np.concatenate([[0], np.cumsum(fours * int(kernel.MODES))[:-1]])
    p = _element_table(filled, shared)
    q = _zone_table(filled, [limits[min(k, len(limits) - 1)] for k in range(lanes)] if limits else [])
    x, holds = _begin(chains, own, fours, offset, filled, p)
    paths = np.array([[[path[2], path[3]] for path in c.paths] for c in filled]).reshape(lanes, len(first.paths), 2)
    steps = (first.hours + first.run_in_h) * first.substeps if record else 0
    made = Record(
        np.zeros((2, len(specs) if record else 0, steps), np.float32),
        np.zeros((len(tables.RECORDED), zones if record else 0, steps)),
        np.zeros((len(first.paths) if record else 0, steps)),
    )
    kept = np.zeros((len(tables.KEPT), zones if keep else 0, HOURS))
    systems = np.zeros((lanes, int(first.system.max()) + 1, len(Y), HOURS))
    lit_at = light_of(filled)
    zonal = whole(np.flatnonzero(first.element["kind"] == ZONE))
    asked = unit_series([c.asked.of for c in filled], [c.asked.scales(c.heat_per_m3) for c in filled])
    gains = unit_series([c.asked.by for c in filled], [np.stack([c.asked.gain_scale] * 2) for c in filled])
    sweeps = kernel.RUN[lanes](
        tables.Chains(_flat(alike), _flat(apart), x.ravel(), holds.ravel(), own, _chain_at(own, fours), whole(fours), whole(offset)),
        tables.Elements(
            shared.ravel(), p.ravel(),
            first.element["zone_in"], first.element["zone_out"], zonal, first.element["sun_row"],
        ),
        tables.Zones(q.ravel(), first.system),
        tables.Paths(
            whole([path[0] for path in first.paths]), whole([path[1] for path in first.paths]),
            np.ascontiguousarray(paths.transpose(1, 2, 0)).ravel(),
        ),
        tables.Weather(**first.weather),
        tables.Hours(lit_at, asked.at, asked.row, asked.scales, gains.at, gains.row, gains.scales),
        tables.Left(systems.reshape(lanes, -1, HOURS), kept, made.films, made.zones, made.joints),
        np.empty(kernel.room_for(len(lit_at) // lanes, systems.shape[1] * len(Y), 2 * len(zonal), len(first.paths), lanes)),
        tables.Steps(
            bool(any((c.zone["open_wind"] > 0).any() for c in cases)),
            bool(any((c.zone["leak_wind"] + c.zone["leak_stack"] > 0).any() for c in cases)), keep or any(moisture_counts(c.zone) for c in cases),
            first.substeps, first.run_in_h, first.first_h, first.hours,
        ),
    )  # fmt: skip
    return Answer(systems, q, kept, int(sweeps), made if record else None)


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
    """Return values of modes, (n, ...), with zeros up to whole fours."""
    out = np.zeros((fours * int(kernel.MODES), *values.shape[1:]))
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
    """Modes one step before the start, without fluxes, so that the first step begins at the node temperatures given, (nodes,) or (nodes, L)."""
    return padded(((chain.project @ start_c).T / chain.decay).T, fours)


def _begin(
    chains: Sequence[list[Modes]], own: NDArray[np.bool_], fours: Ints, offset: Ints, cases: Sequence[Arrays], p: Series
) -> tuple[Series, Series]:
    """Fill in of each chain how it answers and what its surfaces have at the start; returns its modes then, and what they hold, by lane."""
    x, holds = np.empty((2, int(fours.sum() * kernel.MODES), len(cases)))
    for e, of in enumerate(chains):
        modes = slice(int(offset[e]), int(offset[e]) + int(fours[e] * kernel.MODES))
        starts = [case.start_c[e] for case in cases]
        if own[e]:
            begins = [(slice(k, k + 1), chain, starts[k][:, None]) for k, chain in enumerate(of)]
        else:
            begins = [(slice(None), of[0], np.array(starts).T)]
        for lanes, chain, start in begins:
            x[modes, lanes] = modes_at_start(chain, start, fours[e])
            holds[modes, lanes] = held_by(chain, fours[e])[:, None]
            p[e, ANSWERS, lanes] = chain.answers[PORTS][:, None]
            p[e, SURFACES, lanes] = start[[0, -1]]
    return x, holds


def shared_of(spec: ElementSpec, standard: bool) -> list[float]:
    """What all lanes have alike of an element, in the order of `kernel`."""
    between = spec.kind == ZONE
    inside = _film(spec.side_in, spec.standard_in, standard)
    outside = _film(spec.side_out, spec.standard_out, standard) if between else (0.0, 0.0, 0.0)
    open_air = spec.kind == OUTDOORS
    wind, still = float(open_air and not standard), 25.0 if open_air and standard else 0.0
    emissivity = spec.emissivity if open_air and not standard else 0.0
    return [float(between), float(open_air), *inside, *outside, wind, still, emissivity]


def _film(side: int, standard_h: float, standard: bool) -> tuple[float, float, float]:
    """Least coefficient, span, and the sign of its ramp; see `elements.film`."""
    if standard:
        return standard_h, 0.0, 0.0
    if side == UPRIGHT:
        return 2.5, 0.0, 0.0
    return 0.7, 4.3, -kernel.PER_BAND if side == LOOKS_DOWN else kernel.PER_BAND


def _given(cases: Sequence[dict[str, Any]], columns: dict[str, int], fields: int) -> Series:
    """A table of what cases give, by thing, field and lane; all else in it is zero."""
    values = np.array([[case[name] for name in columns] for case in cases], dtype=float)
    table = np.zeros((values.shape[2], fields, len(cases)))
    table[:, list(columns.values())] = values.transpose(2, 1, 0)
    return table


def _element_table(cases: Sequence[Arrays], shared: Series) -> Series:
    p = _given([case.element for case in cases], GIVEN_ELEMENT, len(E))
    if not cases[0].standard:
        open_air = cases[0].element["kind"] == OUTDOORS
        p[open_air, int(E.sees_sky)] = np.array([(c.element["emissivity"] * c.element["sky_view"])[open_air] for c in cases]).T
    p[:, int(E.hc_in)], p[:, int(E.hc_out)] = shared[:, [int(S.low)]], shared[:, [int(S.low_out)]]
    return p


def _zone_table(cases: Sequence[Arrays], limits: Sequence[Limits]) -> Series:
    q = _given([case.zone for case in cases], GIVEN_ZONE, len(Z))
    q[:, int(Z.air)] = q[:, int(Z.star)] = 20.0
    q[:, int(Z.vapour)] = 0.006
    if limits:
        for field, of in ((Z.warm_c, "warm_c"), (Z.warm_adapts, "adapts"), (Z.cold_c, "cold_c")):
            q[:, int(field)] = np.array([getattr(lane, of) for lane in limits]).T
    else:
        q[:, int(Z.warm_c)], q[:, int(Z.cold_c)] = 1e9, -1e9
    return q


def light_of(cases: Sequence[Arrays]) -> Ints:
    """Where the light of each lane stands, (rows * L): absorbed sun by row, sun through glass by zone, and the swing of the outdoor year.

    Cases of a study share most of their light, and what is read sixteen times from one place is at hand.
    """
    at: dict[int, int] = {}

    def place(row: Series) -> int:
        return at.get(id(row)) or at.setdefault(id(row), address_of(row))

    def zones(of: Series) -> range:
        first = place(of)
        return range(first, first + of.nbytes, of[0].nbytes)

    return whole([[*map(place, c.sun_outside), *zones(c.solar), place(c.ground_k)] for c in cases]).T.ravel()


@dataclass(frozen=True, eq=False)
class UnitSeries:
    """Where each lane's unit series stand, (L,), the row of each zone in them, (Z,), its scales, (Z * n * L), and the series themselves, so that they stay."""

    at: Ints
    row: Ints
    scales: Series
    held: Sequence[Series]


def unit_series(of: Sequence[UseSeries | GainSeries], scales: Sequence[Series]) -> UnitSeries:
    """Lay out what use asks, or what heats zones; lanes whose zones share rows otherwise than the first one's get a row for each zone."""
    row = of[0].row
    if all(np.array_equal(one.row, row) for one in of):
        held = [one.stacked for one in of]
    else:
        held = [one.by_zone for one in of]
        row = whole(np.arange(len(row)))
    return UnitSeries(
        whole([address_of(one) for one in held]), row, np.array([scale.T for scale in scales]).transpose(1, 2, 0).ravel(), held
    )
