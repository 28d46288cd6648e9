"""Calendar and schedules: which day holds when, the short form, tables of 8,760 values, gbXML, shipped uses."""

from __future__ import annotations

import datetime
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from eurythm.brief.calendar import YearDays, countries, holding, hourly, proposed_holidays, year_beginning_on, year_days
from eurythm.brief.profiles import PROFILES
from eurythm.brief.resolve import ZoneBrief, days_of, resolve, zone_brief
from eurythm.brief.systems import zone_airs
from eurythm.climate.standin import standin_year
from eurythm.climate.year import ClimateYear
from eurythm.exchange.exporting import export
from eurythm.exchange.gbxml.schedules import weeks_of
from eurythm.exchange.hours import hours_csv, hours_xlsx, read_hours
from eurythm.exchange.importing import settled_bundle
from eurythm.exchange.intake.sift import Sift
from eurythm.exchange.readers import read
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import dump, read_document
from eurythm.model.schedule import Calendar, Schedule, date_of, day_number, week
from eurythm.simulate import size
from tests.conftest import make_scheme, run_scheme, volume

MONDAY_YEAR = year_days(Calendar(), 0)


def days(**calendar: Any) -> YearDays:
    return year_days(read_document(Calendar, calendar), 0)


def day(value: float) -> list[float]:
    return [value] * 24


def schedule(**parts: Any) -> Schedule:
    return read_document(Schedule, parts)


def brief_of(profile: dict[str, Any], place: Place | None = None, **use: Any) -> ZoneBrief:
    whole = {
        "id": "own", "name": "Own", "occupancy": {"weekday": day(1)}, "lighting": {"weekday": day(1)}, "equipment": {"weekday": day(1)},
        "person_area": 10, **profile,
    }  # fmt: skip
    library = read_document(Library, {"profiles": [whole]})
    scheme = make_scheme(volumes=[volume()], use={"profile": "own", **use})
    made = resolve(place or Place(), library, scheme, standin_year("merrowhaven"))
    return zone_brief(
        made.shelf,
        made.scheme,
        made.climate,
        days_of(made.place, made.climate),
        "v1/s0/all",
        "Bar, storey 0",
        None,
        zone_airs(scheme.plant, ["v1/s0/all"])[0],
    )


def test_a_schedule_by_days_follows_the_week() -> None:
    series = hourly(schedule(weekday=day(1), saturday=day(2), sunday=day(3)), MONDAY_YEAR)
    assert series[:24].tolist() == [1] * 24
    assert series[5 * 24] == 2
    assert series[6 * 24] == 3
    assert series[7 * 24] == 1


def test_missing_days_are_the_ones_before_them() -> None:
    assert hourly(schedule(weekday=day(1)), MONDAY_YEAR).max() == 1
    weekend = hourly(schedule(weekday=day(1), saturday=day(2)), MONDAY_YEAR)
    assert weekend[6 * 24] == 2
    sunday = hourly(schedule(weekday=day(1), sunday=day(3)), MONDAY_YEAR)
    assert (sunday[5 * 24], sunday[6 * 24]) == (1, 3)


def test_a_schedule_may_give_every_hour() -> None:
    series = tuple(float(i % 7) for i in range(8760))
    assert hourly(schedule(hourly=series), MONDAY_YEAR).tolist() == list(series)


@pytest.mark.parametrize(("wrong", "where"), [
    ({}, ""), ({"weekday": [1.0] * 23}, "values"), ({"weekday": [1.0] * 24, "hourly": [0.0] * 8760}, ""), ({"hourly": [0.0] * 8759}, "hourly"),
    ({"saturday": [1.0] * 24}, ""), ({"days": [{"id": "a", "values": [1.0] * 24}], "rules": [{"id": "r", "day": "b"}]}, ""),
    ({"days": [{"id": "a", "values": [1.0] * 23}]}, "values"),
    ({"days": [{"id": "a", "values": [1.0] * 24}], "rules": [{"id": "r", "day": "a", "first": "02-29"}]}, "first"),
])  # fmt: skip
def test_a_schedule_is_one_kind_of_whole(wrong: dict, where: str) -> None:
    with pytest.raises(EurythmError) as fault:
        read_document(Schedule, wrong)
    assert where in fault.value.path


def test_the_last_rule_that_fits_counts() -> None:
    rules = [
        {"id": "weekend", "day": "shut", "weekdays": ["saturday", "sunday"]},
        {"id": "fair", "day": "long", "first": "06-01", "last": "06-14"},
        {"id": "feast", "day": "shut", "on": "holidays"},
    ]
    made = schedule(days=[{"id": n, "values": day(v)} for n, v in (("open", 1), ("shut", 0), ("long", 2))], rules=rules)
    holds, by = holding(made, days(holidays=[{"id": "h", "date": "06-04"}]))
    assert (holds[0], by[0]) == (0, -1)
    assert (holds[5], by[5]) == (1, 0)
    fair = day_number("06-01")
    assert set(holds[fair : fair + 14]) == {1, 2}
    assert (holds[fair + 3], by[fair + 3]) == (1, 2)
    assert (holds == 2).sum() == 13


def test_closures_run_over_new_year_and_may_overlap() -> None:
    closed = days(closures=[{"id": "a", "first": "12-24", "last": "01-06"}, {"id": "b", "first": "01-02", "last": "01-08"}]).closed
    assert closed.sum() == 8 + 8
    assert closed[0]
    assert closed[-1]
    assert not closed[8]


def test_a_year_begins_on_the_weekday_that_the_calendar_says() -> None:
    assert days(begins_on="sunday").weekday[:2].tolist() == [6, 0]
    assert year_days(Calendar(), 3).weekday[0] == 3


@pytest.mark.parametrize(("date", "said"), [("02-29", "29 February"), ("13-01", "13-01"), ("04-31", "04-31"), ("1-1", "date")])
def test_dates_that_no_climate_year_has_are_refused(date: str, said: str) -> None:
    with pytest.raises(EurythmError) as fault:
        days(holidays=[{"id": "h", "date": date}])
    assert fault.value.path.endswith("date")
    assert said in fault.value.message or fault.value.path.endswith("date")


def test_dates_and_day_numbers_are_each_others() -> None:
    assert [date_of(day_number(d)) for d in ("01-01", "02-28", "03-01", "12-31")] == ["01-01", "02-28", "03-01", "12-31"]
    assert day_number("12-31") == 364


def test_holidays_are_proposed_in_a_year_that_begins_on_the_same_weekday() -> None:
    for weekday in range(7):
        year = year_beginning_on(weekday)
        assert datetime.date(year, 1, 1).weekday() == weekday
        assert year % 4
    known = countries()
    assert len(known) > 100
    found = proposed_holidays("DE", year_beginning_on(2))
    assert {"01-01", "12-25"} <= {h.date for h in found}
    read_document(Calendar, {"holidays": [dump(h) for h in found]})
    with pytest.raises(EurythmError, match="No holidays are known"):
        proposed_holidays("XX", 2025)


def test_a_summer_closure_takes_the_use_of_those_days(merrowhaven: ClimateYear) -> None:
    closed = read_document(Place, {"calendar": {"closures": [{"id": "summer", "first": "07-20", "last": "08-09"}]}})
    open_all, shut = (run_scheme(make_scheme(volumes=[volume()]), merrowhaven, place=p) for p in (None, closed))
    span = slice(day_number("07-20") * 24, (day_number("08-09") + 1) * 24)
    people = shut.arrays.asked.gains["people"].sum(axis=0)
    assert people[span].sum() == 0
    assert open_all.arrays.asked.gains["people"].sum(axis=0)[span].sum() > 0
    assert people.sum() == pytest.approx(
        open_all.arrays.asked.gains["people"].sum() - open_all.arrays.asked.gains["people"].sum(axis=0)[span].sum()
    )
    assert shut.outcome.totals["energy_kwh"]["lighting"] < open_all.outcome.totals["energy_kwh"]["lighting"]


def test_plant_is_sized_as_if_nothing_were_closed(merrowhaven: ClimateYear) -> None:
    closed = read_document(Place, {"calendar": {"closures": [{"id": "all", "first": "05-01", "last": "09-30"}]}})
    scheme = make_scheme(volumes=[volume()])
    loads = [size(p, Library(), scheme, Factors(), merrowhaven)["cooling"]["load_w"] for p in (Place(), closed)]
    assert loads[1] == pytest.approx(loads[0], rel=1e-9)


def test_setpoints_air_water_and_windows_follow_their_own_schedules() -> None:
    night = [0.0] * 8 + [1.0] * 4 + [0.0] * 12
    asked = brief_of(
        {
            "heating": {"weekday": [17.0] * 6 + [21.0] * 12 + [17.0] * 6}, "cooling": {"weekday": [28.0] * 12 + [25.0] * 12},
            "fresh_air": {"weekday": night}, "hot_water": {"weekday": night}, "airing": {"weekday": night},
            "fresh_air_ls_person": 8.0, "fresh_air_ls_m2": 0.4, "hot_water_l_person_day": 12.0,
        },
        airing={"openable_share": 0.2, "opens_above_c": 23},
    )  # fmt: skip
    assert asked.heating_c[:24].tolist() == [17.0] * 6 + [21.0] * 12 + [17.0] * 6
    assert asked.cooling_c[:24].tolist() == [28.0] * 12 + [25.0] * 12
    assert asked.fresh_air[8] == pytest.approx(8.0 / 10 + 0.4)
    assert asked.fresh_air[7] == 0
    assert asked.drawn[:24].sum() == pytest.approx(12.0 / 10)
    assert asked.drawn[8] == pytest.approx(0.3)
    assert (asked.open_c[9], asked.open_c[12] > 100) == (23, True)


def test_the_schemes_own_setpoint_stands_in_place_of_the_profiles_hours() -> None:
    course = {"heating": {"weekday": [17.0] * 6 + [21.0] * 12 + [17.0] * 6}, "cooling": {"weekday": [28.0] * 12 + [25.0] * 12}}
    asked = brief_of(course, heating_c=19.0, cooling_c=27.0)
    assert asked.heating_c[:24].tolist() == [17.0] * 6 + [19.0] * 12 + [17.0] * 6
    assert asked.cooling_c[:24].tolist() == [28.0] * 12 + [27.0] * 12
    assert brief_of(course, heating_c=16.0).heating_c.max() == 16.0


def test_setpoints_that_cross_in_one_hour_name_the_hour() -> None:
    crossed = [20.0] * 14 + [27.0] + [20.0] * 9
    with pytest.raises(EurythmError) as fault:
        brief_of({"heating": {"weekday": crossed}})
    assert fault.value.code == "setpoints-crossed"
    assert fault.value.path.startswith("library/profiles/own/")
    assert "14:00" in fault.value.message
    assert fault.value.message.startswith("In “Bar, storey 0” heating")


def test_shares_below_nothing_are_refused() -> None:
    with pytest.raises(EurythmError, match="below 0"):
        brief_of({"lighting": {"weekday": [-0.1] * 24}})


def test_shipped_uses_are_many_and_hold_what_a_year_asks(merrowhaven: ClimateYear) -> None:
    assert len(PROFILES) >= 15
    assert len({p.id for p in PROFILES}) == len(PROFILES)
    for profile in PROFILES:
        assert profile.source
        for name in ("occupancy", "lighting", "equipment"):
            values = getattr(profile, name).values
            assert 0 <= min(values) <= max(values) <= 1, (profile.id, name)
        made = run_scheme(make_scheme(volumes=[volume()], use={"profile": profile.id}), merrowhaven)
        totals = made.outcome.totals
        assert totals["energy_kwh"]["lighting"] > 0, profile.id
        assert (totals["heating_demand_kwh"] > 0) == profile.conditioned, profile.id


def test_a_year_of_changing_days_comes_back_from_its_weeks() -> None:
    """Through the weeks in which gbXML tells it: every day as it was, holidays and odd weeks among them."""
    rng = np.random.default_rng(3)
    kinds = rng.random((5, 24))
    for first in range(7):
        holds = rng.choice(5, 365, p=[0.7, 0.1, 0.1, 0.05, 0.05])
        table, weeks = weeks_of(kinds[holds].ravel(), first)
        told = np.full(365, -1)
        for one in weeks:
            for d in range(one.first, one.last + 1):
                told[d] = one.days[(first + d) % 7]
        assert np.array_equal(table[told], kinds[holds])


def test_schedules_go_out_as_gbxml_and_come_in_again(merrowhaven: ClimateYear, tmp_path: Path) -> None:
    """A school's year with terms, holidays and a closure: every hour as it was."""
    calendar = {
        "holidays": [{"id": "may", "date": "05-01"}, {"id": "oct", "date": "10-03"}],
        "closures": [{"id": "summer", "first": "07-15", "last": "08-25"}, {"id": "winter", "first": "12-22", "last": "01-04"}],
    }
    taught = week([0] * 8 + [0.8] * 7 + [0] * 9, [0] * 24, [0] * 24, [0] * 24)
    evening = {"id": "evening", "name": "Evening class", "values": [0] * 8 + [0.8] * 7 + [0] * 3 + [0.4] * 3 + [0] * 3}
    taught = {
        "days": [*taught["days"], evening],
        "rules": [{"id": "tuesdays", "day": "evening", "weekdays": ["tuesday"]}, *taught["rules"]],
    }
    profile = {"id": "school", "name": "School", "occupancy": taught, "lighting": taught, "equipment": taught, "person_area": 2.5}
    place = read_document(Place, {"climate": {"kind": "stand-in", "id": "merrowhaven"}, "calendar": calendar})
    library = read_document(Library, {"profiles": [profile]})
    scheme = make_scheme(volumes=[volume()], use={"profile": "school"})
    (tmp_path / "school.xml").write_bytes(export(place, library, scheme, Factors(), merrowhaven, "gbxml"))
    bundle, _ = settled_bundle(read(tmp_path / "school.xml", "school.xml"), Sift(), None)
    (back,) = bundle.library.profiles
    was, now = (hourly(p.occupancy, days_of(place, merrowhaven)) for p in (library.profiles[0], back))
    assert now == pytest.approx(was)
    assert len(back.occupancy.rules) < 60


def test_tables_of_the_hours_go_out_and_come_in_again() -> None:
    series = {"People": np.linspace(0, 1, 8760), "Heating setpoint °C": np.full(8760, 20.5)}
    for body, name in ((hours_csv(series).encode(), "t.csv"), (hours_xlsx(series), "t.xlsx")):
        people, heating = read_hours(body, name)
        assert people.head == "People"
        assert people.values == pytest.approx(series["People"], abs=1e-6)
        assert set(heating.values) == {20.5}


def test_a_column_without_head_is_read_with_decimal_commas_in_fahrenheit() -> None:
    body = "\n".join(f"{h % 24}:00;68,5" for h in range(8760)).encode()
    (column,) = read_hours(body, "t.csv", fahrenheit=True)
    assert column.values[0] == pytest.approx(20.2778, abs=1e-4)


@pytest.mark.parametrize(("rows", "code", "said"), [
    (["1"] * 8759, "not-a-year", "8,759"), (["1"] * 8761, "not-a-year", "8,761"), (["head", *["1"] * 8759], "not-a-year", "8,759"),
    (["1"] * 100 + ["x"] + ["1"] * 8659, "not-a-number", "row 101"), ([], "not-a-table", "no rows"), (["a", "b"], "not-a-year", "no column"),
])  # fmt: skip
def test_tables_that_are_no_year_are_refused(rows: list[str], code: str, said: str) -> None:
    with pytest.raises(EurythmError) as fault:
        read_hours("\n".join(rows).encode(), "t.csv")
    assert fault.value.code == code
    assert said in fault.value.message
