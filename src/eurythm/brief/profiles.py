"""Shipped use profiles. Every value is our own assumption in the range of EN 16798-1 annexes (unverified)."""

from __future__ import annotations

from eurythm.model.field import OWN
from eurythm.model.library import Profile, Schedule

SOURCE = f"{OWN}; order of size of EN 16798-1 annex C (unverified)"


def _day(*spans: tuple[int, int, float]) -> tuple[float, ...]:
    """Spell a day by spans (from hour, to hour, value); later spans stand over earlier ones."""
    hours = [0.0] * 24
    for start, end, value in spans:
        hours[start:end] = [value] * (end - start)
    return tuple(hours)


def _week(weekday: tuple[float, ...], saturday: tuple[float, ...] | None = None, sunday: tuple[float, ...] | None = None) -> Schedule:
    closed = _day()
    return Schedule(weekday=weekday, saturday=saturday or closed, sunday=sunday or closed)


PROFILES: tuple[Profile, ...] = (
    Profile(
        id="library",
        name="Library, reading",
        occupancy=_week(_day((9, 20, 0.5), (11, 18, 0.8)), _day((10, 17, 0.7)), _day((12, 16, 0.3))),
        person_area=8.0,
        lighting=_week(_day((8, 21, 0.85)), _day((9, 18, 0.85)), _day((12, 16, 0.5))),
        lighting_w_m2=7.5,
        equipment=_week(_day((0, 24, 0.1), (8, 21, 0.8)), _day((0, 24, 0.1), (9, 18, 0.7)), _day((0, 24, 0.1), (12, 16, 0.4))),
        equipment_w_m2=4.0,
        heating_c=20.5,
        source=SOURCE,
    ),
    Profile(
        id="office",
        name="Office",
        occupancy=_week(_day((8, 18, 0.7), (12, 13, 0.4))),
        person_area=12.0,
        lighting=_week(_day((7, 19, 0.8))),
        lighting_w_m2=8.0,
        equipment=_week(_day((0, 24, 0.1), (8, 18, 0.8)), _day((0, 24, 0.1)), _day((0, 24, 0.1))),
        equipment_w_m2=9.0,
        heating_c=21.0,
        source=SOURCE,
    ),
    Profile(
        id="classroom",
        name="Classroom",
        occupancy=_week(_day((8, 16, 0.8), (12, 13, 0.3))),
        person_area=2.5,
        lighting=_week(_day((8, 16, 0.8))),
        lighting_w_m2=8.0,
        equipment=_week(_day((8, 16, 0.7))),
        equipment_w_m2=4.0,
        source=SOURCE,
    ),
    Profile(
        id="dwelling",
        name="Dwelling",
        occupancy=_week(*[_day((0, 7, 1.0), (7, 17, 0.4), (17, 24, 0.9))] * 3),
        person_area=35.0,
        lighting=_week(*[_day((6, 8, 0.4), (17, 23, 0.6))] * 3),
        lighting_w_m2=5.0,
        equipment=_week(*[_day((0, 24, 0.4), (17, 22, 0.9))] * 3),
        equipment_w_m2=4.0,
        heating_setback_c=18.0,
        fresh_air_ls_m2=0.25,
        hot_water_l_person_day=40.0,
        source=SOURCE,
    ),
    Profile(
        id="workshop",
        name="Workshop",
        occupancy=_week(_day((9, 18, 0.6)), _day((10, 16, 0.5))),
        person_area=10.0,
        person_w=100.0,
        lighting=_week(_day((8, 19, 0.85)), _day((9, 17, 0.85))),
        lighting_w_m2=9.0,
        equipment=_week(_day((0, 24, 0.05), (9, 18, 0.6)), _day((0, 24, 0.05), (10, 16, 0.5)), _day((0, 24, 0.05))),
        equipment_w_m2=12.0,
        heating_c=18.0,
        comfort_low_c=16.0,
        fresh_air_ls_m2=0.7,
        source=SOURCE,
    ),
)
