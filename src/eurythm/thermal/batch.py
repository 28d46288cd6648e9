"""Many cases at once: which may stand side by side, and what a table of cases needs of each."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Sequence

from eurythm.climate.year import HOURS
from eurythm.thermal import kernel
from eurythm.thermal.balance import ZONE_SUMS, Course, balance, course_of, not_finite
from eurythm.thermal.comfort import Limits
from eurythm.thermal.kernel import Z
from eurythm.thermal.layout import Answer, run_lanes
from eurythm.thermal.prepare import Arrays

FEW = 4
"""Up to this many cases go one by one: a batch would run mostly empty lanes."""


def batch_key(arrays: Arrays) -> Hashable:
    """Return what two cases must have in common to share a batch: elements, zones and their systems, air paths, weather, steps."""
    return (
        arrays.climate,
        id(arrays.weather),  # kept once for each climate, place and step
        arrays.substeps,
        arrays.run_in_h,
        arrays.first_h,
        arrays.hours,
        arrays.standard,
        arrays.refine,
        arrays.system.tobytes(),
        tuple(path[:2] for path in arrays.paths),
        tuple(
            (s.kind, s.zone_in, s.zone_out, s.side_in, s.side_out, s.standard_in, s.standard_out, s.emissivity, s.sun is not None)
            for s in arrays.elements
        ),
    )


def balance_many(cases: Sequence[Arrays], limits: Sequence[Limits]) -> list[Course]:
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
        wide = kernel.LANES[-1]
        for start in range(0, len(members), wide):
            lot = members[start : start + wide]
            if len(lot) <= FEW:
                made = [course_of(cases[i], balance(cases[i]), limits[i]) for i in lot]
            else:
                made = _side_by_side([cases[i] for i in lot], [limits[i] for i in lot])
            courses |= dict(zip(lot, made, strict=True))
    return [courses[i] for i in range(len(cases))]


def _side_by_side(cases: list[Arrays], limits: list[Limits]) -> list[Course]:
    lanes = next(n for n in kernel.LANES if n >= len(cases))
    answer = run_lanes(cases, lanes, limits)
    return [_course(answer, k, case) for k, case in enumerate(cases)]


def _course(answer: Answer, lane: int, case: Arrays) -> Course:
    sound = answer.sound(lane)
    if not sound.all():
        raise not_finite(case, sound)
    return Course(
        systems=answer.by_system(lane),
        too_warm_h=answer.of(Z.warm_h, lane).copy(),
        too_cold_h=answer.of(Z.cold_h, lane).copy(),
        zones={name: answer.of(field, lane).copy() for name, field in ZONE_SUMS.items()} | {"air_c": answer.of(Z.air_h, lane) / HOURS},
        closure=answer.closure(lane),
        drift=answer.drift(lane),
    )
