"""Taking loads apart: what each source of heat gives to heating and cooling, exactly.

The year is run once more with everything recorded that it decides (films, flows, what the plants did); under that record
the balance is linear, and every source is run alone through the same matrices (`parts_kernel`). The parts add up to the
load in every hour, for the building with all zones solved together, and for each zone alone with its neighbours as a source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.thermal import parts_kernel as lane
from eurythm.thermal import tables
from eurythm.thermal.chains import modes_of
from eurythm.thermal.demands import NO_COOLING, NO_HEATING, RADIANT_SHARE, Demands
from eurythm.thermal.elements import ADIABATIC, FIXED, GROUND, LOOKS_DOWN, OUTDOORS, UPRIGHT, ZONE
from eurythm.thermal.kernel import MODES, Y
from eurythm.thermal.layout import PORTS, Answer, coefficients_of, fours_for, modes_at_start, run_lanes, shared_of, whole
from eurythm.thermal.prepare import SIDES, Arrays, ElementSpec

Series = NDArray[np.float64]
SOURCES = (
    "people", "lighting", "equipment", *(f"sun_{side}" for side in SIDES),
    "walls", "roofs", "floors", "windows", "ground", "bridges", "infiltration", "ventilation", "airing", "setpoints", "neighbours", "start",
)  # fmt: skip
"""What heat comes from, in the order of all arrays of parts. Fixed gains count as equipment."""
USES = ("heating", "cooling")


@dataclass(frozen=True, eq=False)
class Parts:
    """Parts of heating and cooling demand; a part that lowers the demand is negative.

    Attributes
    ----------
    by_hour : (2, S, 8760) W, the building's heating and cooling by source
    load_w : (2, 8760) W, what the parts add up to, from the run that was taken apart
    zones_by_month : (Z, 2, S, 12) kWh
    zones_at : (Z, 2, 2, S) W: heating and cooling, at the zone's own peak hour and at the building's
    zone_load_w : (Z, 2, 8760) W, the zones' heating and cooling
    peak_hours : (Z, 2) the zones' own peak hours; `building_peaks` (2,) the building's
    """

    by_hour: Series
    load_w: Series
    zones_by_month: Series
    zones_at: Series
    zone_load_w: Series
    peak_hours: NDArray[np.int64]
    building_peaks: NDArray[np.int64]


def take_apart(arrays: Arrays, sun_by_side: dict[str, Series]) -> Parts:
    """Run the year and take its loads apart by source.

    Parameters
    ----------
    sun_by_side : sun through glass by the side that it looks to, each (Z, 8760) W; together `arrays.solar`
    """
    made = run_lanes([arrays], 1, keep=True, record=True)
    load = made.by_system()[:, [int(Y.heating), int(Y.cooling)]].sum(axis=0)
    zone_load = made.kept[2:4]
    peaks, zone_peaks = load.argmax(axis=1), zone_load.argmax(axis=2).T
    hours = np.concatenate([zone_peaks, np.broadcast_to(peaks, zone_peaks.shape)], axis=1)  # (Z, 4)
    sun = np.stack([sun_by_side[side] for side in SIDES])
    by_hour, _, _ = _run(arrays, made, sun, hours, together=True)
    _, at, by_month = _run(arrays, made, sun, hours, together=False)
    zones = len(arrays.zone_ids)
    return Parts(
        by_hour=by_hour,
        load_w=load,
        zones_by_month=by_month.reshape(zones, 2, lane.PARTS, 12) / 1000.0,
        zones_at=at.reshape(zones, 2, 2, lane.PARTS).transpose(0, 2, 1, 3),
        zone_load_w=np.ascontiguousarray(zone_load.transpose(1, 0, 2)),
        peak_hours=zone_peaks,
        building_peaks=peaks,
    )


def _run(arrays: Arrays, made: Answer, sun: Series, hours: NDArray[np.int64], together: bool) -> tuple[Series, Series, Series]:
    assert made.record is not None
    specs, element = arrays.elements, arrays.element
    seen = [(e, False) for e in range(len(specs))]
    if not together:  # an element between zones is seen from either side
        seen += [(e, True) for e, s in enumerate(specs) if s.kind == ZONE]
    source, flip = np.array([e for e, _ in seen]), np.array([turned for _, turned in seen])
    dt_s = 3600.0 / arrays.substeps
    chains = [modes_of(tuple(reversed(specs[e].layers)) if turned else specs[e].layers, dt_s, arrays.refine) for e, turned in seen]
    fours = [fours_for([c]) for c in chains]
    starts = [arrays.start_c[e][::-1] if turned else arrays.start_c[e] for e, turned in seen]
    coefficients = [coefficients_of(c, n) for c, n in zip(chains, fours, strict=True)]
    near = {name: np.where(flip, element[f"{name}_out"][source], element[f"{name}_in"][source]) for name in ("zone", "share", "radiant")}
    far = {name: np.where(flip, element[f"{name}_in"][source], element[f"{name}_out"][source]) for name in ("zone", "share", "radiant")}
    fields = {name: element[name][source] for name in ("area", "ground_h", "ground_swing", "fixed_h", "fixed_e")}
    fields["sees_sky"] = np.where(_open_air(arrays), element["emissivity"] * element["sky_view"], 0.0)[source]
    fields |= {f"{name}_own": near[name] for name in ("share", "radiant")} | {f"{name}_far": far[name] for name in ("share", "radiant")}
    fields |= dict(zip(("g11", "g12", "g22"), np.array([c.answers for c in chains])[:, PORTS].T, strict=True))
    between = whole([i for i, (e, _) in enumerate(seen) if specs[e].kind == ZONE and together])
    convective, radiant = _gains(arrays.asked)
    zones = len(arrays.zone_ids)
    compiled: Any = lane.run_parts
    found: tuple[Series, Series, Series] = compiled(
        tables.PartChains(
            np.concatenate([c.ravel() for c in coefficients]),
            np.concatenate([modes_at_start(c, start, n) for c, start, n in zip(chains, starts, fours, strict=True)]),
            np.concatenate([modes_at_start(c, np.ones(c.project.shape[1]), n) for c, n in zip(chains, fours, strict=True)]),
            whole(np.concatenate([[0], np.cumsum([c.size for c in coefficients])[:-1]])), whole(fours),
            whole(np.concatenate([[0], np.cumsum([n * int(MODES) for n in fours])[:-1]])), np.zeros(sum(fours) * int(MODES) * lane.LANES),
        ),
        tables.PartElements(
            np.array([shared_of(s, arrays.standard) for s in specs]).ravel(), _by_column(fields, tables.PART_ELEMENT_COLUMNS).ravel(),
            np.zeros((6, len(seen) * lane.LANES)), np.zeros((6, len(seen))), near["zone"], far["zone"], between, element["sun_row"][source], whole(source), flip,
            whole([_lane_of(specs[e]) for e, _ in seen]),
        ),
        tables.PartZones(
            _by_column(arrays.zone, tables.PART_ZONE_COLUMNS), references(arrays), np.stack([arrays.asked.heat_c, arrays.asked.cool_c]),
            convective, radiant, sun, whole(hours.ravel()), np.zeros((7, zones * lane.LANES)), np.zeros((4, zones)),
        ),
        tables.Joints(whole([p[0] for p in arrays.paths]), whole([p[1] for p in arrays.paths]), made.record.joints),
        tables.Weather(**arrays.weather),
        tables.Lit(np.stack(arrays.sun_outside), arrays.ground_k),
        tables.Recorded(made.record.films, made.record.zones),
        tables.PartSteps(together, arrays.substeps, arrays.run_in_h),
    )  # fmt: skip
    return found


def _by_column(fields: dict[str, Series], columns: Sequence[tables.Column]) -> Series:
    """Put fields into a table by its columns, (things, columns)."""
    return np.stack([fields[column.name] for column in columns], axis=1)


def _open_air(arrays: Arrays) -> NDArray[np.bool_]:
    open_air: NDArray[np.bool_] = (arrays.element["kind"] == OUTDOORS) & (not arrays.standard)
    return open_air


def references(arrays: Arrays) -> Series:
    """Constants from which temperatures count, (2, Z) °C: each zone's heating setpoint by day, and its cooling setpoint.

    Zones without plant take the mean of the others, or 20 and 26 °C.
    """
    heat, cool = arrays.asked.heat_c.max(axis=1), arrays.asked.cool_c.min(axis=1)
    refs = []
    for found, none, fallback in ((heat, heat <= NO_HEATING, 20.0), (cool, cool >= NO_COOLING, 26.0)):
        some = found[~none]
        refs.append(np.where(none, some.mean() if len(some) else fallback, found))
    return np.stack(refs)


def _gains(asked: Demands) -> tuple[Series, Series]:
    """Convective and radiant parts of people, lighting and equipment with fixed gains, (3, Z, 8760) W."""
    kinds = list(RADIANT_SHARE)
    radiant = [share * asked.gains[kind] for kind, share in RADIANT_SHARE.items()]
    convective = [asked.gains[kind] - part for kind, part in zip(kinds, radiant, strict=True)]
    radiant[2] = radiant[2] + asked.fixed_radiant
    convective[2] = convective[2] + asked.gains["fixed"] - asked.fixed_radiant
    return np.stack(convective), np.stack(radiant)


def _lane_of(spec: ElementSpec) -> int:
    """Which source of a family the outside of an element is."""
    if spec.glass:
        return lane.WINDOWS
    if spec.kind == GROUND:
        return lane.GROUND
    if spec.kind == FIXED:
        return lane.NEIGHBOURS
    if spec.kind in (ZONE, ADIABATIC):
        return lane.START
    if spec.side_in == UPRIGHT:
        return lane.WALLS
    return lane.ROOFS if spec.side_in == LOOKS_DOWN else lane.FLOORS
