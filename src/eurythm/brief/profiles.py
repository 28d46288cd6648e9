"""Shipped use profiles. Every value is our own assumption in the range of EN 16798-1 annexes (unverified)."""

from __future__ import annotations

from typing import Any

from eurythm.model.field import OWN
from eurythm.model.library import Profile
from eurythm.model.reading import read_document
from eurythm.model.schedule import Schedule

SOURCE = f"{OWN}; order of size of EN 16798-1 annex C (unverified)"
FIRST_SKETCH = f"{OWN} for a first sketch"
Spans = tuple[tuple[int, int, float], ...]


def _day(base: float, spans: Spans) -> list[float]:
    """Spell a day by spans (from hour, to hour, value) over what stands at all hours; later spans stand over earlier ones."""
    hours = [base] * 24
    for start, end, value in spans:
        hours[start:end] = [value] * (end - start)
    return hours


def _opened(weekday: Spans, saturday: Spans | None = None, sunday: Spans | None = None, base: float = 0.0) -> Schedule:
    """Weekdays, and Saturdays and Sundays where there are; closed otherwise, and on holidays and in closures."""
    days = [("weekday", "Weekday", weekday), ("closed", "Closed", ())]
    shut: list[str] = []
    rules: list[dict[str, Any]] = []
    for name, spans in (("saturday", saturday), ("sunday", sunday)):
        if spans is None:
            shut.append(name)
        else:
            days.insert(-1, (name, name.capitalize(), spans))
            rules.append({"id": f"{name}s", "day": name, "weekdays": [name]})
    if shut:
        rules.append({"id": "weekends", "day": "closed", "weekdays": shut})
    rules += [{"id": "holidays", "day": "closed", "on": "holidays"}, {"id": "closures", "day": "closed", "on": "closures"}]
    listed = [{"id": id, "name": name, "values": _day(base, spans)} for id, name, spans in days]
    return read_document(Schedule, {"days": listed, "rules": rules})


def _daily(spans: Spans, base: float = 0.0, weekend: Spans | None = None) -> Schedule:
    """Every day alike, or weekends and holidays otherwise; whatever is closed in the calendar, it goes on."""
    days: list[dict[str, Any]] = [{"id": "day", "name": "Every day", "values": _day(base, spans)}]
    rules: list[dict[str, Any]] = []
    if weekend is not None:
        days[0]["name"] = "Weekday"
        days.append({"id": "weekend", "name": "Weekend", "values": _day(base, weekend)})
        rules = [
            {"id": "weekends", "day": "weekend", "weekdays": ["saturday", "sunday"]},
            {"id": "holidays", "day": "weekend", "on": "holidays"},
        ]
    return read_document(Schedule, {"days": days, "rules": rules})


PROFILES: tuple[Profile, ...] = (
    Profile(
        id="library",
        name="Library, reading",
        occupancy=_opened(((9, 20, 0.5), (11, 18, 0.8)), ((10, 17, 0.7),), ((12, 16, 0.3),)),
        person_area=8.0,
        lighting=_opened(((8, 21, 0.85),), ((9, 18, 0.85),), ((12, 16, 0.5),)),
        lighting_w_m2=7.5,
        equipment=_opened(((8, 21, 0.8),), ((9, 18, 0.7),), ((12, 16, 0.4),), base=0.1),
        equipment_w_m2=4.0,
        heating_c=20.5,
        source=SOURCE,
    ),
    Profile(
        id="office",
        name="Office, open",
        occupancy=_opened(((8, 18, 0.7), (12, 13, 0.4))),
        person_area=12.0,
        lighting=_opened(((7, 19, 0.8),)),
        lighting_w_m2=8.0,
        equipment=_opened(((8, 18, 0.8),), base=0.1),
        equipment_w_m2=9.0,
        heating_c=21.0,
        source=SOURCE,
    ),
    Profile(
        id="office-cell",
        name="Office, cell",
        occupancy=_opened(((8, 18, 0.6), (12, 13, 0.2))),
        person_area=15.0,
        lighting=_opened(((8, 18, 0.7),)),
        lighting_w_m2=8.5,
        equipment=_opened(((8, 18, 0.7),), base=0.1),
        equipment_w_m2=8.0,
        heating_c=21.0,
        source=SOURCE,
    ),
    Profile(
        id="meeting",
        name="Meeting room",
        occupancy=_opened(((9, 12, 0.6), (13, 17, 0.5))),
        person_area=3.0,
        lighting=_opened(((9, 12, 0.7), (13, 17, 0.7))),
        lighting_w_m2=9.0,
        equipment=_opened(((9, 12, 0.6), (13, 17, 0.6)), base=0.05),
        equipment_w_m2=5.0,
        heating_c=21.0,
        source=SOURCE,
    ),
    Profile(
        id="classroom",
        name="Classroom",
        occupancy=_opened(((8, 16, 0.8), (12, 13, 0.3))),
        person_area=2.5,
        lighting=_opened(((8, 16, 0.8),)),
        lighting_w_m2=8.0,
        equipment=_opened(((8, 16, 0.7),)),
        equipment_w_m2=4.0,
        source=SOURCE,
    ),
    Profile(
        id="lecture-hall",
        name="Lecture hall",
        occupancy=_opened(((8, 12, 0.6), (13, 18, 0.6))),
        person_area=1.2,
        lighting=_opened(((8, 18, 0.8),)),
        lighting_w_m2=10.0,
        equipment=_opened(((8, 18, 0.5),), base=0.05),
        equipment_w_m2=4.0,
        source=SOURCE,
    ),
    Profile(
        id="laboratory",
        name="Laboratory",
        occupancy=_opened(((8, 18, 0.6), (12, 13, 0.4))),
        person_area=12.0,
        person_w=85.0,
        lighting=_opened(((7, 19, 0.9),)),
        lighting_w_m2=10.0,
        equipment=_opened(((8, 18, 0.7),), base=0.3),
        equipment_w_m2=20.0,
        heating_c=21.0,
        cooling_c=25.0,
        fresh_air_ls_m2=5.0,
        fresh_air=_daily(((7, 19, 1.0),), base=0.3),
        source=f"{FIRST_SKETCH}; outdoor air of order of size of 25 m³/h·m² in common use (unverified)",
    ),
    Profile(
        id="ward",
        name="Ward",
        occupancy=_daily(((0, 24, 0.8), (14, 18, 1.0))),
        person_area=12.0,
        person_w=70.0,
        lighting=_daily(((6, 22, 0.6),), base=0.05),
        lighting_w_m2=7.0,
        equipment=_daily(((7, 21, 0.7),), base=0.4),
        equipment_w_m2=5.0,
        heating_c=22.0,
        heating_setback_c=22.0,
        cooling_c=25.0,
        cooling_setback_c=25.0,
        fresh_air_ls_person=12.0,
        hot_water_l_person_day=60.0,
        hot_water=_daily(((6, 9, 1.0), (11, 13, 0.5), (17, 20, 0.7)), base=0.1),
        source=FIRST_SKETCH,
    ),
    Profile(
        id="hotel-room",
        name="Hotel room",
        occupancy=_daily(((0, 8, 0.7), (8, 17, 0.15), (17, 21, 0.4), (21, 24, 0.7))),
        person_area=15.0,
        person_w=70.0,
        lighting=_daily(((6, 9, 0.4), (17, 24, 0.5))),
        lighting_w_m2=6.0,
        equipment=_daily(((6, 9, 0.5), (17, 24, 0.6)), base=0.15),
        equipment_w_m2=4.0,
        heating_c=21.0,
        heating_setback_c=18.0,
        cooling_c=25.0,
        cooling_setback_c=29.0,
        hot_water_l_person_day=60.0,
        hot_water=_daily(((6, 9, 1.0), (17, 23, 0.4)), base=0.05),
        source=FIRST_SKETCH,
    ),
    Profile(
        id="dwelling",
        name="Dwelling",
        occupancy=_daily(((0, 7, 1.0), (7, 17, 0.4), (17, 24, 0.9))),
        person_area=35.0,
        lighting=_daily(((6, 8, 0.4), (17, 23, 0.6))),
        lighting_w_m2=5.0,
        equipment=_daily(((17, 22, 0.9),), base=0.4),
        equipment_w_m2=4.0,
        heating_setback_c=18.0,
        fresh_air_ls_m2=0.25,
        hot_water_l_person_day=40.0,
        source=SOURCE,
    ),
    Profile(
        id="shop",
        name="Shop",
        occupancy=_opened(((9, 20, 0.3), (11, 18, 0.5)), ((9, 18, 0.7),)),
        person_area=7.0,
        person_w=85.0,
        lighting=_opened(((8, 20, 0.95),), ((8, 19, 0.95),), base=0.02),
        lighting_w_m2=14.0,
        equipment=_opened(((8, 20, 0.8),), ((8, 19, 0.8),), base=0.15),
        equipment_w_m2=5.0,
        cooling_c=25.0,
        hot_water_l_person_day=1.0,
        source=FIRST_SKETCH,
    ),
    Profile(
        id="restaurant",
        name="Restaurant",
        occupancy=_opened(((11, 15, 0.6), (15, 18, 0.2), (18, 23, 0.7)), ((11, 15, 0.7), (15, 18, 0.3), (18, 24, 0.9)), ((11, 16, 0.6),)),
        person_area=2.0,
        lighting=_opened(((10, 23, 0.9),), ((10, 24, 0.9),), ((10, 17, 0.9),)),
        lighting_w_m2=9.0,
        equipment=_opened(((10, 23, 0.6),), ((10, 24, 0.6),), ((10, 17, 0.6),), base=0.1),
        equipment_w_m2=6.0,
        cooling_c=25.0,
        hot_water_l_person_day=8.0,
        source=FIRST_SKETCH,
    ),
    Profile(
        id="kitchen",
        name="Kitchen, commercial",
        occupancy=_opened(((9, 15, 0.8), (16, 22, 0.8)), ((9, 15, 0.8), (16, 23, 0.9)), ((9, 16, 0.8),)),
        person_area=8.0,
        person_w=110.0,
        person_moisture_g_h=120.0,
        lighting=_opened(((8, 23, 0.9),), ((8, 23, 0.9),), ((8, 17, 0.9),)),
        lighting_w_m2=12.0,
        equipment=_opened(((9, 15, 0.4), (16, 22, 0.4)), ((9, 15, 0.4), (16, 23, 0.45)), ((9, 16, 0.4),), base=0.08),
        equipment_w_m2=90.0,
        heating_c=18.0,
        comfort_low_c=16.0,
        comfort_high_c=30.0,
        cooling_c=28.0,
        fresh_air_ls_m2=15.0,
        hot_water_l_person_day=100.0,
        source=f"{FIRST_SKETCH}; half of the appliances' heat is taken by hoods",
    ),
    Profile(
        id="sports-hall",
        name="Sports hall",
        occupancy=_opened(((8, 15, 0.4), (15, 22, 0.6)), ((9, 20, 0.5),), ((10, 18, 0.4),)),
        person_area=20.0,
        person_w=140.0,
        person_moisture_g_h=200.0,
        lighting=_opened(((8, 22, 0.8),), ((9, 20, 0.8),), ((10, 18, 0.8),)),
        lighting_w_m2=9.0,
        equipment=_opened(((8, 22, 0.3),), ((9, 20, 0.3),), ((10, 18, 0.3),)),
        equipment_w_m2=1.0,
        heating_c=17.0,
        comfort_low_c=15.0,
        heating_setback_c=13.0,
        fresh_air_ls_person=14.0,
        hot_water_l_person_day=25.0,
        source=FIRST_SKETCH,
    ),
    Profile(
        id="workshop",
        name="Workshop",
        occupancy=_opened(((9, 18, 0.6),), ((10, 16, 0.5),)),
        person_area=10.0,
        person_w=100.0,
        lighting=_opened(((8, 19, 0.85),), ((9, 17, 0.85),)),
        lighting_w_m2=9.0,
        equipment=_opened(((9, 18, 0.6),), ((10, 16, 0.5),), base=0.05),
        equipment_w_m2=12.0,
        heating_c=18.0,
        comfort_low_c=16.0,
        fresh_air_ls_m2=0.7,
        source=SOURCE,
    ),
    Profile(
        id="store",
        name="Store",
        occupancy=_opened(((8, 18, 0.1),)),
        person_area=100.0,
        lighting=_opened(((8, 18, 0.2),)),
        lighting_w_m2=4.0,
        equipment=_daily((), base=0.0),
        equipment_w_m2=1.0,
        heating_c=15.0,
        comfort_low_c=12.0,
        heating_setback_c=12.0,
        cooling_c=32.0,
        cooling_setback_c=40.0,
        fresh_air_ls_m2=0.15,
        hot_water_l_person_day=0.0,
        source=FIRST_SKETCH,
    ),
    Profile(
        id="corridor",
        name="Corridor, stairs",
        occupancy=_opened(((8, 18, 0.3),)),
        person_area=50.0,
        lighting=_opened(((7, 19, 0.8),), base=0.05),
        lighting_w_m2=5.0,
        equipment=_daily((), base=0.0),
        equipment_w_m2=1.0,
        heating_c=18.0,
        comfort_low_c=16.0,
        fresh_air_ls_m2=0.2,
        hot_water_l_person_day=0.0,
        source=FIRST_SKETCH,
    ),
    Profile(
        id="car-park",
        name="Car park, unheated",
        conditioned=False,
        occupancy=_daily(((6, 22, 0.1),)),
        person_area=200.0,
        lighting=_daily(((6, 22, 0.8),), base=0.3),
        lighting_w_m2=2.5,
        equipment=_daily((), base=0.0),
        equipment_w_m2=1.0,
        fresh_air_ls_m2=1.7,
        fresh_air_ls_person=0.0,
        hot_water_l_person_day=0.0,
        source=f"{FIRST_SKETCH}; outdoor air of order of size of 6 m³/h·m² (unverified)",
    ),
)
